"""The clock of a detoxifier as a strip of hours, and in a line."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.upset.binder import binder_clock
from jarbloom.units import percent
from jarbloom.views.drawn.axes import r1
from jarbloom.views.drawn.stipple import open_dots


@dataclass(frozen=True)
class BinderLine:
    """`surely`, `perhaps`, `now`: px on a strip of BINDER_W."""

    words: str
    surely: float
    now: float
    dots: str
    ticks: tuple[tuple[float, str], ...]
    short: str
    hint: str


BINDER_W = 412.0


def binder_line(s: Situation) -> BinderLine | None:
    """The strip of hours of a detoxifier: surely bound, then perhaps."""
    clock = binder_clock(s.entries, s.now)
    if clock is None:
        return None
    whole = (clock.gone_at - clock.entry.at) / timedelta(hours=1)

    def x(hours: float) -> float:
        return r1(BINDER_W * hours / whole)

    surely = x((clock.surely_until - clock.entry.at) / timedelta(hours=1))
    retest = f" Test again at {clock.retest_at:%a %H:%M}." if clock.retest_at else ""
    again = f"; test again {clock.retest_at:%a %H:%M}" if clock.retest_at else ""
    return BinderLine(
        f"{clock.entry.body.words(s.reference.species, s.units)}, {clock.entry.at:%a %H:%M}: about "
        f"{percent(clock.bound)} of what was free then is still bound",
        surely, x((s.now - clock.entry.at) / timedelta(hours=1)), open_dots(surely, BINDER_W, "binder"),
        tuple((x(h), f"{clock.entry.at + timedelta(hours=h):%a %H:%M}") for h in (0, 24, 48)),
        f"Ammonia bound, surely until {clock.surely_until:%a %H:%M}, {percent(clock.bound)} still{again}",
        f"A test still shows bound ammonia. No second measure before {clock.surely_until:%a %H:%M}, and only with air "
        f"running: it takes oxygen.{retest}",
    )  # fmt: skip
