"""Signs in the animals, newcomers and young."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import timedelta

from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.findings.signs import first_evening, gill_words, newcomer_only, waste_read
from jarbloom.core.journal.hearing import Heard
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.lesson import Lesson
from jarbloom.core.model.findings import Feeding, Severity


@rule("gills")
def gills(facts: Facts) -> Iterable[Found]:
    said = gill_words(facts, 24 * 3)
    if not said or not facts.alive:
        return
    what = _said(facts, said[-1], "gasp", "breath", "inflow", "redgill", "browngill", "palegill", "onegill")
    yield Found(
        f"{what} on {said[-1].at:%a %H:%M}. Clean waste tests do not exclude the rest: they cannot see oxygen, "
        "chlorine or parasites. Air first; if it is no better in 30 minutes, look at gills and water next.",
        said[-1].at, ids(said),
    )  # fmt: skip


@rule("gills_waste")
def gills_waste(facts: Facts) -> Iterable[Found]:
    said = gill_words(facts, 24)
    if said and facts.alive and waste_read(facts):
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
                    "professional the same day, no medicine on suspicion.", said[-1].at, ids(said))  # fmt: skip


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


@rule("arrived")
def arrived(facts: Facts) -> Iterable[Found]:
    came = facts.newcomers(168)
    if came:
        days = (facts.now.date() - came[-1].day).days
        when = {0: "today", 1: "yesterday"}.get(days, f"{days} days ago")
        yield Found(f"Newcomers came {when}: dim light, little food, look again in the morning, daily tests for "
                    "a week.", came[-1].at, ids(came))  # fmt: skip


@rule("came_in_words")
def came_in_words(facts: Facts) -> Iterable[Found]:
    came = facts.newcomers(168)
    said = [h for h in facts.said("came", hours=168) if h.entry not in came]
    if said and not any(abs(e.at - said[-1].at) <= timedelta(hours=36) for e in came):
        yield Found("Newcomers, by your words: log them with 'in', so that their load counts, perhaps more load "
                    "than is proven. Dim light, little food, daily tests for a week.",
                    said[-1].at, ids(said))  # fmt: skip


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
