"""A conditioned ensemble at a moment, and its projections under a plan."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import share
from jarbloom.core.bloom.conditioning import MOST_MOVES, Evidence, Posterior, Sight, condition
from jarbloom.core.bloom.drivers import Drivers, FuturePlan, Happening, drivers, elapsed_days, step_of
from jarbloom.core.bloom.events import HISTORY_DAYS, UNLOGGED_DAYS_AGO
from jarbloom.core.bloom.kinetics import State, first_state, hidden_mg_n_l, mature_state
from jarbloom.core.bloom.mending import habit_of
from jarbloom.core.bloom.parameters import BLOCK_DAYS, Parameters, n_columns, parameters
from jarbloom.core.bloom.stepper import Trajectory, simulate
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import NITROGEN
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.media import ceiling_mg_n_day
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import Limits
from jarbloom.core.water.carbonate import MEQ_PER_DKH

Array = NDArray[np.float64]
STIRRING = (Dose, Change, Conditioner, Death)  # entries that move what a reading sees at once
WATCH_DAYS = 14  # a batch is judged by its first fourteen days
HORIZON_DAYS = 60  # how far a forecast looks; what is not foretold within it is said to lie beyond
LONGEST_DAYS, WINDOW_DAYS = 75, 60  # of a stocked tank: beyond the first, only the last so many days are simulated
LONGEST_CYCLE_DAYS = 240  # a tank without animals is in balance with nothing: of it so many days are simulated


@dataclass(frozen=True)
class Forecasting:
    members: int = 600
    horizon_days: int = HORIZON_DAYS
    seed: int = 1
    sampler_h: float = 4.0
    publish_h: float = 3.0
    most_moves: int = MOST_MOVES  # of every member at a temperature, to forget where it was drawn
    doubts: bool = True  # tries what the log does not tell, where the last readings fit nothing else


@dataclass(frozen=True)
class Ensemble:
    """A conditioned ensemble at a moment: what projections start from.

    `past` is recorded at noon of every day (`noons` tells the steps) and at the readings.
    """

    tank: Tank
    reference: Reference
    entries: Log
    as_of: datetime
    start: datetime
    settings: Forecasting
    par: Parameters
    past: Trajectory
    noons: NDArray[np.int64]
    posterior: Posterior
    evidence: Evidence
    unlogged: bool = False  # the readings of the last days fit only with something that the log does not tell
    lost: bool = False  # not even so: the model has lost this tank

    @cached_property
    def living(self) -> tuple[Animals, ...]:
        return stock(self.entries, self.as_of.date())

    @cached_property
    def mends(self) -> tuple[float, ...]:
        """The chance a day that low alkalinity is put right, by member (n_member,)."""
        return habit_of(self.entries, self.tank, self.as_of).chances(self.settings.members, self.settings.seed)

    @property
    def volume_l(self) -> float:
        return net_l(self.tank)

    @property
    def sights(self) -> tuple[Sight, ...]:
        return self.evidence.sights


@dataclass(frozen=True)
class Projection:
    """The same members under one plan, from as_of on, recorded at every step."""

    ensemble: Ensemble
    path: Trajectory
    dt: float  # days between records

    def index(self, at: datetime) -> int:
        return min(max(step_of(at, self.ensemble.as_of, self.dt), 0), len(self.path.at) - 1)

    def safe(self, start: datetime, limits: Limits, days: float = WATCH_DAYS) -> tuple[NDArray[np.bool_], Array, Array]:
        """(n_member,): peaks stay under the limits for so many days; and the peaks of NH3-N and NO2-N, mg N/L."""
        first, last = self.index(start) + 1, self.index(start + timedelta(days=days)) + 1
        nh3, no2 = self.path.nh3[first:last].max(axis=0), self.path.no2[first:last].max(axis=0)
        return (nh3 < limits.nh3) & (no2 < limits.no2), nh3, no2

    def p_safe(self, start: datetime, limits: Limits, days: float = WATCH_DAYS) -> tuple[float, float, float]:
        """Share of members whose peaks stay under the limits for so many days; 90th percentiles of both peaks."""
        safe, nh3, no2 = self.safe(start, limits, days)
        return share(safe), float(np.quantile(nh3, 0.9)), float(np.quantile(no2, 0.9))


def known_by(entries: Sequence[Entry], as_of: datetime) -> Log:
    """Live entries that happened by the moment, as its clock shows them; nothing later is read."""
    return Log.of(entries, as_of.tzinfo).until(as_of)


def prepare(
    tank: Tank, entries: Sequence[Entry], as_of: datetime, reference: Reference, settings: Forecasting | None = None
) -> Ensemble:
    """Condition an ensemble on the log up to `as_of` (aware datetime)."""
    settings = settings or Forecasting()
    record = _Record(tank, known_by(entries, as_of), as_of, reference, settings)
    made = record.conditioned()
    if not settings.doubts or not _odd_lately(made, DOUBTED_P)[0]:
        return made
    # Whether it is at a loss is found out with one draw that is the same for every seed, so that seeds agree on it
    pilot = _Record(tank, record.known, as_of, reference, replace(settings, seed=PILOT))
    if not _at_a_loss(pilot.conditioned()):
        return made
    if not _at_a_loss(pilot.conditioned(unlogged=True)):
        return record.conditioned(unlogged=True)
    return replace(record.conditioned(unlogged=True, believed=LOST_BELIEF), lost=True)


PILOT = 0  # its seed
HIDDEN_TELLS_MG_N_L = 0.5  # where most members have had so much that nobody logged, it is told
DOUBTED_P = 0.15  # one reading less likely than this, and it is looked into
LOST_DAYS, LOST_P, LOST_SHARE = 7, 0.08, 0.5  # at a loss: of the readings of so many days such a share is so unlikely
LOST_BELIEF = 0.3  # of what readings say, where no course that is known fits them: the range has to be wide


def _odd_lately(ensemble: Ensemble, p_least: float) -> tuple[int, int]:
    """(how many readings of the last days are less likely than this, how many there are)."""
    lately = [k for k, s in enumerate(ensemble.sights) if s.age_days <= LOST_DAYS and s.reading.quantity != "nitrate"]
    if not lately:
        return 0, 0
    p = ensemble.evidence.probabilities(ensemble.past, ensemble.par).mean(axis=1)[lately]
    return int((p < p_least).sum()), len(lately)


def _at_a_loss(ensemble: Ensemble) -> bool:
    """The readings of the last days are surprises together: two or more, and half of them."""
    odd, of = _odd_lately(ensemble, LOST_P)
    return odd >= 2 and odd >= LOST_SHARE * min(of, 6)


class _Record:
    """A log up to a moment, ready to be conditioned on."""

    def __init__(self, tank: Tank, known: Log, as_of: datetime, reference: Reference, settings: Forecasting) -> None:
        self.tank, self.known, self.as_of, self.reference, self.settings = tank, known, as_of, reference, settings
        self.start, self.mature = _start(tank, known, as_of)
        self.ceiling = ceiling_mg_n_day(tank, reference.media) / net_l(tank)
        self.opening = _opening(tank, known, self.start, self.mature, reference)
        self.n_block = int((as_of - self.start).days / BLOCK_DAYS) + 1
        self.stocked = bool(stock(known, as_of.date()))

    def conditioned(self, unlogged: bool = False, believed: float = 1.0) -> Ensemble:
        """`unlogged`: members may have had something in the last days that the log does not tell; `believed`: the power
        that the likelihood of the readings is raised to."""
        tank, known, as_of, settings = self.tank, self.known, self.as_of, self.settings
        coarse, fine = self._grid(settings.sampler_h, unlogged), self._grid(settings.publish_h, unlogged)
        n_event, n_block = len(coarse.happenings), self.n_block
        evidence = Evidence(_sights(known, coarse, as_of))

        def log_l(z: Array) -> Array:
            par = parameters(z, n_block, n_event, tank, self.ceiling)
            path = simulate(par, coarse, self.opening(par), evidence.steps)
            return believed * evidence.log_likelihood(path, par)

        rng = np.random.default_rng(settings.seed)
        columns = n_columns(n_block, n_event)
        if evidence.sights:
            posterior = condition(log_l, settings.members, columns, rng, settings.most_moves)
        else:
            posterior = Posterior(rng.standard_normal((settings.members, columns)), 0, settings.members, 1.0)
        more = n_block + int(settings.horizon_days / BLOCK_DAYS) + 2
        z = _with_future_noise(posterior.z, n_block, more, rng)
        par = parameters(z, more, n_event, tank, self.ceiling)
        seen = Evidence(_sights(known, fine, as_of))
        days = [self.start + timedelta(days=k, hours=12) for k in range((as_of.date() - self.start.date()).days)]
        noons = np.array([step_of(d, fine.start, fine.dt) for d in days], dtype=np.int64)
        at = np.unique(np.concatenate([noons, seen.steps, [fine.n_step]]))
        past = simulate(par, fine, self.opening(par), at)
        unlogged = unlogged or share(hidden_mg_n_l(par, fine) > HIDDEN_TELLS_MG_N_L) > 0.5
        return Ensemble(
            tank, self.reference, known, as_of, self.start, settings, par, past, noons, posterior, seen, unlogged
        )

    def _grid(self, hours: float, unlogged: bool) -> Drivers:
        """The past on a grid that ends at the moment asked: it begins up to a step before the start."""
        start, end = self.start, self.as_of
        steps = max(1, int(np.ceil(24 * elapsed_days(start, end) / hours - 1e-9)))
        begin = (end.astimezone(UTC) - timedelta(hours=steps * hours)).astimezone(end.tzinfo)
        drv = drivers(self.tank, self.known, self.reference.species, begin, end, hours / 24)
        drv = self._with_history(drv)
        kind = "unlogged" if unlogged else "hidden"
        if not unlogged and not self.stocked:
            return drv
        n, per_day = len(drv.happenings), 24 / hours
        ago = [d for d in UNLOGGED_DAYS_AGO if d < elapsed_days(start, end) - 0.25]  # as many on every grid
        more = [Happening(round(steps - d * per_day), kind, "", 1.0, n + k) for k, d in enumerate(ago)]
        return replace(drv, happenings=(*drv.happenings, *more))

    def _with_history(self, drv: Drivers) -> Drivers:
        """Where the log begins days after the tank, the colony of that day is anything."""
        first = self.known[0].at if self.known else self.as_of
        if self.mature or (first.date() - self.start.date()).days < HISTORY_DAYS:
            return drv
        step = min(step_of(first, drv.start, drv.dt), drv.n_step - 1)
        return replace(drv, happenings=(*drv.happenings, Happening(step, "history", "", 1.0, len(drv.happenings))))


def _start(tank: Tank, known: Log, as_of: datetime) -> tuple[datetime, bool]:
    """Midnight of the first day simulated, and whether the record is so old that it begins in balance."""
    first = min([tank.started, as_of.date(), *(e.day for e in known[:1])])
    mature, window = (as_of.date() - first).days > LONGEST_DAYS, as_of.date() - timedelta(days=WINDOW_DAYS)
    if mature and not stock(known, window):
        window = max(first, as_of.date() - timedelta(days=LONGEST_CYCLE_DAYS))
        mature = window > first
    first = window if mature else first
    return datetime(first.year, first.month, first.day, tzinfo=as_of.tzinfo), mature


def _opening(
    tank: Tank, known: Log, start: datetime, mature: bool, reference: Reference
) -> Callable[[Parameters], State]:
    """The state at the first step, as a function of the parameters."""
    alk, no3 = tank.kh_dkh * MEQ_PER_DKH, tank.source.nitrate_mg_n_l
    if mature:
        day = start.date()
        load = load_of(stock(known, day), reference.species, tank.temp_c, day).total / net_l(tank)
        return lambda par: mature_state(par, tank.ph, alk, load, no3)
    dies = reference.schools.cycling[tank.school].feeds_by == "die_off"
    dies = dies and not known.kinds(Rock)  # logged rock dies off on its day, by its weight

    def fresh(par: Parameters) -> State:
        state = first_state(par, tank.ph, alk, no3)
        return replace(state, particulate=par.die_off.copy()) if dies else state

    return fresh


def _with_future_noise(z: Array, n_block: int, more: int, rng: np.random.Generator) -> Array:
    base = n_columns(0, 0)
    fresh = rng.standard_normal((2, z.shape[0], more - n_block))
    noise_a, noise_b = z[:, base : base + n_block], z[:, base + n_block : base + 2 * n_block]
    return np.hstack([z[:, :base], noise_a, fresh[0], noise_b, fresh[1], z[:, base + 2 * n_block :]])


def _sights(log: Log, drv: Drivers, as_of: datetime) -> tuple[Sight, ...]:
    """Place readings on the grid: after what had stirred the water in the same step, before what was to come, and at
    the nearer end of a step in which nothing else happened. What happens at the very end stands in the last step."""
    last = drv.n_step - 1
    placed = [(e.order, min(step_of(e.at, drv.start, drv.dt), last)) for e in log.kinds(*STIRRING) if e.at >= drv.start]
    found = []
    for entry in log.kinds(Tested):
        if entry.at < drv.start:
            continue
        k = step_of(entry.at, drv.start, drv.dt)
        after = [p for order, p in placed if order > entry.order]
        if any(p == min(k, last) for order, p in placed if order < entry.order):
            step = min(k, last) + 1
        elif any(p == min(k, last) for p in after):
            step = min(k, last)
        else:
            step = k + (elapsed_days(drv.start, entry.at) / drv.dt - k >= 0.5)
            step = min([step, *after[:1]])
        age = elapsed_days(entry.at, as_of)
        found += [
            Sight(min(step, drv.n_step), r, age, entry.id)
            for r in entry.readings
            if r.quantity in NITROGEN and not r.masked
        ]
    return tuple(found)


def project(ensemble: Ensemble, plan: FuturePlan, days: float | None = None) -> Projection:
    """Run the members on from as_of under a plan."""
    dt = ensemble.settings.publish_h / 24
    horizon = ensemble.settings.horizon_days if days is None else days
    as_of, par = ensemble.as_of, ensemble.par
    drv = drivers(
        ensemble.tank,
        ensemble.entries,
        ensemble.reference.species,
        as_of,
        as_of + timedelta(days=horizon + 1),
        dt,
        plan,
        as_of,
    )
    if drv.happenings:
        rng = np.random.default_rng((ensemble.settings.seed, len(drv.happenings)))
        par = replace(par, event_z=rng.standard_normal((len(drv.happenings), 2, ensemble.settings.members)))
    return Projection(ensemble, simulate(par, drv, ensemble.past.end), dt)
