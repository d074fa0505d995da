"""Oxygen: saturation, and what is left by night when everything breathes and nothing makes it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import gsw

from jarbloom.core.water.salinity import density_kg_l

O2_G_MOL = 31.998
K_L_M_DAY = {"still": 0.5, "rippled": 1.5, "broken": 4.0}  # docs/science.md, oxygen
FISH_MG_O2_G_H = 0.3  # at 25 deg C, 0.25 to 0.4; Q10 about 2
NITRIFICATION_MG_O2_MG_N = 4.57
FEED_BOD = 0.3  # g O2 that bacteria and bed take for each g of dry feed a day; judgement
COMFORT_MG_L, HARM_MG_L = 5.0, 3.0  # most keep above 5; below 3 many fish gasp. Judgement


def saturation_mg_l(temp_c: float, salinity_g_kg: float = 0.0) -> float:
    """Oxygen at equilibrium with moist air at one atmosphere, mg/L (Garcia & Gordon 1992, as in gsw.O2sol_SP_pt).

    >>> round(saturation_mg_l(25.0), 2)
    8.26
    """
    micromol_kg = float(gsw.O2sol_SP_pt(salinity_g_kg, temp_c))
    return micromol_kg * O2_G_MOL / 1000 * density_kg_l(salinity_g_kg, temp_c)


@dataclass(frozen=True)
class Night:
    """Oxygen towards morning, mg/L, with what takes it, mg O2 a day."""

    saturation: float
    predicted: float
    fish: float
    nitrification: float
    heterotrophs: float

    @property
    def margin(self) -> float:
        return self.predicted - COMFORT_MG_L


def by_night(
    animal_g: float,
    load_mg_n_day: float,
    feed_g_day: float,
    area_m2: float,
    surface: str,
    temp_c: float,
    salinity_g_kg: float = 0.0,
) -> Night:
    """Steady state of supply and demand: K_L A (sat - DO) = fish + nitrification + heterotrophs. Plants take some too
    by night; that is not in it. An estimate: good to one or two mg/L."""
    sat = saturation_mg_l(temp_c, salinity_g_kg)
    fish = animal_g * FISH_MG_O2_G_H * 24 * 2 ** ((temp_c - 25) / 10)
    nitrifiers = NITRIFICATION_MG_O2_MG_N * load_mg_n_day
    rest = 1000 * FEED_BOD * feed_g_day
    supply_per_mg_l = 1000 * K_L_M_DAY[surface] * area_m2  # mg O2 a day for each mg/L of deficit
    return Night(sat, max(0.0, sat - (fish + nitrifiers + rest) / supply_per_mg_l), fish, nitrifiers, rest)


BED_MG_O2_L_H = 0.2  # what bed, walls and water take, mg O2 an hour for each litre; a shut canister no longer counts
CRITICAL_MG_L, CRITICAL_TENDER_MG_L = 3.0, 4.0  # where fish are harmed; tender fish and corals. Judgement
START_SHARE = 0.91  # of saturation, where nobody measured


def hours_left(
    volume_l: float,
    area_m2: float,
    animal_g: float,
    temp_c: float,
    salinity_g_kg: float = 0.0,
    *,
    surface: str = "still",
    start_mg_l: float | None = None,
    critical_mg_l: float = CRITICAL_MG_L,
) -> float:
    """Hours until oxygen has fallen to `critical_mg_l` with the machines off; infinite where the surface brings enough.

    Well mixed: dO/dt = k (sat - O) - R/V with k = K_L A / V (docs/science.md, oxygen). Half of it is what one may
    promise: the surface of a still tank is not mixed down.

    >>> round(hours_left(100, 0.30, 200, 25.0, start_mg_l=7.5), 1)
    7.5
    >>> hours_left(100, 0.30, 200, 25.0, surface="rippled", start_mg_l=7.5)
    inf
    """
    sat = saturation_mg_l(temp_c, salinity_g_kg)
    start = START_SHARE * sat if start_mg_l is None else start_mg_l
    if start <= critical_mg_l:
        return 0.0
    taken = animal_g * FISH_MG_O2_G_H * 2 ** ((temp_c - 25) / 10) + BED_MG_O2_L_H * volume_l
    k = K_L_M_DAY[surface] * area_m2 / 24 / (volume_l / 1000)
    rests_at = sat - taken / (k * volume_l)
    if rests_at >= critical_mg_l:
        return math.inf
    return math.log((start - rests_at) / (critical_mg_l - rests_at)) / k
