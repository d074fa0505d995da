"""Page data of waters: what a source or a mix holds, the recipe, and instruments with their calibration."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.model.kit import MG_PER_MG_N
from jarbloom.core.model.tank import Instrument, Source, Tank, Water
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import unionised_fraction
from jarbloom.core.water.mixing import Mix
from jarbloom.core.water.salinity import (
    CALIBRATION_DAYS,
    INSTRUMENTS,
    salinity_by_hydrometer,
    specific_gravity,
    stale_calibration,
)
from jarbloom.units import NBSP, Units, figure

KINDS = (
    ("tap", "tap"),
    ("ro", "reverse osmosis"),
    ("rain", "rain"),
    ("well", "well"),
    ("other", "other"),
)
CHLORINE_WORDS = {"none": "no chlorine", "chlorine": "chlorine", "chloramine": "chloramine", "unknown": "chlorine?"}


@dataclass(frozen=True)
class WaterRow:
    id: int
    name: str
    kind: str
    cells: tuple[str, ...]
    measured: str
    note: str


HEADS = (
    "pH",
    "KH, dKH",
    "GH, dGH",
    "TDS, mg/L",
    "ammonia, mg N/L",
    "nitrate, mg N/L",
    "phosphate, mg/L",
    "disinfected",
)


def cells(source: Source) -> tuple[str, ...]:
    """In the order of HEADS."""

    def text(value: float | None) -> str:
        return "not known" if value is None else figure(value, 3)

    chlorine = CHLORINE_WORDS[source.chlorine]
    if source.chlorine_mg_l and source.chlorine != "none":
        chlorine += f" {figure(source.chlorine_mg_l, 2)}"
    return (
        figure(source.ph, 2), text(source.kh_dkh), text(source.gh_dgh), text(source.tds_mg_l),
        figure(source.brings_mg_n_l, 2), figure(source.nitrate_mg_n_l, 2), text(source.phosphate_mg_l), chlorine,
    )  # fmt: skip


def water_row(w: Water, today: date) -> WaterRow:
    kind = dict(KINDS)[w.kind]
    measured = f"{w.measured_on:%-d %b %Y}" if w.measured_on else "day not noted"
    if w.measured_on and (today - w.measured_on).days > 365:
        measured += ", more than a year ago"
    return WaterRow(w.id, w.name, kind, cells(w.source), measured, w.note)


@dataclass(frozen=True)
class InstrumentRow:
    id: int
    name: str
    kind: str
    calibrated: str
    stale: bool


def instrument_row(one: Instrument, today: date) -> InstrumentRow:
    if one.calibrated_on is None:
        told = "no calibration noted"
    else:
        days = (today - one.calibrated_on).days
        told = "calibrated today" if days == 0 else f"calibrated {days} day{'s' if days != 1 else ''} ago"
        if days > CALIBRATION_DAYS:
            told += f", more than {CALIBRATION_DAYS}"
    return InstrumentRow(one.id, one.name, INSTRUMENTS[one.kind], told, stale_calibration(one, today))


@dataclass(frozen=True)
class MixLook:
    lines: tuple[tuple[str, str], ...]
    holds: tuple[tuple[str, str], ...]
    salted: bool
    words: tuple[str, ...]


def mix_look(m: Mix, tank: Tank, units: Units) -> MixLook:
    lines = [(w.name, units.volume(v)) for w, v in m.parts]
    if m.buffer is not None:
        lines.append(("sodium bicarbonate", f"{figure(m.buffer.grams, 3)}{NBSP}g"))
    if m.salt_g:
        lines.append((f"salt for {figure(m.salinity_g_kg)}{NBSP}g/kg", units.mass(m.salt_g)))
    holds = tuple(zip(HEADS, cells(m.source), strict=True))
    words = ["Everything dissolved is mixed by litres; pH by alkalinity and carbon, right after mixing."]
    if m.salt_g:
        words.append(
            f"For the finished water; {figure(m.salt_factor, 3)} g of your salt for a gram dissolved. "
            "KH and pH of salt water come from the "
            "salt too: read them once it is mixed."
        )
    if m.buffer is not None:
        words.append("Dissolve the bicarbonate in a jug first; a day in the air lifts the pH a little more.")
    if m.source.chlorine in ("chlorine", "chloramine", "unknown"):
        words.append("Condition it before anything alive meets it.")
    nh3 = m.source.brings_mg_n_l
    if nh3 >= 0.05:
        free = nh3 * float(unionised_fraction(m.source.ph, tank.temp_c, m.salinity_g_kg))
        words.append(
            f"It brings {figure(nh3, 2)}{NBSP}mg/L ammonia along, {figure(free, 2)} of it un-ionised at this pH: "
            "change in smaller steps, or let the bloom of a bucket filter take it first."
        )
    nitrate = m.source.nitrate_mg_n_l * MG_PER_MG_N["NO3"]
    if nitrate > 20:
        words.append(f"{figure(nitrate, 2)}{NBSP}mg/L nitrate as ion come with it: changes cannot go below that.")
    return MixLook(tuple(lines), holds, m.salt_g > 0, tuple(words))


def salinity_words(g_kg: float, temp_c: float, units: Units) -> str:
    """A salinity as specific gravity, at 25 deg C and as a glass hydrometer for 25 floats at the tank's temperature."""
    sg = specific_gravity(g_kg)
    return f"{figure(g_kg, 3)}{NBSP}g/kg is SG {sg:.4f} at 25{NBSP}°C"


def hydrometer_words(reading: float, sample_c: float, calibrated_c: float, units: Units) -> str:
    s = salinity_by_hydrometer(reading, sample_c, calibrated_c)
    return (
        f"A glass hydrometer for {units.temp(calibrated_c)} that shows {reading:.4f} in water of "
        f"{units.temp(sample_c)} floats in {figure(s, 3)}{NBSP}g/kg."
    )


def tank_water_facts(tank: Tank, units: Units) -> tuple[tuple[str, str], ...]:
    share = 100 * float(unionised_fraction(tank.ph, tank.temp_c, tank.salinity_g_kg))
    found = [
        ("this is", {"fresh": "fresh water", "brackish": "brackish water", "marine": "sea water"}[tank.water_kind]),
        (f"un-ionised at pH {figure(tank.ph, 2)} and {units.temp(tank.temp_c)}", f"{figure(share, 2)} % of ammonia"),
        ("water in it", units.volume(net_l(tank))),
    ]
    if tank.salinity_g_kg:
        found.insert(1, ("salinity", salinity_words(tank.salinity_g_kg, tank.temp_c, units)))
    return tuple(found)
