"""What would bring a cycle forward, in words: what is done, the days gained with their range, and what to mind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.ensemble import HORIZON_DAYS
from jarbloom.core.bloom.levers import LEAST_RISE, Lever
from jarbloom.units import NBSP, figure, percent


@dataclass(frozen=True)
class LeverRow:
    act: str
    gain: str
    mind: str
    helps: bool


MIND = {
    "warm": "Only while nobody lives in it: back to the animals’ temperature, two degrees a day at most, before they "
    "come. Warm water holds less oxygen: keep the surface moving. Unplug the heater before it is touched.",
    "more": "Spends alkalinity twice as fast, and nitrite that climbs too high stalls its own half of the bloom.",
    "less": "Spends less alkalinity, and raises a smaller bloom: the batch has to be smaller too.",
    "fed": "What rots gives less by the week, and a bloom that is not fed shrinks. Not where life on the rock is to be "
    "kept: ammonia harms it.",
    "alkalinity": "Against leaving KH as low as it is. Dissolved first, in two or three portions over the day; KH and "
    "pH read the next day.",
    "borrowed": "From a tank that has been healthy for months: whatever lives in it comes along. Kept wet, moved "
    "within the hour, never under the tap.",
    "change": "Water of the same temperature, with conditioner. It takes no bloom away: that sits on the media.",
}


def lever_rows(found: Sequence[Lever], s: Situation) -> tuple[LeverRow, ...]:
    return tuple(LeverRow(_act(x, s), _gain(x, s), MIND[x.key], x.helps) for x in found)


def _act(x: Lever, s: Situation) -> str:
    match x.key:
        case "warm":
            return f"Keep it at {s.units.temp(x.amount)} until it is ready"
        case "more" | "less":
            return f"Dose {figure(x.amount, 2)}{NBSP}mg/L each time instead of {figure(s.tank.target_mg_n_l, 2)}"
        case "fed":
            return f"Dose {figure(x.amount, 2)}{NBSP}mg/L of ammonia as N whenever it reads zero"
        case "alkalinity":
            return f"{figure(x.amount, 2)}{NBSP}g of sodium bicarbonate today"
        case "borrowed":
            return f"{figure(x.amount)}{NBSP}% of a running filter’s media today"
        case _:
            return f"Change {percent(x.amount)} of the water today"


def _gain(x: Lever, s: Situation) -> str:
    low, likely, high = (round(d) for d in x.sooner)
    if not x.helps and likely >= 0:
        return "Hardly any difference."
    before, after = x.in_time
    chance = ""
    if abs(after - before) >= LEAST_RISE:
        chance = f"Ready within {HORIZON_DAYS} days with {percent(after)} instead of {percent(before)} probability."
    if likely == 0:
        return chance
    return f"About {_days(likely)}; {_days(low)} to {_days(high)} in eight of ten courses. {chance}".rstrip()


def _days(n: int) -> str:
    if n == 0:
        return "no day"
    return f"{abs(n)} day{'s' if abs(n) != 1 else ''} {'sooner' if n > 0 else 'later'}"
