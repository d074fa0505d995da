"""What can be found about a tank: rows of data/findings.toml and data/acts.toml, and what they say of food."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum


class Severity(IntEnum):
    """How much a finding presses."""

    KNOW = 0
    WATCH = 1
    TEST = 2
    ACT = 3

    @property
    def words(self) -> str:
        return ("good to know", "watch", "test today", "act now")[self]


class Feeding(IntEnum):
    """What may be fed; of several findings the smallest counts."""

    NONE = 0
    PINCH = 1
    HALF = 2
    MOST = 3
    USUAL = 4

    @property
    def share(self) -> float:
        """Of a usual ration."""
        return (0.0, 0.25, 0.5, 0.75, 1.0)[self]


@dataclass(frozen=True)
class FindingRow:
    """A rule as a row: what it looks at, how long it stands, and what it does to everything else that is said.

    `hours`: how long its evidence stands; `watch_days`: how many days it is watched after that. `acts`: keys of
    data/acts.toml, in order. `never`: what must not be done. `forbids`: acts that no finding may ask for while it
    stands. `change_most`: the largest single water change in percent (100: no limit, 0: none). `share`: of the tank, a
    change that the finding itself asks for. `tests`: quantities wanted today.
    """

    key: str
    group: str
    title: str
    looks_at: str
    window: str
    severity: str
    why: str
    ends: str
    source: str
    hours: float = 24.0
    watch_days: float = 0.0
    acts: tuple[str, ...] = ()
    never: tuple[str, ...] = ()
    forbids: tuple[str, ...] = ()
    feeding: str = "usual"
    gate: bool = False
    rhythm_days: float = 0.0
    change_most: float = 100.0
    share: float = 0.0
    tests: tuple[str, ...] = ()
    caution: str = ""

    @property
    def level(self) -> Severity:
        return Severity[self.severity.upper()]

    @property
    def food(self) -> Feeding:
        return Feeding[self.feeding.upper()]


@dataclass(frozen=True)
class ActRow:
    """Something to do now. `hardness` as in the schools; a `caution` is shown beside it."""

    key: str
    title: str
    why: str
    caution: str = ""
    place: int = 50  # order among acts: what helps under all causes comes first
    shorthand: str = ""
