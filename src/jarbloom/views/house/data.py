"""Page data of the house's data: what copies there are, how old the last is, and where they lie."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from jarbloom.store.backups import Backups
from jarbloom.units import NBSP, figure


@dataclass(frozen=True)
class CopyRow:
    day: str  # ISO 8601, as its address names it
    name: str
    size: str
    second: bool


@dataclass(frozen=True)
class DataPage:
    call: str
    words: str
    folder: str
    second: str
    rows: tuple[CopyRow, ...]
    problem: str


def data_page(b: Backups, now: datetime) -> DataPage:
    there = {c.day for c in b.there}
    rows = tuple(CopyRow(c.day.isoformat(), f"{c.day:%a %-d %b %Y}", _size(c.size), c.day in there) for c in b.here)
    call, words = _head(b, now)
    return DataPage(call, words, str(b.folder), b.second, rows, b.problem)


def _head(b: Backups, now: datetime) -> tuple[str, str]:
    if b.last is None:
        return "No backup yet.", "The first is made by itself within a minute of the program’s start."
    days = (now.date() - b.last).days
    when = {0: "of today", 1: "of yesterday"}.get(days, f"{days} days old")
    if b.problem:
        return f"The last backup is {when}.", "A newer one failed; see below."
    return f"The last backup is {when}.", "It was read back and found whole."


def _size(n: int) -> str:
    return f"{figure(n / 1e6, 2)}{NBSP}MB" if n >= 100_000 else f"{max(n // 1000, 1)}{NBSP}kB"
