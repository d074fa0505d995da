"""Which jobs still stand: what was done, put off or skipped is told by entries of the kind `job`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime

from jarbloom.core.advice.said import Job
from jarbloom.core.model.entry import Entry


@dataclass(frozen=True)
class JobAnswer:
    """The last word about a job: until which day it is off the list, and why."""

    how: str  # done | skipped | snoozed
    at: datetime
    until: date | None
    reason: str


def answers(entries: Sequence[Entry]) -> dict[str, JobAnswer]:
    found: dict[str, JobAnswer] = {}
    for e in sorted(entries, key=lambda e: (e.at, e.id)):
        if e.kind == "job" and e.state == "live":
            until = date.fromisoformat(e.body["until"]) if "until" in e.body else None
            found[e.body["job"]] = JobAnswer(e.body["how"], e.at, until, e.body.get("text", ""))
    return found


def stands(job: Job, answer: JobAnswer | None, now: datetime) -> bool:
    """A snoozed job stays away until its day; one that was done or skipped stays away for the rest of that day, and a
    job that protects animals stands again as soon as an hour has passed."""
    if answer is None:
        return True
    if answer.how == "snoozed":
        return job.protects or answer.until is None or answer.until <= now.date()
    if job.protects:
        return (now.astimezone(UTC) - answer.at.astimezone(UTC)).total_seconds() > 3600
    return answer.at.astimezone(now.tzinfo).date() < now.date()


def still_open(jobs: Sequence[Job], entries: Sequence[Entry], now: datetime) -> tuple[Job, ...]:
    told = answers(entries)
    return tuple(j for j in jobs if stands(j, told.get(j.key), now))
