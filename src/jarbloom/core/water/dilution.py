"""Water changes: what is left after one, after several, and how many it takes."""

from __future__ import annotations

import math


def after_change(before: float, fraction: float, source: float = 0.0) -> float:
    """Concentration after changing `fraction` (0 to 1) with water of `source` content: (1-f)c + f s.

    >>> after_change(2.0, 0.5, 0.0)
    1.0
    """
    return (1 - fraction) * before + fraction * source


def after_drip(before: float, exchanged_volumes: float, source: float = 0.0) -> float:
    """Concentration after continuous exchange of so many tank volumes: s + (c - s) exp(-V/V)."""
    return source + (before - source) * math.exp(-exchanged_volumes)


def fraction_to_reach(before: float, target: float, source: float = 0.0) -> float:
    """Share of the water to change at once to get from `before` to `target`; inf when the source is above it."""
    if before <= target:
        return 0.0
    if source >= target:
        return math.inf
    return (before - target) / (before - source)


def steady_peak(production_per_change: float, fraction: float, source: float = 0.0) -> float:
    """Peak just before a change in a long rhythm of equal changes: source + p/f (geometric series)."""
    return source + production_per_change / fraction
