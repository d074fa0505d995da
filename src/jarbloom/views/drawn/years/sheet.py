"""The record as strips on one time axis, with who lived there and what was done."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from jarbloom.core.history.record import Record
from jarbloom.core.model.species import Species
from jarbloom.units import Units
from jarbloom.views.drawn.axes import Tick
from jarbloom.views.drawn.standing import Drawings
from jarbloom.views.drawn.years.lanes import Lane, lanes
from jarbloom.views.drawn.years.layout import ROW_PX, Layout, Stretch, date_words, ticks
from jarbloom.views.drawn.years.stays import Bar, bars
from jarbloom.views.drawn.years.strips import Strip, strip


@dataclass(frozen=True)
class Sheet:
    """One picture of the record."""

    layout: Layout
    height: float
    strips: tuple[Strip, ...]
    bars: tuple[Bar, ...]
    bars_top: float
    bars_small: str
    lanes: tuple[Lane, ...]
    x_ticks: tuple[Tick, ...]
    foot: float
    title: str
    description: str


def sheet(r: Record, layout: Layout, species: Mapping[str, Species], units: Units) -> Sheet:
    x = Stretch(r.start.timestamp(), r.end.timestamp(), layout.left, layout.right)
    strips = _drawn.once(r.reads, ("strips", layout), lambda: _strips(r, x, layout))
    y = strips[-1].base + 13 if strips else 18.0
    bars_top = y + (18 if layout.narrow else 2)
    stays = bars(r, x, bars_top, layout, species)
    lanes_top = bars_top + ROW_PX * len(stays) + (8 if stays else 0)
    below = lanes(r.marks, x, lanes_top, layout, species, units)
    foot = lanes_top + ROW_PX * len(below) + 4
    told = ", ".join(c.quantity.label for curves in r.strips for c in curves) or "nothing chosen"
    return Sheet(
        layout=layout,
        height=foot + 22,
        strips=strips,
        bars=stays,
        bars_top=bars_top,
        bars_small=f"{sum(row.count_on(r.window.last) for row in r.rows)} at the end",
        lanes=below,
        x_ticks=_drawn.once(r.reads, ("ticks", layout), lambda: tuple(ticks(r, x, layout))),
        foot=foot,
        title=f"Record of {r.tank.name}, {date_words(r.window.first)} to {date_words(r.window.last)}",
        description=f"{told}; the same figures stand in the table below.",
    )


_drawn = Drawings()  # what was read stands while notes are added


def _strips(r: Record, x: Stretch, layout: Layout) -> tuple[Strip, ...]:
    found: list[Strip] = []
    y, column, over = 18.0, 1, r.over is not None
    for curves in r.strips:
        how = (curves, x, y, column, over)
        draw = partial(strip, curves, x, y, layout, column, over)
        found.append(_drawn.latest(curves[0], layout, how, draw))
        y, column = found[-1].base + 13, column + len(curves) * (2 if over else 1)
    return tuple(found)
