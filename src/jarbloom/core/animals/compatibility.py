"""Whether animals suit a tank and each other for their whole life. Every finding is a value with its sentence.

The rules stand in suits.py (an animal against the tank and its own kind), beside.py (one against another) and
swallowing.py (mouths as they grow).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from itertools import combinations

from jarbloom.core.animals.beside import ONE_WAY, PAIRS
from jarbloom.core.animals.company import SEVERITIES, Case, Finding, Member
from jarbloom.core.animals.home import Home
from jarbloom.core.animals.suits import ALONE
from jarbloom.core.model.species import Animals, Species
from jarbloom.units import Units


def case_of(home: Home, animals: Sequence[Animals], species: Mapping[str, Species], today: date, units: Units) -> Case:
    """Groups of one species are put together: the largest length stands for all (what eats is the largest).

    Animals without a date of arrival grow from today on.
    """
    merged: dict[str, Animals] = {}
    for a in (x if x.since else replace(x, since=today) for x in animals):
        before = merged.get(a.species)
        if before is None:
            merged[a.species] = a
        else:
            larger = max((before, a), key=lambda x: x.length_cm or 0.0)
            merged[a.species] = replace(larger, count=before.count + a.count)
    unknown = species["unknown"]
    return Case(home, today, units, tuple(Member(a, species.get(k, unknown)) for k, a in merged.items()))


def findings(case: Case) -> tuple[Finding, ...]:
    """All of them, the worst and hardest first."""
    found: list[Finding] = []
    for m in case.members:
        for alone in ALONE:
            found += alone(m, case)
    for a, b in combinations(case.members, 2):
        found += pair_findings(a, b, case)
    return in_order(found)


def in_order(found: Sequence[Finding]) -> tuple[Finding, ...]:
    """What holds today before what comes, then the hardest."""
    hardest = {"safety": 0, "practice": 1, "taste": 2}
    return tuple(sorted(found, key=lambda f: (SEVERITIES.index(f.severity), f.on or date.min, hardest[f.hardness])))


def pair_findings(a: Member, b: Member, case: Case) -> list[Finding]:
    found: list[Finding] = []
    for pair in PAIRS:
        found += pair(a, b, case)
    for one_way in ONE_WAY:
        found += one_way(a, b, case)
        found += one_way(b, a, case)
    return found


def worst(found: Sequence[Finding]) -> str:
    """apart, watch, note, or at ease when nothing is found."""
    return next((s for s in SEVERITIES if any(f.severity == s for f in found)), "at ease")


def between(found: Sequence[Finding], a: str, b: str) -> tuple[Finding, ...]:
    return tuple(f for f in found if set(f.species) == {a, b} and len(f.species) == 2)


def of_one(found: Sequence[Finding], key: str) -> tuple[Finding, ...]:
    return tuple(f for f in found if f.species == (key,))
