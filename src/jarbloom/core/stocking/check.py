"""What a gate asks for, point by point, and what of it is missing in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True)
class Check:
    """One thing the gate asks for, in words with its number."""

    key: str
    passed: bool
    sentence: str
    missing: str = ""
    hardness: str = "safety"  # safety | practice | taste
    until: date | None = None  # it keeps nothing out from this day on


def wanted(checks: Sequence[Check], words: bool = False) -> list[str]:
    """What is missing, each thing once; `words`: the whole sentence where a check has no short form."""
    said = (c.missing or (c.sentence if words else "") for c in checks if not c.passed)
    return list(dict.fromkeys(m for m in said if m))


NAMED = 3  # missing things in a headline


@dataclass(frozen=True)
class Gate:
    batch_id: int
    checks: tuple[Check, ...]

    @property
    def passed(self) -> bool:
        return not self.holding

    @property
    def missing(self) -> tuple[Check, ...]:
        return tuple(c for c in self.checks if not c.passed)

    @property
    def holding(self) -> tuple[Check, ...]:
        """What keeps it shut: a hint is only to know."""
        return tuple(c for c in self.missing if c.hardness != "taste")

    @property
    def missing_words(self) -> str:
        return ", ".join(wanted(self.holding))

    @property
    def missing_first(self) -> str:
        """The same for a headline: the first few, and whether there are more."""
        found = wanted(self.holding)
        joint = "; " if any("," in words for words in found[:NAMED]) else ", "
        return joint.join(found[:NAMED]) + (" and more" if len(found) > NAMED else "")
