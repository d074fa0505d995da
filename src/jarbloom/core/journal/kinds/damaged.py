"""An entry that no form would have let in: shown as damaged, left out of everything, and it can be voided.

What it said was not heard, so nothing is quiet and no gate opens while one stands.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.kinds.field import text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units


@kind
class Damaged(Kind):
    """`was`: the kind that it claims to be; `held`: its stored text as it is; `problem`: what is wrong with it."""

    key: ClassVar[str] = "damaged"
    label: ClassVar[str] = "Damaged entry"
    by_form: ClassVar[bool] = False
    moves_forecast: ClassVar[bool] = False
    was: str = text_field("kind", column="")
    held: str = text_field("stored text", column="")
    problem: str = text_field("what is wrong", column="")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{self.was[:40]} that cannot be read: {self.problem} It counts for nothing; void it, or log it anew."
