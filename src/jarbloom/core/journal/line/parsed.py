"""What a line came to: its entries, and the chips that say what each piece was taken for."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from jarbloom.core.journal.asking import Tap
from jarbloom.core.model.entry import Body


@dataclass(frozen=True)
class Chip:
    """What one piece of the line was taken for, or a question about it with its likely answers."""

    ok: bool
    glyph: str
    label: str
    value: str = ""
    detail: str = ""
    taps: tuple[Tap, ...] = ()


@dataclass(frozen=True)
class Parsed:
    """`bodies` is empty as long as a question is open. `note`: words behind what was understood."""

    at: datetime
    bodies: tuple[Body, ...]
    chips: tuple[Chip, ...]
    note: str = ""
    moments: tuple[datetime, ...] = ()  # of each body, where they differ from `at`

    @property
    def entries(self) -> tuple[tuple[datetime, Body], ...]:
        """Each body with its moment."""
        return tuple(zip(self.moments or (self.at,) * len(self.bodies), self.bodies, strict=True))

    @property
    def questions(self) -> tuple[Chip, ...]:
        return tuple(c for c in self.chips if not c.ok)
