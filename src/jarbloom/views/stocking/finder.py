"""Page data of the finder: answers in words, and one species in full."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.bioload import one_load
from jarbloom.core.animals.company import Case, Finding
from jarbloom.core.animals.finder import FinderAnswer, FinderQuery, ask_the_seller, locked_out
from jarbloom.core.animals.names import plural
from jarbloom.core.animals.traits import TRAITS
from jarbloom.core.model.species import Species
from jarbloom.core.stocking.check import Check, wanted
from jarbloom.units import NBSP, figure, load_text
from jarbloom.views.drawn.figures import Figure, figure_of

MOST_SHOWN, LOST_SHOWN = 40, 12
_GROUND = {"none": "holds no ground", "mild": "holds a little ground", "strong": "holds its ground"}
_CHECKED = {"blind": "compared with what another hand wrote down unseen",
            "again": "compared with what the same hand wrote down unseen", "": "of one hand"}  # fmt: skip
ZONES = {"top": "at the top", "middle": "in the middle", "bottom": "at the bottom", "glass": "on the glass",
         "rock": "among rock", "sand": "on sand", "open": "in open water", "land": "half on land"}  # fmt: skip
PX_PER_CM = 6.0  # silhouettes to one scale; longer than the box they are drawn at its width, and say so
BOX_PX, BOX_HIGH_PX = 92.0, 50.0


@dataclass(frozen=True)
class Found:
    key: str
    name: str
    scientific: str
    about: str
    figure: Figure
    to_scale: bool
    stance: str
    suits: bool
    now: str
    why: str
    caution: str


@dataclass(frozen=True)
class OneSpecies:
    """A species against this tank, in full."""

    found: Found
    findings: tuple[Finding, ...]
    facts: tuple[tuple[str, str], ...]
    seller: tuple[str, ...]
    lost: tuple[str, ...]
    lost_more: int
    default_count: int


@dataclass(frozen=True)
class Compared:
    """Up to three species beside each other: a row for each question."""

    heads: tuple[Found, ...]
    rows: tuple[tuple[str, tuple[str, ...]], ...]


@dataclass(frozen=True)
class FinderPage:
    call: str
    words: str
    asked: tuple[str, ...]
    rows: tuple[Found, ...]
    more: int
    one: OneSpecies | None
    room: str
    sure: str
    nothing: str


def finder_page(
    s: Situation, case: Case, ask: FinderQuery, answers: Sequence[FinderAnswer],
    standing: Mapping[bool, Sequence[Check]], one: FinderAnswer | None, room_mg_n: float,
) -> FinderPage:  # fmt: skip
    """`standing`: what the gate asks of the tank, for usual animals (False) and sensitive ones (True)."""

    def holds_for(a: FinderAnswer) -> list[Check]:
        return _holds(a, standing)

    holds = _open(standing[False])
    suited = [a for a in answers if a.suits]
    now = [a for a in suited if a.group_now and not holds_for(a)]
    if one is not None:
        call, words = _one_call(one, holds_for(one))
    elif holds:
        call = "No animal goes in today."
        words = f"Missing: {', '.join(wanted(holds)[:3])}. What fits here for life can be chosen."
    elif now:
        call = f"{len(now)} {'kinds' if len(now) > 1 else 'kind'} could go in now."
        words = f"{len(suited)} suit the tank and those in it. On the plan, the gate adds the forecast's word."
    elif not suited:
        call, words = "None of these suits this tank.", "Each says why; ask for less, or look at Together."
    else:
        call, words = (
            f"{len(suited)} {'kinds suit' if len(suited) != 1 else 'kind suits'} this tank.",
            "None of them has room now.",
        )
    rows = tuple(found_row(a, s, holds_for(a)) for a in answers[:MOST_SHOWN])
    return FinderPage(
        call, words, _asked(ask, s), rows, max(0, len(answers) - MOST_SHOWN),
        _in_full(one, s, case, holds_for(one)) if one else None, load_text(room_mg_n), load_text(s.forecast.sure),
        _nothing(ask) if not answers else "",
    )  # fmt: skip


def _open(checks: Sequence[Check]) -> list[Check]:
    return [c for c in checks if not c.passed and c.hardness != "taste"]


def _holds(a: FinderAnswer, standing: Mapping[bool, Sequence[Check]]) -> list[Check]:
    """What holds this species today: sensitive ones are asked more."""
    return _open(standing[a.kind.ammonia_sensitivity == "sensitive"])


def _nothing(ask: FinderQuery) -> str:
    if ask.text:
        return f"Nothing in the catalogue is called “{ask.text[:40]}”, or not with these conditions."
    return "Nothing in the catalogue meets all of these conditions."


def _asked(ask: FinderQuery, s: Situation) -> tuple[str, ...]:
    """How the line was read."""
    said = [f"called “{ask.text}”" if ask.text else "", f"lives {ZONES[ask.zone]}" if ask.zone else "",
            ask.group, ask.water and f"{ask.water} water",
            f"up to {s.units.length(ask.largest_cm)}" if ask.largest_cm is not None else "",
            "without a heater from {} to {}".format(*map(s.units.temp, ask.room_c)) if ask.room_c is not None else "",
            "fits this tank" if ask.fits else "", *(TRAITS[t].says for t in ask.traits)]  # fmt: skip
    return tuple(x for x in said if x)


def _now(a: FinderAnswer, holds: Sequence[Check]) -> str:
    """How many could go in now, in words. Zero is said with what is missing."""
    if not a.suits:
        return "none today" if a.stance == "not yet" else "none"
    if holds:
        return "none today"
    if not a.group_now:
        return f"room for {a.room_now} of {a.least}" if a.room_now else "no room yet"
    return f"up to {a.room_now} now"


def found_row(a: FinderAnswer, s: Situation, holds: Sequence[Check]) -> Found:
    k = a.kind
    figure = figure_of(k, k.adult_cm * PX_PER_CM)
    fits = max(figure.width / BOX_PX, figure.height / BOX_HIGH_PX)
    if fits > 1:
        figure = figure_of(k, k.adult_cm * PX_PER_CM / fits)
    group = f"groups of {k.group_min} or more" if k.group_min > 1 else "alone or more"
    pressing = [f for f in a.findings if f.severity != "note"]
    why = pressing[0].sentence if pressing else "Nothing speaks against it."
    if len(pressing) > 1:
        why += f" And {len(pressing) - 1} more."
    return Found(
        k.key, k.name, k.scientific, f"{s.units.length(k.adult_cm)}, {ZONES[k.zone]}, {group}",
        figure, fits <= 1, a.stance, a.suits, _now(a, holds), why, k.caution,
    )  # fmt: skip


def _one_call(a: FinderAnswer, holds: Sequence[Check]) -> tuple[str, str]:
    name = plural(a.kind.name, 2)
    name = name[:1].upper() + name[1:]
    first = next((f.sentence for f in a.findings if f.severity != "note"), "")
    if not a.suits:
        return f"{name}: {a.stance}.", first
    if holds:
        missing = ", ".join(wanted(holds)[:2])
        return f"{name}: yes, but not today.", f"Missing: {missing}."
    if not a.group_now:
        return f"{name}: yes, but not yet.", f"The bloom is sure of {a.room_now}, grown up; {a.least} make a group."
    return f"{name}: up to {a.room_now} now.", first or "Nothing speaks against it."


def _in_full(a: FinderAnswer, s: Situation, case: Case, holds: Sequence[Check]) -> OneSpecies:
    lost = locked_out(a.kind, case, s.reference.species)
    return OneSpecies(
        found_row(a, s, holds),
        a.findings,
        _facts(a.kind, s),
        ask_the_seller(a.kind),
        tuple(plural(k.name, 2) for k in lost[:LOST_SHOWN]),
        max(0, len(lost) - LOST_SHOWN),
        a.least,
    )


def _facts(k: Species, s: Situation) -> tuple[tuple[str, str], ...]:
    u = s.units
    water = [f"{u.temp(k.temp_low)} to {u.temp(k.temp_high)}", f"pH {figure(k.ph_low)} to {figure(k.ph_high)}"]
    if k.water == "fresh":
        water.append(f"{figure(k.gh_low)} to {figure(k.gh_high)} dGH")
    else:
        water.append(f"{figure(k.salt_low)} to {figure(k.salt_high)}{NBSP}g/kg")
    one = one_load(k, k.adult_cm, s.tank.temp_c).total
    return (
        ("Grows to", f"{u.length(k.adult_cm)}, lives about {figure(k.lifespan_y, 2)} years"),
        ("Water", ", ".join(water)),
        ("Smallest tank", f"{u.volume(k.min_l_cautious)} and {u.length(k.min_length_cm)} long (cautious), "
         f"{u.volume(k.min_l_experienced)} and {u.length(k.min_length_experienced_cm)} (experienced)"),
        ("Company", (f"groups of {k.group_min} or more" if k.group_min > 1 else "one is enough") + (
            f"; {k.sex_ratio}" if k.sex_ratio not in ("any", "unknown", "") else "")),
        ("Ways", f"{k.temperament}, {_GROUND.get(k.territory, 'ground not known')}, lives {ZONES[k.zone]}"),
        ("Food", f"{k.diet}{': ' + k.feeding if k.feeding else ''}"),
        ("Puts out", f"{load_text(one)} a day each, grown up, by estimate"),
        ("Goes in", f"{k.order}; {k.hardiness} in hardiness, {k.care} to care for"),
        ("The row", f"{k.confidence} confidence, {_CHECKED[k.checked]}; ranges from {k.rests_on}, "
         "single animals differ"),
    )  # fmt: skip


COMPARED = 3


def compared(
    answers: Sequence[FinderAnswer], s: Situation, standing: Mapping[bool, Sequence[Check]]
) -> Compared | None:
    """`standing` as for the finder. None for fewer than two."""
    if len(answers) < 2:
        return None
    heads = tuple(found_row(a, s, _holds(a, standing)) for a in answers)
    facts = [dict(_facts(a.kind, s)) for a in answers]
    rows = [("Here", tuple(f"{h.stance}: {h.why}" for h in heads)), ("Now", tuple(h.now for h in heads))]
    rows += [(name, tuple(f[name] for f in facts)) for name in facts[0]]
    return Compared(heads, tuple(rows))
