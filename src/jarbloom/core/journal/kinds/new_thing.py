"""Something new in the tank: decor, wood, stone, plants, equipment."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.units import Units

THINGS = (
    "wood", "driftwood", "root", "stone", "stones", "rock", "rocks", "decor", "ornament", "plant", "plants", "sand",
    "gravel", "soil", "background", "cave", "thermometer", "heater", "pump", "light", "lid", "skimmer",
    "product",
)  # fmt: skip


@kind
class NewThing(Kind):
    key: ClassVar[str] = "new_thing"
    label: ClassVar[str] = "Something new in the tank"
    lane: ClassVar[str] = "life"
    example: ClassVar[str] = "new driftwood"
    place: ClassVar[int] = 22
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("new",)
    what: str = text_field("what", required=True, column="text")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return self.what

    def repeats(self, other: Body) -> bool:
        return isinstance(other, NewThing) and other.what == self.what

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        thing = line.take(*THINGS)
        text = f"{thing} {line.rest()}".strip()
        if not thing:
            raise Ask("New in the tank: what?", Tap("keep it as a note", f"note new {text}"))
        return Heard(cls.from_raw({"what": text}), "new in the tank", text[:60])
