"""The tank as an animal finds it: what compatibility and the finder ask of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.model.species import Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.media import turnover_per_h
from jarbloom.core.vessel.volume import net_l

# Volumes an hour that a row's word for flow means (docs/schools.md, the others)
FLOWS = {"still": (0.0, 4.0), "gentle": (2.0, 7.0), "general": (4.0, 10.0), "brisk": (6.0, 30.0)}


@dataclass(frozen=True)
class Home:
    """Litres, cm, deg C, dGH, g/kg, volumes an hour. None: not known, so nothing is concluded from it."""

    name: str
    litres: float
    length_cm: float | None
    width_cm: float | None
    temp_c: float
    ph: float
    gh_dgh: float | None
    salinity_g_kg: float
    turnover: float
    lid: bool
    planted: bool
    started: date
    experienced: bool = False
    seasons_c: tuple[float, float] | None = (
        None  # coldest and warmest of a tank without a heater, which follows its room
    )

    def least_litres(self, kind: Species) -> float:
        return kind.min_l_experienced if self.experienced else kind.min_l_cautious

    def least_length_cm(self, kind: Species) -> float:
        return kind.min_length_experienced_cm if self.experienced else kind.min_length_cm

    def age_months(self, on: date) -> float:
        return max(0.0, (on - self.started).days / 30.44)

    def other_least_litres(self, kind: Species) -> float:
        """By the other school, for the sentence."""
        return kind.min_l_cautious if self.experienced else kind.min_l_experienced


def home_of(tank: Tank) -> Home:
    boxy = tank.shape in ("box", "bow_front")
    return Home(
        tank.name,
        net_l(tank),
        tank.length_cm,
        (tank.width_cm if boxy else tank.length_cm),
        tank.temp_c,
        tank.ph,
        tank.source.gh_dgh if not tank.salinity_g_kg else None,
        tank.salinity_g_kg,
        turnover_per_h(tank),
        tank.lid,
        tank.planted,
        tank.started,
        tank.minimum == "experienced",
        None if tank.heater_w else seasons_c(tank),
    )


def seasons_c(tank: Tank) -> tuple[float, float]:
    """Coldest and warmest water without a heater, deg C: that of the room in its coldest hours and warmest days (the
    pump's heat and what evaporation takes are about a degree each, and against each other: core/vessel/heat)."""
    return min(tank.room_c, tank.room_warm_c), max(tank.room_c, tank.room_warm_c)
