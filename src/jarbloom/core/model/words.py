"""The keeper's own words as data: how signs, events and doubts are written (data/heard.toml)."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import cached_property

NEAR_WORDS = 5  # so many words before a sign a 'no' still denies it
DENIED = re.compile(
    r"\b(?:no|not|never|none|nobody|nothing|neither|nor|without|cannot|isn.?t|aren.?t|don.?t|didn.?t|doesn.?t|"
    r"wasn.?t|weren.?t|hasn.?t|haven.?t|stopped|ended|instead of|if|in case|against(?! (?:the|a|each|its|their|one)))\b"
)
OVER = re.compile(r"\b(?:any ?more|no longer|is gone|are gone|has stopped|have stopped|stopped)\b")


@dataclass(frozen=True)
class HeardWord:
    """A row of data/heard.toml: a key, what it says, and how it is written. `by_the_way`: it tells nothing that has to
    be answered by itself, only when, where or beside what the rest of the sentence is."""

    key: str
    says: str
    words: tuple[str, ...]
    unless: tuple[str, ...] = ()
    by_the_way: bool = False

    @cached_property
    def said(self) -> re.Pattern[str]:
        return _whole_words(self.words)

    @cached_property
    def meant_else(self) -> re.Pattern[str] | None:
        return _whole_words(self.unless) if self.unless else None

    def within(self, clause: str) -> bool:
        """Whether the clause says it. A denial before it, or 'any more' behind it, takes it back."""
        if self.meant_else is not None and self.meant_else.search(clause):
            return False
        for found in self.said.finditer(clause):
            before = " ".join(clause[: found.start()].split()[-NEAR_WORDS:])
            if DENIED.search(before) or OVER.search(clause[found.end() :]):
                continue
            return True
        return False


def _whole_words(patterns: Sequence[str]) -> re.Pattern[str]:
    return re.compile(rf"(?<![\w-])(?:{'|'.join(patterns)})(?![\w-])")


class Lexicon:
    """All rows, and the words and sayings of ordinary days (data/ordinary.toml); told apart by identity, so that what
    was heard in a text can be kept."""

    def __init__(
        self, rows: Sequence[HeardWord] = (), ordinary: frozenset[str] = frozenset(), sayings: Sequence[str] = ()
    ) -> None:
        self.rows, self.ordinary = tuple(rows), ordinary
        self.sayings = re.compile("|".join(sayings) or "(?!)")

    @cached_property
    def says(self) -> dict[str, str]:
        return {w.key: w.says for w in self.rows}

    @cached_property
    def by_the_way(self) -> frozenset[str]:
        return frozenset(w.key for w in self.rows if w.by_the_way)

    def rest_of(self, clause: str, keys: Collection[str]) -> str:
        """What is left of a clause beside the words of these rows."""
        for row in self.rows:
            if row.key in keys:
                clause = row.said.sub(" ", clause)
        return " ".join(clause.split())
