"""What the outlook page rests on: the tank as it stands, what was asked, what would follow, and the record so far."""

from __future__ import annotations

from dataclasses import dataclass

from jarbloom.core.advice.situation import TankSeen
from jarbloom.core.bloom.track import Track
from jarbloom.core.bloom.whatif import Future, WhatIf
from jarbloom.core.journal.line.parsed import Chip


@dataclass(frozen=True)
class Asked:
    """A what-if as it was typed: a line of shorthand and a day, what it was taken for, and what is wrong with it."""

    line: str
    day: str
    chips: tuple[Chip, ...] = ()
    refused: str = ""
    what_if: WhatIf | None = None


@dataclass(frozen=True)
class Outlook:
    seen: TankSeen
    asked: tuple[Asked, ...]
    futures: tuple[Future, ...]  # as planned first; empty when nothing was asked
    track: Track
