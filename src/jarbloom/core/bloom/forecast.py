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

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import LIKELY, QUANTILES, SURE, carried_mg_n_l_day, clears
from jarbloom.core.bloom.conditioning import gain_of, reading_probability, seen_by
from jarbloom.core.bloom.drivers import Plan, step_of
from jarbloom.core.bloom.ensemble import WATCH_DAYS, Ensemble, Projection, Settings, prepare, project
from jarbloom.core.model import NITROGEN, Animals, Batch, Entry, Tank
from jarbloom.core.reference import Reference
from jarbloom.core.vessel.box import net_l
from jarbloom.core.vessel.media import ceiling_mg_n_day
from jarbloom.core.water.ammonia import Limits, unionised_fraction

Array = NDArray[np.float64]
VERSION = 1
SURPRISE = 0.08
CERTAIN = 0.90  # never more than this is called certain


@dataclass(frozen=True)
class Surprise:
    """A reading that does not fit the others."""

    entry_id: int
    at: datetime
    quantity: str
    typed: str
    probability: float


@dataclass(frozen=True)
class BatchOutlook:
    """What the forecast says of one planned batch. Loads at adult size, mg N a day."""

    batch_id: int
    load: float
    together: float
    planned: date
    p_safe: float | None  # None: beyond the horizon
    p_safe_today: float | None
    first_sure: date | None
    peak_nh3_p90: float | None
    peak_no2_p90: float | None


@dataclass(frozen=True)
class Readiness:
    """When the school's own proof would succeed: dates by quantile (None: beyond the horizon)."""

    p10: date | None
    p25: date | None
    p50: date | None
    p75: date | None
    p90: date | None
    already: float
    stated_load: float


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
    dosed: tuple[float, ...]
    readiness: Readiness
    batches: tuple[BatchOutlook, ...]
    surprises: tuple[Surprise, ...]
    n_readings: int
    last_reading: datetime | None
    members: int
    stages: int
    ess_least: float
    seed: int
    version: int = VERSION

    def band(self, name: str, quantile: float, day: int | None = None) -> float:
        return float(self.bands[name][QUANTILES.index(quantile), self.today if day is None else day])

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
    settings: Settings | None = None,
) -> Forecast:
    """The whole forecast under the usual plan: the school goes on, planned batches come on their days."""
    ensemble = prepare(tank, entries, as_of, reference, settings)
    return summarise(ensemble, [b for b in batches if b.arrived is None])


def usual_plan(ensemble: Ensemble, batches: Sequence[Batch]) -> Plan:
    """The school's own feeding until the first batch, its routine changes, and a change before first stocking."""
    tank, as_of = ensemble.tank, ensemble.as_of
    school = ensemble.reference.schools.cycling[tank.school]
    coming = tuple(replace(b, planned=max(b.planned, as_of.date())) for b in batches if b.items)
    first = min((b.planned for b in coming), default=None)
    if ensemble.living or school.fish_in:
        changes = _routine(school.change_share, school.change_every_days, ensemble) if school.change_share else ()
        return Plan(coming, changes)
    stocking = ()
    if first is not None:
        at = max(as_of, datetime(first.year, first.month, first.day, 8, tzinfo=as_of.tzinfo))
        stocking = ((at, ensemble.reference.schools.corrective[tank.corrective].max_fraction),)
    redose = tank.target_mg_n_l if school.feeds_by == "dose" else 0.0
    food = 0.02 * net_l(tank) / 10 if school.feeds_by == "food" else 0.0
    return Plan(coming, stocking, redose, first, food)


def _routine(share: float, every_days: float, ensemble: Ensemble) -> tuple[tuple[datetime, float], ...]:
    steps = int(ensemble.settings.horizon_days / every_days)
    return tuple((ensemble.as_of + timedelta(days=every_days * (k + 1)), share) for k in range(steps))


def limits_for(groups: Sequence[Animals], reference: Reference) -> Limits:
    """Limits of the most sensitive animal among these."""
    kinds = [reference.species.get(g.species, reference.species["unknown"]) for g in groups]
    return Limits.for_animals(
        "sensitive" if any(k.ammonia_sensitivity == "sensitive" for k in kinds) else "usual",
        "sensitive" if any(k.nitrite_sensitivity == "sensitive" for k in kinds) else "usual",
    )


def summarise(ensemble: Ensemble, batches: Sequence[Batch]) -> Forecast:
    """Quantiles by day, readiness, and the outlook of every planned batch."""
    tank, reference, as_of = ensemble.tank, ensemble.reference, ensemble.as_of
    planned = sorted((b for b in batches if b.items), key=lambda b: (b.planned, b.id))
    projection = project(ensemble, usual_plan(ensemble, planned))
    days, today, columns = _daily(ensemble, projection)
    volume, temp = ensemble.volume_l, tank.temp_c
    carried_a, carried_b = carried_mg_n_l_day(ensemble.par, columns["a"], columns["b"], columns["ph"], temp)
    samples = {
        "tan": columns["tan"],
        "no2": columns["no2"],
        "no3": columns["no3"],
        "nh3": columns["tan"] * unionised_fraction(columns["ph"], temp),
        "capacity": volume * np.minimum(carried_a, carried_b),
        "capacity_a": volume * carried_a,
        "capacity_b": volume * carried_b,
    }
    bands = {name: np.quantile(values, QUANTILES, axis=1) for name, values in samples.items()}
    living = ensemble.living
    adult = load_of(living, reference.species, temp, adult=True).total
    ceiling = ceiling_mg_n_day(tank, reference.media[tank.media])
    sure = bands["capacity"][QUANTILES.index(SURE)]
    tests = [e.at for e in ensemble.entries if e.kind == "test" and any(r.quantity in NITROGEN for r in e.readings)]
    return Forecast(
        as_of,
        days,
        today,
        bands,
        load_of(living, reference.species, temp, as_of.date()).total,
        adult,
        ceiling,
        _dosed(ensemble, days),
        _readiness(ensemble, columns, days, today, planned, samples["capacity"]),
        _outlooks(ensemble, projection, planned, adult, sure, days, today),
        _surprises(ensemble),
        len(ensemble.sights),
        max(tests, default=None),
        ensemble.settings.members,
        ensemble.posterior.stages,
        ensemble.posterior.ess_least,
        ensemble.settings.seed,
    )


def _daily(ensemble: Ensemble, projection: Projection) -> tuple[tuple[date, ...], int, dict[str, Array]]:
    """Columns at noon of each day, but today at as_of itself: arrays (n_day, n_member)."""
    as_of, start = ensemble.as_of, ensemble.start
    n_past = (as_of.date() - start.date()).days
    days = tuple(start.date() + timedelta(days=k) for k in range(n_past + ensemble.settings.horizon_days + 1))
    noon = [datetime(d.year, d.month, d.day, 12, tzinfo=as_of.tzinfo) for d in days]
    dt = ensemble.settings.publish_h / 24
    before = [step_of(n, start, dt) for n in noon[:n_past]]
    after = [projection.index(n) for n in noon[n_past + 1 :]]
    columns = {}
    for name in ("tan", "no2", "no3", "a", "b", "ph"):
        past, future = getattr(ensemble.past, name), getattr(projection.path, name)
        columns[name] = np.vstack([past[before], future[:1], future[after]])
    return days, n_past, columns


def _dosed(ensemble: Ensemble, days: tuple[date, ...]) -> tuple[float, ...]:
    doses = dict.fromkeys(days, 0.0)
    for e in ensemble.entries:
        day = e.at.astimezone(ensemble.as_of.tzinfo).date()
        if e.kind == "dose" and day in doses:
            doses[day] += e.body["mg_n"]
    return tuple(doses.values())


def _readiness(
    ensemble: Ensemble,
    columns: dict[str, Array],
    days: tuple[date, ...],
    today: int,
    planned: Sequence[Batch],
    capacity: Array,
) -> Readiness:
    """First day on which each member passes: the dose test for dosing schools, else carrying the load."""
    tank, reference = ensemble.tank, ensemble.reference
    school = reference.schools.cycling[tank.school]
    load = load_of(ensemble.living, reference.species, tank.temp_c, adult=True).total
    if not load and planned:
        load = load_of(planned[0].items, reference.species, tank.temp_c, adult=True).total
    if school.feeds_by == "dose":
        ok = clears(
            ensemble.par,
            columns["a"][today:],
            columns["b"][today:],
            columns["ph"][today:],
            tank.temp_c,
            tank.target_mg_n_l,
        )
        load = tank.target_mg_n_l * ensemble.volume_l
    else:
        ok = (capacity[today:] >= max(load, 1.0)) & (columns["tan"][today:] < 0.25) & (columns["no2"][today:] < 0.25)
    first = np.where(ok.any(axis=0), ok.argmax(axis=0), len(days))

    def at(q: float) -> date | None:
        k = int(np.ceil(np.quantile(first, q, method="inverted_cdf")))
        return days[today + k] if today + k < len(days) else None

    return Readiness(at(0.10), at(0.25), at(0.50), at(0.75), at(0.90), float(ok[0].mean()), load)


def _outlooks(
    ensemble: Ensemble,
    projection: Projection,
    planned: Sequence[Batch],
    living_load: float,
    sure: Array,
    days: tuple[date, ...],
    today: int,
) -> tuple[BatchOutlook, ...]:
    reference, as_of, found, together = ensemble.reference, ensemble.as_of, [], living_load
    for k, batch in enumerate(planned):
        load = load_of(batch.items, reference.species, ensemble.tank.temp_c, adult=True).total
        together += load
        groups = (*ensemble.living, *(a for b in planned[: k + 1] for a in b.items))
        limits = limits_for(groups, reference)
        day = max(batch.planned, as_of.date())
        at = max(as_of, datetime(day.year, day.month, day.day, 12, tzinfo=as_of.tzinfo))
        p_safe = nh3 = no2 = None
        if (day - as_of.date()).days + WATCH_DAYS <= ensemble.settings.horizon_days + 1:
            p_safe, nh3, no2 = projection.p_safe(at, limits)
        p_today = None
        if k == 0:
            now = project(ensemble, usual_plan(ensemble, [replace(batch, planned=as_of.date())]), WATCH_DAYS)
            p_today = now.p_safe(as_of, limits)[0]
        fits = [d for i, d in enumerate(days) if i >= today and sure[i] >= together]
        found.append(
            BatchOutlook(batch.id, load, together, batch.planned, p_safe, p_today, fits[0] if fits else None, nh3, no2)
        )
    return tuple(found)


def _surprises(ensemble: Ensemble) -> tuple[Surprise, ...]:
    by_id = {e.id: e.at for e in ensemble.entries}
    found = []
    for s in ensemble.sights:
        if s.reading.quantity == "nitrate" or s.age_days > 14:
            continue
        p = float(
            np.mean(
                reading_probability(
                    s.reading, seen_by(s.reading, ensemble.past, s.index), gain_of(s.reading, ensemble.par)
                )
            )
        )
        if p < SURPRISE:
            found.append(Surprise(s.entry_id, by_id[s.entry_id], s.reading.quantity, s.reading.typed, p))
    return tuple(found)
