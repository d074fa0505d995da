"""What animals have been exposed to, in words and figures."""

from __future__ import annotations

from jarbloom.core.advice.situation import Situation
from jarbloom.core.setup.exposure import Exposure, ExposureSum
from jarbloom.units import NBSP, figure, percent


def exposure_rows(s: Situation, e: Exposure | None) -> tuple[tuple[str, ...], ...]:
    """(what, mg·h/L likely and at worst, hours over the limit, of the limit)."""
    if e is None:
        return ()
    limits = s.levels.limits
    return (
        _dose_row("un-ionised ammonia", e.nh3, limits.nh3),
        _dose_row("nitrite", e.no2, limits.no2),
    )


def _dose_row(name: str, d: ExposureSum, limit: float) -> tuple[str, str, str, str]:
    return (
        name,
        f"{figure(d.likely_mg_h_l, 2)} (one in ten above {figure(d.worst_mg_h_l, 2)}){NBSP}mg·h/L",
        f"about {d.hours_over:.0f}{NBSP}h above {figure(limit)}{NBSP}mg/L",
        f"{percent(d.of_limit) if d.of_limit < 1 else figure(d.of_limit, 2) + ' times'} of the limit held all the time",
    )


def exposure_words(e: Exposure | None) -> str:
    if e is None:
        return ""
    return (
        f"Concentration times hours over {e.days} days, since {e.since:%-d %b}: hour by hour the higher of the "
        "forecast’s course and of your readings joined by lines. An estimate; nothing here says that it was harmless."
    )
