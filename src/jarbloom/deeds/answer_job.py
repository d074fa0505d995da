"""Answering jobs: done writes the log entry in the same step; put off and skipped are entries too."""

from __future__ import annotations

from datetime import date
from typing import Any

from jarbloom.core.advice.jobs import all_jobs
from jarbloom.core.advice.said import Job
from jarbloom.core.journal.kinds.job import JobAnswered
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.line.vocabulary import SURE
from jarbloom.deeds import look
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import Saved, log_line, setting_of
from jarbloom.deeds.set_up import tick_check
from jarbloom.errors import NotFound, Refused
from jarbloom.store import journal, tanks
from jarbloom.store.db import transaction

LONGEST_DAYS = 60


def job_of(desk: Desk, slug: str, key: str) -> Job:
    """The job as it stands now. Raises NotFound when nothing of that key is to be done any more."""
    found = next((j for j in all_jobs(look.see(desk, slug).situation) if j.key == key), None)
    if found is None:
        raise NotFound("That job is not on the list any more: it was done, or the tank has moved on.")
    return found


def done(desk: Desk, slug: str, key: str) -> Saved:
    job = job_of(desk, slug, key)
    if job.kind == "chore":
        return _chore(desk, slug, job)
    if job.shorthand:
        return log_line(desk, slug, f"{job.shorthand} {SURE}")  # the job has reckoned it
    if job.kind == "check":
        return tick_check(desk, slug, job.subject)
    if job.kind in ("fill", "add_batch", "test", "water_change") or job.where in ("book", "stocking"):
        raise Refused("This one needs its figures: do it on its own page.", "job")
    return _answer(desk, slug, job, "done")


def _chore(desk: Desk, slug: str, job: Job) -> Saved:
    """The keeper's own: its line, if it has one, and the tick by which its next day is reckoned; one act."""
    tank = tanks.tank(desk.conn, slug)
    read = parse(f"{job.shorthand} {SURE}", desk.now, setting_of(desk, tank)) if job.shorthand else None
    if read is not None and not read.bodies:
        raise Refused(f"Its line “{job.shorthand}” is not understood any more; log it by hand.", "job")
    new = [desk.entry(b) for b in (read.bodies if read else ())]
    new.append(desk.entry(JobAnswered.from_raw({"job": job.key, "how": "done", "title": job.title})))
    with transaction(desk.conn):
        act, ids = journal.write_all(desk.conn, tank.id, "log", f"Done: {job.title}", new, desk.now)
    return Saved(act, f"Done: {job.title}", tuple(ids))


def snooze(desk: Desk, slug: str, key: str, until: date) -> Saved:
    """Off the list until a day. A job that protects animals today is not put off in silence."""
    job = job_of(desk, slug, key)
    if job.protects:
        raise Refused(f"“{job.title}” protects animals today: do it, or skip it with a reason.", "until")
    days = (until - desk.now.date()).days
    if not 1 <= days <= LONGEST_DAYS:
        raise Refused(f"From tomorrow to {LONGEST_DAYS} days ahead.", "until")
    return _answer(desk, slug, job, "snoozed", until=until)


def skip(desk: Desk, slug: str, key: str, reason: str) -> Saved:
    """Off today's list for a reason, which stands in the log."""
    job = job_of(desk, slug, key)
    if not reason.strip():
        raise Refused("Say why: in a year you will want to know.", "reason")
    return _answer(desk, slug, job, "skipped", text=reason.strip())


def _answer(desk: Desk, slug: str, job: Job, how: str, **more: Any) -> Saved:
    tank = tanks.tank(desk.conn, slug)
    new = desk.entry(JobAnswered(job=job.key, how=how, title=job.title, **more))
    words = {"done": "Done", "snoozed": "Put off", "skipped": "Skipped"}[how]
    if "until" in more:
        words += f" until {more['until']:%a %-d %b}"
    with transaction(desk.conn):
        act, ids = journal.write_all(desk.conn, tank.id, "log", f"{words}: {job.title}", [new], desk.now)
    return Saved(act, f"{words}: {job.title}", tuple(ids))
