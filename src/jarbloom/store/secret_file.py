"""What must not lie in the database, nor in a copy of it: a file of its own that only its owner reads, or the
environment."""

from __future__ import annotations

import json
import os
import sqlite3
from pathlib import Path

from jarbloom.errors import StoreError

FILE_NAME = "secrets.json"
ENVIRONMENT = "JARBLOOM_"  # before the name in capitals, as in JARBLOOM_MAIL_PASSWORD


def folder_of(conn: sqlite3.Connection) -> Path | None:
    """The folder that the database lies in; None where it lives in memory."""
    file = conn.execute("SELECT file FROM pragma_database_list WHERE name = 'main'").fetchone()[0]
    return Path(file).parent if file else None


def secret(folder: Path | None, name: str) -> str:
    """The environment's first, '' where there is none."""
    told = os.environ.get(ENVIRONMENT + name.upper())
    return told if told is not None else _kept(folder).get(name, "")


def keep_secret(folder: Path | None, name: str, value: str) -> None:
    """Written whole into a file beside, then named: a kill leaves the old one or the new one."""
    if folder is None:
        raise StoreError("A database in memory keeps no secrets.")
    kept = _kept(folder)
    if kept.get(name, "") == value:
        return
    kept = {k: v for k, v in kept.items() if k != name} | ({name: value} if value else {})
    part = folder / f"{FILE_NAME}.part"
    try:
        part.unlink(missing_ok=True)
        with open(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w", encoding="utf-8") as file:
            json.dump(kept, file)
            file.flush()
            os.fsync(file.fileno())
        part.replace(folder / FILE_NAME)
    except OSError as problem:
        raise StoreError(f"The secret could not be kept: {problem.strerror}.") from problem


def _kept(folder: Path | None) -> dict[str, str]:
    if folder is None:
        return {}
    try:
        told = json.loads((folder / FILE_NAME).read_text("utf-8"))
    except FileNotFoundError:
        return {}
    except (OSError, ValueError) as problem:
        raise StoreError(f"{FILE_NAME} beside the database cannot be read: {problem}.") from problem
    return {str(k): str(v) for k, v in told.items()} if isinstance(told, dict) else {}
