"""The whole chart for a phone: turned, time runs down and load to the right, so that nothing scrolls sideways."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, SURE
from jarbloom.core.model.plan import Batch
from jarbloom.units import figure
from jarbloom.views.drawn.axes import LinearAxis, Tick, area, line, r1
from jarbloom.views.drawn.headroom import FUTURE_DAYS, PAST_DAYS, scale_for, stipple

WIDTH, LEFT, TOP, PER_DAY = 358.0, 46.0, 34.0, 19.0


@dataclass(frozen=True)
class Slab:
    """A batch, or what lives here: from its day downwards, as wide as its load."""

    x: float
    y: float
    width: float
    height: float
    title: str
    load: str
    kind: str


@dataclass(frozen=True)
class Turned:
    width: float
    height: float
    left: float
    top: float
    title: str
    water: str
    bands: tuple[tuple[str, str], ...]
    sure_line: str
    best_past: str
    best_future: str
    slabs: tuple[Slab, ...]
    excess: tuple[str, ...]
    fits: tuple[Tick, ...]
    fit_x: tuple[float, ...]
    today_y: float
    flag: str
    days: tuple[Tick, ...]
    amounts: tuple[Tick, ...]
    dots: tuple[str, str]


def turned(s: Situation) -> Turned:
    """The headroom picture on its side; amounts grow to the right, days downwards."""
    f = s.forecast
    today = f.days[f.today]
    first = max(f.days[0], today - timedelta(days=PAST_DAYS))
    shown = [k for k, d in enumerate(f.days) if first <= d <= today + timedelta(days=FUTURE_DAYS)]
    bottom = TOP + PER_DAY * len(shown)

    def down(k: int) -> float:
        return r1(TOP + PER_DAY * (k - shown[0] + 0.5))

    waiting = s.waiting
    loads = [load_of(b.items, s.reference.species, s.tank.temp_c, adult=True).total for b in waiting]
    # LinearAxis runs from `bottom` at zero to `high` at its top: here from the left edge to the right one.
    across, _ = scale_for(s, shown, f.load_adult + sum(loads), LEFT, WIDTH)
    levels = {"sure": SURE, "low": 0.25, "likely": LIKELY, "high": 0.75, "best": AT_BEST}
    pts = {n: [(min(across.y(f.band("capacity", q, k)), WIDTH), down(k)) for k in shown] for n, q in levels.items()}
    n_past = f.today - shown[0] + 1
    edge = [(LEFT, down(shown[0])), (LEFT, down(shown[-1]))]
    weekly = [k for k in shown if (f.days[k] - today).days % 7 == 0]
    fits = [
        (o, b, d.day) for b in waiting
        if (o := s.outlook(b)) and (d := s.date_of(b)) and d.day is not None and today <= d.day <= f.days[shown[-1]]
    ]  # fmt: skip
    at = {d: k for k, d in enumerate(f.days)}
    return Turned(
        WIDTH, r1(bottom + 8), LEFT, TOP, f"Headroom of {s.tank.name}, time runs down",
        area(pts["sure"], edge), ((area(pts["best"], pts["sure"]), "thin"), (area(pts["high"], pts["low"]), "dense")),
        line(pts["sure"]), line(pts["likely"][:n_past]), line(pts["likely"][n_past - 1:]),
        tuple(_slabs(s, shown, across, down, bottom, tuple(zip(waiting, loads, strict=True)))),
        _excess(s, shown, across, down),
        tuple(Tick(down(at[day]), f"{b.name.lower()} from {day:%a %-d %b}") for _, b, day in fits),
        tuple(min(across.y(o.on_the_day), WIDTH - 3) for o, _, _ in fits), down(f.today), f"{today:%-d %b}",
        tuple(Tick(down(k), f"{f.days[k]:%-d %b}", k == f.today) for k in weekly),
        tuple(t for t in across.ticks() if t.at <= WIDTH - 6), 
        (stipple(s.tank.id, 120), stipple(s.tank.id + 1000, 260)),
    )  # fmt: skip


def _excess(s: Situation, shown: list[int], across: LinearAxis, down: Callable[[int], float]) -> tuple[str, ...]:
    """Where what lives here sticks out of the likely water."""
    if not s.living:
        return ()
    edge, since = across.y(s.forecast.load_adult), min(g.since for g in s.living if g.since)
    out: list[list[tuple[float, float]]] = [[]]
    for k in shown:
        likely = across.y(s.forecast.band("capacity", LIKELY, k))
        if s.forecast.days[k] >= since and likely < edge:
            out[-1].append((likely, down(k)))
        elif out[-1]:
            out.append([])
    return tuple(area(run, [(edge, y) for _, y in run]) for run in out if len(run) > 1)


def _slabs(
    s: Situation,
    shown: list[int],
    across: LinearAxis,
    down: Callable[[int], float],
    bottom: float,
    planned: Sequence[tuple[Batch, float]],
) -> list[Slab]:
    """What lives here against the left edge, then the batches side by side, each from its day on."""
    f = s.forecast
    stacked = [(b.name.split()[-1], max(b.planned, s.now.date()), load, "planned") for b, load in planned]
    if s.living:
        since = min(g.since for g in s.living if g.since)
        stacked.insert(0, ("here", since, f.load_adult, "living"))
    found, below = [], 0.0
    for title, since, load, kind in stacked:
        k = next((k for k in shown if f.days[k] >= since), None)
        if k is not None:
            x0, x1, y0 = across.y(below), min(across.y(below + load), WIDTH), r1(down(k) - PER_DAY / 2)
            found.append(Slab(x0, y0, r1(x1 - x0), r1(bottom - y0), title, figure(load, 2), kind))
        below += load
    return found
