"""Spray, hands, paint or fumes near the tank or in its water."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.field import choice_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.units import Units

NEAR = (
    ("spray", "spray or insecticide"),
    ("hands", "hands with cream or soap"),
    ("paint", "paint, varnish or solvent"),
    ("fumes", "smoke or fumes"),
    ("metal", "metal, coins or a battery"),
    ("other", "something else"),
)
SAID = {
    "spray": "spray", "sprayed": "spray", "hands": "hands", "paint": "paint", "painted": "paint", "fumes": "fumes",
    "smoke": "fumes",
}  # fmt: skip


@kind
class Exposure(Kind):
    """What may have poisoned: `what` a key of NEAR, `text` in words."""

    key: ClassVar[str] = "exposure"
    label: ClassVar[str] = "Spray, hands or paint"
    lane: ClassVar[str] = "life"
    example: ClassVar[str] = "spray roses at the window"
    place: ClassVar[int] = 23
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = tuple(SAID)
    what: str = choice_field("what", NEAR, required=True, column="how")
    text: str = text_field("in words", column="text")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return dict(NEAR)[self.what] + (f": {self.text}" if self.text else "")

    def repeats(self, other: Body) -> bool:
        return isinstance(other, Exposure) and (other.what, other.text) == (self.what, self.text)

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        what, text = SAID[line.word], line.rest()
        if line.word == "smoke":
            text = f"smoke {text}"  # where from decides whether the mains burn
        return Heard(cls.from_raw({"what": what, "text": text}), "near the tank", dict(NEAR)[what], text[:60])
