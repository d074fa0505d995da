"""Probes and their hourly traces."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from jarbloom.core.setup.probe import Hour


@dataclass(frozen=True)
class Probe:
    tank_id: int
    url: str
    listening: bool
    last_try: datetime | None = None
    last_ok: datetime | None = None
    last_error: str = ""
    last_reading: Mapping[str, float] | None = None


def _moment(text: str | None) -> datetime | None:
    return datetime.fromisoformat(text) if text else None


_PROBES = "SELECT tank_id, url, listening, last_try, last_ok, last_error, last_reading FROM probe"


def _probe(row: sqlite3.Row) -> Probe:
    return Probe(
        row["tank_id"],
        row["url"],
        bool(row["listening"]),
        _moment(row["last_try"]),
        _moment(row["last_ok"]),
        row["last_error"],
        json.loads(row["last_reading"]) if row["last_reading"] else None,
    )


def probe(conn: sqlite3.Connection, tank_id: int) -> Probe | None:
    row = conn.execute(_PROBES + " WHERE tank_id = :tank", {"tank": tank_id}).fetchone()
    return None if row is None else _probe(row)


def listening(conn: sqlite3.Connection) -> list[Probe]:
    """Probes that are listened to, of tanks that stand on the bench."""
    rows = conn.execute(
        _PROBES + " WHERE listening = 1 AND tank_id IN (SELECT id FROM tank WHERE archived_at IS NULL) ORDER BY tank_id"
    )
    return [_probe(row) for row in rows]


def connect_probe(conn: sqlite3.Connection, tank_id: int, url: str, on: bool) -> None:
    """A new address, or listening switched; what was heard stays."""
    conn.execute(
        """INSERT INTO probe (tank_id, url, listening) VALUES (:tank, :url, :on)
           ON CONFLICT (tank_id) DO UPDATE SET url = excluded.url, listening = excluded.listening""",
        {"tank": tank_id, "url": url, "on": int(on)},
    )


def heard(conn: sqlite3.Connection, tank_id: int, at: datetime, values: Mapping[str, float]) -> None:
    """One polled set of values, measured at `at`: into its hour, each moment only once."""
    known = probe(conn, tank_id)
    if known is not None and known.last_ok is not None and at <= known.last_ok:
        return
    hour = int(at.timestamp()) // 3600 * 3600
    conn.executemany(
        """INSERT INTO probe_hour (tank_id, quantity, hour, n, total, low, high)
           VALUES (:tank, :quantity, :hour, 1, :value, :value, :value)
           ON CONFLICT (tank_id, quantity, hour) DO UPDATE SET n = n + 1, total = total + excluded.total,
             low = min(low, excluded.low), high = max(high, excluded.high)""",
        [{"tank": tank_id, "quantity": q, "hour": hour, "value": v} for q, v in values.items()],
    )
    conn.execute(
        """UPDATE probe SET last_ok = :at, last_error = '', last_reading = :reading WHERE tank_id = :tank""",
        {"tank": tank_id, "at": at.isoformat(), "reading": json.dumps(dict(values), allow_nan=False)},
    )


def tried(conn: sqlite3.Connection, tank_id: int, at: datetime, error: str) -> None:
    conn.execute(
        "UPDATE probe SET last_try = :at, last_error = :error WHERE tank_id = :tank",
        {"tank": tank_id, "at": at.isoformat(), "error": error[:300]},
    )


def traces(conn: sqlite3.Connection, tank_id: int, since: datetime, zone: ZoneInfo) -> dict[str, list[Hour]]:
    """Hours by quantity from a moment on, in the keeper's zone."""
    rows = conn.execute(
        """SELECT quantity, hour, n, total, low, high FROM probe_hour
           WHERE tank_id = :tank AND hour >= :since ORDER BY quantity, hour""",
        {"tank": tank_id, "since": int(since.timestamp()) - 3600},
    )
    found: dict[str, list[Hour]] = {}
    for row in rows:
        at = datetime.fromtimestamp(row["hour"], UTC).astimezone(zone)
        found.setdefault(row["quantity"], []).append(
            Hour(at, row["n"], row["total"] / row["n"], row["low"], row["high"])
        )
    return found


KEPT_DAYS = 400


def forget_old(conn: sqlite3.Connection, now: datetime) -> None:
    """Hours older than a year and a month: the tests are the record, a trace is for looking."""
    newest = conn.execute("SELECT max(hour) FROM probe_hour").fetchone()[0] or 0
    # Counted from the newest hour there is: a clock that jumped ahead erases nothing
    before = min(int(now.timestamp()), newest) - KEPT_DAYS * 86400
    conn.execute("DELETE FROM probe_hour WHERE hour < :before", {"before": before})
