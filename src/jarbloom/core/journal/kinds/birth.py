"""Animals that were born here."""

from __future__ import annotations

from typing import ClassVar

from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field, length_field
from jarbloom.core.journal.kinds.field import CARRIED, MOST_ID, number_field, species_field
from jarbloom.core.journal.kinds.kind import kind


@kind
class Birth(AboutAnimals):
    key: ClassVar[str] = "birth"
    label: ClassVar[str] = "Birth"
    example: ClassVar[str] = "born 12 guppies"
    place: ClassVar[int] = 15
    said: ClassVar[tuple[str, ...]] = ("born",)
    verb: ClassVar[str] = " born"
    species: str = species_field()
    count: int = heads_field()
    length_cm: float | None = length_field()
    first: int | None = number_field("first logged as", whole=True, high=MOST_ID, role=CARRIED, column="")
