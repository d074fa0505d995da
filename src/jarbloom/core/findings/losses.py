"""Deaths, missing heads, and bodies that lie in the water."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import time, timedelta

from jarbloom.core.animals.names import animal_name, plural
from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.findings.signs import waste_read
from jarbloom.core.journal.book import missing as missing_heads
from jarbloom.core.journal.hearing import Heard
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.escape import Escape
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.findings import Severity

SERIES, SERIES_DAYS = 2, 14
MANY_AT_ONCE = 3  # or a third of a kind
DARK = time(21), time(7)  # lamps are out: who hides is not missing
SLEEPERS = ("wrasse", "loach", "goby", "eel", "knifefish", "jawfish", "coris", "catfish", "pleco")


def _deaths(facts: Facts, hours: float) -> tuple[Entry[Death], ...]:
    return facts.lately(hours, Death)


def _said_dead(facts: Facts, hours: float) -> tuple[Heard, ...]:
    return tuple(h for h in facts.said("dead", hours=hours) if not isinstance(h.entry.body, Death))


def unexplained(death: Death) -> bool:
    """Nobody has written down what it died of: the gate waits for the cause, or for a week without a loss."""
    cause = death.cause.lower()
    return not cause or any(word in cause for word in ("unknown", "not known", "unclear", "?"))


def _explained(death: Death) -> bool:
    cause = death.cause.lower()
    return any(w in cause for w in ("jump", "old age", "bullied", "eaten", "filter intake", "trapped", "stuck"))


@rule("death")
def death(facts: Facts) -> Iterable[Found]:
    dead, said = _deaths(facts, 24 * 7), _said_dead(facts, 24 * 7)
    if not dead and not said:
        return
    last = max([e.at for e in dead] + [h.at for h in said])
    if dead:
        body = dead[-1].body
        what = f"{body.count} {plural(animal_name(body.species, facts.reference.species), body.count)} found dead"
    else:
        what = "An animal found dead, by your words (log it with 'dead')"
    wide = [h for h in facts.words if h.any("dead") and "gills" in h.text.lower() and "open" in h.text.lower()]
    clue = " Gills wide open in death point to oxygen." if wide else ""
    explained = bool(dead) and all(_explained(e.body) for e in dead) and not said
    yield Found(
        f"{what} on {last:%a %-d %b}. Take the body out, count the rest, test today and tomorrow.{clue}",
        last, (*ids(dead), *ids(said)), Severity.WATCH if explained else None,
        holds=bool(said) or any(unexplained(e.body) for e in dead),
    )  # fmt: skip


@rule("death_series")
def death_series(facts: Facts) -> Iterable[Found]:
    dead, said = _deaths(facts, 24 * SERIES_DAYS), _said_dead(facts, 24 * SERIES_DAYS)
    dead = tuple(e for e in dead if not _explained(e.body))
    heads = sum(e.body.count for e in dead)
    days = {e.day for e in dead} | {h.entry.day for h in said}
    kinds = {e.body.species for e in dead}
    if not (heads >= MANY_AT_ONCE or len(days) >= SERIES or (heads >= 2 and len(kinds) >= 2)):
        return
    last = max([e.at for e in dead] + [h.at for h in said])
    yield Found(
        f"{heads or len(days)} deaths within {SERIES_DAYS} days: a series, whatever the waste tests say; a zero is not "
        "all. A vet or fish-health professional is asked from the second death.",
        last, (*ids(dead), *ids(said)),
    )  # fmt: skip


@rule("missing")
def missing(facts: Facts) -> Iterable[Found]:
    for m in missing_heads(facts.log, facts.now.date()):
        if _night_only(facts, m.species):
            continue
        name = plural(animal_name(m.species, facts.reference.species), m.count)
        yield Found(
            f"{m.count} {name} fewer than the book has, since {m.since:%-d %b}: look behind, under and in the filter; "
            "a hidden body feeds ammonia.", facts.now,
        )  # fmt: skip
    said = [h for h in facts.said("gone", "short_count", hours=24 * 7) if not h.any("dead") and not _at_night(h)
            and h.entry.kind != "count"]  # fmt: skip
    if said:
        yield Found("An animal is missing, by your words: count, and look for it today; a hidden body feeds ammonia.",
                    said[-1].at, ids(said))  # fmt: skip


@rule("missing_night")
def missing_night(facts: Facts) -> Iterable[Found]:
    for m in missing_heads(facts.log, facts.now.date()):
        if _night_only(facts, m.species):
            name = plural(animal_name(m.species, facts.reference.species), m.count)
            yield Found(f"{m.count} {name} not seen, but counted in the dark: some sleep in the sand. Count "
                        "heads again by day.", facts.now)  # fmt: skip
            return
    said = [h for h in facts.said("gone", "short_count", hours=24) if _at_night(h)]
    if said:
        yield Found("Heads missing, but counted in the dark: some sleep in the sand. Count heads again by day.",
                    said[-1].at, ids(said))  # fmt: skip


def _at_night(heard: Heard) -> bool:
    """Counted in the dark: who hides then is not missing yet."""
    clock = heard.at.time()
    return heard.any("in_the_dark") and (clock >= DARK[0] or clock <= DARK[1])


def _night_only(facts: Facts, species: str) -> bool:
    """Its last short count was at night, the first such, and the kind is known to hide or sleep in the sand."""
    counts = [e for e in facts.log if e.kind == "count" and getattr(e.body, "species", "") == species]
    if not counts:
        return False
    last = counts[-1]
    kind = facts.reference.species.get(species)
    dark = last.at.time() >= DARK[0] or last.at.time() <= DARK[1]
    sleeper = kind is not None and (any(w in kind.name for w in SLEEPERS) or kind.zone == "sand")
    return dark and (sleeper or "light" in last.note.lower()) and facts.now - last.at <= timedelta(hours=24)


@rule("trapped")
def trapped(facts: Facts) -> Iterable[Found]:
    said = facts.said("trapped", hours=24)
    if said and facts.alive and not said[-1].any("dead"):
        yield Found("An animal is trapped, by your words: stop what sucks at the plug, then free it.",
                    said[-1].at, ids(said))  # fmt: skip


@rule("jumped")
def jumped(facts: Facts) -> Iterable[Found]:
    species = facts.reference.species
    out = facts.lately(48, Escape)
    said = facts.said("jumped", hours=48)
    lidless = facts.said("no_lid", hours=72)
    gone = [m for m in missing_heads(facts.log, facts.now.date()) if not _night_only(facts, m.species)]
    jumpers = [
        m
        for m in gone
        if m.species in species and species[m.species].jumps and facts.now.date() - m.since <= timedelta(days=3)
    ]
    if out or said:
        last = max([e.at for e in out] + [h.at for h in said])
        yield Found(
            "An animal got out: the floor first, two metres round; then close the lid.", last, (*ids(out), *ids(said))
        )
    short = [h for h in facts.said("gone", "short_count", hours=48) if not _at_night(h) and h.entry.kind != "count"]
    if not (out or said) and short and (lidless or not facts.tank.lid):
        yield Found("Heads missing from an open tank: the floor first, then the overflow, and test for a hidden body.",
                    short[-1].at, (*ids(short), *ids(lidless)))  # fmt: skip
    elif not (out or said) and jumpers and (lidless or not facts.tank.lid):
        m = jumpers[0]
        yield Found(
            f"{m.count} {plural(animal_name(m.species, species), m.count)} missing from an open tank: a known "
            "jumper. The floor first, then the overflow, and test for a hidden body.", facts.now, ids(lidless),
        )  # fmt: skip


@rule("hidden_body")
def hidden_body(facts: Facts) -> Iterable[Found]:
    gone = missing_heads(facts.log, facts.now.date())
    lay = facts.said("half_eaten", hours=144)
    not_found = [e for e in facts.lately(144, Death) if e.body.body == "not_found"]
    if facts.alive and (gone or not_found) and waste_read(facts):
        yield Found("Heads short and ammonia or nitrite above zero: one story, a hidden body. Look again, "
                    "change a little water.", facts.now, ids(not_found))  # fmt: skip
    elif lay or not_found:
        last = max([h.at for h in lay] + [e.at for e in not_found])
        yield Found("A body lay in the water for a while: it has fed ammonia. Test today and tomorrow.",
                    last, (*ids(lay), *ids(not_found)),
                    acts=("find_body" if not_found else "remove_body",), share=0.0)  # fmt: skip
