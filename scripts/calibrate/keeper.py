"""A made-up keeper who runs a tank by a school: doses, feeds, tests with a kit, changes water, now and then forgets."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from jarbloom.core.advice.alkalinity import CACO3_PER_MG_N
from jarbloom.core.animals.bioload import load_of, rotting_food_mg_n
from jarbloom.core.bloom.drivers import FuturePlan, drivers
from jarbloom.core.bloom.ensemble import WATCH_DAYS
from jarbloom.core.bloom.parameters import LOW_MG_N_L, NITRITE_WAIT_MG_N_L
from jarbloom.core.bloom.plans import RELIEF_OVER_MG_N_L, pinch_g_day
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import Kit, Scale
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Filter, Source, Tank
from jarbloom.core.vessel.volume import net_l
from jarbloom.units import CACO3_PER_DKH
from scripts.calibrate.worlds import Peaks, World

ZONE = ZoneInfo("UTC")
DAY_ZERO = date(2026, 3, 2)
SCHOOLS = (
    ("measured_dose", 0.45), ("live_culture", 0.15), ("borrowed_media", 0.10), ("pinch_feeding", 0.10),
    ("fish_in_watched", 0.12), ("fish_in_small_changes", 0.08),
)  # fmt: skip
SOFT, STRIPS = 0.15, 0.15  # shares of the tanks
LIQUID = Kit()
STRIP = Kit(
    "strip", Scale((0, 0.5, 1, 3, 6)), Scale((0, 0.5, 1, 3, 5, 10)), Scale((0, 10, 25, 50, 100, 250), "NO3"), 0.28
)


@dataclass
class Lived:
    """A tank that was lived through: its log, its truth by day (noon), and the world at the days asked about."""

    tank: Tank
    log: list[Entry] = field(default_factory=list)
    tan: list[float] = field(default_factory=list)
    no2: list[float] = field(default_factory=list)
    carried: list[float] = field(default_factory=list)
    clears: list[bool] = field(default_factory=list)
    load: list[float] = field(default_factory=list)
    branches: dict[int, World] = field(default_factory=dict)
    peaks: dict[tuple[int, int], bool] = field(default_factory=dict)

    def ready_day(self, reference: Reference) -> int | None:
        """First day whose noon passes the school's gate, by the rules that the forecast uses for its members."""
        run = 0
        for d in range(len(self.tan)):
            clean = self.tan[d] < LOW_MG_N_L and self.no2[d] < LOW_MG_N_L
            run = run + 1 if clean and self.carried[d] >= self.load[d] else 0
            gate = reference.schools.cycling[self.tank.school].gate
            if all(self.clears[d] if r.kind == "clears_dose" else run > int(np.ceil(r.days)) for r in gate):
                return d
        return None


def a_tank(rng: np.random.Generator) -> Tank:
    """Some tank of a keeper's: size, temperature, pH, kit and school as they come."""
    names, shares = zip(*SCHOOLS, strict=True)
    school = str(rng.choice(names, p=shares))
    litres = float(np.exp(rng.uniform(np.log(40), np.log(300))))
    soft = rng.random() < SOFT  # water that a few doses turn acid
    ph, kh = (rng.uniform(6.5, 7.2), rng.uniform(1.5, 4)) if soft else (rng.uniform(7.0, 8.1), rng.uniform(4, 12))
    return Tank(
        "Made up", DAY_ZERO, measured_l=round(litres), temp_c=round(float(rng.uniform(22.5, 27.5)), 1),
        ph=round(float(ph), 1), kh_dkh=round(float(kh)), filters=(Filter(media_l=litres / 15),),
        planted=bool(rng.random() < 0.3),
        kit=STRIP if rng.random() < STRIPS else LIQUID, source=Source(round(float(ph), 1), round(float(kh)), 0.0, 1.0),
        school=school, target_mg_n_l=float(rng.choice([1.0, 2.0, 2.0, 3.0])),
    )  # fmt: skip


def at(day: float) -> datetime:
    return datetime(DAY_ZERO.year, DAY_ZERO.month, DAY_ZERO.day, tzinfo=ZONE) + timedelta(hours=round(24 * day))


NOON, TEST, ACT = 12 / 24, 18 / 24, 19 / 24


class Keeper:
    def __init__(self, tank: Tank, world: World, reference: Reference, rng: np.random.Generator) -> None:
        self.world, self.reference, self.rng = world, reference, rng
        self.lived = Lived(tank)
        self.school = reference.schools.cycling[tank.school]
        self.done_to = 0.0
        self.near_end = False
        self.seen: dict[str, float] = {}
        self.last_test = -9
        self.spent_dkh = 0.0
        self.forgets = float(rng.uniform(0.05, 0.25))

    def run(self, days: int, ask: set[int] = frozenset()) -> Lived:
        """Live through so many days; keeps a branch of the world at noon of the days in `ask`."""
        lived, tank = self.lived, self.lived.tank
        for d in range(days):
            if d == 0:
                self._first_day()
            self._advance(d + NOON)
            lived.tan.append(self.world.tan)
            lived.no2.append(self.world.no2)
            lived.carried.append(self.world.carried())
            lived.clears.append(self.world.clears(tank.target_mg_n_l))
            lived.load.append(max(self._load(d) / net_l(tank) - self.world.planted(), 0.0))
            if d in ask:
                lived.branches[d] = self.world.branch()
            if self._test_due(d):
                self._advance(d + TEST)
                self._test(d)
            self._advance(d + ACT)
            self._act(d)
        return lived

    def _advance(self, to: float) -> None:
        if to > self.done_to:
            log, tank = self.lived.log, self.lived.tank
            start, end = at(self.done_to), at(to)
            self.world.advance(drivers(tank, log, self.reference.species, start, end, 1 / 24))
            self.done_to = to

    def _add(self, kind: str, day: float, **body: object) -> None:
        self.lived.log.append(Entry(KINDS[kind].from_raw(body), at(day), id=len(self.lived.log) + 1))

    def _dose(self, day: float) -> None:
        target = self.lived.tank.target_mg_n_l
        self.spent_dkh += target * CACO3_PER_MG_N / CACO3_PER_DKH
        self._add("dose", day, amount=target, unit="mg/L", mg_n=target * net_l(self.lived.tank))

    def _change(self, day: float, share: float) -> None:
        self._add("change", day, litres=share * net_l(self.lived.tank), fraction=share)

    def _first_day(self) -> None:
        tank, rng = self.lived.tank, self.rng
        if tank.school == "borrowed_media":
            self._add("bacteria", 8 / 24, source="borrowed", share=float(rng.choice([5, 10, 20, 30])))
        if tank.school == "live_culture" or (self.school.fish_in and rng.random() < 0.3):
            kinds = ["bottle", "bottle_cool", "bottle_warm"]
            self._add("bacteria", 8 / 24, source=str(rng.choice(kinds, p=[0.6, 0.3, 0.1])))
        if self.school.feeds_by == "dose":
            self._dose(9 / 24)
        if self.school.fish_in:
            count = max(1, round(net_l(tank) / float(rng.uniform(8, 25))))
            self._add("arrival", 10 / 24, species="harlequin_rasbora", count=count, length_cm=3.0)

    def _load(self, day: int) -> float:
        """mg N a day that go in while the tank cycles, as the forecast counts them."""
        tank, on = self.lived.tank, DAY_ZERO + timedelta(days=day)
        if self.school.fish_in:
            return load_of(stock(self.lived.log, on), self.reference.species, tank.temp_c, on).total
        return rotting_food_mg_n(pinch_g_day(tank)) if self.school.feeds_by == "food" else 0.0

    def _test_due(self, d: int) -> bool:
        every = self.school.rhythm_near_end_days if self.near_end else self.school.rhythm_days
        return d > 0 and d - self.last_test >= every - 0.5 and self.rng.random() > self.forgets

    def _test(self, d: int) -> None:
        readings = [self.world.look("ammonia"), self.world.look("nitrite")]
        if d % 6 < 2:
            readings += [self.world.look("nitrate"), self.world.look_ph()]
        if d % 8 < 2 or self.spent_dkh > 0.5 * self.lived.tank.kh_dkh:  # as the jobs list asks
            readings.append(self.world.look_kh())
            self.spent_dkh = 0.0
        self.lived.log.append(Entry(Tested(readings=tuple(readings)), at(d + TEST), id=len(self.lived.log) + 1))
        self.seen = {r.quantity: r.seen for r in readings} | {"zero_am": float(readings[0].low <= 0)}
        self.near_end |= bool((readings[0].low <= 0) and readings[1].seen < 1.0 and d > 10)
        self.last_test = d

    def _act(self, d: int) -> None:
        fresh, seen = self.last_test == d, self.seen
        if self.school.feeds_by == "dose" and fresh and seen["zero_am"] and seen["nitrite"] < NITRITE_WAIT_MG_N_L:
            self._dose(d + ACT)
        if self.school.feeds_by == "food":
            self._add("feed", d + ACT, grams=pinch_g_day(self.lived.tank))
        if fresh and seen.get("kh", 99.0) < 0.5 * self.lived.tank.kh_dkh:
            self._change(d + ACT, 0.7)
        if self.school.fish_in:
            over = fresh and (seen["ammonia"] > RELIEF_OVER_MG_N_L[0] or seen["nitrite"] > RELIEF_OVER_MG_N_L[1])
            if over and not self.school.change_share:
                self._change(d + ACT, 0.5)
            elif self.school.change_share and d % round(self.school.change_every_days) == 0:
                self._change(d + ACT, self.school.change_share)


def peaks_under(world: World, tank: Tank, log: list[Entry], reference: Reference, day: int, plan: FuturePlan) -> Peaks:
    """Peaks of the world's next 14 days under a plan, from noon of a day; the world is spent."""
    start, to = at(day + NOON), at(day + NOON + WATCH_DAYS)
    return world.advance(drivers(tank, log, reference.species, start, to, 1 / 24, plan, start))
