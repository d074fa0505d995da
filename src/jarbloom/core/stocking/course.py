"""The members' water from a day on under a plan: what the planner looks at, day by day from six in the morning."""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import SURE, carried_mg_n_l_day, share
from jarbloom.core.bloom.drivers import FuturePlan, drivers, step_of
from jarbloom.core.bloom.ensemble import WATCH_DAYS, Ensemble
from jarbloom.core.bloom.kernel import hydrogen
from jarbloom.core.bloom.kinetics import State
from jarbloom.core.bloom.limits import planning_limits
from jarbloom.core.bloom.parameters import BLOCK_DAYS
from jarbloom.core.bloom.plans import noon, usual_plan
from jarbloom.core.bloom.stepper import Trajectory, simulate
from jarbloom.core.journal.book import STOCK
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals

STEP_H = 6.0  # P differs from steps of 2 h by 0.01 at most (tests/core/test_planner.py): the solver is implicit
MORNING = time(6)


@dataclass(frozen=True)
class Watched:
    """How a batch fares in the two weeks after it: P of staying under the limits, 90th percentiles of the peaks."""

    p_safe: float
    nh3_p90: float
    no2_p90: float


FAR_DAYS = 200


def far_sighted(ensemble: Ensemble) -> Ensemble:
    """With noise of growth beyond the forecast's horizon: the weeks drawn for it, dealt anew among the members, so that
    no member has one bad week for ever."""
    par, blocks = ensemble.par, int((ensemble.past.end.days + FAR_DAYS) / BLOCK_DAYS) + 1
    more = blocks - par.noise_a.shape[0]
    if more <= 0:
        return ensemble
    rng = np.random.default_rng((ensemble.settings.seed, 4))
    ahead = min(int(ensemble.settings.horizon_days / BLOCK_DAYS), par.noise_a.shape[0])
    which = par.noise_a.shape[0] - ahead + np.arange(more) % ahead
    longer = {
        n: np.vstack([x, rng.permuted(x[which], axis=1)])
        for n, x in (("noise_a", par.noise_a), ("noise_b", par.noise_b))
    }
    return replace(ensemble, par=replace(par, noise_a=longer["noise_a"], noise_b=longer["noise_b"]))


class WaterCourse:
    """The water ahead under some fixed batches, simulated once and kept by day: futures branch off from any day.
    `mends`: the chance a day that low alkalinity is put right, where it is another than the log lets expect."""

    def __init__(self, ensemble: Ensemble, fixed: Sequence[Batch] = (), mends: tuple[float, ...] | None = None) -> None:
        self.ensemble, self.fixed = far_sighted(ensemble), tuple(b for b in fixed if b.items)
        self.entries = _telling(ensemble.entries)
        self.states: list[State] = [ensemble.past.end]
        self.today = ensemble.as_of.date()
        self.mends = mends

    def branch(self) -> WaterCourse:
        """A course of its own from here on, with the days that are simulated already."""
        other = copy(self)
        other.states = list(self.states)
        return other

    def kept_up(self) -> WaterCourse:
        """The water under the same batches if alkalinity were put right by everybody on the day after it is low."""
        return WaterCourse(self.ensemble, self.fixed, mends=(1.0,))

    def start_of(self, day: date) -> datetime:
        as_of = self.ensemble.as_of
        return max(as_of, datetime.combine(day, MORNING, as_of.tzinfo))

    def state(self, day: date) -> State:
        """The members on the morning of a day, before anything that this day brings."""
        wanted = (day - self.today).days
        while len(self.states) <= wanted:
            from_day = self.today + timedelta(days=len(self.states) - 1)
            start, end = self.start_of(from_day), self.start_of(from_day + timedelta(days=1))
            self.states.append(self._run(self.states[-1], start, end, self.fixed).end)
        return self.states[max(wanted, 0)]

    def go_on(self, batch: Batch) -> None:
        """From now on the batch belongs to what is fixed; days from its own on are simulated anew."""
        self.fixed = (*self.fixed, batch)
        del self.states[max((batch.planned - self.today).days, 0) + 1 :]

    def watch(self, batch: Batch) -> Watched:
        """The two weeks after a batch that goes in on its planned day, whatever else is fixed then. Where it is the
        first, from the day before it on: on that no dose is given any more."""
        first = not self.ensemble.living and all(b.planned > batch.planned for b in self.fixed)
        branch = max(batch.planned - timedelta(days=1), self.today) if first else batch.planned
        start = self.start_of(branch)
        end = noon(batch.planned, start) + timedelta(days=WATCH_DAYS, hours=2 * STEP_H)
        path = self._run(self.state(branch), start, max(end, start + timedelta(days=1)), (*self.fixed, batch))
        before = [b for b in self.fixed if b.planned <= batch.planned]
        return watched(self.ensemble, path, start, batch.planned, [*before, batch])

    def sure(self, day: date) -> float:
        """What the bloom carries with 90 % probability on a morning, mg N a day."""
        state = self.state(day)
        ph = -np.log10(hydrogen(state.alk, state.alk_ref, 10.0**-state.ph_ref, self.ensemble.par.ph_slope))
        return _sure(self.ensemble, state.a, state.b, ph)

    def _run(self, state: State, start: datetime, end: datetime, batches: Sequence[Batch]) -> Trajectory:
        plan = usual_plan(self.ensemble, batches)
        if self.mends is not None and plan.mends:
            plan = replace(plan, mends=self.mends)
        return run(self.ensemble, self.entries, state, start, end, plan)


def run(
    ensemble: Ensemble, entries: Sequence[Entry], state: State, start: datetime, end: datetime, plan: FuturePlan
) -> Trajectory:
    tank, species = ensemble.tank, ensemble.reference.species
    drv = drivers(tank, entries, species, start, end, STEP_H / 24, plan, ensemble.as_of)
    return simulate(ensemble.par, drv, state)


def watched(ensemble: Ensemble, path: Trajectory, start: datetime, day: date, batches: Sequence[Batch]) -> Watched:
    """P and peaks from noon of a day for 14 days, for the most sensitive of those who are in by then."""
    animals: list[Animals] = [*ensemble.living, *(a for b in batches for a in b.items)]
    limits = planning_limits(animals, ensemble.reference, ensemble.tank)
    from_noon = max(start, noon(day, start))
    first = step_of(from_noon, start, STEP_H / 24)
    last = step_of(from_noon + timedelta(days=WATCH_DAYS), start, STEP_H / 24) + 1
    nh3, no2 = path.nh3[first : last + 1].max(axis=0), path.no2[first : last + 1].max(axis=0)
    safe = (nh3 < limits.nh3) & (no2 < limits.no2)
    return Watched(share(safe), float(np.quantile(nh3, 0.9)), float(np.quantile(no2, 0.9)))


def _sure(ensemble: Ensemble, a: NDArray[np.float64], b: NDArray[np.float64], ph: NDArray[np.float64]) -> float:
    carried = np.minimum(*carried_mg_n_l_day(ensemble.par, a, b, ph, ensemble.tank.temp_c))
    return float(ensemble.volume_l * np.quantile(carried, SURE))


def _telling(entries: Sequence[Entry]) -> tuple[Entry, ...]:
    """What of a long log still matters ahead: who lives here, and the last temperature and salinity read."""
    log = Log.of(entries)
    last = {q: e for e in log.kinds(Tested) for q in ("temp", "salinity") if any(r.quantity == q for r in e.readings)}
    return Log.of({e.id: e for e in (*log.kinds(*STOCK), *last.values())}.values())


@dataclass(frozen=True)
class BatchStanding:
    """One batch of a plan as it stands, loads in mg N a day: `together` those here at their size of the day with all
    batches up to it grown up, `grown` everybody grown up; `sure` what the bloom surely carries on that morning."""

    batch: Batch
    together: float
    grown: float
    sure: float
    watched: Watched


def standings(ensemble: Ensemble, batches: Sequence[Batch]) -> list[BatchStanding]:
    """Every batch of a plan, by date, judged on one course of the water. None of their days has passed."""
    if not batches:
        return []
    ensemble = far_sighted(ensemble)
    species, temp = ensemble.reference.species, ensemble.tank.temp_c
    order = sorted(batches, key=lambda b: (b.planned, b.id))
    start, last = ensemble.as_of, order[-1].planned
    end = max(noon(last, start), start) + timedelta(days=WATCH_DAYS + 0.5)
    path = run(ensemble, _telling(ensemble.entries), ensemble.past.end, start, end, usual_plan(ensemble, batches))
    living = load_of(ensemble.living, species, temp, adult=True).total
    found, coming = [], 0.0
    for n, batch in enumerate(order):
        load = load_of(batch.items, species, temp, adult=True).total
        coming += load
        here = load_of(ensemble.living, species, temp, batch.planned).total
        morning = max(start, datetime.combine(batch.planned, MORNING, start.tzinfo))
        row = min(step_of(morning, start, STEP_H / 24), len(path.at) - 1)
        sure = _sure(ensemble, path.a[row].astype(float), path.b[row].astype(float), path.ph[row].astype(float))
        seen = watched(ensemble, path, start, batch.planned, order[: n + 1])
        found.append(BatchStanding(batch, here + coming, living + coming, sure, seen))
    return found
