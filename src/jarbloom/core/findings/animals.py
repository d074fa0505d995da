"""Signs in the animals, deaths, missing heads, newcomers and young."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import time, timedelta

from jarbloom.core.animals.names import animal_name, plural
from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.findings.signs import first_evening, gill_words, newcomer_only
from jarbloom.core.journal.book import missing as missing_heads
from jarbloom.core.journal.hearing import Heard
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.escape import Escape
from jarbloom.core.journal.kinds.lesson import Lesson
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.findings import Feeding, Severity

SERIES, SERIES_DAYS = 2, 14
MANY_AT_ONCE = 3  # or a third of a kind
DARK = time(21), time(7)  # lamps are out: who hides is not missing
SLEEPERS = ("wrasse", "loach", "goby", "eel", "knifefish", "jawfish", "coris", "catfish", "pleco")
TRACE_H = 48


def _waste(facts: Facts, hours: float) -> bool:
    """Ammonia or nitrite above the kit's lowest step within so many hours."""
    return any(
        c.reading is not None and c.reading.reading.low > 0 and c.reading.at >= facts.since(hours)
        for c in facts.credible.values()
    )


@rule("gills")
def gills(facts: Facts) -> Iterable[Found]:
    said = gill_words(facts, 24 * 3)
    if not said or not facts.alive:
        return
    what = _said(facts, said[-1], "gasp", "breath", "inflow", "redgill", "browngill", "palegill", "onegill")
    yield Found(
        f"{what} on {said[-1].at:%a %H:%M}. Clean waste tests do not exclude the rest: they cannot see oxygen, "
        "chlorine "
        "or parasites. Air first; if it is no better in 30 minutes, look at gills and water next.",
        said[-1].at, ids(said),
    )  # fmt: skip


@rule("gills_waste")
def gills_waste(facts: Facts) -> Iterable[Found]:
    said = gill_words(facts, 24)
    if said and facts.alive and _waste(facts, TRACE_H):
        brown = any(h.any("browngill") for h in said)
        what = "nitrite" if brown else "ammonia or nitrite"
        yield Found(f"Gill signs, and {what} was above zero within two days: {what} until shown otherwise.",
                    said[-1].at, ids(said))  # fmt: skip


def _said(facts: Facts, heard: Heard, *keys: str) -> str:
    says = facts.reference.words.says
    named = [says[k] for k in keys if k in heard.keys]
    text = ", ".join(named) or "signs"
    return text[0].upper() + text[1:]


@rule("dust")
def dust(facts: Facts) -> Iterable[Found]:
    said = facts.said("dust", hours=24 * 25)
    if (
        said
        and facts.fish
        and (facts.near(said[-1].at, "breath", "gasp", "hide", "flash", "inflow", hours=48) or facts.salted)
    ):
        yield Found("Fine dust on the skin with hard breath: it can kill within days. A vet or fish-health "
                    "professional "
                    "the same day, no medicine on suspicion.", said[-1].at, ids(said))  # fmt: skip


@rule("parasite")
def parasite(facts: Facts) -> Iterable[Found]:
    marks = facts.said("grains", "dust", "slime", hours=24 * 30)
    rubs = facts.said("flash", hours=24 * 10)
    if not facts.fish or not (marks or rubs):
        return
    said = (*marks, *rubs)
    last = max(h.at for h in said)
    sure = bool(marks) or len(rubs) >= 2 or bool(facts.near(last, "breath", "clamp", "slime", hours=48))
    yield Found(
        f"{_said(facts, said[-1], 'grains', 'dust', 'slime', 'flash')}: it may be a parasite of skin and gills. "
        "Photograph, count daily; a vet or fish-health professional before any medicine.",
        last, ids(said), Severity.TEST if sure else Severity.WATCH,
    )  # fmt: skip


@rule("skin")
def skin(facts: Facts) -> Iterable[Found]:
    keys = ("sore", "tuft", "torn", "swell", "popeye", "blister", "thin", "onegill")
    said = facts.said(*keys, hours=24 * 14)
    if said and facts.alive:
        yield Found(f"{_said(facts, said[-1], *keys)}: photograph it today and tomorrow; a vet or fish-health "
                    "professional before any medicine.", said[-1].at, ids(said))  # fmt: skip


UNWELL = ("list", "invert_ill", "snail_up", "snail_shut", "bottom", "gasp", "breath", "redgill", "slime", "dead")


@rule("nerves")
def nerves(facts: Facts) -> Iterable[Found]:
    said = facts.said("dart", "list", hours=24 * 3)
    if not said or not facts.alive:
        return
    last = said[-1]
    alone = newcomer_only(facts, last) and not last.any("list")
    if last.any("calm") and not last.any(*UNWELL):
        yield Found(
            f"Darting on {last.at:%a %H:%M}, calm again by the same words: look once more within the hour, and test.",
            last.at, ids(said), Severity.TEST, acts=("look",), feeding=Feeding.HALF,
        )  # fmt: skip
        return
    yield Found(
        f"{_said(facts, last, 'dart', 'list')} on {last.at:%a %H:%M}: poison, chlorine, ammonia, heat or a step in the "
        "water, and clean waste tests do not exclude them. What changed last, and when?",
        last.at, ids(said), Severity.TEST if alone else None,
    )  # fmt: skip


@rule("lying")
def lying(facts: Facts) -> Iterable[Found]:
    said = facts.said("bottom", hours=24 * 3)
    if not said or not facts.alive:
        return
    last = said[-1]
    fresh = first_evening(facts, last)
    yield Found(
        f"Lying or listless on {last.at:%a %H:%M}: test, read the temperature, ask what changed last.",
        last.at, ids(said), Severity.WATCH if fresh and last.any("calm") else None,
    )  # fmt: skip


@rule("off_colour")
def off_colour(facts: Facts) -> Iterable[Found]:
    keys = ("hide", "pale", "refuse", "clamp")
    said = facts.said(*keys, hours=48)
    if not said or not facts.alive:
        return
    last = said[-1]
    recovered = any(h.at > last.at and h.any("calm") and not h.any(*keys) for h in facts.words)
    yield Found(
        f"{_said(facts, last, *keys)} on {last.at:%a %H:%M}"
        + (": for newcomers usual on the first day. " if first_evening(facts, last) else ": unspecific. ")
        + "Look again at 12 and 24 hours; fast breath would be an alarm.",
        last.at, ids(said), Severity.KNOW if recovered else None,
    )  # fmt: skip


@rule("chasing")
def chasing(facts: Facts) -> Iterable[Found]:
    said = facts.said("chase", hours=72)
    if said and facts.alive:
        yield Found(f"Chasing on {said[-1].at:%a %-d %b}: watch for torn fins and who hides.", said[-1].at, ids(said))


@rule("inverts_first")
def inverts_first(facts: Facts) -> Iterable[Found]:
    if not facts.inverts:
        return
    said = facts.said("invert_ill", "snail_up", hours=72)
    species = facts.reference.species
    dead = [
        e for e in facts.lately(72, Death)
        if e.body.species in species and species[e.body.species].group in ("shrimp", "snail", "crab")
    ]  # fmt: skip
    heads = sum(e.body.count for e in dead)
    fish_dead = [e for e in facts.lately(72, Death) if e not in dead]
    if fish_dead or (heads < 2 and not said) or (said and not dead and not _mass(said)):
        return
    last = max([h.at for h in said] + [e.at for e in dead])
    yield Found(
        "Shrimp or snails first, fish well: metal or poison before anything else (copper, spray, hands, paint). Waste "
        "tests at zero are not all; treat it as a toxin.", last, (*ids(said), *ids(dead)),
    )  # fmt: skip


def _mass(said: tuple[Heard, ...]) -> bool:
    """More than one snail that climbs at night."""
    return any(h.any("invert_ill") or "all" in h.text.lower().split() or h.everybody for h in said) and any(
        h.any("invert_ill", "dart") or "all" in h.text.lower() for h in said
    )


@rule("corals")
def corals(facts: Facts) -> Iterable[Found]:
    said = facts.said("coral_shut", "bleached", "coral_bare", hours=48)
    if said and facts.corals:
        bare = any(h.any("coral_bare") for h in said)
        yield Found("Corals shut, pale or bare: read salinity, KH and temperature.", said[-1].at, ids(said),
                    Severity.TEST if bare or len(said) > 1 else None)  # fmt: skip


@rule("unmoved")
def unmoved(facts: Facts) -> Iterable[Found]:
    said = facts.said("unmoved", hours=48)
    if said and facts.alive:
        yield Found("An animal that has not moved for days is probably a hidden body in the water: look closely now.",
                    said[-1].at, ids(said))  # fmt: skip


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
                        "heads again "
                        "by day.", facts.now)  # fmt: skip
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
            "jumper. The "
            "floor first, then the overflow, and test for a hidden body.", facts.now, ids(lidless),
        )  # fmt: skip


@rule("hidden_body")
def hidden_body(facts: Facts) -> Iterable[Found]:
    gone = missing_heads(facts.log, facts.now.date())
    lay = facts.said("half_eaten", hours=144)
    not_found = [e for e in facts.lately(144, Death) if e.body.body == "not_found"]
    if facts.alive and (gone or not_found) and _waste(facts, TRACE_H):
        yield Found("Heads short and ammonia or nitrite above zero: one story, a hidden body. Look again, "
                    "change a little "
                    "water.", facts.now, ids(not_found))  # fmt: skip
    elif lay or not_found:
        last = max([h.at for h in lay] + [e.at for e in not_found])
        yield Found("A body lay in the water for a while: it has fed ammonia. Test today and tomorrow.",
                    last, (*ids(lay), *ids(not_found)),
                    acts=("find_body" if not_found else "remove_body",), share=0.0)  # fmt: skip


@rule("arrived")
def arrived(facts: Facts) -> Iterable[Found]:
    came = facts.newcomers(168)
    if came:
        days = (facts.now.date() - came[-1].day).days
        when = {0: "today", 1: "yesterday"}.get(days, f"{days} days ago")
        yield Found(f"Newcomers came {when}: dim light, little food, look again in the morning, daily tests for "
                    "a week.",
                    came[-1].at, ids(came))  # fmt: skip


@rule("came_in_words")
def came_in_words(facts: Facts) -> Iterable[Found]:
    came = facts.newcomers(168)
    said = [h for h in facts.said("came", hours=168) if h.entry not in came]
    if said and not any(abs(e.at - said[-1].at) <= timedelta(hours=36) for e in came):
        yield Found("Newcomers, by your words: log them with 'in', so that their load counts, perhaps more load "
                    "than is "
                    "proven. Dim light, little food, daily tests for a week.", said[-1].at, ids(said))  # fmt: skip


@rule("fry")
def fry(facts: Facts) -> Iterable[Found]:
    born = facts.lately(24 * 42, Birth)
    if born:
        heads = sum(e.body.count for e in born)
        yield Found(f"{heads} young since {born[0].day:%-d %b}: frequent tiny meals, and a load that grows.",
                    born[-1].at, ids(born))  # fmt: skip


@rule("resuming")
def resuming(facts: Facts) -> Iterable[Found]:
    """Until the day that was set when the last upset was written down; its evidence stands to that day."""
    waiting = [e for e in facts.log.kinds(Lesson) if e.body.resume is not None and e.body.resume > facts.now.date()]
    for e in waiting[-1:]:
        assert e.body.resume is not None
        what = (e.body.title or e.body.cause).lower()
        text = f"After the upset of {e.at:%-d %b} ({what}) new animals wait until {e.body.resume:%a %-d %b}."
        yield Found(text, facts.now, ids((e,)), until=e.body.resume)
