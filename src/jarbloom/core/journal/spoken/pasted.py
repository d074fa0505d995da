"""Several lines at once: a line that is only a day stands over those below it; marks of lists and quotes go."""

from __future__ import annotations

from datetime import datetime

from jarbloom.core.journal.spoken.moments import clocks, hour_without_day, said_moment
from jarbloom.patterns import regex

_MARK = regex(r"^[ \t]*(?:[•*\-–]+(?!\s*\d)|[•*\-–](?=\s)|\d{1,2}[.)](?=\s+[a-z]))?[ \t]*(?:\[[xX✓]\][ \t]*)?")
_OPEN = regex(r"^[ \t]*[•*\-–]?[ \t]*\[ ?\]")


def lines_of(text: str, now: datetime, day_first: bool) -> list[str]:
    """The lines that say something, each with the day of the heading above it in front. What is not ticked in a list
    of tasks, and what is quoted, says nothing of this tank and becomes a note.

    >>> lines_of("Monday\\n- am 1\\n- [ ] wc 30%", datetime(2026, 11, 24, 18), True)
    ['2026-11-23 am 1', 'note [ ] wc 30%']
    """
    found, day = [], ""
    for raw in text.splitlines():
        if not raw.strip(" \t•*-–"):
            continue
        if _OPEN.match(raw) or raw.lstrip().startswith(">"):
            found.append(f"note {raw.strip()}")
            continue
        line = _MARK.sub("", raw).strip()
        heading = said_moment(clocks(line.lower().rstrip(" :")), now, day_first)
        if heading is not None and not heading[1]:
            day = f"{heading[0]:%Y-%m-%d %H:%M} " if heading[0].time() != datetime.min.time() else ""
            day = day.removesuffix("12:00 ")
            continue
        told = clocks(line.lower())
        if day and hour_without_day(told):
            found.append(f"{day[:10]} {line}")
        else:
            found.append(line if said_moment(told, now, day_first) is not None else f"{day}{line}")
    return found
