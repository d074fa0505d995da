"""When a tank is ready: by the school's own gate, and for a stated load. One day per member; dates are quantiles."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.capacity import clears, share
from jarbloom.core.bloom.parameters import LOW_MG_N_L, Parameters
from jarbloom.core.model.schools import Requirement

Array = NDArray[np.float64]


@dataclass(frozen=True)
class DailyCourse:
    """A quantity at noon of each day, today at the moment asked: arrays (n_day, n_member).

    Concentrations mg N/L; a, b saturated capacities mg N/L/day; carried mg N/day by the weaker guild;
    load what goes in and plants leave, mg N/day.
    """

    tan: Array
    no2: Array
    ph: Array
    a: Array
    b: Array
    carried: Array
    load: Array


@dataclass(frozen=True)
class Readiness:
    """When the proof would succeed: dates by quantile (None: beyond the horizon), and P(already)."""

    p10: date | None
    p25: date | None
    p50: date | None
    p75: date | None
    p90: date | None
    already: float
    stated_load: float  # mg N a day
    in_time: float = 1.0  # probability of being ready within the horizon


def passes(
    requirement: Requirement, days: DailyCourse, par: Parameters, temp_c: float, target_mg_n_l: float
) -> NDArray[np.bool_]:
    """Where each member meets one requirement of a gate, bool (n_day, n_member)."""
    if requirement.kind == "clears_dose":
        return clears(par, days.a, days.b, days.ph, temp_c, target_mg_n_l)
    clean = (days.tan < LOW_MG_N_L) & (days.no2 < LOW_MG_N_L)
    # Water that is clean because nothing has rotted yet, or was changed, proves no colony.
    return _held(clean & (days.carried >= days.load), int(np.ceil(requirement.days)))


def _held(ok: NDArray[np.bool_], n: int) -> NDArray[np.bool_]:
    """True where the n days before were true as well."""
    run, found = np.zeros(ok.shape[1], dtype=int), np.empty_like(ok)
    for k, row in enumerate(ok):
        run = np.where(row, run + 1, 0)
        found[k] = run > n
    return found


def gate_passes(
    gate: Sequence[Requirement], days: DailyCourse, par: Parameters, temp_c: float, target: float
) -> NDArray[np.bool_]:
    return np.logical_and.reduce([passes(r, days, par, temp_c, target) for r in gate])


def first_days(ok: NDArray[np.bool_], today: int) -> NDArray[np.int64]:
    """Days from today to the first day that is true, (n_member,); n_day - today where there is none."""
    ahead = ok[today:]
    return np.where(ahead.any(axis=0), ahead.argmax(axis=0), len(ahead))


def readiness(ok: NDArray[np.bool_], today: int, dates: Sequence[date], load: float) -> Readiness:
    """Quantiles over members of the first day from today on that passes; `already`: share that passes today."""
    first = first_days(ok, today)

    def at(q: float) -> date | None:
        k = int(np.quantile(first, q, method="inverted_cdf"))
        return dates[today + k] if today + k < len(dates) else None

    late = len(dates) - today
    return Readiness(at(0.10), at(0.25), at(0.50), at(0.75), at(0.90), share(ok[today]), load, share(first < late))
