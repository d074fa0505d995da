"""Planned batches. Whether one has arrived is told by the journal, not here."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from datetime import date, datetime

from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.errors import NotFound


def batches(conn: sqlite3.Connection, tank_id: int, entries: Sequence[Entry]) -> list[Batch]:
    """Batches on the plan, by date. A batch is in when a live arrival names it."""
    arrived = {e.body.batch: e.day for e in Log.of(entries).kinds(Arrival) if e.body.batch is not None}
    rows = conn.execute(
        """SELECT id, name, planned, locked FROM batch
           WHERE tank_id = :t AND removed_at IS NULL ORDER BY planned, id""",
        {"t": tank_id},
    ).fetchall()
    return [
        Batch(
            row["id"],
            row["name"],
            date.fromisoformat(row["planned"]),
            items(conn, row["id"]),
            arrived.get(row["id"]),
            bool(row["locked"]),
        )
        for row in rows
    ]


def items(conn: sqlite3.Connection, batch_id: int) -> tuple[Animals, ...]:
    rows = conn.execute(
        "SELECT species, count, length_cm FROM batch_item WHERE batch_id = ? ORDER BY species", (batch_id,)
    )
    return tuple(Animals(row["species"], row["count"], row["length_cm"]) for row in rows)


def add(conn: sqlite3.Connection, tank_id: int, name: str, planned: date) -> int:
    row = conn.execute(
        "INSERT INTO batch (tank_id, name, planned) VALUES (:t, :name, :planned) RETURNING id",
        {"t": tank_id, "name": name, "planned": planned.isoformat()},
    ).fetchone()
    return row["id"]


def move(conn: sqlite3.Connection, tank_id: int, batch_id: int, planned: date) -> None:
    _one(
        conn,
        "UPDATE batch SET planned = :planned WHERE id = :id AND tank_id = :t",
        tank_id,
        batch_id,
        planned=planned.isoformat(),
    )


def lock(conn: sqlite3.Connection, tank_id: int, batch_id: int, locked: bool) -> None:
    """The planner leaves a locked batch as it is."""
    _one(conn, "UPDATE batch SET locked = :locked WHERE id = :id AND tank_id = :t", tank_id, batch_id, locked=locked)


def restore(conn: sqlite3.Connection, tank_id: int, batch: Batch) -> None:
    """A batch just as given, taken off the plan or not."""
    _one(
        conn,
        """UPDATE batch SET name = :name, planned = :planned, locked = :locked, removed_at = NULL
           WHERE id = :id AND tank_id = :t""",
        tank_id,
        batch.id,
        name=batch.name,
        planned=batch.planned.isoformat(),
        locked=batch.locked,
    )
    conn.execute("DELETE FROM batch_item WHERE batch_id = ?", (batch.id,))
    for a in batch.items:
        set_count(conn, batch.id, a.species, a.count, a.length_cm)


def remove(conn: sqlite3.Connection, tank_id: int, batch_id: int, at: datetime | None) -> None:
    """Take a batch off the plan, or put it back (None)."""
    _one(
        conn,
        "UPDATE batch SET removed_at = :at WHERE id = :id AND tank_id = :t",
        tank_id,
        batch_id,
        at=at.isoformat() if at else None,
    )


def _one(conn: sqlite3.Connection, sql: str, tank_id: int, batch_id: int, **values: str | bool | None) -> None:
    if conn.execute(sql, {"id": batch_id, "t": tank_id, **values}).rowcount != 1:
        raise NotFound("That batch is not on this tank's plan.")


def set_count(
    conn: sqlite3.Connection, batch_id: int, species: str, count: int, length_cm: float | None = None
) -> None:
    """So many of a species in a batch; none takes it out."""
    if count <= 0:
        conn.execute("DELETE FROM batch_item WHERE batch_id = ? AND species = ?", (batch_id, species))
        return
    conn.execute(
        """INSERT INTO batch_item (batch_id, species, count, length_cm) VALUES (:b, :s, :n, :l)
           ON CONFLICT (batch_id, species) DO UPDATE SET count = excluded.count,
             length_cm = coalesce(excluded.length_cm, length_cm)""",
        {"b": batch_id, "s": species, "n": count, "l": length_cm},
    )
