"""Kills at random moments, while lines are written, a file is brought up to date and copies are made: what was
acknowledged is there, once, and the file is whole."""

from __future__ import annotations

import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from jarbloom.store import db

SAVED = Path(__file__).parents[2] / "tests" / "saved"
# A writer tells each line on its standard output once it is kept; every third start is of an older file
WRITER = """
import sys
from pathlib import Path
from datetime import UTC, datetime
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.model.entry import Entry
from jarbloom.store import backups, db, journal
folder, first = Path(sys.argv[1]), int(sys.argv[2])
conn = db.connect(db.open_store(folder))
print("open", flush=True)
(tank,) = conn.execute("SELECT id FROM tank ORDER BY id LIMIT 1").fetchone()
for k in range(first, first + 10_000):
    now = datetime.now(UTC)
    conn.once = f"line {k}"
    try:
        with db.transaction(conn):
            journal.write_all(conn, tank, "log", f"line {k}", [Entry(Note(text=f"line {k}"), now)], now)
    except db.AlreadyDone:
        pass
    print(k, flush=True)
    if k % 7 == 0:
        (folder / "backups" / backups.name_of(now.date())).unlink(missing_ok=True)
        backups.make_daily(conn, folder / "backups", now)
"""


@dataclass
class Worn:
    kills: int = 0
    acknowledged: int = 0
    lost: int = 0
    doubled: int = 0
    not_whole: int = 0

    @property
    def clean(self) -> bool:
        return self.lost == self.doubled == self.not_whole == 0


def old_file(folder: Path) -> None:
    """What an earlier version left: the writer's start has to bring it up to date first."""
    with closing(sqlite3.connect(folder / db.FILE_NAME)) as conn:
        conn.executescript((SAVED / "version-4.sql").read_text("utf-8"))
        conn.execute("PRAGMA user_version = 4")


def kill_writers(kills: int, seed: int = 1) -> Worn:
    chance, worn, next_line = random.Random(seed), Worn(), 0
    told: set[int] = set()
    holder = Path(tempfile.mkdtemp(prefix="jarbloom-soak-"))
    folder = holder / "house"
    try:
        for n in range(kills):
            if n % 10 == 0:  # a fresh house, of an older version
                _judge(folder, told, worn)
                shutil.rmtree(folder, ignore_errors=True)
                folder.mkdir()
                old_file(folder)
                told, next_line = set(), 0
            told |= _one(folder, next_line, chance.uniform(0.0, 0.9), worn)
            next_line = max(told, default=-1) + 1 - chance.randint(0, 2)  # the last lines are sent again, as a retry is
            next_line = max(next_line, 0)
        _judge(folder, told, worn)
    finally:
        shutil.rmtree(holder, ignore_errors=True)
    return worn


def _one(folder: Path, first: int, lives_s: float, worn: Worn) -> set[int]:
    writer = subprocess.Popen(
        [sys.executable, "-c", WRITER, str(folder), str(first)], stdout=subprocess.PIPE, text=True,
        env={**os.environ, "OMP_NUM_THREADS": "1"},
    )  # fmt: skip
    assert writer.stdout is not None
    if first % 2 == 0:
        writer.stdout.readline()  # killed while it writes; else perhaps while it starts and brings the file up to date
    time.sleep(lives_s)
    writer.send_signal(signal.SIGKILL)
    lines = writer.stdout.read().split()
    writer.stdout.close()
    writer.wait()
    worn.kills += 1
    return {int(line) for line in lines if line.isdigit()}


def _judge(folder: Path, told: set[int], worn: Worn) -> None:
    if not (folder / db.FILE_NAME).exists():
        return
    with closing(db.connect(db.open_store(folder))) as conn:
        worn.not_whole += len(db.check(conn))
        kept = [r[0] for r in conn.execute("SELECT json_extract(body, '$.text') FROM entry WHERE kind = 'note'")]
    lines = [t for t in kept if t and t.startswith("line ")]
    worn.acknowledged += len(told)
    worn.lost += len(told - {int(t[5:]) for t in lines})
    worn.doubled += len(lines) - len(set(lines))
