"""Stored forecast runs: payload is the forecast as JSON, found again by the hash of its inputs."""

from __future__ import annotations

import sqlite3
from datetime import datetime


def payload(conn: sqlite3.Connection, tank_id: int, inputs_hash: str) -> str | None:
    row = conn.execute(
        "SELECT payload FROM forecast_run WHERE tank_id = :t AND inputs_hash = :h", {"t": tank_id, "h": inputs_hash}
    ).fetchone()
    return None if row is None else row["payload"]


def earlier(conn: sqlite3.Connection, tank_id: int, version: int) -> list[str]:
    """Payloads of the kept runs of this version of the model, in order of their moment."""
    rows = conn.execute(
        """SELECT payload FROM forecast_run WHERE tank_id = :t AND version = :v ORDER BY as_of, id""",
        {"t": tank_id, "v": version},
    )
    return [row["payload"] for row in rows]


def keep(
    conn: sqlite3.Connection,
    tank_id: int,
    inputs_hash: str,
    as_of: datetime,
    version: int,
    seed: int,
    made_at: datetime,
    payload_json: str,
) -> None:
    """Keep a run, and of earlier runs only the last of each day, to look back at how good they were."""
    conn.execute(
        """INSERT OR IGNORE INTO forecast_run (tank_id, inputs_hash, as_of, version, seed, made_at, payload)
           VALUES (:t, :h, :as_of, :version, :seed, :made_at, :payload)""",
        {
            "t": tank_id,
            "h": inputs_hash,
            "as_of": as_of.isoformat(),
            "version": version,
            "seed": seed,
            "made_at": made_at.isoformat(),
            "payload": payload_json,
        },
    )
    conn.execute(
        """DELETE FROM forecast_run
           WHERE tank_id = :t AND id NOT IN (
             SELECT max(id) FROM forecast_run WHERE tank_id = :t GROUP BY substr(as_of, 1, 10))""",
        {"t": tank_id},
    )
