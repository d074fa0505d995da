"""What every deed is done with: a connection, the moment, the keeper's preferences, and what the core knows."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.reference import Reference
from jarbloom.data import catalogue
from jarbloom.data.species_rows import species_from
from jarbloom.store import own_species
from jarbloom.store.preferences import Preferences


def reference() -> Reference:
    return Reference(catalogue.species(), catalogue.media(), catalogue.schools(), catalogue.checks(), catalogue.notes())


def with_own(base: Reference, conn: sqlite3.Connection) -> Reference:
    """The catalogue and the keeper's own species beside it; ours are never touched."""
    rows = own_species.rows(conn)
    if not rows:
        return base
    own = {r.key: species_from(r.cells, f"your own species {r.key}") for r in rows}
    return replace(base, species={**base.species, **own}, retired=frozenset(r.key for r in rows if r.removed))


@dataclass(frozen=True)
class Desk:
    """`now` is aware and in the keeper's zone."""

    conn: sqlite3.Connection
    now: datetime
    preferences: Preferences = field(default_factory=Preferences)
    reference: Reference = field(default_factory=reference)
    forecasting: Forecasting = field(default_factory=Forecasting)

    def entry(self, kind: str, body: dict[str, Any], at: datetime | None = None) -> Entry:
        """A new entry by this keeper, now unless another moment is given."""
        return Entry(kind, at or self.now, body, (), "", self.preferences.who, self.preferences.zone)
