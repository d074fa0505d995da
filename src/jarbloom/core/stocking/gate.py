"""The gate: may this batch go in today? Passed, or hold with the number that is missing."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from jarbloom.core.animals.compatibility import case_of, findings
from jarbloom.core.animals.home import home_of
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.limits import limits_for
from jarbloom.core.bloom.outlook import BatchOutlook
from jarbloom.core.findings.finding import Findings
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.clean import CLEAN_AT_MOST_MG_N_L, CLEAN_DAYS, cleanness, reading_is_clean, too_coarse
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.quarantine import InQuarantine
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log, latest
from jarbloom.core.journal.proof import prove, seen_working
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.stocking.by_course import by_the_course
from jarbloom.core.stocking.check import Check, Gate
from jarbloom.core.stocking.pace import last_arrival, pace_days
from jarbloom.core.stocking.terms import quarantine_days
from jarbloom.core.upset.levels import episode
from jarbloom.units import NBSP, Units, figure

FRESH_TESTS = timedelta(hours=48)
DIES_FROM, DIES_OFF = timedelta(days=1), timedelta(days=14)  # live rock, out of water on its way (practice)


def gate(
    tank: Tank,
    entries: Sequence[Entry],
    batch: Batch,
    outlook: BatchOutlook,
    forecast: Forecast,
    reference: Reference,
    units: Units,
    found: Findings | None = None,
) -> Gate:
    """All checks for a batch as if it went in at the forecast's date. `found`: what is found about the tank, of which
    some keeps it shut."""
    now = forecast.as_of
    living = stock(entries, now.date())
    kinds = [reference.species[a.species] for a in batch.items if a.species in reference.species]
    sensitive = any(k.ammonia_sensitivity == "sensitive" for k in kinds)
    checks = [
        *of_the_tank(tank, entries, living, reference, now, sensitive, found),
        *by_the_course(tank, entries, outlook, forecast, reference),
    ]
    checks += _quarantine(tank, entries, batch, living, reference, now)
    checks += _fits(tank, batch, living, reference, units, now)
    return Gate(batch.id, tuple(checks))


def of_the_tank(
    tank: Tank,
    entries: Sequence[Entry],
    living: Sequence[Animals],
    reference: Reference,
    now: datetime,
    sensitive: bool = False,
    found: Findings | None = None,
) -> tuple[Check, ...]:
    """What is asked of the tank before any animal goes in; for sensitive ones the pace is slower."""
    return (
        *_heard(entries),
        *_proof(tank, entries, living, reference, now),
        *_seen_working(tank, entries, living, reference, now),
        *_upset(tank, entries, living, reference),
        *_found(found),
        *_fresh(tank, entries, now),
        *_since_test(tank, entries, now),
        *_pace(tank, entries, sensitive, living, reference, now),
    )


def _found(found: Findings | None) -> list[Check]:
    """What was found about the tank and keeps it shut; what has a check of its own here is left to it."""
    held = found.holding if found is not None else ()
    return [Check(f.key, False, f.sentence, f.row.ends) for f in held if f.key not in OWN_CHECKS]


OWN_CHECKS = frozenset({"upset_open", "unheard", "arrived", "stale", "trace"})  # asked for by number below


def _heard(entries: Sequence[Entry]) -> list[Check]:
    """A pass is earned by a log that was heard whole: what cannot be read may have been a spike or an arrival."""
    unheard = Log.of(entries).unheard
    return [Check("heard", False, unheard, "a log that can be read")] if unheard else []


def _proof(
    tank: Tank, entries: Sequence[Entry], living: Sequence[Animals], reference: Reference, now: datetime
) -> list[Check]:
    school = reference.schools.cycling[tank.school]
    if living and not school.fish_in:
        return []
    by_course = reference.schools.pace[tank.pace].by_course
    begin = "By your pace the forecast decides, and not this: " if by_course else ""
    found = []
    for requirement in school.gate:
        proof = prove(tank, entries, requirement, now)
        if requirement.kind == "clears_dose":
            done = f"{proof.done:.0f} of {proof.needed:.0f}"
            words = (
                f"the target dose was cleared within {requirement.within_h:.0f}{NBSP}hours {done} times, "
                f"ammonia and nitrite both below {figure(CLEAN_AT_MOST_MG_N_L)}"
            )
            missing = f"{proof.needed - proof.done:.0f} more cleared dose" + (
                "s" if proof.needed - proof.done > 1 else ""
            )
        else:
            fed = " while food went in" if requirement.while_feeding and not living else ""
            words = f"ammonia and nitrite read clean over {figure(proof.done, 2)} of {figure(proof.needed)} days{fed}"
            missing = f"{figure(max(proof.needed - proof.done, 0), 2)} more clean days{fed}"
        told = f"{begin}{words} ({school.name})."
        found.append(
            Check(
                requirement.kind, proof.met, told[:1].upper() + told[1:], "" if proof.met else missing,
                "taste" if by_course else "practice",
            )
        )  # fmt: skip
    return found


def _seen_working(
    tank: Tank, entries: Sequence[Entry], living: Sequence[Animals], reference: Reference, now: datetime
) -> list[Check]:
    """What is left of the proof where a batch is judged by its course: one clean test of a bloom that had work."""
    pace = reference.schools.pace[tank.pace]
    if living or not pace.by_course:
        return []
    seen = seen_working(tank, Log.of(entries), now)
    text = "The last test found clean what had gone in before" if seen else (
        "No test has yet found clean what had gone in before"
    )  # fmt: skip
    return [Check("seen_working", seen, f"{text} ({pace.name}).", "" if seen else "one clean test", "practice")]


def _upset(tank: Tank, entries: Sequence[Entry], living: Sequence[Animals], reference: Reference) -> list[Check]:
    upset = episode(tank, entries, limits_for(living, reference, tank)) if living else None
    if upset is None or not upset.open:
        return []
    left = CLEAN_DAYS - upset.clean_days
    return [
        Check(
            "upset",
            False,
            f"The upset of {upset.since:%-d %b} is not over: {upset.clean_days} of {CLEAN_DAYS} clean days.",
            f"{left} clean day{'s' if left > 1 else ''}",
        )
    ]


def _fresh(tank: Tank, entries: Sequence[Entry], now: datetime) -> list[Check]:
    found = []
    for quantity in ("ammonia", "nitrite"):
        seen = latest(entries, quantity)
        if seen is None or now - seen.at > FRESH_TESTS:
            age = "never read" if seen is None else f"last read {(now - seen.at).days} days ago"
            found.append(
                Check(
                    f"fresh_{quantity}",
                    False,
                    f"{quantity.capitalize()} was {age}; a reading of the last 48{NBSP}hours is asked.",
                    f"{'an' if quantity == 'ammonia' else 'a'} {quantity} reading",
                )
            )
        else:
            zero, coarse = reading_is_clean(seen.reading, tank.kit), too_coarse(tank.kit, quantity)
            missing = f"a finer {quantity} kit" if coarse else f"{quantity} at zero"
            found.append(
                Check(
                    f"fresh_{quantity}",
                    zero,
                    f"{quantity.capitalize()} reads {seen.reading.typed} ({seen.at:%a %H:%M}); the lowest step is asked"
                    + (f", and the kit’s reaches above {figure(CLEAN_AT_MOST_MG_N_L)} mg/L as N." if coarse else "."),
                    "" if zero else missing,
                )
            )
    return found


def _since_test(tank: Tank, entries: Sequence[Entry], now: datetime) -> list[Check]:
    """Ammonia that came after the last test of it was not in that test; rock that has just come dies off for days."""
    log, seen = Log.of(entries), latest(entries, "ammonia")
    told: list[tuple[str, Entry]] = [("Ammonia was dosed", e) for e in log.kinds(Dose)[-1:]]
    told += [("New water brought ammonia", e) for e in log.kinds(Change)[-5:] if e.body.source_ammonia]
    found = []
    for what, e in [x for x in told if seen is None or x[1].order > seen.order][:1]:
        text = f"{what} on {e.at:%a %-d %b} at {e.at:%H:%M}, and was not tested since."
        found.append(Check("since_test", False, text, "a clean test after it"))
    rock = [e for e in log.kinds(Rock) if e.body.came != "fresh"][-1:]
    judge = cleanness(tank.kit)
    if rock and now - rock[0].at <= DIES_OFF:
        days = {e.day for e in log.kinds(Tested) if e.at - rock[0].at >= DIES_FROM and judge(e.readings)}
        if len(days) < CLEAN_DAYS:
            text = f"Rock of {rock[0].at:%-d %b} dies off for days: {len(days)} of {CLEAN_DAYS} clean days after it."
            left = CLEAN_DAYS - len(days)
            found.append(
                Check("rock", False, text, f"{left} clean day{'s' if left > 1 else ''} with the rock", "practice")
            )
    return found


def _pace(
    tank: Tank,
    entries: Sequence[Entry],
    sensitive: bool,
    living: Sequence[Animals],
    reference: Reference,
    now: datetime,
) -> list[Check]:
    came = last_arrival(entries)
    if not living or came is None:
        return []
    wanted, since = pace_days(tank, reference.schools, sensitive), (now.date() - came).days
    pace = reference.schools.pace[tank.pace]
    if pace.by_course and since == 0 and not stock(entries, now.date() - timedelta(days=1)):
        return []  # the first day goes on: whether the water bears those too is asked above
    return [
        Check(
            "pace",
            since >= wanted,
            f"The last arrivals came {since} days ago; {wanted} are asked ({pace.name}).",
            "" if since >= wanted else f"{wanted - since} days",
            "practice",
        )
    ]


def _quarantine(
    tank: Tank,
    entries: Sequence[Entry],
    batch: Batch,
    living: Sequence[Animals],
    reference: Reference,
    now: datetime,
) -> list[Check]:
    """The school's days in a tank of their own; the first into an empty tank are watched there."""
    school = reference.schools.quarantine[tank.quarantine]
    asked = quarantine_days(tank, reference.schools)
    if not living:
        return []
    if not asked:
        text = f"They come straight in ({school.name}): what they bring, those who live here may catch."
        return [Check("quarantine", False, text, "", "taste")]
    stays = [e for e in Log.of(entries).kinds(InQuarantine) if e.body.batch == batch.id]
    if not stays:
        text = f"{asked}{NBSP}days in quarantine are asked; the log has none of {batch.name.lower()} ({school.name})."
        return [Check("quarantine", False, text, f"{asked} days of quarantine", "practice")]
    since = min(e.day for e in stays)
    days = (now.date() - since).days
    return [
        Check(
            "quarantine",
            days >= asked,
            f"In quarantine since {since:%-d %b}, {days} of {asked}{NBSP}days ({school.name}).",
            "" if days >= asked else f"{asked - days} more days of quarantine",
            "practice",
        )
    ]


def _fits(
    tank: Tank, batch: Batch, living: Sequence[Animals], reference: Reference, units: Units, now: datetime
) -> list[Check]:
    """What compatibility has against the batch today. What turns dangerous later holds no gate, pages tell its date;
    but a tank that is far too small for life is none to begin with."""
    case = case_of(home_of(tank), (*living, *batch.items), reference.species, now.date(), units)
    coming = {a.species for a in batch.items}
    found = []
    for f in findings(case):
        if f.severity != "note" and (f.on is None or f.key == "litres") and coming.intersection(f.species):
            holds = f.severity == "apart" or len(f.species) == 1  # two that want watching are the keeper's choice
            found.append(Check(f.key, False, f.sentence, f.resolve, f.hardness if holds else "taste"))
    return found
