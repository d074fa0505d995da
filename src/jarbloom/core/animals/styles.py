"""Styles as starting points: roles that are filled, one after the other, with what suits this tank and those chosen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from jarbloom.core.animals.bioload import load_of, one_load
from jarbloom.core.animals.company import Case, Member
from jarbloom.core.animals.finder import FinderAnswer, judge
from jarbloom.core.animals.suits import KEPT_SINGLY
from jarbloom.core.model.species import Animals, Species

# mg N a day and litre that a proposal comes to at most, grown up: the upper end of a usual community, 15 to 40 in 112 L
# (design, section 13), and never more than half of what the media can come to.
LOAD_MG_N_L_DAY = 0.30
OF_CEILING = 0.5
TAKEN = ("fits", "with care", "not yet")  # 'not yet' waits for the tank's age only
HURTS = "palytoxin"
CARE = {"easy": 0, "moderate": 1, "demanding": 3}
BRED = {"common": 0, "partly": 1, "wild mostly": 2}


@dataclass(frozen=True)
class Role:
    """Who may fill it, how many, and what share of the load they may take. Lengths in cm, grown up."""

    name: str
    share: float
    keys: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()
    zones: tuple[str, ...] = ()
    low_cm: float = 0.0
    high_cm: float = 999.0
    least_group: int = 1
    most_group: int = 99
    count: str = "group"  # group | pair | one
    largest: bool = False
    most: int = 14


@dataclass(frozen=True)
class Style:
    key: str
    name: str
    short: str
    water: str  # fresh | brackish | marine
    roles: tuple[Role, ...]


@dataclass(frozen=True)
class FilledPart:
    """A role with who fills it and how well; `answer` is None where nobody suits."""

    role: Role
    answer: FinderAnswer | None
    count: int = 0
    load_mg_n_day: float = 0.0

    @property
    def animals(self) -> Animals | None:
        return Animals(self.answer.kind.key, self.count, self.answer.kind.shop_cm) if self.answer else None


@dataclass(frozen=True)
class StyleProposal:
    style: Style
    filled: tuple[FilledPart, ...]
    limit_mg_n_day: float
    there_mg_n_day: float = 0.0  # of those who are there or planned, grown up

    @property
    def is_full(self) -> bool:
        """Those who are there leave no room beside them, whoever would suit."""
        return self.there_mg_n_day >= self.limit_mg_n_day

    @property
    def animals(self) -> tuple[Animals, ...]:
        return tuple(f.animals for f in self.filled if f.animals)

    @property
    def load_mg_n_day(self) -> float:
        return sum(f.load_mg_n_day for f in self.filled)


def limit_of(litres: float, ceiling_mg_n_day: float) -> float:
    return min(LOAD_MG_N_L_DAY * litres, OF_CEILING * ceiling_mg_n_day)


def propose(
    style: Style, case: Case, species: Mapping[str, Species], ceiling_mg_n_day: float, turn: int = 0
) -> StyleProposal:
    """Fill the roles in order beside those who are in the case. `turn` 0 takes the best of each role, 1 the next best
    of the first role and so on: other proposals of the same style. Nothing random."""
    limit = limit_of(case.home.litres, ceiling_mg_n_day)
    there = [m.animals for m in case.members]
    taken = load_of(there, species, case.home.temp_c, adult=True).total
    left = max(0.0, limit - taken)
    filled = []
    for k, role in enumerate(style.roles):
        ranked = _ranked(role, case, species, min(left, role.share * limit))
        if not ranked:
            filled.append(FilledPart(role, None))
            continue
        answer, count, load = ranked[(turn if k == turn % len(style.roles) else 0) % len(ranked)]
        filled.append(FilledPart(role, answer, count, load))
        left -= load
        coming = Member(Animals(answer.kind.key, count, answer.kind.shop_cm, case.today), answer.kind)
        case = replace(case, members=(*case.members, coming))
    return StyleProposal(style, tuple(filled), limit, taken)


def _ranked(
    role: Role, case: Case, species: Mapping[str, Species], room_mg_n_day: float
) -> list[tuple[FinderAnswer, int, float]]:
    """(answer, how many, their load) of all who may fill the role, the best first."""
    there = {m.kind.key for m in case.members}
    found = []
    for kind in species.values():
        if kind.key in there or kind.key == "unknown" or not _may(role, kind):
            continue
        one = one_load(kind, kind.adult_cm, case.home.temp_c).total
        count = _count(role, kind, room_mg_n_day, one)
        if not count:
            continue
        answer = judge(kind, case, room_mg_n_day)
        if answer.stance in TAKEN:
            found.append((answer, count, count * one))
    return sorted(found, key=lambda f: _rank(role, f[0]))


def _may(role: Role, kind: Species) -> bool:
    if role.keys:
        return kind.key in role.keys
    if HURTS in kind.caution.lower():
        return False  # what can kill who cuts it is chosen by name or not at all
    return (
        (not role.groups or kind.group in role.groups)
        and (not role.zones or kind.zone in role.zones)
        and role.low_cm <= kind.adult_cm <= role.high_cm
        and role.least_group <= kind.group_min <= role.most_group
    )


def _count(role: Role, kind: Species, room_mg_n_day: float, one_mg_n_day: float) -> int:
    """How many: 0 where the load leaves no room for the smallest group."""
    wanted = {"one": 1, "pair": 2}.get(role.count, kind.group_min)
    wanted = max(wanted, kind.group_min)
    fit = int(room_mg_n_day / one_mg_n_day + 1e-9)
    most = KEPT_SINGLY.get(kind.sex_ratio, role.most)
    wanted = min(wanted, most)
    if fit < wanted:
        return 0
    if kind.sex_ratio in KEPT_SINGLY:
        return wanted
    return wanted if role.count != "group" else min(fit, max(role.most, wanted), max(2 * wanted, 4))


def _rank(role: Role, answer: FinderAnswer) -> tuple[object, ...]:
    kind = answer.kind
    size = -kind.adult_cm if role.largest else 0.0
    named = role.keys.index(kind.key) if role.keys else 0
    ease = (
        CARE.get(kind.care, 2) + BRED.get(kind.tank_bred, 1) + {"hardy": 0, "usual": 1, "delicate": 3}[kind.hardiness]
    )
    return TAKEN.index(answer.stance), size, named, ease, _troubles(answer), kind.key


def _troubles(answer: FinderAnswer) -> int:
    return sum(f.severity == "watch" for f in answer.findings)


def styles_for(styles: Sequence[Style], water: str) -> tuple[Style, ...]:
    """Those of the tank's water first."""
    return tuple(sorted(styles, key=lambda s: s.water != water))
