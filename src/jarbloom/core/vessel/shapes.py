"""Shapes of tanks seen from above: upright prisms over one outline. x runs along the front, y from front to back."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.model.tank import Tank

Array = NDArray[np.float64]
ARC = 240  # points on a half circle: the polygon's area is within 0.01 % of the circle's


@dataclass(frozen=True)
class Shape:
    """`needs` names the sizes to give; `sizes` says how they are measured."""

    key: str
    name: str
    needs: tuple[str, ...]
    sizes: str


SHAPES: Mapping[str, Shape] = {
    s.key: s
    for s in (
        Shape("box", "box", ("length_cm", "width_cm", "height_cm"), "length, width front to back, height"),
        Shape("bow_front", "bow front", ("length_cm", "width_cm", "height_cm", "bow_cm"),
              "length, width at the sides, height, and how far the middle bows out beyond the sides"),
        Shape("cylinder", "cylinder", ("length_cm", "height_cm"), "length is the diameter"),
        Shape("half_cylinder", "half-cylinder, flat back", ("length_cm", "height_cm"),
              "length is the diameter along the back"),
        Shape("hexagon", "hexagon", ("length_cm", "height_cm"), "length is from corner to corner"),
        Shape("quarter_round", "corner, quarter-round", ("length_cm", "height_cm"),
              "length is along one of the two straight walls"),
    )
}  # fmt: skip


def _arc(x: float, y: float, r: float, begin: float, end: float, points: int = ARC) -> Array:
    angle = np.linspace(begin, end, points)
    return np.column_stack([x + r * np.cos(angle), y + r * np.sin(angle)])


def _box(length: float, width: float, _bow: float, t: float) -> Array:
    return np.array([[t, t], [length - t, t], [length - t, width - t], [t, width - t]], dtype=float)


def _cylinder(length: float, _width: float, _bow: float, t: float) -> Array:
    r = length / 2
    return _arc(r, r, r - t, 0.0, 2 * np.pi, 2 * ARC)[:-1]


def _half_cylinder(length: float, _width: float, _bow: float, t: float) -> Array:
    """The curved wall in front, the flat one at the back; the inner curve ends where the back glass begins."""
    r = length / 2
    cut = np.arcsin(t / (r - t)) if t else 0.0
    return _arc(r, r, r - t, np.pi + cut, 2 * np.pi - cut)


def _bow_front(length: float, width: float, bow: float, t: float) -> Array:
    """A box with a circular segment in front; the inner arc is concentric with the outer one."""
    r = (length * length / 4 + bow * bow) / (2 * bow)
    x = np.linspace(t, length - t, ARC)
    y = r - np.sqrt(np.maximum((r - t) ** 2 - (x - length / 2) ** 2, 0.0))
    back = width + bow - t
    return np.vstack([np.column_stack([x, y]), [[length - t, back], [t, back]]])


def _hexagon(length: float, _width: float, _bow: float, t: float) -> Array:
    r, half = length / 2, np.sqrt(3) * length / 4
    angle = np.arange(6) * np.pi / 3
    inner = r - t / np.cos(np.pi / 6)
    return np.column_stack([r + inner * np.cos(angle), half + inner * np.sin(angle)])


def _quarter_round(length: float, _width: float, _bow: float, t: float) -> Array:
    """The corner is at the back on the left; the curve bulges to the front on the right."""
    r = length - t
    cut = np.arcsin(t / r) if t else 0.0
    return np.vstack([[[t, length - t]], _arc(0.0, length, r, -np.pi / 2 + cut, -cut)])


_OUTLINE: Mapping[str, Callable[[float, float, float, float], Array]] = {
    "box": _box, "bow_front": _bow_front, "cylinder": _cylinder, "half_cylinder": _half_cylinder,
    "hexagon": _hexagon, "quarter_round": _quarter_round,
}  # fmt: skip


@dataclass(frozen=True)
class GroundPlan:
    """An outline with what follows from it: cm2 and cm. `depth` and `length` are its extents."""

    points: tuple[tuple[float, float], ...]
    area_cm2: float
    perimeter_cm: float
    centre_y_cm: float
    front_cm: float
    back_cm: float


@lru_cache(maxsize=512)
def _plan(shape: str, length: float, width: float, bow: float, inset: float) -> GroundPlan:
    points = _OUTLINE[shape](length, width, bow, inset)
    after = np.roll(points, -1, axis=0)
    cross = points[:, 0] * after[:, 1] - after[:, 0] * points[:, 1]
    area = cross.sum() / 2
    centre_y = ((points[:, 1] + after[:, 1]) * cross).sum() / (6 * area)
    perimeter = np.hypot(*(after - points).T).sum()
    return GroundPlan(
        tuple((float(x), float(y)) for x, y in points),
        abs(float(area)),
        float(perimeter),
        float(centre_y),
        float(points[:, 1].min()),
        float(points[:, 1].max()),
    )


def has_shape(tank: Tank) -> bool:
    """All the sizes that this shape needs are known."""
    return all(getattr(tank, name) is not None for name in SHAPES[tank.shape].needs)


def glass_cm(tank: Tank) -> float:
    return tank.glass_mm / 10


def _sizes(tank: Tank) -> tuple[str, float, float, float]:
    return tank.shape, tank.length_cm or 0.0, tank.width_cm or 0.0, tank.bow_cm or 0.0


def inner(tank: Tank) -> GroundPlan:
    """The outline of the water: inside the glass when the sizes were taken outside."""
    return _plan(*_sizes(tank), glass_cm(tank) if tank.outside else 0.0)


def outer(tank: Tank) -> GroundPlan:
    """The outline of the glass: what stands on the floor."""
    return _plan(*_sizes(tank), 0.0 if tank.outside else -glass_cm(tank))


def inner_height_cm(tank: Tank) -> float:
    assert tank.height_cm is not None
    return tank.height_cm - (glass_cm(tank) if tank.outside else 0.0)
