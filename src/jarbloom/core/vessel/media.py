"""How much bloom the surfaces of a tank can hold: useful area, ceiling, and what the flow lets through."""

from __future__ import annotations

from collections.abc import Mapping

from jarbloom.core.model.reference import Media
from jarbloom.core.model.tank import Filter, Tank
from jarbloom.core.vessel.heat import areas
from jarbloom.core.vessel.shapes import has_shape
from jarbloom.core.vessel.volume import decor_kg, net_l, substrate_mean_cm, vessel

# g N per m2 and day at 25 deg C at low concentration: 0.1 to 0.4 (docs/science.md, ceiling); geometric middle
AREAL_RATE_G_M2_DAY = 0.2
# Useful m2 for each m2 of bed: by its footprint, since water reaches the grains below by diffusion alone; about 0.1 g N
# per m2 of bed and day, more where it is coarse enough for water to move (judgement)
BED_M2_PER_M2 = {"none": 0.0, "sand": 0.5, "gravel": 0.8, "soil": 0.5}
ROCK_M2_PER_KG = 0.3  # porous reef rock, about (docs/science.md, ceiling)


def filter_surface_m2(one: Filter, media: Mapping[str, Media]) -> float:
    return one.media_l * media[one.media].m2_per_l


def useful_surface_m2(tank: Tank, media: Mapping[str, Media]) -> float:
    """Media of all filters, the bed by its footprint, porous rock, and the glass once."""
    area = sum(filter_surface_m2(f, media) for f in tank.filters)
    area += sum(ROCK_M2_PER_KG * decor_kg(d) for d in tank.decor if d.kind == "reef_rock")
    if has_shape(tank):
        v = vessel(tank)
        area += v.surface_m2 * BED_M2_PER_M2[tank.substrate if substrate_mean_cm(tank) > 0 else "none"]
        area += v.glass_m2
    else:  # known by its litres only: glass and bed of an ordinary tank of that size, said to be assumed
        plan = areas(tank)
        area += plan.surface * BED_M2_PER_M2[tank.substrate] + plan.sides + plan.bottom
    return area


def assumed_surfaces(tank: Tank) -> bool:
    """Glass and bed are those of an ordinary tank of that size, since only its litres are known."""
    return not has_shape(tank)


def ceiling_mg_n_day(tank: Tank, media: Mapping[str, Media]) -> float:
    """What a full-grown colony on these surfaces turns over in a day at 25 deg C; good to a factor of two."""
    return 1000 * useful_surface_m2(tank, media) * AREAL_RATE_G_M2_DAY


def turnover_per_h(tank: Tank) -> float:
    """Tank volumes an hour. Turnover is flow, not bacteria."""
    return tank.flow_l_h / net_l(tank)


def clears_at_most_mg_n_day(tank: Tank, concentration_mg_n_l: float) -> float:
    """Mass transfer: what passes through the filters in a day bounds what they can clear, flow x concentration."""
    return tank.flow_l_h * 24 * concentration_mg_n_l
