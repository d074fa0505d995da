"""Salinity and specific gravity by TEOS-10 (package gsw), and what hydrometers read at other temperatures.

Practical salinity stands for g/kg: close enough for a keeper (docs/science.md, units).
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

import gsw

from jarbloom.core.model.tank import Instrument
from jarbloom.errors import Refused
from jarbloom.units import figure, number

USUAL_REFERENCE_C = 25.0
GLASS_EXPANSION = 25e-6  # per K, of a glass hydrometer's volume
MOST_G_KG = 60.0
SG_FROM, SG_TO = 1.0005, 1.05  # a figure within these, typed as g/kg, is a specific gravity by mistake
CALIBRATION_DAYS = 30  # an instrument not calibrated for longer is not believed alone; practice
AGREE_G_KG = {"refractometer": 1.0, "hydrometer": 1.0, "swing_arm": 2.0, "conductivity": 0.7}  # judgement
INSTRUMENTS = {
    "refractometer": "refractometer",
    "hydrometer": "glass hydrometer",
    "swing_arm": "swing-arm hydrometer",
    "conductivity": "conductivity meter",
}


def density_kg_l(salinity_g_kg: float, temp_c: float) -> float:
    """kg/L at the surface (TEOS-10; 0 to 42 g/kg, and little off beyond)."""
    absolute = float(gsw.SA_from_SP(salinity_g_kg, 0.0, 0.0, 0.0)) if salinity_g_kg > 0 else 0.0
    return float(gsw.rho_t_exact(absolute, temp_c, 0.0)) / 1000


def specific_gravity(salinity_g_kg: float, reference_c: float = USUAL_REFERENCE_C) -> float:
    """SG = rho(S, T) / rho(0, T), both at the reference temperature.

    >>> round(specific_gravity(35.0), 5), round(specific_gravity(30.0), 5), round(specific_gravity(35.0, 20.0), 5)
    (1.02637, 1.02259, 1.02661)
    """
    return density_kg_l(salinity_g_kg, reference_c) / density_kg_l(0.0, reference_c)


def salinity_of_sg(sg: float, reference_c: float = USUAL_REFERENCE_C) -> float:
    """g/kg of water with this specific gravity at the reference temperature, 0 to 60 g/kg.

    >>> round(salinity_of_sg(1.02637), 1)
    35.0
    """
    return _solve(lambda s: specific_gravity(s, reference_c) - sg)


def salinity_by_hydrometer(reading: float, sample_c: float, calibrated_c: float = USUAL_REFERENCE_C) -> float:
    """g/kg from a glass hydrometer read in water of another temperature than it is calibrated for.

    What it floats in has density reading x rho(0, calibrated), less the glass's own expansion.
    """
    density = reading * density_kg_l(0.0, calibrated_c) * (1 - GLASS_EXPANSION * (sample_c - calibrated_c))
    return _solve(lambda s: density_kg_l(s, sample_c) - density)


def _solve(excess: Callable[[float], float]) -> float:
    """The salinity at which a rising excess is nothing."""
    low, high = 0.0, MOST_G_KG
    for _ in range(40):
        mid = 0.5 * (low + high)
        low, high = (low, mid) if excess(mid) > 0 else (mid, high)
    return 0.5 * (low + high)


_SALINITY = re.compile(r"^(?:sg\s*)?(\d[\d.,]*)\s*(sg|g/kg|ppt|psu|‰)?\s*(?:@\s*(\d[\d.,]*)\s*°?c?)?$", re.IGNORECASE)
COLDEST_REFERENCE_C, WARMEST_REFERENCE_C = 0.0, 40.0


@dataclass(frozen=True)
class TypedSalinity:
    """What was typed: a salinity in g/kg, or a specific gravity with the temperature its scale is true at, if told."""

    value: float
    is_sg: bool
    reference_c: float | None = None

    @property
    def g_kg(self) -> float:
        if not self.is_sg:
            return self.value
        return salinity_of_sg(
            max(self.value, 1.0), self.reference_c if self.reference_c is not None else USUAL_REFERENCE_C
        )


def read_salinity(typed: str, field: str = "salinity") -> TypedSalinity:
    """'35', '35 g/kg' or '35 ppt' as it is; '1.026 sg' and '1.026 sg @ 20' converted, at the scale's own temperature.

    Raises Refused for what is no number, and for a figure that can only have been meant in the other unit (1.025 as
    g/kg, 35 as SG).
    """
    text = typed.strip().lower()
    found = _SALINITY.match(text)
    if not found:
        raise Refused(f"“{typed[:40]}” is not a salinity; write 35 for g/kg or 1.026 sg.", field)
    value = number(found[1], field)
    is_sg, unit_given = "sg" in text, found[2] is not None
    reference = None
    if found[3]:
        reference = number(found[3], field, low=COLDEST_REFERENCE_C, high=WARMEST_REFERENCE_C)
        if not is_sg:
            raise Refused("A temperature belongs to a specific gravity: write 1.026 sg @ 25.", field)
    if is_sg:
        if not 0.99 <= value <= 1.06:
            raise Refused(
                f"{figure(value, 4)} is no specific gravity (0.99 to 1.06). For g/kg write {figure(value)} alone.",
                field,
            )
    elif SG_FROM <= value <= SG_TO and not unit_given:
        raise Refused(
            f"{value:.4g} looks like a specific gravity: write “{value:.4g} sg” "
            f"({figure(salinity_of_sg(value))} g/kg), or “{value:.4g} g/kg” if you mean that.",
            field,
        )
    elif not 0 <= value <= MOST_G_KG:
        raise Refused(f"{figure(value)} g/kg is not within 0 to {MOST_G_KG:.0f}.", field)
    return TypedSalinity(value, is_sg, reference)


FLOATS = ("hydrometer", "swing_arm")  # these read by density, and so by temperature


def read_with(instrument: Instrument, typed: str, sample_c: float, field: str) -> float:
    """g/kg of what an instrument shows in water of `sample_c`: what floats is corrected to its own temperature when it
    was typed as specific gravity. Raises Refused as read_salinity does."""
    told = read_salinity(typed, field)
    if told.is_sg and instrument.kind in FLOATS:
        true_at = instrument.calibrated_at_c if told.reference_c is None else told.reference_c
        return salinity_by_hydrometer(told.value, sample_c, true_at)
    return told.g_kg


def stale_calibration(instrument: Instrument, today: date) -> bool:
    return instrument.calibrated_on is None or (today - instrument.calibrated_on).days > CALIBRATION_DAYS


def disagreement_g_kg(kinds: tuple[str, str]) -> float:
    """The most that two such instruments may differ before one of them is wrong."""
    return max(AGREE_G_KG[kinds[0]], AGREE_G_KG[kinds[1]])


@dataclass(frozen=True)
class Comparison:
    """Two instruments in the same water: the mean of what they say, how far apart, and what to make of it."""

    mean_g_kg: float
    apart_g_kg: float
    allowed_g_kg: float
    words: str

    @property
    def agree(self) -> bool:
        return self.apart_g_kg <= self.allowed_g_kg


def compare(first: Instrument, first_g_kg: float, second: Instrument, second_g_kg: float, today: date) -> Comparison:
    """Agreement within what such instruments may differ; else which one to doubt, by its calibration.

    Raises Refused for one instrument compared with itself.
    """
    if first.name == second.name:
        raise Refused("One instrument cannot confirm itself: choose two.", "second")
    apart, allowed = abs(first_g_kg - second_g_kg), disagreement_g_kg((first.kind, second.kind))
    stale = [i for i in (first, second) if stale_calibration(i, today)]
    names = f"{first.name} says {figure(first_g_kg)}, {second.name} {figure(second_g_kg)} g/kg"
    if apart <= allowed:
        words = f"They agree: {names}."
        if stale:
            words += f" But {_calibrated(stale[0], today)}."
    elif len(stale) == 1:
        words = f"They disagree: {names}. Doubt {stale[0].name} first: {_calibrated(stale[0], today)}."
    else:
        words = f"They disagree: {names}. Calibrate both, or ask for a third; do not correct the water yet."
    return Comparison((first_g_kg + second_g_kg) / 2, apart, allowed, words)


def _calibrated(one: Instrument, today: date) -> str:
    if one.calibrated_on is None:
        return f"no calibration of {one.name} is on record"
    return f"{one.name} was calibrated {(today - one.calibrated_on).days} days ago"
