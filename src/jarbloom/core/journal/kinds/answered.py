"""A check of the upset desk, answered by a tap."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.kinds.field import text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units


@kind
class Answered(Kind):
    """`check`: a key of data/desk_checks.toml; `answer`: the token of the answer; both in words beside it."""

    key: ClassVar[str] = "answered"
    label: ClassVar[str] = "Check at the desk"
    lane: ClassVar[str] = "life"
    by_form: ClassVar[bool] = False
    moves_forecast: ClassVar[bool] = False
    check: str = text_field("check", required=True, column="job")
    answer: str = text_field("answer", required=True, column="how")
    title: str = text_field("what was checked")
    text: str = text_field("what was found", column="text")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{self.title or self.check}: {self.text or self.answer}"
