"""The next step by looking ahead on the members: what a dose today, or none, does to the days on which the next batch
could go in (posterior sampling with a rollout of the usual plan; Tesauro & Galperin 1996 for the idea of rollouts)."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import timedelta

from jarbloom.core.bloom.drivers import FuturePlan, drivers
from jarbloom.core.bloom.ensemble import WATCH_DAYS, Ensemble
from jarbloom.core.bloom.kinetics import State
from jarbloom.core.bloom.parameters import LOW_MG_N_L
from jarbloom.core.bloom.stepper import Trajectory, simulate
from jarbloom.core.journal.clean import WASTE, clean_edge_mg_n_l
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.water.ammonia import Limits

LOOKS_DAYS = 4  # days ahead on which a test might open the gate
STEP_H = 6.0
CLEAR_ENOUGH = 0.9  # of the members that read clean: as the gate asks
LEAST_CHANCE = 0.05  # a clean test rarer than this is not looked into


@dataclass(frozen=True)
class Step:
    """One thing that may be done today. `opens`: P that a test now, and at the same hour of the days to come, finds
    ammonia and nitrite clean and the next batch stays under its limits with 90 %; `clean`: P that it finds both clean;
    `spent`: P that the ammonia is gone by then."""

    name: str  # wait | dose
    opens: tuple[float, ...]
    clean: tuple[float, ...]
    spent: tuple[float, ...]

    @property
    def worth(self) -> float:
        return sum(self.opens)


@dataclass(frozen=True)
class Coming:
    """The next batch, the limits of those who would live there then, and the share of water changed before it."""

    batch: Batch
    limits: Limits
    change: float = 0.0


def steps_ahead(ensemble: Ensemble, coming: Coming | None) -> tuple[Step, ...]:
    """'wait' and 'dose' from today on, in a tank that cycles without animals."""
    tank = ensemble.tank
    mg_n = tank.target_mg_n_l * ensemble.volume_l
    dosed = Dose(amount=tank.target_mg_n_l, unit="mg/L", mg_n=mg_n, target_mg_n_l=None, typed="")
    dose = Entry(dosed, ensemble.as_of + timedelta(minutes=1), id=0)
    found = []
    for name, entries in (("wait", ()), ("dose", (dose,))):
        state = ensemble.past.end
        days = [_day(ensemble, state, 0, coming)]
        for day in range(1, LOOKS_DAYS + 1):
            state = _run(ensemble, state, day - 1, 1, FuturePlan(animals_from=None, entries=entries)).end
            days.append(_day(ensemble, state, day, coming))
        opens, clean, spent = zip(*days, strict=True)
        found.append(Step(name, opens, clean, spent))
    return tuple(found)


def _run(ensemble: Ensemble, state: State, from_day: int, days: int, plan: FuturePlan) -> Trajectory:
    start = ensemble.as_of + timedelta(days=from_day)
    drv = drivers(
        ensemble.tank, ensemble.entries, ensemble.reference.species, start, start + timedelta(days=days), STEP_H / 24,
        plan, ensemble.as_of,
    )  # fmt: skip
    return simulate(ensemble.par, drv, state)


def _day(ensemble: Ensemble, state: State, day: int, coming: Coming | None) -> tuple[float, float, float]:
    """(opens, clean, spent) with the water as it is on a day."""
    kit = ensemble.tank.kit
    edge_am, edge_ni = (min(clean_edge_mg_n_l(kit, q), LOW_MG_N_L) for q in WASTE)
    spent = state.tan + state.bound < edge_am
    clean = spent & (state.no2 < edge_ni)
    p_clean, p_spent = float(clean.mean()), float(spent.mean())
    if coming is None or p_clean < LEAST_CHANCE:
        return 0.0, p_clean, p_spent
    at = ensemble.as_of + timedelta(days=day)
    plan = FuturePlan(batches=(replace(coming.batch, planned=at.date()),), changes=((at, coming.change),))
    after = _run(ensemble, state, day, WATCH_DAYS, plan)
    limits = coming.limits
    safe = (after.nh3[1:].max(axis=0) < limits.nh3) & (after.no2[1:].max(axis=0) < limits.no2)
    return (p_clean if safe[clean].mean() >= CLEAR_ENOUGH else 0.0), p_clean, p_spent
