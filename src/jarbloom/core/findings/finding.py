"""A finding: a rule's row, what raised it, and what it does to food, gate, tests and acts."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import date, datetime

from jarbloom.core.findings.facts import Facts
from jarbloom.core.model.findings import Feeding, FindingRow, Severity


@dataclass(frozen=True)
class Found:
    """What a rule's function found: a sentence with its number and doubt, when its latest evidence is from, and the
    entries that raised it. `short` stands in the verdict where the sentence is long. Where a field is None the row's
    own stands."""

    sentence: str
    at: datetime
    entries: tuple[int, ...] = ()
    severity: Severity | None = None
    acts: tuple[str, ...] | None = None
    tests: tuple[str, ...] | None = None
    feeding: Feeding | None = None
    share: float | None = None
    change_most: float | None = None
    short: str = ""
    until: date | None = None  # until when it keeps the gate shut, where that is known
    holds: bool = True  # False: this one keeps no gate shut, though its row does


@dataclass(frozen=True)
class Finding:
    """A rule that holds now. `fading`: its evidence is past its hours, and it is only watched."""

    row: FindingRow
    found: Found
    fading: bool = False

    @property
    def key(self) -> str:
        return self.row.key

    @property
    def sentence(self) -> str:
        return self.found.sentence

    @property
    def short(self) -> str:
        return self.found.short or self.found.sentence

    @property
    def severity(self) -> Severity:
        own = self.row.level if self.found.severity is None else self.found.severity
        return min(own, Severity.WATCH) if self.fading else own

    @property
    def acts(self) -> tuple[str, ...]:
        if self.fading:
            return ()
        return self.row.acts if self.found.acts is None else self.found.acts

    @property
    def tests(self) -> tuple[str, ...]:
        if self.fading:
            return ()
        return self.row.tests if self.found.tests is None else self.found.tests

    @property
    def feeding(self) -> Feeding:
        if self.fading:
            return max(self.row.food, Feeding.HALF)
        return self.row.food if self.found.feeding is None else self.found.feeding

    @property
    def share(self) -> float:
        if self.fading:
            return 0.0
        return self.row.share if self.found.share is None else self.found.share

    @property
    def change_most(self) -> float:
        if self.fading:
            return 100.0
        return self.row.change_most if self.found.change_most is None else self.found.change_most

    @property
    def rhythm_days(self) -> float:
        return self.row.rhythm_days

    @property
    def holds_gate(self) -> bool:
        return self.row.gate and self.found.holds


Rule = Callable[[Facts], Iterable[Found]]
RULES: dict[str, Rule] = {}


def rule(key: str) -> Callable[[Rule], Rule]:
    """Names the function of a row of data/findings.toml."""

    def known(function: Rule) -> Rule:
        assert key not in RULES, key
        RULES[key] = function
        return function

    return known


@dataclass(frozen=True)
class Findings:
    """All that was found, the worst first."""

    all: tuple[Finding, ...] = field(default=())
    young: bool = False  # young are told of in words

    def __iter__(self):  # type: ignore[no-untyped-def]
        return iter(self.all)

    def get(self, key: str) -> Finding | None:
        return next((f for f in self.all if f.key == key), None)

    def has(self, *keys: str) -> bool:
        return any(f.key in keys for f in self.all)

    @property
    def worst(self) -> Severity:
        return max((f.severity for f in self.all), default=Severity.KNOW)

    @property
    def pressing(self) -> tuple[Finding, ...]:
        """Those that are more than good to know."""
        return tuple(f for f in self.all if f.severity > Severity.KNOW)

    @property
    def feeding(self) -> Feeding:
        return min((f.feeding for f in self.all), default=Feeding.USUAL)

    @property
    def holding(self) -> tuple[Finding, ...]:
        """Those that keep the gate shut."""
        return tuple(f for f in self.all if f.holds_gate)

    @property
    def rhythm_days(self) -> float:
        """The shortest rhythm of tests that any of them asks; 0: none does."""
        return min((f.rhythm_days for f in self.all if f.rhythm_days), default=0.0)

    @property
    def tests(self) -> tuple[str, ...]:
        """Quantities wanted today by those that press, each once."""
        return tuple(dict.fromkeys(q for f in self.all if f.severity >= Severity.TEST for q in f.tests))

    @property
    def forbidden(self) -> frozenset[str]:
        return frozenset(a for f in self.all if not f.fading for a in f.row.forbids)

    @property
    def change_most(self) -> float:
        """The largest single change that all of them allow, 0 to 1."""
        return min((f.change_most for f in self.all), default=100.0) / 100

    @property
    def share(self) -> float:
        """The change that they ask for by themselves, as a share of the tank, within what all of them allow."""
        asked = max((f.share for f in self.all if f.severity == Severity.ACT), default=0.0)
        return min(asked, self.change_most)

    def ask_change_only_for(self, keys: frozenset[str]) -> bool:
        """Whether a change is asked for, and by these alone."""
        asking = [f.key for f in self.all if f.share and f.severity == Severity.ACT]
        return bool(asking) and keys.issuperset(asking)
