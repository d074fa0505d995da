"""Builders with defaults: tanks, entries, desks and a served demo."""

from __future__ import annotations

import atexit
import fcntl
import os
import shutil
import tempfile
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import date, datetime, timedelta
from functools import cache
from pathlib import Path
from typing import IO, Any
from zoneinfo import ZoneInfo

from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.readings import read
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Filter, Tank
from jarbloom.deeds.desk import Desk, reference
from jarbloom.deeds.make_demo import make_demo
from jarbloom.store import preferences
from jarbloom.store.db import FILE_NAME, connect, open_store
from jarbloom.store.preferences import Preferences

ZONE = "Europe/Berlin"
NOW = datetime(2026, 11, 24, 18, 40, tzinfo=ZoneInfo(ZONE))
# Few members and long steps: what the forecast itself is worth is tested with its own settings
FEW = Forecasting(members=80, sampler_h=8.0, publish_h=8.0, most_moves=1, doubts=False)
REFERENCE = reference()


def tank(**changes: Any) -> Tank:
    plain = Tank(
        "Sunroom 112", date(2026, 11, 2), 80, 35, 45, waterline_cm=4, substrate_cm=4, temp_c=26,
        filters=(Filter(media_l=2.1),),
    )  # fmt: skip
    return replace(plain, **changes)


def at(days_ago: float = 0, hour: int | None = None) -> datetime:
    moment = NOW - timedelta(days=days_ago)
    return moment if hour is None else moment.replace(hour=hour, minute=0)


def entry(kind: str, days_ago: float = 0, hour: int | None = None, **body: Any) -> Entry:
    if kind == "dose" and "amount" not in body:
        body |= {"amount": body["mg_n"], "unit": "mg"}
    return Entry(KINDS[kind].from_raw(body), at(days_ago, hour), zone=ZONE)


def test_entry(days_ago: float = 0, hour: int | None = None, on: Tank | None = None, **typed: str) -> Entry:
    kit = (on or tank()).kit
    return Entry(Tested(readings=tuple(read(q, t, kit) for q, t in typed.items())), at(days_ago, hour), zone=ZONE)


def numbered(*entries: Entry) -> list[Entry]:
    """With ids, as the store would give them, in order of time."""
    return [replace(e, id=k + 1) for k, e in enumerate(sorted(entries, key=lambda e: e.at))]


def read_all(opened: IO[bytes]) -> bytes:
    with opened:
        return opened.read()


class WithDesk(unittest.TestCase):
    """An empty database in a folder of its own, with a fixed clock."""

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        shutil.copytree(_empty(), self.folder, dirs_exist_ok=True)
        self.conn = connect(self.folder / FILE_NAME)
        self.addCleanup(self.conn.close)
        self.desk = Desk(self.conn, NOW, Preferences(zone=ZONE), REFERENCE, FEW)

    def later(self, **delta: float) -> Desk:
        self.desk = replace(self.desk, now=self.desk.now + timedelta(**delta))
        return self.desk


@cache
def _empty() -> Path:
    """A folder with an empty database, made once; each test opens a copy."""
    folder = Path(tempfile.mkdtemp(prefix="jarbloom-empty-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    open_store(folder)
    return folder


@cache
def _demo_file() -> Path:
    """The demo made once a run, by the half that needs it first; tests work on copies."""
    shared = os.environ.get(SHARED_DEMO)
    folder = Path(shared) if shared else Path(tempfile.mkdtemp(prefix="jarbloom-demo-"))
    with (folder.parent / f"{folder.name}.lock").open("w") as turn:
        fcntl.flock(turn, fcntl.LOCK_EX)
        if not (folder / "made").exists():
            _make_demo_in(folder)
            (folder / "made").touch()
    return folder


SHARED_DEMO = "JARBLOOM_TESTS_DEMO"  # the folder that both halves of a run share


def _make_demo_in(folder: Path) -> None:
    conn = connect(open_store(folder, "demo"))
    preferences.save(conn, "zone", ZONE)
    make_demo(Desk(conn, NOW, Preferences(zone=ZONE), REFERENCE, FEW))
    conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    conn.close()


@contextmanager
def demo_folder() -> Iterator[Path]:
    folder = Path(tempfile.mkdtemp())
    shutil.copytree(_demo_file(), folder, dirs_exist_ok=True, ignore=shutil.ignore_patterns("made"))
    try:
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


# Every page that the demo has
DEMO_PAGES = [
    "/", "/start", "/start/dry", "/start/dry/all", "/start/cycling", "/start/trouble", "/start/animals",
    "/start/animals?q=6+kuhli+loaches,+rasboras,+2+wyverns", "/preferences", "/tanks/desk-28/begin/2",
    "/tanks/desk-28/begin/3?donor=yes",
    *(f"/tanks/{slug}{page}" for slug in ("sunroom-112", "hall-96", "desk-28", "landing-60")
      for page in ("", "/deaths", "/outlook", "/stocking", "/upset", "/log", "/settings", "/setup/volume",
                   "/setup/equipment", "/setup/fill", "/setup/school", "/animals", "/animals/book", "/arrival")),
    *(f"/tanks/{slug}{page}" for slug in ("sunroom-112", "landing-60")
      for page in ("/chart", "/outlook?q=capacity", "/outlook?q=nonsense", "/log?all=1", "/log?kind=test",
                   "/setup/water", "/setup/school?fish=yes&look=pinch_feeding", "/setup/culture",
                   "/setup/culture?source=borrowed", "/setup/probe", "/stocking?sized=today", "/animals/together",
                   "/animals/styles", "/animals/styles?style=community",
                   "/animals?q=peaceful+bottom+fish", "/animals/compare?with=guppy&with=ram&with=nothing",
                   "/animals/compare")),
    "/species", "/species/new", "/species/new?like=guppy", "/words",
    "/schedule", "/waters", "/waters?s=35", "/waters/0", "/waters/1", "/instruments/0", "/instruments/4",
    *(f"/tanks/sunroom-112/log/new/{kind}" for kind in ("test", "dose", "feed", "change", "topoff", "conditioner",
      "bacteria", "media", "bed", "power", "arrival", "death", "observation", "note", "rock", "off", "on",
      "birth", "given", "count", "measured", "medicine", "new_thing", "exposure", "fault", "escape")),
]  # fmt: skip
