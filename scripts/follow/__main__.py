"""`make follow`: made-up tanks of two worlds stocked by following `advise` day by day, against rules of thumb."""

from __future__ import annotations

import argparse
import json
import multiprocessing
import os
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from functools import partial
from pathlib import Path

import numpy as np

from jarbloom.core.model.reference import Reference
from jarbloom.deeds.desk import reference
from scripts.calibrate.keeper import NOON
from scripts.calibrate.report import between
from scripts.calibrate.score import interval
from scripts.calibrate.worlds import WORLDS
from scripts.follow.arms import RULES, Follower, Oracle, Rule, WordForWord
from scripts.follow.stock import STRIPS, Life, tank_and_wishes

DAYS = 120
BASE = 21000  # of the seeds; those of the calibration are not used
DOC = Path(__file__).parents[2] / "docs" / "planner.md"
BEGIN, END = "<!-- measured -->", "<!-- end of measured -->"
ADVISED = {"planner": ("test_led", Follower), "word for word": ("test_led", WordForWord),
           "planner, calendar": ("calendar", Follower),
           "planner, belt and braces": ("belt_and_braces", Follower)}  # fmt: skip
AGAINST, ORACLE = "two zeros", "oracle"


@dataclass(frozen=True)
class Lived:
    """One tank lived by one keeper."""

    seed: int
    school: str
    soft: bool
    unsafe: int
    severe: int
    full_on: int | None
    tests: int
    changes: int
    stocked_days: int
    false_acts: int
    missed_acts: int

    @property
    def full(self) -> int:
        return DAYS if self.full_on is None else self.full_on


def _keeper(arm: str, life: Life, seed: int) -> Follower | Rule | Oracle:
    if arm in ADVISED:
        return ADVISED[arm][1](life, seed + 1)
    return Oracle(life) if arm == ORACLE else Rule(life, **RULES[arm])


def live(seed: int, world: str, loads: str, arm: str, reference: Reference, days: int = DAYS) -> Lived:
    """Every arm meets the same tank, wishes and chance."""
    tank, wishes = tank_and_wishes(np.random.default_rng((BASE, seed)), reference, loads)
    if arm in ADVISED:
        tank = replace(tank, pace=ADVISED[arm][0])
    made = WORLDS[world](tank, reference.media, np.random.default_rng((BASE, seed, 1)))
    made.days_of = (BASE, seed, 4)  # who tests more meets the same days
    life = Life(tank, made, reference, wishes)
    keeper = _keeper(arm, life, seed)
    life.first_day(np.random.default_rng((BASE, seed, 2)))
    for day in range(days):
        keeper.morning(day)
        life.advance(day + NOON)
        life.advance(day + 18 / 24)
        keeper.evening(day)
        life.advance(day + 1)
        life.count_day(day)
        if life.full_on is not None and day > life.full_on + 21:
            break  # nothing happens any more
    return Lived(seed, tank.school, tank.kh_dkh < 4, life.unsafe_fish_days, life.severe_fish_days, life.full_on,
                 life.tests, life.changes, life.stocked_days, life.false_acts, life.missed_acts)  # fmt: skip


def table(found: dict[str, list[Lived]]) -> str:
    """Arms as rows; medians and means with the 90 % interval of a bootstrap over tanks, paired against two zeros."""
    heads = ("keeper", "full on day: median, 9 in 10", "never", "days before two zeros, paired median",
             "unsafe fish-days a tank, mean", "severe", "tests", "changes",
             "false, missed 'act now' in 100 stocked days")  # fmt: skip
    rows = [f"| {' | '.join(heads)} |", "| --- " * len(heads) + "|"]
    base = {x.seed: x for x in found.get(AGAINST, [])}
    for arm, lives in found.items():
        full = [x.full for x in lives]
        unsafe, days = [x.unsafe for x in lives], max(sum(x.stocked_days for x in lives), 1)
        gained = [base[x.seed].full - x.full for x in lives if x.seed in base]
        paired = f"{np.median(gained):+.0f} ({_span(gained, np.median)})" if arm != AGAINST and gained else ""
        rate = [100 * sum(getattr(x, n) for x in lives) / days for n in ("false_acts", "missed_acts")]
        acts = f"{rate[0]:.1f}, {rate[1]:.1f}" if arm in ADVISED else ""
        rows.append(
            f"| {arm} | {np.median(full):.0f} ({_span(full, np.median)}), {np.percentile(full, 90):.0f} "
            f"| {sum(x.full_on is None for x in lives)} | {paired} | {np.mean(unsafe):.1f} ({_span(unsafe, np.mean)}) "
            f"| {np.mean([x.severe for x in lives]):.1f} | {np.mean([x.tests for x in lives]):.0f} "
            f"| {np.mean([x.changes for x in lives]):.1f} | {acts} |"
        )
    return "\n".join(rows)


def _span(values: Sequence[float], of) -> str:
    low, high = interval(values, of)
    return f"{low:.0f} to {high:.0f}"


Key = tuple[str, str, str, int]  # world, loads, arm, seed


def _one(key: Key, reference: Reference) -> tuple[Key, Lived]:
    world, loads, arm, seed = key
    return key, live(seed, world, loads, arm, reference)


def kept_lives(path: Path | None) -> dict[Key, Lived]:
    """Those lived through already, from a file of JSON lines."""
    lines = path.read_text("utf-8").splitlines() if path is not None and path.exists() else []
    return {tuple(row["key"]): Lived(**row["lived"]) for row in map(json.loads, lines)}


def run(wanted: Sequence[Key], workers: int, path: Path | None = None) -> dict[Key, Lived]:
    """Lives through what the file does not hold yet, tank by tank in all worlds and arms, and adds each to it as it
    ends: hundreds of tanks take hours, and a run that is broken off goes on where it was. A file belongs to one state
    of the program: rules that have changed need a new one."""
    found = kept_lives(path)
    left = sorted((k for k in wanted if k not in found), key=lambda k: k[3])
    with multiprocessing.get_context("fork").Pool(workers) as pool:
        for key, lived in pool.imap_unordered(partial(_one, reference=reference()), left, chunksize=1):
            found[key] = lived
            if path is not None:
                with path.open("a", encoding="utf-8") as out:
                    out.write(json.dumps({"key": key, "lived": asdict(lived)}, default=int) + "\n")
    return {k: found[k] for k in wanted}


def main() -> None:
    parser = argparse.ArgumentParser(prog="follow", description=__doc__)
    parser.add_argument("--tanks", type=int, default=40, help="of each world and load")
    parser.add_argument("--from", dest="first", type=int, default=0)
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    parser.add_argument("--keep", action="store_true", help="write the numbers into docs/planner.md")
    parser.add_argument("--lives", type=Path, help="file of lives to go on with, and to add to")
    parser.add_argument("--worlds", default="film,patch")
    parser.add_argument("--loads", default="light,heavy")
    parser.add_argument("--arms", default=",".join([AGAINST, *(a for a in RULES if a != AGAINST), *ADVISED, ORACLE]))
    given = parser.parse_args()
    arms = given.arms.split(";" if ";" in given.arms else ",")
    seeds = range(given.first, given.first + given.tanks)
    cells = [(world, loads) for world in given.worlds.split(",") for loads in given.loads.split(",")]
    lives = run([(*cell, arm, seed) for cell in cells for arm in arms for seed in seeds], given.workers, given.lives)
    parts = []
    for cell in cells:
        rows = table({arm: [lives[(*cell, arm, seed)] for seed in seeds] for arm in arms})
        size, _, kit = cell[1].partition(" ")
        read = ", read on strips" if kit == STRIPS else ""
        parts.append(f"### The {cell[0]} world, {size} loads{read}, {given.tanks} tanks\n\n{rows}")
    print("\n\n".join(parts))
    if given.keep:
        DOC.write_text(between(DOC.read_text("utf-8"), BEGIN, END, "\n\n".join(parts)), "utf-8")


if __name__ == "__main__":
    main()
