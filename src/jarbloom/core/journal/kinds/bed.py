"""A bed that was stirred."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.field import number_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, Units, figure


@kind
class BedStirred(Kind):
    """`share` in percent of the bed; None: all of it."""

    key: ClassVar[str] = "bed"
    label: ClassVar[str] = "Bed disturbed"
    example: ClassVar[str] = "bed 50%"
    place: ClassVar[int] = 12
    said: ClassVar[tuple[str, ...]] = ("bed",)
    share: float | None = number_field("share of the bed, %", low=1, high=100, hint="all of it when left empty")

    @property
    def part(self) -> float:
        """Share of the bed, 0 to 1."""
        return (100.0 if self.share is None else self.share) / 100

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"stirred, {figure(100 * self.part)}{NBSP}% of it"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        line.take("stirred")
        told = line.amount("bed", units=("%",), optional=True)
        made = cls.from_raw({"share": told.value if told else None})
        return Heard(made, "bed stirred", f"{figure(100 * made.part)}{NBSP}% of it")
