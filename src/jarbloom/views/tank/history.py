"""The record page: its headline, its picture, and the ways to other stretches."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import timedelta
from functools import cached_property
from urllib.parse import urlencode

from jarbloom.core.history.drift import Drift
from jarbloom.core.history.quantities import QUANTITIES
from jarbloom.core.history.record import Record
from jarbloom.core.history.window import SPANS, YEAR, Window
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, Units, figure, lasting, number_word
from jarbloom.views.drawn.standing import Drawings
from jarbloom.views.drawn.years.layout import WIDE, Layout
from jarbloom.views.drawn.years.overview import Overview, overview
from jarbloom.views.drawn.years.sheet import Sheet, sheet
from jarbloom.views.tank.history_table import Standing, standing

_SPAN_WORDS = {"month": "a month", "quarter": "3 months", "nine": "9 months", "year": "a year", "all": "all"}
_WHY = {
    "load grew": "the load grew, the changes did not", "changes fell": "less water was changed",
    "both": "the load grew and less water was changed", "load fell": "the load fell",
    "changes grew": "more water was changed",
}  # fmt: skip


@dataclass(frozen=True)
class Way:
    """A link to another stretch, or to another choice. `on`: it is what is shown."""

    words: str
    query: str
    on: bool = False


@dataclass(frozen=True)
class Pick:
    key: str
    label: str
    on: bool


@dataclass(frozen=True)
class HistoryPage:
    """`query`: what tells this view from others, for the files of it; `span`: the days shown, in words."""

    strong: str
    rest: str
    aside: str
    drawn: Sheet
    standing: Standing
    thin: Overview
    spans: tuple[Way, ...]
    overs: tuple[Way, ...]
    ways: tuple[tuple[str, Way], ...]
    picks: tuple[Pick, ...]
    first: str
    last: str
    span: str
    over: str
    over_words: str
    over_from: str
    query: str
    others: tuple[tuple[str, str], ...]
    empty: bool


_drawings = Drawings()


def history_page(
    r: Record, over: str, others: tuple[tuple[str, str], ...], species: Mapping[str, Species], units: Units,
    chosen: tuple[str, ...] = (), layout: Layout = WIDE,
) -> HistoryPage:  # fmt: skip
    """`layout`: of the picture that comes with the page; the other width is asked for where it is looked at."""
    where = _Where(r, over, chosen)
    strong, rest, aside = headline(r, units)
    shown = {c.quantity.key for curves in r.strips for c in curves}
    overs = [
        Way("nothing", where.query(over="none"), over == "none"),
        Way("a year before", where.query(over="year"), over == "year"),
    ]
    overs += [Way(name, where.query(over=slug), over == slug) for slug, name in others]
    window = r.window
    near = {"earlier": window.earlier(), "later": window.later(), "closer": window.closer(), "wider": window.wider()}
    return HistoryPage(
        strong=strong,
        rest=rest,
        aside=aside,
        drawn=_drawings.once(r, ("sheet", layout, units), lambda: sheet(r, layout, species, units)),
        standing=_drawings.once(r.reads, "standing", lambda: standing(r)),
        thin=_drawings.once(r.reads, ("overview", layout), lambda: overview(r, layout)),
        spans=tuple(_spans(r.window, where)),
        overs=tuple(overs),
        ways=tuple((name, Way(name.capitalize(), where.query(w))) for name, w in near.items() if w is not None),
        picks=tuple(Pick(k, QUANTITIES[k].label, k in shown) for k in QUANTITIES if k in r.there or k in shown),
        first=r.window.first.isoformat(),
        last=r.window.last.isoformat(),
        span=span_words(r.window),
        over=over,
        over_words=_over_words(r, over),
        over_from=r.over.window.first.isoformat() if r.over else "",
        query=where.query(),
        others=others,
        empty=not r.strips and not r.rows and not any(m.entries for m in r.marks.values()),
    )


@dataclass(frozen=True)
class _Where:
    """Builds the query of a view near this one."""

    r: Record
    over: str
    chosen: tuple[str, ...]

    def query(self, window: Window | None = None, over: str | None = None) -> str:
        w = window or self.r.window
        fields = [f"from={w.first.isoformat()}", f"to={w.last.isoformat()}"]
        fields.append(self._over if over is None else urlencode({"over": over}))
        if self.over == "dates" and over is None and self.r.over:
            by = timedelta(days=self.r.over.shift_days)
            fields.append(f"over_from={(w.first - by).isoformat()}")
        return "&".join((*fields, self._chosen) if self.chosen else fields)

    @cached_property
    def _over(self) -> str:
        return urlencode({"over": self.over})

    @cached_property
    def _chosen(self) -> str:
        return urlencode([("q", k) for k in self.chosen])


def _spans(window: Window, where: _Where) -> Iterator[Way]:
    for key, words in _SPAN_WORDS.items():
        wanted = window.all() if key == "all" else window.latest(SPANS[key])
        if key == "all" or SPANS[key] < window.all().days:
            yield Way(words, where.query(wanted), (wanted.first, wanted.last) == (window.first, window.last))


def span_words(window: Window) -> str:
    a, b = window.first, window.last
    if a == b:
        return f"{a:%-d %b %Y}"
    return f"{a:%-d %b} to {b:%-d %b %Y}" if a.year == b.year else f"{a:%-d %b %Y} to {b:%-d %b %Y}"


def _over_words(r: Record, over: str) -> str:
    if r.over is None:
        return ""
    if over == "year":
        return "a year before"
    if r.over.tank.id != r.tank.id:
        return f"{r.over.tank.name}, by the age of the tank"
    return f"from {r.over.window.first:%-d %b %Y}"


# --- the headline ---


def headline(r: Record, units: Units) -> tuple[str, str, str]:
    """What drifted over the stretch in view, how far, and why as far as the log tells."""
    span = lasting(r.window.days)
    found = [d for d in r.drifts if d.quantity != "load"]
    since = f"in {span}"
    if r.over is not None and r.over.tank.id == r.tank.id:
        since = "since a year before" if r.over.shift_days == YEAR else f"since {r.over.window.last:%-d %b %Y}"
    if not any(len(c.whole) for curves in r.strips for c in curves) and not found:
        return "Little to see yet.", f"{span[:1].upper()}{span[1:]} of record.", "it fills with every test."
    if not found:
        grown = next((d for d in r.drifts if d.quantity == "load"), None)
        tail = f"the load went from {figure(grown.before, 2)} to {figure(grown.after, 2)} mg N a day." if grown else ""
        return "Nothing has drifted", f"{since}.", tail
    n = len(found)
    strong = f"{number_word(n).capitalize()} slow drift{'s' if n > 1 else ''} {since}."
    first = found[0]
    rest = "; ".join(_drifted(r, d, units) for d in found[:2]) + "."
    aside = _WHY.get(r.nitrate_why, "") if first.quantity == "nitrate" and _fits(first, r.nitrate_why) else ""
    if {"ph", "kh"} <= {d.quantity for d in found} and first.quantity in ("ph", "kh") and first.by < 0:
        aside = "the buffer is being used up"
    return strong, rest if not aside else rest[:-1] + ":", aside + "." if aside else ""


def _fits(d: Drift, why: str) -> bool:
    return (d.by > 0) == (why in ("load grew", "changes fell", "both"))


def _drifted(r: Record, d: Drift, units: Units) -> str:
    q = QUANTITIES[d.quantity]
    way = "up" if d.by > 0 else "down"
    if q.dimension == "temp":
        by = units.temp_step(abs(d.by))
    else:
        unit = q.in_unit_of(r.tank.kit).replace(" ", NBSP)
        by = f"{figure(abs(d.by) * q.factor(r.tank.kit), 2)}{NBSP}{unit}".strip()
    return f"{q.label} is {way} {by}"
