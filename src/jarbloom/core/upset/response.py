"""Corrective water changes: the smallest number, each at most the school's limit, that gets below the limits."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
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
SAME_DAY_NH3 = 0.05  # mg N/L: while free ammonia stays above, a second change follows on the same day (judgement)
SAME_DAY = timedelta(hours=6)
LEAST_CO2_MG_L = 1.0  # of water that meets the air in a tank with animals; the air alone would hold 0.6
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


@dataclass(frozen=True)
class _Water:
    tan: float
    no2: float
    ph: float
    kh: float
    aired: float  # pH once it has met the air as this tank does


def _co2_mg_l(ph: float, kh: float) -> float:
    """Free CO2 of water in fresh-water equilibrium, about 3 KH 10^(7 - pH), KH in dKH (pK1 6.35 at 25 deg C)."""
    return 3.0 * kh * 10.0 ** (7.0 - ph)


def _aired_ph(kh: float, co2: float) -> float:
    """pH of water of this KH with so much CO2 in it."""
    return 7.0 + math.log10(max(3.0 * kh, 0.05) / co2)


def _changed(water: _Water, f: float, tank: Tank, salt: Constants, co2: float) -> _Water:
    source = tank.refill
    ph = mixed_ph(water.ph, water.kh, source.ph, source.kh_dkh, f, salt)
    kh = after_change(water.kh, f, source.kh_dkh)
    # Mixed in the bucket it keeps its carbon; in the tank it comes back to the tank's own CO2. The higher pH decides.
    aired = ph if tank.water_kind != "fresh" else _aired_ph(kh, co2)
    return _Water(after_change(water.tan, f, source.brings_mg_n_l), after_change(water.no2, f), ph, kh, min(aired, 9.0))


def _salt(levels: Levels) -> Constants:
    return constants(levels.temp_c, levels.salinity_g_kg)


def _nh3(water: _Water, levels: Levels) -> float:
    """Free ammonia by the higher of the mixed and the aired pH."""
    ph = max(water.ph, water.aired)
    return water.tan * float(unionised_fraction(ph, levels.temp_c, levels.salinity_g_kg))


def _badness(water: _Water, levels: Levels) -> float:
    return max(_nh3(water, levels) / levels.limits.nh3, water.no2 / levels.no2_acts_at)


def _later(water: _Water, production: Production, days: float) -> _Water:
    return replace(water, tan=water.tan + production.tan * days, no2=water.no2 + production.no2 * days)


def _share(water: _Water, tank: Tank, levels: Levels, most: float, production: Production, co2: float) -> float:
    """The smallest share that gets below both limits and keeps there for a day; else the one that comes nearest. 0 when
    every share is worse than none."""
    n = max(0, round((most - LEAST_SHARE) / SHARE_STEP))
    shares, salt = [min(most, LEAST_SHARE + SHARE_STEP * k) for k in range(n + 1)], _salt(levels)
    scored = [(_badness(_later(_changed(water, f, tank, salt, co2), production, 1.0), levels), f) for f in shares]
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


def _start(tank: Tank, levels: Levels) -> tuple[_Water, float]:
    """The water as it stands, by the upper edge of the kit's step, and the CO2 that it holds."""
    tan, no2 = levels.tan or Spread(0, 0, 0), levels.no2 or Spread(0, 0, 0)
    co2 = max(_co2_mg_l(levels.ph, levels.kh_dkh), LEAST_CO2_MG_L)
    return _Water(tan.high, no2.high, levels.ph, levels.kh_dkh, levels.ph), co2


def eases(tank: Tank, levels: Levels, share: float) -> bool:
    """Whether a change of this share leaves no more free ammonia than there is, or stays far below the limit."""
    water, co2 = _start(tank, levels)
    after = _changed(water, share, tank, _salt(levels), co2)
    return _nh3(after, levels) <= max(_nh3(water, levels), 0.5 * levels.limits.nh3)


def respond(
    tank: Tank, levels: Levels, production: Production, school: Corrective, now: datetime, most: float = 1.0
) -> Response:
    """Changes from now on until free ammonia and nitrite stay below the limits to the next one, by the upper edge of
    what the kit's step allows; values told are those as seen. `most`: the largest share that a finding allows.
    """
    volume = net_l(tank)
    tan, no2 = levels.tan or Spread(0, 0, 0), levels.no2 or Spread(0, 0, 0)
    water, co2 = _start(tank, levels)
    # what was seen, as a share of the upper edge: for the figures that are told
    seen_tan = tan.seen / tan.high if tan.high else 1.0
    seen_no2 = no2.seen / no2.high if no2.high else 1.0
    least_tan = tan.low / tan.high if tan.high else 1.0
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
            after = _changed(water, litres / volume, tank, _salt(levels), co2)
            before_nh3, after_nh3 = _nh3(water, levels), _nh3(after, levels)
            frees = frees or max(after.ph, after.aired) > max(water.ph, water.aired) + 0.05
            span = Spread(after_nh3 * least_tan, after_nh3 * seen_tan, after_nh3)
            changes.append(
                Change(at, litres / volume, litres, water.tan * seen_tan, after.tan * seen_tan, before_nh3 * seen_tan,
                       span, water.no2 * seen_no2, after.no2 * seen_no2, max(after.ph, after.aired))
            )  # fmt: skip
            water = after
            if after_nh3 > SAME_DAY_NH3:
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
