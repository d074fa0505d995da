"""The gate: may this batch go in today? Passed, or hold with the number that is missing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from jarbloom.core.animals.compatibility import case_of, findings
from jarbloom.core.animals.home import home_of
from jarbloom.core.bloom.capacity import carries, holds
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.limits import limits_for
from jarbloom.core.bloom.outlook import CERTAIN, BatchOutlook
from jarbloom.core.findings.finding import Findings
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.clean import CLEAN_AT_MOST_MG_N_L, CLEAN_DAYS, reading_is_clean, too_coarse
from jarbloom.core.journal.kinds.quarantine import InQuarantine
from jarbloom.core.journal.log import Log, latest
from jarbloom.core.journal.proof import first_clean, prove, seen_working
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.stocking.pace import last_arrival, pace_days
from jarbloom.core.stocking.terms import quarantine_days
from jarbloom.core.upset.levels import episode
from jarbloom.units import NBSP, Units, figure, load_text, percent

GROWS_ON = 1.1  # so much more to come is worth a word
FRESH_TESTS = timedelta(hours=48)


@dataclass(frozen=True)
class Check:
    """One thing the gate asks for, in words with its number."""

    key: str
    passed: bool
    sentence: str
    missing: str = ""
    hardness: str = "safety"  # safety | practice | taste
    until: date | None = None  # it keeps nothing out from this day on


def wanted(checks: Sequence[Check], words: bool = False) -> list[str]:
    """What is missing, each thing once; `words`: the whole sentence where a check has no short form."""
    said = (c.missing or (c.sentence if words else "") for c in checks if not c.passed)
    return list(dict.fromkeys(m for m in said if m))


NAMED = 3  # missing things in a headline


@dataclass(frozen=True)
class Gate:
    batch_id: int
    checks: tuple[Check, ...]

    @property
    def passed(self) -> bool:
        return not self.holding

    @property
    def missing(self) -> tuple[Check, ...]:
        return tuple(c for c in self.checks if not c.passed)

    @property
    def holding(self) -> tuple[Check, ...]:
        """What keeps it shut: a hint is only to know."""
        return tuple(c for c in self.missing if c.hardness != "taste")

    @property
    def missing_words(self) -> str:
        return ", ".join(wanted(self.holding))

    @property
    def missing_first(self) -> str:
        """The same for a headline: the first few, and whether there are more."""
        found = wanted(self.holding)
        joint = "; " if any("," in words for words in found[:NAMED]) else ", "
        return joint.join(found[:NAMED]) + (" and more" if len(found) > NAMED else "")


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
        _headroom(outlook, forecast, reference.schools.pace[tank.pace].full_load),
        _p_safe(outlook),
        *_lost(tank, entries, forecast, reference),
        *_first_day(outlook),
        *_rest(outlook, tank, entries, reference, now),
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


FIRST_DAY_CERTAIN = 0.98  # so sure one wants to be of the day on which nobody is looking yet (judgement)


# What doses have not grown so long after the first clean test, they do not grow: the animals have to (judgement)
REST_WAITS = timedelta(days=21)
OF_ITS_OWN_DAY = frozenset({"p_safe", "headroom", "first_day", "rest"})  # asked anew for who comes along


def may_come_along(gate: Gate, outlook: BatchOutlook) -> bool:
    """Whether a batch may go in on the same day as the ones before it, into an empty tank: the water bears all of them
    together with the certainty that the gate asks of one, and nothing else keeps it out. Fed by few the bloom would
    shrink, and the next would meet less of it (measured in docs/planner.md)."""
    p, day = outlook.p_at_once, outlook.p_at_once_first_day
    if p is None or day is None or p < CERTAIN or day < FIRST_DAY_CERTAIN:
        return False
    return {c.key for c in gate.holding} <= OF_ITS_OWN_DAY


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
