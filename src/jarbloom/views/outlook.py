"""The outlook page as geometry and words: one quantity in full, what-ifs beside it, the record of earlier forecasts."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, timedelta

from jarbloom.core.advice.outlook import Outlook
from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import QUANTILES
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.bloom.track import Met, Track
from jarbloom.core.bloom.value import worthwhile
from jarbloom.core.bloom.whatif import Future
from jarbloom.core.bloom.why import in_words
from jarbloom.core.log.kinds import plural
from jarbloom.units import NBSP, figure, load_text, mg_text, percent
from jarbloom.views.axes import LinearAxis, RootLogAxis, Tick, TimeAxis, area, line, r1

PAST_DAYS, FUTURE_DAYS = 28, 35
LABEL_GAP = 13.0  # px that one name needs


@dataclass(frozen=True)
class Quantity:
    """Something the chart can show: band of the forecast, words, unit, the reading it is seen by, colour class."""

    key: str
    name: str
    unit: str
    reading: str
    colour: str


QUANTITIES: tuple[Quantity, ...] = (
    Quantity("no2", "nitrite", "mg N/L", "nitrite", "nitrite"),
    Quantity("tan", "ammonia, total", "mg N/L", "ammonia", "ammonia"),
    Quantity("nh3", "ammonia, un-ionised", "mg N/L", "", "ammonia"),
    Quantity("no3", "nitrate", "mg N/L", "nitrate", "nitrate"),
    Quantity("capacity", "capacity and load", "mg N a day", "", "bloom"),
    Quantity("capacity_a", "capacity for ammonia", "mg N a day", "", "bloom"),
    Quantity("capacity_b", "capacity for nitrite", "mg N a day", "", "bloom"),
)
BY_KEY = {q.key: q for q in QUANTITIES}


@dataclass(frozen=True)
class Spot:
    """A reading (with the interval of its step) or what had been foretold for it."""

    x: float
    y: float
    low_y: float
    high_y: float
    title: str
    inside: bool = True


@dataclass(frozen=True)
class Line:
    """A straight line across the chart with its name: a limit, or the load."""

    path: str
    label: str
    x: float
    y: float
    kind: str


@dataclass(frozen=True)
class DayRow:
    x: float
    small_x: float | None  # on the phone's chart, which shows fewer days
    label: str
    values: tuple[str, ...]
    events: str
    today: bool


@dataclass(frozen=True)
class Fan:
    """A quantity by day with its 50, 80 and 90 % ranges."""

    width: float
    height: float
    left: float
    right: float
    top: float
    base: float
    title: str
    description: str
    unit: str
    colour: str
    ranges: tuple[str, ...]
    past: str
    future: str
    other: str
    spots: tuple[Spot, ...]
    foretold: tuple[Spot, ...]
    lines: tuple[Line, ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    today_x: float
    flag: str
    rows: tuple[DayRow, ...] = ()


@dataclass(frozen=True)
class Column:
    """One future beside the others."""

    name: str
    chart: Fan
    ready: str
    peaks: str
    under: str


@dataclass(frozen=True)
class Rung:
    """An earlier forecast of the day of readiness: asked at x, its range, and its words."""

    y: float
    asked_x: float
    low_x: float
    mid_x: float
    high_x: float
    open: bool
    label: str


@dataclass(frozen=True)
class Ladder:
    width: float
    height: float
    rungs: tuple[Rung, ...]
    x_ticks: tuple[Tick, ...]
    today_x: float
    description: str


@dataclass(frozen=True)
class MetRow:
    """A reading beside what had been foretold for it, in words."""

    day: str
    quantity: str
    typed: str
    foretold: str
    asked: str
    inside: bool


@dataclass(frozen=True)
class Preset:
    name: str
    line: str
    day: str


@dataclass(frozen=True)
class OutlookPage:
    call: str
    because: str
    quantity: Quantity
    quantities: tuple[Quantity, ...]
    chart: Fan
    small: Fan
    why: tuple[str, ...]
    columns: tuple[Column, ...]
    presets: tuple[Preset, ...]
    ladder: Ladder | None
    record: str
    met: tuple[MetRow, ...]


def outlook_page(o: Outlook, key: str) -> OutlookPage:
    s, q = o.seen.situation, BY_KEY.get(key, QUANTITIES[0])
    call, because = _headline(s)
    met = [m for m in o.track.met if m.quantity == q.reading]
    return OutlookPage(
        call,
        because,
        q,
        QUANTITIES,
        fan(s, q, 1200, 380, met=met, table=True),
        fan(s, q, SMALL, 230, met=met),
        tuple(_why(s)),
        tuple(_column(s, q, o.futures, k) for k in range(len(o.futures))),
        tuple(presets(s)),
        _ladder(s, o.track),
        _record_words(o.track),
        tuple(_met_row(m) for m in reversed(o.track.met))[:12],
    )


def _day(d: date | None, s: Situation) -> str:
    return f"after {s.forecast.days[-1]:%-d %b}" if d is None else f"{d:%a %-d %b}"


def _headline(s: Situation) -> tuple[str, str]:
    r, gate = s.forecast.readiness, s.school.gate
    what = "clear the dose" if gate[0].kind == "clears_dose" else "stay clean"
    if s.living and not s.school.fish_in:
        carries = s.forecast.carries
        whose = "the animals here and the next batch" if s.waiting else "the animals here"
        return (
            f"Carried today with {percent(carries.already)} probability:",
            f"{whose}, {load_text(carries.stated_load)} a day when grown up.",
        )
    if not s.tank.filled:
        likely = f"likely {what} by {_day(r.p50, s)}" if r.p50 else f"hardly {what} within five weeks"
        return "Still dry.", f"Filled and begun today it would {likely}; readings will narrow that."
    if r.already >= 0.5:
        return f"Likely ready to {what}:", f"{percent(r.already)} probable today; the school’s own proof decides."
    if r.p50 is None:
        return "Not ready within five weeks,", f"with {percent(1 - r.in_time)} probability, if all goes on as it is."
    if r.p90 is None:
        return (
            f"Likely to {what} by {_day(r.p50, s)}:",
            f"one in ten by {_day(r.p10, s)}, and {percent(1 - r.in_time)} not within five weeks.",
        )
    return (
        f"Likely to {what} by {_day(r.p50, s)}:",
        f"eight times in ten between {_day(r.p10, s)} and {_day(r.p90, s)}.",
    )


SMALL = 358.0  # px: the phone's chart


def _window(s: Situation, width: float) -> TimeAxis:
    past, ahead = (10, 28) if width < 500 else (PAST_DAYS, FUTURE_DAYS)
    f = s.forecast
    today = f.days[f.today]
    first, last = max(f.days[0], today - timedelta(days=past)), min(f.days[-1], today + timedelta(days=ahead))
    return TimeAxis(first, last, 46.0, width)


def fan(s: Situation, q: Quantity, width: float, height: float, **more) -> Fan:
    """The chart of one quantity; `future` replaces the forecast from today on, `other` is drawn thin beside it."""
    f = s.forecast
    bands = more.get("bands", f.bands)[q.key]
    other = more.get("other")
    table, met = more.get("table", False), more.get("met", [])
    x, today = _window(s, width), f.days[f.today]
    first, last, left, top, base = x.first, x.last, x.left, 26.0, height - 24.0
    shown = [k for k, d in enumerate(f.days) if first <= d <= last]
    y = _axis(s, q, bands, shown, other, base, top)
    xs = [x.at(s.now) if f.days[k] == today else x.day(f.days[k]) for k in shown]
    n_past = sum(1 for k in shown if k <= f.today)

    def points(values) -> list[tuple[float, float]]:
        return [(px, y.y(float(values[k]))) for px, k in zip(xs, shown, strict=True)]

    edges = [points(bands[i]) for i in range(len(QUANTILES))]
    ranges = tuple(area(edges[-1 - i], edges[i]) for i in range(3))
    middle = edges[3]
    return Fan(
        width, height, left, width, top, base,
        f"{q.name} of {s.tank.name}, {first:%-d %B} to {last:%-d %B}",
        _describe(s, q, bands), q.unit, q.colour, ranges, line(middle[:n_past]), line(middle[n_past - 1:]),
        line(points(other)[n_past - 1:]) if other is not None else "",
        _spots(s, q, x, y), _foretold(met, x, y), _lines(s, q, x, y),
        tuple(x.weekly(today)), tuple(y.ticks()), x.at(s.now), f"{s.now:%a %-d %b}",
        _rows(s, q, shown, xs) if table else (),
    )  # fmt: skip


def _axis(s: Situation, q: Quantity, bands, shown, other, base: float, top: float) -> LinearAxis | RootLogAxis:
    best = max(float(bands[-2][k]) for k in shown)
    if other is not None:
        best = max(best, *(float(other[k]) for k in shown))
    best = max(best, *(m.seen for m in _readings(s, q)), 0.0) if q.reading else best
    if q.key == "nh3":
        return LinearAxis(max(1.1 * best, 1.5 * s.levels.limits.nh3), base, top)
    if q.unit == "mg N/L":
        return RootLogAxis(max(1.0, min(1.15 * best, 200.0)), base, top)
    return LinearAxis(max(1.08 * best, 1.3 * s.forecast.load_adult, 1.0), base, top)


def _readings(s: Situation, q: Quantity):
    return [r for e in s.entries if e.kind == "test" for r in e.readings if r.quantity == q.reading]


def _spots(s: Situation, q: Quantity, x: TimeAxis, y) -> tuple[Spot, ...]:
    found = []
    for e in s.entries:
        for r in e.readings:
            if r.quantity == q.reading and e.at.date() >= x.first:
                high = r.high if r.high is not None else 1.5 * r.seen
                words = f"{q.name} {r.typed}, {e.at:%a %-d %b %H:%M}"
                found.append(Spot(x.at(e.at), y.y(r.seen), y.y(r.low), y.y(high), words, not r.masked))
    return tuple(found)


def _foretold(met: list[Met], x: TimeAxis, y) -> tuple[Spot, ...]:
    return tuple(
        Spot(
            x.at(m.at), y.y(m.said_likely), y.y(m.said_low), y.y(m.said_high),
            f"foretold on {m.asked:%-d %b}: {_seen(m.said_low)} to {_seen(m.said_high)}", m.inside,
        )
        for m in met if m.at.date() >= x.first
    )  # fmt: skip


def _lines(s: Situation, q: Quantity, x: TimeAxis, y) -> tuple[Line, ...]:
    limits = s.levels.limits
    if q.key in ("no2", "nh3") and (s.living or s.waiting):
        value = limits.no2 if q.key == "no2" else limits.nh3
        return (_line(value, f"limit for animals {figure(value)}", x.left, x, y, "limit"),)
    if q.key.startswith("capacity"):
        found, load = [], s.forecast.load_adult
        if load:
            found.append(_line(load, f"living here {load_text(load)}", x.left, x, y, "load"))
        for b in s.waiting:
            load += load_of(b.items, s.reference.species, s.tank.temp_c, adult=True).total
            if b.planned < x.last:
                found.append(_line(load, f"with {b.name.lower()} {load_text(load)}", x.edge(b.planned), x, y, "load"))
        return _apart(found)
    return ()


def _line(value: float, label: str, start: float, x: TimeAxis, y, kind: str) -> Line:
    return Line(f"M{r1(start)} {y.y(value)}H{x.right}", label, r1(x.right - 4), r1(y.y(value) - 5), kind)


def _apart(lines: list[Line]) -> tuple[Line, ...]:
    """Names that would stand on one another are left to the upper line."""
    found: list[Line] = []
    for k, one in enumerate(lines):
        crowded = any(one.y - above.y < LABEL_GAP for above in lines[k + 1 :])
        found.append(replace(one, label="") if crowded else one)
    return tuple(found)


def _describe(s: Situation, q: Quantity, bands) -> str:
    f = s.forecast
    low, mid, high = (float(bands[i][f.today]) for i in (1, 3, 5))
    k = min(f.today + 14, len(f.days) - 1)
    later = [float(bands[i][k]) for i in (1, 3, 5)]
    return (
        f"Today likely {figure(mid, 2)}, eight times in ten {figure(low, 2)} to {figure(high, 2)} {q.unit}; on "
        f"{f.days[k]:%-d %B} likely {figure(later[1], 2)}, {figure(later[0], 2)} to {figure(later[2], 2)}."
    )


def _rows(s: Situation, q: Quantity, shown: list[int], xs: list[float]) -> tuple[DayRow, ...]:
    f, happened = s.forecast, {}
    for e in s.entries:
        read = [r.typed for r in e.readings if r.quantity == q.reading]
        text = f"read {read[0]}" if read else (e.kind if e.kind not in ("test", "note", "observation") else "")
        if text:
            happened.setdefault(e.at.date(), []).append(text)
    small = _window(s, SMALL)

    def on_small(d: date) -> float | None:
        if not small.first <= d <= small.last:
            return None
        return small.at(s.now) if d == f.days[f.today] else small.day(d)

    return tuple(
        DayRow(
            px,
            on_small(f.days[k]),
            f"{f.days[k]:%a %-d %b}",
            tuple(figure(float(f.bands[q.key][i, k]), 2) for i in range(len(QUANTILES))),
            ", ".join(happened.get(f.days[k], ())),
            k == f.today,
        )
        for px, k in zip(xs, shown, strict=True)
    )


def _why(s: Situation) -> list[str]:
    f, found = s.forecast, []
    r = f.readiness
    found.append(
        f"It rests on {f.n_readings} nitrogen reading{'s' if f.n_readings != 1 else ''}, on what was dosed, fed and "
        f"changed, and on what is known of such colonies in general; {f.members} courses that fit all of it."
    )
    if f.unknowns:
        found.append("The range of the date hangs most on " + _and(in_words(f.unknowns)) + ".")
    for x in f.surprises:
        found.append(
            f"{x.quantity.capitalize()} {x.typed} of {x.at:%-d %b} does not fit the others: {percent(x.probability)} "
            "likely. Repeat it; until then it counts for little."
        )
    best = worthwhile(f.next_tests)
    if best is not None:
        found.append(
            f"{best.quantity.capitalize()} tested on {best.day:%A %-d %b} would narrow it most: the range of the date "
            f"from {figure(best.width_now, 2)} to about {figure(best.width_after, 2)}{NBSP}days."
        )
    elif r.already < 0.5:
        found.append("No single test of the next seven days would narrow the date much; keep to the rhythm.")
    found.append("It assumes that the school goes on, and that KH is mended when half of it is gone.")
    return found


def _and(words: list[str]) -> str:
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and on " + words[-1]


def _column(s: Situation, q: Quantity, futures: tuple[Future, ...], k: int) -> Column:
    f, base = futures[k], futures[0]
    chart = fan(s, q, 378, 230, bands=f.bands, other=base.bands[q.key][3] if k else None)
    peaks = (
        f"Un-ionised ammonia peaks at about {mg_text(f.nh3_peak_p50)} (one in ten above {figure(f.nh3_peak_p90, 2)}), "
        f"nitrite at about {mg_text(f.no2_peak_p50)} (above {figure(f.no2_peak_p90, 2)}) in 14 days."
    )
    under = "" if f.p_under is None else f"Stays under the animals’ limits with {percent(f.p_under)} probability."
    # A stocked tank is past its gate: what matters there are the peaks.
    cycling = not s.living or s.school.fish_in
    ready = _ready_words(f.readiness, base.readiness if k else None, s) if cycling else ""
    return Column(f.name, chart, ready, peaks, under)


def _ready_words(r: Readiness, before: Readiness | None, s: Situation) -> str:
    if r.already >= 0.5:
        return f"Ready now, {percent(r.already)} probable."
    if r.p50 is None:
        return f"Not ready within five weeks, {percent(1 - r.in_time)} probable."
    until = f"from {_day(r.p10, s)} to {_day(r.p90, s)}" if r.p90 else f"one in ten by {_day(r.p10, s)}"
    text = f"Ready about {_day(r.p50, s)}, {until}."
    if before is not None and before.p50 and r.p50:
        moved = (r.p50 - before.p50).days
        days = f"{abs(moved)} day{'s' if abs(moved) != 1 else ''}"
        text += f" That is {days} {'later' if moved > 0 else 'sooner'}." if moved else " No day is gained or lost."
    return text


def presets(s: Situation) -> list[Preset]:
    """What people ask most, for this tank."""
    tomorrow, today = s.now.date() + timedelta(days=1), s.now.date()
    found = [Preset("change 30 % tomorrow", "wc 30%", tomorrow.isoformat())]
    if s.school.feeds_by == "dose" and not s.living:
        half = figure(s.tank.target_mg_n_l / 2, 2)
        found.append(Preset("dose half", f"dose {half} mg/l", today.isoformat()))
        found.append(Preset("dose twice", f"dose {figure(2 * s.tank.target_mg_n_l, 2)} mg/l", today.isoformat()))
    batch = s.next_batch
    if batch is not None:
        saturday = today + timedelta(days=(5 - today.weekday()) % 7 or 7)
        names = s.reference.species
        known = [(a.count, names[a.species].name) for a in batch.items if a.species in names]
        animals = " ".join(f"in {count} {plural(name, count)}" for count, name in known)
        found.append(Preset(f"{batch.name.lower()} on Saturday", animals, saturday.isoformat()))
    if s.living:
        found.append(Preset("power off for a day", "power 24h", today.isoformat()))
    return found


def _ladder(s: Situation, track: Track) -> Ladder | None:
    said = [x for x in track.said if x.p10 is not None][-8:]
    if not said or s.living:
        return None
    r = s.forecast.readiness
    first = min(x.asked for x in said)
    dates = [d for x in said for d in (x.p90, x.p50) if d] + [d for d in (r.p90, r.p50) if d]
    last = min(max(dates, default=s.now.date()) + timedelta(days=3), s.now.date() + timedelta(days=FUTURE_DAYS))
    x = TimeAxis(first, last, 4.0, 560.0)
    rungs = [_rung(x, 22.0 + 22 * k, a.asked, a.p10, a.p50, a.p90) for k, a in enumerate(said)]
    rungs.append(_rung(x, 22.0 + 22 * len(said), s.now.date(), r.p10, r.p50, r.p90))
    words = "; ".join(g.label for g in rungs)
    return Ladder(560.0, 44.0 + 22 * len(said) + 14, tuple(rungs), tuple(x.weekly(s.now.date())), x.at(s.now), words)


def _rung(x: TimeAxis, y: float, asked: date, p10: date | None, p50: date | None, p90: date | None) -> Rung:
    def at(d: date | None) -> float:
        return x.right if d is None or d >= x.last else x.day(d)

    likely = f"likely {p50:%-d %b}" if p50 else "no likely day yet"
    until = f"{p90:%-d %b}" if p90 else "later"
    label = f"on {asked:%-d %b}: {likely}" + (f", {p10:%-d %b} to {until}" if p10 else "")
    return Rung(y, x.day(asked), at(p10), at(p50), at(p90), p90 is None, label)


def _met_row(m: Met) -> MetRow:
    foretold = f"{_seen(m.said_low)} to {_seen(m.said_high)}"
    return MetRow(f"{m.at:%-d %b}", m.quantity, m.typed, foretold, f"{m.asked:%-d %b}", m.inside)


def _seen(mg_n_l: float) -> str:
    """A concentration as far as any kit could tell it from nothing."""
    return "0" if mg_n_l < 0.01 else figure(mg_n_l, 2)


def _record_words(track: Track) -> str:
    if not track.met:
        return "No earlier forecast has met its readings yet; from the second day on they are kept and compared here."
    n = len(track.met)
    return (
        f"Of {n} reading{'s' if n != 1 else ''} that came two days or more after a kept forecast, {track.inside} fell "
        "into the range it had given with 80 % probability."
    )
