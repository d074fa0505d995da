"""A conditioned ensemble at a moment, and its projections under a plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import load_of, stock
from jarbloom.core.bloom.conditioning import Posterior, Sight, condition, log_likelihood
from jarbloom.core.bloom.drivers import Drivers, Plan, drivers, step_of
from jarbloom.core.bloom.kinetics import Trajectory, first_state, mature_state, simulate
from jarbloom.core.bloom.parameters import BLOCK_DAYS, Parameters, n_columns, parameters
from jarbloom.core.model import NITROGEN, Animals, Entry, Tank
from jarbloom.core.reference import Reference
from jarbloom.core.vessel.box import net_l
from jarbloom.core.vessel.media import ceiling_mg_n_day
from jarbloom.core.water.ammonia import Limits, unionised_fraction
from jarbloom.core.water.carbonate import MEQ_PER_DKH

Array = NDArray[np.float64]
WATCH_DAYS = 14  # a batch is judged by its first fourteen days
LONGEST_DAYS, WINDOW_DAYS = 75, 60  # beyond the first, only the last so many days are simulated


@dataclass(frozen=True)
class Settings:
    members: int = 400
    horizon_days: int = 35
    seed: int = 1
    sampler_h: float = 3.0
    publish_h: float = 2.0


@dataclass(frozen=True)
class Ensemble:
    """A conditioned ensemble at a moment: what projections start from."""

    tank: Tank
    reference: Reference
    entries: tuple[Entry, ...]
    as_of: datetime
    start: datetime
    settings: Settings
    par: Parameters
    past: Trajectory
    past_drivers: Drivers
    posterior: Posterior
    sights: tuple[Sight, ...]

    @cached_property
    def living(self) -> tuple[Animals, ...]:
        return stock(self.entries, self.as_of.date())

    @property
    def volume_l(self) -> float:
        return net_l(self.tank)


@dataclass(frozen=True)
class Projection:
    """The same members under one plan, from as_of on."""

    ensemble: Ensemble
    path: Trajectory
    dt: float
    plan: Plan = field(default_factory=Plan)

    def index(self, at: datetime) -> int:
        return min(max(step_of(at, self.ensemble.as_of, self.dt), 0), len(self.path.tan) - 1)

    def nh3(self) -> Array:
        return self.path.tan * unionised_fraction(self.path.ph, self.ensemble.tank.temp_c)

    def p_safe(self, start: datetime, limits: Limits) -> tuple[float, float, float]:
        """Share of members whose peaks stay under the limits for 14 days; 90th percentiles of both peaks."""
        first, last = self.index(start) + 1, self.index(start + timedelta(days=WATCH_DAYS)) + 1
        nh3, no2 = self.nh3()[first:last].max(axis=0), self.path.no2[first:last].max(axis=0)
        share = float(np.mean((nh3 < limits.nh3) & (no2 < limits.no2)))
        return share, float(np.quantile(nh3, 0.9)), float(np.quantile(no2, 0.9))


def known_by(entries: Sequence[Entry], as_of: datetime) -> tuple[Entry, ...]:
    """Live entries that happened by the date; nothing later is read."""
    return tuple(sorted((e for e in entries if e.state == "live" and e.at <= as_of), key=lambda e: (e.at, e.id)))


def prepare(
    tank: Tank, entries: Sequence[Entry], as_of: datetime, reference: Reference, settings: Settings | None = None
) -> Ensemble:
    """Condition an ensemble on the log up to `as_of` (aware datetime)."""
    settings = settings or Settings()
    known = known_by(entries, as_of)
    zone = as_of.tzinfo
    first_day = min([tank.started, *(e.at.astimezone(zone).date() for e in known)])
    first_day = min(first_day, as_of.date())
    mature = (as_of.date() - first_day).days > LONGEST_DAYS
    if mature:
        first_day = as_of.date() - timedelta(days=WINDOW_DAYS)
    start = datetime(first_day.year, first_day.month, first_day.day, tzinfo=zone)
    ceiling = ceiling_mg_n_day(tank, reference.media[tank.media]) / net_l(tank)
    old_load = load_of(stock(known, first_day), reference.species, tank.temp_c, first_day).total / net_l(tank)

    def grid(hours: float) -> Drivers:
        dt = hours / 24
        return drivers(tank, known, reference.species, start, as_of + timedelta(days=dt), dt)

    def run(drv: Drivers, par: Parameters) -> Trajectory:
        alk = tank.kh_dkh * MEQ_PER_DKH
        state = (
            mature_state(par, tank.ph, alk, old_load, tank.source.nitrate_mg_n_l)
            if mature
            else first_state(par, tank.ph, alk, tank.source.nitrate_mg_n_l)
        )
        return simulate(par, drv, state)

    coarse, fine = grid(settings.sampler_h), grid(settings.publish_h)
    n_event = len(coarse.happenings)
    n_block = int((as_of - start).days / BLOCK_DAYS) + 1
    sights = _sights(known, coarse, as_of)

    def log_l(z: Array) -> Array:
        par = parameters(z, n_block, n_event, tank, ceiling)
        return log_likelihood(sights, run(coarse, par), par)

    rng = np.random.default_rng(settings.seed)
    columns = n_columns(n_block, n_event)
    if sights:
        posterior = condition(log_l, settings.members, columns, rng)
    else:
        posterior = Posterior(rng.standard_normal((settings.members, columns)), 0, settings.members, 1.0)
    more = n_block + int(settings.horizon_days / BLOCK_DAYS) + 2
    z = _with_future_noise(posterior.z, n_block, more, rng)
    par = parameters(z, more, n_event, tank, ceiling)
    return Ensemble(
        tank,
        reference,
        known,
        as_of,
        start,
        settings,
        par,
        run(fine, par),
        fine,
        posterior,
        _sights(known, fine, as_of),
    )


def _with_future_noise(z: Array, n_block: int, more: int, rng: np.random.Generator) -> Array:
    head = z.shape[1] - 2 * n_block
    base = n_columns(0, 0)
    fresh = rng.standard_normal((2, z.shape[0], more - n_block))
    assert head >= base
    noise_a, noise_b = z[:, base : base + n_block], z[:, base + n_block : base + 2 * n_block]
    return np.hstack([z[:, :base], noise_a, fresh[0], noise_b, fresh[1], z[:, base + 2 * n_block :]])


def _sights(entries: Sequence[Entry], drv: Drivers, as_of: datetime) -> tuple[Sight, ...]:
    """Place readings on the grid: before the events of their step, or after it when one came earlier in it."""
    found = []
    for entry in entries:
        if entry.kind != "test" or entry.at < drv.start:
            continue
        k = step_of(entry.at, drv.start, drv.dt)
        earlier = any(
            e.kind in ("dose", "change", "conditioner")
            and e.at < entry.at
            and step_of(e.at, drv.start, drv.dt) == k
            and e.at >= drv.start
            for e in entries
        )
        age = (as_of - entry.at).total_seconds() / 86400
        found += [
            Sight(min(k + earlier, drv.n_step), r, age, entry.id) for r in entry.readings if r.quantity in NITROGEN
        ]
    return tuple(found)


def project(ensemble: Ensemble, plan: Plan, days: float | None = None) -> Projection:
    """Run the members on from as_of under a plan."""
    dt = ensemble.settings.publish_h / 24
    horizon = ensemble.settings.horizon_days if days is None else days
    drv = drivers(
        ensemble.tank,
        ensemble.entries,
        ensemble.reference.species,
        ensemble.as_of,
        ensemble.as_of + timedelta(days=horizon + 1),
        dt,
        plan,
        ensemble.living,
    )
    drv = replace(drv, happenings=())
    _drop_history(drv)
    return Projection(ensemble, simulate(ensemble.par, drv, ensemble.past.end), dt, plan)


def _drop_history(drv: Drivers) -> None:
    """An entry of this very minute is already in the past run: it must not act twice."""
    for array in (drv.dose, drv.detox):
        array[0] = 0.0
    drv.ph_read[0] = drv.kh_read[0] = np.nan
    drv.particulate[0] = 0.0
