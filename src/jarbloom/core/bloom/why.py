"""Why the range is what it is: how much of the spread of the readiness date goes with each unknown."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.bloom.parameters import BLOCK_DAYS

# What a keeper would call the unknowns.
WORDS: Mapping[str, str] = {
    "b": "how much of the nitrite half of the bloom there is today",
    "a": "how much of the ammonia half of the bloom there is today",
    "mu_b": "how fast the nitrite half grows",
    "mu_a": "how fast the ammonia half grows",
    "k_b": "how well the nitrite half works in nearly clean water",
    "k_a": "how well the ammonia half works in nearly clean water",
    "diffuse": "how well water reaches the inside of the films",
    "transfer": "how the model carries over to a real filter",
    "inputs": "how much food and waste really goes in",
    "plants": "how much the plants take",
    "ki_n": "how much the nitrite in the water slows its own removal",
    "ki_b": "how much free ammonia slows the nitrite half",
    "decay": "how fast a hungry bloom shrinks",
    "ph_low": "how the bloom bears a low pH",
    "ahead": "weeks to come that nobody can know",
}
LEAST = 0.05


def ranks(x: NDArray[np.generic]) -> NDArray[np.float64]:
    """Ranks from 1 on, equal values sharing the mean of theirs."""
    _, place, count = np.unique(x, return_inverse=True, return_counts=True)
    last = np.cumsum(count)
    return (last - 0.5 * (count - 1))[place]


@dataclass(frozen=True)
class Unknown:
    """An unknown and the share of the spread that goes with it (squared rank correlation, 0 to 1)."""

    name: str
    share: float

    @property
    def words(self) -> str:
        return WORDS[self.name]


def unknowns(ensemble: Ensemble, first: NDArray[np.int64], most: int = 3) -> tuple[Unknown, ...]:
    """The unknowns that go with most of the spread of `first` (days to readiness, (n_member,)), largest first."""
    if np.ptp(first) == 0:
        return ()
    end, par = ensemble.past.end, ensemble.par
    now = int(len(ensemble.noons) / BLOCK_DAYS)
    columns = {"a": end.a, "b": end.b} | {n: getattr(par, n) for n in WORDS if n in par.values}
    columns["ahead"] = np.log(par.noise_b[now + 1 : now + 3]).sum(axis=0)
    days = ranks(first)
    ranked = {name: ranks(x) for name, x in columns.items() if np.ptp(x)}
    found = [Unknown(name, float(np.corrcoef(x, days)[0, 1] ** 2)) for name, x in ranked.items()]
    return tuple(sorted((u for u in found if u.share >= LEAST), key=lambda u: -u.share)[:most])
