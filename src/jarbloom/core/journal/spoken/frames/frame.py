"""A clause taken apart: each of its words has to be one of the parts with which one kind of deed is told, in any order.

A part stands once at most, fillers as often as they like. A word that is none of them ends it: then the clause is not
understood here. So a frame says which words may stand beside each other, and what is not named in it (a denial, a plan,
another tank, a doubt) never becomes a deed.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping

from jarbloom.core.journal.spoken.readings import Said
from jarbloom.patterns import regex

Parts = Mapping[str, str]
IsAnimal = Callable[[str, bool], bool]  # (name, whether it may be one that does not live here yet)
MOST_WORDS = 16
_ENDS = r"(?=[ ,:]|$)"
_SPACE = regex(r"[ ,:]*")
FILL = (
    r"i|we|i've|we've|a|an|the|my|our|its|of|just|then|also|too|again|already|finally|today|so|and|only|"
    r"once more|this time|as well|as usual|as always|as every (?:day|week)|quickly|it|one more time|for today"
)
PASSIVE = "is|are|was|were|has|have|been"


class Frame:
    """`calls`: words without which the clause is of something else. `parts`: name and pattern of each. `says`: the
    parts in the words of the log line; None where they do not belong together. `more`: further fillers. `who`: the part
    in which animals stand, and whether they may be new."""

    def __init__(
        self, calls: str, says: Callable[[Parts], Said], parts: Mapping[str, str], *, more: str = PASSIVE, who: str = ""
    ) -> None:
        self.calls = regex(rf"\b(?:{calls})\b")
        self.says, self.who = says, who
        self.parts = {name: regex(rf"(?:{pattern}){_ENDS}") for name, pattern in parts.items()}
        self.fill = regex(rf"(?:{more}|{FILL}){_ENDS}")

    def read(self, clause: str, is_animal: IsAnimal) -> Said:
        """The clause in the words of the log line; None where a word is left over, or where it may mean two things."""
        if len(clause.split()) > MOST_WORDS or self.calls.search(clause) is None:
            return None
        said = {told for parts in self._ways(clause, 0, {}, is_animal) if (told := self.says(parts)) is not None}
        return said.pop() if len(said) == 1 else None

    def _ways(self, text: str, k: int, taken: dict[str, str], is_animal: IsAnimal) -> Iterator[Parts]:
        if k == len(text):
            yield taken
            return
        for name, pattern in self.parts.items():
            hit = pattern.match(text, k) if name not in taken else None
            if hit is not None and hit[0]:
                told = hit[name] if name in pattern.groupindex else hit[0]
                yield from self._ways(text, _behind(text, hit), {**taken, name: told}, is_animal)
        if self.who and "who" not in taken:
            for name, end in _animals(text, k):
                if is_animal(name, self.who == "new"):
                    yield from self._ways(text, end, {**taken, "who": name}, is_animal)
        hit = self.fill.match(text, k)
        if hit is not None and hit[0]:
            yield from self._ways(text, _behind(text, hit), taken, is_animal)


_NAME = regex(r"[a-z][a-z'-]+(?: [a-z][a-z'-]+){0,3}")


def _animals(text: str, k: int) -> Iterator[tuple[str, int]]:
    """Up to four words that may be a name, the longest first."""
    hit = _NAME.match(text, k)
    words = hit[0].split(" ") if hit is not None else []
    for n in range(len(words), 0, -1):
        name = " ".join(words[:n])
        end = k + len(name)
        if end == len(text) or text[end] in " ,:":
            space = _SPACE.match(text, end)
            yield name, space.end() if space is not None else end


def _behind(text: str, hit: re.Match[str]) -> int:
    space = _SPACE.match(text, hit.end())
    return space.end() if space is not None else hit.end()
