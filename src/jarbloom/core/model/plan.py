"""Animals planned to go in together."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date

from jarbloom.core.model.species import Animals


@dataclass(frozen=True)
class Batch:
    """Animals planned to go in together. `arrived` is set when a live arrival entry names the batch."""

    id: int
    name: str
    planned: date
    items: tuple[Animals, ...]
    arrived: date | None = None
    locked: bool = False  # the planner leaves it as it is

    @property
    def stamp(self) -> str:
        """Its day and animals as one word each: a page sends back what it showed, so that a newer change is seen."""
        return " ".join([self.planned.isoformat(), *(f"{a.species}={a.count}" for a in self.items)])

    def count_of(self, species: str) -> int:
        return sum(a.count for a in self.items if a.species == species)

    def with_count(self, species: str, count: int) -> Batch:
        """The batch with so many of a kind; 0 leaves it out."""
        rest = tuple(a for a in self.items if a.species != species)
        same = next((a for a in self.items if a.species == species), Animals(species, 0))
        return replace(self, items=(*rest, replace(same, count=count)) if count > 0 else rest)


def count_in(stamp: str, species: str) -> int:
    """How many of a species a stamp holds."""
    counts = (word.partition("=") for word in stamp.split()[1:])
    return next((int(n) for key, _, n in counts if key == species and n.isdecimal()), 0)
