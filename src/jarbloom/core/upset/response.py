"""Corrective water changes, solved on the members of the forecast: the fewest and smallest, each within the school,
what the animals bear and what water there is, that keep nine in ten members under the limits until the next one."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.sample import Sample, ahead, still
from jarbloom.core.model.hours import hours_from
from jarbloom.core.model.schools import Corrective
from jarbloom.core.model.tank import Tank
from jarbloom.core.upset.levels import RISES_IN_DAYS, USUAL, Levels, Spread, Thinned
from jarbloom.core.upset.mixing import MixedWater, after_change_of, co2_mg_l
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import unionised_fraction
from jarbloom.core.water.carbonate import Constants, constants
from jarbloom.core.water.dilution import after_change
from jarbloom.core.water.recipes import Refill, refill

Array = NDArray[np.float64]
MAX_CHANGES = 10
PLANNED_H = 72  # beyond three days a plan is worth nothing before the next readings
LEAST_SHARE, SHARE_STEP = 0.10, 0.05
ENOUGH = 0.90  # of the members under the limits until the next change
KNOWN_TO = 0.975  # of the members: so far up a reading is bounded by them
EDGES = (0.11, 0.50, 0.89)  # ranks at the kit's edges and at what was seen: nine in ten clear the upper edge
SAME_DAY_NH3 = 0.05  # mg N/L: while free ammonia stays above, a second change follows on the same day (judgement)
SAME_DAY = timedelta(hours=6)
CARRIED_L = 10.0  # from here on litres are whole: nobody carries half of one
RETEST = timedelta(hours=2)
# What animals bear at one change: pH and dKH, usual and tender ones (docs/upsets.md, water that came in). Where free
# ammonia is worse than the step would be, the step is taken.
BEAR_PH, BEAR_KH = (0.5, 0.3), (3.0, 1.5)
WORSE_THAN_A_STEP_NH3 = 0.2
DAY_SHARE = 1.0  # of the volume within a day in all: two halves take three quarters out; more is a strain of its own
BUCKET_L, BUCKET_MIN, CHANGE_MIN = 10.0, 4.0, 10.0  # minutes for each bucket in and out, and to set up and clear away


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
    `frees_ammonia` when the new water's pH raises free ammonia for a while; `held_by`: ph, kh or water where that, not
    the school, keeps the changes small; `in_time`: share of members under the limits from the last change on."""

    changes: tuple[Change, ...]
    refill: Refill | None
    school: Corrective
    gain: float  # mg N/L/day that is still coming in
    reached: bool
    frees_ammonia: bool
    retest_at: datetime
    within_limits_at: datetime | None = None
    no_better: bool = False  # with the water at hand every change would leave more free ammonia than none
    held_by: str = ""
    source: Sample = field(default_factory=lambda: still(1))  # the members that it was solved on

    @property
    def rests(self) -> bool:
        """By all that was read no change is worth its strain yet."""
        return not self.changes and not self.no_better

    @property
    def litres(self) -> float:
        return sum(c.litres for c in self.changes)

    @property
    def minutes(self) -> float:
        """Work by hand, in buckets."""
        return sum(CHANGE_MIN + BUCKET_MIN * math.ceil(c.litres / BUCKET_L) for c in self.changes)


@dataclass(frozen=True)
class Waters:
    """The members' water: TAN and nitrite (..., n_member), mg N/L, with the one pH and KH of the readings. `days`:
    since the sample's moment."""

    tan: Array
    no2: Array
    mixed: MixedWater
    days: float


def _salt(levels: Levels) -> Constants:
    return constants(levels.temp_c, levels.salinity_g_kg)


def _free(mixed: MixedWater, levels: Levels) -> float:
    """Un-ionised share by the higher of the mixed and the aired pH."""
    return float(unionised_fraction(mixed.worst_ph, levels.temp_c, levels.salinity_g_kg))


def with_unexplained(sample: Sample, seen: Spread | None, days: float) -> Sample:
    """The same members with the source that nobody told of: what was read beyond what they hold came within `days`
    (since ammonia last read lower), and goes on as fast. A meal or a body that is not in the log reads like this."""
    if seen is None:
        return sample
    own = float(np.median(sample.tan))
    if seen.low <= own + UNEXPLAINED_MG_N_L:
        return sample
    return replace(sample, gain=sample.gain + (seen.seen - own) / min(max(days, SOONEST_DAYS), RISES_IN_DAYS))


UNEXPLAINED_MG_N_L = 0.1  # that the kit's lower edge lies over the middle of the members
SOONEST_DAYS = 0.5  # faster than within this no hidden source is taken to have come (judgement)


def _by_rank(ranks: Array, s: Spread) -> Array:
    """The kit's step laid over the members in their order: a tenth of them at either edge, half of them under what was
    seen. The reading says where the water is; which members read high stays theirs."""
    return np.asarray(np.interp(ranks, EDGES, (s.low, s.seen, s.high)), dtype=float)


def by_both(seen: Spread, thinned: Thinned | None, gain: float) -> Spread:
    """A reading after a change and the one before it, thinned by the change, are of one water: no more than the upper
    edge of the one before and what came in since (`gain`, mg N/L/day). Where the two exclude each other, the last one
    as it was read. A kit with steps of a quarter reads the limit again after half of the water was changed."""
    if thinned is None:
        return seen
    most = thinned.spread.high + max(0.0, gain) * thinned.days
    if most <= seen.low or thinned.spread.low >= seen.high:
        return seen
    return Spread(seen.low, min(seen.seen, most), min(seen.high, most))


def by_members(read: Spread, own: Array) -> Spread:
    """The kit's step with no more room above than the members leave, who have heard this reading and all others: nearly
    all of them (KNOWN_TO) lie below. Where the reading lies beyond them, the kit has it. A first step of a quarter may
    be anything from an eighth to three eighths; what came before often tells which half (docs/upsets.md, next hours and
    days)."""
    edge = float(np.quantile(own, KNOWN_TO))
    return Spread(read.low, min(read.seen, edge), min(read.high, edge)) if read.low <= edge else read


def _start(tank: Tank, levels: Levels, sample: Sample) -> tuple[Waters, Waters, float]:
    """The members' water as the readings have it: the one that tells whether a change is needed, the one that tells how
    large it is; and the CO2 that it holds.

    At the first look the kit's whole step counts. Once water was changed, needed is what nine in ten of the members
    need, who have heard all readings. A change that is made is made for the whole step: one that had to be made again
    would be the greater strain.
    """
    places = (np.arange(sample.size) + 0.5) / sample.size
    gain = float(np.median(sample.gain))

    def laid(own: Array, read: Spread) -> Array:
        by_rank = _by_rank(places[np.argsort(np.argsort(own, kind="stable"))], read)
        # A member that has heard all readings is not put below what it holds by the last.
        return np.maximum(own, by_rank)

    def needed(own: Array, seen: Spread | None, thinned: Thinned | None) -> Array:
        if seen is None:
            return own
        if seen.seen <= 0:
            return np.minimum(own, seen.high)  # clean
        read = by_both(seen, thinned, gain)
        return laid(own, by_members(read, own) if levels.answered else read)

    def sized(own: Array, seen: Spread | None, thinned: Thinned | None) -> Array:
        return own if seen is None else laid(own, by_both(seen, thinned, gain))

    mixed = MixedWater(0.0, 0.0, levels.ph, levels.kh_dkh, levels.ph)
    tan, no2 = (sample.tan, levels.tan, levels.tan_thinned), (sample.no2, levels.no2, levels.no2_thinned)
    most = Waters(sized(*tan), sized(*no2), mixed, 0.0)
    asked = Waters(needed(*tan), needed(*no2), mixed, 0.0)
    same = np.array_equal(asked.tan, most.tan) and np.array_equal(asked.no2, most.no2)
    return most if same else asked, most, co2_mg_l(levels.ph, levels.kh_dkh)


def _later(w: Waters, sample: Sample, days: float) -> Waters:
    if days <= 0:
        return w
    tan, no2, _, _ = ahead(sample, w.tan, w.no2, w.days, days)
    return replace(w, tan=tan, no2=no2, days=w.days + days)


def _both_later(asked: Waters, most: Waters, sample: Sample, days: float) -> tuple[Waters, Waters]:
    """Both waters later; one of them where they are the same, as at a first look."""
    after = _later(asked, sample, days)
    return after, after if most is asked else _later(most, sample, days)


def _changed(w: Waters, share: float, mixed: MixedWater, tank: Tank) -> Waters:
    tan = after_change(w.tan, share, tank.refill.brings_mg_n_l)
    return replace(w, tan=tan, no2=after_change(w.no2, share), mixed=mixed)


def _worst(tan: Array, no2: Array, free: Array | float, levels: Levels) -> Array:
    """The nine-in-ten edge of how far over its limit the worse of the two is; below 1 is under both."""
    over = np.maximum(tan * free / levels.limits.nh3, no2 / levels.no2_acts_at)
    return np.asarray(np.quantile(over, ENOUGH, axis=-1, method="inverted_cdf"))


def _stands(w: Waters, levels: Levels) -> float:
    return float(_worst(w.tan, w.no2, _free(w.mixed, levels), levels))


def _until(w: Waters, sample: Sample, days: float, levels: Levels) -> float:
    """How far over the worse of the two comes before the next moment at which something can be done."""
    _, _, tan_most, no2_most = ahead(sample, w.tan, w.no2, w.days, days)
    return float(_worst(tan_most, no2_most, _free(w.mixed, levels), levels))


@dataclass(frozen=True)
class _Means:
    """What a change is made with: the largest share, and what new water does to pH and KH."""

    tank: Tank
    levels: Levels
    sample: Sample
    most: float
    co2: float

    def left(self, w: Waters, at: datetime, made: Sequence[tuple[datetime, float]]) -> float:
        """The largest share at a moment: what is left of the day's, unless the ammonia is worse than the strain."""
        if self.strained(w):
            return self.most
        spent = sum(share for when, share in made if at - when < timedelta(days=1))
        return max(0.0, min(self.most, DAY_SHARE - spent))

    def strained(self, w: Waters) -> bool:
        free = float(np.quantile(w.tan, ENOUGH)) * _free(w.mixed, self.levels)
        return free >= WORSE_THAN_A_STEP_NH3

    def mixed(self, w: Waters, f: float) -> MixedWater:
        return after_change_of(w.mixed, f, self.tank, _salt(self.levels), self.co2)

    def bears(self, w: Waters, after: MixedWater) -> str:
        """ph or kh where the step is more than the animals bear, empty where it is not."""
        tender = self.levels.limits.nh3 < USUAL.nh3
        if self.strained(w):
            return ""
        if abs(after.ph - w.mixed.ph) > BEAR_PH[tender]:
            return "ph"
        return "kh" if abs(after.kh - w.mixed.kh) > BEAR_KH[tender] else ""

    def share(self, w: Waters, days: float, most: float) -> tuple[float, str]:
        """The smallest share that keeps ENOUGH of the members under both limits for so many days, else the one that
        comes nearest, 0 when every share is worse than none; and what held larger ones back."""
        steps = np.arange(LEAST_SHARE, most - 1e-9, SHARE_STEP).tolist() if most > LEAST_SHARE else []
        shares, held = [*steps, most], ""
        mixed = [self.mixed(w, f) for f in shares]
        for k in range(1, len(shares)):  # the smallest is always at hand
            held = self.bears(w, mixed[k])
            if held:
                shares, mixed = shares[:k], mixed[:k]
                break
        tried = [_changed(w, f, m, self.tank) for f, m in zip(shares, mixed, strict=True)]
        tans, no2s = (np.array([getattr(x, name) for x in (w, *tried)]) for name in ("tan", "no2"))
        frees = np.array([_free(m, self.levels) for m in (w.mixed, *mixed)])[:, None]
        _, _, tan_most, no2_most = ahead(self.sample, tans, no2s, w.days, days)
        scores = _worst(tan_most, no2_most, frees, self.levels)
        for f, score in zip(shares, scores[1:], strict=True):
            if score < 1.0:
                return f, ""
        best = int(np.argmin(scores[1:]))
        return (shares[best], held) if scores[1 + best] < scores[0] else (0.0, held)


def _carried(f: float, volume: float, most: float) -> float:
    """Litres of a change: whole ones that a person can measure, within what is allowed."""
    litres = f * volume
    if litres < CARRIED_L:
        return round(litres, 1)
    up = math.ceil(litres - 1e-9)
    return float(up if up <= most * volume + 0.5 else math.floor(litres))


def eases(tank: Tank, levels: Levels, share: float) -> bool:
    """Whether a change of this share leaves no more free ammonia than there is, or stays far below the limit."""
    tan = levels.tan.high if levels.tan else 0.0
    mixed = MixedWater(tan, 0.0, levels.ph, levels.kh_dkh, levels.ph)
    after = after_change_of(mixed, share, tank, _salt(levels), co2_mg_l(levels.ph, levels.kh_dkh))
    free = after.tan * _free(after, levels)
    return free <= max(tan * _free(mixed, levels), 0.5 * levels.limits.nh3)


def respond(
    tank: Tank, levels: Levels, sample: Sample, school: Corrective, now: datetime, most: float = 1.0
) -> Response:
    """Changes from now on, within the hours at home, until nine in ten members stay under the limits of free ammonia
    and nitrite. `most`: the largest share that a finding allows."""
    volume, hours = net_l(tank), hours_from(tank.home_hours)
    waters, most_of_it, co2 = _start(tank, levels, sample)
    ready = 1.0 if tank.ready_l is None else min(1.0, tank.ready_l / volume)
    most = min(school.max_fraction, most)
    means = _Means(tank, levels, sample, min(most, ready), co2)
    interval = timedelta(hours=school.interval_h)
    again = max(interval, timedelta(hours=tank.ready_every_h)) if ready < 1.0 else interval
    changes: list[Change] = []
    at, frees, reached_at, no_better, held_by = now, False, None, False, ""
    if levels.changed_at is not None:  # one was just made: the next is due when the school's interval is over
        at = max(now, hours.next(levels.changed_at + again))
        waters, most_of_it = _both_later(waters, most_of_it, sample, (at - now).total_seconds() / 86400)
    while len(changes) < MAX_CHANGES and at - now <= timedelta(hours=PLANNED_H):
        wait = again
        until = (hours.next(at + wait) - at).total_seconds() / 86400
        if _stands(waters, levels) >= 1.0:
            reached_at = None
        made = (*levels.lately, *((c.at, c.fraction) for c in changes))
        left = means.left(waters, at, made)
        if _until(waters, sample, until, levels) >= 1.0 and left >= min(LEAST_SHARE, means.most) - 1e-9:
            f, held = means.share(most_of_it, until, left) if means.most > 0 else (0.0, "")
            if f == 0.0:
                no_better, frees = not changes, True
                break
            held_by = held_by or held or ("water" if ready < most and f >= means.most - 1e-9 else "")
            litres = _carried(f, volume, left)
            after = _changed(waters, litres / volume, means.mixed(waters, litres / volume), tank)
            frees = frees or after.mixed.worst_ph > waters.mixed.worst_ph + 0.05
            changes.append(_told(at, litres, volume, waters, after, levels))
            most_of_it = after if most_of_it is waters else _changed(most_of_it, litres / volume, after.mixed, tank)
            waters = after
            if ready >= 1.0 and float(np.quantile(after.tan, ENOUGH)) * _free(after.mixed, levels) > SAME_DAY_NH3:
                wait = min(wait, SAME_DAY)
        if reached_at is None and _stands(waters, levels) < 1.0:
            reached_at = at
        following = hours.next(at + wait)
        waters, most_of_it = _both_later(waters, most_of_it, sample, (following - at).total_seconds() / 86400)
        at = following
    return Response(
        tuple(changes),
        _recipe(tank, levels, changes[0].litres) if changes else None,
        school,
        float(np.median(sample.gain)),
        reached_at is not None,
        frees,
        max(now, (levels.changed_at or now) + RETEST),
        reached_at,
        no_better,
        held_by,
        sample,
    )


def promised(tank: Tank, levels: Levels, litres: float, at: datetime, source_ammonia: float | None = None) -> Change:
    """What a change of so many litres is to come to by what was read before it, in the figures that a plan tells."""
    volume, tan, no2 = net_l(tank), levels.tan or NOTHING, levels.no2 or NOTHING
    f = min(1.0, litres / volume)
    brings = tank.refill.brings_mg_n_l if source_ammonia is None else source_ammonia
    mixed = MixedWater(0.0, 0.0, levels.ph, levels.kh_dkh, levels.ph)
    after = after_change_of(mixed, f, tank, _salt(levels), co2_mg_l(levels.ph, levels.kh_dkh))
    left = [after_change(x, f, brings) for x in (tan.low, tan.seen, tan.high)]
    free = _free(after, levels)
    return Change(
        at, litres / volume, litres, tan.seen, left[1], tan.seen * _free(mixed, levels),
        Spread(*(x * free for x in left)), no2.seen, after_change(no2.seen, f), after.worst_ph,
    )  # fmt: skip


NOTHING = Spread(0.0, 0.0, 0.0)


def _told(at: datetime, litres: float, volume: float, before: Waters, after: Waters, levels: Levels) -> Change:
    """A change in figures: the middle of the members, and for free ammonia a tenth and nine tenths of them."""
    free = _free(after.mixed, levels)
    low, mid, high = (float(q) for q in np.quantile(after.tan, (1 - ENOUGH, 0.5, ENOUGH)))
    tan, no2, no2_after = (float(np.median(x)) for x in (before.tan, before.no2, after.no2))
    return Change(
        at, litres / volume, litres, tan, mid, tan * _free(before.mixed, levels),
        Spread(low * free, mid * free, high * free), no2, no2_after, after.mixed.worst_ph,
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
