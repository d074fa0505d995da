"""Chores that a keeper has set down for a tank."""

from __future__ import annotations

import sqlite3
from datetime import date, datetime

from jarbloom.core.model.chore import Chore
from jarbloom.errors import NotFound


def _chore(row: sqlite3.Row) -> Chore:
    made = date.fromisoformat(row["made_at"][:10])
    return Chore(row["title"], row["rhythm"], row["every"], row["line"], made, row["id"])


def chores(conn: sqlite3.Connection, tank_id: int, removed: bool = False) -> tuple[Chore, ...]:
    which = "IS NOT NULL" if removed else "IS NULL"
    rows = conn.execute(
        f"SELECT * FROM chore WHERE tank_id = :tank AND removed_at {which} ORDER BY id", {"tank": tank_id}
    )
    return tuple(_chore(row) for row in rows)


def add(conn: sqlite3.Connection, tank_id: int, new: Chore, now: datetime) -> int:
    row = conn.execute(
        """INSERT INTO chore (tank_id, title, rhythm, every, line, made_at)
           VALUES (:tank, :title, :rhythm, :every, :line, :at) RETURNING id""",
        {"tank": tank_id, "title": new.title, "rhythm": new.rhythm, "every": new.every, "line": new.line,
         "at": now.isoformat()},
    ).fetchone()  # fmt: skip
    return int(row["id"])


def remove(conn: sqlite3.Connection, tank_id: int, chore_id: int, now: datetime | None) -> None:
    """Take it off the list, or put it back (None)."""
    done = conn.execute(
        "UPDATE chore SET removed_at = :at WHERE id = :id AND tank_id = :tank",
        {"at": now.isoformat() if now else None, "id": chore_id, "tank": tank_id},
    )
    if not done.rowcount:
        raise NotFound("There is no such chore.")
