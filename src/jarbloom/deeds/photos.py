"""Photos: kept, looked at along time, compared, with what was read on their days."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from jarbloom.core.journal.kinds.photo import Photo
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Tank
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import Saved
from jarbloom.errors import NotFound, Refused, StoreError
from jarbloom.formats import picture
from jarbloom.store import journal, photo_files, tanks
from jarbloom.store.db import transaction
from jarbloom.store.secret_file import folder_of

MOST_AT_ONCE = 20


@dataclass(frozen=True)
class Sent:
    """A file as it came: its name and its bytes."""

    name: str
    content: bytes


def _folder(desk: Desk) -> Path:
    folder = folder_of(desk.conn)
    if folder is None:
        raise StoreError("A database in memory keeps no photos.")
    return folder


def add(
    desk: Desk, slug: str, sent: Sequence[Sent], *, at: datetime | None = None, of: str = "", text: str = "",
    as_taken: bool = True,
) -> Saved:  # fmt: skip
    """Keep these pictures in one act. The moment of each is `at` where it is given; else, when `as_taken`, the one that
    the camera noted, if it lies between the tank's first day and now; else now.

    Raises Refused naming the file that cannot be read; nothing is kept then, and nothing of the log is written.
    """
    if not sent:
        raise Refused("Which picture? Choose one or more.", "photo")
    if len(sent) > MOST_AT_ONCE:
        raise Refused(f"{len(sent)} pictures at once; at most {MOST_AT_ONCE}.", "photo")
    kept = []
    for one in sent:
        try:
            kept.append(picture.keep(one.content))
        except Refused as problem:
            where = f"{one.name[-60:]}: " if len(sent) > 1 and one.name else ""
            raise Refused(where + problem.sentence, "photo") from None
    tank = tanks.tank(desk.conn, slug)
    new = []
    for made in kept:
        file = photo_files.put(_folder(desk), made.whole, made.small)
        body = Photo.from_raw({"of": of.strip(), "text": text.strip(), "file": file, "width": made.width,
                               "height": made.height})  # fmt: skip
        moment = at or (_noted(desk, tank, made.taken) if as_taken else None) or desk.now
        new.append(desk.entry(body, moment))
    with transaction(desk.conn):
        here = {(e.at, e.body.file) for e in desk.log(tank.id).kinds(Photo)}
        new = [e for e in new if isinstance(e.body, Photo) and (e.at, e.body.file) not in here]
        if not new:
            raise Refused("This picture is in the log already.", "photo")
        sentence = f"{len(new)} photos" if len(new) > 1 else f"Photo of {new[0].body.words({}, desk.preferences.units)}"
        act_id, ids = journal.write_all(desk.conn, tank.id, "log", sentence, new, desk.now)
    return Saved(act_id, sentence, tuple(ids))


def _noted(desk: Desk, tank: Tank, taken: datetime | None) -> datetime | None:
    """What the camera's clock says, in the keeper's zone, where that can be."""
    if taken is None:
        return None
    moment = taken.replace(tzinfo=desk.now.tzinfo)
    return moment if tank.started <= moment.date() and moment <= desk.now else None


@dataclass(frozen=True)
class Picture:
    """A photo with what was last read by the end of its day, by quantity: (words, days before)."""

    entry: Entry[Photo]
    readings: tuple[tuple[str, str, int], ...]


@dataclass(frozen=True)
class Album:
    tank: Tank
    photos: tuple[Entry[Photo], ...]  # oldest first
    subjects: tuple[str, ...]


def album(desk: Desk, slug: str) -> Album:
    tank = tanks.tank(desk.conn, slug)
    photos = desk.log(tank.id).kinds(Photo)
    return Album(tank, photos, tuple(dict.fromkeys(e.body.of for e in photos if e.body.of)))


READ_ON_THE_DAY = ("nitrate", "ph", "kh", "temp", "ammonia", "nitrite")
STANDS_DAYS = 31


def looked_at(desk: Desk, slug: str, entry_id: int) -> Picture:
    """One photo with the readings of its days. Raises NotFound."""
    tank = tanks.tank(desk.conn, slug)
    log = desk.log(tank.id)
    entry = next((e for e in log.kinds(Photo) if e.id == entry_id), None)
    if entry is None:
        raise NotFound("That photo was not found in this tank's log.")
    return Picture(entry, _read_by(log, entry))


def _read_by(log: Log, photo: Entry[Photo]) -> tuple[tuple[str, str, int], ...]:
    found: dict[str, tuple[str, int]] = {}
    for e in log.kinds(Tested):
        if e.day > photo.day:
            break
        for r in e.readings:
            found[r.quantity] = (r.typed, (photo.day - e.day).days)
    return tuple((q, *found[q]) for q in READ_ON_THE_DAY if q in found and found[q][1] <= STANDS_DAYS)


def file_of(desk: Desk, slug: str, entry_id: int, small: bool) -> Path:
    """Where a photo of this tank lies; also of one that was voided, so that the log book can show it.

    Raises NotFound, also where the entry stands and its file is gone."""
    tank = tanks.tank(desk.conn, slug)
    body = journal.entry(desk.conn, tank.id, entry_id).body
    if not isinstance(body, Photo):
        raise NotFound("That entry is no photo.")
    path = photo_files.find(_folder(desk), body.file, small)
    if path is None:
        raise NotFound("The file of this photo is not in the data folder; a backup may have it.")
    return path
