"""The strips of the record: one or two quantities each, with what the kit could tell, and an older stretch dashed."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from jarbloom.core.history.drift import Beyond
from jarbloom.core.history.record import Curve, Record
from jarbloom.core.history.series import Series, runs
from jarbloom.units import figure, lasting
from jarbloom.views.drawn.axes import LETTER, Tick, area, line, r1
from jarbloom.views.drawn.years.layout import Layout, Scale, Stretch

STEPPED = ("load", "heads")  # stands until it changes
MOST_MARKS = 130  # more readings than this are a line alone
MOST_OF_LOAD = 2.5  # the load's strip reaches so many times the load


@dataclass(frozen=True)
class Line:
    """One quantity on a strip. `marks`: dots of readings; `bars`: what the kit could tell; `before`: the older stretch;
    `steps`: an area that stands until it changes; `columns`: x, y, width, height of sums."""

    key: str
    name: str
    path: str
    before: str
    marks: tuple[tuple[float, float], ...]
    bars: str
    probe: str
    area: str
    columns: tuple[tuple[float, float, float, float], ...]
    columns_before: tuple[tuple[float, float, float, float], ...]
    label_x: float
    label_y: float
    style: str  # first or second on its strip


@dataclass(frozen=True)
class Wash:
    """A stretch beyond the range of the residents."""

    x: float
    width: float
    y: float
    height: float
    words: str
    label_x: float
    label_y: float


@dataclass(frozen=True)
class Strip:
    """`values`: places of the cursor's figures, one row a quantity; `column`: of the table, from which they come."""

    title: str
    small: str
    top: float
    base: float
    ticks: tuple[Tick, ...]
    ticks_right: tuple[Tick, ...]
    lines: tuple[Line, ...]
    band: tuple[float, float] | None
    edge_y: float | None
    edge_words: str
    washes: tuple[Wash, ...]
    capacity: tuple[str, str, str]
    beyond_words: str  # of a capacity that the strip does not reach
    values: tuple[tuple[int, float], ...]


def strip(curves: Sequence[Curve], x: Stretch, y: float, layout: Layout, column: int, over: bool) -> Strip:
    top = y + layout.above
    base = top + layout.plot
    scales = [_scale(c, base, top) for c in curves]
    if len({c.unit for c in curves}) == 1:  # what is told in one unit is drawn to one scale
        scales = [max(scales, key=lambda s: s.high)] * len(curves)
    main, scale = curves[0], scales[0]
    lines = tuple(
        _line(c, s, x, "second" if k else "first") for k, (c, s) in enumerate(zip(curves, scales, strict=True))
    )
    band = edge = None
    words = ""
    if main.bears is not None and main.bears.high > scale.low:
        if math.isfinite(main.bears.low):
            band = (scale.y(main.bears.high), scale.y(main.bears.low))
        elif main.bears.high < scale.high:
            edge, words = scale.y(main.bears.high), f"aim {figure(main.bears.high)}"
    first, step = (top - 26, 14) if layout.narrow else ((top + base) / 2 + 5 - 8 * (len(curves) - 1), 16)
    values = tuple((column + k * (2 if over else 1), r1(first + step * k)) for k in range(len(curves)))
    return Strip(
        title=_title(curves),
        small=_small(curves),
        top=top,
        base=base,
        ticks=tuple(scale.ticks()),
        ticks_right=tuple(scales[-1].ticks()) if scales[-1] != scale else (),
        lines=lines,
        band=band,
        edge_y=edge,
        edge_words=words,
        washes=tuple(_washes(main.beyond, scale, x)),
        capacity=_capacity(main, scale, x),
        beyond_words=_beyond_words(main, scale),
        values=values,
    )


def in_view(r: Record) -> tuple[tuple[str, str], ...]:
    """(strip, least, median and most of what is in view) of each."""
    return tuple((_title(curves), _view(curves)) for curves in r.strips)


def _title(curves: Sequence[Curve]) -> str:
    return " and ".join(_name(c, first=k == 0) for k, c in enumerate(curves))


def _name(c: Curve, first: bool) -> str:
    label = c.quantity.label
    return label if first or label.isupper() or label == "pH" else label.lower()


def _small(curves: Sequence[Curve]) -> str:
    if len(curves) > 1 and curves[0].unit != curves[1].unit:
        return ", ".join(
            f"{c.quantity.label} {c.unit}".strip() if c.unit else f"{c.quantity.label} left" for c in curves
        )
    c = curves[0]
    if c.sums is not None:
        return f"{c.unit + ' ' if c.unit else ''}a {c.sums.by}"
    if c.bears is not None and math.isfinite(c.bears.low):
        return f"{c.unit + ', ' if c.unit else ''}borne {figure(c.bears.low)} to {figure(c.bears.high)}"
    return c.unit


def _view(curves: Sequence[Curve]) -> str:
    told = []
    for c in curves:
        view = c.view
        name = f"{c.quantity.label} " if len(curves) > 1 else ""
        if c.sums is not None:
            told.append(f"{name}{figure(float(c.sums.totals.sum()))} in all")
        elif view is None:
            told.append(f"{name}not read here")
        elif view.least == view.most:
            told.append(f"{name}{figure(view.middle)} throughout")
        else:
            told.append(f"{name}{figure(view.least)} to {figure(view.most)}, mostly {figure(view.middle)}")
    return "; ".join(told)


def _scale(c: Curve, base: float, top: float) -> Scale:
    if c.sums is not None:
        most = float(
            max(c.sums.totals.max(initial=0.0), c.sums.before.max(initial=0.0) if c.sums.before is not None else 0)
        )
        return Scale(0.0, max(most * 1.1, 1e-3), base, top)
    values = [s.seen for s in (c.series, c.before, c.probe) if s is not None and len(s)]
    values += [c.series.low] if len(c.series) and c.quantity.from_zero else []
    seen = np.concatenate(values) if values else np.array([0.0, 1.0])
    low, high = float(seen.min()), float(seen.max())
    if c.bears is not None and math.isfinite(c.bears.high) and (not math.isfinite(c.bears.low) or high > c.bears.low):
        high = max(high, c.bears.high if c.quantity.key != "nitrate" or high > 0.6 * c.bears.high else high)
        low = min(low, c.bears.low) if math.isfinite(c.bears.low) else low
    if len(c.capacity):  # what is far beyond the load is told in words
        high = min(max(high, float(np.quantile(c.capacity[:, 2], 0.9))), MOST_OF_LOAD * max(high, 1.0))
    if c.quantity.from_zero:
        return Scale(0.0, max(high * 1.15, 1e-3), base, top)
    pad = max(
        0.14 * (high - low), {"ph": 0.2, "temp": 0.6, "salinity": 0.6}.get(c.quantity.key, 0.1 * abs(high) + 1e-3)
    )
    return Scale(low - pad, high + pad, base, top)


def _line(c: Curve, scale: Scale, x: Stretch, style: str) -> Line:
    columns: tuple[tuple[float, float, float, float], ...] = ()
    before_columns = columns
    path = before = bars = probe = filled = ""
    marks: tuple[tuple[float, float], ...] = ()
    label = (x.left, scale.base)
    if c.sums is not None:
        columns = _columns(c.sums.edges, c.sums.totals, scale, x)
        before_columns = () if c.sums.before is None else _columns(c.sums.edges, c.sums.before, scale, x)
    elif c.quantity.key in STEPPED:
        points = _stepped(c.series, scale, x)
        path = line(points)
        filled = path + f"L{points[-1][0]:.1f} {scale.base:.1f}L{points[0][0]:.1f} {scale.base:.1f}Z" if points else ""
        before = line(_stepped(c.before, scale, x)) if c.before is not None else ""
    else:
        path = broken(c.series, c.drawn_pause_s, scale, x)
        before = "" if c.before is None else broken(c.before, c.drawn_pause_s, scale, x)
        inside = c.whole
        if len(inside) <= MOST_MARKS:
            marks = tuple(zip(x.xs(inside.at), scale.ys(inside.seen), strict=True))
            bars = "".join(
                f"M{px} {scale.y(low)}V{scale.y(min(high, scale.high))}"
                for px, low, high in zip(x.xs(inside.at), inside.low, inside.high, strict=True)
                if high - low > 1e-9
            )
        if c.probe is not None and len(c.probe):
            xs = x.xs(c.probe.at)
            for run in runs(c.probe):
                high, low = scale.ys(c.probe.high[run]), scale.ys(c.probe.low[run])
                probe += area(list(zip(xs[run], high, strict=True)), list(zip(xs[run], low, strict=True)))
        if len(inside):
            k = len(inside) // 3
            label = (x.x(float(inside.at[k])), _beside(scale, float(inside.seen[k]), style))
    return Line(
        key=c.quantity.key,
        name=c.quantity.label,
        path=path,
        before=before,
        marks=marks,
        bars=bars,
        probe=probe,
        area=filled,
        columns=columns,
        columns_before=before_columns,
        label_x=label[0],
        label_y=label[1],
        style=style,
    )


def _beside(scale: Scale, value: float, style: str) -> float:
    """Above the line for the second, below it for the first, and within the strip."""
    y = scale.y(value) + (-8 if style == "second" else 17)
    return r1(min(max(y, scale.top + 12), scale.base - 4))


def broken(series: Series, pause_s: float, scale: Scale, x: Stretch) -> str:
    """A line within each stretch that was read, none between."""
    xs, ys = x.xs(series.at), scale.ys(series.seen)
    drawn = (list(zip(xs[run], ys[run], strict=True)) for run in runs(series, pause_s))
    return "".join(line(points) for points in drawn if len(points) > 1)


def _stepped(series: Series | None, scale: Scale, x: Stretch) -> list[tuple[float, float]]:
    """Stands from each point to the next; to the end of the last one that lies in view."""
    if series is None or not len(series):
        return []
    xs, ys = x.xs(series.at), scale.ys(series.seen)
    found = [(xs[0], ys[0])]
    for k in range(1, len(xs)):
        found += [(xs[k], ys[k - 1]), (xs[k], ys[k])]
    return found


def _columns(
    edges: np.ndarray, totals: np.ndarray, scale: Scale, x: Stretch
) -> tuple[tuple[float, float, float, float], ...]:
    xs = x.xs(edges)
    return tuple(
        (r1(a + 0.6), scale.y(float(v)), r1(max(b - a - 1.2, 0.8)), r1(scale.base - scale.y(float(v))))
        for a, b, v in zip(xs, xs[1:], totals, strict=False)
        if v > 0 and b > a
    )


def _washes(found: Iterable[Beyond], scale: Scale, x: Stretch) -> Iterable[Wash]:
    for b in found:
        left, right = x.x(b.first), x.x(b.last)
        edge = scale.y(b.edge)
        y, height = (scale.top, edge - scale.top) if b.over else (edge, scale.base - edge)
        if right - left < 2 or height < 1:
            continue
        words = f"{'over' if b.over else 'under'} {figure(b.edge)} for {lasting(b.days)}"
        room = len(words) * LETTER
        middle = min(max((left + right) / 2, x.left + room / 2), x.right - room / 2)
        yield Wash(left, r1(right - left), y, r1(height), words, r1(middle), r1(edge + 15 if b.over else edge - 5))


def _capacity(c: Curve, scale: Scale, x: Stretch) -> tuple[str, str, str]:
    """Water between sure and load, the likely line, and the best one, as far as the present forecast looks back."""
    if len(c.capacity) < 2:
        return ("", "", "")
    xs = x.xs(c.capacity[:, 0])
    sure, likely, best = (list(zip(xs, scale.ys(c.capacity[:, k]), strict=True)) for k in (1, 2, 3))
    floor = [(px, scale.base) for px in xs]
    return (area(sure, floor), line(likely), area(best, sure))


def _beyond_words(c: Curve, scale: Scale) -> str:
    if not len(c.capacity) or c.capacity[-1, 1] <= scale.high:
        return ""
    return f"the bloom surely carries {figure(float(c.capacity[-1, 1]), 2)}, above this picture"
