"""Oxygen, flow and power: what they breathe, what moves the water, and what stood."""

from __future__ import annotations

import math
from collections.abc import Iterable
from datetime import time, timedelta

from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.findings.signs import gill_signs
from jarbloom.core.journal.kinds.fault import Fault
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.journal.switches import switched_off
from jarbloom.core.model.findings import Severity
from jarbloom.core.vessel.heat import areas
from jarbloom.core.water.oxygen import by_night
from jarbloom.units import NBSP, figure

O2_ACT, O2_WATCH = 4.0, 5.0  # mg/L; 4 for the tender, 3 for most (docs/science.md, oxygen)
MORNING = time(4), time(9, 30)  # signs before the lights
LONG_CUT_H, NO_CUT_H = 1.0, 0.75  # a shut filter is out of oxygen within the hour
OPEN_SHARE = 4.0  # an open filter bears so many times as long (docs/model.md, state and equations)
ESTIMATE_ACT = 3.5  # mg/L by the sums: an estimate good to one or two
LIVED_WITH = 2.0  # mg/L that a month without a sign takes off it: as much as the sums may be off


@rule("oxygen_low")
def oxygen_low(facts: Facts) -> Iterable[Found]:
    last = facts.last("oxygen", 24)
    if last is None or not facts.alive or last.seen >= O2_WATCH:
        return
    severity = Severity.ACT if last.seen < O2_ACT else Severity.TEST
    yield Found(f"Oxygen reads {last.typed}{NBSP}mg/L: below {figure(O2_ACT)} they suffer, and the night takes more.",
                last.at, ids((last,)), severity)  # fmt: skip


@rule("oxygen_night")
def oxygen_night(facts: Facts) -> Iterable[Found]:
    """Gill signs before the lights go on, or a big one dead at dawn."""
    dawns = []
    for heard in facts.heard(24 * 7):
        if not (gill_signs(facts, heard) or (heard.any("dead") and "gills" in heard.text.lower())):
            continue
        if heard.any("dawn", "eased") or MORNING[0] <= heard.at.time() <= MORNING[1]:
            dawns.append(heard)
    if not dawns or facts.said("gas", hours=24):
        return
    last = dawns[-1]
    yield Found(
        f"Signs at dawn{f' on {len({h.entry.day for h in dawns})} days' if len(dawns) > 1 else ''}: oxygen runs "
        "short by night. The next night will be the same without more air.", last.at, ids(dawns),
    )  # fmt: skip


def oxygen_at_dawn(facts: Facts, surface: str) -> float:
    """mg/L towards morning by the sums, with the usual ration: good to one or two."""
    warm = facts.water_c
    today, area = facts.upkeep, areas(facts.tank).surface
    return by_night(today.moving_g, today.load, today.feed_g, area, surface, warm, facts.levels.salinity_g_kg).predicted


@rule("oxygen_computed")
def oxygen_computed(facts: Facts) -> Iterable[Found]:
    predicted = oxygen_at_dawn(facts, facts.tank.surface) if facts.alive else math.inf
    if predicted < ESTIMATE_ACT - (LIVED_WITH if _lived_with(facts) else 0.0):
        yield Found(
            f"By its sums oxygen falls to about {figure(predicted, 2)}{NBSP}mg/L by night at "
            f"{facts.units.temp(facts.water_c)}, good to one or two.", facts.now,
        )  # fmt: skip


def _lived_with(facts: Facts) -> bool:
    """A month of nights of the same stock at the same warmth, of which the log tells, and nobody gasped: that says more
    than the sums."""
    month, week = 24.0 * 30, facts.since(24.0 * 7)
    told = any(e.at <= week for e in facts.log.since(facts.since(month).date())[:1])
    same = told and not facts.newcomers(month) and abs(facts.water_c - facts.tank.temp_c) <= 1.0
    return same and not facts.said("gasp", "inflow", "breath", "still_surface", "film", hours=month)


@rule("film")
def film(facts: Facts) -> Iterable[Found]:
    said = facts.said("film", hours=48)
    if said and facts.alive:
        yield Found("A film lies on the surface: it keeps oxygen out.", said[-1].at, ids(said))


@rule("milky")
def milky(facts: Facts) -> Iterable[Found]:
    said = facts.said("milky", hours=96)
    if said:
        yield Found(
            "The water is milky: other bacteria, which take oxygen by night."
            if facts.alive else "The water is milky: usual in the first weeks, it clears by itself.",
            said[-1].at, ids(said),
        )  # fmt: skip


@rule("green")
def green(facts: Facts) -> Iterable[Found]:
    said = facts.said("green", hours=168)
    if said:
        yield Found("The water is green: it makes oxygen by day and takes it by night.", said[-1].at, ids(said))


@rule("flow_lost")
def flow_lost(facts: Facts) -> Iterable[Found]:
    said = facts.said("weak_flow", hours=96)
    faults = [e for e in facts.lately(96, Fault) if e.body.device in ("filter", "pump")]
    pumps = [o for o in switched_off(facts.log) if o.device == "pump"]
    if said or faults:
        last = max([h.at for h in said] + [e.at for e in faults])
        yield Found(
            "Hardly any flow, by the log: no oxygen, and no food for the colony.", last, (*ids(said), *ids(faults))
        )
    elif pumps and facts.alive:
        yield Found("The flow pump is switched off: watch breathing, and switch it on before night.", facts.now,
                    severity=Severity.WATCH, acts=("look",))  # fmt: skip
    elif pumps:
        yield Found("The flow pump is switched off: nobody goes in before it runs.", facts.now,
                    severity=Severity.KNOW, acts=(), tests=())  # fmt: skip


@rule("filter_off")
def filter_off(facts: Facts) -> Iterable[Found]:
    off = [o for o in switched_off(facts.log) if o.device == "filter"]
    if off and (facts.now.date() - off[0].since).days >= 0:
        yield Found(
            f"The filter has been off since {off[0].since:%-d %b}: what stands in it loses its bloom.", facts.now
        )


@rule("power_now")
def power_now(facts: Facts) -> Iterable[Found]:
    said = [h for h in facts.said("power_out", hours=12) if h.any("out_still") or "since" in h.text.lower()]
    back = facts.said("calm", hours=12)
    cuts = facts.lately(12, PowerCut)
    if (
        said
        and facts.alive
        and not any(c.at > said[-1].at for c in cuts)
        and not any(h.at > said[-1].at and "back" in h.text.lower() for h in back)
    ):
        yield Found("The power is off: oxygen is the clock, a warm or crowded tank has hours. Battery air or "
                    "stirring by hand, and no food.", said[-1].at, ids(said))  # fmt: skip


@rule("power_filter")
def power_filter(facts: Facts) -> Iterable[Found]:
    """Cuts that a filter does not bear, and filters that stood, by words."""
    for cut in facts.lately(168, PowerCut):
        bears = LONG_CUT_H * (OPEN_SHARE if _open(facts, cut.body.filter_was, cut.body.where) else 1.0)
        if cut.body.hours < min(bears, 4.0) and not (cut.body.hours >= NO_CUT_H and facts.salted and facts.alive):
            continue
        foul = facts.said("eggs_smell", "smell", "gasp", "inflow", hours=48)
        long = cut.body.hours >= 4
        yield Found(
            f"{figure(cut.body.hours)}{NBSP}hours without power: a shut filter that stood loses part of its bloom, "
            "ammonia shows in one to three days.",
            cut.at, (cut.id, *ids(foul)),
            Severity.ACT if foul else None,
            acts=("rinse_filter",) if long and facts.now - cut.at <= timedelta(days=1) else (),
        )  # fmt: skip
        return
    said = facts.said("stood", hours=168)
    if said:
        yield Found(
            "The filter stood without flow, by your words: never just switch it on. Empty it, rinse it in tank water, "
            "then test daily.", said[-1].at, ids(said),
            Severity.ACT if facts.now - said[-1].at <= timedelta(days=1) else None, acts=("rinse_filter", "air"),
        )  # fmt: skip
        return
    out = [h for h in facts.said("power_out", hours=168) if not h.any("out_still")]
    if out and not facts.lately(168, PowerCut):
        yield Found("The power was out, by your words: log it with its hours ('power 6h'). A filter that stood "
                    "for more than an hour loses part of its bloom.", out[-1].at, ids(out))  # fmt: skip


def _open(facts: Facts, was: str, told: str) -> bool:
    """Whether the filter stood open to the tank: as told, else by its kind."""
    if told:
        return was == "open"
    return bool(facts.tank.filters) and all(
        f.kind in ("internal", "sponge", "sump", "hang_on") for f in facts.tank.filters
    )


@rule("sulphide")
def sulphide(facts: Facts) -> Iterable[Found]:
    said = facts.said("eggs_smell", hours=24)
    if said:
        yield Found("A smell of bad eggs: sulphide, from a filter that stood or a deep bed. It stops breathing "
                    "at once.",
                    said[-1].at, ids(said))  # fmt: skip
