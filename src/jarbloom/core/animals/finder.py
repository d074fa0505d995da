"""Which animals suit a tank: search, stance, how many the proven bloom carries now, what a choice locks out."""

from __future__ import annotations

import difflib
import math
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from jarbloom.core.animals.bioload import one_load
from jarbloom.core.animals.company import Case, Finding, Member
from jarbloom.core.animals.compatibility import in_order, pair_findings
from jarbloom.core.animals.names import names_of, singular
from jarbloom.core.animals.suits import ALONE
from jarbloom.core.animals.traits import TRAITS, traits_in
from jarbloom.core.model.species import Animals, Species
from jarbloom.units import INCH_CM

STANCES = ("fits", "with care", "not yet", "not for life", "not here")  # the best first
SUITED = ("fits", "with care")
NEAR = 0.72  # how alike two words are that count as a slip of the finger
MOST = 200


@dataclass(frozen=True)
class FinderQuery:
    """What is looked for; empty fields ask nothing. `water`: fresh, brackish, marine."""

    text: str = ""
    zone: str = ""
    group: str = ""
    water: str = ""
    largest_cm: float | None = None
    room_c: tuple[float, float] | None = None  # lives without a heater in a room of these temperatures
    fits: bool = False
    traits: tuple[str, ...] = ()  # of traits.py


@dataclass(frozen=True)
class FinderAnswer:
    """One species for this tank. `room_now` animals, grown up, are what the sure bloom has room for; `there`:
    how many of it are there already."""

    kind: Species
    stance: str
    findings: tuple[Finding, ...]
    room_now: int
    there: int
    match: float = 1.0

    @property
    def suits(self) -> bool:
        return self.stance in SUITED

    @property
    def least(self) -> int:
        """How many make a group with those who are there."""
        return max(1, self.kind.group_min - self.there)

    @property
    def group_now(self) -> bool:
        return self.room_now >= self.least


def find(
    ask: FinderQuery, case: Case, species: Mapping[str, Species], room_mg_n_day: float
) -> tuple[FinderAnswer, ...]:
    """The best first: by name when one is typed, then by stance, room and hardiness."""
    found = []
    for kind in species.values():
        match = likeness(ask.text, kind)
        if kind.key == "unknown" or match < NEAR or not _asked(ask, kind):
            continue
        answer = judge(kind, case, room_mg_n_day)
        if not ask.fits or answer.suits:
            found.append(replace(answer, match=match))
    hardy = {"hardy": 0, "usual": 1, "delicate": 2}
    return tuple(
        sorted(
            found,
            key=lambda a: (-round(a.match, 2), not is_name(ask.text, a.kind), STANCES.index(a.stance),
                           not a.group_now, _weight(a.findings), hardy[a.kind.hardiness], a.kind.name),
        )
    )  # fmt: skip


ZONE_WORDS = {"top": "top", "surface": "top", "middle": "middle", "bottom": "bottom"}
GROUP_WORDS = {"fish": "fish", "shrimp": "shrimp", "snail": "snail", "crab": "crab", "coral": "coral"}
_UNDER = re.compile(r"\b(?:under|below|up to|<)\s*(\d+(?:[.,]\d+)?)\s*(cm|in|inch|inches)?\b")
_PHRASES = re.compile(r"\b(?:no|without|unheated|heater|fits?|now|in)\b")


def read_ask(
    text: str, species: Mapping[str, Species], room_c: tuple[float, float], inches: bool = False
) -> FinderQuery:
    """What a typed line asks: 'bottom under 5 cm no heater fits', the rest is a name. A name is never taken apart.

    >>> asked = read_ask("peaceful tetra under 4 cm", {}, 20.0)
    >>> asked.text, asked.largest_cm, asked.traits
    ('tetra', 4.0, ('peaceful',))
    """
    if (group := text.strip().lower().removesuffix("s")) in GROUP_WORDS and group != "fish":
        return FinderQuery(group=GROUP_WORDS[group])
    if any(likeness(text, kind) == 1.0 for kind in species.values()):
        return FinderQuery(text.strip())
    traits, left = traits_in(text)
    asked: dict[str, Any] = {"traits": traits} if traits else {}
    under = _UNDER.search(left)
    if under:
        unit = under[2] or ("in" if inches else "cm")
        asked["largest_cm"] = float(under[1].replace(",", ".")) * (1.0 if unit == "cm" else INCH_CM)
        left = left.replace(under[0], " ")
    if re.search(r"\b(no heater|without heater|unheated)\b", left):
        asked["room_c"] = room_c
    if re.search(r"\bfits?\b", left):
        asked["fits"] = True
    names = []
    for word in _PHRASES.sub(" ", left).split():
        if word.removesuffix("s") in GROUP_WORDS and (word != "fish" or traits):
            asked["group"] = GROUP_WORDS[word.removesuffix("s")]
        elif word in ZONE_WORDS:
            asked["zone"] = ZONE_WORDS[word]
        elif word != "fish":
            names.append(word)
    return FinderQuery(" ".join(names), **asked)


def _asked(ask: FinderQuery, kind: Species) -> bool:
    return (
        (not ask.zone or kind.zone == ask.zone)
        and (not ask.group or kind.group == ask.group)
        and (not ask.water or kind.water == ask.water)
        and (ask.largest_cm is None or kind.adult_cm <= ask.largest_cm)
        and (ask.room_c is None or (kind.temp_low <= ask.room_c[0] and ask.room_c[1] <= kind.temp_high))
        and all(TRAITS[t].holds(kind) for t in ask.traits)
    )


def likeness(text: str, kind: Species) -> float:
    """1 when a name begins so, nearly so for words in it, less for a slip of the finger, 0 for something else."""
    wanted = [singular(w) for w in text.lower().split()]
    if not wanted or any(name.startswith(" ".join(wanted)) for name in names_of(kind)):
        return 1.0
    words = {w for name in names_of(kind) for w in name.replace("-", " ").split()}
    return 0.97 * min(max((_alike(w, word) for word in words), default=0.0) for w in wanted)


def is_name(text: str, kind: Species) -> bool:
    """Whether all that was typed is one of its names, whole: it comes before those that only begin so."""
    return " ".join(singular(w) for w in text.lower().split()) in names_of(kind)


def _alike(typed: str, word: str) -> float:
    if word == typed or (len(typed) > 1 and word.startswith(typed)):
        return 1.0
    if len(typed) < 4 or abs(len(word) - len(typed)) > 3:
        return 0.0
    return difflib.SequenceMatcher(None, typed, word).ratio()


def judge(kind: Species, case: Case, room_mg_n_day: float) -> FinderAnswer:
    """A smallest group of the species, added to those who are in the case."""
    there = case.count(kind.key)
    coming = Member(Animals(kind.key, max(kind.group_min, there + 1), kind.shop_cm, case.today), kind)
    others = tuple(m for m in case.members if m.kind.key != kind.key)
    among = replace(case, members=(*others, coming))
    found: list[Finding] = [f for rule in ALONE for f in rule(coming, among)]
    if not any(f.key == "salinity" for f in found):
        for other in others:
            found += pair_findings(coming, other, among)
    return FinderAnswer(kind, _stance(found), in_order(found), room_for(kind, case, room_mg_n_day), there)


def room_for(kind: Species, case: Case, room_mg_n_day: float) -> int:
    """How many of it, grown up, a load of so many mg N a day leaves room for."""
    one = one_load(kind, kind.adult_cm, case.home.temp_c).total
    return min(MOST, max(0, math.floor(room_mg_n_day / one)))


def _weight(found: Iterable[Finding]) -> int:
    return sum({"apart": 9, "watch": 2, "note": 0}[f.severity] for f in found)


def _stance(found: Iterable[Finding]) -> str:
    apart = [f for f in found if f.severity == "apart"]
    if any(f.on is None and f.key != "maturity" for f in apart):
        return "not here"
    if any(f.on is not None for f in apart):
        return "not for life"
    if apart:
        return "not yet"  # only the tank's age is missing
    return "with care" if any(f.severity == "watch" and f.hardness != "taste" for f in found) else "fits"


def locked_out(kind: Species, case: Case, species: Mapping[str, Species]) -> tuple[Species, ...]:
    """Species that suit the tank and those in it today, and no longer do once this one lives there."""
    coming = Member(Animals(kind.key, kind.group_min, kind.shop_cm, case.today), kind)
    lost = []
    for other in species.values():
        if other.key in (kind.key, "unknown") or case.count(other.key) or other.water != kind.water:
            continue
        if judge(other, case, 0.0).suits:
            member = Member(Animals(other.key, other.group_min, other.shop_cm, case.today), other)
            if any(f.severity == "apart" for f in pair_findings(coming, member, case)):
                lost.append(other)
    return tuple(lost)


def ask_the_seller(kind: Species) -> tuple[str, ...]:
    """What to ask before buying."""
    asks = ["how long they are here, and whether any died"]
    if kind.group == "fish":
        asks.append("to see them eat" + (f": they take {kind.feeding}" if kind.feeding else ""))
    if kind.sex_ratio not in ("any", "unknown", ""):
        asks.append(f"for the sexes: {kind.sex_ratio}")
    if kind.tank_bred != "unknown":
        asks.append({"common": "for tank-bred ones, which are common", "partly": "whether they are tank-bred",
                     "wild mostly": "where they were caught, as most are"}[kind.tank_bred])  # fmt: skip
    asks.append("in what water they stand: temperature, pH" + (", salinity" if kind.water != "fresh" else ", hardness"))
    return tuple(asks)
