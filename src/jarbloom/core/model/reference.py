"""What the core knows about the world, handed in by whoever calls: catalogue, media, schools, checks, notes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from jarbloom.core.model.causes import Causes
from jarbloom.core.model.courses import CourseRow
from jarbloom.core.model.findings import ActRow, FindingRow
from jarbloom.core.model.plant import Plant
from jarbloom.core.model.schools import Schools
from jarbloom.core.model.species import Species
from jarbloom.core.model.words import Lexicon


@dataclass(frozen=True)
class Media:
    """Filter media with the surface that bacteria and water flow can really use, m2 per litre."""

    key: str
    name: str
    m2_per_l_low: float
    m2_per_l_high: float
    note: str

    @property
    def m2_per_l(self) -> float:
        return (self.m2_per_l_low + self.m2_per_l_high) / 2


@dataclass(frozen=True)
class EquipmentCheck:
    """A check of the equipment that comes again, a row of data/checks.toml.

    `when` says for which tanks: always, heater, hoses, sump, lid or salt.
    """

    key: str
    title: str
    words: str
    every_days: int
    hardness: str
    when: str = "always"
    caution: str = ""


@dataclass(frozen=True)
class Uninvited:
    """An animal that came unasked, a row of data/uninvited.toml. `spreads`: their number
    follows what is left over; `caution`: key of data/cautions.toml; `harms`: it hunts or hurts those who live there."""

    key: str
    says: str
    act: str
    spreads: bool
    caution: str = ""
    harms: bool = False


@dataclass(frozen=True)
class Note:
    key: str
    title: str
    text: str


@dataclass(frozen=True)
class Term:
    """A word of this house in one sentence."""

    key: str
    word: str
    text: str


@dataclass(frozen=True)
class Reference:
    """`retired`: a keeper's own species that are offered no more; old entries still name them."""

    species: Mapping[str, Species]
    media: Mapping[str, Media]
    schools: Schools
    checks: Mapping[str, EquipmentCheck]
    notes: Mapping[str, Note]
    words: Lexicon
    findings: Mapping[str, FindingRow]
    acts: Mapping[str, ActRow]
    causes: Causes = field(default_factory=Causes)
    courses: Mapping[str, CourseRow] = field(default_factory=dict)
    retired: frozenset[str] = frozenset()
    uninvited: Mapping[str, Uninvited] = field(default_factory=dict)
    plants: Mapping[str, Plant] = field(default_factory=dict)

    @property
    def offered(self) -> dict[str, Species]:
        """The species that can be chosen."""
        return {k: s for k, s in self.species.items() if k not in self.retired}
