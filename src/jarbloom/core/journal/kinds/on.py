"""A device that is on again."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.choices import DEVICES
from jarbloom.core.journal.kinds.field import choice_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.journal.kinds.off import device_of
from jarbloom.core.model.species import Species
from jarbloom.units import Units


@kind
class On(Kind):
    key: ClassVar[str] = "on"
    label: ClassVar[str] = "Switched on again"
    example: ClassVar[str] = "on uv"
    place: ClassVar[int] = 10
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("on",)
    device: str = choice_field("what", DEVICES, required=True)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return dict(DEVICES)[self.device]

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        device = device_of(line, "on")
        return Heard(cls(device=device), "on again", dict(DEVICES)[device])
