"""How far the answers of ten seeds lie apart: the same tank asked again with other members."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date
from statistics import mean, pstdev

import numpy as np

from jarbloom.core.bloom.capacity import AT_BEST
from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.bloom.forecast import Forecast, forecast
from jarbloom.core.model.reference import Reference
from scripts.calibrate.ask import BATCH_DAYS, HORIZON, a_batch, film_or_patch, heard_by
from scripts.calibrate.keeper import NOON, at

SEEDS = 10
OPEN = (0.02, 0.98)  # a P beyond them is as good as told


@dataclass(frozen=True)
class Apart:
    """Of one log. `sure` and `p50`: standard deviation over the seeds as a share of their own interval (10 to 90 % of
    what the bloom carries today; of the date), None where there is no interval; `p`: of P itself; `p_mean`."""

    sure: float | None
    p50: float | None
    p: float
    p_mean: float


def apart(seed: int, base: int, reference: Reference, settings: Forecasting) -> Apart:
    """One held-back tank of the film or of the patch world, on one of the days on which batches are asked about."""
    day = int(np.random.default_rng((base, seed, 5)).choice(BATCH_DAYS))
    lived = film_or_patch(seed, base, reference, day + 1)
    batch = a_batch(lived.tank, day, np.random.default_rng((base, seed, 6)), reference)
    log, as_of = heard_by(lived, day), at(day + NOON)
    made = [forecast(lived.tank, log, as_of, reference, [batch], replace(settings, seed=k)) for k in range(SEEDS)]
    p = [f.batches[0].p_safe_today or 0.0 for f in made]
    return Apart(
        _share([f.sure for f in made], [f.band("capacity", AT_BEST) - f.sure for f in made]),
        _share([_days(f, f.readiness.p50) for f in made], [_width(f) for f in made]),
        pstdev(p), mean(p),
    )  # fmt: skip


def _days(f: Forecast, on: date | None) -> float:
    """Days from now; one more than the horizon where it does not come in time."""
    return HORIZON + 1.0 if on is None else float((on - f.as_of.date()).days)


def _width(f: Forecast) -> float:
    return _days(f, f.readiness.p90) - _days(f, f.readiness.p10)


def _share(found: list[float], widths: list[float]) -> float | None:
    width = mean(widths)
    return pstdev(found) / width if width > 0 else None


def table(found: list[Apart]) -> str:
    told = [a.p for a in found if OPEN[0] < a.p_mean < OPEN[1]]
    rows = [
        ("what is sure, of its interval", [a.sure for a in found if a.sure is not None]),
        ("middle date, of its interval", [a.p50 for a in found if a.p50 is not None]),
        (f"P of a batch, {len(told)} logs on which it is open", told),
    ]
    lines = [
        "| spread of ten seeds (standard deviation) | middle log | nine in ten below | largest |",
        "|---|---|---|---|",
    ]
    for name, values in rows:
        lines.append(f"| {name} | {np.median(values):.2f} | {np.quantile(values, 0.9):.2f} | {max(values):.2f} |")
    return "\n".join(lines)
