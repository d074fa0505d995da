"""Animals that were measured."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Amount, Clause, Heard
from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field
from jarbloom.core.journal.kinds.field import CARRIED, MOST_ID, number_field, species_field, text_field
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units

CM_PER = {"cm": 1.0, "mm": 0.1, "in": 2.54}
LENGTHS = tuple(CM_PER)


def cm_of(told: Amount, units: Units) -> float:
    """A typed length in cm; without a unit it is in the keeper's own."""
    return told.value * CM_PER[told.unit or units.unit("length")]


@kind
class LengthMeasured(AboutAnimals):
    """`count`: how many were measured; `length_cm`: from the snout to the end of the tail, the mean of several.
    `group`: the arrival they came by; without one those that came first are meant."""

    key: ClassVar[str] = "length"
    label: ClassVar[str] = "Length measured"
    example: ClassVar[str] = "length 1 betta 6 cm"
    place: ClassVar[int] = 19
    said: ClassVar[tuple[str, ...]] = ("length",)
    species: str = species_field()
    count: int = heads_field("how many were measured")
    length_cm: float = number_field("length, tail and all", dimension="length", low=0.1, high=300, required=True)
    text: str = text_field("which, and how", hint="the large one; against the scale on the glass", column="text")
    group: int | None = number_field("group", whole=True, high=MOST_ID, role=CARRIED)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        which = f" ({self.text})" if self.text else ""
        return f"{self.who(species)}: {units.length(self.length_cm)}{which}"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        count, key = line.animals(cls.label.lower())
        units = line.setting.units
        cm = cm_of(line.number("length", units=LENGTHS), units)
        made = cls.from_raw({"species": key, "count": count, "length_cm": cm}).completed(line.setting)
        return Heard(made, "length", f"{made.who(line.setting.species)}, {units.length(cm)}")
