"""Poison, copper, and what new water brings: clean waste tests see none of it."""

from __future__ import annotations

from collections.abc import Iterable

from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.findings.signs import gill_signs, hours_between
from jarbloom.core.journal.hearing import Heard
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.exposure import Exposure
from jarbloom.core.journal.kinds.new_thing import NewThing
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.findings import Severity
from jarbloom.units import figure

AFTER_WATER_H = 24
LARGE_TOPOFF = 0.08  # of the tank: more untreated water than evaporation explains
HURT = ("dart", "list", "invert_ill", "snail_up", "bottom", "gasp", "breath", "redgill", "slime", "dead", "snail_shut")


def hurt(facts: Facts, hours: float) -> tuple[Heard, ...]:
    """Signs that fit poison or new water, an air breather's gulp left out."""
    return tuple(
        h for h in facts.said(*HURT, hours=hours)
        if h.any(*(k for k in HURT if k != "gasp")) or gill_signs(facts, h)
    )  # fmt: skip


@rule("toxin")
def toxin(facts: Facts) -> Iterable[Found]:
    near = [*facts.said("poison", hours=72)]
    entries = [*facts.lately(72, Exposure)]
    things = [*facts.lately(72, NewThing)]
    signs = hurt(facts, 72)
    deaths = facts.lately(48, Death)
    strong = facts.said("poison_strong", hours=72)
    if strong or ((near or entries) and (signs or deaths)):
        last = max([h.at for h in (*near, *signs, *strong)] + [e.at for e in (*entries, *deaths)])
        shown = "Something that may poison came near, and animals show it" if signs or deaths else "A strong poison"
        yield Found(
            f"{shown}: treat it as a toxin without waiting. Waste tests at zero are not all; they cannot see it.",
            last, (*ids(near), *ids(entries), *ids(signs), *ids(strong)),
        )  # fmt: skip
    elif things and signs and not facts.said("gasp", "breath", hours=72) and _tests_clean(facts):
        last = max(h.at for h in signs)
        yield Found(
            "Something new went in within three days, the waste tests are clean, and animals show signs: it may be a "
            "toxin. A zero is not all.", last, (*ids(things), *ids(signs)), share=0.3,
        )  # fmt: skip


def _tests_clean(facts: Facts) -> bool:
    return all(c.reading is None or c.reading.reading.low <= 0 for c in facts.credible.values())


@rule("exposed")
def exposed(facts: Facts) -> Iterable[Found]:
    near, entries = facts.said("poison", hours=72), facts.lately(72, Exposure)
    if near or entries:
        last = max([h.at for h in near] + [e.at for e in entries])
        yield Found("Something that may poison came near the tank. Clean waste tests do not exclude it.",
                    last, (*ids(near), *ids(entries)))  # fmt: skip


@rule("copper")
def copper(facts: Facts) -> Iterable[Found]:
    said = facts.said("copper", hours=72)
    read = [v for v in facts.values("copper", 72) if v.seen > 0.02]
    if not (said or read) or not facts.inverts:
        return
    last = max([h.at for h in said] + [v.at for v in read])
    words = f"Copper reads {read[-1].typed}" if read else "Copper, by your words"
    names = facts.inverts[0].name
    yield Found(
        f"{words}, and {names} in the tank: it kills invertebrates within hours.", last, (*ids(said), *ids(read))
    )


@rule("new_thing")
def new_thing(facts: Facts) -> Iterable[Found]:
    things, said = facts.lately(72, NewThing), facts.said("new_thing", hours=72)
    if things or said:
        last = max([e.at for e in things] + [h.at for h in said])
        yield Found("Something new went into the tank: the first suspect if anything is wrong in three days.",
                    last, (*ids(things), *ids(said)))  # fmt: skip


@rule("untreated")
def untreated(facts: Facts) -> Iterable[Found]:
    said = facts.said("untreated", hours=24)
    chlorine = [v for v in facts.values("chlorine", 24) if v.seen > 0.02]
    treated = facts.lately(24, Conditioner)
    last_said = max([h.at for h in said] + [v.at for v in chlorine], default=None)
    if last_said is None or not facts.alive:
        return
    if any(e.at > last_said for e in treated) and not chlorine:
        return
    words = (
        f"Chlorine reads {chlorine[-1].typed}" if chlorine else "Tap water went in without conditioner, by your words"
    )
    yield Found(f"{words}: chlorine burns gills and kills the bloom within hours, and no waste test shows it.",
                last_said, (*ids(said), *ids(chlorine)))  # fmt: skip


@rule("after_water")
def after_water(facts: Facts) -> Iterable[Found]:
    """Signs that began within a day of new water: what came in, or a step in what it brought."""
    if not facts.alive:
        return
    new: list[Entry[Change] | Entry[TopOff]] = [
        *facts.lately(48, Change),
        *(e for e in facts.lately(48, TopOff) if e.body.litres > LARGE_TOPOFF * facts.volume),
    ]
    for heard in reversed(hurt(facts, 24)):
        since = [e for e in new if 0 <= (heard.at - e.at).total_seconds() / 3600 <= AFTER_WATER_H]
        if not since:
            continue
        last = since[-1]
        treated = any(hours_between(c.at, last.at) <= 6 for c in facts.lately(72, Conditioner))
        hours = (heard.at - last.at).total_seconds() / 3600
        amount = facts.units.volume(last.body.litres)
        words = "" if treated else " and no conditioner stands in the log: chlorine is suspected"
        yield Found(
            f"It began {figure(max(hours, 0.1), 2)} hours after {amount} of new water{words}. Compare temperature, pH "
            "and salt of tank and tap before anything else goes in.",
            heard.at, (heard.entry.id, last.id), Severity.ACT, acts=("air", "second_thermometer") if treated else None,
        )  # fmt: skip
        return
