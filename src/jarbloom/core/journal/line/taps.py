"""Taps that answer a question: the whole line in other words, with nothing of it lost."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import datetime

from jarbloom.core.journal.asking import Tap
from jarbloom.core.journal.line.parsed import Chip, Parsed
from jarbloom.core.journal.line.vocabulary import READ, SURE
from jarbloom.core.journal.spoken.plainly import Told

_SHARE = r"(?P<told>1/2|1/4|3/4)"
_NAMES = "|".join(map(re.escape, sorted(READ, key=len, reverse=True)))
_FRACTIONS = (
    re.compile(rf"\b(?:{_NAMES})(?: level)?(?: is| was| at| reads?|:|=)* {_SHARE}(?![\d/.,])", re.IGNORECASE),
    re.compile(
        rf"(?<![\d./] )(?<![\d./]){_SHARE} ?(?:ppm |mg/l )?(?:of )?(?:ammonia|nitrite|nitrate)\b", re.IGNORECASE
    ),
)


def half_or_between(line: str, now: datetime) -> Parsed | None:
    """'am 1/2': a half, or between two steps of the kit? '0.25/0.5' can only be the two steps."""
    hit = next((h for h in (p.search(line) for p in _FRACTIONS) if h is not None), None)
    if hit is None:
        return None
    low, high = hit["told"].split("/")
    share = f"{int(low) / int(high):g}"
    taps = tuple(
        Tap(words, f"{line[: hit.start('told')]}{text}{line[hit.end('told') :]}")
        for words, text in ((share, share), (f"between {low} and {high}", f"{low}-{high}"))
    )
    return Parsed(now, (), (Chip(False, "ask", f"{hit['told']}: {share}, or between two steps?", taps=taps),))


def tapped_within(read: list[Parsed], parts: Sequence[str], join: Callable[[list[str]], str]) -> list[Parsed]:
    """A tap that answers a question about one part is the whole text with that part in other words: nothing that stands
    beside it is lost."""

    def whole(k: int, tap: Tap) -> Tap:
        return replace(tap, line=join([tap.line if j == k else part for j, part in enumerate(parts)]))

    return [
        replace(r, chips=tuple(replace(c, taps=tuple(whole(k, t) for t in c.taps)) for c in r.chips))
        for k, r in enumerate(read)
    ]


def said_again(told: Told, parts: list[str], line: str) -> str:
    """The deeds of a line with their moments, in words that are read in the same way; what was kept in words, too."""
    if any(p.startswith("note ") for p in parts):
        return f"note {line.strip()}"
    if len({p.at for p in told.deeds}) > 1:
        text = ", ".join(f"{stamp(p.at) or 'now '}{part}" for p, part in zip(told.deeds, parts, strict=True))
        return text + "".join(f", {p.words}" for p in told.pieces if not p.plain)
    text = f"{stamp(told.deeds[0].at)}{' '.join(p.removesuffix(f' {SURE}') for p in parts)}"
    text += f" note {line.strip()}" if len(told.deeds) < len(told.pieces) else ""
    return f"{text} {SURE}" if any(p.endswith(f" {SURE}") for p in parts) else text


def stamp(at: datetime | None) -> str:
    return f"{at:%Y-%m-%d %H:%M} " if at else ""
