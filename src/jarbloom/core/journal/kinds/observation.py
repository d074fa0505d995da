"""What was seen of the animals and the water."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.choices import SIGNS
from jarbloom.core.journal.kinds.field import signs_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.journal.signs import nearly, signs_in
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.errors import Refused
from jarbloom.units import Units


@kind
class Observation(Kind):
    key: ClassVar[str] = "observation"
    label: ClassVar[str] = "Observation"
    lane: ClassVar[str] = "life"
    example: ClassVar[str] = "saw fish gasping"
    place: ClassVar[int] = 19
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("saw", "seen", "obs")
    signs: tuple[str, ...] = signs_field("seen", tuple(SIGNS.items()))
    text: str = text_field("in words")

    def __post_init__(self) -> None:
        super().__post_init__()
        if not self.signs and not self.text:
            raise Refused("Say what was seen.", "text")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        signs = [SIGNS[s] for s in self.signs]
        return ", ".join([*signs, *([self.text] if self.text and self.text not in signs else [])])

    def repeats(self, other: Body) -> bool:
        return isinstance(other, Observation) and other.text == self.text

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        text = line.rest()
        if not text:
            raise Ask("Seen: what?")
        if heads := re.match(r"(?:only\s+)?(\d+)\s+(\w+)", text):
            raise Ask("Counted, or only seen?", Tap("counted", line.rewritten(f"counted {heads[1]} {heads[2]}")),
                      Tap("only seen", f"note saw {text}"))  # fmt: skip
        if meant := nearly(text):
            raise Ask(f"Did you mean {meant[1]}?", Tap(meant[1], f"saw {text.replace(meant[0], meant[1])}"),
                      Tap("as typed", f"note saw {text}"))  # fmt: skip
        signs = signs_in(text)
        said = ", ".join(SIGNS[s] for s in signs)
        return Heard(cls.from_raw({"text": text, "signs": signs}), "seen", text[:60], said or "kept in words")
