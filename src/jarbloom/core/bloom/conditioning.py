"""Conditioning the ensemble on readings: tempered sequential Monte Carlo (Del Moral, Doucet & Jasra 2006).

Readings are intervals with misread odds, so the likelihood of one is the probability mass of its colour step.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from jarbloom.core.bloom.kinetics import Trajectory
from jarbloom.core.bloom.parameters import Parameters
from jarbloom.core.model import MG_PER_MG_N, Reading

Array = NDArray[np.float64]
ROOT_SD_0, ROOT_SD_SLOPE = 0.06, 0.07  # reading error on the root scale; prototyped, judgement
FLOOR = 0.05  # share of a reading's mass spread over all steps: no reading can wreck the forecast
HALF_LIFE_DAYS, LEAST_WEIGHT = 21.0, 0.3  # old readings fade, since the model's own errors add up
ESS_SHARE = 0.5
SHRINK = 0.15


@dataclass(frozen=True)
class Sight:
    """A nitrogen reading on the grid: trajectory index and age in days at the forecast's date."""

    index: int
    reading: Reading
    age_days: float
    entry_id: int = 0


def _mass(x: Array, low: float, high: float | None) -> Array:
    """Probability that a kit showing x (root scale) is read within [low, high] (kit units)."""
    sd = ROOT_SD_0 + ROOT_SD_SLOPE * x
    upper = np.ones_like(x) if high is None else ndtr((np.sqrt(high) - x) / sd)
    lower = np.zeros_like(x) if low <= 0 else ndtr((np.sqrt(low) - x) / sd)
    return np.maximum(upper - lower, 0.0)


def reading_probability(reading: Reading, concentration: Array, gain: Array | float = 1.0) -> Array:
    """P(reading | concentration in mg N/L), arrays (n_member,)."""
    per_n = MG_PER_MG_N[reading.form]
    x = np.sqrt(np.maximum(concentration, 0.0) * per_n * gain)
    scale = [
        None if v is None else v * per_n for v in (reading.low, reading.high, reading.outer_low, reading.outer_high)
    ]
    low, high, outer_low, outer_high = scale
    assert low is not None and outer_low is not None
    inside = _mass(x, low, high)
    beside = np.maximum(_mass(x, outer_low, outer_high) - inside, 0.0)
    m = reading.misread
    # Of a neighbour's looks half go each way, so m/2 of the mass beside is misread into this step.
    return (1 - FLOOR) * ((1 - m) * inside + 0.5 * m * beside) + FLOOR / reading.n_steps


def seen_by(reading: Reading, path: Trajectory, index: int) -> Array:
    return {"ammonia": path.tan, "nitrite": path.no2, "nitrate": path.no3}[reading.quantity][index]


def gain_of(reading: Reading, par: Parameters) -> Array | float:
    return {"ammonia": par.gain_am, "nitrite": par.gain_ni}.get(reading.quantity, 1.0)


# Nitrate kits are the coarsest and plants take it up: it only hints.
QUANTITY_WEIGHT = {"ammonia": 1.0, "nitrite": 1.0, "nitrate": 0.3}


def log_likelihood(sights: Sequence[Sight], path: Trajectory, par: Parameters) -> Array:
    """Sum over readings, faded by age; (n_member,)."""
    total = np.zeros(len(par.mu_a))
    for sight in sights:
        fade = max(LEAST_WEIGHT, 0.5 ** (sight.age_days / HALF_LIFE_DAYS))
        p = reading_probability(sight.reading, seen_by(sight.reading, path, sight.index), gain_of(sight.reading, par))
        total += fade * QUANTITY_WEIGHT[sight.reading.quantity] * np.log(p)
    return total


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
    log_l_of: Callable[[Array], Array], n_member: int, n_column: int, rng: np.random.Generator, last_moves: int = 3
) -> Posterior:
    """Draw members from the posterior. `log_l_of` maps z (n_member, n_columns) to log-likelihoods.

    Tempers so that the effective sample size stays at half, then moves members by a preconditioned
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
        inverse = np.linalg.inv(cov)

        def gauss(v: Array, mean: Array = mean, inverse: Array = inverse) -> Array:
            d = v - mean
            return -0.5 * np.einsum("ij,jk,ik->i", d, inverse, d, optimize=True)

        for move in range(last_moves if beta >= 1.0 else 2):
            r = 0.7 if move % 2 == 0 else 0.3
            xi = rng.standard_normal(z.shape) @ chol.T
            moved = mean + np.sqrt(1 - r * r) * (z - mean) + r * xi
            log_moved = log_l_of(moved)
            ratio = beta * (log_moved - log_l) - 0.5 * ((moved**2).sum(1) - (z**2).sum(1)) - (gauss(moved) - gauss(z))
            take = np.log(rng.random(n_member)) < ratio
            z = np.where(take[:, None], moved, z)
            log_l = np.where(take, log_moved, log_l)
            accepted.append(float(take.mean()))
    return Posterior(z, stages, ess_least, float(np.mean(accepted)) if accepted else 1.0)
