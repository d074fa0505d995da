"""Bicarbonate that went in: it brings alkalinity, and the pH with it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.field import number_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.core.water.mixing import BICARBONATE_MG_MEQ
from jarbloom.units import NBSP, Units, figure

LARGE_RISE_DKH = 4.0  # more at once is asked about


@kind
class Buffered(Kind):
    """`grams` of sodium bicarbonate."""

    key: ClassVar[str] = "buffer"
    label: ClassVar[str] = "Bicarbonate"
    example: ClassVar[str] = "buffer 5 g"
    place: ClassVar[int] = 7
    said: ClassVar[tuple[str, ...]] = ("buffer", "buffered", "bicarbonate")
    grams: float = number_field("sodium bicarbonate, g", low=0.05, high=1000, required=True, column="amount")

    def rise_meq_l(self, volume_l: float) -> float:
        """Alkalinity that it brings, meq/L."""
        return 1000 * self.grams / BICARBONATE_MG_MEQ / volume_l

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{figure(self.grams)}{NBSP}g of sodium bicarbonate"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        line.take("sodium", "bicarbonate", "soda")
        told = line.number("buffer", units=("g",))
        line.take("sodium", "bicarbonate", "soda")
        made = cls.from_raw({"grams": told.value})
        rise = made.rise_meq_l(line.setting.net_l) / MEQ_PER_DKH
        line.doubt(rise > LARGE_RISE_DKH, f"That raises KH by {figure(rise, 2)} dKH at once: is that right?")
        return Heard(made, "bicarbonate", f"{figure(told.value)}{NBSP}g", f"KH rises {figure(rise, 2)}{NBSP}dKH")
