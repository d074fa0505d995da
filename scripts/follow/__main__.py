"""`make follow`: film-world tanks stocked by following `advise` day by day, against a third every two weeks."""

from __future__ import annotations

import argparse
import multiprocessing
import os
import time
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

import numpy as np

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.model.reference import Reference
from jarbloom.core.vessel.volume import net_l
from jarbloom.deeds.desk import reference
from scripts.calibrate.keeper import NOON
from scripts.calibrate.report import between
from scripts.calibrate.worlds import FilmWorld
from scripts.follow.arms import Follower, Thirds
from scripts.follow.stock import Life, tank_and_wishes

DAYS = 130
BASE = 21000  # of the seeds; those of the calibration are not used
DOC = Path(__file__).parents[2] / "docs" / "planner.md"
BEGIN, END = "<!-- measured -->", "<!-- end of measured -->"


@dataclass(frozen=True)
class Pair:
    """One tank lived twice: (unsafe fish-days, fish-days, day of full stock, tests, changes) by either keeper."""

    seed: int
    school: str
    load_mg_n_l: float
    heads: int
    followed: tuple[int, int, int | None, int, int]
    thirds: tuple[int, int, int | None, int, int]


def live(seed: int, reference: Reference, pace: str = "test_led", days: int = DAYS) -> Pair:
    rng = np.random.default_rng((BASE, seed))
    tank, wishes = tank_and_wishes(rng, reference)
    tank = replace(tank, pace=pace)
    found = []
    for arm in (lambda life: Follower(life, seed + 1), Thirds):
        world = FilmWorld(tank, reference.media, np.random.default_rng((BASE, seed, 1)))
        life = Life(tank, world, reference, wishes)
        keeper = arm(life)
        life.first_day(np.random.default_rng((BASE, seed, 2)))
        for day in range(days):
            life.advance(day + NOON)
            life.advance(day + 18 / 24)
            keeper.evening(day)
            life.advance(day + 1)
            life.count_day(day)
        found.append((life.unsafe_fish_days, life.fish_days, life.full_on, life.tests, life.changes))
    heads = sum(w.count for w in wishes)
    load = load_of(wishes, reference.species, tank.temp_c, adult=True).total / net_l(tank)
    return Pair(seed, tank.school, round(load, 3), heads, *found)


def summary(pairs: list[Pair]) -> str:
    def total(k: int, arm: str) -> int:
        return sum(getattr(p, arm)[k] or 0 for p in pairs)

    def full(p: Pair, arm: str) -> int:
        return DAYS if getattr(p, arm)[2] is None else getattr(p, arm)[2]

    not_later = sum(full(p, "followed") <= full(p, "thirds") for p in pairs)
    fewer = sum(p.followed[0] < p.thirds[0] for p in pairs)
    more = sum(p.followed[0] > p.thirds[0] for p in pairs)
    rows = ["| | following the plan and the daily advice | a third every two weeks |", "| --- | --- | --- |"]
    for name, k in (("unsafe fish-days", 0), ("fish-days in all", 1), ("tests", 3), ("water changes", 4)):
        rows.append(f"| {name} | {total(k, 'followed')} | {total(k, 'thirds')} |")
    for arm_name, q in (("median day of full stock", 50), ("90th percentile of it", 90)):
        cells = [f"{np.percentile([full(p, arm) for p in pairs], q):.0f}" for arm in ("followed", "thirds")]
        rows.append(f"| {arm_name} | {' | '.join(cells)} |")
    never = [sum(getattr(p, arm)[2] is None for p in pairs) for arm in ("followed", "thirds")]
    rows.append(f"| not full after {DAYS} days | {never[0]} | {never[1]} |")
    text = (
        f"{len(pairs)} tanks, {DAYS} days. Full stock no later than the rule of thumb in {not_later} of {len(pairs)}; "
        f"fewer unsafe fish-days in {fewer}, more in {more}, as many in {len(pairs) - fewer - more}."
    )
    return "\n".join(rows) + "\n\n" + text


def main() -> None:
    parser = argparse.ArgumentParser(prog="follow", description=__doc__)
    parser.add_argument("--tanks", type=int, default=40)
    parser.add_argument("--from", dest="first", type=int, default=0)
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    parser.add_argument("--keep", action="store_true", help="write the numbers into docs/planner.md")
    parser.add_argument("--pace", default="test_led", help="the school of pace between batches that is followed")
    given = parser.parse_args()
    begun, one = time.perf_counter(), partial(live, reference=reference(), pace=given.pace)
    with multiprocessing.get_context("fork").Pool(given.workers) as pool:
        pairs = []
        for pair in pool.imap_unordered(one, range(given.first, given.first + given.tanks)):
            print(pair, flush=True)
            pairs.append(pair)
    text = summary(sorted(pairs, key=lambda p: p.seed))
    print(text, f"\ntook {time.perf_counter() - begun:.0f} s")
    if given.keep:
        DOC.write_text(between(DOC.read_text("utf-8"), BEGIN, END, text), "utf-8")


if __name__ == "__main__":
    main()
