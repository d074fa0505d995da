"""Made-up tanks of the film world with a wish list of animals that suit it, and what is counted of their lives."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import timedelta

import numpy as np

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.animals.compatibility import case_of, findings
from jarbloom.core.animals.home import home_of
from jarbloom.core.bloom.drivers import drivers
from jarbloom.core.bloom.limits import limits_for
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.stocking.lots import lots_of
from jarbloom.core.stocking.target import sized_target_mg_n_l
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import Limits, ammonium_per_unionised
from jarbloom.units import Units
from scripts.calibrate.keeper import DAY_ZERO, LIQUID, STRIP, a_tank, at
from scripts.calibrate.made import MadeWorld

SCHOOLS = ("measured_dose", "borrowed_media", "live_culture", "pinch_feeding")
SHARES = (0.5, 0.2, 0.15, 0.15)
SMALL = ("harlequin_rasbora", "ember_tetra", "bronze_corydoras", "kuhli_loach", "neon_tetra", "honey_gourami",
         "cherry_shrimp", "nerite_snail", "otocinclus", "zebra_danio", "white_cloud_minnow", "cherry_barb",
         "panda_corydoras", "glowlight_tetra", "platy", "endler", "amano_shrimp")  # fmt: skip
STRIPS = "strips"  # after a load's name: the kit that all of it is read on
LOADS = {"light": (0.10, 0.30), "usual": (0.10, 0.45), "heavy": (0.40, 1.30)}  # of all of them grown up, mg N/L/day
SEVERE = 4.0  # times a limit


def tank_and_wishes(
    rng: np.random.Generator, reference: Reference, loads: str = "usual"
) -> tuple[Tank, tuple[Animals, ...]]:
    """A tank in which the animals of its wish list suit the water, the room and each other. They come grown up: the
    size that a plan is judged by, and the hardest on the bloom."""
    size, _, kit = loads.partition(" ")
    plain = a_tank(rng)
    ph = round(float(rng.uniform(7.0, 7.6)), 1)
    tank = replace(
        plain, measured_l=round(float(np.exp(rng.uniform(np.log(60), np.log(250))))), ph=ph,
        kit=STRIP if kit == STRIPS else LIQUID,
        temp_c=round(float(rng.uniform(23.5, 25.5)), 1), school=str(rng.choice(SCHOOLS, p=SHARES)), planted=False,
        source=replace(plain.source, ph=ph), quarantine="in_place",
    )  # fmt: skip
    tank = replace(
        tank, filters=(replace(tank.filters[0], media_l=tank.measured_l / 15, nominal_l_h=4 * tank.measured_l),)
    )
    low, high = LOADS[size]
    wanted = float(np.exp(rng.uniform(np.log(low), np.log(high)))) * net_l(tank)
    wishes: list[Animals] = []
    known = [k for k in SMALL if k in reference.species]
    free = [
        lot.animals.species
        for lot in lots_of([Animals(k, 1) for k in known], (), reference.species, tank.started)
        if lot.not_before <= tank.started
    ]  # what waits for the age of the tank tells nothing of its bloom
    for key in rng.permutation([k for k in known if k in free]):
        kind = reference.species[str(key)]
        one = Animals(kind.key, round(kind.group_min * rng.uniform(1.0, 1.6)) or 1, kind.adult_cm)
        trial = [*wishes, one]
        if load_of(trial, reference.species, tank.temp_c, adult=True).total <= wanted and _suits(
            tank, trial, reference
        ):
            wishes = trial
    school = reference.schools.cycling[tank.school]
    if school.feeds_by == "dose":  # the target that the stocking page proposes for what is planned
        load = load_of(wishes, reference.species, tank.temp_c, adult=True).total
        tank = replace(tank, target_mg_n_l=sized_target_mg_n_l(load, net_l(tank), school))
    have = load_of(wishes, reference.species, tank.temp_c, adult=True).total
    if have < low * net_l(tank):  # the groups that suit are small: more of each
        wishes = [replace(w, count=round(w.count * wanted / have)) for w in wishes]
    return tank, tuple(wishes)


def _suits(tank: Tank, animals: list[Animals], reference: Reference) -> bool:
    later = DAY_ZERO + timedelta(days=200)
    case = case_of(home_of(tank), animals, reference.species, later, Units())
    return not any(f.severity != "note" and f.on is None for f in findings(case))


@dataclass
class Life:
    """One tank lived through by one keeper: its log, and what it cost the animals."""

    tank: Tank
    world: MadeWorld
    reference: Reference
    wishes: tuple[Animals, ...]
    log: list[Entry] = field(default_factory=list)
    done_to: float = 0.0
    unsafe_fish_days: int = 0
    severe_fish_days: int = 0
    false_acts: int = 0
    missed_acts: int = 0
    stocked_days: int = 0
    fish_days: int = 0
    full_on: int | None = None
    tests: int = 0
    changes: int = 0
    _top: tuple[float, float] = (0.0, 0.0)

    def advance(self, to: float) -> None:
        if to > self.done_to:
            drv = drivers(self.tank, self.log, self.reference.species, at(self.done_to), at(to), 1 / 24)
            peaks = self.world.advance(drv)
            self._top = (max(self._top[0], peaks.nh3), max(self._top[1], peaks.no2))
            self.done_to = to

    def count_day(self, day: int) -> None:
        """Every animal in the tank on a day whose worst hour was over the limits counts."""
        living = stock(self.log, DAY_ZERO + timedelta(days=day))
        heads = sum(g.count for g in living)
        self.fish_days += heads
        if heads:
            limits = limits_for(living, self.reference, self.tank)
            self.stocked_days += 1
            over = max(self._top[0] / limits.nh3, self._top[1] / limits.no2)
            self.unsafe_fish_days += heads * (over >= 1)
            self.severe_fish_days += heads * (over >= SEVERE)
        if self.full_on is None and heads == sum(w.count for w in self.wishes):
            self.full_on = day
        self._top = (0.0, 0.0)

    def add(self, kind: str, when: float, **body: object) -> None:
        self.log.append(Entry(KINDS[kind].from_raw(body), at(when), id=len(self.log) + 1))

    def over_now(self, limits: Limits) -> bool:
        """Ammonia or nitrite are over a limit in truth."""
        w, temp = self.world, self.tank.temp_c
        nh3 = w.tan / (1 + float(ammonium_per_unionised(temp, 0.0)) * 10 ** -w.ph())
        return nh3 >= limits.nh3 or w.no2 >= limits.no2

    def over_top(self, limits: Limits) -> bool:
        """The worst hour since the day was counted last was over a limit."""
        return self._top[0] >= limits.nh3 or self._top[1] >= limits.no2

    def buffer(self, when: float, grams: float) -> None:
        self.add("buffer", when, grams=round(grams, 2))

    def test_of(self, when: float, quantities: Sequence[str]) -> None:
        look = {"ph": self.world.look_ph, "kh": self.world.look_kh}
        readings = tuple(look[q]() if q in look else self.world.look(q) for q in quantities)
        self.log.append(Entry(Tested(readings=readings), at(when), id=len(self.log) + 1))
        self.tests += 1

    def test(self, when: float, *more: str) -> None:
        self.test_of(when, ("ammonia", "nitrite", "ph", *more))

    def dose(self, when: float) -> None:
        target = self.tank.target_mg_n_l
        self.add("dose", when, amount=target, unit="mg/L", mg_n=target * net_l(self.tank))

    def change(self, when: float, litres: float) -> None:
        litres = min(litres, net_l(self.tank))
        self.add("change", when, litres=litres, fraction=litres / net_l(self.tank))
        self.changes += 1

    def arrive(self, when: float, animals: Animals, **more: object) -> None:
        if not any(e.kind == "arrival" for e in self.log):
            self.advance(when)  # what stood in the water before the first of them harmed nobody
            self._top = (0.0, 0.0)
        self.add("arrival", when, species=animals.species, count=animals.count, length_cm=animals.length_cm, **more)

    def first_day(self, rng: np.random.Generator) -> None:
        if self.tank.school == "borrowed_media":
            self.add("bacteria", 8 / 24, source="borrowed", share=float(rng.choice([5, 10, 20, 30])))
        if self.tank.school == "live_culture":
            self.add("bacteria", 8 / 24, source="bottle")
        if self.reference.schools.cycling[self.tank.school].feeds_by == "dose":
            self.dose(9 / 24)
