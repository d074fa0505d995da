"""The data folder: whose it is, and one server a folder at a time."""

from __future__ import annotations

import fcntl
import os
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from jarbloom.errors import StoreError
from jarbloom.store.db import FILE_NAME

LOCK_NAME = "jarbloom.lock"


def owner_of(folder: Path) -> str | None:
    """'own' or 'demo' by the mark in the folder's database, None where there is none. What bears no mark is the
    keeper's own. Nothing is written."""
    path = folder / FILE_NAME
    if not path.exists():
        return None
    conn = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        row = conn.execute("SELECT owner FROM file_mark").fetchone()
    except sqlite3.Error:
        return "own"
    finally:
        conn.close()
    return str(row[0]) if row else "own"


@contextmanager
def held(folder: Path, what: str) -> Iterator[None]:
    """This process serves the folder. The lock goes with the process, however it ends.

    Raises StoreError, saying who holds it, while another one does.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        file = open(folder / LOCK_NAME, "a+", encoding="utf-8")  # noqa: SIM115  it stays open as long as we serve
    except OSError as problem:
        raise StoreError(f"The folder {folder} cannot be used: {problem.strerror}.") from problem
    with file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            file.seek(0)
            who = file.read().strip() or "another process"
            raise StoreError(
                f"{folder} is held by {who}. Stop that one first, or give another folder with --data."
            ) from None
        file.seek(0)
        file.truncate()
        file.write(f"{what}, process {os.getpid()}")
        file.flush()
        yield
