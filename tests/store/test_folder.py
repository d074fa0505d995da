"""The data folder: whose it is, who holds it, bringing it up to date, copies, and files of an earlier version."""

import os
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import unittest
import unittest.mock
from contextlib import closing
from pathlib import Path

from jarbloom.deeds import exchange, look
from jarbloom.deeds.desk import Desk
from jarbloom.errors import StoreError
from jarbloom.store import copies, db, journal, preferences, tanks
from jarbloom.store.copies import backup
from jarbloom.store.folder import held, owner_of
from jarbloom.store.held_open import HeldOpen
from jarbloom.store.preferences import Preferences
from tests.make import FEW, NOW, REFERENCE, ZONE, WithDesk, tank

ROOT = Path(__file__).parents[2]
SAVED = ROOT / "tests" / "saved"


def old_file(folder: Path) -> Path:
    """The database that version 4 of the schema has left, as it was saved then."""
    path = folder / db.FILE_NAME
    conn = sqlite3.connect(path)
    conn.executescript((SAVED / "version-4.sql").read_text("utf-8"))
    conn.execute("PRAGMA user_version = 4")
    conn.close()
    return path


class InFolder(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def desk(self) -> Desk:
        conn = db.connect(db.open_store(self.folder))
        self.addCleanup(conn.close)
        return Desk(conn, NOW, Preferences(zone=ZONE), REFERENCE, FEW)


class HeldOpenBetweenRequests(InFolder):
    def test_it_is_brought_in_once_it_is_quiet_and_not_after_each_request(self) -> None:
        path, beside = db.open_store(self.folder), self.folder / f"{db.FILE_NAME}-wal"
        house = HeldOpen(path, db.file_id(path))
        for name in ("One", "Two"):
            with closing(db.open_same(path, db.file_id(path))) as conn:
                house.still_used()
                with db.transaction(conn):
                    tanks.add(conn, tank(name=name), NOW)
            self.assertGreater(beside.stat().st_size, 0, name)
        house.close()
        self.assertFalse(beside.exists())  # the file by itself is the whole again
        alone = self.folder / "alone.db"
        alone.write_bytes(path.read_bytes())
        with closing(db.connect(alone)) as copy:
            self.assertEqual([t.name for t in tanks.all_tanks(copy)], ["One", "Two"])
        house.still_used()  # and opened again when it is asked for
        self.assertTrue(beside.exists())
        house.close()

    def test_quiet_ends_it_by_itself_and_a_file_that_is_gone_is_left_to_who_asks(self) -> None:
        path = db.open_store(self.folder)
        soon = HeldOpen(path, db.file_id(path), quiet_s=0.0)
        soon.still_used()
        for thread in threading.enumerate():
            if thread.name == "held open":
                thread.join(10)
        self.assertFalse((self.folder / f"{db.FILE_NAME}-wal").exists())
        known = db.file_id(path)
        path.unlink()
        gone = HeldOpen(path, known)
        gone.still_used()
        gone.close()
        self.assertFalse(path.exists())


class OfAnEarlierVersion(InFolder):
    def test_the_saved_database_is_copied_brought_up_and_answers_as_the_saved_bundle(self) -> None:
        old_file(self.folder)
        self.assertEqual(owner_of(self.folder), "own")  # it bears no mark: the keeper's
        desk = self.desk()
        self.assertEqual(db.check(desk.conn), [])
        kept = self.folder / db.BACKUPS / "before-version-5.db"
        copy = sqlite3.connect(kept)
        self.addCleanup(copy.close)
        self.assertEqual(copy.execute("PRAGMA user_version").fetchone()[0], 4)
        here = tanks.tank(desk.conn, "sunroom-112")
        whole = journal.entries(desk.conn, here.id, live_only=False)
        self.assertEqual(copy.execute("SELECT count(*) FROM entry WHERE tank_id = ?", (here.id,)).fetchone()[0],
                         len(whole))  # fmt: skip
        self.assertEqual([e.id for e in whole if e.kind == "damaged"], [])
        self.assertGreaterEqual(len({e.kind for e in whole}), 22)
        brought = exchange.bring_in(desk, SAVED / "bundle-version-4")
        again = journal.entries(desk.conn, brought.id, live_only=False)
        self.assertEqual([(e.kind, e.at, e.state, e.note) for e in again],
                         [(e.kind, e.at, e.state, e.note) for e in whole])  # fmt: skip
        seen, back = (look.see(desk, slug) for slug in (here.slug, brought.slug))
        self.assertEqual((seen.verdict.state, seen.verdict.reasons), (back.verdict.state, back.verdict.reasons))
        self.assertEqual(seen.situation.forecast.readiness, back.situation.forecast.readiness)

    def test_a_database_of_a_newer_version_is_told_and_left_alone(self) -> None:
        path = db.open_store(self.folder)
        conn = sqlite3.connect(path)
        conn.execute("PRAGMA user_version = 99")
        conn.close()
        before = path.read_bytes()
        with self.assertRaisesRegex(StoreError, "newer version"):
            db.open_store(self.folder)
        self.assertEqual(path.read_bytes(), before)
        self.assertFalse((self.folder / db.BACKUPS).exists())

    def test_several_programs_at_once_bring_it_up_once(self) -> None:
        old_file(self.folder)
        script = (
            "import sys; from pathlib import Path; from jarbloom.store import db\n"
            "sys.stdin.read(1); db.open_store(Path(sys.argv[1]))"
        )
        programs = [
            subprocess.Popen(
                [sys.executable, "-c", script, str(self.folder)],
                cwd=ROOT,
                stdin=subprocess.PIPE,
                stderr=subprocess.PIPE,
            )
            for _ in range(8)
        ]
        told = [p.communicate(b"x", timeout=60)[1].decode() for p in programs]
        self.assertEqual(told, [""] * 8)
        self.assertEqual([p.returncode for p in programs], [0] * 8)
        self.assertEqual([f.name for f in (self.folder / db.BACKUPS).iterdir()], ["before-version-5.db"])
        self.assertEqual(db.check(self.desk().conn), [])

    def test_without_its_copy_nothing_is_changed(self) -> None:
        path = old_file(self.folder)
        (self.folder / db.BACKUPS).write_text("a file where the folder should be")
        with self.assertRaisesRegex(StoreError, "nothing was changed"):
            db.open_store(self.folder)
        conn = sqlite3.connect(path)
        self.addCleanup(conn.close)
        self.assertEqual(conn.execute("PRAGMA user_version").fetchone()[0], 4)
        self.assertEqual(conn.execute("SELECT count(*) FROM sqlite_master WHERE name = 'file_mark'").fetchone()[0], 0)


class Held(InFolder):
    def test_a_second_one_is_told_who_holds_it(self) -> None:
        told = rf"jarbloom demo, process {os.getpid()}"
        with (
            held(self.folder, "jarbloom demo"),
            self.assertRaisesRegex(StoreError, told),
            held(self.folder, "jarbloom serve"),
        ):
            self.fail("two hold one folder")
        with held(self.folder, "jarbloom serve"):
            pass  # free again

    def test_it_is_free_after_a_kill(self) -> None:
        script = (
            "import sys, time; from pathlib import Path; from jarbloom.store.folder import held\n"
            "with held(Path(sys.argv[1]), 'one'): print('held', flush=True); time.sleep(60)"
        )
        other = subprocess.Popen([sys.executable, "-c", script, str(self.folder)], cwd=ROOT, stdout=subprocess.PIPE)
        assert other.stdout is not None
        self.addCleanup(other.stdout.close)
        self.assertEqual(other.stdout.readline(), b"held\n")
        with self.assertRaises(StoreError), held(self.folder, "two"):
            pass
        other.send_signal(signal.SIGKILL)
        other.wait(30)
        with held(self.folder, "two"):
            pass


class Copies(WithDesk):
    def test_one_that_fails_leaves_nothing(self) -> None:
        tanks.add(self.conn, tank(), NOW)
        to = self.folder / "b" / "copy.db"
        rows = copies._rows

        def one_more(conn: sqlite3.Connection, table: str) -> int:
            return rows(conn, table) + (conn is self.conn)

        with unittest.mock.patch.object(copies, "_rows", one_more), self.assertRaisesRegex(StoreError, "missing"):
            backup(self.conn, to)
        self.assertEqual(list(to.parent.iterdir()), [])
        (self.folder / "file").write_text("x")
        with self.assertRaises(StoreError):
            backup(self.conn, self.folder / "file" / "copy.db")
        self.assertEqual((self.folder / "file").read_text(), "x")

    def test_the_mark_of_a_fresh_file(self) -> None:
        self.assertEqual(owner_of(self.folder), "own")
        for owner in ("demo", "own"):
            with tempfile.TemporaryDirectory() as other:
                self.assertIsNone(owner_of(Path(other)))
                db.open_store(Path(other), owner)
                self.assertEqual(owner_of(Path(other)), owner)
                db.open_store(Path(other), "demo")  # a mark is set once
                self.assertEqual(owner_of(Path(other)), owner)

    def test_preferences_come_along(self) -> None:
        preferences.save(self.conn, "zone", ZONE)
        to = self.folder / "copy.db"
        backup(self.conn, to)
        copy = db.connect(to)
        self.addCleanup(copy.close)
        self.assertEqual(preferences.load(copy, "UTC").zone, ZONE)
