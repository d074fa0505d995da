"""Conditioner, and detoxifier, which binds ammonia as well."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.field import DERIVED, flag_field, number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.journal.volumes import millilitres
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, Units, figure

UNUSUAL_ML_PER_L = 2.0  # of the tank


@kind
class Conditioner(Kind):
    key: ClassVar[str] = "conditioner"
    label: ClassVar[str] = "Conditioner"
    example: ClassVar[str] = "conditioner 10 ml"
    place: ClassVar[int] = 6
    said: ClassVar[tuple[str, ...]] = ("cond", "conditioner", "dechlorinator", "detox", "detoxifier")
    ml: float | None = number_field("amount", unit="mL", high=100000, column="amount", csv_unit="mL")
    detoxifies: bool = flag_field("binds ammonia as well")
    typed: str = text_field("as typed", role=DERIVED)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        amount = f"{figure(self.ml)}{NBSP}mL" if self.ml is not None else "amount not noted"
        return amount + (", binds ammonia" if self.detoxifies else "")

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        binds = line.word.startswith("detox")
        raw = millilitres(line, "conditioner", UNUSUAL_ML_PER_L)
        made = cls.from_raw(raw | {"detoxifies": binds})
        value = f"{figure(made.ml)}{NBSP}mL" if made.ml is not None else "amount not noted"
        return Heard(made, "conditioner", value, "binds ammonia for a day or two" if binds else "")
