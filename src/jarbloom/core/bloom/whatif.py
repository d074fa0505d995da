"""What if: other futures for the same members, so that differences are the plan's and not chance's."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.drivers import THERE
from jarbloom.core.bloom.ensemble import WATCH_DAYS, Ensemble, project
from jarbloom.core.bloom.forecast import bands_of, calendar, course_of, daily, gate_of
from jarbloom.core.bloom.limits import limits_for, planning_limits
from jarbloom.core.bloom.plans import noon, usual_plan, with_entries
from jarbloom.core.bloom.readiness import Readiness, readiness
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch

Array = NDArray[np.float64]


@dataclass(frozen=True)
class WhatIf:
    """Future lines of the log and batches that would be done on top of the usual plan."""

    name: str
    entries: tuple[Entry, ...] = ()
    batches: tuple[Batch, ...] = ()


@dataclass(frozen=True)
class Future:
    """What follows from one plan: daily quantiles as in a forecast, readiness, and the peaks ahead (mg N/L).

    p_under: probability that NH3-N and nitrite stay under the animals' limits for 14 days; None without animals.
    """

    name: str
    bands: dict[str, Array]
    readiness: Readiness
    nh3_peak_p50: float
    nh3_peak_p90: float
    no2_peak_p50: float
    no2_peak_p90: float
    p_under: float | None


def future(ensemble: Ensemble, what_if: WhatIf, batches: Sequence[Batch] = ()) -> Future:
    """The course under a what-if; one without lines is the usual plan itself."""
    coming = (*batches, *what_if.batches)
    plan = with_entries(usual_plan(ensemble, coming), what_if.entries)
    projection = project(ensemble, plan)
    days, today = calendar(ensemble)
    # Readiness is asked of the tank by itself: animals to come would end the dosing that it rests on.
    coming_in = plan.animals_from is not None and plan.animals_from > THERE
    alone = project(ensemble, replace(plan, batches=(), animals_from=None)) if coming_in else projection
    ok = gate_of(ensemble, course_of(ensemble, alone))
    ready = readiness(ok, today, days, ensemble.tank.target_mg_n_l * ensemble.volume_l)
    ahead = slice(1, 1 + int(WATCH_DAYS / projection.dt))
    nh3, no2 = projection.path.nh3[ahead].max(axis=0), projection.path.no2[ahead].max(axis=0)
    arriving = stock(what_if.entries) if what_if.entries else ()
    animals = (*ensemble.living, *arriving, *(a for b in coming for a in b.items))
    under = None
    if animals:
        start = ensemble.as_of
        if not ensemble.living:  # nobody is harmed before the first of them is in
            arrivals = [e.at for e in what_if.entries if isinstance(e.body, Arrival)]
            start = max(start, min([*arrivals, *(noon(b.planned, start) for b in coming if b.items)]))
        # Of who is to come it is asked as the gate asks it: one question, one answer
        limits_of = planning_limits if arriving or coming else limits_for
        under = projection.p_safe(start, limits_of(animals, ensemble.reference, ensemble.tank))[0]
    bands = bands_of(ensemble, daily(ensemble, projection))
    (nh3_p50, nh3_p90), (no2_p50, no2_p90) = (np.quantile(x, (0.5, 0.9)).tolist() for x in (nh3, no2))
    return Future(what_if.name, bands, ready, nh3_p50, nh3_p90, no2_p50, no2_p90, under)


def compare(ensemble: Ensemble, what_ifs: Sequence[WhatIf], batches: Sequence[Batch] = ()) -> tuple[Future, ...]:
    """The usual plan first, then each what-if."""
    return tuple(future(ensemble, w, batches) for w in (WhatIf("as planned"), *what_ifs))
