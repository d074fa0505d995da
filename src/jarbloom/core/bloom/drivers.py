"""From the log and a plan to what drives the model: step by step inputs on a fixed grid."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import BODY_N, FASTING, Load, feed_load, load_of, mass_g, rotting_food_mg_n
from jarbloom.core.animals.growth import length_on
from jarbloom.core.bloom.events import (
    SALT_NOTICED_G_KG,
    STILL,
    STIRRED_MG_N_L,
    USUAL_ROCK_KG_L,
    culture_of,
    power_shift,
    salt_shift,
)
from jarbloom.core.journal.book import STOCK, stock
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.bed import BedStirred
from jarbloom.core.journal.kinds.buffered import Buffered
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import Reading
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.core.water.recipes import alkalinity_meq

Array = NDArray[np.float64]
THERE = date.min  # the day from which animals are in, where they are already
DETOX_SHARE = 0.9  # of the free TAN that a detoxifier binds (docs/science.md, detoxifier)
BODY_LEFT_FOUND = 0.2  # share of a body that is in the water before it is taken out; judgement


@dataclass(frozen=True)
class Happening:
    """A cleaning or a seeding at a step; `z` is its pair of columns among the ensemble's normals."""

    step: int
    kind: str  # loss | seed | rock
    key: str
    share: float
    z: int
    shift: float = 0.0  # on the logit scale of a loss


@dataclass(frozen=True)
class FuturePlan:
    """What will be done after the log ends. Concentrations mg N/L, shares 0 to 1, food g a day.

    `entries` are future lines of the log, taken as they would be taken once they had happened (a what-if).
    `relief_*`: the school's own water change, once a day where TAN or nitrite is over its trigger.
    `animals_from`: until then the school's doses go on, and alkalinity falls as it is spent; from then on the keeper
    answers the KH job: what is not yet half spent is not let fall further. None: no animals are to come.
    `mends`: the chance a day, by member, that what is low is put right before that day; empty: nobody does it, it has
    to be done and read.
    """

    batches: tuple[Batch, ...] = ()
    changes: tuple[tuple[datetime, float], ...] = ()
    animals_from: date | None = THERE
    redose_mg_n_l: float = 0.0
    mends: tuple[float, ...] = ()
    food_g_day: float = 0.0
    feed_factor: float = 1.0
    feed_factor_until: date | None = None
    relief_share: float = 0.0
    relief_over: tuple[float, float] = (np.inf, np.inf)
    entries: tuple[Entry, ...] = ()
    temp_c: float | None = None  # kept from now on, where it is another than the tank's

    def cycles_on(self, day: date) -> bool:
        """Before any animals."""
        return self.animals_from is None or day < self.animals_from

    def doses_on(self, day: date) -> bool:
        """Not on the day before they come: what is given then may still stand as nitrite when they are in."""
        return self.animals_from is None or day < self.animals_from - timedelta(days=1)


@dataclass(frozen=True)
class Drivers:
    """Inputs on the grid; arrays are (n_step,). Events stand at the start of their step."""

    start: datetime
    dt: float  # days
    dose: Array  # mg N/L
    dose_alk: Array  # meq/L that came with the doses, or as a buffer
    particulate: Array  # mg N/L
    excretion: Array  # mg N/L/day
    waste: Array  # mg N/L/day, particulate
    change: Array  # share
    detox: Array  # share
    temp: Array  # deg C
    salinity: Array  # g/kg
    running: Array  # rate of the colony, of its usual: less in a power cut
    ph_read: Array  # nan where none
    kh_read: Array  # nan where none; meq/L
    redose: Array  # mg N/L given when TAN has fallen below LOW
    redose_alk: float  # meq that comes with a mg N of it
    relief: Array  # share changed where the water is over `relief_over`
    mend: Array  # ordinal of the day at whose first step low alkalinity may be put right; elsewhere 0
    source: Array  # (3, n_step): TAN, nitrate mg N/L, alkalinity meq/L of the water that goes in
    relief_over: tuple[float, float] = (np.inf, np.inf)  # TAN, nitrite mg N/L
    home: tuple[float, float] = (7.4, 2.0)  # the tank's own pH, and alkalinity in meq/L
    happenings: tuple[Happening, ...] = field(default=())
    kept_from: int | None = None  # step from which on alkalinity is not let fall below half
    mends: tuple[float, ...] = ()  # the chance that it is, a day, by member

    @property
    def n_step(self) -> int:
        return len(self.dose)


def elapsed_days(start: datetime, at: datetime) -> float:
    """Days that really passed, also across a change of the clocks (two moments of one zone subtract as clocks show)."""
    return (at.astimezone(UTC) - start.astimezone(UTC)).total_seconds() / 86400


def step_of(at: datetime, start: datetime, dt: float) -> int:
    return int(elapsed_days(start, at) / dt + 1e-9)


def drivers(
    tank: Tank,
    entries: Sequence[Entry],
    species: Mapping[str, Species],
    start: datetime,
    end: datetime,
    dt: float,
    plan: FuturePlan | None = None,
    after: datetime | None = None,
) -> Drivers:
    """Inputs for [start, end]. Entries outside do nothing, but animals that arrived before count, and the last
    temperature and salinity read before hold on. `after`: what happened by then has been simulated already.

    An amount given within a step is shared between its start and the next one's, so that on the whole it comes
    neither early nor late; but all of it stands before a reading that followed it in the same step.
    """
    n = max(1, int(np.ceil(elapsed_days(start, end) / dt - 1e-9)))
    plan_given, plan = plan is not None, plan or FuturePlan()
    ordered = Log.of((*entries, *plan.entries) if plan.entries else entries, start.tzinfo)
    grid = _Grid(tank, species, start, n, dt, ordered)
    begun = start if after is None else max(start, after)
    grid.before(ordered, begun, passed=after is not None)
    for entry in ordered.since_minute(begun):
        if entry.at < start or (after is not None and entry.at <= after):
            continue
        if entry.at <= end:
            grid.take(entry, min(step_of(entry.at, start, dt), n - 1))
    _animals(grid, ordered, plan)
    _planned(grid, plan, after or start)
    return Drivers(
        start,
        dt,
        relief_over=plan.relief_over,
        home=(tank.ph, tank.kh_dkh * MEQ_PER_DKH),
        happenings=tuple(grid.happenings),
        kept_from=_kept_from(plan, start, dt) if plan_given else None,
        mends=plan.mends,
        source=grid.source,
        redose_alk=alkalinity_meq(1.0, "", tank.dose_from),
        **grid.arrays,
    )


def _kept_from(plan: FuturePlan, start: datetime, dt: float) -> int | None:
    """The step from which on the keeper does not let alkalinity fall below half; None: it is let fall."""
    day = plan.animals_from
    if day is None or day <= start.date():
        return None if day is None else 0
    return step_of(datetime(day.year, day.month, day.day, tzinfo=start.tzinfo), start, dt)


class _Grid:
    """The inputs being filled in, entry by entry in order of time."""

    def __init__(
        self, tank: Tank, species: Mapping[str, Species], start: datetime, n: int, dt: float, ordered: Log
    ) -> None:
        self.tank, self.species, self.start, self.n, self.dt, self.ordered = tank, species, start, n, dt, ordered
        self.volume = net_l(tank)
        names = ("dose", "dose_alk", "particulate", "excretion", "waste", "change", "detox", "redose", "relief", "mend")
        self.arrays = {name: np.zeros(n) for name in names} | {
            "temp": np.full(n, tank.temp_c),
            "salinity": np.full(n, tank.salinity_g_kg),
            "running": np.ones(n),
            "ph_read": np.full(n, np.nan),
            "kh_read": np.full(n, np.nan),
        }
        usual = (tank.refill.brings_mg_n_l, tank.refill.nitrate_mg_n_l, tank.refill.kh_dkh * MEQ_PER_DKH)
        self.source = np.repeat(np.array(usual)[:, None], n, axis=1)
        self.happenings: list[Happening] = []
        self.last_test = {step_of(e.at, start, dt): e.order for e in ordered.kinds(Tested) if e.at >= start}  # by step

    def _give(self, name: str, k: int, entry: Entry, amount: float) -> None:
        """Share an amount between the starts of this step and of the next, by where in the step it stands."""
        late = max(0.0, elapsed_days(self.start, entry.at) / self.dt - k)
        if k + 1 >= self.n or self.last_test.get(k, entry.order) > entry.order:
            late = 0.0
        self.arrays[name][k] += (1 - late) * amount
        if late > 0:
            self.arrays[name][k + 1] += late * amount

    def before(self, log: Log, begun: datetime, passed: bool) -> None:
        """What was read last before the grid begins holds on; `passed`: also what was read at that very moment."""
        wanted = {"temp", "salinity"}
        for entry in reversed(log.kinds(Tested)):
            if entry.at > begun or (entry.at == begun and not passed):
                continue
            for reading in entry.readings:
                if reading.quantity in wanted:
                    self.arrays[reading.quantity][:] = reading.seen
                    wanted.discard(reading.quantity)
            if not wanted:
                return

    def take(self, entry: Entry, k: int) -> None:
        g = self.arrays
        match entry.body:
            case Dose() as dose:
                self._give("dose", k, entry, dose.mg_n / self.volume)
                brought = alkalinity_meq(dose.mg_n, dose.unit, self.tank.dose_from)
                self._give("dose_alk", k, entry, brought / self.volume)
            case Change() as change:
                self._change(k, change)
            case Buffered() as buffered:
                self._give("dose_alk", k, entry, buffered.rise_meq_l(self.volume))
            case Conditioner(detoxifies=True):
                g["detox"][k] = DETOX_SHARE
            case Death() as death:
                self._give("particulate", k, entry, self._body_mg_n(death, entry) / self.volume)
            case MediaCleaned() as media:
                self._lose(k, media.how, media.part)
            case BedStirred() as bed:
                g["particulate"][k] += STIRRED_MG_N_L * bed.part
                self._lose(k, "stirred", bed.part)
            case PowerCut() as cut:
                last = min(self.n, k + max(1, round(cut.hours / 24 / self.dt)))
                g["running"][k:last] = STILL
                self._lose(min(last, self.n - 1), cut.filter_was, 1.0, power_shift(cut.filter_was, cut.hours))
            case Bacteria() as bacteria:
                key, share = culture_of(bacteria, entry.day, self.tank.salinity_g_kg)
                self.happenings.append(Happening(k, "seed", key, share, len(self.happenings)))
            case Rock() as rock:
                share = rock.kg / self.volume / USUAL_ROCK_KG_L
                self.happenings.append(Happening(k, "rock", rock.came, share, len(self.happenings)))
            case Tested() as test:
                for reading in test.readings:
                    self._read(k, reading)

    def _lose(self, k: int, key: str, share: float, shift: float = 0.0) -> None:
        self.happenings.append(Happening(k, "loss", key, share, len(self.happenings), shift))

    def _change(self, k: int, body: Change) -> None:
        share = min(1.0, body.litres / self.volume)
        self.arrays["change"][k] = 1 - (1 - self.arrays["change"][k]) * (1 - share)
        told = (body.source_ammonia, body.source_nitrate, body.source_kh)
        for row, (value, scale) in enumerate(zip(told, (1.0, 1.0, MEQ_PER_DKH), strict=True)):
            if value is not None:
                self.source[row, k] = value * scale

    def _body_mg_n(self, death: Death, entry: Entry) -> float:
        """mg N that comes from the dead, at the length they had; less when they were found and taken out."""
        kind = self.species.get(death.species, self.species["unknown"])
        before = (e for e in self.ordered.kinds(*STOCK) if e.order < entry.order)
        group = next((g for g in stock(before) if g.species == death.species), Animals(death.species, 1))
        left = BODY_LEFT_FOUND if death.body == "found" else 1.0
        return 1000 * BODY_N * mass_g(kind, length_on(group, kind, entry.day)) * death.count * left

    def _read(self, k: int, reading: Reading) -> None:
        match reading.quantity:
            case "ph":
                self.arrays["ph_read"][k] = reading.seen
            case "kh":
                self.arrays["kh_read"][k] = reading.seen * MEQ_PER_DKH
            case "temp":
                self.arrays["temp"][k:] = reading.seen
            case "salinity":
                jump = abs(reading.seen - self.arrays["salinity"][k])
                if jump > SALT_NOTICED_G_KG:
                    self._lose(k, "salt", 1.0, salt_shift(jump))
                self.arrays["salinity"][k:] = reading.seen


def _animals(grid: _Grid, ordered: Log, plan: FuturePlan) -> None:
    """Excretion and waste by day: logged feed replaces the ration; without animals feed just rots."""
    start, dt, n, volume = grid.start, grid.dt, grid.n, grid.volume
    species, temp, fed = grid.species, grid.tank.temp_c, _fed(ordered)
    moved = sorted({e.day for e in ordered.kinds(*STOCK)})
    groups: tuple[Animals, ...] = ()
    asked = -1
    for day, k, end in _days(start, n, dt):
        so_far = bisect_right(moved, day)
        if so_far != asked:
            groups, asked = stock(ordered, day), so_far
        natural = load_of(groups, species, temp, day) if groups else Load()
        if day in fed:
            if groups:
                eaten = feed_load(fed[day]) if fed[day] > 0 else Load(natural.excreted * FASTING, 0.0)
            else:
                eaten = Load()
                grid.arrays["particulate"][k] += rotting_food_mg_n(fed[day]) / volume
        else:
            factor = plan.feed_factor if plan.feed_factor_until and day < plan.feed_factor_until else 1.0
            eaten = Load(natural.excreted * max(factor, FASTING), natural.particulate * factor)
        for batch in plan.batches:
            if batch.planned <= day:
                # Adult size: what the tank must carry for life, and the safe side of a growing load.
                eaten += load_of(batch.items, species, temp, day, adult=True)
        grid.arrays["excretion"][k:end] = eaten.excreted / volume
        grid.arrays["waste"][k:end] = eaten.particulate / volume
        if plan.food_g_day and not groups and not any(b.planned <= day for b in plan.batches):
            grid.arrays["particulate"][k] += rotting_food_mg_n(plan.food_g_day) / volume


def _days(start: datetime, n: int, dt: float) -> Iterator[tuple[date, int, int]]:
    """(day, first step, step after the last) of every calendar day in the grid."""
    day, k = start.date(), 0
    while k < n:
        midnight = datetime(day.year, day.month, day.day, tzinfo=start.tzinfo) + timedelta(days=1)
        end = min(n, max(k + 1, int(np.ceil(elapsed_days(start, midnight) / dt - 1e-9))))
        yield day, k, end
        day, k = day + timedelta(days=1), end


def _fed(ordered: Log) -> dict[date, float]:
    """Grams of dry food by day."""
    fed: dict[date, float] = {}
    for entry in ordered.kinds(Feed):
        if entry.body.grams is not None:
            fed[entry.day] = fed.get(entry.day, 0.0) + entry.body.grams
    return fed


def _planned(grid: _Grid, plan: FuturePlan, now: datetime) -> None:
    n, arrays = grid.n, grid.arrays
    if plan.temp_c is not None:
        arrays["temp"][:] = plan.temp_c
    for at, share in plan.changes:
        k = step_of(at, grid.start, grid.dt)
        if 0 <= k < n:
            arrays["change"][k] = 1 - (1 - arrays["change"][k]) * (1 - share)
    per_day = max(1, round(1 / grid.dt))
    if plan.relief_share:
        arrays["relief"][per_day - 1 :: per_day] = plan.relief_share
    first = round(-elapsed_days(now, grid.start) / grid.dt) % per_day  # at the hour that it is now
    for k in range(first, n, per_day) if plan.redose_mg_n_l or plan.mends else ():
        day = (grid.start + timedelta(days=k * grid.dt)).date()
        arrays["redose"][k] = plan.redose_mg_n_l if plan.doses_on(day) else 0.0
        arrays["mend"][k] = day.toordinal() if plan.mends and plan.cycles_on(day) and day > now.date() else 0
