"""Temperature: outside what the residents live in, moved too fast, and which machine it comes from."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import timedelta
from itertools import pairwise

from jarbloom.core.findings.facts import Facts, Value, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.hearing import Heard
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.fault import Fault
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.findings import Severity

STEP_C = 2.0  # within a day
HOT_C, COLD_C = 1.5, 1.5  # so far beyond the residents' range it is acted on; less is watched (judgement)
NEAR_END_C = 0.5
STUCK_C = 3.0  # above the set point (the tank's own) and still rising: the heater, not the weather
CORALS_C = 28.5
DISAGREE_C = 3.0


def _recent(facts: Facts) -> tuple[Value, ...]:
    return facts.values("temp", 26)


def _last(facts: Facts) -> Value | None:
    return next(iter(_recent(facts)[-1:]), None)


def _t(facts: Facts, v: Value) -> str:
    return facts.units.temp(v.seen)


@rule("too_hot")
def too_hot(facts: Facts) -> Iterable[Found]:
    last, (low, high) = _last(facts), facts.temp_range
    if last is None or not facts.alive or last.seen < max(high, low) + HOT_C:
        return
    yield Found(
        f"The water reads {_t(facts, last)}; those who live here bear up to {facts.units.temp(high)}. Heat takes the "
        "oxygen: it is the clock.", last.at, ids((last,)),
    )  # fmt: skip


@rule("warm")
def warm(facts: Facts) -> Iterable[Found]:
    last, (low, high) = _last(facts), facts.temp_range
    if last is None or not facts.alive:
        return
    top = max(high, low)
    if not top + NEAR_END_C < last.seen < top + HOT_C and last.seen < facts.tank.temp_c + 2.5:
        return
    yield Found(f"The water reads {_t(facts, last)}, warm for those who live here (up to {facts.units.temp(high)}).",
                last.at, ids((last,)))  # fmt: skip


@rule("heater_on")
def heater_on(facts: Facts) -> Iterable[Found]:
    faults = [e for e in facts.lately(24, Fault) if e.body.device == "heater_on"]
    stuck: list[Entry | Heard] = [*faults, *facts.said("heater_stuck", hours=24)]
    recent, (low, high) = _recent(facts), facts.temp_range
    lit = facts.said("lamp_lit", hours=24)
    last = recent[-1] if recent else None
    hot = last is not None and last.seen >= max(facts.tank.temp_c + STUCK_C, max(high, low))
    rising = len(recent) >= 2 and recent[-1].seen - recent[0].seen >= STEP_C
    if stuck:
        yield Found(
            "The heater does not switch off, by the log: heat, and soon too much of it.",
            max(x.at for x in stuck), ids(stuck),
        )  # fmt: skip
    elif last is not None and hot and lit:
        yield Found(
            f"The water reads {_t(facts, last)} and the heater is on: stuck, and the heat goes on rising.",
            last.at, (*ids((last,)), *ids(lit)),
        )  # fmt: skip
    elif last is not None and hot and rising and last.seen > facts.tank.room_c + 6:
        yield Found(
            f"The water rose to {_t(facts, last)}, far above the room as set ({facts.units.temp(facts.tank.room_c)}): "
            "perhaps the heater is stuck on. Look at its lamp.", last.at, ids(recent[-2:]),
        )  # fmt: skip


@rule("heat_corals")
def heat_corals(facts: Facts) -> Iterable[Found]:
    if not facts.corals:
        return
    days = facts.values("temp", 80)
    over = [v for v in days if v.seen >= CORALS_C]
    last = days[-1] if days else None
    if last is None or last.seen < CORALS_C:
        return
    pale = facts.said("bleached", "coral_bare", hours=72)
    if len({v.entry.day for v in over}) >= 2 or pale or last.seen >= CORALS_C + 1.5:
        yield Found(
            f"{_t(facts, last)} with corals in the tank, over {facts.units.temp(CORALS_C)} on "
            f"{len({v.entry.day for v in over})} days: heat bleaches them.",
            last.at, (*ids(over), *ids(pale)),
        )  # fmt: skip


@rule("too_cold")
def too_cold(facts: Facts) -> Iterable[Found]:
    last, (low, high) = _last(facts), facts.temp_range
    if last is None or not facts.alive or last.seen > min(low, high) - COLD_C:
        return
    yield Found(
        f"The water reads {_t(facts, last)}; those who live here need {facts.units.temp(low)} or more. Cold: "
        "warm it by "
        "a degree an hour at most.", last.at, ids((last,)),
    )  # fmt: skip


@rule("cold_refill")
def cold_refill(facts: Facts) -> Iterable[Found]:
    said = facts.said("cold_water", hours=24)
    changes = facts.lately(24, Change)
    last, recent = _last(facts), facts.values("temp", 72)
    own = facts.tank.temp_c
    cold = last is not None and last.seen <= own - STEP_C
    if said and facts.alive and (cold or last is None or last.at < said[-1].at):
        yield Found("Cold water went in, by your "
                    f"words{f'; it reads {_t(facts, last)}' if last and cold else ''}: let the heater climb, "
                    "and no second change.", said[-1].at, (*ids(said), *(ids((last,)) if last else ())))  # fmt: skip
    elif last is not None and cold and changes and last.at >= changes[-1].at and len(recent) >= 1:
        before = [v for v in recent if v.at <= changes[-1].at]
        if last.seen <= own - 3.0 or (before and before[-1].seen - last.seen >= 3.0):
            yield Found(
                f"The water reads {_t(facts, last)} after the change: a cold step. Let the heater climb, no "
                "second change.",
                last.at, (last.entry.id, changes[-1].id),
            )  # fmt: skip


@rule("temp_step")
def temp_step(facts: Facts) -> Iterable[Found]:
    recent = facts.values("temp", 30)
    if not facts.alive or not recent:
        return
    seen = [v.seen for v in recent]
    if len(recent) >= 2 and max(seen) - min(seen) > STEP_C + 0.05:
        yield Found(
            f"Temperature went from {_t(facts, recent[0])} to {_t(facts, recent[-1])} within a day.",
            recent[-1].at, ids(recent),
        )  # fmt: skip
    elif abs(seen[-1] - facts.tank.temp_c) > STEP_C + 1.0 and facts.now - recent[-1].at <= timedelta(hours=26):
        own = facts.own("temp", recent[-1].at)
        if own is None or abs(seen[-1] - own) > STEP_C + 0.5:
            yield Found(f"The water reads {_t(facts, recent[-1])}, and is set to "
                        f"{facts.units.temp(facts.tank.temp_c)}.",
                        recent[-1].at, ids(recent[-1:]))  # fmt: skip


@rule("thermometers")
def thermometers(facts: Facts) -> Iterable[Found]:
    said = [h for h in facts.said("test_other", hours=24) if any(n.quantity == "temp" for n in h.numbers)
            or "thermometer" in h.text.lower()]  # fmt: skip
    said += facts.said("heater_against", hours=24)
    for heard in said:
        numbers = [float(x.replace(",", ".")) for x in _degrees(heard.text)]
        if len(numbers) >= 2 and max(numbers) - min(numbers) >= DISAGREE_C:
            yield Found(
                f"Two thermometers, {min(numbers):g} and {max(numbers):g}: a contradiction. Go by the worse until a "
                "third tells; a stuck heater may be behind it.", heard.at, (heard.entry.id,),
            )  # fmt: skip
            return
    for a, b in pairwise(facts.values("temp", 24)):
        if abs(a.seen - b.seen) >= DISAGREE_C and b.at - a.at <= timedelta(minutes=60):
            yield Found(
                f"{_t(facts, a)} and {_t(facts, b)} within the hour: a contradiction. Check with a second thermometer.",
                b.at, ids((a, b)), Severity.TEST,
            )  # fmt: skip
            return


def _degrees(text: str) -> list[str]:
    return re.findall(r"(?<![\w.,:])(\d{2}(?:[.,]\d)?)(?![\w:]|\s?(?:%|l\b|g\b|h\b|min|ml|cm))", text.lower())
