"""A step of the fill run that was ticked."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.kinds.field import text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units


@kind
class SetUpStep(Kind):
    key: ClassVar[str] = "step"
    label: ClassVar[str] = "Set-up step"
    by_form: ClassVar[bool] = False
    moves_forecast: ClassVar[bool] = False
    step: str = text_field("step", required=True, column="job")
    title: str = text_field("what was done")
    amount: str = text_field("with", column="amount")
    text: str = text_field("in words")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return ", ".join(p for p in (self.title or self.step, self.amount, self.text) if p)
