"""A box of water: litres, surface, weight, and the checks that geometry must pass."""

from __future__ import annotations

from jarbloom.core.model import Tank
from jarbloom.errors import Refused

# Pore water counts as water (2-science.md section 2).
POROSITY = {"none": 1.0, "sand": 0.40, "gravel": 0.40, "soil": 0.45}
SUBSTRATE_KG_L = {"none": 0.0, "sand": 1.6, "gravel": 1.6, "soil": 0.9}  # bulk, dry; judgement
GLASS_KG_PER_M2 = 25.0  # 10 mm float glass


def gross_l(length_cm: float, width_cm: float, height_cm: float) -> float:
    """Litres to the rim."""
    return length_cm * width_cm * height_cm / 1000


def has_shape(tank: Tank) -> bool:
    return None not in (tank.length_cm, tank.width_cm, tank.height_cm)


def geometric_net_l(tank: Tank) -> float:
    """Litres of water in a filled box: to the water line, less the grains of the substrate."""
    assert tank.length_cm and tank.width_cm and tank.height_cm
    area = tank.length_cm * tank.width_cm / 1000
    solid = tank.substrate_cm * (1 - POROSITY[tank.substrate])
    return area * (tank.height_cm - tank.waterline_cm - solid)


def net_l(tank: Tank) -> float:
    """Net litres: a measured fill beats geometry. Raises Refused when neither is known."""
    if tank.measured_l is not None:
        return tank.measured_l
    if not has_shape(tank):
        raise Refused("Give the inside dimensions or the litres you counted in.", "measured_l")
    return geometric_net_l(tank)


def surface_m2(tank: Tank) -> float | None:
    if not (tank.length_cm and tank.width_cm):
        return None
    return tank.length_cm * tank.width_cm / 10_000


def weight_kg(tank: Tank) -> float:
    """Weight of the filled tank without stand: water, substrate, glass. An estimate."""
    water = net_l(tank)
    if not has_shape(tank):
        return 1.2 * water
    assert tank.length_cm and tank.width_cm and tank.height_cm
    glass_m2 = (tank.length_cm * tank.width_cm + 2 * tank.height_cm * (tank.length_cm + tank.width_cm)) / 10_000
    bed_l = tank.length_cm * tank.width_cm * tank.substrate_cm / 1000
    return water + bed_l * SUBSTRATE_KG_L[tank.substrate] + glass_m2 * GLASS_KG_PER_M2


def floor_load_kg_m2(tank: Tank) -> float | None:
    area = surface_m2(tank)
    return None if area is None else weight_kg(tank) / area


def check_geometry(tank: Tank) -> None:
    """Raises Refused naming the field for a box that cannot be."""
    if tank.height_cm is not None:
        if tank.waterline_cm >= tank.height_cm:
            raise Refused("The water line lies at or below the bottom of the tank.", "waterline_cm")
        if tank.substrate_cm >= tank.height_cm - tank.waterline_cm:
            raise Refused("The substrate is deeper than the water.", "substrate_cm")
    if net_l(tank) < 1:
        raise Refused("That holds less than a litre of water.", "measured_l")
    if tank.measured_l is not None and has_shape(tank):
        rim = gross_l(tank.length_cm, tank.width_cm, tank.height_cm)  # type: ignore[arg-type]
        if tank.measured_l > rim:
            raise Refused(f"The tank holds {rim:.0f} L to its rim; the counted fill is more than that.", "measured_l")
