"""Taps that answer a question: the whole line in other words, with nothing of it lost."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import datetime

from jarbloom.core.journal.asking import Tap
from jarbloom.core.journal.line.parsed import Chip, Parsed
from jarbloom.core.journal.line.vocabulary import KEYWORDS, READ, SURE
from jarbloom.core.journal.spoken.moments import AWAKE
from jarbloom.core.journal.spoken.numbers import ONES
from jarbloom.core.journal.spoken.plainly import Told
from jarbloom.patterns import regex

_SHARE = r"(?P<told>1/2|1/4|3/4)"
_NAMES = "|".join(map(re.escape, sorted(READ, key=len, reverse=True)))
_FRACTIONS = (
    regex(rf"\b(?:{_NAMES})(?: level)?(?: is| was| at| reads?|:|=)* {_SHARE}(?![\d/.,])", re.IGNORECASE),
    regex(rf"(?<![\d./] )(?<![\d./]){_SHARE} ?(?:ppm |mg/l )?(?:of )?(?:ammonia|nitrite|nitrate)\b", re.IGNORECASE),
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


_HOURS = {word: n for word, n in ONES.items() if 1 <= n <= 12}
_A_DAY = regex(r"\b(?:yesterday|ago|(?:mon|tue|wed|thu|fri|sat|sun)[a-z]*day)\b|\d[./-]\d")
_HALF_HOUR = regex(
    r"(?:^|(?<=\bat )|(?<=day )|(?<=morning )|(?<=evening )|(?<=night )|(?<=, ))"
    rf"(?P<half>half[ -](?P<hour>{'|'.join(_HOURS)}|1[0-2]|[1-9]))"
    rf"(?= *(?:$|,|in the |this |last |yesterday|today|fed\b|(?:{'|'.join(map(re.escape, KEYWORDS))})\b))(?! *l\b)",
    re.IGNORECASE,
)


def half_hour(line: str, now: datetime) -> Parsed | None:
    """'half eight' is 8:30 to some and 7:30 to others."""
    hit = _HALF_HOUR.search(line)
    if hit is None:
        return None
    hour = _HOURS.get(hit["hour"].lower()) or int(hit["hour"])
    before, after = line[: hit.start("half")], line[hit.end("half") :]
    hours = [h for each in (hour, hour - 1) for h in (each % 12, each % 12 + 12)]
    if (part := re.search(r"\b(?:morning|afternoon|evening|night)\b", line.lower())) is not None:
        hours = [h for h in hours if (h < 12) == (part[0] == "morning")]
        after = re.sub(r"^ *(?:in the|this) (?:morning|afternoon|evening)", "", after)
    elif _A_DAY.search(line.lower()) is None:
        hours = [h for h in hours if h >= AWAKE and (h, 30) <= (now.hour, now.minute)]
    taps = tuple(Tap(f"{h}:30", f"{before}{h:02}:30{after}".strip()) for h in hours)
    return Parsed(now, (), (Chip(False, "ask", f"{hit['half'].capitalize()}: which hour?", taps=taps),))


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
