"""The database: opening, transactions, migrations and checks. Copies of it are made in copies.py."""

from __future__ import annotations

import os
import re
import sqlite3
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path

from jarbloom.errors import AlreadyDone, StoreError
from jarbloom.store.copies import PRIVATE_FILE, backup

FILE_NAME = "jarbloom.db"
BACKUPS = "backups"
BUSY_MS = 10_000
PRIVATE_FOLDER = 0o700


class Connection(sqlite3.Connection):
    """`once`: the key of what is being done for whoever sent it. The next deed is kept together with it, or not at all
    when it stands there already; `leads_to`: where who sent it is led on to, where that is known beforehand."""

    once: str = ""
    leads_to: str = ""
    name: str = ""  # of its file


def connect(path: Path | str, there: bool = False) -> Connection:
    """An open connection with our settings. One a request; it may be used on another thread, never on two at once.

    `there`: the file has to be there already; a missing one is never made anew. Where nothing can be written any more,
    a full disk or a folder that is only read, it is opened to be read.
    """
    try:
        where = f"{Path(path).absolute().as_uri()}?mode=rw" if there else path
        conn = sqlite3.connect(
            where,
            factory=Connection,
            isolation_level=None,
            check_same_thread=False,
            timeout=BUSY_MS / 1000,
            uri=there,
        )
        conn.row_factory, conn.name = sqlite3.Row, str(path)
        conn.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
        _write_ahead(conn)
        conn.execute("PRAGMA synchronous = FULL")
        conn.execute("PRAGMA foreign_keys = ON")
    except sqlite3.Error as problem:
        only_read = _to_read(Path(path)) if there and isinstance(problem, sqlite3.OperationalError) else None
        if only_read is None:
            raise StoreError(f"The database {Path(path).name} cannot be opened: {problem}.") from problem
        return only_read
    return conn


def _to_read(path: Path) -> Connection | None:
    """A connection that writes nothing, not even what SQLite keeps beside the file; None where that cannot be. The file
    alone is read only where nothing waits beside it to be brought in."""
    beside = path.with_name(f"{path.name}-wal")
    waits = beside.exists() and beside.stat().st_size > 0
    for way in ("mode=ro",) if waits else ("mode=ro", "mode=ro&immutable=1"):
        try:
            conn = sqlite3.connect(f"{path.absolute().as_uri()}?{way}", uri=True, factory=Connection,
                                   isolation_level=None, check_same_thread=False, timeout=BUSY_MS / 1000)  # fmt: skip
            conn.row_factory, conn.name = sqlite3.Row, str(path)
            conn.execute("SELECT count(*) FROM sqlite_master").fetchone()
        except sqlite3.Error:
            continue
        return conn
    return None


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
def transaction(conn: sqlite3.Connection, deed: bool = True) -> Iterator[None]:
    """Everything inside is kept or nothing is. Inside another transaction it joins that one.

    A `deed` of somebody takes the connection's key with it (Connection.once); what the program does by itself does not.
    Raises AlreadyDone when that very thing was done before.
    """
    if conn.in_transaction:
        yield
        return
    with _in_line(conn):
        conn.execute("BEGIN IMMEDIATE")
        try:
            if deed:
                _only_once(conn)
            yield
        except BaseException:
            conn.execute("ROLLBACK")
            raise
        conn.execute("COMMIT")
    if deed and isinstance(conn, Connection):
        conn.once = ""  # what the same request does further belongs to it


_lines: dict[str, threading.Lock] = {}


@contextmanager
def _in_line(conn: sqlite3.Connection) -> Iterator[None]:
    """Writers of this process stand in line for the file: SQLite itself lets them try again and again, and one of many
    goes without for ever. Who has waited as long as SQLite would goes on to try there."""
    file = conn.name if isinstance(conn, Connection) else ""
    turn = _lines.setdefault(file, threading.Lock()) if file else threading.Lock()
    got = turn.acquire(timeout=BUSY_MS / 1000)
    try:
        yield
    finally:
        if got:
            turn.release()


def _only_once(conn: sqlite3.Connection) -> None:
    if not isinstance(conn, Connection) or not conn.once:
        return
    key = conn.once
    if conn.execute("SELECT 1 FROM sent_once WHERE key = :key", {"key": key}).fetchone():
        raise AlreadyDone("This was sent before, and was done then.")
    conn.execute(
        "INSERT INTO sent_once (key, at, answer) VALUES (:key, datetime('now'), :answer)",
        {"key": key, "answer": conn.leads_to},
    )


def answered(conn: sqlite3.Connection, key: str, answer: str) -> None:
    """What the first one was answered with, for those that come after it: told once, and not by them."""
    conn.execute(
        "UPDATE sent_once SET answer = :answer WHERE key = :key AND answer = ''", {"answer": answer, "key": key}
    )


def answer_to(conn: sqlite3.Connection, key: str) -> str:
    row = conn.execute("SELECT answer FROM sent_once WHERE key = :key", {"key": key}).fetchone()
    return row["answer"] if row else ""


def forget_sent(conn: sqlite3.Connection) -> None:
    """A key is of use while a form may still be sent again."""
    conn.execute("DELETE FROM sent_once WHERE at < datetime('now', '-30 days')")


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
        refuse_newer(version)
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
    """Make the folder and an up-to-date database in it, for nobody else to read; returns the database's path."""
    path = folder / FILE_NAME
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=PRIVATE_FOLDER)
        make_private(path)
    except OSError as problem:
        raise StoreError(f"The folder {folder} cannot be used: {problem.strerror}.") from problem
    conn = connect(path)
    try:
        migrate(conn, folder / BACKUPS, owner)
    finally:
        conn.close()
    return path


def file_id(path: Path) -> tuple[int, int]:
    """What tells this very file from another that lies under the same name later."""
    told = path.stat()
    return told.st_dev, told.st_ino


def open_same(path: Path, known: tuple[int, int]) -> Connection:
    """A connection to the file that was there at the start. Raises StoreError when it is gone, or is another one: what
    is written to a deleted file is lost, and an empty one must not take its place unseen."""
    try:
        same = file_id(path) == known
    except OSError:
        raise StoreError(
            f"The database {path} is gone from under the running program. Stop the program, put the file (or a backup) "
            "back, and start again. Nothing can be saved until then."
        ) from None
    if not same:
        raise StoreError(
            f"Another file lies at {path} than when the program started. Stop the program and start it again."
        )
    return connect(path, there=True)


def make_private(path: Path) -> None:
    """The file, made when it is not there, is its owner's alone; SQLite gives the files beside it the same rights.
    One that belongs to somebody else stays as it is."""
    os.close(os.open(path, os.O_CREAT | os.O_RDONLY, PRIVATE_FILE))
    if path.stat().st_uid == os.getuid() and os.access(path.parent, os.W_OK):
        path.chmod(PRIVATE_FILE)


def read_store(folder: Path) -> tuple[sqlite3.Connection, int]:
    """(a connection that only reads, the version of the file): nothing is made, nothing is brought up to date."""
    path = folder / FILE_NAME
    if not path.is_file():
        raise StoreError(f"There is no database in {folder}.")
    try:
        conn = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True, timeout=BUSY_MS / 1000)
        conn.row_factory = sqlite3.Row
        return conn, _version(conn)
    except sqlite3.Error as problem:
        raise StoreError(f"The database in {folder} cannot be read: {problem}.") from problem


def refuse_newer(version: int) -> None:
    """Raises StoreError for a file of a newer program."""
    if version > newest_version():
        raise StoreError(
            f"This database is of a newer version ({version}) than this program knows ({newest_version()})."
        )


def newest_version() -> int:
    return migrations()[-1][0]


def house_id(conn: sqlite3.Connection) -> str:
    """What tells this house from others, made with its file."""
    return str(conn.execute("SELECT id FROM file_mark").fetchone()[0])[:12]


def check(conn: sqlite3.Connection) -> list[str]:
    """What is wrong with the file, in words; empty when nothing is."""
    try:
        found = [row[0] for row in conn.execute("PRAGMA integrity_check") if row[0] != "ok"]
    except sqlite3.DatabaseError as problem:
        return [f"the file cannot be read whole: {problem}"]
    if found:
        return found
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
