"""A fault of the equipment."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import choice_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.units import Units

FAULTS = (
    ("heater_dead", "heater does not heat"),
    ("heater_on", "heater does not switch off"),
    ("heater_broken", "heater cracked or run dry"),
    ("filter", "filter stopped or hardly flows"),
    ("pump", "pump stopped"),
    ("leak", "water where it should not be"),
    ("electric", "tingle, shock or a switch that trips"),
    ("lid", "lid broken or left open"),
    ("topoff", "top-off ran on"),
    ("light", "light fails"),
    ("other", "something else"),
)
SAID: Mapping[str, str] = {
    "heater": "", "filter": "filter", "pump": "pump", "leak": "leak", "shock": "electric", "tingle": "electric",
    "lid": "lid", "topoff": "topoff", "light": "light",
}  # fmt: skip


@kind
class Fault(Kind):
    """`device` a key of FAULTS, `text` in words."""

    key: ClassVar[str] = "fault"
    label: ClassVar[str] = "Equipment fault"
    example: ClassVar[str] = "fault heater dead"
    place: ClassVar[int] = 24
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("fault",)
    device: str = choice_field("what", FAULTS, required=True, column="how")
    text: str = text_field("in words", column="text")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return dict(FAULTS)[self.device] + (f": {self.text}" if self.text else "")

    def repeats(self, other: Body) -> bool:
        return isinstance(other, Fault) and other.device == self.device

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        word = line.take(*SAID)
        device = SAID.get(word, "")
        if word == "heater":
            taps = (("dead", "heater_dead"), ("stuck", "heater_on"), ("cracked", "heater_broken"))
            said = line.take(*(w for w, _ in taps))
            device = dict(taps).get(said, "")
            if not device:
                raise Ask(
                    "Heater: what is wrong?",
                    *(Tap(dict(FAULTS)[k], line.rewritten(f"fault heater {w}")) for w, k in taps),
                )
        if not device:
            words = ("heater dead", "filter", "pump", "leak", "tingle", "lid", "topoff", "light")
            raise Ask("Fault: of what?", *(Tap(w, line.rewritten(f"fault {w}")) for w in words[:4]))
        text = line.rest()
        return Heard(cls.from_raw({"device": device, "text": text}), "fault", dict(FAULTS)[device], text[:60])
