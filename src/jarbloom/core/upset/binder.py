"""The clock of a detoxifier: how much ammonia is surely bound, and when it comes back.

Binds 90 % of the free ammonia and lets go of it with a constant of 24 hours (docs/science.md, detoxifier): 37 % of that
is bound after one day, 14 % after two. Planned as if all were free again after 48 h.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.bloom.drivers import DETOX_SHARE
from jarbloom.core.bloom.kernel import BOUND_RELEASE
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.upset.credible import BOUND_FOR

WEARS_OFF_H = 24.0 / BOUND_RELEASE
SURELY = timedelta(hours=24)  # so long no second measure: stacked, it takes oxygen
RETESTS_H = (12, 24, 48)


@dataclass(frozen=True)
class BinderClock:
    """`bound`: share of what was free at the dose that is still bound now; `surely_until`, `gone_at`, `retest_at`."""

    entry: Entry[Conditioner]
    bound: float
    surely_until: datetime
    gone_at: datetime
    retest_at: datetime | None


def bound_share(hours: float) -> float:
    """Of the ammonia that was free at the dose, so many hours later."""
    return DETOX_SHARE * math.exp(-max(hours, 0.0) / WEARS_OFF_H)


def binder_clock(log: Log, now: datetime) -> BinderClock | None:
    """Of the last dose that still counts; None when there is none."""
    doses = [e for e in log.kinds(Conditioner) if e.body.detoxifies and timedelta(0) <= now - e.at < BOUND_FOR]
    if not doses:
        return None
    last = doses[-1]
    hours = (now - last.at) / timedelta(hours=1)
    retests = [last.at + timedelta(hours=h) for h in RETESTS_H]
    return BinderClock(
        last, bound_share(hours), last.at + SURELY, last.at + BOUND_FOR, next((t for t in retests if t > now), None)
    )
