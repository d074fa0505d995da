"""How much bloom the surfaces of a tank can hold: useful area, ceiling, and what the flow lets through."""

from __future__ import annotations

from dataclasses import dataclass

from jarbloom.core.model import Tank
from jarbloom.core.vessel.box import has_shape, net_l

# g N per m2 and day at 25 deg C at low concentration: 0.1 to 0.4 (2-science.md section 6); geometric middle
AREAL_RATE_G_M2_DAY = 0.2
BED_M2_PER_L = {"none": 0.0, "sand": 1.0, "gravel": 0.3, "soil": 0.6}  # per litre of the upper 2 cm


@dataclass(frozen=True)
class Media:
    """Filter media with the surface that bacteria and water flow can really use, m2 per litre."""

    key: str
    name: str
    m2_per_l_low: float
    m2_per_l_high: float
    note: str

    @property
    def m2_per_l(self) -> float:
        return (self.m2_per_l_low + self.m2_per_l_high) / 2


def useful_surface_m2(tank: Tank, media: Media) -> float:
    """Filter media, upper 2 cm of the bed, and the glass once."""
    area = tank.media_l * media.m2_per_l
    if has_shape(tank):
        length, width, height = tank.length_cm, tank.width_cm, tank.height_cm
        assert length and width and height
        area += length * width * min(tank.substrate_cm, 2.0) / 1000 * BED_M2_PER_L[tank.substrate]
        area += (2 * (length + width) * (height - tank.waterline_cm) + length * width) / 10_000
    return area


def ceiling_mg_n_day(tank: Tank, media: Media) -> float:
    """What a full-grown colony on these surfaces turns over in a day at 25 deg C; good to a factor of two."""
    return 1000 * useful_surface_m2(tank, media) * AREAL_RATE_G_M2_DAY


def turnover_per_h(tank: Tank) -> float:
    """Tank volumes an hour. Turnover is flow, not bacteria."""
    return tank.flow_l_h / net_l(tank)
