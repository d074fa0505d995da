"""The copies that are made by themselves, one a day: named by their day, thinned out as they grow old, and a second
time in another folder when one is named."""

from __future__ import annotations

import os
import re
import shutil
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path

from jarbloom.errors import Refused, StoreError
from jarbloom.store import photo_files
from jarbloom.store.copies import PRIVATE_FILE, backup, look_into

FOLDER = "backups"
KEPT = (7, 5, 12)  # days, weeks and months of which the newest copy is kept
NIGHT_HOUR = 3  # the day's copy is made from here on, or at the first start after it
_NAME = re.compile(r"^jarbloom-(\d{4}-\d{2}-\d{2})\.db$")


@dataclass(frozen=True)
class Copy:
    """A day's copy."""

    file: Path
    day: date
    size: int


@dataclass(frozen=True)
class Backups:
    """The copies there are, here and in the second folder, and what went wrong with the last one."""

    folder: Path
    here: tuple[Copy, ...]
    second: str
    there: tuple[Copy, ...]
    problem: str
    overdue: bool

    @property
    def last(self) -> date | None:
        return self.here[0].day if self.here else None


def name_of(day: date) -> str:
    return f"jarbloom-{day.isoformat()}.db"


def copies_in(folder: Path) -> list[Copy]:
    """The daily copies in a folder, the newest first. Other files there are none of ours, and are left alone."""
    if not folder.is_dir():
        return []
    found = []
    for file in folder.iterdir():
        told = _NAME.match(file.name)
        if told and file.is_file():
            found.append(Copy(file, date.fromisoformat(told[1]), file.stat().st_size))
    return sorted(found, key=lambda c: c.day, reverse=True)


def is_due(folder: Path, now: datetime) -> bool:
    """Today's copy is not there yet, and the night is over; where none was ever made, at once."""
    made = copies_in(folder)
    if not made:
        return True
    return made[0].day < now.date() and (now.hour >= NIGHT_HOUR or (now.date() - made[0].day).days > 1)


def kept_of(days: Iterable[date], kept: tuple[int, int, int] = KEPT) -> set[date]:
    """Of the days on which copies were made, those whose copies stay: the newest of each of the last so many days,
    weeks and months that have one."""
    newest_first = sorted(set(days), reverse=True)
    stays: set[date] = set()
    for most, period in zip(kept, (_day, _week, _month), strict=True):
        newest: dict[object, date] = {}
        for day in newest_first:
            newest.setdefault(period(day), day)
        stays |= set(list(newest.values())[:most])
    return stays


def _day(day: date) -> object:
    return day


def _week(day: date) -> object:
    return day.isocalendar()[:2]


def _month(day: date) -> object:
    return day.year, day.month


def make_daily(conn: sqlite3.Connection, folder: Path, now: datetime, second: str = "") -> Copy:
    """Today's copy, proven, in `folder` and in the second one, with the photos that are not there yet; older copies are
    thinned out in both only after that.

    Raises StoreError, and thins out nothing, when either fails.
    """
    day = now.date()
    to = folder / name_of(day)
    if not to.exists():
        backup(conn, to)
    photo_files.copy_new(folder.parent, folder)
    if second:
        copy_to(to, Path(second))
        photo_files.copy_new(folder.parent, Path(second))
    for where in (folder, Path(second)) if second else (folder,):
        here = copies_in(where)
        stays = kept_of(c.day for c in here)
        for copy in here:
            if copy.day not in stays:
                copy.file.unlink(missing_ok=True)
    return Copy(to, day, to.stat().st_size)


def copy_to(file: Path, folder: Path) -> None:
    """The same copy in another folder, written out, proven and only then named."""
    to = folder / file.name
    part = folder / f"{file.name}.part"
    if to.exists():
        return
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with open(file, "rb") as source, open(part, "wb") as sink:
            shutil.copyfileobj(source, sink)
            sink.flush()
            os.fsync(sink.fileno())
        part.chmod(PRIVATE_FILE)
        if look_into(part) != look_into(file):
            raise StoreError(f"The copy in {folder} does not hold what it should.")
        part.replace(to)
    except OSError as problem:
        raise StoreError(f"The second copy in {folder} could not be made: {problem.strerror}.") from problem
    finally:
        if folder.is_dir():
            part.unlink(missing_ok=True)


def second_folder(text: str) -> str:
    """A folder that was typed for the second copy, proven to be writable; '' for none. Raises Refused."""
    text = text.strip()
    if not text:
        return ""
    folder = Path(text).expanduser()
    if not folder.is_absolute():
        raise Refused("The whole path of the folder, from the root on.", "backup_to")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        proof = folder / ".jarbloom-can-write"
        proof.write_text("")
        proof.unlink()
    except OSError as problem:
        raise Refused(f"Nothing can be written there: {problem.strerror}.", "backup_to") from None
    return str(folder)
