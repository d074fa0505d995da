"""Anything in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard
from jarbloom.core.journal.kinds.field import text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.units import Units

SHOWN = 240  # characters of it in a line


@kind
class Note(Kind):
    key: ClassVar[str] = "note"
    label: ClassVar[str] = "Note"
    example: ClassVar[str] = "note moved the outlet"
    place: ClassVar[int] = 20
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("note",)
    text: str = text_field("note", required=True)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return self.text if len(self.text) <= SHOWN else self.text[: SHOWN - 1] + "…"

    def repeats(self, other: Body) -> bool:
        return isinstance(other, Note) and other.text == self.text

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        text = line.rest()
        if not text:
            raise Ask("Note: what?")
        return Heard(cls.from_raw({"text": text}), "note", text[:60])
