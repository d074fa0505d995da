"""Putting a copy in the place of the database, and saving what can be read of a damaged one."""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from jarbloom.errors import StoreError
from jarbloom.store.copies import PRIVATE_FILE, Held, look_into
from jarbloom.store.db import FILE_NAME, connect, migrate, newest_version


def restore(folder: Path, file: Path, now: datetime) -> tuple[Held, Path | None]:
    """The copy in place of the folder's database. Returns what it holds, and where the present one was put aside.

    The copy is proven first, and once more as it lies in the folder; the present file gets a second name before the
    copy takes the first in one step, so that a kill at any moment leaves one of the two whole. The folder has to be
    held (store/folder.py). Raises StoreError, and changes nothing, when the copy is not whole or of a newer program.
    """
    held = look_into(file)
    if held.version > newest_version():
        raise StoreError(f"{file} is of a newer version ({held.version}) than this program knows ({newest_version()}).")
    here, part = folder / FILE_NAME, folder / f"{FILE_NAME}.part"
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        shutil.copyfile(file, part)
        part.chmod(PRIVATE_FILE)
        with open(part, "rb") as written:
            os.fsync(written.fileno())
        if look_into(part) != held:
            raise StoreError(f"{file} could not be copied whole; nothing was changed.")
        aside = _put_aside(folder, now) if here.exists() else None
        part.replace(here)
    except OSError as problem:
        raise StoreError(f"Nothing was changed: {problem.strerror}.") from problem
    finally:
        part.unlink(missing_ok=True)
    return held, aside


def _put_aside(folder: Path, now: datetime) -> Path:
    """A second name for the present database, with all that lay in its log written into it."""
    here = folder / FILE_NAME
    logs = [here.with_name(f"{here.name}-{end}") for end in ("wal", "shm")]
    try:
        with closing(connect(here, there=True)) as conn:
            conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    except (sqlite3.Error, StoreError):
        pass  # damaged: it is put aside as it is, its log beside it
    name, n = f"before-restore-{now:%Y-%m-%d-%H%M}", 1
    while (aside := folder / f"{name}{f'-{n}' if n > 1 else ''}.db").exists():
        n += 1
    try:
        os.link(here, aside)
    except OSError:  # a file system without second names
        shutil.copyfile(here, aside)
    for log in logs:
        if log.exists():  # never beside a file that it does not belong to
            log.replace(aside.with_name(log.name.replace(here.name, aside.name)))
    return aside


@dataclass(frozen=True)
class Saved:
    """Rows of a table that could be read, and places where some could not."""

    table: str
    rows: int
    gaps: int


def rescue(folder: Path, to: Path) -> tuple[Saved, ...]:
    """Every row that can still be read, written into a fresh database `to`. The damaged one is not touched.

    Raises StoreError when nothing can be read at all, or `to` is there already.
    """
    if to.exists():
        raise StoreError(f"{to} is there already; a rescue never writes over a file.")
    source = folder / FILE_NAME
    if not source.is_file():
        raise StoreError(f"There is no database in {folder}.")
    fresh = connect(to)
    try:
        with closing(sqlite3.connect(f"{source.absolute().as_uri()}?mode=ro", uri=True)) as damaged:
            migrate(fresh)
            fresh.execute("PRAGMA foreign_keys = OFF")
            return tuple(_save_table(damaged, fresh, table) for table in _tables(fresh))
    except sqlite3.Error as problem:
        raise StoreError(f"Nothing could be read of {source}: {problem}.") from problem
    finally:
        fresh.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        fresh.execute("PRAGMA journal_mode = DELETE")
        fresh.close()


def _tables(conn: sqlite3.Connection) -> list[str]:
    """All but the word index, which fills itself as entries come in."""
    rows = conn.execute(
        """SELECT name FROM sqlite_master
           WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name NOT LIKE 'entry_words%'"""
    )
    return [row[0] for row in rows]


def _save_table(damaged: sqlite3.Connection, fresh: sqlite3.Connection, table: str) -> Saved:
    try:
        there = {row[1] for row in damaged.execute(f"PRAGMA table_info({table})")}
    except sqlite3.DatabaseError:
        return Saved(table, 0, 1)
    columns = [row[1] for row in fresh.execute(f"PRAGMA table_info({table})") if row[1] in there]
    if not columns:
        return Saved(table, 0, 0)
    fresh.execute("BEGIN")
    fresh.execute(f"DELETE FROM {table}")  # what a fresh file holds by itself
    listed, marks = ", ".join(columns), ", ".join("?" * len(columns))
    rows = gaps = 0
    for row in _readable(damaged, table, listed):
        if row is None:
            gaps += 1
            continue
        try:
            fresh.execute(f"INSERT OR IGNORE INTO {table} ({listed}) VALUES ({marks})", row)
            rows += 1
        except sqlite3.Error:
            gaps += 1  # a row that the rules of the table refuse
    fresh.execute("COMMIT")
    return Saved(table, rows, gaps)


def _readable(conn: sqlite3.Connection, table: str, columns: str) -> Iterator[tuple[object, ...] | None]:
    """Rows in order of their number; None for a stretch that cannot be read, which is then jumped over."""
    last, step = 0, 1
    try:
        most = conn.execute(f"SELECT max(rowid) FROM {table}").fetchone()[0] or 0
    except sqlite3.DatabaseError as problem:
        if "no such column" in str(problem):  # a table without row numbers: as far as it goes
            yield from _as_far_as_it_goes(conn, f"SELECT {columns} FROM {table}")
            return
        most = MOST_ROWS
    while last < most:
        try:
            for row in conn.execute(f"SELECT rowid, {columns} FROM {table} WHERE rowid > ? ORDER BY rowid", (last,)):
                last, step = row[0], 1
                yield tuple(row[1:])
            return
        except sqlite3.DatabaseError:
            yield None
            last, step = last + step, 2 * step  # a damaged page holds many rows: ever longer jumps


MOST_ROWS = 10_000_000


def _as_far_as_it_goes(conn: sqlite3.Connection, query: str) -> Iterator[tuple[object, ...] | None]:
    try:
        yield from (tuple(row) for row in conn.execute(query))
    except sqlite3.DatabaseError:
        yield None
