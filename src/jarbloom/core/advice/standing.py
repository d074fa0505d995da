"""Which jobs still stand: what was done, put off or skipped is told by entries of the kind `job`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime

from jarbloom.core.advice.said import Job
from jarbloom.core.journal.kinds.job import JobAnswered
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry


@dataclass(frozen=True)
class JobAnswer:
    """The last word about a job: until which day it is off the list, and why."""

    job: str
    title: str
    how: str  # done | skipped | snoozed
    at: datetime
    day: date
    until: date | None
    reason: str


def answers(entries: Sequence[Entry]) -> dict[str, JobAnswer]:
    return {
        e.body.job: JobAnswer(
            e.body.job, e.body.title or e.body.job, e.body.how, e.at, e.day, e.body.until, e.body.text
        )
        for e in Log.of(entries).kinds(JobAnswered)
    }


def stands(job: Job, answer: JobAnswer | None, now: datetime) -> bool:
    """A snoozed job stays away until its day; one that was done or skipped stays away for the rest of that day, and a
    job that protects animals stands again as soon as an hour has passed."""
    if answer is None:
        return True
    if answer.how == "snoozed":
        return job.protects or answer.until is None or answer.until <= now.date()
    if job.protects:
        return (now.astimezone(UTC) - answer.at.astimezone(UTC)).total_seconds() > 3600
    return answer.day < now.date()


def still_open(jobs: Sequence[Job], entries: Sequence[Entry], now: datetime) -> tuple[Job, ...]:
    told = answers(entries)
    return tuple(j for j in jobs if stands(j, told.get(j.key), now))
