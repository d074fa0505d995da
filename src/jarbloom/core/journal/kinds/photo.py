"""A photograph: the picture lies in a file named by its content, the entry says when, of what, and which file."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.kinds.field import CARRIED, number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.errors import Refused
from jarbloom.patterns import regex
from jarbloom.units import Units

HASH = regex(r"[0-9a-f]{64}")
WHOLE_TANK = "the tank"


@kind
class Photo(Kind):
    """`file`: SHA-256 of the kept picture; width and height in px. `of`: an animal, a piece of gear, else the tank."""

    key: ClassVar[str] = "photo"
    label: ClassVar[str] = "Photo"
    lane: ClassVar[str] = "photos"
    example: ClassVar[str] = ""
    place: ClassVar[int] = 24
    by_form: ClassVar[bool] = False
    moves_forecast: ClassVar[bool] = False
    of: str = text_field("of", hint="empty: the whole tank")
    text: str = text_field("in words")
    file: str = text_field("file", role=CARRIED, required=True, column="")
    width: float | None = number_field("width", whole=True, low=1, high=20000, role=CARRIED, column="")
    height: float | None = number_field("height", whole=True, low=1, high=20000, role=CARRIED, column="")

    def __post_init__(self) -> None:
        super().__post_init__()
        if not HASH.fullmatch(self.file):
            raise Refused("A photo names its file by the 64 figures of its content.", "file")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return ", ".join(t for t in (self.of or WHOLE_TANK, self.text) if t)

    def repeats(self, other: Body) -> bool:
        return isinstance(other, Photo) and other.file == self.file
