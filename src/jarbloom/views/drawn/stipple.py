"""Stipple for what is not ruled out: it thins towards where it ends, whole ground is what is borne out."""

from __future__ import annotations

import random

from jarbloom.views.drawn.axes import r1

BAR_H = 12.0  # px


def open_dots(start: float, end: float, key: str) -> str:
    """Stipple from `start` to `end` px, thinner towards the end: how far a cause is not ruled out."""
    rng = random.Random(key)  # the same at each visit
    n = round((end - start) * 1.1)
    spots = sorted((start + (end - start) * rng.random() ** 1.7, 3 + (BAR_H - 3) * rng.random()) for _ in range(n))
    dots = [f"M{r1(x)} {r1(y)}h0" for x, y in spots]
    return "".join(dots)
