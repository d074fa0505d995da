"""Asks the forecast about a lived tank on some day, and keeps what was said beside what came."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import timedelta

import numpy as np

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import clears
from jarbloom.core.bloom.drivers import drivers
from jarbloom.core.bloom.ensemble import Ensemble, Forecasting, prepare, project
from jarbloom.core.bloom.forecast import course_of, gate_of
from jarbloom.core.bloom.limits import limits_for
from jarbloom.core.bloom.plans import school_plan, usual_plan
from jarbloom.core.bloom.readiness import first_days
from jarbloom.core.bloom.stepper import simulate
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l
from scripts.calibrate.keeper import DAY_ZERO, NOON, Keeper, Lived, a_tank, at, peaks_under
from scripts.calibrate.score import pit
from scripts.calibrate.worlds import WORLDS, OwnWorld, World

HORIZON = 60
LIVED_DAYS = 100
FIXED_DAYS = (14, 28)
BATCH_DAYS = (14, 28, 35, 42)
AHEAD = (5, 10, 15)
FISHLESS_GUESS = 35  # the first baseline: 'it takes five weeks'
SETTINGS = Forecasting(horizon_days=HORIZON)
FISH, LOADS = "harlequin_rasbora", (0.03, 1.5)  # of the batches that are asked about, mg N/L/day grown up


@dataclass(frozen=True)
class Answer:
    """One question: which, about what; the members' days to readiness (censored at the horizon), and what came."""

    seed: int
    school: str
    asked: str  # '10 ahead', 'day 14', ...
    day: int
    members: np.ndarray
    truth: int  # days from the day asked; horizon + 1 where it never came in time
    fixed: float
    extrapolated: float
    ranks: tuple[float, ...] = ()  # of the truth among members, in the own world


@dataclass(frozen=True)
class Safety:
    """One batch on one day: what was said and whether the peaks stayed under the limits."""

    seed: int
    school: str
    day: int
    load_mg_n_l_day: float
    p: float
    safe: bool


@dataclass(frozen=True)
class TankResult:
    seed: int
    school: str
    ready: int | None
    answers: tuple[Answer, ...]
    safeties: tuple[Safety, ...]


def one_tank(
    world: Callable[..., World], base: int, seed: int, reference: Reference, settings: Forecasting | None = None
) -> TankResult:
    """Live one tank and ask all questions about it. Deterministic for (base, seed)."""
    rng = np.random.default_rng((base, seed))
    tank = a_tank(rng)
    keeper = Keeper(tank, world(tank, reference.media, rng), reference, rng)
    lived = keeper.run(LIVED_DAYS, set(BATCH_DAYS))
    ready = lived.ready_day(reference)
    questions: dict[int, list[str]] = {}
    for day in FIXED_DAYS:
        if ready is None or ready > day:
            questions.setdefault(day, []).append(f"day {day}")
        if world is OwnWorld:  # ranks need all tanks: leaving out the ready ones would bend them
            questions.setdefault(day, []).append(f"rank {day}")
    for ahead in AHEAD:
        if ready is not None and ready - ahead >= 2:
            questions.setdefault(ready - ahead, []).append(f"{ahead} ahead")
    for day in BATCH_DAYS:
        questions.setdefault(day, [])
    answers, safeties = [], []
    for day, asked in sorted(questions.items()):
        ensemble = prepare(tank, lived.log, at(day + NOON), reference, replace(settings or SETTINGS, seed=seed + 1))
        if asked:
            answers += _answers(ensemble, lived, ready, day, asked, seed)
        if day in lived.branches:
            safeties += _safeties(ensemble, lived, day, seed, rng, reference)
    return TankResult(seed, tank.school, ready, tuple(answers), tuple(safeties))


def _answers(
    ensemble: Ensemble, lived: Lived, ready: int | None, day: int, asked: Iterable[str], seed: int
) -> list[Answer]:
    course = course_of(ensemble, project(ensemble, school_plan(ensemble)))
    today = len(ensemble.noons)
    members = first_days(gate_of(ensemble, course), today)
    truth = HORIZON + 1 if ready is None else min(ready - day, HORIZON + 1)
    fixed = max(FISHLESS_GUESS - day, 0)
    ranks: tuple[float, ...] = ()
    branch = lived.branches.get(day)
    if isinstance(branch, OwnWorld):
        ranks = _ranks(ensemble, branch, members, np.random.default_rng((3, seed, day)))
    guess = extrapolated(lived, day)
    return [
        Answer(seed, lived.tank.school, name, day, members, truth, fixed, fixed if guess is None else guess, ranks)
        for name in asked
    ]


def _ranks(ensemble: Ensemble, truth: OwnWorld, members: np.ndarray, rng: np.random.Generator) -> tuple[float, ...]:
    """Share of members below the truth: ln A, ln B, and the day of readiness under the plan that was assumed."""
    end = ensemble.past.end
    found = [float(np.mean(getattr(end, g) < getattr(truth.state, g)[0])) for g in ("a", "b")]
    tank, plan = ensemble.tank, school_plan(ensemble)
    if plan.redose_mg_n_l:
        as_of, dt = ensemble.as_of, 1 / 24
        species = ensemble.reference.species
        plan = replace(plan, mends=(float(rng.choice(plan.mends)),))  # the one keeper of this one tank
        drv = drivers(tank, ensemble.entries, species, as_of, as_of + timedelta(days=HORIZON, hours=1), dt, plan, as_of)
        path = simulate(truth.par, drv, truth.state, np.arange(0, HORIZON * 24 + 1, 24))
        ok = clears(truth.par, path.a, path.b, path.ph, tank.temp_c, tank.target_mg_n_l)
        found.append(pit(members, int(first_days(ok, 0)[0]), rng))
    return tuple(found)


def extrapolated(lived: Lived, day: int) -> float | None:
    """The second baseline: a straight line through the last two falling readings, down to zero; None without a fall.

    Of ammonia while it is above zero, then of nitrite: what people do with a pencil.
    """
    tests = [e for e in lived.log if e.kind == "test" and e.at <= at(day + NOON)]
    for which in (0, 1):
        points = [((e.at - at(0)).total_seconds() / 86400, e.readings[which]) for e in tests][-4:]
        if len(points) < 2 or (points[-1][1].low <= 0):
            continue
        for (t0, r0), (t1, r1) in zip(points[-2::-1], points[:0:-1], strict=False):
            if r0.seen > r1.seen:
                left = r1.seen * (t1 - t0) / (r0.seen - r1.seen)
                return float(np.clip(t1 + left - day, 0, HORIZON))
        return None
    return 0.0 if tests and all((r.low <= 0) for r in tests[-1].readings[:2]) else None


def film_or_patch(seed: int, base: int, reference: Reference, days: int) -> Lived:
    """A tank of the one world or of the other, by turns."""
    rng = np.random.default_rng((base, seed))
    tank, world = a_tank(rng), WORLDS[("film", "patch")[seed % 2]]
    return Keeper(tank, world(tank, reference.media, rng), reference, rng).run(days)


def a_batch(tank: Tank, day: int, rng: np.random.Generator, reference: Reference) -> Batch:
    """As many of one fish as come to some load."""
    one = load_of([Animals(FISH, 1)], reference.species, tank.temp_c, adult=True).total
    wanted = float(np.exp(rng.uniform(*np.log(LOADS))))
    fish = Animals(FISH, max(1, round(wanted * net_l(tank) / one)))
    return Batch(1, "asked", DAY_ZERO + timedelta(days=day), (fish,))


def _safeties(
    ensemble: Ensemble, lived: Lived, day: int, seed: int, rng: np.random.Generator, reference: Reference
) -> list[Safety]:
    tank, found = lived.tank, []
    limits = limits_for([Animals(FISH, 1)], reference)
    for _ in range(3):
        batch = a_batch(tank, day, rng, reference)
        load = load_of(batch.items, reference.species, tank.temp_c, adult=True).total
        plan = replace(usual_plan(ensemble, [batch]), relief_share=0.0)
        p = project(ensemble, plan, 14).p_safe(ensemble.as_of, limits)[0]
        peaks = peaks_under(lived.branches[day].branch(), tank, heard_by(lived, day), reference, day, plan)
        safe = peaks.nh3 < limits.nh3 and peaks.no2 < limits.no2
        found.append(Safety(seed, tank.school, day, load / ensemble.volume_l, p, bool(safe)))
    return found


def heard_by(lived: Lived, day: int) -> list[Entry]:
    return [e for e in lived.log if e.at <= at(day + NOON)]
