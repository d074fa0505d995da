"""Absences of the keeper, the addresses of their sheets by hash, and what was ticked."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from jarbloom.store.sessions import hashed


@dataclass(frozen=True)
class Kept:
    """`told`: the fields of the sheet; `shared`: an address shows it."""

    id: int
    tank_id: int
    first: date
    last: date
    told: dict[str, Any]
    shared: bool


def _kept(row: sqlite3.Row) -> Kept:
    first, last = date.fromisoformat(row["first"]), date.fromisoformat(row["last"])
    return Kept(row["id"], row["tank_id"], first, last, json.loads(row["told"]), row["hash"] is not None)


def save(conn: sqlite3.Connection, tank_id: int, first: date, last: date, told: dict[str, Any], at: datetime) -> int:
    """A new sheet; the one before it ends, and so does its address."""
    end(conn, tank_id, at)
    row = conn.execute(
        """INSERT INTO away (tank_id, first, last, told, made_at) VALUES (:tank, :first, :last, :told, :at)
           RETURNING id""",
        {"tank": tank_id, "first": first.isoformat(), "last": last.isoformat(),
         "told": json.dumps(told, ensure_ascii=False, allow_nan=False), "at": at.isoformat()},
    ).fetchone()  # fmt: skip
    return int(row["id"])


def end(conn: sqlite3.Connection, tank_id: int, at: datetime) -> None:
    conn.execute(
        "UPDATE away SET ended_at = :at, hash = NULL WHERE tank_id = :tank AND ended_at IS NULL",
        {"tank": tank_id, "at": at.isoformat()},
    )


def share(conn: sqlite3.Connection, away_id: int, secret: str | None) -> None:
    """Give it an address, another one, or none."""
    conn.execute(
        "UPDATE away SET hash = :hash WHERE id = :id", {"id": away_id, "hash": hashed(secret) if secret else None}
    )


def latest(conn: sqlite3.Connection, tank_id: int) -> Kept | None:
    row = conn.execute(
        "SELECT * FROM away WHERE tank_id = :tank AND ended_at IS NULL ORDER BY id DESC LIMIT 1", {"tank": tank_id}
    ).fetchone()
    return None if row is None else _kept(row)


def by_secret(conn: sqlite3.Connection, secret: str) -> Kept | None:
    row = conn.execute("SELECT * FROM away WHERE hash = :hash", {"hash": hashed(secret)}).fetchone()
    return None if row is None else _kept(row)


def ticks(conn: sqlite3.Connection, away_id: int) -> dict[tuple[date, str], int]:
    rows = conn.execute("SELECT day, what, entry_id FROM away_tick WHERE away_id = :id", {"id": away_id})
    return {(date.fromisoformat(r["day"]), r["what"]): r["entry_id"] for r in rows}


def tick(conn: sqlite3.Connection, away_id: int, day: date, what: str, entry_id: int, at: datetime) -> None:
    conn.execute(
        """INSERT INTO away_tick (away_id, day, what, entry_id, at) VALUES (:id, :day, :what, :entry, :at)
           ON CONFLICT (away_id, day, what) DO UPDATE SET entry_id = excluded.entry_id, at = excluded.at""",
        {"id": away_id, "day": day.isoformat(), "what": what, "entry": entry_id, "at": at.isoformat()},
    )


def untick(conn: sqlite3.Connection, away_id: int, day: date, what: str) -> None:
    conn.execute(
        "DELETE FROM away_tick WHERE away_id = :id AND day = :day AND what = :what",
        {"id": away_id, "day": day.isoformat(), "what": what},
    )
