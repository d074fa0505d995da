"""The next step by looking ahead on the members: what a dose today, or none, does to the days on which the next batch
could go in (posterior sampling with a rollout of the usual plan; Tesauro & Galperin 1996 for the idea of rollouts)."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.drivers import FuturePlan, drivers, elapsed_days
from jarbloom.core.bloom.ensemble import WATCH_DAYS, Ensemble
from jarbloom.core.bloom.kinetics import State
from jarbloom.core.bloom.outlook import CERTAIN
from jarbloom.core.bloom.parameters import LOW_MG_N_L
from jarbloom.core.bloom.stepper import Trajectory, simulate
from jarbloom.core.journal.clean import WASTE, clean_edge_mg_n_l
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.water.ammonia import Limits
from jarbloom.core.water.carbonate import MEQ_PER_DKH

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
LOOKS_DAYS = 4  # days ahead on which a test might open the gate
STEP_H = 6.0
EARLY_H = (10, 12, 14, 16, 18)  # hours after a dose at which a test tells how fast it goes, not only that it does
EARLY_STEP_H = 2.0
LATE = timedelta(minutes=45)  # by so much an hour may have passed
NEAR_ITS_OWN = 0.8  # alkalinity above this share of the tank's own is not worth raising (judgement)
LEAST_CHANCE = 0.05  # a clean test rarer than this is not looked into


@dataclass(frozen=True)
class Step:
    """One thing that may be done today. `opens`: P that a test now, and at the same hour of the days to come, finds
    ammonia and nitrite clean and the next batch stays under its limits with 90 %; `clean`: P that it finds both clean;
    `spent`: P that the ammonia is gone by then. `early`: (when, P that a test then opens it), where no test
    at tomorrow's hour can."""

    name: str  # wait | dose
    opens: tuple[float, ...]
    clean: tuple[float, ...]
    spent: tuple[float, ...]
    early: tuple[tuple[datetime, float], ...] = ()

    @property
    def worth(self) -> float:
        return sum(self.opens)


@dataclass(frozen=True)
class Coming:
    """The next batch, the limits of those who would live there then, and the share of water changed before it."""

    batch: Batch
    limits: Limits
    change: float = 0.0


@dataclass(frozen=True)
class Raised:
    """P that the next batch stays under its limits if it went in now: as the water is (`now`), and with alkalinity
    brought to the tank's own (`then`)."""

    now: float
    then: float


def kh_raised(ensemble: Ensemble, coming: Coming) -> Raised | None:
    """What low alkalinity costs the next batch; None where it is not low."""
    own, state = ensemble.tank.kh_dkh * MEQ_PER_DKH, ensemble.past.end
    if np.median(state.alk) > NEAR_ITS_OWN * own:
        return None
    full = replace(state, alk=np.maximum(state.alk, own))
    now, then = (float(_safe(ensemble, x, 0, coming).mean()) for x in (state, full))
    return Raised(now, then)


def steps_ahead(ensemble: Ensemble, coming: Coming | None) -> tuple[Step, ...]:
    """'wait' and 'dose' from today on, in a tank that cycles without animals."""
    tank = ensemble.tank
    mg_n = tank.target_mg_n_l * ensemble.volume_l
    dosed = Dose(amount=tank.target_mg_n_l, unit="mg/L", mg_n=mg_n, target_mg_n_l=None, typed="")
    dose = Entry(dosed, ensemble.as_of + timedelta(minutes=1), id=0)
    last, found = ensemble.entries.kinds(Dose)[-1:], []
    for name, entries in (("wait", ()), ("dose", (dose,))):
        plan = FuturePlan(animals_from=None, entries=entries)
        states = [ensemble.past.end]
        for day in range(LOOKS_DAYS):
            states.append(_run(ensemble, states[-1], day, 1, plan).end)
        days = [_day(ensemble, state, day, coming) for day, state in enumerate(states)]
        given = (entries or last)[-1:]
        early = _early(ensemble, plan, days[1], given[0].at) if given else ()
        found.append(
            Step(name, tuple(d.opens for d in days), tuple(d.p_clean for d in days), tuple(d.p_spent for d in days),
                 early)
        )  # fmt: skip
    return tuple(found)


@dataclass(frozen=True)
class _Day:
    """A test on a day: which members read clean, arrays (n_member,), and which stay safe with the batch from then on;
    `safe` None where that was not looked into."""

    spent: Flags
    clean: Flags
    safe: Flags | None

    @property
    def p_clean(self) -> float:
        return float(self.clean.mean())

    @property
    def p_spent(self) -> float:
        return float(self.spent.mean())

    @property
    def opens(self) -> float:
        return self.opens_if(self.clean)

    def opens_if(self, clean: Flags) -> float:
        """P that a test reads clean in these members and opens the gate by it."""
        if self.safe is None or not clean.any():
            return 0.0
        return float(clean.mean()) if self.safe[clean].mean() >= CERTAIN else 0.0


def _early(ensemble: Ensemble, plan: FuturePlan, tomorrow: _Day, dosed: datetime) -> tuple[tuple[datetime, float], ...]:
    """What tests before tomorrow's hour can open, where tomorrow's cannot: the water is clean by then in members that
    carry more, and not yet in the others. On half hours, as one says them."""
    since = dosed.replace(minute=30 * (dosed.minute // 30), second=0, microsecond=0)
    times = [t for t in (since + timedelta(hours=h) for h in EARLY_H) if t > ensemble.as_of - LATE]
    if tomorrow.safe is None or tomorrow.opens or not times:
        return ()
    path = _run(ensemble, ensemble.past.end, 0, 1, plan, EARLY_STEP_H)
    found = []
    for time in times:
        ahead_h = 24 * max(elapsed_days(ensemble.as_of, time), 0.0)
        row = path.row(round(ahead_h / EARLY_STEP_H))
        _, clean = _reads(ensemble, path.tan[row], path.no2[row])
        found.append((time, tomorrow.opens_if(clean)))
    return tuple(found)


def _run(
    ensemble: Ensemble, state: State, from_day: int, days: int, plan: FuturePlan, step_h: float = STEP_H
) -> Trajectory:
    start = ensemble.as_of + timedelta(days=from_day)
    drv = drivers(
        ensemble.tank, ensemble.entries, ensemble.reference.species, start, start + timedelta(days=days), step_h / 24,
        plan, ensemble.as_of,
    )  # fmt: skip
    return simulate(ensemble.par, drv, state)


def _reads(ensemble: Ensemble, tan: Array, no2: Array) -> tuple[Flags, Flags]:
    """(ammonia is gone, both read clean), each (n_member,)."""
    edge_am, edge_ni = (min(clean_edge_mg_n_l(ensemble.tank.kit, q), LOW_MG_N_L) for q in WASTE)
    spent = tan < edge_am
    return spent, spent & (no2 < edge_ni)


def _day(ensemble: Ensemble, state: State, day: int, coming: Coming | None) -> _Day:
    """A test of the water as it is on a day."""
    spent, clean = _reads(ensemble, state.tan + state.bound, state.no2)
    if coming is None or clean.mean() < LEAST_CHANCE:
        return _Day(spent, clean, None)
    return _Day(spent, clean, _safe(ensemble, state, day, coming))


def _safe(ensemble: Ensemble, state: State, day: int, coming: Coming) -> Flags:
    """In which members the batch stays under its limits if it goes in on a day."""
    at = ensemble.as_of + timedelta(days=day)
    plan = FuturePlan(batches=(replace(coming.batch, planned=at.date()),), changes=((at, coming.change),))
    after = _run(ensemble, state, day, WATCH_DAYS, plan)
    limits = coming.limits
    return (after.nh3[1:].max(axis=0) < limits.nh3) & (after.no2[1:].max(axis=0) < limits.no2)
