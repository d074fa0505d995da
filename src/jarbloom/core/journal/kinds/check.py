"""An equipment check that was ticked."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.kinds.field import flag_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units


@kind
class EquipmentChecked(Kind):
    key: ClassVar[str] = "check"
    label: ClassVar[str] = "Equipment check"
    by_form: ClassVar[bool] = False
    moves_forecast: ClassVar[bool] = False
    check: str = text_field("check", required=True, column="job")
    title: str = text_field("what was checked")
    fault: bool = flag_field("a fault was found")
    text: str = text_field("in words")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        parts = [self.title or self.check, self.text, "a fault was found" if self.fault else ""]
        return ", ".join(p for p in parts if p)
