"""When a keeper's own chores are due, by when they were done last."""

from __future__ import annotations

from datetime import date, timedelta

from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.job import JobAnswered
from jarbloom.core.journal.log import Log
from jarbloom.core.model.chore import Chore


def last_done(chore: Chore, log: Log) -> date | None:
    """The day of its last tick."""
    ticked = [e.day for e in log.kinds(JobAnswered) if e.body.job == chore.key and e.body.how == "done"]
    return ticked[-1] if ticked else None


def due_on(chore: Chore, log: Log) -> date | None:
    """The day it is due, past or to come; None where it waits for a change of water. One that was never ticked counts
    from the day it was set down."""
    done = last_done(chore, log)
    if chore.rhythm == "after_change":
        changes = log.kinds(Change)
        changed = changes[-1].day if changes else None
        if changed is None or changed < chore.made_on or (done is not None and done >= changed):
            return None
        return changed
    if chore.rhythm == "weekday":
        since = chore.made_on if done is None else done + timedelta(days=1)
        return since + timedelta(days=(chore.every - since.weekday()) % 7)
    return chore.made_on if done is None else done + timedelta(days=chore.every)
