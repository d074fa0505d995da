"""Corrective water changes: the smallest number, each at most the school's limit, that gets below the limits."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.model.schools import Corrective
from jarbloom.core.model.tank import Tank
from jarbloom.core.upset.levels import Levels, Spread
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import unionised_fraction
from jarbloom.core.water.carbonate import Constants, constants, mixed_ph
from jarbloom.core.water.dilution import after_change
from jarbloom.core.water.recipes import Refill, refill

MAX_CHANGES = 10
PLANNED_H = 72  # beyond three days a plan is worth nothing before the next readings
LEAST_SHARE, SHARE_STEP = 0.10, 0.05
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


@dataclass(frozen=True)
class _Water:
    tan: float
    no2: float
    ph: float
    kh: float


def _changed(water: _Water, f: float, tank: Tank, salt: Constants) -> _Water:
    source = tank.refill
    ph = mixed_ph(water.ph, water.kh, source.ph, source.kh_dkh, f, salt)
    return _Water(
        after_change(water.tan, f, source.brings_mg_n_l),
        after_change(water.no2, f),
        ph,
        after_change(water.kh, f, source.kh_dkh),
    )


def _salt(levels: Levels) -> Constants:
    return constants(levels.temp_c, levels.salinity_g_kg)


def _nh3(water: _Water, levels: Levels) -> float:
    return water.tan * float(unionised_fraction(water.ph, levels.temp_c, levels.salinity_g_kg))


def _badness(water: _Water, levels: Levels) -> float:
    nh3 = _nh3(water, levels)
    return max(nh3 / levels.limits.nh3, water.no2 / levels.limits.no2)


def _later(water: _Water, production: Production, days: float) -> _Water:
    return _Water(water.tan + production.tan * days, water.no2 + production.no2 * days, water.ph, water.kh)


def _share(water: _Water, tank: Tank, levels: Levels, most: float, production: Production) -> float:
    """The smallest share that gets below both limits and keeps there for a day; else the one that comes nearest."""
    n = round((most - LEAST_SHARE) / SHARE_STEP)
    shares, salt = [LEAST_SHARE + SHARE_STEP * k for k in range(n + 1)], _salt(levels)
    scored = [(_badness(_later(_changed(water, f, tank, salt), production, 1.0), levels), f) for f in shares]
    enough = [f for bad, f in scored if bad < 1.0]
    return enough[0] if enough else min(scored)[1]


def respond(tank: Tank, levels: Levels, production: Production, school: Corrective, now: datetime) -> Response:
    """Changes from now on until free ammonia and nitrite stay below the limits to the next one.

    Values are expected ones, from the reading as seen; `nh3_after` spans what the kit's step allows.
    """
    volume = net_l(tank)
    tan = levels.tan or Spread(0, 0, 0)
    no2 = levels.no2 or Spread(0, 0, 0)
    water = _Water(tan.seen, no2.seen, levels.ph, tank.kh_dkh)
    wide = tan.seen or 1.0
    interval = timedelta(hours=school.interval_h)
    changes: list[Change] = []
    at, frees, reached_at = now, False, None
    if levels.changed_at is not None:  # one was just made: the next is due when the school's interval is over
        at = max(now, _civil(levels.changed_at + interval))
        days = (at - now).total_seconds() / 86400
        water = _later(water, production, days)
    while len(changes) < MAX_CHANGES and at - now <= timedelta(hours=PLANNED_H):
        following = _civil(at + interval)
        days = (following - at).total_seconds() / 86400
        if _badness(water, levels) >= 1.0:
            reached_at = None
            f = _share(water, tank, levels, school.max_fraction, production)
            after = _changed(water, f, tank, _salt(levels))
            nh3_before = _nh3(water, levels)
            nh3_after = _nh3(after, levels)
            frees = frees or nh3_after > nh3_before
            step = nh3_after / wide
            span = Spread(step * tan.low, nh3_after, step * max(tan.high, wide))
            changes.append(
                Change(at, f, f * volume, water.tan, after.tan, nh3_before, span, water.no2, after.no2, after.ph)
            )
            water = after
        if reached_at is None and _badness(water, levels) < 1.0:
            reached_at = at
        water, at = _later(water, production, days), following
    first = changes[0] if changes else None
    recipe = None
    if first:
        recipe = refill(
            first.litres,
            volume,
            levels.temp_c,
            tank.source.cold_c,
            tank.source.hot_c,
            tank.conditioner_ml_per_100l,
            tank.conditioner_whole_tank,
        )
    return Response(
        tuple(changes),
        recipe,
        school,
        production.tan + production.no2,
        reached_at is not None,
        frees,
        max(now, (levels.changed_at or now) + RETEST),
        reached_at,
    )
