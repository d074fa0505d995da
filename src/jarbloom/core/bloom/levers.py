"""What would bring the proof of a cycle forward: the same members under the usual plan with one thing done
differently, so that the days gained are that thing's and not chance's."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.capacity import share
from jarbloom.core.bloom.drivers import FuturePlan
from jarbloom.core.bloom.ensemble import Ensemble, project
from jarbloom.core.bloom.forecast import calendar, course_of, gate_of
from jarbloom.core.bloom.parameters import NITRITE_WAIT_MG_N_L
from jarbloom.core.bloom.plans import school_plan, with_entries
from jarbloom.core.bloom.readiness import first_days
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.buffered import Buffered
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.kind import Kind
from jarbloom.core.model.entry import Entry
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.core.water.mixing import BICARBONATE_MG_MEQ

WARM_C = 28.0  # what a tank without animals may be kept at while it cycles (judgement)
CYCLE_DKH = 4.0  # what the alkalinity of a cycle is comfortably brought to (judgement)
BORROWED_SHARE = 25.0  # % of a running filter, as neighbours give it (judgement)
LEAST_RISE = 0.05  # of the chance to be ready within the horizon
HALF = 0.5  # of the water, where nitrite stalls itself


@dataclass(frozen=True)
class Lever:
    """One thing done from now on.

    `amount` in the unit of its key: warm deg C, more, less and fed mg N/L a dose, alkalinity g of bicarbonate,
    borrowed % of a filter, change share. `sooner`: days that the day of readiness comes forward, 10th, 50th and 90th
    percentile over the members (below zero: later); a member that is not ready within the horizon counts with the
    horizon's end. `in_time`: share that is ready within it, without and with the lever.
    """

    key: str
    amount: float
    sooner: tuple[float, float, float]
    in_time: tuple[float, float]

    @property
    def helps(self) -> bool:
        """By a day at least, or where the end is out of sight by one in twenty."""
        return self.sooner[1] >= 1 or self.in_time[1] - self.in_time[0] >= LEAST_RISE


def levers(ensemble: Ensemble) -> tuple[Lever, ...]:
    """The levers that are open to this tank, the best first; none once animals are in, or where it is likely ready."""
    school = ensemble.reference.schools.cycling[ensemble.tank.school]
    if ensemble.living or school.fish_in or not ensemble.tank.filled:
        return ()
    usual, late = school_plan(ensemble), ensemble.settings.horizon_days + 1
    base = _ready(ensemble, usual)
    if np.median(base) < 1:
        return ()
    found = []
    for key, amount, plan in _open(ensemble):
        without, then = base, _ready(ensemble, plan)
        if key == "alkalinity":  # against leaving it low: the usual plan has it put right soon
            without = _ready(ensemble, replace(usual, mends=()))
        p10, p50, p90 = (float(q) for q in np.quantile(without - then, (0.1, 0.5, 0.9)))
        lever = Lever(key, amount, (p10, p50, p90), (share(without < late), share(then < late)))
        found.append((float((without - then).mean()), lever))
    return tuple(lever for _, lever in sorted(found, key=lambda x: -x[0]))


def _ready(ensemble: Ensemble, plan: FuturePlan) -> NDArray[np.int64]:
    """Days to readiness of each member, (n_member,)."""
    return first_days(gate_of(ensemble, course_of(ensemble, project(ensemble, plan))), calendar(ensemble)[1])


def _open(ensemble: Ensemble) -> Iterator[tuple[str, float, FuturePlan]]:
    tank, usual, volume = ensemble.tank, school_plan(ensemble), ensemble.volume_l
    if tank.temp_c <= WARM_C - 1 and not tank.planted:
        yield "warm", WARM_C, replace(usual, temp_c=WARM_C)
    if usual.redose_mg_n_l:
        yield "more", 2 * usual.redose_mg_n_l, replace(usual, redose_mg_n_l=2 * usual.redose_mg_n_l)
        yield "less", usual.redose_mg_n_l / 2, replace(usual, redose_mg_n_l=usual.redose_mg_n_l / 2)
    else:
        yield "fed", tank.target_mg_n_l / 2, replace(usual, redose_mg_n_l=tank.target_mg_n_l / 2)
    lacking = CYCLE_DKH * MEQ_PER_DKH - float(np.median(ensemble.past.end.alk))
    if lacking > 0.5 * MEQ_PER_DKH:
        grams = lacking * volume * BICARBONATE_MG_MEQ / 1000
        yield "alkalinity", grams, _with(ensemble, Buffered(grams=grams))
    borrowed = Bacteria.from_raw({"source": "borrowed", "share": BORROWED_SHARE, "donor": "healthy"})
    yield "borrowed", BORROWED_SHARE, _with(ensemble, borrowed)
    if np.median(ensemble.past.end.no2) > NITRITE_WAIT_MG_N_L:
        yield "change", HALF, _with(ensemble, Change.from_raw({"litres": HALF * volume}))


def _with(ensemble: Ensemble, done: Kind) -> FuturePlan:
    at = ensemble.as_of + timedelta(minutes=1)
    return with_entries(school_plan(ensemble), [Entry(done, at, id=0)])
