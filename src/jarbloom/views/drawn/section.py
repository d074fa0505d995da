"""Cross-sections of tanks to scale: glass, water line, bed, filter, heater, and animals in their zones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jarbloom.core.animals.growth import length_on
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.shapes import has_shape
from jarbloom.core.vessel.volume import net_l
from jarbloom.units import INCH_CM, Units
from jarbloom.views.drawn.axes import LETTER, Tick, r1
from jarbloom.views.drawn.figures import Figure, figure_of

ZONES = {"top": (0.06, 0.30), "middle": (0.32, 0.72), "bottom": (0.93, 0.99), "glass": (0.25, 0.95),
         "rock": (0.72, 0.95), "sand": (0.95, 1.0), "open": (0.2, 0.6), "land": (0.0, 0.04)}  # fmt: skip
MOST_DRAWN = 40


@dataclass(frozen=True)
class Drawn:
    """One animal: where its middle is, and its figure."""

    x: float
    y: float
    figure: Figure
    planned: bool = False


@dataclass(frozen=True)
class Section:
    """Everything in px; y grows downwards; `known` is False when only the litres are known."""

    x: float
    width: float
    height: float
    glass_top: float
    water_top: float
    bed_top: float
    bottom: float
    filled: bool
    known: bool
    animals: tuple[Drawn, ...]
    words: str


def section(
    tank: Tank,
    living: Sequence[Animals],
    reference: Reference,
    px_per_cm: float,
    bottom: float,
    x: float = 0.0,
    planned: Sequence[Animals] = (),
) -> Section:
    """A tank standing on `bottom`, to scale; who is planned is drawn too, marked as such."""
    if has_shape(tank):
        length, height, water = tank.length_cm, tank.height_cm, tank.height_cm - tank.waterline_cm  # type: ignore
    else:
        side = (net_l(tank) * 1000) ** (1 / 3)
        length, height, water = side * 1.25, side, side * 0.92
    assert length is not None and height is not None
    width, glass_top = r1(length * px_per_cm), r1(bottom - height * px_per_cm)
    water_top, bed_top = r1(bottom - water * px_per_cm), r1(bottom - tank.substrate_cm * px_per_cm)
    words = "" if living or planned else (_empty(width) if tank.filled else "still dry")
    everybody = [*((a, False) for a in living), *((a, True) for a in planned)]
    drawn = _animals(tank, everybody, reference, px_per_cm, (x + 10, x + width - 10), (water_top, bed_top))
    return Section(
        x,
        width,
        r1(height * px_per_cm),
        glass_top,
        water_top,
        bed_top,
        bottom,
        tank.filled,
        has_shape(tank),
        drawn,
        words,
    )


BESIDE = 16.0  # px of the heater, which stands in the glass beside the words


def _empty(width: float) -> str:
    whole = "no fish yet, bloom growing"
    return whole if len(whole) * LETTER + BESIDE <= width else "no fish yet"


def _animals(
    tank: Tank,
    groups: Sequence[tuple[Animals, bool]],
    reference: Reference,
    px: float,
    across: tuple[float, float],
    deep: tuple[float, float],
) -> tuple[Drawn, ...]:
    rng = np.random.default_rng(tank.id + 7)
    found: list[Drawn] = []
    for group, planned in groups:
        kind = reference.species.get(group.species, reference.species["unknown"])
        length = max(length_on(group, kind, None) * px, 9.0)
        low, high = ZONES[kind.zone]
        for k in range(min(group.count, MOST_DRAWN - len(found))):
            # spread along the tank with a little disorder, so that none lies on another
            slot = (k + 0.5 + 0.3 * rng.uniform(-1, 1)) / group.count
            figure = figure_of(kind, length, 1 if rng.random() < 0.5 else -1)
            room, half = max(across[1] - across[0] - figure.width, 1), figure.height / 2
            x = across[0] + figure.width / 2 + slot * room
            y = deep[0] + (deep[1] - deep[0]) * rng.uniform(low, high)
            y = min(max(y, deep[0] + half), deep[1] - half) if kind.zone != "land" else y  # nobody within the sand
            found.append(Drawn(r1(x), r1(y), figure, planned))
    return tuple(found)


@dataclass(frozen=True)
class BaseBoard:
    """One tank of the bench in its column; every board has the same scale. The first carries the stick."""

    width: float
    height: float
    section: Section
    stick_x: float
    stick: tuple[Tick, ...]


GAP = 30.0


def _stick(tallest_cm: float, units: Units) -> list[tuple[float, bool]]:
    """Marks of the measuring stick: every 10 cm or 4 in, every second one written."""
    step = 10.0 if units.system == "metric" else 4 * INCH_CM
    return [(k * step, k % 2 == 0) for k in range(int(tallest_cm / step) + 1)]


def boards(
    tanks: Sequence[Tank],
    living: Sequence[Sequence[Animals]],
    reference: Reference,
    units: Units,
    width: float = 1200,
    height: float = 184,
) -> tuple[BaseBoard, ...]:
    """All tanks to one scale, so that they stand side by side as they do in the house."""
    columns = min(max(len(tanks), 2), 4)
    column = (width - GAP * (columns - 1)) / columns
    flat = [section(t, (), reference, 1.0, 0.0) for t in tanks]
    longest = max((s.width for s in flat), default=60.0)
    tallest = max((s.height for s in flat), default=30.0)
    scale = min((column - 52) / longest, (height - 14) / tallest, 5.0)
    height = r1(min(height, tallest * scale + 14))
    ticks = tuple(
        Tick(r1(height - 4 - cm * scale), units.text(cm, "length") if strong else "", strong)
        for cm, strong in _stick(tallest, units)
    )
    return tuple(
        BaseBoard(
            r1(column),
            height,
            section(t, animals, reference, scale, height - 4, 2.0),
            r1(column - 40),
            ticks if k == 0 else (),
        )
        for k, (t, animals) in enumerate(zip(tanks, living, strict=True))
    )
