"""Page data of the schedule: jobs by day."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Protocol

from jarbloom.core.advice.said import Job
from jarbloom.core.model.tank import Tank


class ListedRow(Protocol):
    @property
    def tank(self) -> Tank: ...
    @property
    def job(self) -> Job: ...


class PutOffRow(Protocol):
    @property
    def tank(self) -> Tank: ...
    @property
    def title(self) -> str: ...
    @property
    def until(self) -> date: ...


@dataclass(frozen=True)
class JobRow:
    slug: str
    tank: str
    job: Job


@dataclass(frozen=True)
class ScheduleDay:
    title: str
    rows: tuple[JobRow, ...]


@dataclass(frozen=True)
class Away:
    slug: str
    tank: str
    title: str
    until: str


class ToldRow(Protocol):
    @property
    def tank(self) -> Tank: ...
    @property
    def verdict(self) -> str: ...
    @property
    def batches(self) -> tuple[tuple[str, str, date], ...]: ...


@dataclass(frozen=True)
class ToldTank:
    """What is said of a tank, and its batches: (name, date in words, planned day in words)."""

    slug: str
    name: str
    verdict: str
    batches: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True)
class SchedulePage:
    call: str
    words: str
    days: tuple[ScheduleDay, ...]
    told: tuple[ToldTank, ...]
    away: tuple[Away, ...]


def schedule_page(
    listed: Sequence[ListedRow], told: Sequence[ToldRow], put_off: Sequence[PutOffRow], now: datetime
) -> SchedulePage:
    today = now.date()
    days: dict[date, list[JobRow]] = {}
    for x in listed:
        day = max(x.job.due.date(), today)
        days.setdefault(day, []).append(JobRow(x.tank.slug, x.tank.name, x.job))
    due = len(days.get(today, ()))
    later = sum(len(rows) for day, rows in days.items() if day > today)
    call = "Nothing is due today." if not due else f"{due} job{'s' if due > 1 else ''} today."
    words = f"{later} more in the days ahead." if later else ("Nothing else is on the list." if due else "")
    return SchedulePage(
        call,
        words,
        tuple(ScheduleDay(_title(d, today), tuple(rows)) for d, rows in sorted(days.items())),
        tuple(
            ToldTank(t.tank.slug, t.tank.name, t.verdict, tuple((n, w, f"{d:%a %-d %b}") for n, w, d in t.batches))
            for t in told
        ),
        tuple(Away(p.tank.slug, p.tank.name, p.title, f"{p.until:%a %-d %b}") for p in put_off),
    )


def _title(day: date, today: date) -> str:
    names = {today: "Today", today + timedelta(days=1): "Tomorrow"}
    return names.get(day, f"{day:%A %-d %B}")
