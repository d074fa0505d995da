"""`make calibrate`: lives and asks synthetic tanks of two worlds, prints the scores, writes them into docs/model.md."""

from __future__ import annotations

import argparse
import multiprocessing
import os
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TypeVar

from jarbloom.deeds.desk import reference
from scripts.calibrate import good_news, seeds
from scripts.calibrate.ask import SETTINGS, one_tank
from scripts.calibrate.report import summary, write_into
from scripts.calibrate.worlds import WORLDS

# Bases of the seeds: priors were chosen on the first, the published scores use the second.
TUNING, HELD_BACK = 1000, 11000
T = TypeVar("T")
DOC = Path(__file__).parents[2] / "docs" / "model.md"


def of_each(ask: Callable[[int], T], n: int, workers: int) -> list[T]:
    with multiprocessing.get_context("fork").Pool(workers) as pool:
        return pool.map(ask, range(n), chunksize=4)


def main() -> None:
    parser = argparse.ArgumentParser(prog="calibrate", description=__doc__)
    parser.add_argument("--tanks", type=int, default=300, help="tanks of each world")
    parser.add_argument("--tuning", action="store_true", help="the seeds for choosing priors; writes nothing")
    parser.add_argument("--only", choices=sorted(WORLDS), help="one world only; writes nothing")
    parser.add_argument("--seeds", action="store_true", help="how far ten seeds lie apart, instead; writes nothing")
    parser.add_argument(
        "--good-news", action="store_true", help="what a second clean test does, instead; writes nothing"
    )
    parser.add_argument("--members", type=int, default=SETTINGS.members)
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    given = parser.parse_args()
    for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
        os.environ.setdefault(name, "1")
    by = {"reference": reference(), "settings": replace(SETTINGS, members=given.members)}
    if given.seeds:
        print(seeds.table(of_each(partial(seeds.apart, base=HELD_BACK, **by), given.tanks, given.workers)))
        return
    if given.good_news:
        print(good_news.told(of_each(partial(good_news.moved, base=HELD_BACK, **by), given.tanks, given.workers)))
        return
    results, begun = {}, time.perf_counter()
    for world in [given.only] if given.only else WORLDS:
        base = TUNING if given.tuning else HELD_BACK
        results[world] = of_each(partial(one_tank, WORLDS[world], base, **by), given.tanks, given.workers)
    text = summary(results)
    print(text)
    print(f"took {time.perf_counter() - begun:.0f} s")
    if not given.tuning and not given.only:
        write_into(DOC, text)


if __name__ == "__main__":
    main()
