"""Value of information: which test on which day would narrow the date of readiness most.

For every reading that may be seen, members are weighted by its probability and the variance of their days taken; the
mean over readings is the variance to expect after the test (preposterior analysis, Raiffa & Schlaifer 1961). It is
never more than today's, by the law of total variance. The 80 % range is taken to shrink as its root.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.conditioning import GAINS, SPECIES_OF, Kits
from jarbloom.core.bloom.ensemble import Ensemble, Projection
from jarbloom.core.journal.readings import read
from jarbloom.core.model.kit import NITROGEN
from jarbloom.units import figure

Array = NDArray[np.float64]
DAYS_AHEAD = 7
RANGE = (0.10, 0.90)
LEAST_GAIN = 0.15  # of the range: less is not worth a word
WORTH = 0.8  # the earliest test that brings this share of the greatest gain is the one to do


@dataclass(frozen=True)
class TestValue:
    """A test on a day: the width of the 80 % range of the readiness date, in days, now and to be expected after it."""

    quantity: str
    day: date
    width_now: float
    width_after: float

    @property
    def gain(self) -> float:
        return self.width_now - self.width_after


def next_tests(ensemble: Ensemble, projection: Projection, first: NDArray[np.int64]) -> tuple[TestValue, ...]:
    """Every nitrogen test on each of the next days, in order of day; `first` days to readiness, (n_member,)."""
    now = width(first)
    if now <= 0:
        return ()
    found = []
    for ahead in range(1, DAYS_AHEAD + 1):
        at = ensemble.as_of + timedelta(days=ahead)
        for quantity in NITROGEN:
            seen = getattr(projection.path, SPECIES_OF[quantity])[projection.index(at)].astype(float)
            p = step_probabilities(ensemble, quantity, seen)
            found.append(TestValue(quantity, at.date(), now, now * shrinking(first, p)))
    return tuple(found)


def worthwhile(tests: Sequence[TestValue]) -> TestValue | None:
    """The earliest test that brings nearly all that any of them would; None when none would narrow anything."""
    best = max((t.gain for t in tests), default=0.0)
    if best <= LEAST_GAIN * max((t.width_now for t in tests), default=0.0):
        return None
    good = [t for t in tests if t.gain >= WORTH * best]
    return min(good, key=lambda t: (t.day, -t.gain))


def step_probabilities(ensemble: Ensemble, quantity: str, seen: Array) -> Array:
    """P of each colour step for each member whose water holds `seen` mg N/L, (n_step, n_member)."""
    kit = ensemble.tank.kit
    steps = [read(quantity, figure(step, 6), kit) for step in kit.scale(quantity).steps]
    gain = getattr(ensemble.par, GAINS[quantity])
    p = Kits(steps).probability(np.repeat(seen[None], len(steps), axis=0), gain)
    return p / p.sum(axis=0)


def shrinking(days: NDArray[np.int64], p: Array) -> float:
    """Root of the variance to expect over the variance now, 0 to 1; `p` of each step for each member,
    (n_step, n_member), columns summing to one."""
    weight = p.sum(axis=1)
    mean = p @ days / np.maximum(weight, 1e-300)
    within = float((p * (days - mean[:, None]) ** 2).sum()) / p.shape[1]
    now = float(np.var(days))
    return float(np.sqrt(within / now)) if now > 0 else 1.0


def width(days: NDArray[np.int64]) -> float:
    """Width of the 80 % range over members, days."""
    low, high = np.quantile(days, RANGE)
    return float(high - low)
