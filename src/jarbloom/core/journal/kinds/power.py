"""A power cut."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard
from jarbloom.core.journal.kinds.field import choice_field, number_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, Units, figure

POWER = (
    ("closed", "filter in a closed canister"),
    ("open", "filter open to the tank"),
)


@kind
class PowerCut(Kind):
    """`where` '' counts as closed, which costs the colony more."""

    key: ClassVar[str] = "power"
    label: ClassVar[str] = "Power cut"
    example: ClassVar[str] = "power 6h"
    place: ClassVar[int] = 13
    said: ClassVar[tuple[str, ...]] = ("power", "outage", "blackout")
    hours: float = number_field("how long", unit="h", low=0.1, high=336, required=True, column="amount", csv_unit="h")
    where: str = choice_field("the filter", POWER)

    @property
    def filter_was(self) -> str:
        return self.where or "closed"

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{figure(self.hours)}{NBSP}h without power, {dict(POWER)[self.filter_was]}"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        line.take("cut", "out", "off")
        told = line.number("power cut", units=("h", "min"))
        if not told.unit:
            raise Ask("Power cut: how many hours? Say power 6h.")
        hours = told.value / 60 if told.unit == "min" else told.value
        line.doubt(hours > 72, f"{figure(hours)} hours without power: is that right?")
        made = cls.from_raw({"hours": hours, "where": line.take("open", "closed")})
        return Heard(made, "power cut", f"{figure(made.hours)}{NBSP}h", dict(POWER)[made.filter_was])
