"""What the forecast asks of a batch: the two weeks after it, its first day, and the water for those that follow."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from jarbloom.core.bloom.capacity import carries, holds
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.outlook import CERTAIN, BatchOutlook
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.proof import first_clean, prove
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.core.stocking.check import Check, Gate
from jarbloom.core.stocking.pace import REST_WAITS
from jarbloom.units import load_text, percent

GROWS_ON = 1.1  # so much more to come is worth a word
FIRST_DAY_CERTAIN = 0.98  # so sure one wants to be of the day on which nobody is looking yet (judgement)
OF_ITS_OWN_DAY = frozenset({"p_safe", "headroom", "first_day", "rest"})  # asked anew for who comes along


def by_the_course(
    tank: Tank, entries: Sequence[Entry], outlook: BatchOutlook, forecast: Forecast, reference: Reference
) -> tuple[Check, ...]:
    return (
        _headroom(outlook, forecast, reference.schools.pace[tank.pace].full_load),
        _p_safe(outlook),
        *_lost(tank, entries, forecast, reference),
        *_first_day(outlook),
        *_rest(outlook, tank, entries, reference, forecast.as_of),
    )


def may_come_along(gate: Gate, outlook: BatchOutlook) -> bool:
    """Whether a batch may go in on the same day as the ones before it, into an empty tank: the water bears all of them
    together with the certainty that the gate asks of one, and nothing else keeps it out. Fed by few the bloom would
    shrink, and the next would meet less of it (measured in docs/planner.md)."""
    p, day = outlook.p_at_once, outlook.p_at_once_first_day
    if p is None or day is None or p < CERTAIN or day < FIRST_DAY_CERTAIN:
        return False
    return {c.key for c in gate.holding} <= OF_ITS_OWN_DAY


def _headroom(outlook: BatchOutlook, forecast: Forecast, full_load: bool) -> Check:
    """The rule is `capacity.holds`, where the full load is asked beforehand `capacity.carries`; the sentence gives both
    sides."""
    sure, wanted, grown = forecast.sure, outlook.on_the_day, outlook.together
    if not full_load:
        ok = holds(grown, forecast.ceiling)
        text = (
            f"The bloom surely carries {load_text(sure)} a day and grows while it is watched; grown up, all come "
            f"to {load_text(grown)}, the filter to {load_text(forecast.ceiling)} at most."
        )
        return Check("headroom", ok, text, "" if ok else "more media, or fewer animals")
    text = (
        f"The bloom surely carries {load_text(sure)} a day; with this batch, grown up, it has to carry "
        f"{load_text(wanted)}"
    )
    if grown > GROWS_ON * wanted:
        text += f", and {load_text(grown)} once those here are grown up too: the bloom grows with them"
    missing = f"{load_text(wanted - sure)} a day" if sure < wanted else ""
    if not missing and forecast.ceiling < grown:
        text += f". The filter comes to {load_text(forecast.ceiling)} at most"
        missing = "more media, or fewer animals"
    return Check("headroom", carries(sure, wanted, grown, forecast.ceiling), f"{text}.", missing)


def _p_safe(outlook: BatchOutlook) -> Check:
    p = outlook.p_safe_today if outlook.p_safe_today is not None else outlook.p_safe
    if p is None:
        return Check("p_safe", False, "It is planned too far ahead for a forecast.", "a nearer date")
    ok = p >= CERTAIN
    return Check(
        "p_safe",
        ok,
        f"{percent(p)} of the forecasts keep ammonia and nitrite under the limits for 14 days; "
        f"{percent(CERTAIN)} is asked.",
        "" if ok else "a surer forecast for today",
    )


def _lost(tank: Tank, entries: Sequence[Entry], forecast: Forecast, reference: Reference) -> list[Check]:
    """Where the forecast decides alone, one that has lost the tank decides nothing."""
    gate = reference.schools.cycling[tank.school].gate
    by_proof = bool(gate) and all(prove(tank, entries, r, forecast.as_of).met for r in gate)
    if not forecast.lost or by_proof or not reference.schools.pace[tank.pace].by_course:
        return []
    text = "The model has lost this tank: no course that it knows comes to the last readings, so its part stays shut."
    return [Check("lost", False, text, "readings that fit, or the school’s own proof")]


def _first_day(outlook: BatchOutlook) -> list[Check]:
    """The worst credible case stays harmless until the first test after it."""
    p = outlook.p_first_day
    if p is None or p >= FIRST_DAY_CERTAIN:
        return []
    text = (
        f"Only {percent(p)} of the forecasts stay under twice the limits for the first day; "
        f"{percent(FIRST_DAY_CERTAIN)} is asked."
    )
    return [Check("first_day", False, text, "a surer first day")]


def _rest(
    outlook: BatchOutlook, tank: Tank, entries: Sequence[Entry], reference: Reference, now: datetime
) -> list[Check]:
    """A first batch that would starve the bloom before the rest can come waits while doses feed it; not for ever."""
    p = outlook.p_rest
    if p is None or p >= CERTAIN or not reference.schools.pace[tank.pace].by_course:
        return []
    since = first_clean(tank, Log.of(entries), now)
    until = (since + REST_WAITS).date() if since is not None else None
    if until is not None and now.date() >= until:
        return []
    at_most = f", until {until:%-d %b} at most" if until is not None else ""
    text = (
        f"With those that are to follow {percent(p)} stay under the limits: few animals feed the bloom less than the "
        "doses do, and it would shrink before the rest can come. Some more days of dosing may bring it to carry all "
        f"of them{at_most}."
    )
    return [Check("rest", False, text, "a bloom that carries the rest too", "practice", until)]
