"""The photo pages: the strip along time, and two pictures beside each other with the readings of their days."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import groupby

from jarbloom.core.journal.kinds.photo import WHOLE_TANK, Photo
from jarbloom.core.journal.readings import LABELS
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Tank
from jarbloom.units import lasting


@dataclass(frozen=True)
class Shot:
    id: int
    day: str
    short: str
    of: str
    text: str
    alt: str
    width: int
    height: int


@dataclass(frozen=True)
class Year:
    label: str
    shots: tuple[Shot, ...]


@dataclass(frozen=True)
class Compared:
    """A and B, older first, with what was read by their days: quantity, words of A, words of B. `tall`: B's height at a
    width of 1,000."""

    a: Shot
    b: Shot
    apart: str
    readings: tuple[tuple[str, str, str], ...]
    tall: int


def shot(entry: Entry[Photo], tank: Tank) -> Shot:
    body = entry.body
    age = (entry.day - tank.started).days
    alt = f"{(body.of or WHOLE_TANK).capitalize()} on {entry.at:%-d %B %Y}, day {age}" + (
        f": {body.text}" if body.text else ""
    )
    return Shot(entry.id, f"{entry.at:%-d %b %Y}", f"{entry.at:%b %y}", body.of or WHOLE_TANK, body.text, alt,
                int(body.width or 4), int(body.height or 3))  # fmt: skip


def years(photos: Sequence[Entry[Photo]], tank: Tank) -> tuple[Year, ...]:
    """The newest year first, the newest picture of it first."""
    newest = sorted(photos, key=lambda e: e.order, reverse=True)
    return tuple(
        Year(str(y), tuple(shot(e, tank) for e in found)) for y, found in groupby(newest, lambda e: e.day.year)
    )


Read = tuple[tuple[str, str, int], ...]


def compared(first: tuple[Entry[Photo], Read], second: tuple[Entry[Photo], Read], tank: Tank) -> Compared:
    (a, read_a), (b, read_b) = sorted((first, second), key=lambda p: p[0].order)
    told_a, told_b = ({q: _said(typed, days) for q, typed, days in read} for read in (read_a, read_b))
    keys = [q for q, _, _ in (*read_a, *read_b)]
    rows = tuple((LABELS[q], told_a.get(q, "–"), told_b.get(q, "–")) for q in dict.fromkeys(keys))
    second_shot = shot(b, tank)
    tall = round(1000 * second_shot.height / second_shot.width)
    return Compared(shot(a, tank), second_shot, _apart(a.at, b.at), rows, tall)


def _said(typed: str, days: int) -> str:
    return typed if days == 0 else f"{typed} ({days} d before)"


def _apart(a: datetime, b: datetime) -> str:
    return f"{lasting(abs((b - a).days)).capitalize()} apart"
