"""A device that is switched off for a while."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard
from jarbloom.core.journal.kinds.choices import DEVICES
from jarbloom.core.journal.kinds.field import choice_field, date_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units


@kind
class Off(Kind):
    key: ClassVar[str] = "off"
    label: ClassVar[str] = "Switched off"
    example: ClassVar[str] = "off uv 5d"
    place: ClassVar[int] = 9
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("off",)
    device: str = choice_field("what", DEVICES, required=True)
    until: date | None = date_field("on again on")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return dict(DEVICES)[self.device] + (f" until {self.until:%-d %b}" if self.until else "")

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        device = device_of(line, "off")
        until = line.until()
        made = cls.from_raw({"device": device, "until": until})
        detail = f"until {until}" if until else "say when it goes on again: off uv 5d"
        return Heard(made, "switched off", dict(DEVICES)[device], detail)


def device_of(line: Clause, what: str) -> str:
    device = line.take(*dict(DEVICES))
    if not device:
        raise Ask(f"{what}: which of {', '.join(dict(DEVICES))}?")
    return device
