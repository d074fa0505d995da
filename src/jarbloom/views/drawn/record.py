"""How good the forecasts have been, as geometry and words."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.track import Met, Track
from jarbloom.views.drawn.axes import Tick, TimeAxis
from jarbloom.views.drawn.fan import FUTURE_DAYS, seen_words


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


def ladder(s: Situation, track: Track) -> Ladder | None:
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


def met_row(m: Met) -> MetRow:
    foretold = f"{seen_words(m.said_low)} to {seen_words(m.said_high)}"
    return MetRow(f"{m.at:%-d %b}", m.quantity, m.typed, foretold, f"{m.asked:%-d %b}", m.inside)


def record_words(track: Track) -> str:
    if not track.met:
        return "No earlier forecast has met its readings yet; from the second day on they are kept and compared here."
    n = len(track.met)
    return (
        f"Of {n} reading{'s' if n != 1 else ''} that came two days or more after a kept forecast, {track.inside} fell "
        "into the range it had given with 80 % probability."
    )
