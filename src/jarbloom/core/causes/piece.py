"""One thing that is known about an upset: a token that causes ask for (data/causes.toml), with its words."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

SIGNS_FOR = timedelta(hours=96)  # a sign belongs to the upset of now for so long
AFTER_WATER = timedelta(hours=24)  # docs/upsets.md: signs that began within a day of new water


@dataclass(frozen=True)
class Piece:
    """`kind`: sign, event, reading, answer or tank. `entry_id`: what it rests on, None: known of the tank."""

    token: str
    kind: str
    words: str
    at: datetime
    entry_id: int | None = None
