"""What has drifted over the time in view, and what was beyond the residents' range for how long."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from jarbloom.core.history.series import DAY_S, Series
from jarbloom.core.history.wanted import Range

# The least that is called a drift, as kept: a step of a usual kit, or what a body feels (judgement)
LEAST: Mapping[str, float] = {
    "nitrate": 1.13, "ph": 0.3, "kh": 1.5, "gh": 2.0, "temp": 1.0, "salinity": 1.5, "phosphate": 0.1, "calcium": 30.0,
    "magnesium": 80.0, "load": 2.0,
}  # fmt: skip
SHARE = 1 / 3  # of the time in view, at each end
MOST_DAYS = 60.0  # or an eighth of it, where that is longer
SEASON_DAYS = 30.0  # two stretches of the year so near are of one season: warmth is compared only then
FEWEST = 3  # readings at each end
NOISE = 1.5  # medians apart by so many of their own spreads
MOVED = 0.12  # the load or the changes grew or fell by so much: called a reason (judgement)


@dataclass(frozen=True)
class Drift:
    """Medians of the first and the last part of the time in view, as kept."""

    quantity: str
    before: float
    after: float

    @property
    def by(self) -> float:
        return self.after - self.before


@dataclass(frozen=True)
class Ends:
    """The two stretches that are compared, epoch seconds: the first and the last part of what is in view, or the last
    part and the same days of the stretch that is laid over it."""

    early: tuple[float, float]
    late: tuple[float, float]

    @property
    def one_season(self) -> bool:
        off = (self.late[0] - self.early[0]) / DAY_S % 365.25
        return min(off, 365.25 - off) <= SEASON_DAYS


def ends(first: datetime, last: datetime, shift_days: int = 0) -> Ends:
    """`shift_days`: how far back the stretch laid over lies; 0 where none is."""
    a, b = first.timestamp(), last.timestamp()
    span = min((b - a) * SHARE, max(MOST_DAYS * DAY_S, (b - a) / 8))
    late = (b - span, b)
    if shift_days:
        return Ends((late[0] - shift_days * DAY_S, late[1] - shift_days * DAY_S), late)
    return Ends((a, a + span), late)


def drift(quantity: str, series: Series, between: Ends) -> Drift | None:
    """None where it stood, or where too little was read to tell."""
    if quantity not in LEAST:
        return None
    if quantity == "temp" and not between.one_season:
        return None
    early, late = series.between(*between.early), series.between(*between.late)
    if min(len(early), len(late)) < FEWEST:
        return None
    before, after = float(np.median(early.seen)), float(np.median(late.seen))
    spread = np.hypot(*(1.2533 * np.std(s.seen) / np.sqrt(len(s)) for s in (early, late)))  # of a median, normal
    if abs(after - before) < max(LEAST[quantity], NOISE * float(spread)):
        return None
    return Drift(quantity, before, after)


def drifts(of: Mapping[str, Series], between: Ends) -> tuple[Drift, ...]:
    """The largest first, by the least that is called one."""
    found = (drift(key, series, between) for key, series in of.items())
    return tuple(sorted((d for d in found if d), key=lambda d: -abs(d.by) / LEAST[d.quantity]))


def why_nitrate(load: Series, changes: Series, between: Ends) -> str:
    """Of a drift of nitrate: 'load grew', 'changes fell', 'both', 'load fell', 'changes grew', or ''."""
    fed = _grew(*(_mean(load.between(*part)) for part in (between.early, between.late)))
    changed = _grew(*(float(changes.between(*part).seen.sum()) for part in (between.early, between.late)))
    return {(1, -1): "both", (1, 0): "load grew", (1, 1): "load grew", (0, -1): "changes fell", (-1, 0): "load fell",
            (0, 1): "changes grew", (-1, 1): "load fell"}.get((fed, changed), "")  # fmt: skip


def _mean(series: Series) -> float:
    return float(series.seen.mean()) if len(series) else 0.0


def _grew(before: float, after: float) -> int:
    if before <= 0:
        return int(after > 0)
    ratio = after / before
    return int(ratio > 1 + MOVED) - int(ratio < 1 - MOVED)


@dataclass(frozen=True)
class Beyond:
    """A stretch in which every reading lay beyond the range; epoch seconds."""

    quantity: str
    first: float
    last: float
    over: bool
    edge: float

    @property
    def days(self) -> float:
        return (self.last - self.first) / DAY_S


def beyond(quantity: str, series: Series, bears: Range | None) -> tuple[Beyond, ...]:
    """Stretches of at least two readings in a row that were seen beyond the range that the residents' rows bear, from
    the first to the last of them; a pause in which nothing is known ends one."""
    if bears is None or not np.isfinite(bears.low):  # an aim is no range
        return ()
    found: list[Beyond] = []
    over, under = series.seen > bears.high, series.seen < bears.low
    pause = series.longest_pause_s
    for is_over, out, edge in ((True, over, bears.high), (False, under, bears.low)):
        k = 0
        while k < len(series):
            if not out[k]:
                k += 1
                continue
            end = k
            while end + 1 < len(series) and out[end + 1] and series.at[end + 1] - series.at[end] <= pause:
                end += 1
            if end > k:
                found.append(Beyond(quantity, float(series.at[k]), float(series.at[end]), is_over, edge))
            k = end + 1
    return tuple(sorted(found, key=lambda b: b.first))
