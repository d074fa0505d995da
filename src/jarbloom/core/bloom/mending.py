"""Alkalinity that is low, and how soon this keeper puts it right: read off what the log tells of the times before."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.parameters import PH_BLOOM_STOPS
from jarbloom.core.journal.kinds.buffered import Buffered
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l

Array = NDArray[np.float64]
ALK_KEPT = 0.5  # of the tank's own KH: what is not yet so low is not let fall further in a planned future
# What is thought of a keeper of whom nothing is known: Beta of the chance that low alkalinity is put right on a day, as
# the list asks. Of ten such keepers nine have done it within ten days, and one in sixty not within a month (judgement)
MENDS, LEAVES = 2.0, 4.0
LEAST_CHANGE = 0.25  # of the water: less than that hardly raises KH (judgement)


@dataclass(frozen=True)
class Habit:
    """How often low alkalinity was put right, and the days that it was left low."""

    mended: int
    days_low: float

    @property
    def unknown(self) -> bool:
        return not self.mended and not self.days_low

    def chances(self, members: int, seed: int) -> tuple[float, ...]:
        """Chance a day that it is put right, one for each member (n_member,): drawn from what the times before leave
        open, a Beta of prior and record."""
        rng = np.random.default_rng((seed, members, 17))
        return tuple(rng.beta(MENDS + self.mended, LEAVES + self.days_low, members).tolist())


def habit_of(log: Log, tank: Tank, as_of: datetime) -> Habit:
    """Low: KH read at half of the tank's own or less, or pH read below 6.5 where the tank's own is above it. Put right:
    a buffer or a large change after it, or read as no longer low."""
    volume, least = net_l(tank), ALK_KEPT * tank.kh_dkh
    mended, days, since = 0, 0.0, None
    for entry in log.kinds(Tested, Change, Buffered):
        body = entry.body
        low = _reads_low(body, tank, least) if isinstance(body, Tested) else None
        if low and since is None:
            since = entry.at
        acts = isinstance(body, Buffered) or (isinstance(body, Change) and body.litres >= LEAST_CHANGE * volume)
        if since is not None and (acts or low is False):
            mended, days, since = mended + 1, days + _days(since, entry.at), None
    if since is not None:
        days += _days(since, as_of)
    return Habit(mended, days)


def _days(since: datetime, at: datetime) -> float:
    return (at.astimezone(UTC) - since.astimezone(UTC)).total_seconds() / 86400


def _reads_low(test: Tested, tank: Tank, least_dkh: float) -> bool | None:
    """None where the test tells nothing of it."""
    seen = {r.quantity: r.seen for r in test.readings}
    if "kh" in seen:
        return seen["kh"] <= least_dkh
    if "ph" in seen and tank.ph > PH_BLOOM_STOPS:
        return True if seen["ph"] < PH_BLOOM_STOPS else None
    return None


def mend(alk: Array, home_alk: float, chance: Array, day: int) -> Array:
    """Alkalinity (n_member,) meq/L after a day on which some keepers bring what is low to the tank's own. Who does it
    on which day is the same in every plan, so that plans differ by what is planned."""
    low = alk <= ALK_KEPT * home_alk * 1.001
    if not low.any():
        return alk
    does = np.random.default_rng(day).random(len(alk)) < chance
    return np.where(low & does, home_alk, alk)
