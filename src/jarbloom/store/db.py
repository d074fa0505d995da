"""The database: opening, transactions, migrations, checks and copies."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path

from jarbloom.errors import StoreError

FILE_NAME = "jarbloom.db"
BUSY_MS = 5000


def connect(path: Path | str) -> sqlite3.Connection:
    """An open connection with our settings. One a request; it may be used on another thread, never on two at once."""
    try:
        conn = sqlite3.connect(path, isolation_level=None, check_same_thread=False, timeout=BUSY_MS / 1000)
        conn.row_factory = sqlite3.Row
        conn.execute("PRAGMA journal_mode = WAL")
        conn.execute("PRAGMA synchronous = FULL")
        conn.execute("PRAGMA foreign_keys = ON")
        conn.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
    except sqlite3.Error as problem:
        raise StoreError(f"The database {Path(path).name} cannot be opened: {problem}.") from problem
    return conn


@contextmanager
def transaction(conn: sqlite3.Connection) -> Iterator[None]:
    """Everything inside is kept or nothing is. Inside another transaction it joins that one."""
    if conn.in_transaction:
        yield
        return
    conn.execute("BEGIN IMMEDIATE")
    try:
        yield
    except BaseException:
        conn.execute("ROLLBACK")
        raise
    conn.execute("COMMIT")


def migrations() -> list[tuple[int, str]]:
    """Numbered scripts in order."""
    found = []
    for item in files("jarbloom.store").joinpath("migrations").iterdir():
        match = re.match(r"^(\d{4})_\w+\.sql$", item.name)
        if match:
            found.append((int(match[1]), item.read_text("utf-8")))
    return sorted(found)


def migrate(conn: sqlite3.Connection) -> int:
    """Bring the schema up to date; a script and the note that it ran are one transaction. Returns the version.

    Raises StoreError for a database of a newer program.
    """
    scripts = migrations()
    version = conn.execute("PRAGMA user_version").fetchone()[0]
    newest = scripts[-1][0]
    if version > newest:
        raise StoreError(f"This database is of a newer version ({version}) than this program knows ({newest}).")
    for number, script in scripts:
        if number <= version:
            continue
        try:
            conn.executescript(f"BEGIN IMMEDIATE;\n{script}\nPRAGMA user_version = {number};\nCOMMIT;")
        except sqlite3.Error:
            if conn.in_transaction:
                conn.execute("ROLLBACK")
            raise
    return newest


def open_store(folder: Path) -> Path:
    """Make the folder and an up-to-date database in it; returns the database's path."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise StoreError(f"The folder {folder} cannot be made: {problem.strerror}.") from problem
    path = folder / FILE_NAME
    conn = connect(path)
    try:
        migrate(conn)
    finally:
        conn.close()
    return path


def check(conn: sqlite3.Connection) -> list[str]:
    """What is wrong with the file, in words; empty when nothing is."""
    found = [row[0] for row in conn.execute("PRAGMA integrity_check") if row[0] != "ok"]
    found += [
        f"{row[0]} row {row[1]} points at a missing row of {row[2]}" for row in conn.execute("PRAGMA foreign_key_check")
    ]
    found += [
        f"entry {row[0]} has no mark"
        for row in conn.execute(
            "SELECT id FROM entry WHERE NOT EXISTS (SELECT 1 FROM mark WHERE mark.entry_id = entry.id)"
        )
    ]
    return found


def backup(conn: sqlite3.Connection, to: Path) -> None:
    """A whole copy while the program runs (SQLite's online backup). Refuses to write over a file."""
    if to.exists():
        raise StoreError(f"{to} is there already; a backup never writes over a file.")
    to.parent.mkdir(parents=True, exist_ok=True)
    copy = sqlite3.connect(to)
    try:
        conn.backup(copy)
        # A copy in one file: no log beside it that could be left behind.
        copy.execute("PRAGMA journal_mode = DELETE")
    finally:
        copy.close()
