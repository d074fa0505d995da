"""What the residents want of the water: the ranges behind the lines of the record."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from jarbloom.core.model.kit import MG_PER_MG_N
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.stocking.budget import NITRATE_LIMIT_ION

_COLUMNS = {"temp": ("temp_low", "temp_high"), "ph": ("ph_low", "ph_high"), "gh": ("gh_low", "gh_high"),
            "salinity": ("salt_low", "salt_high")}  # fmt: skip


@dataclass(frozen=True)
class Range:
    """What all of them bear together; `high` inf where there is no upper end. The kinds that set the ends are named."""

    low: float
    high: float
    low_by: str = ""
    high_by: str = ""


def wanted(quantity: str, living: Sequence[Animals], species: Mapping[str, Species], tank: Tank) -> Range | None:
    """The range that every resident's row of the catalogue bears, as kept (nitrate as N); None where nothing is known
    or where no value suits them all. Nitrate: the aim of a usual change (judgement; animals differ)."""
    if not living:
        return None
    if quantity == "nitrate":
        return Range(-math.inf, NITRATE_LIMIT_ION[tank.planted] / MG_PER_MG_N["NO3"])
    if quantity not in _COLUMNS or (quantity in ("ph", "gh") and tank.marine):
        return None
    low_name, high_name = _COLUMNS[quantity]
    kinds = [species[a.species] for a in living if a.species in species and a.species != "unknown"]
    if not kinds:
        return None
    lowest = max(kinds, key=lambda k: getattr(k, low_name))
    highest = min(kinds, key=lambda k: getattr(k, high_name))
    low, high = float(getattr(lowest, low_name)), float(getattr(highest, high_name))
    return Range(low, high, lowest.key, highest.key) if low < high else None
