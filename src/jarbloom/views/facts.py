"""What follows from a tank's settings, in words: litres, weight, flow, what its surfaces can hold."""

from __future__ import annotations

from jarbloom.core.model import Tank
from jarbloom.core.reference import Reference
from jarbloom.core.vessel.media import ceiling_mg_n_day, turnover_per_h
from jarbloom.core.vessel.volume import floor_load_kg_m2, net_l, surface_m2, weight_kg
from jarbloom.units import NBSP, Units, figure


def tank_facts(tank: Tank, reference: Reference, units: Units) -> tuple[tuple[str, str], ...]:
    """(what, figure) pairs for a tank as saved."""
    ceiling = ceiling_mg_n_day(tank, reference.media)
    found = [
        ("net water", units.volume(net_l(tank)) + (" (counted)" if tank.measured_l else "")),
        ("turnover", f"{figure(turnover_per_h(tank), 2)} volumes an hour"),
        ("ceiling of its surfaces, within a factor of two", f"about {figure(ceiling, 2)}{NBSP}mg{NBSP}N a day"),
        ("filled, without stand, about", f"{weight_kg(tank):.0f}{NBSP}kg"),
    ]
    area, load = surface_m2(tank), floor_load_kg_m2(tank)
    if area and load:
        found.append(("on its footprint", f"{load:.0f}{NBSP}kg/m²"))
    return tuple(found)
