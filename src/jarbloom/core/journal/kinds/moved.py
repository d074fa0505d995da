"""Animals moved to another tank of the house."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field
from jarbloom.core.journal.kinds.field import CARRIED, MOST_ID, number_field, species_field, text_field
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units


@kind
class Moved(AboutAnimals):
    key: ClassVar[str] = "moved"
    label: ClassVar[str] = "Moved out"
    by_form: ClassVar[bool] = False
    leaves: ClassVar[bool] = True
    species: str = species_field()
    count: int = heads_field()
    to: str = text_field("to which tank", required=True)
    group: int | None = number_field("group", whole=True, high=MOST_ID, role=CARRIED)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{self.who(species)} moved out to {self.to}"
