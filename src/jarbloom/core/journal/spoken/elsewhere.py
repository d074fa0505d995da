"""What a note says was read in another water: 'tap: ph 8.2, kh 6', 'bag t 21 ph 6.4', 'the tap has 10 nitrate'."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from jarbloom.core.journal.spoken.asides import OTHER_FIRST, OTHER_LAST, OTHER_OF, READS, reading_elsewhere
from jarbloom.core.journal.spoken.cleaned import in_one_wording, plain_text
from jarbloom.core.journal.spoken.moments import clocks, said_moment
from jarbloom.core.journal.spoken.numbers import in_figures
from jarbloom.patterns import regex

_KINDS = (("tap", "tap"), ("bag", "bag"), ("ro", "ro"), ("rain", "rain"), ("well", "well"))
_APART = regex(r"\s*(?:[;\n]|,(?!\d)|\.(?=\s|$))\s*| (?:and|but) ")


@dataclass(frozen=True)
class ReadElsewhere:
    """`water`: tap, bag, ro, rain or well. `plain`: what was read there, in the shorthand."""

    water: str
    plain: str


def read_elsewhere(text: str, now: datetime, day_first: bool) -> tuple[ReadElsewhere, ...]:
    """The readings of other water in a note, one of each water at most; empty for a note of anything else. `now`: when
    it was written."""
    if "?" in text:
        return ()
    plain = clocks(in_figures(in_one_wording(plain_text(text))))
    moment = said_moment(plain, now, day_first)
    found: dict[str, list[str]] = {}
    for water, told in _pieces(plain if moment is None else moment[1]):
        found.setdefault(water, []).append(told)
    return tuple(ReadElsewhere(water, " ".join(told)) for water, told in found.items())


def _pieces(text: str) -> Iterator[tuple[str, str]]:
    water = ""  # whose readings go on behind a comma
    for piece in _APART.split(text):
        bare = re.sub(r"^note ", "", (piece or "").strip(" ,:"))
        named, rest = _named(bare)
        if " tank" in f" {bare}" and not named:
            water = ""
            continue
        water = named or water
        told = reading_elsewhere(READS.sub("", (rest if named else bare).strip(" ,:")))
        if water and told is not None:
            yield water, told


def _named(piece: str) -> tuple[str, str]:
    """(kind of water, the words beside its name); ('', '') where none is named."""
    for pattern in (OTHER_FIRST, OTHER_LAST, OTHER_OF):
        hit = pattern.match(piece)
        kind = next((k for word, k in _KINDS if re.match(rf"{word}\b|{word}di\b", hit["water"])), "") if hit else ""
        if hit is not None and kind:
            return kind, " ".join(t for t in (hit["rest"], hit.groupdict().get("value")) if t)
    return "", ""
