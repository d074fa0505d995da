"""Page data of the log book: entries by day, newest first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby

from jarbloom.core.model.entry import Entry
from jarbloom.core.model.species import Species
from jarbloom.units import Units


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
    label: str
    lines: tuple[LogLine, ...]


def book(entries: Sequence[Entry], units: Units, species: Mapping[str, Species]) -> tuple[LogDay, ...]:
    ordered = sorted(entries, key=lambda e: e.order, reverse=True)
    return tuple(
        LogDay(f"{day:%A %-d %B %Y}", tuple(_line(e, units, species) for e in group))
        for day, group in groupby(ordered, key=lambda e: e.day)
    )


def _line(entry: Entry, units: Units, species: Mapping[str, Species]) -> LogLine:
    late = ""
    if entry.recorded_at and (entry.recorded_at - entry.at).total_seconds() > 6 * 3600:
        late = f"logged {entry.recorded_at:%-d %b %H:%M}"
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
