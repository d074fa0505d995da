"""Whether an animal took what it was offered."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field
from jarbloom.core.journal.kinds.field import choice_field, species_field, text_field
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units

TAKEN = (("eaten", "eaten"), ("some", "a little"), ("refused", "refused"))


@kind
class FeedingTrial(AboutAnimals):
    """`count`: how many were watched."""

    key: ClassVar[str] = "trial"
    label: ClassVar[str] = "Feeding trial"
    example: ClassVar[str] = "refused 1 betta frozen shrimp"
    place: ClassVar[int] = 18
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("ate", "refused")
    species: str = species_field()
    count: int = heads_field("how many were watched")
    taken: str = choice_field("it was", TAKEN, required=True, column="how")
    food: str = text_field("food", column="text")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        food = f"{self.food}, " if self.food else ""
        return f"{self.who(species)}: {food}{dict(TAKEN)[self.taken]}"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        count, key = line.animals(cls.label.lower())
        food = line.rest()
        taken = "refused" if line.word == "refused" else "eaten"
        made = cls.from_raw({"species": key, "count": count, "taken": taken, "food": food})
        return Heard(made, cls.label.lower(), made.who(line.setting.species), f"{food} {taken}".strip())
