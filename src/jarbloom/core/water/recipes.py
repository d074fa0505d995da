"""Arithmetic at the bucket: ammonia doses, refill temperature, conditioner."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jarbloom.errors import Refused

N_SHARE_NH4CL = 14.007 / 53.491  # mass of N in ammonium chloride
N_SHARE_NH3 = 14.007 / 17.031
ALK_MEQ_PER_MG_N = 1 / 14.007  # that ammonia solution brings along: one equivalent for each mol; the chloride none

# Density of aqueous ammonia at 20 deg C, g/mL, by mass percent NH3 (CRC Handbook, density of solutions)
_PERCENT = (0.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0)
_DENSITY = (0.998, 0.977, 0.958, 0.940, 0.923, 0.907, 0.892)


def nitrogen_in_chloride_mg(grams: float) -> float:
    """mg N in so many grams of ammonium chloride.

    >>> round(nitrogen_in_chloride_mg(1.0), 1)
    261.9
    """
    return 1000 * grams * N_SHARE_NH4CL


def nitrogen_in_solution_mg(millilitres: float, percent_nh3: float) -> float:
    """mg N in so many mL of ammonia solution of stated strength (mass percent NH3, 0.1 to 30)."""
    if not 0.1 <= percent_nh3 <= 30:
        raise Refused(f"{percent_nh3} % is no strength that ammonia solution is sold at (0.1 to 30 %).")
    density = float(np.interp(percent_nh3, _PERCENT, _DENSITY))
    return 1000 * millilitres * density * percent_nh3 / 100 * N_SHARE_NH3


def alkalinity_meq(mg_n: float, unit: str, dose_from: str) -> float:
    """Alkalinity that a dose brings, meq: ammonia solution one equivalent a mol, ammonium chloride none. What was
    given in mL was solution, in g chloride; otherwise `dose_from` tells what this keeper has.

    >>> round(alkalinity_meq(14.007, "mL", "chloride"), 6), alkalinity_meq(14.007, "g", "solution")
    (1.0, 0.0)
    """
    source = {"mL": "solution", "g": "chloride"}.get(unit, dose_from)
    return mg_n * ALK_MEQ_PER_MG_N if source == "solution" else 0.0


@dataclass(frozen=True)
class Dose:
    """An ammonia dose: what to put in (amount, unit) and the nitrogen in it."""

    mg_n: float
    amount: float
    unit: str
    of: str


def dose_for(mg_n: float, dose_from: str, solution_percent: float) -> Dose:
    """The amount of the keeper's own ammonia source that holds mg_n of nitrogen."""
    if dose_from == "solution":
        return Dose(mg_n, mg_n / nitrogen_in_solution_mg(1.0, solution_percent), "mL", "ammonia solution")
    return Dose(mg_n, mg_n / nitrogen_in_chloride_mg(1.0), "g", "ammonium chloride")


@dataclass(frozen=True)
class Refill:
    """Refill recipe: litres of hot and cold tap for `temp_c`, and the conditioner."""

    litres: float
    hot_l: float
    cold_l: float
    temp_c: float
    conditioner_ml: float | None
    conditioner_for: str
    step_c: float


def refill(
    litres: float,
    tank_l: float,
    tank_c: float,
    cold_c: float,
    hot_c: float,
    ml_per_100l: float | None,
    whole_tank: bool,
) -> Refill:
    """Hot and cold for a refill at the tank's temperature (mixing linear in mass).

    When the hot tap cannot reach it the recipe is all hot water and `step_c` says what the tank loses.
    """
    if hot_c <= cold_c:
        raise Refused("The hot tap must be warmer than the cold one.", "hot_c")
    share_hot = min(1.0, max(0.0, (tank_c - cold_c) / (hot_c - cold_c)))
    mixed_c = share_hot * hot_c + (1 - share_hot) * cold_c
    dosed_l = tank_l if whole_tank else litres
    conditioner = None if ml_per_100l is None else ml_per_100l * dosed_l / 100
    return Refill(
        litres,
        litres * share_hot,
        litres * (1 - share_hot),
        mixed_c,
        conditioner,
        "the whole tank" if whole_tank else "the new water",
        (mixed_c - tank_c) * litres / tank_l,
    )
