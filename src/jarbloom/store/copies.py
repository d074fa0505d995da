"""Whole copies of the database: made while the program runs, proven before they get their name."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from jarbloom.errors import StoreError

PRIVATE_FILE = 0o600


def backup(conn: sqlite3.Connection, to: Path) -> None:
    """A whole copy while the program runs (SQLite's online backup), proven before it gets its name.

    Refuses to write over a file. Raises StoreError, and leaves nothing behind, when the copy fails.
    """
    if to.exists():
        raise StoreError(f"{to} is there already; a backup never writes over a file.")
    part = to.with_name(f"{to.name}.part")
    try:
        to.parent.mkdir(parents=True, exist_ok=True)
        part.unlink(missing_ok=True)
        least = {table: _rows(conn, table) for table in NEVER_DELETED}
        copy = sqlite3.connect(part)
        try:
            conn.backup(copy)
            # A copy in one file: no log beside it that could be left behind.
            copy.execute("PRAGMA journal_mode = DELETE")
            _prove(copy, least)
        finally:
            copy.close()
        part.chmod(PRIVATE_FILE)
        part.replace(to)
    except (OSError, sqlite3.Error) as problem:
        raise StoreError(f"The copy {to} could not be made: {problem}.") from problem
    finally:
        for left in (part, part.with_name(f"{part.name}-journal")):
            if left.parent.is_dir():
                left.unlink(missing_ok=True)


@dataclass(frozen=True)
class Held:
    """What a file of ours holds."""

    version: int
    tanks: int
    entries: int
    last: str  # ISO 8601 moment of the newest entry, '' where there is none

    @property
    def words(self) -> str:
        until = f", the last of {self.last[:10]}" if self.last else ""
        return f"{self.tanks} tank{'s' if self.tanks != 1 else ''}, {self.entries} entries{until}"


def look_into(file: Path) -> Held:
    """Proves that a file is a whole database of ours, without writing to it. Raises StoreError when it is not."""
    if not file.is_file():
        raise StoreError(f"{file} is not there.")
    try:
        with closing(sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro&immutable=1", uri=True)) as conn:
            _prove(conn, {})
            version = int(conn.execute("PRAGMA user_version").fetchone()[0])
            last = conn.execute("SELECT at FROM entry ORDER BY at_utc DESC LIMIT 1").fetchone()
            return Held(version, _rows(conn, "tank"), _rows(conn, "entry"), str(last[0]) if last else "")
    except sqlite3.Error as problem:
        raise StoreError(f"{file} is no whole database of this program: {problem}.") from problem


NEVER_DELETED = ("entry", "mark", "tank")


def _rows(conn: sqlite3.Connection, table: str) -> int:
    return int(conn.execute(f"SELECT count(*) FROM {table}").fetchone()[0])


def _prove(copy: sqlite3.Connection, least: Mapping[str, int]) -> None:
    """Raises sqlite3.Error when the copy is not whole, or holds less than the original did when it was begun."""
    if copy.execute("PRAGMA integrity_check").fetchone()[0] != "ok":
        raise sqlite3.DatabaseError("the copy is not whole")
    for table, rows in least.items():
        if _rows(copy, table) < rows:
            raise sqlite3.DatabaseError(f"rows of {table} are missing in the copy")
