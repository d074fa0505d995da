"""What can be looked at over the years: every quantity with its label, its unit and where it comes from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jarbloom.core.journal.kinds.measured import Measured
from jarbloom.core.model.kit import NITROGEN, Kit

READ, MEASURED, RECKONED, SUMMED = "read", "measured", "reckoned", "summed"
SCATTERED = "scattered"  # of one animal and another: points that no line joins


@dataclass(frozen=True)
class Quantity:
    """`source`: read with the kit; measured now and then; reckoned from the log; summed up
    over days or months; or scattered, of one animal and another."""

    key: str
    label: str
    unit: str
    source: str
    dimension: str = ""  # of the keeper's units, where it has one
    from_zero: bool = True  # its axis begins at zero

    def in_unit_of(self, kit: Kit) -> str:
        """Its unit; for a nitrogen form as this kit's card counts it."""
        if self.key not in NITROGEN:
            return self.unit
        form = kit.scale(self.key).form
        return f"mg/L as {form}"

    def factor(self, kit: Kit) -> float:
        """What a kept value is taken times to be shown in that unit."""
        return kit.scale(self.key).per_n if self.key in NITROGEN else 1.0


def _measured() -> list[Quantity]:
    labels = {"gh": "GH", "tds": "TDS"}
    return [
        Quantity(s.name, labels.get(s.name, s.label[:1].upper() + s.label[1:]), s.unit, MEASURED)
        for s in Measured.specs
    ]


QUANTITIES: Mapping[str, Quantity] = {
    q.key: q
    for q in (
        Quantity("ammonia", "Ammonia", "mg/L", READ),
        Quantity("nitrite", "Nitrite", "mg/L", READ),
        Quantity("nitrate", "Nitrate", "mg/L", READ),
        Quantity("nh3", "Free ammonia", "mg N/L", RECKONED),
        Quantity("ph", "pH", "", READ, from_zero=False),
        Quantity("kh", "KH", "dKH", READ, "hardness"),
        Quantity("temp", "Temperature", "°C", READ, "temp", from_zero=False),
        Quantity("salinity", "Salinity", "g/kg", READ, from_zero=False),
        Quantity("load", "Load", "mg N a day", RECKONED),
        Quantity("heads", "Animals", "", RECKONED),
        Quantity("changed", "New water", "L", SUMMED, "volume"),
        Quantity("food", "Food", "g", SUMMED, "mass"),
        Quantity("deaths", "Found dead", "", SUMMED),
        Quantity("length", "Lengths measured", "cm", SCATTERED, "length"),
        *_measured(),
    )
}
