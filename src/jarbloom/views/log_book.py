"""Page data of the log book: entries by day, newest first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby

from jarbloom.core.log.kinds import KINDS
from jarbloom.core.log.words import words
from jarbloom.core.model import Entry, Species
from jarbloom.units import Units


@dataclass(frozen=True)
class Line:
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
class Day:
    label: str
    lines: tuple[Line, ...]


def book(entries: Sequence[Entry], units: Units, species: Mapping[str, Species]) -> tuple[Day, ...]:
    ordered = sorted(entries, key=lambda e: (e.at, e.id), reverse=True)
    return tuple(
        Day(f"{day:%A %-d %B %Y}", tuple(_line(e, units, species) for e in group))
        for day, group in groupby(ordered, key=lambda e: e.at.date())
    )


def _line(entry: Entry, units: Units, species: Mapping[str, Species]) -> Line:
    late = ""
    if entry.recorded_at and (entry.recorded_at - entry.at).total_seconds() > 6 * 3600:
        late = f"logged {entry.recorded_at:%-d %b %H:%M}"
    return Line(
        entry.id,
        entry.kind,
        KINDS[entry.kind].label,
        f"{entry.at:%H:%M}",
        words(entry, species, units),
        entry.note,
        entry.who,
        entry.state,
        late,
        str(entry.body.get("override", "")),
    )
