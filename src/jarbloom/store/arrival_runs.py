"""Arrival days: what was told of the bag, and when each step was done."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from jarbloom.errors import NotFound


@dataclass(frozen=True)
class ArrivalRun:
    id: int
    batch_id: int | None
    begun_at: datetime
    spec: dict[str, Any]
    ended_at: datetime | None
    how_ended: str
    done: dict[str, datetime]


def add(conn: sqlite3.Connection, tank_id: int, batch_id: int | None, spec: dict[str, Any], now: datetime) -> int:
    row = conn.execute(
        """INSERT INTO arrival_run (tank_id, batch_id, begun_at, spec)
           VALUES (:tank, :batch, :at, :spec) RETURNING id""",
        {"tank": tank_id, "batch": batch_id, "at": now.isoformat(), "spec": json.dumps(spec, allow_nan=False)},
    ).fetchone()
    return row["id"]


def run(conn: sqlite3.Connection, tank_id: int, run_id: int) -> ArrivalRun:
    row = conn.execute(
        """SELECT id, batch_id, begun_at, spec, ended_at, how_ended FROM arrival_run
           WHERE id = :id AND tank_id = :tank""",
        {"id": run_id, "tank": tank_id},
    ).fetchone()
    if row is None:
        raise NotFound("There is no such arrival day of this tank.")
    return _run(conn, row)


def runs(conn: sqlite3.Connection, tank_id: int) -> list[ArrivalRun]:
    """The newest first."""
    rows = conn.execute(
        """SELECT id, batch_id, begun_at, spec, ended_at, how_ended FROM arrival_run
           WHERE tank_id = :tank ORDER BY id DESC""",
        {"tank": tank_id},
    ).fetchall()
    return [_run(conn, row) for row in rows]


def open_run(conn: sqlite3.Connection, tank_id: int) -> ArrivalRun | None:
    return next((r for r in runs(conn, tank_id) if r.ended_at is None), None)


def _run(conn: sqlite3.Connection, row: sqlite3.Row) -> ArrivalRun:
    steps = conn.execute("SELECT step, at FROM arrival_step WHERE run_id = ? ORDER BY at", (row["id"],))
    ended = datetime.fromisoformat(row["ended_at"]) if row["ended_at"] else None
    return ArrivalRun(
        row["id"], row["batch_id"], datetime.fromisoformat(row["begun_at"]), json.loads(row["spec"]), ended,
        row["how_ended"] or "", {s["step"]: datetime.fromisoformat(s["at"]) for s in steps},
    )  # fmt: skip


def tick(conn: sqlite3.Connection, run_id: int, step: str, at: datetime) -> None:
    conn.execute(
        "INSERT INTO arrival_step (run_id, step, at) VALUES (:run, :step, :at)",
        {"run": run_id, "step": step, "at": at.isoformat()},
    )


def untick(conn: sqlite3.Connection, run_id: int, step: str) -> None:
    conn.execute("DELETE FROM arrival_step WHERE run_id = :run AND step = :step", {"run": run_id, "step": step})


def set_spec(conn: sqlite3.Connection, run_id: int, spec: dict[str, Any]) -> None:
    conn.execute(
        "UPDATE arrival_run SET spec = :spec WHERE id = :id", {"spec": json.dumps(spec, allow_nan=False), "id": run_id}
    )


def end(conn: sqlite3.Connection, run_id: int, how: str | None, at: datetime | None) -> None:
    """`how`: in, or given up; None opens it again."""
    conn.execute(
        "UPDATE arrival_run SET ended_at = :at, how_ended = :how WHERE id = :id",
        {"at": at.isoformat() if at else None, "how": how, "id": run_id},
    )
