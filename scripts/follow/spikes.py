"""Spikes in film-world tanks met in two ways: by the desk's plan, and by 'half now, half tomorrow'."""

from __future__ import annotations

import argparse
import copy
import multiprocessing
import os
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path

import numpy as np

from jarbloom.core.advice.food import ration
from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import Situation, situation
from jarbloom.core.advice.testing import next_test
from jarbloom.core.animals.bioload import load_of, usual_feed_g_day
from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.bloom.limits import limits_for
from jarbloom.core.journal.book import stock
from jarbloom.core.model.findings import Feeding
from jarbloom.core.model.reference import Reference
from jarbloom.core.upset.levels import USUAL
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import ammonium_per_unionised
from jarbloom.deeds.desk import reference
from jarbloom.units import Units
from scripts.calibrate.keeper import at
from scripts.calibrate.report import between
from scripts.calibrate.worlds import FilmWorld
from scripts.follow.stock import Life, tank_and_wishes

BASE = 22000  # of the seeds; those of the calibration and of the plans are not used
STOCKED, UPSET, DAYS = 24, 36, 7  # day of the animals, day of the upset, days that are counted from there on
SPIKES, SEEDS, ROUND = 40, 600, 20  # ROUND: seeds that are lived through before it is looked whether there are enough
CROWDED, MEALS = 3.0, 25.0  # times the animals that the plans are followed with; usual days of food in the one meal
SPIKE = 1.5  # times a usual limit: a kit sees it
DOC = Path(__file__).parents[2] / "docs" / "planner.md"
BEGIN, END = "<!-- spikes -->", "<!-- end of spikes -->"
EVENING, DOES, MORNING = 18 / 24, 19 / 24, 8 / 24
CAUSES = ("food", "food, untold", "bodies", "bodies, untold", "new media")


@dataclass(frozen=True)
class Met:
    """What one way of meeting a spike cost: fish-hours over the limits, litres, changes."""

    unsafe_fish_hours: int
    litres: float
    changes: int
    worst: float


@dataclass(frozen=True)
class Spike:
    """One upset lived twice from the same moment."""

    seed: int
    cause: str
    volume_l: float
    planned: Met
    thumb: Met


@dataclass
class Watched:
    """A life whose keeper does not know all of it, hour by hour."""

    life: Life
    untold: set[int]
    reference: Reference
    unsafe: float = 0.0  # fish-hours
    worst: float = 0.0  # times the usual limit
    litres: float = 0.0
    changes: int = 0
    meals: dict[int, float] = field(default_factory=dict)  # grams by the day, where the desk wants less than usual

    @property
    def told(self) -> list:
        return [e for e in self.life.log if e.id not in self.untold]

    def live(self, to: float) -> None:
        """Hour by hour; an hour over a limit counts for every head in the tank."""
        life = self.life
        while life.done_to < to - 1e-9:
            before, now = (
                life.done_to,
                min(life.done_to + 1 / 24, to),
            )  # beyond it, what is done at `to` would be passed over
            if (day := int(before + 1e-9)) in self.meals:
                life.add("feed", day + MORNING, grams=self.meals.pop(day))
            life.advance(now)
            living = stock(life.log, at(now).date())
            limits = limits_for(living, self.reference, life.tank)
            world, temp = life.world, life.tank.temp_c
            nh3 = world.tan / (1 + float(ammonium_per_unionised(temp, 0.0)) * 10 ** -world.ph())
            over = max(nh3 / limits.nh3, world.no2 / limits.no2)
            self.worst = max(self.worst, round(float(max(nh3 / USUAL.nh3, world.no2 / USUAL.no2)), 1))
            if over >= 1.0:
                self.unsafe += sum(g.count for g in living) * (now - before) * 24

    def change(self, when: float, litres: float) -> None:
        self.life.change(when, litres)
        self.litres += litres
        self.changes += 1

    def seen(self, when: float, seed: int) -> Situation:
        life, now = self.life, at(when)
        settings = Forecasting(horizon_days=6, seed=seed)  # as many members as the program publishes with
        made = forecast(life.tank, self.told, now, self.reference, (), settings)
        return situation(life.tank, self.told, (), made, self.reference, Units(), now)


def upset_of(seed: int, reference: Reference) -> tuple[Watched, str] | None:
    """A stocked tank just before its upset, which stands in its log, told to the keeper or not; None where it was over
    a limit on the day before."""
    rng = np.random.default_rng((BASE, seed))
    tank, wishes = tank_and_wishes(rng, reference)
    wishes = tuple(w for w in wishes if limits_for([w], reference) == USUAL)  # a hobby kit sees no lower limit
    if not wishes:
        return None
    tank = replace(tank, school="borrowed_media")
    wishes = tuple(replace(w, count=round(CROWDED * w.count)) for w in wishes)
    life = Life(tank, FilmWorld(tank, reference.media, np.random.default_rng((BASE, seed, 1))), reference, wishes)
    life.add("bacteria", 8 / 24, source="borrowed", share=25)
    for day in range(1, STOCKED, 2):
        life.dose(day + 9 / 24)
    life.change(STOCKED + 8 / 24, 0.7 * net_l(tank))
    for group in wishes:
        life.arrive(STOCKED + 9 / 24, group)
    for day in range(STOCKED + 1, UPSET, 3):
        life.advance(day + EVENING)
        life.test(day + EVENING)
    cause, before = CAUSES[seed % len(CAUSES)], len(life.log)
    when = UPSET + 10 / 24
    if cause.startswith("food"):
        life.add("feed", when, grams=MEALS * usual_feed_g_day(wishes, reference.species, tank.temp_c, at(UPSET).date()))
    elif cause == "new media":
        life.add("media", when, how="replaced", share=100)
    else:
        kind = max(wishes, key=lambda g: load_of([replace(g, count=1)], reference.species, tank.temp_c).total)
        count = kind.count if len(wishes) > 1 else kind.count // 2  # somebody is left to be counted
        life.add("death", when, species=kind.species, count=count, body="not_found")
    untold = {e.id for e in life.log[before:]} if "untold" in cause else set()
    watched = Watched(life, untold, reference)
    life.advance(UPSET - 1)
    watched.live(UPSET + 9 / 24)
    if watched.unsafe > 0:
        return None  # not well before: what comes is no spike
    watched.worst = 0.0
    return watched, cause


def by_plan(w: Watched, seed: int) -> Met:
    """Does what the desk says: changes when it says, tests again where it doubts a reading, two hours after each
    change, when it wants the next test and every evening, and asks anew after every test."""
    look, got_ready = UPSET + EVENING, 1 / 24  # the hour in which the water for a change is got ready
    while look < UPSET + DAYS:
        w.live(look)
        w.life.test(look)
        s = w.seen(look + 0.25 / 24, seed)
        following = _evening_after(look)
        if s.findings.has("repeat_high"):
            following = look + 1 / 24  # asked to test again before anything is believed
        plan = s.response.changes if s.response is not None and any(j.kind == "water_change" for j in jobs(s)) else ()
        at_once = bool(plan) and plan[0].at <= s.now
        if at_once:
            w.live(look + got_ready)
            w.change(look + got_ready, plan[0].litres)
            following = _at_home(look + got_ready + 2 / 24)
        elif plan:
            following = min(following, look + (plan[0].at - s.now).total_seconds() / 86400)
        elif (due := next_test(s).due) > s.now:
            following = min(following, look + (due - s.now).total_seconds() / 86400)
        food = ration(s)  # of tomorrow; a later look may say otherwise
        w.meals = {int(look) + 1: round(food.grams, 3)} if food.level < Feeding.USUAL else {}
        # the water is got ready while a doubted test is made again
        got_ready = 0.0 if s.findings.has("repeat_high") and not at_once else 1 / 24
        look = following
    w.live(UPSET + DAYS)
    return Met(round(w.unsafe), round(w.litres), w.changes, w.worst)


def _evening_after(look: float) -> float:
    return int(look) + EVENING + (0 if look - int(look) < EVENING - 0.5 / 24 else 1)


def _at_home(look: float) -> float:
    """A look that would fall into the night waits for the morning."""
    hour = look - int(look)
    return look if MORNING <= hour <= 22.01 / 24 else int(look) + (hour > 0.5) + MORNING


def by_thumb(w: Watched, seed: int) -> Met:
    """Tests as often; half of the water when a test is over the limits, half the next evening, and so on."""
    half_due = -1
    for day in range(UPSET, UPSET + DAYS):
        w.live(day + EVENING)
        w.life.test(day + EVENING)
        over = w.seen(day + EVENING + 0.25 / 24, seed).levels.over
        if over or half_due == day:
            w.live(day + DOES)
            w.change(day + DOES, 0.5 * net_l(w.life.tank))
        if over:
            half_due = -1 if half_due == day else day + 1
            w.life.add("feed", day + 1 + MORNING, grams=0)
    w.live(UPSET + DAYS)
    return Met(round(w.unsafe), round(w.litres), w.changes, w.worst)


def spike(seed: int, reference: Reference) -> Spike | None:
    """None where the water never came to SPIKE times a limit: that was no spike, whatever a test read."""
    found = upset_of(seed, reference)
    if found is None:
        return None
    start, cause = found
    planned, thumb = by_plan(copy.deepcopy(start), seed), by_thumb(copy.deepcopy(start), seed)
    if max(planned.worst, thumb.worst) < SPIKE:
        return None
    return Spike(seed, cause, round(net_l(start.life.tank)), planned, thumb)


def table(found: Iterable[Spike]) -> str:
    """For docs/planner.md."""
    rows = sorted(found, key=lambda s: s.seed)
    lines = ["| spike | tank | fish-hours over the limits: plan, thumb | water: plan, thumb | changes: plan, thumb |",
             "| --- | --- | --- | --- | --- |"]  # fmt: skip
    for s in rows:
        a, b = s.planned, s.thumb
        lines.append(
            f"| {s.cause} | {s.volume_l} L | {a.unsafe_fish_hours}, {b.unsafe_fish_hours} | {a.litres} L, {b.litres} L "
            f"| {a.changes}, {b.changes} |"
        )
    fewer = sum(s.planned.unsafe_fish_hours < s.thumb.unsafe_fish_hours for s in rows)
    as_many = sum(s.planned.unsafe_fish_hours == s.thumb.unsafe_fish_hours for s in rows)
    less = sum(s.planned.litres <= s.thumb.litres for s in rows)
    both = sum(
        s.planned.unsafe_fish_hours <= s.thumb.unsafe_fish_hours and s.planned.litres <= s.thumb.litres for s in rows
    )
    lines += ["", f"{len(rows)} spikes, {DAYS} days each. Fewer unsafe fish-hours by the plan in {fewer}, as many in "
              f"{as_many}; no more water in {less}; neither more hours nor more water in {both}."]  # fmt: skip
    return "\n".join(lines)


def main() -> None:
    parser = argparse.ArgumentParser(prog="spikes", description=__doc__)
    parser.add_argument("--keep", action="store_true", help="write the numbers into docs/planner.md")
    parser.add_argument("--first", type=int, default=0, help="seed to begin with: others than those that docs show")
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    given = parser.parse_args()
    found: dict[int, Spike] = {}
    with multiprocessing.get_context("fork").Pool(given.workers) as pool:
        for begin in range(given.first, given.first + SEEDS, ROUND):
            seeds = range(begin, begin + ROUND)
            for seed, one in zip(seeds, pool.map(partial(spike, reference=reference()), seeds, 1), strict=True):
                print(seed, one or "no spike", flush=True)
                found |= {seed: one} if one else {}
            if len(found) >= SPIKES:
                break
    text = table(list(found.values())[:SPIKES])  # the first ones, whatever the last round brought
    print(text)
    if given.keep:
        DOC.write_text(between(DOC.read_text("utf-8"), BEGIN, END, text), "utf-8")


if __name__ == "__main__":
    main()
