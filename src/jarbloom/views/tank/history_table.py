"""The figures behind the record's picture: what stood by the end of each day or week of it. The cursor reads them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from jarbloom.core.history.record import Curve, Record
from jarbloom.units import figure
from jarbloom.views.drawn.years.layout import NARROW, WIDE, Stretch
from jarbloom.views.drawn.years.strips import Strip

ROWS = 160  # of the table; each of at least a day


@dataclass(frozen=True)
class TableRow:
    x: float
    narrow_x: float
    at: str
    short: str
    label: str
    cells: tuple[str, ...]
    apart: tuple[tuple[int, str], ...]
    events: str
    last: bool


@dataclass(frozen=True)
class Table:
    heads: tuple[str, ...]
    rows: tuple[TableRow, ...]


@dataclass(frozen=True)
class Standing:
    """What is told beside the strips before a cursor moves: the last row's day, its cells by their column, and how far
    they are from what is laid over them."""

    short: str
    cells: dict[int, str]
    apart: dict[int, str]

    def beside(self, strip: Strip) -> tuple[tuple[str, str, str], ...]:
        """Of each curve of a strip: now, before, and how far they are apart."""
        columns = (column for column, _ in strip.values)
        return tuple((self.cells.get(c) or "–", self.cells.get(c + 1) or "–", self.apart.get(c, "")) for c in columns)


def table(r: Record) -> Table:
    heads = ["When"]
    for c in _curves(r):
        heads.append(f"{c.quantity.label} {c.unit}".strip())
        if r.over is not None:
            heads.append("before")
    edges = _edges(r)
    return Table((*heads, "What happened"), tuple(_rows(r, edges, range(len(edges) - 1))))


def standing(r: Record) -> Standing:
    edges = _edges(r)
    (last,) = _rows(r, edges, range(len(edges) - 2, len(edges) - 1))
    return Standing(last.short, dict(enumerate(last.cells, 1)), dict(last.apart))


def _curves(r: Record) -> list[Curve]:
    return [c for strip in r.strips for c in strip]


def _edges(r: Record) -> np.ndarray:
    n = min(r.window.days if r.window.days > 2 else 24 * r.window.days, ROWS)
    return np.linspace(r.start.timestamp(), r.end.timestamp(), n + 1)


def _happened(r: Record, edges: np.ndarray) -> dict[int, list[str]]:
    told: dict[int, list[str]] = {}
    found = sorted((t, label) for m in r.marks.values() for t, label in zip(m.times.tolist(), m.labels, strict=True))
    places = np.searchsorted(edges, [t for t, _ in found], side="right") - 1
    for (_, label), k in zip(found, np.clip(places, 0, len(edges) - 2).tolist(), strict=True):
        told.setdefault(k, []).append(label)
    return told


def _rows(r: Record, edges: np.ndarray, which: range) -> Iterator[TableRow]:
    """The rows asked for; what happened is told where all are."""
    xs = [Stretch(r.start.timestamp(), r.end.timestamp(), lay.left, lay.right) for lay in (WIDE, NARROW)]
    told = _happened(r, edges) if len(which) > 1 else {}
    places = slice(which.start, which.stop)
    uptos, middles = (edges[1:] - 1)[places], ((edges[:-1] + edges[1:]) / 2)[places]
    columns = [(_values(c, middles, uptos), _values_before(c, middles, uptos)) for c in _curves(r)]
    for n, k in enumerate(which):
        upto, middle = float(uptos[n]), float(middles[n])
        cells, apart = _cells(columns, n, r.over is not None)
        yield TableRow(
            x=xs[0].x(middle),
            narrow_x=xs[1].x(middle),
            at=f"{datetime.fromtimestamp(middle, r.start.tzinfo):%Y-%m-%dT%H:%M}",
            short=f"{datetime.fromtimestamp(upto, r.start.tzinfo):%-d %b}",
            label=_label(r, edges[k], edges[k + 1]),
            cells=cells,
            apart=apart,
            events="; ".join(dict.fromkeys(told.get(k, ()))),
            last=k == len(edges) - 2,
        )


def _cells(
    columns: Sequence[tuple[list[float | None], list[float | None]]], n: int, over: bool
) -> tuple[tuple[str, ...], tuple[tuple[int, str], ...]]:
    cells: list[str] = []
    apart: list[tuple[int, str]] = []
    for now, then in columns:
        here, before = now[n], then[n]
        cells.append(_told(here))
        if over:
            cells.append(_told(before))
            if here is not None and before is not None:
                apart.append((len(cells) - 1, _signed(here - before)))
    return tuple(cells), tuple(apart)


def _label(r: Record, a: float, b: float) -> str:
    first, last = (datetime.fromtimestamp(t, r.start.tzinfo) for t in (a, b - 1))
    if b - a < 80000:
        return f"{first:%-d %b %H:%M}"
    year = f" {last:%Y}" if r.window.days > 300 else ""
    return f"{last:%a %-d %b}{year}"


def _values(c: Curve, middles: np.ndarray, uptos: np.ndarray) -> list[float | None]:
    """What stood by the end of each row of the table, or the sum in which it lies."""
    if c.sums is not None:
        return _sums_at(c.sums.edges, c.sums.totals, middles)
    return c.known.values_at(uptos, c.pause_s)


def _values_before(c: Curve, middles: np.ndarray, uptos: np.ndarray) -> list[float | None]:
    """The same of what is laid over it."""
    if c.sums is not None:
        return [None] * len(middles) if c.sums.before is None else _sums_at(c.sums.edges, c.sums.before, middles)
    return [None] * len(middles) if c.before_whole is None else c.before_whole.values_at(uptos, c.pause_s)


def _sums_at(edges: np.ndarray, totals: np.ndarray, moments: np.ndarray) -> list[float | None]:
    places = (np.searchsorted(edges, moments, side="right") - 1).tolist()
    return [float(totals[k]) if 0 <= k < len(totals) else None for k in places]


def _told(value: float | None) -> str:
    return "" if value is None else figure(value)


def _signed(value: float) -> str:
    text = figure(value, 2)
    return text if value < 0 or text == "0" else f"+{text}"
