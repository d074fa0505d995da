"""What was done and what befell, on three lanes: the water, the animals, the gear."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.bed import BedStirred
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.buffered import Buffered
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.fault import Fault
from jarbloom.core.journal.kinds.given import Given
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.medicine import Medicine
from jarbloom.core.journal.kinds.moved import Moved
from jarbloom.core.journal.kinds.new_thing import NewThing
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.off import Off
from jarbloom.core.journal.kinds.on import On
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.journal.kinds.quarantine import InQuarantine
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Body, Entry

WATER, LIFE, GEAR = "water", "life", "gear"
LANES: Mapping[str, tuple[type[Body], ...]] = {
    WATER: (Change, Dose, Conditioner, Buffered),
    LIFE: (Arrival, Birth, Death, Given, Moved, InQuarantine, Observation, Medicine),
    GEAR: (MediaCleaned, Bacteria, Rock, BedStirred, Fault, PowerCut, Off, On, NewThing, Note),
}
WEIGHT: Mapping[type[Body], int] = {Death: 3, Medicine: 3, Fault: 3, PowerCut: 3, Arrival: 2, MediaCleaned: 2, Note: 0}


@dataclass(frozen=True)
class Event:
    """`weight`: which one keeps its words where many stand close, the heaviest first."""

    lane: str
    weight: int
    entry: Entry


def events(log: Log) -> tuple[Event, ...]:
    """Everything on the lanes, in order of time."""
    kinds = tuple(kind for lane in LANES.values() for kind in lane)
    return log.kept(("history", "events"), kinds, lambda: _events(log))


def events_between(log: Log, start: datetime, end: datetime) -> tuple[Event, ...]:
    """Those from `start` on and before `end`."""
    found = events(log)
    first, last = (bisect_left(found, t.timestamp() / 60, key=lambda e: e.entry.order[0]) for t in (start, end))
    return found[first:last]


def _events(log: Log) -> tuple[Event, ...]:
    found = (Event(lane, WEIGHT.get(type(e.body), 1), e) for lane, kinds in LANES.items() for e in log.kinds(*kinds))
    return tuple(sorted(found, key=lambda e: e.entry.order))
