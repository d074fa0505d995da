"""One piece of a line as people speak, in the words of the log line; None where it has no one meaning."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime

from jarbloom.core.journal.signs import of_other_things, signs_in
from jarbloom.core.journal.spoken.asides import of_no_consequence, planned
from jarbloom.core.journal.spoken.bends import bent, bent_sign
from jarbloom.core.journal.spoken.creatures import Residents, creatures, several
from jarbloom.core.journal.spoken.deeds import deed, switches
from jarbloom.core.journal.spoken.following import again
from jarbloom.core.journal.spoken.frames import framed
from jarbloom.core.journal.spoken.numbers import count_in_words
from jarbloom.core.journal.spoken.readings import NONE_OF, none_read, paired, readings
from jarbloom.patterns import regex

_COUNT = regex(r"(^|\b(?:on|of|tail of|side of) )\d{1,2}(?= [a-z]{3})")  # 'clamped fins on 2 guppies'
_MEASURED = regex(r"\d|\b(?:dead|died|lost)\b")
_WORDS_ONLY = regex(r"(?:note|saw|seen|obs|medicine|medication|meds|new|fault)\b")
_TAKES_WORDS = regex(r"(?:medicine|new|note) ")  # what may hold any words ends no other clause
SHORT = 9  # words: a longer account of what was seen tells more than one thing
MOST_WORDS = 14  # of a clause in which two may be run together

_NOTHING = regex("(?!)")


@dataclass(frozen=True)
class Speaker:
    """Whose words these are: weekday counts, customs and who lives there. `knows`: whether the shorthand itself takes a
    piece whole; `sees`: whether it tells of something seen on animals or in the water; `hears`: whether a finding would
    hear anything in it at all. `is_animal`: whether a name is that of who lives here or, where they may be new, of any
    kind of the catalogue."""

    now: datetime
    us: bool
    day_first: bool
    here: Residents
    names: tuple[str, ...]
    knows: Callable[[str], bool]
    sees: Callable[[str], bool]
    hears: Callable[[str], bool]
    is_animal: Callable[[str, bool], bool]
    ordinary: frozenset[str] = frozenset()  # words of ordinary days
    sayings: re.Pattern[str] = _NOTHING  # ordinary news


@dataclass(frozen=True)
class Piece:
    """`plain`: in the shorthand; '' for words that are only kept. `at`: when, None for the moment of writing."""

    plain: str
    words: str
    at: datetime | None = None


def plain_of(piece: str, before: str, by: Speaker, beside_readings: bool) -> str | None:
    """`before`: the piece before it, in the shorthand; `beside_readings`: its line names more than one of the three
    forms of nitrogen."""
    plain = deed(piece, by.now.weekday(), by.us)
    if plain is not None:
        return plain
    plain = switches(piece, by.now.weekday()) or paired(piece) or again(piece, before)
    if plain is not None:
        return plain
    if piece.startswith("all ") and (zeros := readings(piece)) is not None:
        return zeros
    nil = NONE_OF.fullmatch(piece)
    if nil is not None and beside_readings:
        return none_read(nil)
    if piece.startswith("no ") and (nils := readings(piece)) is not None:
        return nils  # 'no ammonia no nitrite nitrate 15': zeros, beside others
    if bent(piece):
        return framed(piece, by.is_animal) or seen_in(piece, by)
    plain = several(piece) or readings(piece)
    if plain is not None:
        return plain
    if (plain := creatures(piece, before, by.here)) is not None:
        return plain if by.knows(plain) else framed(piece, by.is_animal) or plain
    for text in dict.fromkeys((piece, re.sub(r" in the (?:tank|aquarium)$", "", piece))):
        if not _WORDS_ONLY.match(text) and by.knows(text):
            return text
    return framed(piece, by.is_animal) or seen_in(piece, by)


def seen_in(piece: str, by: Speaker) -> str | None:
    """What is seen on animals or in the water, and nothing beside it."""
    if _MEASURED.search(_COUNT.sub("", piece)) or len(piece.split()) > SHORT:
        return None
    if not signs_in(piece) and (
        of_other_things(piece) or of_no_consequence(piece) or planned(piece, True) or not by.sees(piece)
    ):
        return None
    if bent_sign(piece) or _with_deed(piece.split(), by):
        return None
    return f"saw {count_in_words(piece)}"


def _with_deed(words: list[str], by: Speaker) -> bool:
    """'fish gasping turned the uv off': a deed that nothing parts from what was seen."""
    today, us = by.now.weekday(), by.us
    ways = ((" ".join(words[:n]), " ".join(words[n:])) for n in range(1, len(words)))
    return any(deed(one, today, us) or deed(other, today, us) for one, other in ways)


def run_together(words: list[str], by: Speaker, beside_readings: bool) -> Iterator[tuple[Piece, Piece]]:
    """Each way of reading two clauses that nothing parts; none of a longer account."""
    for n in range(1, len(words) if len(words) <= MOST_WORDS else 0):
        one, other = " ".join(words[:n]), " ".join(words[n:])
        if (a := plain_of(one, "", by, beside_readings)) is None:
            continue
        if (b := plain_of(other, a, by, beside_readings)) is None:
            continue
        if {a.split(" ")[0], b.split(" ")[0]} == {"counted", "saw"}:
            continue  # '3 rasboras gasping there' is no count
        if not _TAKES_WORDS.match(a) and not _TAKES_WORDS.match(b):
            yield Piece(a, one), Piece(b, other)


def is_deed(piece: Piece) -> bool:
    return bool(piece.plain) and not is_test(piece.plain)


def is_test(plain: str) -> bool:
    return bool(re.match(r"(?:am|ni|na|ph|kh|gh|t|sal) ", plain))
