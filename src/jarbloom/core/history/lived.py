"""Who lived in a tank when: one row a kind, with how many at each step and who was found dead."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.journal.book import JOINED, LEFT, stock
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.log import Log


@dataclass(frozen=True)
class Step:
    """From this day on so many lived there; `found_dead` of them on the day."""

    day: date
    count: int
    found_dead: int = 0


@dataclass(frozen=True)
class Row:
    """A kind's time in the tank. The last step with none is when the last one left."""

    species: str
    steps: tuple[Step, ...]

    @property
    def since(self) -> date:
        return self.steps[0].day

    def count_on(self, day: date) -> int:
        return next((s.count for s in reversed(self.steps) if s.day <= day), 0)


def rows(log: Log) -> tuple[Row, ...]:
    """One a kind, in order of coming. Of several moves on a day the day's end is told."""
    return log.kept(("history", "rows"), (*JOINED, *LEFT), lambda: _rows(log))


def _rows(log: Log) -> tuple[Row, ...]:
    moves = log.kinds(*JOINED, *LEFT)
    steps: dict[str, list[Step]] = {}
    for day in sorted({e.day for e in moves}):
        here = stock(log, day)
        for species in dict.fromkeys(e.body.species for e in moves if e.day == day):
            count = sum(a.count for a in here if a.species == species)
            dead = sum(e.body.count for e in log.kinds(Death) if e.day == day and e.body.species == species)
            steps.setdefault(species, []).append(Step(day, count, dead))
    return tuple(Row(species, tuple(found)) for species, found in steps.items())
