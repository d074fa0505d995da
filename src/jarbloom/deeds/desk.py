"""What every deed is done with: a connection, the moment, the keeper's preferences, and what the core knows."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, field, replace
from datetime import datetime

from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.reference import Reference
from jarbloom.data import catalogue
from jarbloom.data.species_rows import species_from
from jarbloom.kept import Kept
from jarbloom.store import journal, own_species
from jarbloom.store.db import Connection
from jarbloom.store.preferences import Preferences


def reference() -> Reference:
    return Reference(
        catalogue.species(), catalogue.media(), catalogue.schools(), catalogue.checks(), catalogue.notes(),
        catalogue.words(), catalogue.findings(), catalogue.acts(), catalogue.causes(),
        catalogue.courses(), uninvited=catalogue.uninvited(), plants=catalogue.plants(),
    )  # fmt: skip


def with_own(base: Reference, conn: sqlite3.Connection) -> Reference:
    """The catalogue and the keeper's own species beside it; ours are never touched."""
    rows = own_species.rows(conn)
    if not rows:
        return base
    own = {r.key: species_from(r.cells, f"your own species {r.key}") for r in rows}
    return replace(base, species={**base.species, **own}, retired=frozenset(r.key for r in rows if r.removed))


_logs: Kept[tuple[tuple[object, ...], Log]] = Kept(40)  # by file, tank and zone: the log as last read, and its stamp


@dataclass(frozen=True)
class Desk:
    """`now` is aware and in the keeper's zone."""

    conn: Connection
    now: datetime
    preferences: Preferences = field(default_factory=Preferences)
    reference: Reference = field(default_factory=reference)
    forecasting: Forecasting = field(default_factory=Forecasting)
    waits: bool = True  # for a forecast that is not made yet; else BeingMade is raised

    def entry(self, body: Body, at: datetime | None = None, note: str = "", who: str = "") -> Entry:
        """A new entry by this keeper, now unless another moment is given."""
        return Entry(body, at or self.now, note, who or self.preferences.who, self.preferences.zone)

    def log(self, tank_id: int) -> Log:
        """What the journal of a tank holds live, in the keeper's zone; kept until something is written to it."""
        zone = self.preferences.tz
        stamp = journal.stamp(self.conn, tank_id)
        where = (*stamp[:3], str(zone))
        before = _logs.get(where)
        if before is not None and before[0] == stamp:
            return before[1]
        news = journal.news(self.conn, tank_id, before[0], zone) if before is not None else None
        if before is not None and news is not None:
            made = before[1].with_news(news.came, news.gone)
        else:
            made = Log.of(journal.entries(self.conn, tank_id, zone=zone), zone)
        if not self.conn.in_transaction:  # within one the journal may still be taken back
            _logs.put(where, (stamp, made))
        return made
