"""Animals that are watched in a tank of their own before they go in."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import ClassVar

from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field, length_field
from jarbloom.core.journal.kinds.field import CARRIED, MOST_ID, date_field, number_field, species_field, text_field
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units


@kind
class InQuarantine(AboutAnimals):
    key: ClassVar[str] = "quarantine"
    label: ClassVar[str] = "Into quarantine"
    by_form: ClassVar[bool] = False
    moves_forecast: ClassVar[bool] = False
    species: str = species_field()
    count: int = heads_field()
    length_cm: float | None = length_field()
    until: date = date_field("watched until", required=True)
    seller: str = text_field("from")
    batch: int | None = number_field("batch", whole=True, high=MOST_ID, role=CARRIED)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{self.who(species)}, watched until {self.until:%-d %b}"
