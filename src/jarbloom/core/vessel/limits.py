"""What a tank's settings may be at all: the limits of the forms, for settings that come from anywhere else."""

from __future__ import annotations

from collections.abc import Container, Iterator, Mapping
from types import NoneType, UnionType
from typing import Any, get_args, get_type_hints

from jarbloom.core.model.choices import CHLORINE, FILTER_KINDS, KIT_KINDS, SURFACES
from jarbloom.core.model.hours import hours_from
from jarbloom.core.model.kit import MG_PER_MG_N, Kit
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.shapes import SHAPES
from jarbloom.core.vessel.volume import DENSITY_KG_L, POROSITY
from jarbloom.errors import Refused
from jarbloom.units import figure, is_number

TANK: Mapping[str, tuple[float, float]] = {
    "length_cm": (5, 1000), "width_cm": (5, 500), "height_cm": (5, 300), "waterline_cm": (0, 200), "bow_cm": (0, 200),
    "glass_mm": (0, 60), "substrate_cm": (0, 100), "substrate_back_cm": (0, 100), "sump_l": (0, 50_000),
    "measured_l": (1, 50_000), "temp_c": (4, 40), "ph": (3, 11), "kh_dkh": (0, 60), "salinity_g_kg": (0, 60),
    "room_c": (-10, 45), "room_warm_c": (-10, 50), "room_rh": (0, 100), "salt_factor": (0.9, 1.3),
    "quarantine_days": (0, 365),
    "target_mg_n_l": (0.05, 20), "solution_percent": (0.1, 30), "conditioner_ml_per_100l": (0, 1000),
    "ready_l": (1, 50_000), "ready_every_h": (1, 240),
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
LONGEST = 200  # characters of a name
MOST_MISREAD, FEWEST_STEPS, MOST_STEPS = 0.6, 3, 60


def check_limits(tank: Tank, reference: Reference) -> None:
    """Raises Refused, naming the setting, for one that no form would have let in."""
    for where, held, _ in _parts(tank):
        _types(held, where)
    for where, held, limits in _parts(tank):
        for name, (low, high) in limits.items():
            _number(getattr(held, name), f"{where}{name}", low, high)
    _kit(tank.kit)
    for name, known in _choices(reference).items():
        _choice(getattr(tank, name), known, name)
    _choice(tank.source.chlorine, dict(CHLORINE), "source.chlorine")
    for one in tank.filters:
        _choice(one.media, reference.media, "filters.media")
        _choice(one.kind, dict(FILTER_KINDS), "filters.kind")
    for decor in tank.decor:
        _choice(decor.kind, DENSITY_KG_L, "decor.kind")
        _choice(decor.unit, ("kg", "L"), "decor.unit")
    if not all(isinstance(v, str) and len(v) <= LONGEST for v in tank.typed.values()):
        raise Refused("What was typed is no text.", "typed")
    hours_from(tank.home_hours)
    if not tank.name.strip():
        raise Refused("A tank needs a name.", "name")


def _parts(tank: Tank) -> Iterator[tuple[str, Any, Mapping[str, tuple[float, float]]]]:
    yield "", tank, TANK
    yield "source.", tank.source, SOURCE
    for rows, limits, name in ((tank.filters, FILTER, "filters"), (tank.heaters, HEATER, "heaters"),
                               (tank.decor, DECOR, "decor")):  # fmt: skip
        for row in rows:
            yield f"{name}.", row, limits


def _types(held: Any, where: str) -> None:
    """Numbers, texts, and yes or no as the class says; what is made of parts is looked at part by part."""
    for name, hint in get_type_hints(type(held)).items():
        value, may = getattr(held, name), get_args(hint) if isinstance(hint, UnionType) else (hint,)
        if value is None and NoneType in may:
            continue
        for kind, fits, what in (
            (bool, isinstance(value, bool), "yes or no"),
            (str, isinstance(value, str) and len(value) <= LONGEST, f"text of at most {LONGEST} characters"),
            (float, is_number(value), "a number"),
        ):
            if kind in may and not fits:
                raise Refused(f"“{str(value)[:40]}” is not {what}.", f"{where}{name}")


def _choice(value: str, known: Container[str], name: str) -> None:
    if value not in known:
        raise Refused(f"“{value[:40]}” is not a choice here.", name)


def _number(value: Any, name: str, low: float, high: float) -> None:
    if value is None:
        return
    if not is_number(value):
        raise Refused(f"“{str(value)[:40]}” is not a number.", name)
    if not low <= value <= high:
        raise Refused(f"{figure(value)} is not within {figure(low)} to {figure(high)}.", name)


def _kit(kit: Kit) -> None:
    if kit.kind not in dict(KIT_KINDS):
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


def _choices(reference: Reference) -> dict[str, Container[str]]:
    schools = reference.schools
    return {
        "school": schools.cycling, "corrective": schools.corrective, "pace": schools.pace,
        "turnover": schools.turnover, "marine_nitrite": schools.marine_nitrite, "minimum": schools.minimum,
        "quarantine": schools.quarantine, "acclimatising": ("", *schools.acclimatising_picks),
        "bag_water": schools.bag_water,
        "shape": SHAPES, "substrate": POROSITY, "surface": dict(SURFACES),
        "dose_from": ("chloride", "solution"),
    }  # fmt: skip
