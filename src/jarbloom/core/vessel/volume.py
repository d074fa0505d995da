"""Litres, surface and weight of a tank, and the checks that its geometry must pass."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from jarbloom.core.model.tank import Decor, Tank
from jarbloom.core.vessel.shapes import SHAPES, glass_cm, has_shape, inner, inner_height_cm, outer
from jarbloom.errors import Refused

# Pore water counts as water (docs/science.md, water volume).
POROSITY = {"none": 1.0, "sand": 0.40, "gravel": 0.40, "soil": 0.45}
SUBSTRATE_KG_L = {"none": 0.0, "sand": 1.6, "gravel": 1.6, "soil": 0.9}  # bulk, dry; judgement
DENSITY_KG_L = {"stone": 2.6, "reef_rock": 1.5, "wood": 0.9}  # docs/science.md, water volume
DECOR_NAMES = {"stone": "stone", "reef_rock": "porous reef rock", "wood": "wood"}
GLASS_KG_L = 2.5  # float glass
FOOTPRINT_UNKNOWN_KG_L = 1.2  # a whole tank for a litre of water, where only the litres are known


def decor_l(item: Decor) -> float:
    return item.amount if item.unit == "L" else item.amount / DENSITY_KG_L[item.kind]


def decor_kg(item: Decor) -> float:
    return item.amount if item.unit == "kg" else item.amount * DENSITY_KG_L[item.kind]


def substrate_back_cm(tank: Tank) -> float:
    return tank.substrate_cm if tank.substrate_back_cm is None else tank.substrate_back_cm


def substrate_at_cm(tank: Tank, y_cm: float) -> float:
    """Depth of the bed at a distance from the front: it rises evenly from front to back."""
    plan = inner(tank)
    share = (y_cm - plan.front_cm) / max(plan.back_cm - plan.front_cm, 1e-9)
    return tank.substrate_cm + share * (substrate_back_cm(tank) - tank.substrate_cm)


def substrate_mean_cm(tank: Tank) -> float:
    """Mean depth of the bed: of an even slope it is the depth under the centroid of the outline, for any shape."""
    return substrate_at_cm(tank, inner(tank).centre_y_cm) if has_shape(tank) else tank.substrate_cm


@dataclass(frozen=True)
class Vessel:
    """What follows from the geometry. Litres, m2, kg; `net_l` is in the tank itself, without sump and filters."""

    gross_l: float
    net_l: float
    bed_l: float
    grains_l: float
    decor_l: float
    surface_m2: float
    footprint_m2: float
    glass_m2: float
    glass_kg: float


@lru_cache(maxsize=64)
def vessel(tank: Tank) -> Vessel:
    """Geometry of a tank of which all sizes are known; see `has_shape`."""
    plan, floor, height = inner(tank), outer(tank), inner_height_cm(tank)
    bed = plan.area_cm2 * substrate_mean_cm(tank) / 1000
    grains = bed * (1 - POROSITY[tank.substrate])
    decor = sum(decor_l(d) for d in tank.decor)
    to_line = plan.area_cm2 * (height - tank.waterline_cm) / 1000
    glass_cm3 = (floor.area_cm2 - plan.area_cm2) * height + floor.area_cm2 * glass_cm(tank)
    return Vessel(
        plan.area_cm2 * height / 1000,
        to_line - grains - decor,
        bed,
        grains,
        decor,
        plan.area_cm2 / 10_000,
        floor.area_cm2 / 10_000,
        (plan.perimeter_cm * (height - tank.waterline_cm) + plan.area_cm2) / 10_000,
        glass_cm3 / 1000 * GLASS_KG_L,
    )


def beside_l(tank: Tank) -> float:
    """Water in the sump and the filters, in litres."""
    return tank.sump_l + sum(f.water_l for f in tank.filters)


def geometric_net_l(tank: Tank) -> float:
    """Litres of water in the whole system by geometry: to the water line, less grains, rock and wood."""
    return vessel(tank).net_l + beside_l(tank)


def net_l(tank: Tank) -> float:
    """Net litres: a measured fill beats geometry. Raises Refused when neither is known."""
    if tank.measured_l is not None:
        return tank.measured_l
    if not has_shape(tank):
        raise Refused("Give the sizes of the tank or the litres you counted in.", "measured_l")
    return geometric_net_l(tank)


def surface_m2(tank: Tank) -> float | None:
    return vessel(tank).surface_m2 if has_shape(tank) else None


def weight_kg(tank: Tank) -> float:
    """Weight of the filled tank without stand and sump: water, bed, rock, wood, glass. An estimate."""
    water = max(net_l(tank) - beside_l(tank), 0.0)
    if not has_shape(tank):
        return FOOTPRINT_UNKNOWN_KG_L * water
    v = vessel(tank)
    return water + v.bed_l * SUBSTRATE_KG_L[tank.substrate] + sum(decor_kg(d) for d in tank.decor) + v.glass_kg


def floor_load_kg_m2(tank: Tank) -> float | None:
    return weight_kg(tank) / vessel(tank).footprint_m2 if has_shape(tank) else None


def check_geometry(tank: Tank) -> None:
    """Raises Refused naming the field for a vessel that cannot be."""
    if tank.height_cm is not None and tank.waterline_cm >= tank.height_cm:
        raise Refused("The water line lies at or below the bottom of the tank.", "waterline_cm")
    if has_shape(tank):
        _check_shape(tank)
    if net_l(tank) < 1:
        raise Refused("That holds less than a litre of water.", "measured_l")
    if tank.measured_l is not None and has_shape(tank):
        rim = vessel(tank).gross_l + beside_l(tank)
        if tank.measured_l > rim:
            raise Refused(f"The tank holds {rim:.0f} L to its rim; the counted fill is more than that.", "measured_l")


def _check_shape(tank: Tank) -> None:
    length, width = tank.length_cm or 0.0, tank.width_cm
    least = min(length, width) if width and "width_cm" in SHAPES[tank.shape].needs else length
    if tank.shape in ("half_cylinder", "quarter_round"):
        least = length / 2
    if tank.outside and 2 * glass_cm(tank) >= 0.9 * min(least, tank.height_cm or 0.0):
        raise Refused(f"Glass of {tank.glass_mm:g} mm leaves no room inside this tank.", "glass_mm")
    if tank.shape == "bow_front" and not 0 < (tank.bow_cm or 0.0) <= length / 2:
        raise Refused("The bow is more than nothing and at most half the length.", "bow_cm")
    water = inner_height_cm(tank) - tank.waterline_cm
    if water <= 0:
        raise Refused("The water line lies at or below the bottom of the tank.", "waterline_cm")
    if tank.substrate_cm >= water:
        raise Refused("The substrate is deeper than the water.", "substrate_cm")
    if substrate_back_cm(tank) >= water:
        raise Refused("The substrate is deeper than the water at the back.", "substrate_back_cm")
    v = vessel(tank)
    if v.net_l <= 0:
        raise Refused("Stone and wood take more room than there is water.", "stone")
