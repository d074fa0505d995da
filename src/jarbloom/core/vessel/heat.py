"""Heat: what a tank loses to its room, what its heaters must give, and what happens when one fails."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.shapes import has_shape, inner, inner_height_cm
from jarbloom.core.vessel.volume import decor_kg, geometric_net_l, net_l, surface_m2, vessel

Array = NDArray[np.float64]
# W/m2 K (docs/science.md, heat): single glass to room air, radiation included; the lid's is judgement: still air
# between water and glass
U_GLASS, U_BOTTOM, U_OPEN, U_LID = 7.0, 2.0, 6.0, 3.0
LATENT_W_PER_L_H = 680.0
EVAPORATION = {False: 0.1, True: 0.02}  # L per m2, hour and kPa; open, with a lid
WATER_J_L_K, STONE_J_KG_K = 4180.0, 840.0
RULE_W_PER_L = 1.0
LETHAL_HIGH_C, LETHAL_LOW_C = 34.0, 15.0  # where most tropical fish die within a day or so; judgement
CURVE_H, CURVE_STEP_H = 72, 0.5
COLDEST_C, HOTTEST_C = -20.0, 100.0
FAR_MORE = 1.3  # times what the sizes hold; a counted fill is less exact than a tape, but not by so much (judgement)


def vapour_pressure_kpa(temp_c: float) -> float:
    """Saturation vapour pressure over water, kPa, 0 to 50 deg C (Buck 1981, J. Appl. Meteorol. 20:1527).

    >>> round(vapour_pressure_kpa(25.0), 2)
    3.17
    """
    return 0.61121 * math.exp((18.678 - temp_c / 234.5) * temp_c / (257.14 + temp_c))


def evaporation_l_day(area_m2: float, water_c: float, room_c: float, room_rh: float, lid: bool) -> float:
    """Litres a day that leave the surface; `room_rh` in percent. An estimate (docs/science.md, evaporation).

    >>> round(evaporation_l_day(0.28, 25.0, 21.0, 50.0, lid=False), 1)
    1.3
    """
    drive = vapour_pressure_kpa(water_c) - room_rh / 100 * vapour_pressure_kpa(room_c)
    return 24 * EVAPORATION[lid] * area_m2 * max(0.0, drive)


@dataclass(frozen=True)
class Areas:
    """m2 through which heat leaves."""

    sides: float
    bottom: float
    surface: float


def areas(tank: Tank) -> Areas:
    """Of the geometry; a tank known by its litres only is taken as a box of usual proportions. Where far more was
    counted in than the sizes hold, one of the two is wrong or a part is missing: the box is taken as so much larger."""
    if has_shape(tank):
        plan = inner(tank)
        beyond = net_l(tank) / geometric_net_l(tank)
        larger = beyond ** (2 / 3) if beyond > FAR_MORE else 1.0
        top = larger * plan.area_cm2 / 10_000
        return Areas(larger * plan.perimeter_cm * (inner_height_cm(tank) - tank.waterline_cm) / 10_000, top, top)
    side = (net_l(tank) / 1000) ** (1 / 3)  # of a cube that holds as much, in m
    return Areas(4.2 * side**2, side**2, side**2)


def loss_w(tank: Tank, water_c: float) -> float:
    """Watts that leave at a water temperature: glass, bottom, surface, and evaporation's latent heat."""
    a, rise = areas(tank), water_c - tank.room_c
    evaporated = evaporation_l_day(a.surface, water_c, tank.room_c, tank.room_rh, tank.lid) / 24
    top = U_LID if tank.lid else U_OPEN
    return (U_GLASS * a.sides + U_BOTTOM * a.bottom + top * a.surface) * rise + LATENT_W_PER_L_H * evaporated


def needed_w(tank: Tank) -> float:
    """Steady heating power for the tank's temperature in this room."""
    return max(0.0, loss_w(tank, tank.temp_c))


def rule_of_thumb_w(tank: Tank) -> float:
    return RULE_W_PER_L * net_l(tank)


def settles_at_c(tank: Tank, watts: float) -> float:
    """Temperature at which this power just covers the loss."""
    low, high = COLDEST_C, HOTTEST_C
    for _ in range(50):
        mid = 0.5 * (low + high)
        low, high = (mid, high) if loss_w(tank, mid) < watts else (low, mid)
    return 0.5 * (low + high)


def heat_capacity_j_k(tank: Tank) -> float:
    """Water, bed, stone and glass together."""
    dry = sum(decor_kg(d) for d in tank.decor)
    if has_shape(tank):
        v = vessel(tank)
        dry += v.grains_l * 2.65 + v.glass_kg
    return net_l(tank) * WATER_J_L_K + dry * STONE_J_KG_K


@dataclass(frozen=True)
class Failure:
    """What happens after a heater fails. `hours_to_limit` None: the lethal limit is not reached in three days."""

    name: str
    watts: float
    hours: Array  # (n_hour,)
    temps_c: Array
    settles_c: float
    limit_c: float
    hours_to_limit: float | None


def _course(tank: Tank, watts: float, thermostats: Sequence[tuple[float, float]]) -> tuple[Array, Array]:
    """Temperature by half hours: `watts` that never stop, and heaters that switch at their own setting."""
    capacity, n = heat_capacity_j_k(tank), int(CURVE_H / CURVE_STEP_H)
    temps = np.empty(n + 1)
    temps[0] = tank.temp_c
    for k in range(n):
        now = float(temps[k])
        lost = loss_w(tank, now)
        wanted = max((s for _, s in thermostats), default=-math.inf)
        able = sum(w for w, s in thermostats if s > now - 0.05)
        # a thermostat gives what holds its setting, at most its power
        given = min(able, max(0.0, lost - watts + (wanted - now) * capacity / (3600 * CURVE_STEP_H))) if able else 0.0
        temps[k + 1] = now + (watts + given - lost) * 3600 * CURVE_STEP_H / capacity
    return np.linspace(0.0, n * CURVE_STEP_H, n + 1), temps


def failures(tank: Tank) -> tuple[Failure, ...]:
    """The largest heater stuck on, and dead, the others working."""
    if not tank.heaters:
        return ()
    worst = max(range(len(tank.heaters)), key=lambda k: tank.heaters[k].watts)
    others = [(h.watts, h.set_c or tank.temp_c) for k, h in enumerate(tank.heaters) if k != worst]
    watts, found = tank.heaters[worst].watts, []
    one = "the heater" if not others else "the larger heater"
    for name, on, limit in ((f"{one} stuck on", watts, LETHAL_HIGH_C), (f"{one} dead", 0.0, LETHAL_LOW_C)):
        hours, temps = _course(tank, on, others)
        over = np.flatnonzero(temps >= limit if on else temps <= limit)
        settles = settles_at_c(tank, on)
        if others and not on:
            settles = min(settles_at_c(tank, sum(w for w, _ in others)), max(s for _, s in others))
        if others and on:
            settles = max(settles, min(settles_at_c(tank, on + sum(w for w, _ in others)), max(s for _, s in others)))
        at = float(hours[over[0]]) if len(over) else None
        found.append(Failure(name, watts, hours, temps, settles, limit, at))
    return tuple(found)


def topoff_drift_g_kg_day(tank: Tank) -> float:
    """How fast salinity climbs while evaporated water is not made up, g/kg a day."""
    lost = evaporation_l_day(surface_m2(tank) or areas(tank).surface, tank.temp_c, tank.room_c, tank.room_rh, tank.lid)
    return tank.salinity_g_kg * lost / max(net_l(tank) - lost, 1.0)
