"""An animal that got out of the tank."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field
from jarbloom.core.journal.kinds.field import choice_field, species_field
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units

FATE = (("back", "back in, alive"), ("not_found", "not found"))


@kind
class Escape(AboutAnimals):
    """It still counts as living here: one that died is logged as a death."""

    key: ClassVar[str] = "escape"
    label: ClassVar[str] = "Escape"
    example: ClassVar[str] = "escaped 1 firefish back"
    place: ClassVar[int] = 25
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("escaped", "jumped")
    verb: ClassVar[str] = " out of the tank"
    species: str = species_field()
    count: int = heads_field()
    fate: str = choice_field("what became of it", FATE, column="how")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{super().words(species, units)}" + (f", {dict(FATE)[self.fate]}" if self.fate else "")

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        heard = super().clause(line)
        assert isinstance(heard.body, Escape)
        line.take("out")
        fate = line.take("back")
        return Heard(heard.body.changed(fate=fate or ""), heard.label, heard.value, "log it as dead if it died")
