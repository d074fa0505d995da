"""Between a clause of the log line and whoever reads it: what a clause may take, what was heard, and questions."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Protocol

from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Body


@dataclass(frozen=True)
class Tap:
    """A likely meaning: the words on the button, and the line that says it plainly."""

    words: str
    line: str


ALL_IS_WELL = "all is well"  # the keeper's word that a note tells of nothing wrong


def in_words(line: str, whole: str = "it") -> tuple[Tap, Tap]:
    """Ways to keep a line that is not understood: as it stands, or with the word that nothing is wrong."""
    text = line.strip()
    return Tap(f"keep {whole} as a note", f"note {text}"), Tap("a note, all is well", f"note {text}; {ALL_IS_WELL}")


class Ask(Exception):
    """A question to the keeper about the piece being read; nothing of the line is saved until it is answered."""

    def __init__(self, question: str, *taps: Tap) -> None:
        super().__init__(question)
        self.question, self.taps = question, taps


@dataclass(frozen=True)
class Heard:
    """What one clause came to: the body to be saved, and how it is said back."""

    body: Body
    label: str
    value: str = ""
    detail: str = ""


@dataclass(frozen=True)
class Amount:
    """A number with its unit as typed, '' where none was given; of two ('20-25') their middle."""

    value: float
    unit: str
    typed: str

    @property
    def of_two(self) -> bool:
        return "-" in self.typed


class Clause(Protocol):
    """The rest of a line, as a kind's clause sees it."""

    setting: Setting
    word: str  # the keyword that began the clause

    def take(self, *words: str) -> str:
        """The next word, taken, when it is one of these; else ''."""
        ...

    def amount(self, what: str, *, units: tuple[str, ...], optional: bool = False, span: bool = False) -> Amount | None:
        """The next number with its unit; of '20-25' the middle, where a `span` is taken at all. Raises Ask for none, a
        negative one, or a unit that is not among `units`."""
        ...

    def number(self, what: str, *, units: tuple[str, ...], span: bool = False) -> Amount:
        """As `amount`, and never nothing."""
        ...

    def animals(self, what: str, least: int = 1, *, new: bool = False) -> tuple[int, str]:
        """(how many, key in the catalogue). `new`: they need not live here yet."""
        ...

    def rest(self) -> str:
        """Everything up to the end of the line, as typed."""
        ...

    def phrase(self, *ends: str) -> str:
        """A few words, up to a number, one of `ends`, or a word that begins something else."""
        ...

    def before(self) -> str:
        """The line up to the word last taken, as typed."""
        ...

    def until(self) -> date | None:
        """The day that 'for so many days' ends on, where it is said."""
        ...

    def doubt(self, unusual: bool, question: str) -> None:
        """Raises Ask for what is far from usual, unless the keeper has said that it is so."""
        ...

    def rewritten(self, clause: str) -> str:
        """The line with this clause, as far as it has been read, in other words: for a tap."""
        ...
