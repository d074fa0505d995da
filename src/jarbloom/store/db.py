"""The database: opening, transactions, migrations, checks and copies."""

from __future__ import annotations

import re
import sqlite3
import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path

from jarbloom.errors import StoreError

FILE_NAME = "jarbloom.db"
BACKUPS = "backups"
BUSY_MS = 5000


def connect(path: Path | str) -> sqlite3.Connection:
    """An open connection with our settings. One a request; it may be used on another thread, never on two at once."""
    try:
        conn = sqlite3.connect(path, isolation_level=None, check_same_thread=False, timeout=BUSY_MS / 1000)
        conn.row_factory = sqlite3.Row
        conn.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
        _write_ahead(conn)
        conn.execute("PRAGMA synchronous = FULL")
        conn.execute("PRAGMA foreign_keys = ON")
    except sqlite3.Error as problem:
        raise StoreError(f"The database {Path(path).name} cannot be opened: {problem}.") from problem
    return conn


def _write_ahead(conn: sqlite3.Connection) -> None:
    """SQLite does not wait for a lock to change this mode: where two open a fresh file at once, one tries again."""
    until = time.monotonic() + BUSY_MS / 1000
    while conn.execute("PRAGMA journal_mode").fetchone()[0] != "wal":
        try:
            conn.execute("PRAGMA journal_mode = WAL")
        except sqlite3.OperationalError:
            if time.monotonic() > until:
                raise
            time.sleep(0.02)


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


def migrate(conn: sqlite3.Connection, backups: Path | None = None, owner: str = "own") -> int:
    """Bring the schema up to date, all steps in one transaction with the note that they ran. Returns the version.

    Before the first step on a file that holds something, a copy of it goes into `backups` and is proven. Several
    programs may start at once: whoever comes second finds the work done. A fresh file gets the mark of its `owner`,
    own or demo. Raises StoreError for a database of a newer
    program, and when the copy cannot be made.
    """
    scripts = migrations()
    newest = scripts[-1][0]
    if _version(conn) == newest:
        return newest
    with transaction(conn):
        version = _version(conn)  # read again: another program may have been here meanwhile
        if version > newest:
            raise StoreError(f"This database is of a newer version ({version}) than this program knows ({newest}).")
        if 0 < version < newest and backups is not None:
            _copy_before(conn, version, backups)
        for number, script in scripts:
            if number > version:
                for statement in _statements(script):
                    conn.execute(statement)
                conn.execute(f"PRAGMA user_version = {number}")
        if version == 0:
            conn.execute("UPDATE file_mark SET owner = :owner", {"owner": owner})
    return newest


def _version(conn: sqlite3.Connection) -> int:
    return int(conn.execute("PRAGMA user_version").fetchone()[0])


def _statements(script: str) -> Iterator[str]:
    """The statements of a script; a trigger with its own semicolons is one. (executescript would commit first.)"""
    held = ""
    for piece in re.split(r"(?<=;)", script):
        held += piece
        if sqlite3.complete_statement(held):
            yield held
            held = ""


def _copy_before(conn: sqlite3.Connection, version: int, backups: Path) -> None:
    """The file as it is, by a reader of its own beside the transaction that is open."""
    file = conn.execute("SELECT file FROM pragma_database_list WHERE name = 'main'").fetchone()["file"]
    if not file:
        return  # it lives in memory
    name, n = f"before-version-{version + 1}", 1
    while (to := backups / f"{name}{f'-{n}' if n > 1 else ''}.db").exists():
        n += 1
    reader = sqlite3.connect(file)
    try:
        backup(reader, to)
    except StoreError as problem:
        raise StoreError(f"Before an update a copy is made; without it nothing was changed. {problem}") from problem
    finally:
        reader.close()


def open_store(folder: Path, owner: str = "own") -> Path:
    """Make the folder and an up-to-date database in it; returns the database's path."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise StoreError(f"The folder {folder} cannot be made: {problem.strerror}.") from problem
    path = folder / FILE_NAME
    conn = connect(path)
    try:
        migrate(conn, folder / BACKUPS, owner)
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
        part.replace(to)
    except (OSError, sqlite3.Error) as problem:
        raise StoreError(f"The copy {to} could not be made: {problem}.") from problem
    finally:
        for left in (part, part.with_name(f"{part.name}-journal")):
            if left.parent.is_dir():
                left.unlink(missing_ok=True)


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
