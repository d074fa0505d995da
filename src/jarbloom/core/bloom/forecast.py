"""The forecast: given tank, log and date, what the bloom can carry and when. The interface that stays.

`ensemble.prepare` conditions members on the log up to a moment, `ensemble.project` runs them on under a plan;
`forecast` does both and returns plain quantiles. Deterministic for a given seed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import load_of, rotting_food_mg_n
from jarbloom.core.bloom.capacity import LIKELY, QUANTILES, SURE, carried_mg_n_l_day
from jarbloom.core.bloom.ensemble import Ensemble, Forecasting, Projection, prepare, project
from jarbloom.core.bloom.kernel import PLANT_HALF
from jarbloom.core.bloom.limits import planning_limits
from jarbloom.core.bloom.outlook import BatchOutlook, all_of, doses_feed, outlooks
from jarbloom.core.bloom.parameters import LOW_MG_N_L
from jarbloom.core.bloom.plans import noon, pinch_g_day, school_plan, usual_plan
from jarbloom.core.bloom.readiness import DailyCourse, Readiness, first_days, gate_passes, readiness
from jarbloom.core.bloom.sample import Sample, sample_of
from jarbloom.core.bloom.steps import Coming, Raised, Step, kh_raised, steps_ahead
from jarbloom.core.bloom.value import TestValue, next_tests
from jarbloom.core.bloom.why import Unknown, unknowns
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import NITROGEN
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.media import ceiling_mg_n_day

Array = NDArray[np.float64]
VERSION = 14
SURPRISE, SURPRISE_DAYS = 0.08, 14
# Ammonia or nitrite above zero on a loaded tank is evidence against a large bloom: for so long what is sure is no more
# than the load that the tank has not kept up with, growing as a fed colony grows (docs/model.md, what is told)
CONTRARY_DAYS, REGROWS_A_DAY = 3, 1.2


@dataclass(frozen=True)
class Surprise:
    """A reading that does not fit the others."""

    entry_id: int
    at: datetime
    quantity: str
    typed: str
    probability: float


@dataclass(frozen=True)
class Forecast:
    """Daily quantiles, (n_quantile, n_day) for tan, nh3, no2, no3 (mg N/L) and capacity, capacity_a, capacity_b
    (mg N/day), with dates, and the answers that verdict and gate stand on."""

    as_of: datetime
    days: tuple[date, ...]
    today: int
    bands: dict[str, Array]
    load_now: float
    load_adult: float
    ceiling: float
    readiness: Readiness  # for the school's gate; its load is the target dose
    carries: Readiness  # for a stated load: what lives here and the next batch, grown up
    batches: tuple[BatchOutlook, ...]
    next_tests: tuple[TestValue, ...]
    unknowns: tuple[Unknown, ...]  # what the range of the date hangs on
    surprises: tuple[Surprise, ...]
    n_readings: int
    last_reading: datetime | None
    members: int
    stages: int
    ess_least: float
    seed: int
    sample: Sample  # what plans of water changes are tried on
    unlogged: bool = False  # the last readings fit only with something that the log does not tell
    lost: bool = False  # not even so: no course that is known fits them
    steps: tuple[Step, ...] = ()  # what waiting and dosing today come to; none where animals are in
    raised: Raised | None = None  # what low alkalinity costs the next batch, while the tank cycles
    version: int = VERSION

    def band(self, name: str, quantile: float, day: int | None = None) -> float:
        return float(self.bands[name][QUANTILES.index(quantile), self.today if day is None else day])

    def course(self, name: str, quantile: float, days: Sequence[int]) -> list[float]:
        """A quantile of several days."""
        return list(self.bands[name][QUANTILES.index(quantile), days].tolist())

    @property
    def sure(self) -> float:
        """What the bloom carries today with 90 % probability, mg N a day."""
        return self.band("capacity", SURE)

    @property
    def likely(self) -> float:
        return self.band("capacity", LIKELY)


def forecast(
    tank: Tank,
    entries: Sequence[Entry],
    as_of: datetime,
    reference: Reference,
    batches: Sequence[Batch] = (),
    settings: Forecasting | None = None,
) -> Forecast:
    """The whole forecast under the usual plan: the school goes on, planned batches come on their days."""
    ensemble = prepare(tank, entries, as_of, reference, settings)
    return summarise(ensemble, [b for b in batches if b.arrived is None])


def summarise(ensemble: Ensemble, batches: Sequence[Batch], stated_load: float | None = None) -> Forecast:
    """Quantiles by day, readiness, and the outlook of every planned batch."""
    tank, reference, as_of = ensemble.tank, ensemble.reference, ensemble.as_of
    planned = sorted((b for b in batches if b.items), key=lambda b: (b.planned, b.id))
    projection = project(ensemble, usual_plan(ensemble, planned))
    alone = project(ensemble, school_plan(ensemble)) if planned else projection
    days, today = calendar(ensemble)
    bands = bands_of(ensemble, daily(ensemble, projection))
    living, temp = ensemble.living, tank.temp_c
    load = load_of(living, reference.species, temp, as_of.date()).total
    contrary = reads_above_zero(ensemble)
    if contrary:
        no_more_than(bands, today, load)
    adult = load_of(living, reference.species, temp, adult=True).total
    sure = bands["capacity"][QUANTILES.index(SURE)]
    tests = [
        e.at for e in ensemble.entries.kinds(Tested) if any(r.quantity in NITROGEN and not r.masked for r in e.readings)
    ]
    ceiling = ceiling_mg_n_day(tank, reference.media)
    course = course_of(ensemble, alone)
    passed = gate_of(ensemble, course)
    first = first_days(passed, today)
    first_batch = load_of(planned[0].items, reference.species, temp, adult=True).total if planned else 0.0
    stated = max(adult + first_batch if stated_load is None else stated_load, 0.0)
    return Forecast(
        as_of,
        days,
        today,
        bands,
        load,
        adult,
        ceiling,
        readiness(passed, today, days, tank.target_mg_n_l * ensemble.volume_l),
        readiness(course.carried >= stated, today, days, stated),
        outlooks(ensemble, projection, planned, adult, sure, days, today, ceiling),
        next_tests(ensemble, alone, first),
        unknowns(ensemble, first),
        _surprises(ensemble),
        len(ensemble.sights),
        max(tests, default=None),
        ensemble.settings.members,
        ensemble.posterior.stages,
        ensemble.posterior.ess_least,
        ensemble.settings.seed,
        sample_of(ensemble, load / ensemble.volume_l if contrary else None),
        ensemble.unlogged,
        ensemble.lost,
        *_looked_ahead(ensemble, planned),
    )


def _looked_ahead(ensemble: Ensemble, planned: Sequence[Batch]) -> tuple[tuple[Step, ...], Raised | None]:
    """The look ahead of a tank that cycles without animals, for its next batch."""
    schools = ensemble.reference.schools
    if ensemble.living or schools.cycling[ensemble.tank.school].fish_in:
        return (), None
    if not planned:
        return steps_ahead(ensemble, None), None
    change = schools.corrective[ensemble.tank.corrective].max_fraction
    coming = planned if doses_feed(ensemble, planned) else planned[:1]
    together = replace(planned[0], items=all_of(coming))  # as the gate: with those that are to follow it
    limits = planning_limits(together.items, ensemble.reference, ensemble.tank)
    coming_in = Coming(together, limits, change)
    return steps_ahead(ensemble, coming_in), kh_raised(ensemble, coming_in)


def reads_above_zero(ensemble: Ensemble) -> bool:
    """Animals are in, and the last ammonia or nitrite of the last days lies above the kit's lowest step."""
    if not ensemble.living:
        return False
    since = ensemble.as_of - timedelta(days=CONTRARY_DAYS)
    for quantity in ("ammonia", "nitrite"):
        seen = ensemble.entries.latest(quantity)
        if seen is not None and since <= seen.at and seen.reading.low > 0:
            return True
    return False


def no_more_than(bands: dict[str, Array], today: int, load_mg_n_day: float) -> None:
    """Caps what is sure of both guilds at the load, from today on and growing from there; the likely is left alone."""
    days = np.arange(next(iter(bands.values())).shape[1] - today)
    cap = load_mg_n_day * REGROWS_A_DAY**days
    for name in ("capacity", "capacity_a", "capacity_b"):
        for row, quantile in enumerate(QUANTILES):
            if quantile < LIKELY:
                bands[name][row, today:] = np.minimum(bands[name][row, today:], cap)


def bands_of(ensemble: Ensemble, columns: dict[str, Array]) -> dict[str, Array]:
    """Quantiles over members of every quantity by day, each (n_quantile, n_day)."""
    volume = ensemble.volume_l
    carried_a, carried_b = carried_mg_n_l_day(
        ensemble.par, columns["a"], columns["b"], columns["ph"], ensemble.tank.temp_c
    )
    samples = {name: columns[name] for name in ("tan", "no2", "no3", "nh3")} | {
        "capacity": volume * np.minimum(carried_a, carried_b),
        "capacity_a": volume * carried_a,
        "capacity_b": volume * carried_b,
    }
    return {name: np.quantile(values, QUANTILES, axis=1) for name, values in samples.items()}


def calendar(ensemble: Ensemble) -> tuple[tuple[date, ...], int]:
    """All days from the first to the horizon, and which of them is today."""
    start, n_past = ensemble.start.date(), len(ensemble.noons)
    return tuple(start + timedelta(days=k) for k in range(n_past + ensemble.settings.horizon_days + 1)), n_past


def daily(ensemble: Ensemble, projection: Projection) -> dict[str, Array]:
    """Columns at noon of each day, but today at as_of itself: arrays (n_day, n_member)."""
    days, n_past = calendar(ensemble)
    before = np.searchsorted(ensemble.past.at, ensemble.noons)
    after = [0, *(projection.index(noon(d, ensemble.as_of)) for d in days[n_past + 1 :])]
    return {
        name: np.vstack([getattr(ensemble.past, name)[before], getattr(projection.path, name)[after]]).astype(float)
        for name in ("tan", "nh3", "no2", "no3", "a", "b", "ph")
    }


def gate_of(ensemble: Ensemble, course: DailyCourse) -> NDArray[np.bool_]:
    """Where each member passes the school's gate, (n_day, n_member)."""
    tank = ensemble.tank
    gate = ensemble.reference.schools.cycling[tank.school].gate
    return gate_passes(gate, course, ensemble.par, tank.temp_c, tank.target_mg_n_l)


def course_of(ensemble: Ensemble, projection: Projection) -> DailyCourse:
    """What readiness looks at, day by day."""
    tank, n_past, load_ahead = ensemble.tank, len(ensemble.noons), _load_ahead(ensemble)
    columns = daily(ensemble, projection)
    carried = carried_mg_n_l_day(ensemble.par, columns["a"], columns["b"], columns["ph"], tank.temp_c)
    load = np.full(len(columns["tan"]), load_ahead)
    for k in range(n_past):
        day = ensemble.start.date() + timedelta(days=k)
        living = stock(ensemble.entries, day)
        load[k] = load_of(living, ensemble.reference.species, tank.temp_c, day).total if living else load_ahead
    plants = ensemble.volume_l * ensemble.par.plants * LOW_MG_N_L / (LOW_MG_N_L + PLANT_HALF)
    left = np.maximum(load[:, None] - plants, 0.0)
    kept = {n: columns[n] for n in ("tan", "no2", "ph", "a", "b")}
    return DailyCourse(**kept, carried=ensemble.volume_l * np.minimum(*carried), load=left)


def _load_ahead(ensemble: Ensemble) -> float:
    """What goes into the tank from today on while it cycles, mg N a day."""
    tank, species = ensemble.tank, ensemble.reference.species
    if ensemble.living:
        return load_of(ensemble.living, species, tank.temp_c, ensemble.as_of.date()).total
    school = ensemble.reference.schools.cycling[tank.school]
    return rotting_food_mg_n(pinch_g_day(tank)) if school.feeds_by == "food" else 0.0


def _surprises(ensemble: Ensemble) -> tuple[Surprise, ...]:
    """Readings of the last two weeks that all the others together call unlikely."""
    if not ensemble.sights:
        return ()
    by_id = {e.id: e.at for e in ensemble.entries}
    p = ensemble.evidence.probabilities(ensemble.past, ensemble.par).mean(axis=1)
    return tuple(
        Surprise(s.entry_id, by_id[s.entry_id], s.reading.quantity, s.reading.typed, float(chance))
        for s, chance in zip(ensemble.sights, p, strict=True)
        if chance < SURPRISE and s.reading.quantity != "nitrate" and s.age_days <= SURPRISE_DAYS
    )
