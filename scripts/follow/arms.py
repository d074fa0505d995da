"""Keepers of the same tank: two that do what `advise` says, by the planner or word for word, rules of thumb, and one
who knows the truth."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, timedelta

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.said import Job
from jarbloom.core.advice.situation import Situation, situation
from jarbloom.core.bloom.ensemble import Ensemble, Forecasting, prepare
from jarbloom.core.bloom.forecast import summarise
from jarbloom.core.bloom.limits import limits_for
from jarbloom.core.bloom.plans import pinch_g_day
from jarbloom.core.journal.log import latest
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.habits import in_thirds
from jarbloom.core.stocking.lots import lots_of
from jarbloom.core.stocking.plan import propose
from jarbloom.core.stocking.terms import terms_of
from jarbloom.core.vessel.volume import net_l
from jarbloom.units import Units
from scripts.calibrate.keeper import ACT, DAY_ZERO, TEST, at
from scripts.follow.stock import Life

SETTINGS = Forecasting(members=120, horizon_days=21, sampler_h=4.0, publish_h=4.0)
EVENING_COMES = timedelta(hours=20)  # what is due later than that is done in the evening
AT_LENGTH = {"temperature": "temp", "pH": "ph", "KH": "kh"}


class WordForWord:
    """Does exactly the jobs of the list, on the day they are due, and nothing else; what is planned are three batches
    of whole kinds, for the first days."""

    def __init__(self, life: Life, seed: int) -> None:
        self.life, self.left, self.look_on = life, list(life.wishes), 0
        self.early: float | None = None  # a test that is due before the next evening
        self.settings = replace(SETTINGS, seed=seed)
        self.plan = _kinds_in_three(life)

    def morning(self, day: int) -> None:
        """Comes at the hour that a test job names."""
        if self.early is not None and int(self.early) == day:
            self.life.advance(self.early)
            self._visit(self.early)
            self.look_on = day

    def evening(self, day: int) -> None:
        if day < self.look_on:
            return
        s, acted = self._visit(day + TEST)
        tests = [j.due.date() for j in jobs(s) if j.kind == "test"]
        self.look_on = day + max(1, min([(d - s.now.date()).days for d in tests], default=2))
        if acted or not s.living:
            self.look_on = day + 1  # who cycles looks at the list each evening

    def _visit(self, when: float) -> tuple[Situation, bool]:
        """Tests what is due and does what the list then says, within an hour."""
        self.early = None
        s = self._advise(when)
        due = self._tests(jobs(s), s)
        if due:
            self.life.test_of(when, due)
            s = self._advise(when + 0.25 / 24)
            self._judge(s)
        todo = jobs(s)
        hours = [j.due for j in todo if j.kind == "test" and s.now < j.due < s.now + EVENING_COMES]
        self.early = when + (hours[0] - s.now) / timedelta(days=1) if hours and not s.living else None
        return s, self._do(when + 1 / 24, s, todo)

    def _tests(self, todo: tuple[Job, ...], s: Situation) -> list[str]:
        """The quantities of the test that is due today, as its title names them."""
        for job in todo:
            if job.kind == "test" and job.due.date() <= s.now.date():
                named = job.title.split("test of ")[-1].removeprefix("Test ").replace(" and ", ", ").split(", ")
                return [AT_LENGTH.get(n, n) for n in named if n not in ("temperature", "salinity")]
        return []

    def _judge(self, s: Situation) -> None:
        """Whether 'act now' for the water was right, against the truth of the hour."""
        life = self.life
        if not s.living:
            return
        over = life.over_now(limits_for(s.living, life.reference, life.tank))
        acts = s.acting and s.over
        life.false_acts += acts and not over
        life.missed_acts += over and not s.acting

    def _advise(self, when: float) -> Situation:
        life, now = self.life, at(when)
        made = summarise(prepare(life.tank, life.log, now, life.reference, self.settings), self.plan)
        return situation(life.tank, life.log, self.plan, made, life.reference, Units(), now)

    def _do(self, when: float, s: Situation, todo: tuple[Job, ...]) -> bool:
        life, today, acted = self.life, s.now.date(), False
        for job in todo:
            if job.kind == "water_change" and job.amount and job.due.date() <= today:
                life.change(when, job.amount)
            elif job.kind == "buffer" and job.amount:
                life.buffer(when, job.amount)
            elif job.kind == "dose":
                life.dose(when)
            elif job.kind == "feed" and not s.living and job.amount:
                life.add("feed", when, grams=job.amount)
            elif job.kind == "add_batch":
                for animals in self.plan[0].items:
                    life.arrive(when + 1 / 24, animals, batch=self.plan[0].id)
                    self._took(animals)
                self.plan = self.plan[1:]
            else:
                continue
            acted = True
        return acted

    def _took(self, animals: Animals) -> None:
        kept = []
        for wish in self.left:
            gone = min(wish.count, animals.count) if wish.species == animals.species else 0
            if wish.count > gone:
                kept.append(replace(wish, count=wish.count - gone))
        self.left = kept


def _kinds_in_three(life: Life) -> tuple[Batch, ...]:
    """The wish list by kind in three batches of about as many heads, in the catalogue's order."""
    items = [lot.animals for lot in lots_of(life.wishes, (), life.reference.species, life.tank.started)]
    heads, total = 0, sum(a.count for a in items)
    parts: dict[int, list[Animals]] = {}
    for animals in items:
        parts.setdefault(min(2, 3 * heads // total), []).append(animals)
        heads += animals.count
    return tuple(
        Batch(k + 1, f"part {k + 1}", DAY_ZERO + timedelta(days=4 * n), tuple(part))
        for n, (k, part) in enumerate(sorted(parts.items()))
    )


class Follower(WordForWord):
    """As word for word, with what waits composed anew by the planner after each test; who finds no day waits in a last
    batch, as the page has it."""

    def __init__(self, life: Life, seed: int) -> None:
        super().__init__(life, seed)
        self.planned_after = 0  # tests

    def _advise(self, when: float) -> Situation:
        life, now = self.life, at(when)
        ensemble = prepare(life.tank, life.log, now, life.reference, self.settings)
        if self.left and life.tests > self.planned_after:
            self.planned_after = life.tests
            self._compose(ensemble, now.date())
        made = summarise(ensemble, self.plan)
        return situation(life.tank, life.log, self.plan, made, life.reference, Units(), now)

    def _compose(self, ensemble: Ensemble, today: date) -> None:
        tank, schools = self.life.tank, self.life.reference.schools
        terms = terms_of(tank, ensemble.entries, today, schools, summarise(ensemble, ()).readiness)
        first = 1000 * self.life.tests  # a batch of another plan is another one
        composed = propose(ensemble, self.left, terms).batches(terms)
        self.plan = tuple(Batch(first + k, f"batch {k}", *batch) for k, batch in enumerate(composed)) or self.plan


class Evenings:
    """Who looks at the tank in the evening only."""

    def morning(self, day: int) -> None:
        """Nobody comes."""


@dataclass
class Rule(Evenings):
    """A rule of thumb. Cycles by the tank's school; `begins` says when the first animals come: after so many days, or
    after so many tests in a row that read zero twice; then so many parts, `every` days apart. Tests every `tests` days
    all along, and changes half of the water at readings of 0.5 with animals in, or where half of the KH is gone."""

    life: Life
    zeros: int = 2
    on_day: int | None = None
    parts: int = 1
    every: int = 14
    tests: int = 1

    OVER, SHARE, KH_LOW = 0.5, 0.5, 0.5
    KH_SHARE, NO2_BEARS = 0.7, 5.0  # of the water, where KH is gone; mg N/L up to which a dose is added

    def __post_init__(self) -> None:
        self.school = self.life.reference.schools.cycling[self.life.tank.school]
        self.coming: dict[date, tuple[Animals, ...]] | None = None
        self.run = 0

    def evening(self, day: int) -> None:
        life, today = self.life, DAY_ZERO + timedelta(days=day)
        cycling = self.coming is None
        if cycling and self.school.feeds_by == "food":
            life.add("feed", day + ACT, grams=pinch_g_day(life.tank))
        if day and day % self.tests == 0:
            life.test(day + TEST, *(["kh"] if day % 6 == 0 else []))
            am, ni = (latest(life.log, q) for q in ("ammonia", "nitrite"))
            assert am is not None and ni is not None
            self.run = self.run + 1 if am.reading.low <= 0 and ni.reading.low <= 0 and day > 4 else 0
            begins = cycling and (self.run >= self.zeros if self.on_day is None else day >= self.on_day)
            self._react(day, am.value, ni.value, cycling and not begins)
            if begins:
                self._begin(day, today)
        for animals in (self.coming or {}).pop(today, ()):
            life.arrive(day + ACT + 1 / 24, animals)

    def _react(self, day: int, am: float, ni: float, cycling: bool) -> None:
        life, kh = self.life, latest(self.life.log, "kh")
        if kh is not None and kh.at >= at(day) and kh.value < self.KH_LOW * life.tank.kh_dkh:
            life.change(day + ACT, Rule.KH_SHARE * net_l(life.tank))
        elif not cycling and max(am, ni) >= self.OVER:
            life.change(day + ACT, self.SHARE * net_l(life.tank))
        if cycling and self.school.feeds_by == "dose" and am < 0.25 and ni < self.NO2_BEARS:
            life.dose(day + ACT)

    def _begin(self, day: int, today: date) -> None:
        self.life.change(day + ACT, self.SHARE * net_l(self.life.tank))
        self.coming = {}
        for k, part in enumerate(_parts(self.life, self.parts)):
            self.coming[today + timedelta(days=self.every * k)] = part


class Oracle(Evenings):
    """Knows what is in the water and what the days will bring: doses when ammonia is gone, keeps KH, and adds the whole
    wish list at once on the first evening from which the water stays within the limits for `WATCHED` days. A bound:
    nobody who tests can be faster by the same cycling, other than by adding a part earlier."""

    WATCHED, GONE = 14, 0.1  # days; mg N/L of ammonia

    def __init__(self, life: Life) -> None:
        self.life = life
        self.school = life.reference.schools.cycling[life.tank.school]

    def evening(self, day: int) -> None:
        life = self.life
        if life.world.kh_dkh < Rule.KH_LOW * life.tank.kh_dkh:
            life.change(day + ACT, Rule.KH_SHARE * net_l(life.tank))
        if any(e.kind == "arrival" for e in life.log):
            return
        if self._bears(day):
            self._add(life, day)
        elif self.school.feeds_by == "food":
            life.add("feed", day + ACT, grams=pinch_g_day(life.tank))
        elif life.world.tan < self.GONE and life.world.no2 < Rule.NO2_BEARS:
            life.dose(day + ACT)

    def _add(self, life: Life, day: int) -> None:
        life.change(day + ACT, Rule.SHARE * net_l(life.tank))
        for animals in life.wishes:
            life.arrive(day + ACT + 1 / 24, animals)

    def _bears(self, day: int) -> bool:
        trial = replace(self.life, world=self.life.world.foreseen(), log=list(self.life.log))
        self._add(trial, day)
        trial.advance(day + ACT + 1 / 24 + self.WATCHED)
        return not trial.over_top(limits_for(trial.wishes, trial.reference, trial.tank))


def _parts(life: Life, parts: int) -> list[tuple[Animals, ...]]:
    """The wish list in so many parts; 0: one animal at a time."""
    if parts == 1:
        return [life.wishes]
    lots = lots_of(life.wishes, (), life.reference.species, life.tank.started)
    if parts == 3:
        return [b.items for b in in_thirds(lots, DAY_ZERO)]
    return [(replace(lot.animals, count=1),) for lot in lots for _ in range(lot.animals.count)]


RULES = {
    "two zeros": {"zeros": 2},
    "first zeros": {"zeros": 1},
    "thirds": {"zeros": 1, "parts": 3, "tests": 2},
    "day 35": {"on_day": 35},
    "one at a time": {"zeros": 1, "parts": 0, "every": 3, "tests": 2},
}
