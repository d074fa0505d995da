"""Scores: error, CRPS, coverage by randomised probability integral transform, rank histograms, reliability."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.stats import chisquare

Array = NDArray[np.float64]


def crps(members: Array, truth: float) -> float:
    """Continuous ranked probability score of an ensemble, in the unit of the members (Gneiting & Raftery 2007, eq. 21).

    >>> crps(np.array([3.0]), 5.0)
    2.0
    """
    x = np.sort(np.asarray(members, dtype=float))
    n = len(x)
    spread = 2 * float((x * (2 * np.arange(1, n + 1) - n - 1)).sum()) / n**2
    return float(np.abs(x - truth).mean()) - 0.5 * spread


def pit(members: Array, truth: float, rng: np.random.Generator) -> float:
    """Randomised probability integral transform: uniform for a calibrated forecast even with ties."""
    below, same = float(np.mean(members < truth)), float(np.mean(members == truth))
    return below + same * float(rng.random())


def width(members: Array, share: float) -> float:
    low, high = np.quantile(members, [(1 - share) / 2, (1 + share) / 2])
    return float(high - low)


@dataclass(frozen=True)
class Score:
    n: int
    median_error: float
    mean_error: float
    bias: float
    crps: float
    cover: tuple[float, float, float]  # of the 50, 80 and 95 % intervals
    width_80: float
    fixed_error: float
    fixed_crps: float
    drawn_error: float
    drawn_crps: float
    crps_span: tuple[float, float]  # 90 % of a bootstrap over tanks


def score(answers: Sequence, seed: int = 0) -> Score:
    rng = np.random.default_rng(seed)
    medians = np.array([np.median(a.members) for a in answers])
    truth = np.array([a.truth for a in answers], dtype=float)
    p = np.array([pit(a.members, a.truth, rng) for a in answers])
    error = medians - truth
    fixed = np.abs(np.array([a.fixed for a in answers]) - truth)
    drawn = np.abs(np.array([a.extrapolated for a in answers]) - truth)
    each = [crps(a.members, a.truth) for a in answers]
    return Score(
        len(answers),
        float(np.median(np.abs(error))),
        float(np.mean(np.abs(error))),
        float(np.median(error)),
        float(np.mean(each)),
        tuple(float(np.mean(np.abs(p - 0.5) <= s / 2)) for s in (0.5, 0.8, 0.95)),
        float(np.median([width(a.members, 0.8) for a in answers])),
        float(np.median(fixed)),
        float(np.mean(fixed)),
        float(np.median(drawn)),
        float(np.mean(drawn)),
        tuple(interval(each, np.mean)),
    )


def flat(ranks: Sequence[float], bins: int = 10) -> tuple[NDArray[np.int64], float]:
    """Histogram of ranks in 0 to 1 and the chi-square p-value of being flat (Talts et al. 2018)."""
    counts, _ = np.histogram(ranks, bins=bins, range=(0, 1))
    return counts, float(chisquare(counts).pvalue)


@dataclass(frozen=True)
class Bin:
    low: float
    high: float
    n: int
    said: float
    came: float


EDGES = (0.0, 0.2, 0.4, 0.6, 0.8, 1.0)


def reliability(p: Sequence[float], came: Sequence[bool]) -> list[Bin]:
    """What was said against the share that came, by five bins of what was said."""
    p_, came_ = np.asarray(p), np.asarray(came, dtype=float)
    found = []
    for low, high in zip(EDGES, EDGES[1:], strict=False):
        inside = (p_ >= low) & ((p_ < high) | (high == EDGES[-1]))
        means = (float(x[inside].mean()) if inside.any() else 0.0 for x in (p_, came_))
        found.append(Bin(low, high, int(inside.sum()), *means))
    return found


def brier(p: Sequence[float], came: Sequence[bool]) -> float:
    return float(np.mean((np.asarray(p) - np.asarray(came, dtype=float)) ** 2))


def interval(values: Sequence[float], of: Callable[[Array], float], share: float = 0.9, draws: int = 1000) -> Array:
    """Bootstrap interval of a statistic over tanks (Efron 1979): (low, high)."""
    x, rng = np.asarray(values, dtype=float), np.random.default_rng(0)
    drawn = [of(x[rng.integers(0, len(x), len(x))]) for _ in range(draws)]
    return np.quantile(drawn, [(1 - share) / 2, (1 + share) / 2])
