"""Sentences of the program about itself that stand until they are taken back, one a key."""

from __future__ import annotations

import sqlite3

_PREFIX = "notice_"


def notice(conn: sqlite3.Connection, key: str) -> str:
    row = conn.execute("SELECT value FROM preference WHERE key = :key", {"key": _PREFIX + key}).fetchone()
    return row["value"] if row else ""


def keep(conn: sqlite3.Connection, key: str, sentence: str) -> None:
    """'' takes it back."""
    if not sentence:
        conn.execute("DELETE FROM preference WHERE key = :key", {"key": _PREFIX + key})
        return
    conn.execute(
        """INSERT INTO preference (key, value) VALUES (:key, :value)
           ON CONFLICT (key) DO UPDATE SET value = excluded.value""",
        {"key": _PREFIX + key, "value": sentence},
    )
