"""What the rules of company look at and what they find: the tank, who is in it, and findings as values."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.animals.growth import length_on
from jarbloom.core.animals.home import Home
from jarbloom.core.animals.names import plural
from jarbloom.core.model.species import Animals, Species
from jarbloom.units import Units

SEVERITIES = ("apart", "watch", "note")  # the worst first


@dataclass(frozen=True)
class Finding:
    """`species` are one or two keys; `on` is the day from which it holds, when it does not hold today."""

    key: str
    severity: str  # apart | watch | note
    hardness: str  # safety | practice | taste
    species: tuple[str, ...]
    sentence: str
    resolve: str = ""
    on: date | None = None


@dataclass(frozen=True)
class Member:
    """Animals of one kind, living or planned, with their row."""

    animals: Animals
    kind: Species

    def length(self, on: date) -> float:
        return length_on(self.animals, self.kind, on)


@dataclass(frozen=True)
class Case:
    """What the rules look at."""

    home: Home
    today: date
    units: Units
    members: tuple[Member, ...]

    def count(self, key: str) -> int:
        return sum(m.animals.count for m in self.members if m.kind.key == key)


def many(kind: Species, count: int = 2) -> str:
    """'Neon tetras', to begin a sentence with."""
    text = plural(kind.name, count)
    return text[0].upper() + text[1:]


def ground(kind: Species) -> str:
    return "open water" if kind.zone == "open" else kind.zone


def told(
    key: str, severity: str, hardness: str, m: Member, sentence: str, resolve: str = "", on: date | None = None
) -> Finding:
    """A finding about one kind."""
    return Finding(key, severity, hardness, (m.kind.key,), sentence, resolve, on)


def told_two(
    key: str,
    severity: str,
    hardness: str,
    a: Member,
    b: Member,
    sentence: str,
    resolve: str = "",
    on: date | None = None,
) -> Finding:
    """A finding between two kinds; the first is the one that does it."""
    return Finding(key, severity, hardness, (a.kind.key, b.kind.key), sentence, resolve, on)
