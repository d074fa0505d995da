"""Two keepers of the same tank: one does each evening what `advise` says, one adds a third every two weeks."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.said import Job
from jarbloom.core.advice.situation import Situation, situation
from jarbloom.core.bloom.ensemble import Forecasting, prepare
from jarbloom.core.bloom.forecast import summarise
from jarbloom.core.bloom.plans import pinch_g_day
from jarbloom.core.journal.log import latest
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.lots import lots_of
from jarbloom.core.stocking.plan import in_thirds, propose
from jarbloom.core.stocking.terms import terms_of
from jarbloom.core.vessel.volume import net_l
from jarbloom.units import Units
from scripts.calibrate.keeper import ACT, DAY_ZERO, TEST, at
from scripts.follow.stock import Life

MEMBERS = 200
LOOK_EVERY = 2  # days until the next look when no test is asked
KH_LOW = 0.5


class Follower:
    """Does what the jobs list says, on the day it says; brings a batch when its gate is passed."""

    def __init__(self, life: Life, seed: int) -> None:
        self.life, self.left, self.look_on = life, list(life.wishes), 0
        self.settings = Forecasting(members=MEMBERS, seed=seed)
        self.plan: tuple[Batch, ...] = ()
        self.test_on, self.kh_due = DAY_ZERO, False

    def evening(self, day: int) -> None:
        life = self.life
        if life.tank.school == "pinch_feeding" and len(self.left) == len(life.wishes):
            life.add("feed", day + ACT, grams=pinch_g_day(life.tank))
        if day < self.look_on:
            return
        when, today = day + TEST, DAY_ZERO + timedelta(days=day)
        if today >= self.test_on or any(b.planned <= today for b in self.plan[:1]):
            life.test(when, *(["kh"] if self.kh_due or day % 6 == 0 else []))
        s = self._advise(when + 0.5 / 24)
        todo = jobs(s)
        self._do(day, s, todo)
        self.kh_due = any(j.kind == "test" and "KH" in j.title for j in todo)
        self.test_on = min([j.due.date() for j in todo if j.kind == "test"], default=today + timedelta(days=LOOK_EVERY))
        planned = [b.planned for b in self.plan[:1]]
        self.look_on = day + max(1, (min([self.test_on, *planned]) - today).days)

    def _advise(self, when: float) -> Situation:
        """What the tank's page would show, with the planner's batches on the plan."""
        life, now = self.life, at(when)
        ensemble = prepare(life.tank, life.log, now, life.reference, self.settings)
        made = summarise(ensemble, self.plan)
        stale = not self.plan or self.plan[0].planned <= now.date() + timedelta(days=1)
        if self.left and stale and (ensemble.living or made.readiness.p50 is not None):
            terms = terms_of(life.tank, ensemble.entries, now.date(), life.reference.schools, made.readiness)
            placed = propose(ensemble, self.left, terms).placed
            plan = tuple(Batch(100 + k, f"batch {k}", p.planned, p.items) for k, p in enumerate(placed))
            if plan != self.plan:
                self.plan = plan
                made = summarise(ensemble, plan)
        return situation(life.tank, life.log, self.plan, made, life.reference, Units(), now)

    def _do(self, day: int, s: Situation, todo: tuple[Job, ...]) -> None:
        life, today = self.life, s.now.date()
        kh = latest(life.log, "kh")
        if kh is not None and kh.at.date() == today and kh.value < KH_LOW * life.tank.kh_dkh:
            life.change(day + ACT, 0.7 * net_l(life.tank))
        for job in todo:
            if job.kind == "water_change" and job.amount and job.due.date() <= today:
                life.change(day + ACT, job.amount)
            if job.kind == "dose":
                life.dose(day + ACT)
        gate = s.next_gate
        if gate is not None and gate.passed and self.plan:
            for animals in self.plan[0].items:
                life.arrive(day + ACT + 1 / 24, animals)
                self._took(animals)
            self.plan = self.plan[1:]

    def _took(self, animals: Animals) -> None:
        kept = []
        for wish in self.left:
            gone = min(wish.count, animals.count) if wish.species == animals.species else 0
            if wish.count > gone:
                kept.append(replace(wish, count=wish.count - gone))
        self.left = kept


class Thirds:
    """The rule of thumb: cycles by the same school, begins at the first double zero, a third every two weeks; tests
    every other day all along, and changes half of the water when ammonia or nitrite read 0.5 or more with animals."""

    EVERY, OVER, SHARE = 2, 0.5, 0.5

    def __init__(self, life: Life) -> None:
        self.life, self.school = life, life.reference.schools.cycling[life.tank.school]
        self.thirds: dict[date, tuple[Animals, ...]] = {}

    def evening(self, day: int) -> None:
        life, today = self.life, DAY_ZERO + timedelta(days=day)
        cycling = not self.thirds
        if cycling and self.school.feeds_by == "food":
            life.add("feed", day + ACT, grams=pinch_g_day(life.tank))
        if day and day % self.EVERY == 0:
            life.test(day + TEST, *(["kh"] if day % 6 == 0 else []))
            am, ni = (latest(life.log, q) for q in ("ammonia", "nitrite"))
            assert am is not None and ni is not None
            self._react(day, am.value, ni.value, cycling)
            if cycling and day > 4 and (am.reading.low <= 0) and (ni.reading.low <= 0):
                self._begin(today)
        for animals in self.thirds.pop(today, ()):
            life.arrive(day + ACT + 1 / 24, animals)
        if self.thirds == {} and not cycling:
            self.thirds = {date.max: ()}  # all are in: cycling is over for good

    def _react(self, day: int, am: float, ni: float, cycling: bool) -> None:
        life, kh = self.life, latest(self.life.log, "kh")
        if kh is not None and kh.at >= at(day) and kh.value < KH_LOW * life.tank.kh_dkh:
            life.change(day + ACT, 0.7 * net_l(life.tank))
        elif not cycling and max(am, ni) >= self.OVER:
            life.change(day + ACT, self.SHARE * net_l(life.tank))
        if cycling and self.school.feeds_by == "dose" and am < 0.25 and ni < 5:
            life.dose(day + ACT)

    def _begin(self, today: date) -> None:
        life = self.life
        life.log = [e for e in life.log if not (e.kind == "dose" and e.at.date() == today)]
        life.change((today - DAY_ZERO).days + ACT, self.SHARE * net_l(life.tank))
        lots = lots_of(life.wishes, (), life.reference.species, life.tank.started)
        self.thirds = {b.planned: b.items for b in in_thirds(lots, today)}
