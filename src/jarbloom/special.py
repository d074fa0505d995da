"""Special functions of scipy, loaded at the first call: that takes longer than a page without a forecast."""

from __future__ import annotations

from functools import cache
from typing import Any


@cache
def _scipy() -> Any:
    import scipy.special

    return scipy.special


def ndtr(x: Any) -> Any:
    """The cumulative standard normal distribution."""
    return _scipy().ndtr(x)


def expit(x: Any) -> Any:
    """The logistic function, 1 / (1 + exp(-x))."""
    return _scipy().expit(x)


def betaincinv(a: float, b: float, share: float) -> float:
    """The value below which `share` of a Beta(a, b) lies."""
    return float(_scipy().betaincinv(a, b, share))
