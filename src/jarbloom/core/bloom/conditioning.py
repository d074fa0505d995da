"""Conditioning the ensemble on readings: tempered sequential Monte Carlo (Del Moral, Doucet & Jasra 2006).

Readings are intervals with misread odds, so the likelihood of one is the probability of its colour step.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.parameters import Parameters
from jarbloom.core.bloom.stepper import Trajectory
from jarbloom.core.model.kit import Reading
from jarbloom.special import ndtr

Array = NDArray[np.float64]
# Reading error on the root of mg N/L, whatever form the card counts in: a kit told in N or in the ion is the same kit
ROOT_SD_0, ROOT_SD_SLOPE = {"ammonia": 0.06, "nitrite": 0.06, "nitrate": 0.03}, 0.07  # prototyped, judgement
# Share of readings that go wrong in some other way, and how far off they then are on the root scale: none can wreck the
# forecast, but the tail of a Cauchy still pulls, so that members know in which direction they are wrong (judgement)
ASTRAY, ASTRAY_WIDTH = 0.06, 0.35
LEAST_ASTRAY = 1e-9  # a logarithm is taken of it
ESS_SHARE = 0.4
SHRINK = 0.15
MOVES, LAST_MOVES = 2, 3  # of every member at a temperature, and at least at the last
MOST_MOVES, MOVED = 8, 1.0  # at the last it goes on until each has moved about once, but never longer than this
GAINS = {"ammonia": "gain_am", "nitrite": "gain_ni", "nitrate": "gain_na"}
SPECIES_OF = {"ammonia": "tan", "nitrite": "no2", "nitrate": "no3"}


@dataclass(frozen=True)
class Sight:
    """A nitrogen reading on the grid: the step before which it was taken, and its age at the forecast's date."""

    step: int
    reading: Reading
    age_days: float
    entry_id: int = 0


class Kits:
    """Readings as columns (n_reading, 1) in mg N/L, so that all are compared with all members at once."""

    def __init__(self, readings: Sequence[Reading]) -> None:
        def column(values: Sequence[float]) -> Array:
            return np.array(values, dtype=float).reshape(-1, 1)

        def edge(values: Sequence[float | None]) -> Array:
            return column([np.inf if v is None else np.sqrt(v) for v in values])

        self.sd_0 = column([ROOT_SD_0[r.quantity] for r in readings])
        # An end of the scale is open: nothing lies beyond it, and nothing can be misread into it from there.
        self.low = np.where(column([r.low for r in readings]) <= 0, -np.inf, edge([r.low for r in readings]))
        self.high = edge([r.high for r in readings])
        outer = column([r.outer_low for r in readings])
        self.outer_low = np.where(outer <= 0, -np.inf, edge([r.outer_low for r in readings]))
        self.outer_high = edge([r.outer_high for r in readings])
        m = column([r.misread for r in readings])
        # Half of the misread go each way; at an end of the scale there is only one way to go.
        self.kept = 1 - m + 0.5 * m * np.isinf(self.low) + 0.5 * m * np.isinf(self.high)
        self.half = 0.5 * m

    def probability(self, concentration: Array, gain: Array | float = 1.0) -> Array:
        """P(reading | concentration), arrays (n_reading, n_member); concentrations in mg N/L."""
        x = np.sqrt(np.maximum(concentration, 0.0) * gain)
        sd = self.sd_0 + ROOT_SD_SLOPE * x
        high, low = ndtr((self.high - x) / sd), ndtr((self.low - x) / sd)
        beside = ndtr((self.outer_high - x) / sd) - high + low - ndtr((self.outer_low - x) / sd)
        astray = np.arctan((self.high - x) / ASTRAY_WIDTH) - np.arctan((self.low - x) / ASTRAY_WIDTH)
        usual = self.kept * (high - low) + self.half * np.maximum(beside, 0.0)
        return (1 - ASTRAY) * usual + (ASTRAY / np.pi) * np.maximum(astray, LEAST_ASTRAY)


def reading_probability(reading: Reading, concentration: Array, gain: Array | float = 1.0) -> Array:
    """P(reading | concentration in mg N/L), arrays (n_member,)."""
    return Kits([reading]).probability(np.asarray(concentration, dtype=float)[None], gain)[0]


class Evidence:
    """All readings of a record against a trajectory that was recorded at their steps."""

    def __init__(self, sights: Sequence[Sight]) -> None:
        self.sights = tuple(sights)
        self.steps = np.array(sorted({s.step for s in sights}), dtype=np.int64)
        self.kits = Kits([s.reading for s in sights])

    def probabilities(self, path: Trajectory, par: Parameters) -> Array:
        """P of each reading for each member, (n_reading, n_member)."""
        rows = np.searchsorted(path.at, [s.step for s in self.sights])
        seen, gain = np.empty((2, len(rows), len(par.mu_a)))
        for i, (row, sight) in enumerate(zip(rows, self.sights, strict=True)):
            seen[i] = getattr(path, SPECIES_OF[sight.reading.quantity])[row]
            gain[i] = getattr(par, GAINS[sight.reading.quantity])
        return self.kits.probability(seen, gain)

    def log_likelihood(self, path: Trajectory, par: Parameters) -> Array:
        """Sum over readings, (n_member,)."""
        return np.log(self.probabilities(path, par)).sum(axis=0)


@dataclass(frozen=True)
class Posterior:
    """Equally weighted members: z (n_member, n_columns), and how the sampler got there."""

    z: Array
    stages: int
    ess_least: float
    accepted: float


def _next_beta(log_l: Array, beta: float) -> float:
    def ess(b: float) -> float:
        w = np.exp((b - beta) * (log_l - log_l.max()))
        return float(w.sum() ** 2 / (w * w).sum())

    goal = ESS_SHARE * len(log_l)
    if ess(1.0) >= goal:
        return 1.0
    low, high = beta, 1.0
    for _ in range(30):
        mid = 0.5 * (low + high)
        low, high = (mid, high) if ess(mid) >= goal else (low, mid)
    return max(low, beta + 1e-4)


def _resample(weights: Array, rng: np.random.Generator) -> NDArray[np.int64]:
    """Systematic resampling (Kitagawa 1996)."""
    n = len(weights)
    points = (rng.random() + np.arange(n)) / n
    return np.minimum(np.searchsorted(np.cumsum(weights / weights.sum()), points), n - 1)


def condition(
    log_l_of: Callable[[Array], Array],
    n_member: int,
    n_column: int,
    rng: np.random.Generator,
    most_moves: int = MOST_MOVES,
) -> Posterior:
    """Draw members from the posterior. `log_l_of` maps z (n_member, n_columns) to log-likelihoods.

    Tempers so that the effective sample size stays at ESS_SHARE, then moves members by a preconditioned
    Crank-Nicolson step on the fitted Gaussian (Cotter et al. 2013).
    """
    z = rng.standard_normal((n_member, n_column))
    log_l = log_l_of(z)
    beta, stages, accepted, ess_least = 0.0, 0, [], float(n_member)
    while beta < 1.0:
        fresh = _next_beta(log_l, beta)
        w = np.exp((fresh - beta) * (log_l - log_l.max()))
        ess_least = min(ess_least, float(w.sum() ** 2 / (w * w).sum()))
        pick = _resample(w, rng)
        z, log_l, beta, stages = z[pick], log_l[pick], fresh, stages + 1
        mean = z.mean(axis=0)
        cov = np.cov(z.T)
        cov = (1 - SHRINK) * cov + SHRINK * np.diag(np.diag(cov)) + 1e-6 * np.eye(n_column)
        chol = np.linalg.cholesky(cov)
        inverse_chol = np.linalg.inv(chol)

        def gauss(v: Array, mean: Array = mean, inverse_chol: Array = inverse_chol) -> Array:
            return -0.5 * np.square((v - mean) @ inverse_chol.T).sum(axis=1)

        moved_so_far = 0.0
        for move in range(most_moves if beta >= 1.0 else min(MOVES, most_moves)):
            if move >= LAST_MOVES and moved_so_far >= MOVED:
                break
            r = 0.7 if move % 2 == 0 else 0.3
            xi = rng.standard_normal(z.shape) @ chol.T
            moved = mean + np.sqrt(1 - r * r) * (z - mean) + r * xi
            log_moved = log_l_of(moved)
            ratio = beta * (log_moved - log_l) - 0.5 * ((moved**2).sum(1) - (z**2).sum(1)) - (gauss(moved) - gauss(z))
            take = np.log(rng.random(n_member)) < ratio
            z = np.where(take[:, None], moved, z)
            log_l = np.where(take, log_moved, log_l)
            moved_so_far += float(take.mean())
            accepted.append(float(take.mean()))
    return Posterior(z, stages, ess_least, float(np.mean(accepted)) if accepted else 1.0)
