"""Page data of an arrival day."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.animals.acclimatise import Advice, WayOver, WayStep
from jarbloom.core.animals.arrival import FEEDING, ArrivalStep
from jarbloom.core.animals.names import plural
from jarbloom.core.model.kit import Kit
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.schools import BagWater, Schools
from jarbloom.core.model.species import Animals
from jarbloom.units import NBSP, Units, figure, food_text, mg_text


@dataclass(frozen=True)
class ArrivalRow:
    key: str
    kind: str
    title: str
    words: str
    amount: str
    state: str  # done | now | waiting | later
    when: str
    ends_at: str


@dataclass(frozen=True)
class AcclimatisingRow:
    way: str
    name: str
    time: str
    freed: str
    jump: str
    chosen: bool
    recommended: bool


def step_rows(
    steps: tuple[ArrivalStep, ...], now: datetime, units: Units, bag_water: BagWater, bags: int = 1
) -> tuple[ArrivalRow, ...]:
    return tuple(_row(s, now, units, bag_water, bags) for s in steps)


def _row(s: ArrivalStep, now: datetime, units: Units, bag_water: BagWater, bags: int) -> ArrivalRow:
    state, when, ends = "later", "", ""
    if s.done_at is not None:
        state, when = "done", f"{s.done_at:%H:%M}"
    elif s.waiting(now):
        assert s.opens is not None
        state, ends = "waiting", s.opens.isoformat()
        day = "" if s.opens.date() == now.date() else f"{s.opens:%a} "
        when = f"from {day}{s.opens:%H:%M}"
    elif s.current:
        state = "now"
    return ArrivalRow(
        s.step.key, s.kind, s.step.title, _words(s, bag_water), _amount(s.step, units, bags), state, when, ends
    )


def _words(s: ArrivalStep, bag_water: BagWater) -> str:
    match s.kind:
        case "lights":
            return "Dim light keeps them calm. It stays off until tomorrow morning."
        case "float":
            return "Unopened: an open bag gives off carbon dioxide, its pH rises and frees ammonia."
        case "portion":
            return "Pour so much tank water in, then as much of the mix down the drain, never into the tank."
        case "drip":
            return "Through an air line with a knot, into a bucket below the tank. When it has doubled, pour half off."
        case "stay":
            return "Filtered and aired; ammonia read every day, since its filter is new: change water as salt as this."
        case "salt":
            return "With water mixed the day before, read on two instruments. Wait a day when they look unwell."
        case "across":
            return bag_water.short
        case "watch":
            return "Breathing, where in the water, fins, colour, who is chased. Look on the floor behind the tank too."
    return "Gently, room light first. Count heads, and look behind the tank for those who jumped."


def _amount(step: WayStep, units: Units, bags: int) -> str:
    parts = []
    each = f" in each of {bags}" if bags > 1 else ""
    if step.litres and not step.drops_per_s:
        parts.append(f"{units.volume(step.litres)}{each}")
    if step.drops_per_s:
        parts.append(f"about {figure(step.drops_per_s, 2)} drops a second{each}")
    if step.minutes >= 24 * 60:
        parts.append("then a day")
    elif step.minutes:
        parts.append(f"then {step.minutes:.0f}{NBSP}min")
    return ", ".join(parts)


def way_rows(advice: Advice, chosen: str, schools: Schools) -> tuple[AcclimatisingRow, ...]:
    return tuple(_way(c, schools.way(c.way).name, advice, chosen) for c in advice.courses.values())


def _way(c: WayOver, name: str, advice: Advice, chosen: str) -> AcclimatisingRow:
    hours, minutes = divmod(round(c.minutes), 60)
    days = hours // 24
    time = f"{days} days" if days > 1 else (f"{hours}{NBSP}h " if hours else "") + f"{minutes}{NBSP}min"
    jump = "none to speak of" if c.left <= 0.2 else f"{figure(c.left, 2)} of what they bear in a quarter hour"
    return AcclimatisingRow(c.way, name, time, mg_text(c.freed), jump, c.way == chosen, c.way == advice.way)


def feeding_rows(begun: datetime, ration_g: float) -> tuple[tuple[str, str, str], ...]:
    """(day, amount, words) of the first days' feeding."""
    return tuple(
        (f"{begun + timedelta(days=f.day):%a %-d %b}", food_text(f.grams(ration_g)) if f.share else "none",
         f.words)
        for f in FEEDING
    )  # fmt: skip


def heads(animals: tuple[Animals, ...], reference: Reference) -> tuple[tuple[str, str, int], ...]:
    """(key, name, count) of those in the bag."""
    names = reference.species
    return tuple((a.species, plural(names[a.species].name if a.species in names else a.species, 2), a.count)
                 for a in animals)  # fmt: skip


def bag_typed(found: Mapping[str, float], kit: Kit, units: Units) -> dict[str, str]:
    """What was read in a bag (core/journal/line/elsewhere.py) as the form of the arrival day has it: in the keeper's
    units, ammonia on the scale of the kit."""
    shown = {
        "ph": found.get("ph"),
        "temp_c": units.value(found["temp"], "temp") if "temp" in found else None,
        "salinity": found.get("salinity"),
        "ammonia": found["ammonia"] * kit.ammonia.per_n if "ammonia" in found else None,
    }
    return {name: figure(value, 3) for name, value in shown.items() if value is not None}
