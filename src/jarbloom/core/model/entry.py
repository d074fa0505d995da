"""A line of the journal."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from jarbloom.core.model.kit import Reading


@dataclass(frozen=True)
class Entry:
    """One line of the journal. `body` holds the kind's own fields (see core.log.kinds)."""

    kind: str
    at: datetime
    body: dict[str, Any] = field(default_factory=dict)
    readings: tuple[Reading, ...] = ()
    note: str = ""
    who: str = ""
    zone: str = "UTC"
    id: int = 0
    state: str = "live"  # live | superseded | void
    supersedes: int | None = None
    recorded_at: datetime | None = None
    act: int = 0
