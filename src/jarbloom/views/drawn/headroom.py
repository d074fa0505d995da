"""The headroom picture as geometry: capacity as water, load as blocks, readings and events beneath."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from functools import lru_cache

import numpy as np

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.animals.names import listed
from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, SURE
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.given import Given
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.moved import Moved
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.units import figure
from jarbloom.views.drawn.axes import LinearAxis, Tick, TimeAxis, area, line, r1
from jarbloom.views.drawn.day_table import DayRow, day_rows
from jarbloom.views.drawn.strip import Strip, nitrogen_strip

# The kinds of entry that are drawn, in the picture, its strip, its lanes or its table
DRAWN = (Tested, Dose, Change, TopOff, MediaCleaned, Bacteria, Arrival, Birth, Death, Given, Moved)
PAST_DAYS, FUTURE_DAYS, BOARD_PAST = 21, 35, 9
FAR_ABOVE = 4.0  # capacity beyond this many loads is broken off and said in words
GHOST_DAYS = 4.5
LABEL_CLEAR = 110.0  # px right of today where words are clear of the excess
CHAR_PX = 6.1  # mean width of a character of the condensed face at 13 px


@dataclass(frozen=True)
class Block:
    """A load on the water: rectangle, courses (single animals), and its words; `short` for narrow ones."""

    x: float
    y: float
    width: float
    height: float
    title: str
    detail: str
    load: str
    courses: tuple[float, ...] = ()
    kind: str = "planned"
    label_x: float = 0.0
    batch: int = 0
    day: str = ""
    locked: bool = False

    @property
    def text_y(self) -> float:
        return r1(self.y + self.height / 2 + 4.5)


@dataclass(frozen=True)
class Fit:
    """Where a batch's corner meets the sure line."""

    x: float
    y: float
    label: str
    label_x: float
    label_y: float


@dataclass(frozen=True)
class Ghost:
    """The next batch as if put in today, animal by animal."""

    x: float
    width: float
    whole: tuple[float, float]
    pale: tuple[float, float]
    over: tuple[float, float]
    courses: tuple[float, ...]
    label: tuple[str, str]
    label_y: float
    sure: int
    likely: int
    count: int


@dataclass(frozen=True)
class Headroom:
    width: float
    height: float
    top: float
    base: float
    left: float
    right: float
    title: str
    description: str
    water: str
    bands: tuple[tuple[str, str], ...]
    sure_line: str
    best_past: str
    best_future: str
    ends: tuple[Tick, ...]
    dosed: tuple[Block, ...]
    blocks: tuple[Block, ...]
    excess: tuple[str, ...]
    ghost: Ghost | None
    fits: tuple[Fit, ...]
    today_x: float
    flag: str
    x_ticks: tuple[Tick, ...]
    days: tuple[float, ...]
    y_ticks: tuple[Tick, ...]
    reserve: str
    strip: Strip | None
    rows: tuple[DayRow, ...] = field(default=())
    dots: tuple[str, str] = ("", "")
    x: TimeAxis | None = None

    @property
    def per_day(self) -> float:
        return r1(self.x.per_day) if self.x else 0.0


@lru_cache(64)
def stipple(seed: int, count: int, width: int = 96, height: int = 64) -> str:
    """Dots of a tile, seeded by the tank so that they do not crawl between visits."""
    rng = np.random.default_rng(seed)
    return "".join(f"M{x:.1f} {y:.1f}h0" for x, y in rng.random((count, 2)) * (width, height))


def group_words(items: Sequence[Animals], s: Situation) -> str:
    return listed(items, s.reference.species)


def headroom(
    s: Situation, width: float = 1200, compact: bool = False, ghosted: bool = True, until: date | None = None,
    board: bool = False,
) -> Headroom:  # fmt: skip
    """Geometry for a situation. `compact` leaves out the strip and the long words (phone, bench), `board` the strip
    and the words at the corners, which stand in the columns below it. `until`: the axis goes on to that day at least,
    past the end of the forecast too."""
    f = s.forecast
    today = f.days[f.today]
    past, future = (14, 28) if compact else (BOARD_PAST if board else PAST_DAYS, FUTURE_DAYS)
    first = max(f.days[0], today - timedelta(days=past))
    last = min(f.days[-1], today + timedelta(days=future))
    if until is not None and until > last:
        last = until
    left, right = (30.0, width) if compact else (46.0, width)
    top, base = (20.0, 166.0) if compact else (26.0, 222.0 if board else 252.0)
    x = TimeAxis(first, last, left, right)
    shown = [k for k, d in enumerate(f.days) if first <= d <= last]
    waiting = s.waiting
    loads = [load_of(b.items, s.reference.species, s.tank.temp_c, adult=True).total for b in waiting]
    full = f.load_adult + sum(loads)
    y, reserve = scale_for(s, shown, full, base, top)
    q = {
        name: f.course("capacity", level, shown)
        for name, level in (("sure", SURE), ("low", 0.25), ("likely", LIKELY), ("high", 0.75), ("best", AT_BEST))
    }
    xs = [x.at(s.now) if f.days[k] == today else x.day(f.days[k]) for k in shown]
    pts = {name: list(zip(xs, y.ys(values), strict=True)) for name, values in q.items()}
    n_past = sum(1 for k in shown if k <= f.today)
    blocks = _living(s, x, y) + _planned(s, waiting, loads, x, y)
    return Headroom(
        width, 192 if compact else 246 if board else 428, top, base, left, right,
        f"Headroom of {s.tank.name} from {first:%-d %B} to {last:%-d %B}",
        _description(s, full),
        area(pts["sure"], [(xs[0], base), (xs[-1], base)]),
        ((area(pts["best"], pts["sure"]), "thin"), (area(pts["high"], pts["low"]), "dense")),
        line(pts["sure"]), line(pts["likely"][:n_past]), line(pts["likely"][n_past - 1:]),
        _ends(q, y, top, base, "" if compact else f"on {s.forecast.days[shown[-1]]:%-d %b}"),
        _dosed(s, x, y, compact), tuple(blocks), _excess(s, shown, xs, y),
        _ghost(s, waiting, loads, x, y, compact) if ghosted else None, _fits(s, waiting, loads, x, y, compact or board),
        x.at(s.now), f"{s.now:%a %-d %b}", tuple(x.weekly(today)), tuple(x.daily()), tuple(y.ticks()), reserve,
        None if compact or board else nitrogen_strip(s, x, shown, xs, n_past),
        () if compact else day_rows(s, shown, xs),
        (stipple(s.tank.id, 120), stipple(s.tank.id + 1000, 260)), x,
    )  # fmt: skip


def scale_for(s: Situation, shown: list[int], full: float, base: float, top: float) -> tuple[LinearAxis, str]:
    """Near the load: both fit. Far above: the axis follows the load and the rest is said in words."""
    f = s.forecast
    best = max(f.course("capacity", AT_BEST, shown))
    if full <= 0:
        return LinearAxis(max(best * 1.08, 1.0), base, top), ""
    if best <= FAR_ABOVE * full:
        return LinearAxis(max(best * 1.08, full * 1.35), base, top), ""
    likely = f.band("capacity", LIKELY, shown[-1]) / full
    reserve = f"the bloom likely carries {figure(likely, 2)} times all of this" if likely >= FAR_ABOVE else ""
    return LinearAxis(full * 3.2, base, top), reserve


def _description(s: Situation, full: float) -> str:
    f = s.forecast
    return (
        f"Today the bloom surely carries {figure(f.sure, 2)}, likely {figure(f.likely, 2)}, at best "
        f"{figure(f.band('capacity', AT_BEST), 2)} mg N a day. The load of all that lives here and is planned, "
        f"grown up, is {figure(full, 2)}. Every day's figures stand in the table that follows."
    )


def _ends(q: dict[str, list[float]], y: LinearAxis, top: float, base: float, day: str) -> tuple[Tick, ...]:
    """What is at best, likely and sure carried on the last day that is shown, which the last of them names."""
    words = {"best": "at best", "likely": "likely", "sure": f"sure {day}".strip()}
    at = {name: max(y.y(q[name][-1]), top + 4) for name in words}
    # keep the three labels apart: best above likely above sure
    at["likely"] = max(at["likely"], at["best"] + 15)
    at["sure"] = max(at["sure"], at["likely"] + 15)
    low = at["sure"] - (base - 4)
    if low > 0:
        at = {name: value - low for name, value in at.items()}
    return tuple(
        Tick(r1(at[n]), f"{q[n][-1]:.0f} {w}" if q[n][-1] >= 10 else f"{figure(q[n][-1], 2)} {w}", n == "likely")
        for n, w in words.items()
    )


def _dosed(s: Situation, x: TimeAxis, y: LinearAxis, compact: bool) -> tuple[Block, ...]:
    """Ammonia given by hand, spread over the days until the next dose or until today."""
    doses = [(e.at, e.body.mg_n) for e in s.entries.kinds_since(x.first, Dose)]
    found = []
    for k, (at, mg_n) in enumerate(doses):
        until = doses[k + 1][0] if k + 1 < len(doses) else min(s.now, at + timedelta(days=7))
        days = max((until - at).total_seconds() / 86400, 0.5)
        x0, x1, high = x.at(at), x.at(until), max(y.y(mg_n / days), y.high)
        label = k == len(doses) - 1 and not compact
        found.append(
            Block(
                x0,
                high,
                r1(max(x1 - x0, 1)),
                r1(y.bottom - high),
                "dosed ammonia" if label else "",
                "",
                f"{mg_n / days:.0f}",
                kind="dosed",
            )
        )
    return tuple(found)


def _living(s: Situation, x: TimeAxis, y: LinearAxis) -> list[Block]:
    if not s.living:
        return []
    since = min(g.since for g in s.living if g.since)
    x0 = x.edge(since)
    high = y.y(s.forecast.load_adult)
    return [
        Block(
            x0,
            high,
            r1(x.right - x0),
            r1(y.bottom - high),
            "Living here",
            group_words(_merged(s.living), s),
            figure(s.forecast.load_adult, 2),
            kind="living",
            label_x=max(x0, x.at(s.now) + LABEL_CLEAR) + 8,
        )
    ]


def _merged(groups: Sequence[Animals]) -> list[Animals]:
    counts: dict[str, int] = {}
    for g in groups:
        counts[g.species] = counts.get(g.species, 0) + g.count
    return [Animals(k, n) for k, n in counts.items()]


def _planned(s: Situation, waiting: Sequence[Batch], loads: Sequence[float], x: TimeAxis, y: LinearAxis) -> list[Block]:
    found, below = [], s.forecast.load_adult
    for batch, load in zip(waiting, loads, strict=True):
        x0 = x.edge(max(batch.planned, s.now.date()))
        top, bottom = y.y(below + load), y.y(below)
        if x0 < x.right:
            found.append(
                Block(
                    x0,
                    top,
                    r1(x.right - x0),
                    r1(bottom - top),
                    batch.name,
                    group_words(batch.items, s),
                    figure(load, 2),
                    _courses(batch, top, bottom),
                    batch=batch.id,
                    day=f"{batch.planned:%a %-d %b}",
                    locked=batch.locked,
                )
            )
        below += load
    return found


def _courses(batch: Batch, top: float, bottom: float) -> tuple[float, ...]:
    count = sum(a.count for a in batch.items)
    step = (bottom - top) / max(count, 1)
    return tuple(r1(bottom - step * k) for k in range(1, count)) if step >= 3 else ()


def _excess(s: Situation, shown: list[int], xs: list[float], y: LinearAxis) -> tuple[str, ...]:
    """Where what lives here sticks out of the likely water."""
    if not s.living:
        return ()
    load, since = s.forecast.load_adult, min(g.since for g in s.living if g.since)
    runs: list[list[tuple[float, float]]] = [[]]
    for px, k, likely in zip(xs, shown, s.forecast.course("capacity", LIKELY, shown), strict=True):
        if s.forecast.days[k] >= since and likely < load:
            runs[-1].append((px, y.y(likely)))
        elif runs[-1]:
            runs.append([])
    return tuple(area([(p[0], y.y(load)) for p in run], run) for run in runs if len(run) > 1)


def _ghost(
    s: Situation, waiting: Sequence[Batch], loads: Sequence[float], x: TimeAxis, y: LinearAxis, compact: bool
) -> Ghost | None:
    """How many of the next batch fit if they went in today: sure, likely, and not."""
    if s.acting or not waiting or waiting[0].planned <= s.now.date() + timedelta(days=2):
        return None
    batch, load, f = waiting[0], loads[0], s.forecast
    count = sum(a.count for a in batch.items)
    each, below = load / count, f.load_adult
    sure = min(count, max(0, int((f.sure - below) / each + 1e-6)))
    likely = min(count, max(sure, int((f.likely - below) / each + 1e-6)))
    if sure == count:
        return None
    x0 = r1(x.at(s.now) + 3)
    days = min(GHOST_DAYS, max(1.5, (batch.planned - s.now.date()).days - 0.6))
    edges = [y.y(below), y.y(below + each * sure), y.y(below + each * likely), y.y(below + load)]
    step = (edges[0] - edges[3]) / count
    courses = tuple(r1(edges[0] - step * k) for k in range(1, count)) if step >= 3 else ()
    name = batch.name.lower()
    if compact:
        label = (f"today {sure} of {count}", "would fit surely")
    else:
        rest = count - likely
        label = (
            f"If {name} went in today, {sure or 'none'} of {count} fit",
            "surely" + (f", {likely - sure} more likely" if likely > sure else "") + (f", {rest} not" if rest else ""),
        )
    return Ghost(
        x0,
        r1(days * x.per_day),
        (edges[1], r1(edges[0] - edges[1])),
        (edges[2], r1(edges[1] - edges[2])),
        (edges[3], r1(edges[2] - edges[3])),
        courses,
        label,
        max(r1(edges[3] - 26), 40.0),
        sure,
        likely,
        count,
    )


def _fits(
    s: Situation, waiting: Sequence[Batch], loads: Sequence[float], x: TimeAxis, y: LinearAxis, compact: bool
) -> tuple[Fit, ...]:
    found: list[Fit] = []
    for batch in waiting:
        outlook, date = s.outlook(batch), s.date_of(batch)
        if outlook is None or date is None or date.day is None or date.day >= x.last:
            continue
        px = x.at(s.now) if date.today else x.day(date.day)
        text = f"{batch.name} {date.words}"
        label_y = r1(y.high + 14 + 17 * len(found))
        found.append(
            Fit(
                px,
                max(y.y(outlook.on_the_day), y.high),
                "" if compact else text,
                r1(min(px + 8, x.right - CHAR_PX * len(text) - 90)),
                label_y,
            )
        )
    return tuple(found)
