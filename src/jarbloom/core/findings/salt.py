"""Salinity: off the target, moved in a step, lifted by salt top-offs, or not read for long."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import timedelta
from itertools import pairwise

from jarbloom.core.animals.names import plural
from jarbloom.core.findings.facts import Facts, Value, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.fault import Fault
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.model.findings import Severity
from jarbloom.units import NBSP, figure

OFF, FAR = 1.0, 2.0  # g/kg
BESIDE, KILLS = 2.0, 10.0  # g/kg outside the range of a kind: borne for a while, not borne (judgement)
BRINE = 10.0  # g/kg: down to about here fish of the sea are kept for weeks by those who treat them (practice)
SEA_G_KG = 35.0
STEP, STEP_DAYS = 2.0, 3.0
UNREAD_DAYS = 14
TOO_DIFFERENT = 4.0  # g/kg between the shop's water and this one
SHOP = re.compile(
    r"\b(?:shop|store|bag|seller'?s?)\b[^.;]{0,24}?\bsal(?:inity)?\s*(?:is|was|at|of)?\s*(\d{1,2}(?:[.,]\d)?)"
)


def _last(facts: Facts) -> Value | None:
    return facts.last("salinity", 24 * 21) if facts.salted else None


def _off(facts: Facts) -> tuple[Value, float] | None:
    last = _last(facts)
    return (last, last.seen - facts.tank.salinity_g_kg) if last is not None else None


@rule("salinity_off")
def salinity_off(facts: Facts) -> Iterable[Found]:
    off = _off(facts)
    if off is None or not OFF - 0.05 <= abs(off[1]) < FAR:
        return
    yield Found(f"Salinity reads {off[0].typed}, {figure(abs(off[1]), 2)} off the "
                f"{figure(facts.tank.salinity_g_kg)} aimed at.",
                off[0].at, ids((off[0],)))  # fmt: skip


@rule("salinity_high")
def salinity_high(facts: Facts) -> Iterable[Found]:
    fresh = facts.last("salinity", 24 * 21) if not facts.salted and not facts.alive else None
    if fresh is not None and fresh.seen >= FAR:
        yield Found(
            f"Salinity reads {fresh.typed} in a tank set up as fresh water: who lives in fresh water does not go into "
            "it.",
            fresh.at, ids((fresh,)), Severity.WATCH, acts=("second_instrument",),
        )  # fmt: skip
    off = _off(facts)
    if off is None or off[1] < FAR - 0.05:
        return
    severity = Severity.ACT if facts.alive else Severity.WATCH
    yield Found(
        f"Salinity reads {off[0].typed}, {figure(off[1], 2)}{NBSP}g/kg above the aim: salinity drift by evaporation, "
        "top-off or mixing.", off[0].at, ids((off[0],)), severity,
    )  # fmt: skip


@rule("salinity_low")
def salinity_low(facts: Facts) -> Iterable[Found]:
    off = _off(facts)
    if off is None or off[1] > -FAR + 0.05:
        return
    severity = Severity.ACT if facts.alive else Severity.WATCH
    yield Found(f"Salinity reads {off[0].typed}, {figure(-off[1], 2)}{NBSP}g/kg below the aim.",
                off[0].at, ids((off[0],)), severity)  # fmt: skip


@rule("wrong_water")
def wrong_water(facts: Facts) -> Iterable[Found]:
    """Each kind that lives here against the salinity as last read, else as set."""
    last = facts.last("salinity", 24 * 21)
    here = last.seen if last is not None else facts.tank.salinity_g_kg
    out = {k: max(k.salt_low - here, here - k.salt_high) for k in facts.kinds if k.key != "unknown"}
    worst = max(out, key=lambda k: out[k], default=None)
    if worst is None or out[worst] < BESIDE:
        return
    kept_low = worst.group == "fish" and BRINE <= here < worst.salt_low
    kills = out[worst] >= KILLS and not kept_low
    came = [e for e in facts.log.kinds(Arrival) if e.body.species == worst.key]
    read = f"reads {last.typed}" if last is not None else f"is set to {figure(here)}{NBSP}g/kg"
    yield Found(
        f"{plural(worst.name, 2)[:1].upper()}{plural(worst.name, 2)[1:]} live in {figure(worst.salt_low)} to "
        f"{figure(worst.salt_high)}{NBSP}g/kg of salt, and the salinity here {read}: "
        + ("they die of that within hours to days. " if kills else "they bear that for a while only. ")
        + "Read it with a second instrument; is the tank set up for this water?",
        facts.now, (*ids(came), *ids((last,) if last is not None else ())), Severity.ACT if kills else Severity.TEST,
        acts=None if kills else ("second_instrument",),
    )  # fmt: skip


@rule("salinity_step")
def salinity_step(facts: Facts) -> Iterable[Found]:
    for a, b in reversed(list(pairwise(facts.values("salinity", 24 * 10)))):
        if abs(b.seen - a.seen) >= STEP and b.at - a.at <= timedelta(days=STEP_DAYS) and facts.alive:
            yield Found(
                f"Salinity went from {a.typed} to {b.typed} within "
                f"{(b.at - a.at).total_seconds() / 3600:.0f}{NBSP}hours: "
                "a salinity step.", b.at, ids((a, b)),
            )  # fmt: skip
            return
    last = _last(facts)
    hurt = facts.said("coral_shut", "snail_shut", "pale", "list", hours=72)
    if last is not None and hurt and abs(last.seen - facts.tank.salinity_g_kg) >= STEP and facts.alive:
        yield Found(
            f"Salinity reads {last.typed} and is aimed at {figure(facts.tank.salinity_g_kg)}: a salinity step, "
            "and they show it.", last.at, (*ids((last,)), *ids(hurt)),
        )  # fmt: skip
        return
    yield from _newcomers_step(facts)


def _newcomers_step(facts: Facts) -> Iterable[Found]:
    """Newcomers from water of another salinity, by the words about the shop or the bag."""
    for heard in facts.heard(72) if facts.came(72) else ():
        shop = _shop_salinity(heard.text)
        if shop is None:
            continue
        now = facts.last("salinity", 24 * 21)
        here = now.seen if now is not None else facts.tank.salinity_g_kg
        if abs(shop - here) >= TOO_DIFFERENT:
            unwell = facts.said("list", "pale", "bottom", "breath", "gasp", "dart", hours=72)
            yield Found(
                f"Newcomers went from {figure(shop)} to about {figure(here)}{NBSP}g/kg at once: a salinity "
                "step. Do not "
                "swing the tank for them; dim, quiet, look again, expect losses.",
                heard.at, (heard.entry.id, *ids(unwell)), Severity.ACT if unwell else Severity.TEST,
                acts=("look", "air"), tests=("salinity",),
            )  # fmt: skip
            return


def _shop_salinity(text: str) -> float | None:
    found = SHOP.search(text.lower())
    return float(found[1].replace(",", ".")) if found else None


@rule("salinity_unread")
def salinity_unread(facts: Facts) -> Iterable[Found]:
    if not facts.salted:
        return
    last = facts.last("salinity", 24 * 400)
    first = facts.log[0].at if facts.log else facts.now
    since = last.at if last is not None else first
    days = (facts.now - since).days
    if days >= UNREAD_DAYS:
        yield Found(f"Salinity was last read {days} days ago." if last else "Salinity was never read.", facts.now)


@rule("topup_salt")
def topup_salt(facts: Facts) -> Iterable[Found]:
    said = facts.said("topoff_salt", hours=24 * 14)
    salty = [e for e in facts.lately(24 * 14, TopOff) if e.body.salty]
    litres = sum(e.body.litres for e in salty)
    if salty and not facts.salted and facts.alive:
        yield Found(
            f"Salt water went into a fresh-water tank: {facts.units.volume(litres)} of sea water are about "
            f"{figure(SEA_G_KG * litres / facts.volume, 2)}{NBSP}g/kg here. Read the salinity; fresh changes take it "
            "out.",
            salty[-1].at, ids(salty), Severity.TEST,
        )  # fmt: skip
    if not (said or salty) or not facts.salted:
        return
    lifted = facts.tank.salinity_g_kg * litres / facts.volume
    words = f": {facts.units.volume(litres)} lift the salinity by about {figure(lifted, 2)}{NBSP}g/kg" if litres else ""
    last = max([h.at for h in said] + [e.at for e in salty])
    yield Found(f"Evaporation was made good with salt water{words}. Top up with fresh water only, and test the "
                "salinity.",
                last, (*ids(said), *ids(salty)))  # fmt: skip


@rule("topoff_stuck")
def topoff_stuck(facts: Facts) -> Iterable[Found]:
    said = facts.said("topoff_stuck", hours=24)
    faults = [e for e in facts.lately(24, Fault) if e.body.device == "topoff"]
    if said or faults:
        last = facts.last("salinity", 24)
        words = f"; salinity reads {last.typed}" if last is not None else ""
        at = max([h.at for h in said] + [e.at for e in faults])
        yield Found(f"A top-off ran on, by your words{words}: a salinity step. Unplug it first.", at,
                    (*ids(said), *ids(faults)))  # fmt: skip


@rule("salt_unknown")
def salt_unknown(facts: Facts) -> Iterable[Found]:
    said = facts.said("salt_wrong", hours=24)
    if said and facts.salted:
        yield Found("New water of unknown salinity went in, by your words: a salinity step may be under way.",
                    said[-1].at, ids(said))  # fmt: skip
