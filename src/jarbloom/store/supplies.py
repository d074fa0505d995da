"""What the house keeps in store, with every count that was made."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict
from datetime import date, datetime

from jarbloom.core.model.supply import Supply
from jarbloom.errors import NotFound

_NEWEST = """
    SELECT supply.id, revision.name, revision.spec
    FROM supply JOIN supply_revision AS revision
      ON revision.id = (SELECT max(id) FROM supply_revision WHERE supply_id = supply.id)
"""
_DAYS = ("counted_on", "opened_on", "best_before", "bought_on")


def _supply(row: sqlite3.Row) -> Supply:
    spec = json.loads(row["spec"])
    days = {k: date.fromisoformat(spec[k]) if spec.get(k) else None for k in _DAYS}
    return Supply(name=row["name"], id=row["id"], **(spec | days))


def supplies(conn: sqlite3.Connection) -> list[Supply]:
    return [_supply(row) for row in conn.execute(_NEWEST + " WHERE supply.removed_at IS NULL ORDER BY supply.id")]


def supply(conn: sqlite3.Connection, supply_id: int) -> Supply:
    row = conn.execute(_NEWEST + " WHERE supply.id = :id", {"id": supply_id}).fetchone()
    if row is None:
        raise NotFound("There is nothing of this in store.")
    return _supply(row)


def removed(conn: sqlite3.Connection) -> list[Supply]:
    return [_supply(row) for row in conn.execute(_NEWEST + " WHERE supply.removed_at IS NOT NULL ORDER BY supply.id")]


def save(conn: sqlite3.Connection, one: Supply, now: datetime) -> int:
    supply_id = one.id
    if not supply_id:
        supply_id = conn.execute("INSERT INTO supply DEFAULT VALUES RETURNING id").fetchone()["id"]
    spec = {k: v.isoformat() if isinstance(v, date) else v for k, v in asdict(one).items() if k not in ("id", "name")}
    conn.execute(
        "INSERT INTO supply_revision (supply_id, saved_at, name, spec) VALUES (:id, :at, :name, :spec)",
        {"id": supply_id, "at": now.isoformat(), "name": one.name, "spec": json.dumps(spec, allow_nan=False)},
    )
    return int(supply_id)


def remove(conn: sqlite3.Connection, supply_id: int, now: datetime | None) -> None:
    """Take it off the list, or put it back (None)."""
    conn.execute(
        "UPDATE supply SET removed_at = :at WHERE id = :id", {"id": supply_id, "at": now.isoformat() if now else None}
    )
