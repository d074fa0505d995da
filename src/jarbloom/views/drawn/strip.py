"""The nitrogen strip under the headroom picture: readings, forecast lines, and the lanes of events."""

from __future__ import annotations

from dataclasses import dataclass

from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, SURE
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.model.kit import NITROGEN
from jarbloom.units import figure
from jarbloom.views.drawn.axes import RootLogAxis, Tick, TimeAxis, area, line, r1

LEAST_GAP = 23.0  # px between boxes on the water lane


@dataclass(frozen=True)
class Mark:
    """A reading with the interval of its colour step."""

    x: float
    y: float
    low_y: float
    high_y: float
    quantity: str
    title: str


@dataclass(frozen=True)
class Series:
    quantity: str
    past: str
    future: str
    band: str
    label_x: float
    label_y: float


@dataclass(frozen=True)
class Glyph:
    """Something on a lane. kind: drop, water, fish, death, test, box; done or planned."""

    x: float
    lane: int
    kind: str
    text: str
    title: str
    done: bool = True


@dataclass(frozen=True)
class Strip:
    """Readings, forecast lines and event lanes under the capacity chart."""

    y_ticks: tuple[Tick, ...]
    base: float
    series: tuple[Series, ...]
    marks: tuple[Mark, ...]
    lanes: tuple[Tick, ...]
    glyphs: tuple[Glyph, ...]


_LANES = ("Doses", "Water", "Life")


def nitrogen_strip(s: Situation, x: TimeAxis, shown: list[int], xs: list[float], n_past: int) -> Strip:
    f = s.forecast
    no3, no2 = (max(f.course(name, LIKELY, shown)) for name in ("no3", "no2"))
    top_value = max(6.0, 1.3 * no3, no2)
    y = RootLogAxis(min(top_value, 200.0), 366.0, 292.0)
    series = []
    names = {"ammonia": "tan", "nitrite": "no2", "nitrate": "no3"}
    for quantity, band in names.items():
        low, mid, high = (y.ys(f.course(band, level, shown)) for level in (SURE, LIKELY, AT_BEST))
        mids = list(zip(xs, mid, strict=True))
        highs, lows = (list(zip(xs[n_past - 1 :], edge[n_past - 1 :], strict=True)) for edge in (high, low))
        spot = min(n_past + {"ammonia": 14, "nitrite": 5, "nitrate": len(shown) - n_past - 2}[quantity], len(shown) - 1)
        label_x = min(mids[spot][0], x.right - 44)
        series.append(
            Series(
                quantity,
                line(mids[:n_past]),
                line(mids[n_past - 1 :]),
                area(highs, lows),
                label_x,
                r1(mids[spot][1] - 6),
            )
        )
    marks = []
    for e in s.entries.kinds_since(x.first, Tested):
        for r in e.readings:
            if r.quantity in NITROGEN:
                top = r.high if r.high is not None else r.seen * 1.5
                marks.append(
                    Mark(
                        x.at(e.at),
                        y.y(r.seen),
                        y.y(r.low),
                        y.y(top),
                        r.quantity,
                        f"{r.quantity} {r.typed}, {e.at:%a %-d %b %H:%M}",
                    )
                )
    lanes = tuple(Tick(384.0 + 17 * k, name) for k, name in enumerate(_LANES))
    return Strip(tuple(y.ticks()), 366.0, tuple(series), tuple(marks), lanes, tuple(_glyphs(s, x)))


def _glyphs(s: Situation, x: TimeAxis) -> list[Glyph]:
    names, found = s.reference.species, []
    for e in s.entries.since(x.first):
        px, when = x.at(e.at), f"{e.at:%a %-d %b %H:%M}"
        match e.body:
            case Dose(mg_n=mg_n):
                found.append(Glyph(px, 0, "drop", "", f"dose of {figure(mg_n)} mg N, {when}"))
            case Change(litres=litres) | TopOff(litres=litres):
                text = f"{s.units.value(litres, 'volume'):.0f}"
                found.append(Glyph(px, 1, "water", text, f"{s.units.volume(litres)} new water, {when}"))
            case MediaCleaned() | Bacteria():
                found.append(Glyph(px, 0, "box", e.kind, f"{e.kind}, {when}"))
            case Arrival() as came:
                found.append(Glyph(px, 2, "fish", "", f"{came.who(names)} in, {when}"))
            case Birth() as born:
                found.append(Glyph(px, 2, "fish", "", f"{born.who(names)} born, {when}"))
            case Death() as dead:
                found.append(Glyph(px, 2, "death", "", f"{dead.who(names)} found dead, {when}"))
    if s.response and s.acting:
        last = -LEAST_GAP
        for c in s.response.changes:
            if x.at(c.at) - last < LEAST_GAP:
                continue
            last = x.at(c.at)
            text = f"{s.units.value(c.litres, 'volume'):.0f}"
            found.append(
                Glyph(x.at(c.at), 1, "water", text, f"planned: {s.units.volume(c.litres)}, {c.at:%a %H:%M}", False)
            )
    for b in s.waiting:
        if s.now.date() <= b.planned < x.last:
            found.append(
                Glyph(x.day(b.planned), 2, "fish", b.name.lower(), f"{b.name} planned, {b.planned:%a %-d %b}", False)
            )
    return found
