"""What was done and what befell, on three lanes: the water, the animals, the gear."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

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
class Marks:
    """What stands on one lane, in order of time. `times`: epoch seconds; `weights`: where many stand close, the
    heaviest keeps its words."""

    entries: tuple[Entry, ...]
    times: NDArray[np.float64]
    weights: tuple[int, ...]
    labels: tuple[str, ...]

    def between(self, start: datetime, end: datetime) -> Marks:
        """Those from `start` on and before `end`."""
        first, last = np.searchsorted(self.times, (start.timestamp(), end.timestamp())).tolist()
        if last - first == len(self.times):
            return self
        here = slice(first, last)
        return Marks(self.entries[here], self.times[here], self.weights[here], self.labels[here])


NONE = Marks((), np.empty(0), (), ())


def marks(log: Log) -> Mapping[str, Marks]:
    """Everything that happened, by its lane."""
    return {lane: log.folded(("history", "marks", lane), kinds, NONE, _with) for lane, kinds in LANES.items()}


def marks_between(log: Log, start: datetime, end: datetime) -> Mapping[str, Marks]:
    return {lane: found.between(start, end) for lane, found in marks(log).items()}


def _with(marks: Marks, came: Sequence[Entry]) -> Marks:
    """These, and what came after them."""
    return Marks(
        (*marks.entries, *came),
        np.append(marks.times, [60.0 * e.order[0] for e in came]),
        (*marks.weights, *(WEIGHT.get(type(e.body), 1) for e in came)),
        (*marks.labels, *(e.body.label.lower() for e in came)),
    )
