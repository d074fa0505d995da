"""Page data of the log book: entries by day, newest first, so many on a page."""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import groupby

from jarbloom.core.journal.log import Log
from jarbloom.core.journal.readings import LABELS
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import QUANTITIES
from jarbloom.core.model.species import Species
from jarbloom.units import Units

ON_A_PAGE = 150  # entries; a day is never split


@dataclass(frozen=True)
class LogLine:
    id: int
    kind: str
    label: str
    at: str
    words: str
    note: str
    who: str
    state: str
    late: str
    override: str


@dataclass(frozen=True)
class LogDay:
    """`read`: the day's readings in one line, the last of each quantity."""

    label: str
    read: str
    lines: tuple[LogLine, ...]


@dataclass(frozen=True)
class LogPage:
    """`count` entries in all of what was asked; `kinds`: those that the book holds, key, label and how many; `earlier`:
    the last day of the page before, None on the first one; `later`: there are newer ones than these."""

    days: tuple[LogDay, ...]
    count: int
    kinds: tuple[tuple[str, str, int], ...]
    earlier: date | None
    later: bool


def book(
    entries: Sequence[Entry], units: Units, species: Mapping[str, Species], until: date | None = None, kind: str = "",
    held: Sequence[Entry] | None = None,
) -> LogPage:  # fmt: skip
    """Whole days up to `until`, the newest first, of one kind when asked. `entries` are in order of time; `held`: the
    whole book, where they were searched out of it."""
    whole = entries if held is None else held
    counts = whole.counted() if isinstance(whole, Log) else Counter(type(e.body) for e in whole)
    kinds = tuple(sorted(((k.key, k.label, n) for k, n in counts.items()), key=lambda row: (-row[2], row[1])))
    if kind:
        entries = [e for e in entries if e.kind == kind]
    end = len(entries) if until is None else bisect_right(entries, until, key=lambda e: e.day)
    first = max(0, end - ON_A_PAGE)
    while first and entries[first - 1].day == entries[first].day:
        first -= 1
    shown = reversed(entries[first:end])
    days = tuple(
        LogDay(f"{day:%A %-d %B %Y}", _read(group), tuple(_line(e, units, species) for e in group))
        for day, group in ((d, list(g)) for d, g in groupby(shown, key=lambda e: e.day))
    )
    return LogPage(days, len(entries), kinds, entries[first - 1].day if first else None, end < len(entries))


def _read(day: Sequence[Entry]) -> str:
    """The last reading of each quantity of a day, of the tests that stand."""
    last = {r.quantity: r.typed for e in reversed(day) if e.state == "live" for r in e.readings}
    return ", ".join(f"{LABELS[q]} {last[q]}" for q in QUANTITIES if q in last)


def _line(entry: Entry, units: Units, species: Mapping[str, Species]) -> LogLine:
    late = ""
    if entry.recorded_at and (entry.recorded_at - entry.at).total_seconds() > 6 * 3600:
        year = "" if entry.recorded_at.year == entry.at.year else f" {entry.recorded_at:%Y}"
        late = f"logged {entry.recorded_at:%-d %b}{year}, {entry.recorded_at:%H:%M}"
    return LogLine(
        entry.id,
        entry.kind,
        entry.body.label,
        f"{entry.at:%H:%M}",
        entry.body.words(species, units),
        entry.note,
        entry.who,
        entry.state,
        late,
        getattr(entry.body, "override", ""),
    )
