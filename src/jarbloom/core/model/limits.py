"""What a tank's settings may be at all: the limits of the forms, for settings that come from anywhere else."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from typing import Any

from jarbloom.core.model.kit import MG_PER_MG_N, Kit
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.errors import Refused
from jarbloom.units import figure

TANK: Mapping[str, tuple[float, float]] = {
    "length_cm": (5, 1000), "width_cm": (5, 500), "height_cm": (5, 300), "waterline_cm": (0, 200), "bow_cm": (0, 200),
    "glass_mm": (0, 60), "substrate_cm": (0, 100), "substrate_back_cm": (0, 100), "sump_l": (0, 50_000),
    "measured_l": (1, 50_000), "temp_c": (4, 40), "ph": (3, 11), "kh_dkh": (0, 60), "salinity_g_kg": (0, 60),
    "room_c": (-10, 45), "room_rh": (0, 100), "salt_factor": (0.9, 1.3), "quarantine_days": (0, 365),
    "target_mg_n_l": (0.05, 20), "solution_percent": (0.1, 30), "conditioner_ml_per_100l": (0, 1000),
}  # fmt: skip
SOURCE: Mapping[str, tuple[float, float]] = {
    "ph": (3, 11), "kh_dkh": (0, 60), "ammonia_mg_n_l": (0, 20), "nitrate_mg_n_l": (0, 100), "cold_c": (0, 45),
    "hot_c": (10, 95), "gh_dgh": (0, 100), "tds_mg_l": (0, 60_000), "phosphate_mg_l": (0, 50), "chlorine_mg_l": (0, 10),
}  # fmt: skip
FILTER: Mapping[str, tuple[float, float]] = {
    "nominal_l_h": (0, 100_000), "real_share": (0.05, 1), "media_l": (0, 2000), "water_l": (0, 1000),
}  # fmt: skip
HEATER: Mapping[str, tuple[float, float]] = {"watts": (0, 10_000), "set_c": (5, 45)}
DECOR: Mapping[str, tuple[float, float]] = {"amount": (0, 5000)}
KIT_KINDS = ("liquid", "strip", "photometer")
MOST_MISREAD, FEWEST_STEPS, MOST_STEPS = 0.6, 3, 60


def check_limits(tank: Tank, reference: Reference) -> None:
    """Raises Refused, naming the setting, for one that no form would have let in."""
    for where, held, limits in _parts(tank):
        for name, (low, high) in limits.items():
            _number(getattr(held, name), f"{where}{name}", low, high)
    _kit(tank.kit)
    for name, known in _choices(reference).items():
        if getattr(tank, name) not in known:
            raise Refused(f"“{str(getattr(tank, name))[:40]}” is not a choice here.", name)
    for one in tank.filters:
        if one.media not in reference.media:
            raise Refused(f"“{str(one.media)[:40]}” is no filter medium that is known here.", "filters")


def _parts(tank: Tank) -> Iterator[tuple[str, Any, Mapping[str, tuple[float, float]]]]:
    yield "", tank, TANK
    yield "source.", tank.source, SOURCE
    for rows, limits, name in ((tank.filters, FILTER, "filters"), (tank.heaters, HEATER, "heaters"),
                               (tank.decor, DECOR, "decor")):  # fmt: skip
        for row in rows:
            yield f"{name}.", row, limits


def _number(value: Any, name: str, low: float, high: float) -> None:
    if value is None:
        return
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise Refused(f"“{str(value)[:40]}” is not a number.", name)
    if not low <= value <= high:
        raise Refused(f"{figure(value)} is not within {figure(low)} to {figure(high)}.", name)


def _kit(kit: Kit) -> None:
    if kit.kind not in KIT_KINDS:
        raise Refused(f"“{str(kit.kind)[:40]}” is no kind of test kit.", "kit")
    _number(kit.misread, "kit.misread", 0, MOST_MISREAD)
    for quantity in ("ammonia", "nitrite", "nitrate"):
        scale = kit.scale(quantity)
        if scale.form not in MG_PER_MG_N:
            raise Refused(f"“{str(scale.form)[:40]}” is not a form of {quantity}.", f"kit.{quantity}")
        for step in scale.steps:
            _number(step, f"kit.{quantity}", 0, 1000)
        rising = all(a < b for a, b in zip(scale.steps, scale.steps[1:], strict=False))
        if not FEWEST_STEPS <= len(scale.steps) <= MOST_STEPS or scale.steps[0] != 0 or not rising:
            raise Refused("The steps of a kit begin with 0 and rise; three are the least.", f"kit.{quantity}")


def _choices(reference: Reference) -> dict[str, Mapping[str, Any] | tuple[str, ...]]:
    schools = reference.schools
    return {
        "school": schools.cycling, "corrective": schools.corrective, "pace": schools.pace,
        "turnover": schools.turnover, "marine_nitrite": schools.marine_nitrite, "minimum": schools.minimum,
        "quarantine": schools.quarantine, "acclimatising": ("", *schools.acclimatising), "bag_water": schools.bag_water,
        "surface": ("still", "rippled", "broken"), "dose_from": ("chloride", "solution"),
    }  # fmt: skip
