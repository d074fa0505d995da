"""Animals planned to go in together."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.model.species import Animals


@dataclass(frozen=True)
class Batch:
    """Animals planned to go in together. `arrived` is set when a live arrival entry names the batch."""

    id: int
    name: str
    planned: date
    items: tuple[Animals, ...]
    arrived: date | None = None
    locked: bool = False  # the planner leaves it as it is
