"""The keeper's own species as they were saved each time: cells of text, checked again whenever they are read."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True)
class OwnRow:
    key: str
    cells: dict[str, str]
    removed: bool


def rows(conn: sqlite3.Connection) -> list[OwnRow]:
    """The newest revision of each, those taken off the list too."""
    found = conn.execute(
        """SELECT own.key, own.removed_at, revision.cells
           FROM own_species AS own
           JOIN own_species_revision AS revision
             ON revision.id = (SELECT max(id) FROM own_species_revision WHERE key = own.key)
           ORDER BY own.key"""
    )
    return [OwnRow(r["key"], json.loads(r["cells"]), bool(r["removed_at"])) for r in found]


def newest_revision(conn: sqlite3.Connection, key: str) -> int:
    row = conn.execute("SELECT max(id) FROM own_species_revision WHERE key = :key", {"key": key}).fetchone()
    return row[0] or 0


def cells_at(conn: sqlite3.Connection, key: str, revision: int) -> dict[str, str] | None:
    """The cells as a revision kept them; None where this species has no such."""
    row = conn.execute(
        "SELECT cells FROM own_species_revision WHERE key = :key AND id = :id", {"key": key, "id": revision}
    ).fetchone()
    return None if row is None else json.loads(row["cells"])


def save(conn: sqlite3.Connection, key: str, cells: dict[str, str], now: datetime) -> None:
    """A new revision; one that was taken off the list stands on it again."""
    conn.execute(
        "INSERT INTO own_species (key) VALUES (:key) ON CONFLICT (key) DO UPDATE SET removed_at = NULL", {"key": key}
    )
    conn.execute(
        "INSERT INTO own_species_revision (key, saved_at, cells) VALUES (:key, :at, :cells)",
        {"key": key, "at": now.isoformat(), "cells": json.dumps(cells)},
    )


def remove(conn: sqlite3.Connection, key: str, now: datetime | None) -> None:
    """Take one off the list, or put it back (None)."""
    conn.execute(
        "UPDATE own_species SET removed_at = :at WHERE key = :key", {"at": now.isoformat() if now else None, "key": key}
    )
