"""Whether good evidence can lower what is sure: the second clean test in a row, heard or not yet heard."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import timedelta
from itertools import pairwise
from statistics import mean, pstdev

import numpy as np

from jarbloom.core.bloom.capacity import AT_BEST
from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.journal.clean import is_clean
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from scripts.calibrate.ask import film_or_patch

LIVED_DAYS = 60
IN_A_ROW = timedelta(days=4)
AFTER = timedelta(minutes=30)
SEEDS = (1, 2, 3)
MUCH = 0.1  # of the interval from what is sure to what is at best


@dataclass(frozen=True)
class Moved:
    """By how much what is sure moved with the test, of its interval; the mean and the spread over the seeds."""

    by: float
    noise: float


def moved(seed: int, base: int, reference: Reference, settings: Forecasting) -> Moved | None:
    """Of one held-back tank of the film or of the patch world; None where two tests in a row were never clean."""
    lived = film_or_patch(seed, base, reference, LIVED_DAYS)
    tank, log = lived.tank, Log.of(lived.log)
    second = _second_clean(tank, log)
    if second is None:
        return None
    as_of = second.at + AFTER
    heard = [e for e in log if e.at <= as_of]
    found = []
    for k in SEEDS:
        own = replace(settings, seed=k)
        unheard = forecast(tank, [e for e in heard if e is not second], as_of, reference, (), own)
        width = unheard.band("capacity", AT_BEST) - unheard.sure
        found.append((forecast(tank, heard, as_of, reference, (), own).sure - unheard.sure) / max(width, 1e-9))
    return Moved(mean(found), pstdev(found))


def _second_clean(tank: Tank, log: Log) -> Entry | None:
    for a, b in pairwise(log.kinds(Tested)):
        if b.at - a.at < IN_A_ROW and is_clean(a.readings, tank.kit) and is_clean(b.readings, tank.kit):
            return b
    return None


def told(found: list[Moved | None]) -> str:
    by = sorted((m for m in found if m is not None), key=lambda m: m.by)
    lowered = [m for m in by if m.by < -MUCH]
    words = ", ".join(f"{m.by:+.2f} (between seeds {m.noise:.2f})" for m in by[:3])
    middle = float(np.median([m.by for m in by]))
    return (
        f"The second clean test in a row moves what is sure by {middle:+.2f} of its interval in the middle of "
        f"{len(by)} tanks, down by more than a tenth in {len(lowered)}; the lowest: {words}."
    )
