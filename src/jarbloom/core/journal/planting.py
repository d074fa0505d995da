"""Which plants stand in the tank by the log: each with how many, and since when."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from jarbloom.core.journal.kinds.planted import Planted
from jarbloom.core.journal.log import Log


@dataclass(frozen=True)
class Growing:
    """`count`: those put in less those taken out or lost; None where they were not counted."""

    plant: str
    count: int | None
    since: date


def growing(log: Log, now: datetime) -> tuple[Growing, ...]:
    """Those put in and not gone again, the first first. Plants that were not counted go all at once."""
    there: dict[str, Growing] = {}
    for entry in log.kinds(Planted):
        if entry.at > now:
            continue
        body = entry.body
        had = there.get(body.plant)
        if body.went == "in":
            there[body.plant] = Growing(body.plant, _both(had, body.count), had.since if had else entry.day)
        elif had is not None:
            left = 0 if body.count is None or had.count is None else had.count - body.count
            if left > 0:
                there[body.plant] = Growing(body.plant, left, had.since)
            else:
                del there[body.plant]
    return tuple(there.values())


def _both(had: Growing | None, more: int | None) -> int | None:
    if more is None or (had is not None and had.count is None):
        return None
    return more + (had.count or 0 if had is not None else 0)
