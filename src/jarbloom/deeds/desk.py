"""What every deed is done with: a connection, the moment, the keeper's preferences, and what the core knows."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, field
from datetime import datetime

from jarbloom.core.bloom.ensemble import Settings
from jarbloom.core.reference import Reference
from jarbloom.data import catalogue
from jarbloom.store.preferences import Preferences


def reference() -> Reference:
    return Reference(catalogue.species(), catalogue.media(), catalogue.schools(), catalogue.checks(), catalogue.notes())


@dataclass(frozen=True)
class Desk:
    """`now` is aware and in the keeper's zone."""

    conn: sqlite3.Connection
    now: datetime
    preferences: Preferences = field(default_factory=Preferences)
    reference: Reference = field(default_factory=reference)
    forecasting: Settings = field(default_factory=Settings)
