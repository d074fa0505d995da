"""The daily copy of the database: made by the rounds, shown on its page, missed aloud."""

from __future__ import annotations

import sqlite3
from datetime import timedelta
from pathlib import Path

from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, StoreError
from jarbloom.store import backups, notices, preferences
from jarbloom.store.backups import Backups, Copy
from jarbloom.store.db import transaction
from jarbloom.store.secret_file import folder_of

OVERDUE_DAYS = 2  # without a copy: said on every page that shows the house
PROBLEM = "backup_problem"


def _folder(desk: Desk) -> Path:
    folder = folder_of(desk.conn)
    if folder is None:
        raise StoreError("A database in memory is not copied.")
    return folder / backups.FOLDER


def see_backups(desk: Desk) -> Backups:
    folder, second = _folder(desk), desk.preferences.backup_to
    here = tuple(backups.copies_in(folder))
    there = tuple(backups.copies_in(Path(second))) if second else ()
    problem = notices.notice(desk.conn, PROBLEM)
    overdue = bool(here) and desk.now.date() - here[0].day >= timedelta(days=OVERDUE_DAYS)
    return Backups(folder, here, second, there, problem, overdue)


def missed(desk: Desk) -> str:
    """One sentence where the house has no fresh copy, '' where all is well."""
    seen = see_backups(desk)
    if seen.problem:
        return f"The last backup failed: {seen.problem}"
    if seen.overdue and seen.last is not None:
        return f"The last backup is {(desk.now.date() - seen.last).days} days old."
    return ""


def daily(desk: Desk) -> Copy | None:
    """Today's copy when it is time for it and it is not there yet."""
    if not backups.is_due(_folder(desk), desk.now):
        return None
    return now(desk)


def now(desk: Desk) -> Copy:
    """Today's copy, at once. A failure is remembered until one succeeds, and raised."""
    try:
        made = backups.make_daily(desk.conn, _folder(desk), desk.now, desk.preferences.backup_to)
    except StoreError as problem:
        _remember(desk, problem.sentence)
        raise
    _remember(desk, "")
    return made


def _remember(desk: Desk, sentence: str) -> None:
    try:
        with transaction(desk.conn):
            notices.keep(desk.conn, PROBLEM, sentence)
    except sqlite3.Error:
        pass  # a full disk: that the copy is old is told by the copies themselves


def copy_of(desk: Desk, day: str) -> Path:
    """The file of a day's copy. Raises NotFound."""
    found = next((c for c in backups.copies_in(_folder(desk)) if c.day.isoformat() == day), None)
    if found is None:
        raise NotFound("There is no copy of that day.")
    return found.file


def last_copy(folder: Path) -> Path | None:
    """The newest daily copy beside a database."""
    return next((c.file for c in backups.copies_in(folder / backups.FOLDER)), None)


def choose_second(desk: Desk, typed: str) -> None:
    """Raises Refused for a folder that cannot be written to."""
    folder = backups.second_folder(typed)
    with transaction(desk.conn):
        preferences.save(desk.conn, "backup_to", folder)
