"""What a tank's equipment comes to: heating, flow, surface, oxygen by night and evaporation, in one result."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jarbloom.core.animals.bioload import load_of, mass_g, usual_feed_g_day
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.schools import Turnover
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Filter, Tank
from jarbloom.core.vessel.heat import (
    Failure,
    areas,
    evaporation_l_day,
    failures,
    needed_w,
    rule_of_thumb_w,
    topoff_drift_g_kg_day,
)
from jarbloom.core.vessel.media import (
    AREAL_RATE_G_M2_DAY,
    ceiling_mg_n_day,
    clears_at_most_mg_n_day,
    filter_surface_m2,
    turnover_per_h,
)
from jarbloom.core.water.oxygen import Night, by_night
from jarbloom.errors import Refused

AT_LOW_MG_N_L = 0.25  # concentration at which the flow's bound is told: what kits call nothing


@dataclass(frozen=True)
class FilterWork:
    """One filter: real flow, useful surface, and what a full colony on it turns over in a day at 25 deg C."""

    filter: Filter
    flow_l_h: float
    surface_m2: float
    ceiling_mg_n_day: float


@dataclass(frozen=True)
class Equipment:
    needed_w: float
    rule_w: float
    installed_w: float
    failures: tuple[Failure, ...]
    filters: tuple[FilterWork, ...]
    turnover_per_h: float
    school: Turnover
    ceiling_mg_n_day: float
    through_flow_mg_n_day: float
    night: Night | None  # None: no animals are in or planned
    night_for_g: float
    evaporation_l_day: float
    topped_l_day: float | None  # by the keeper's own top-offs
    drift_g_kg_day: float


def topped_l_day(entries: Sequence[Entry]) -> float | None:
    """Litres a day that were topped up over the last of the log's top-offs; None before there are three. The first
    only begins the count: what it made up for was lost before."""
    tops = Log.of(entries).kinds(TopOff)[-MOST_TOPS:]
    if len(tops) < FEWEST_TOPS:
        return None
    days = (tops[-1].at - tops[0].at).total_seconds() / 86400
    return sum(e.body.litres for e in tops[1:]) / days if days > 0 else None


FEWEST_TOPS, MOST_TOPS = 3, 12


def evaporated_l_day(tank: Tank, entries: Sequence[Entry]) -> float:
    """Litres a day that leave: by the keeper's own top-offs where there are enough, else by the estimate."""
    told = topped_l_day(entries)
    if told is not None:
        return told
    return evaporation_l_day(areas(tank).surface, tank.temp_c, tank.room_c, tank.room_rh, tank.lid)


def equipment(tank: Tank, animals: Sequence[Animals], reference: Reference, entries: Sequence[Entry] = ()) -> Equipment:
    """`animals`: what lives here and what is planned, taken at adult size for the oxygen."""
    area = areas(tank).surface
    grown = sum(_adult_g(a, reference) * a.count for a in animals)
    night = None
    if grown:
        load = load_of(animals, reference.species, tank.temp_c, adult=True).total
        feed = usual_feed_g_day(animals, reference.species, tank.temp_c)
        night = by_night(grown, load, feed, area, tank.surface, tank.temp_c, tank.salinity_g_kg)
    return Equipment(
        needed_w(tank),
        rule_of_thumb_w(tank),
        tank.heater_w,
        failures(tank),
        tuple(_work(f, reference) for f in tank.filters),
        turnover_per_h(tank),
        reference.schools.turnover[tank.turnover],
        ceiling_mg_n_day(tank, reference.media),
        clears_at_most_mg_n_day(tank, AT_LOW_MG_N_L),
        night,
        grown,
        evaporation_l_day(area, tank.temp_c, tank.room_c, tank.room_rh, tank.lid),
        topped_l_day(entries),
        topoff_drift_g_kg_day(tank),
    )


def _adult_g(animals: Animals, reference: Reference) -> float:
    kind = reference.species.get(animals.species, reference.species["unknown"])
    return mass_g(kind, kind.adult_cm)


def _work(one: Filter, reference: Reference) -> FilterWork:
    surface = filter_surface_m2(one, reference.media)
    return FilterWork(one, one.flow_l_h, surface, 1000 * surface * AREAL_RATE_G_M2_DAY)


def check_filters(tank: Tank) -> None:
    """Raises Refused when two filters have one name, or one gives more than its box says."""
    names = [f.name.strip().lower() for f in tank.filters]
    for k, name in enumerate(names):
        if name in names[:k]:
            raise Refused(f"Two filters are called “{tank.filters[k].name}”: rename one.", f"filter{k + 1}_name")
        if not 0 < tank.filters[k].real_share <= 1:
            raise Refused("The real flow is a part of what the box says, 10 to 100 %.", f"filter{k + 1}_share")
