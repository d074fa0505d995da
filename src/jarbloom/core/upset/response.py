"""Corrective water changes: the smallest number, each at most the school's limit, that gets below the limits."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from jarbloom.core.model.schools import Corrective
from jarbloom.core.model.tank import Tank
from jarbloom.core.upset.levels import Levels, Spread
from jarbloom.core.upset.mixing import MixedWater, after_change_of, co2_mg_l
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import unionised_fraction
from jarbloom.core.water.carbonate import Constants, constants
from jarbloom.core.water.recipes import Refill, refill

MAX_CHANGES = 10
PLANNED_H = 72  # beyond three days a plan is worth nothing before the next readings
LEAST_SHARE, SHARE_STEP = 0.10, 0.05
SAME_DAY_NH3 = 0.05  # mg N/L: while free ammonia stays above, a second change follows on the same day (judgement)
SAME_DAY = timedelta(hours=6)
CARRIED_L = 10.0  # from here on litres are whole: nobody carries half of one
MORNING, EVENING = (7, 30), (22, 0)  # nobody changes water in the night unless it is the first one
RETEST = timedelta(hours=2)


@dataclass(frozen=True)
class Change:
    """One corrective change with the expected values before and after (mg N/L)."""

    at: datetime
    fraction: float
    litres: float
    tan_before: float
    tan_after: float
    nh3_before: float
    nh3_after: Spread
    no2_before: float
    no2_after: float
    ph_after: float


@dataclass(frozen=True)
class Response:
    """The plan for the next days. `reached` is False when changes alone do not get below the limits;
    `frees_ammonia` when the new water's pH raises free ammonia for a while."""

    changes: tuple[Change, ...]
    refill: Refill | None
    school: Corrective
    production: float
    reached: bool
    frees_ammonia: bool
    retest_at: datetime
    within_limits_at: datetime | None = None
    no_better: bool = False  # with the water at hand every change would leave more free ammonia than none


@dataclass(frozen=True)
class Production:
    """What keeps coming in, mg N/L/day: unprocessed ammonia, and nitrite left over."""

    tan: float
    no2: float


def unprocessed(load_mg_n_day: float, sure_a: float, sure_b: float, volume_l: float) -> Production:
    """What the bloom surely does not take up: the side on which an animal is not hurt by optimism."""
    tan = max(0.0, load_mg_n_day - sure_a)
    return Production(tan / volume_l, max(0.0, min(load_mg_n_day, sure_a) - sure_b) / volume_l)


def _civil(at: datetime) -> datetime:
    if (at.hour, at.minute) > EVENING:
        at = at + timedelta(days=1)
    elif (at.hour, at.minute) >= MORNING:
        return at
    return at.replace(hour=MORNING[0], minute=MORNING[1], second=0, microsecond=0)


def _salt(levels: Levels) -> Constants:
    return constants(levels.temp_c, levels.salinity_g_kg)


def _nh3(water: MixedWater, levels: Levels) -> float:
    """Free ammonia by the higher of the mixed and the aired pH."""
    return water.tan * float(unionised_fraction(water.worst_ph, levels.temp_c, levels.salinity_g_kg))


def _badness(water: MixedWater, levels: Levels) -> float:
    return max(_nh3(water, levels) / levels.limits.nh3, water.no2 / levels.no2_acts_at)


def _later(water: MixedWater, production: Production, days: float) -> MixedWater:
    return replace(water, tan=water.tan + production.tan * days, no2=water.no2 + production.no2 * days)


def _share(water: MixedWater, tank: Tank, levels: Levels, most: float, production: Production, co2: float) -> float:
    """The smallest share that gets below both limits and keeps there for a day; else the one that comes nearest. 0 when
    every share is worse than none."""
    n = max(0, round((most - LEAST_SHARE) / SHARE_STEP))
    shares, salt = [min(most, LEAST_SHARE + SHARE_STEP * k) for k in range(n + 1)], _salt(levels)
    mixed = [(after_change_of(water, f, tank, salt, co2), f) for f in shares]
    scored = [(_badness(_later(after, production, 1.0), levels), f) for after, f in mixed]
    enough = [f for bad, f in scored if bad < 1.0]
    if enough:
        return enough[0]
    best, f = min(scored)
    return f if best < _badness(_later(water, production, 1.0), levels) else 0.0


def _carried(f: float, volume: float, most: float) -> float:
    """Litres of a change: whole ones that a person can measure, within what is allowed."""
    litres = f * volume
    if litres < CARRIED_L:
        return round(litres, 1)
    up = math.ceil(litres - 1e-9)
    return float(up if up <= most * volume + 0.5 else math.floor(litres))


def _start(tank: Tank, levels: Levels) -> tuple[MixedWater, float]:
    """The water as it stands, by the upper edge of the kit's step, and the CO2 that it holds."""
    tan, no2 = levels.tan or Spread(0, 0, 0), levels.no2 or Spread(0, 0, 0)
    return MixedWater(tan.high, no2.high, levels.ph, levels.kh_dkh, levels.ph), co2_mg_l(levels.ph, levels.kh_dkh)


def eases(tank: Tank, levels: Levels, share: float) -> bool:
    """Whether a change of this share leaves no more free ammonia than there is, or stays far below the limit."""
    water, co2 = _start(tank, levels)
    after = after_change_of(water, share, tank, _salt(levels), co2)
    return _nh3(after, levels) <= max(_nh3(water, levels), 0.5 * levels.limits.nh3)


def respond(
    tank: Tank, levels: Levels, production: Production, school: Corrective, now: datetime, most: float = 1.0
) -> Response:
    """Changes from now on until free ammonia and nitrite stay below the limits to the next one, by the upper edge of
    what the kit's step allows; values told are those as seen. `most`: the largest share that a finding allows.
    """
    volume = net_l(tank)
    water, co2 = _start(tank, levels)
    most = min(school.max_fraction, most)
    interval = timedelta(hours=school.interval_h)
    changes: list[Change] = []
    at, frees, reached_at, no_better = now, False, None, False
    if levels.changed_at is not None:  # one was just made: the next is due when the school's interval is over
        at = max(now, _civil(levels.changed_at + interval))
        water = _later(water, production, (at - now).total_seconds() / 86400)
    while len(changes) < MAX_CHANGES and at - now <= timedelta(hours=PLANNED_H):
        wait = interval
        if _badness(water, levels) >= 1.0:
            reached_at = None
            f = _share(water, tank, levels, most, production, co2) if most > 0 else 0.0
            if f == 0.0:
                no_better, frees = not changes, True
                break
            litres = _carried(f, volume, most)
            after = after_change_of(water, litres / volume, tank, _salt(levels), co2)
            frees = frees or after.worst_ph > water.worst_ph + 0.05
            changes.append(_told(at, litres, volume, water, after, levels))
            water = after
            if _nh3(after, levels) > SAME_DAY_NH3:
                wait = min(wait, SAME_DAY)
        if reached_at is None and _badness(water, levels) < 1.0:
            reached_at = at
        following = _civil(at + wait)
        water, at = _later(water, production, (following - at).total_seconds() / 86400), following
    return Response(
        tuple(changes),
        _recipe(tank, levels, changes[0].litres) if changes else None,
        school,
        production.tan + production.no2,
        reached_at is not None,
        frees,
        max(now, (levels.changed_at or now) + RETEST),
        reached_at,
        no_better,
    )


def promised(tank: Tank, levels: Levels, litres: float, at: datetime, source_ammonia: float | None = None) -> Change:
    """What a change of so many litres is to come to, in the figures that a plan tells."""
    volume = net_l(tank)
    water, co2 = _start(tank, levels)
    after = after_change_of(water, min(1.0, litres / volume), tank, _salt(levels), co2, source_ammonia)
    return _told(at, litres, volume, water, after, levels)


def _told(at: datetime, litres: float, volume: float, water: MixedWater, after: MixedWater, levels: Levels) -> Change:
    """A change in figures: reckoned by the upper edge of the kit's step, told as seen, with both edges for ammonia."""
    tan, no2 = levels.tan or Spread(0, 0, 0), levels.no2 or Spread(0, 0, 0)
    seen_tan = tan.seen / tan.high if tan.high else 1.0
    seen_no2 = no2.seen / no2.high if no2.high else 1.0
    least_tan = tan.low / tan.high if tan.high else 1.0
    free = _nh3(after, levels)
    return Change(
        at, litres / volume, litres, water.tan * seen_tan, after.tan * seen_tan, _nh3(water, levels) * seen_tan,
        Spread(free * least_tan, free * seen_tan, free), water.no2 * seen_no2, after.no2 * seen_no2, after.worst_ph,
    )  # fmt: skip


def _recipe(tank: Tank, levels: Levels, litres: float) -> Refill:
    return refill(
        litres,
        net_l(tank),
        levels.temp_c,
        tank.source.cold_c,
        tank.source.hot_c,
        tank.conditioner_ml_per_100l,
        tank.conditioner_whole_tank,
    )
