"""The database: migrations, transactions, the journal that never forgets, and copies."""

import sqlite3
import subprocess
import sys
import tempfile
import textwrap
from dataclasses import replace
from pathlib import Path

from jarbloom.errors import NotFound, Refused, StoreError
from jarbloom.store import batches, db, journal, preferences, tanks
from jarbloom.store.copies import backup
from tests.make import NOW, WithDesk, entry, tank, test_entry


class Database(WithDesk):
    def test_pragmas(self) -> None:
        rows = (("journal_mode", "wal"), ("synchronous", 2), ("foreign_keys", 1), ("busy_timeout", db.BUSY_MS))
        for name, value in rows:
            with self.subTest(pragma=name):
                self.assertEqual(self.conn.execute(f"PRAGMA {name}").fetchone()[0], value)

    def test_all_tables_are_strict(self) -> None:
        ours = "type = 'table' AND name NOT LIKE 'entry_words%'"  # the word index is SQLite's own
        for row in self.conn.execute(f"SELECT name, sql FROM sqlite_master WHERE {ours}"):
            self.assertIn("STRICT", row["sql"], row["name"])

    def test_migrating_twice_changes_nothing_and_newer_is_refused(self) -> None:
        before = self.conn.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]
        self.assertEqual(db.migrate(self.conn), len(db.migrations()))
        self.assertEqual(self.conn.execute("SELECT count(*) FROM sqlite_master").fetchone()[0], before)
        self.conn.execute("PRAGMA user_version = 99")
        with self.assertRaises(StoreError):
            db.migrate(self.conn)

    def test_a_database_of_the_first_version_is_brought_up_to_date(self) -> None:
        path = self.folder / "old.db"
        old = db.connect(path)
        old.executescript(dict(db.migrations())[1] + "PRAGMA user_version = 1;")
        with db.transaction(old):
            old.execute("INSERT INTO tank (slug, created_at) VALUES ('a', '2026-01-01')")
            old.execute("INSERT INTO act (tank_id, kind, at, sentence) VALUES (1, 'log', '2026-01-01', 'x')")
            old.execute(
                """INSERT INTO entry (tank_id, act_id, kind, at, at_utc, zone, who, note, body, recorded_at)
                   VALUES (1, 1, 'test', :at, 1, 'UTC', '', '', '{}', :at)""",
                {"at": "2026-01-01T10:00:00+00:00"},
            )
            old.execute("INSERT INTO mark (act_id, entry_id, live) VALUES (1, 1, 1)")
            old.execute("INSERT INTO reading VALUES (1, 'nitrite', '1', 1.0, 0.7, 1.5, 0.4, NULL, 'N', 0.17, 6)")
        self.assertEqual(db.migrate(old), len(db.migrations()))
        (kept,) = journal.entries(old, 1)
        self.assertEqual((kept.readings[0].typed, kept.readings[0].masked), ("1", False))
        with self.assertRaises(sqlite3.IntegrityError):
            old.execute("DELETE FROM reading")
        self.assertEqual(db.check(old), [])
        old.close()

    def test_a_failed_transaction_leaves_nothing(self) -> None:
        with self.assertRaises(ZeroDivisionError), db.transaction(self.conn):
            tanks.add(self.conn, tank(), NOW)
            raise ZeroDivisionError
        self.assertEqual(tanks.all_tanks(self.conn), [])
        self.assertFalse(self.conn.in_transaction)

    def test_nested_transactions_join(self) -> None:
        with self.assertRaises(ZeroDivisionError), db.transaction(self.conn):
            with db.transaction(self.conn):
                tanks.add(self.conn, tank(), NOW)
            raise ZeroDivisionError
        self.assertEqual(tanks.all_tanks(self.conn), [])

    def test_a_kill_in_the_middle_leaves_a_good_database(self) -> None:
        script = textwrap.dedent("""
            import os, signal, sys
            from pathlib import Path
            from jarbloom.store import db, tanks
            from tests.make import NOW, tank
            conn = db.connect(db.open_store(Path(sys.argv[1])))
            with db.transaction(conn):
                tanks.add(conn, tank(name="kept"), NOW)
            conn.execute("BEGIN IMMEDIATE")
            tanks.add(conn, tank(name="half"), NOW)
            os.kill(os.getpid(), signal.SIGKILL)
        """)
        root = Path(__file__).parents[2]
        done = subprocess.run([sys.executable, "-c", script, str(self.folder / "k")], cwd=root, check=False)
        self.assertEqual(done.returncode, -9)
        conn = db.connect(db.open_store(self.folder / "k"))
        self.addCleanup(conn.close)
        self.assertEqual([t.name for t in tanks.all_tanks(conn)], ["kept"])
        self.assertEqual(db.check(conn), [])

    def test_backup_is_whole_and_writes_over_nothing(self) -> None:
        tanks.add(self.conn, tank(), NOW)
        to = self.folder / "b" / "copy.db"
        backup(self.conn, to)
        copy = db.connect(to)
        self.addCleanup(copy.close)
        self.assertEqual([t.name for t in tanks.all_tanks(copy)], ["Sunroom 112"])
        with self.assertRaises(StoreError):
            backup(self.conn, to)

    def test_a_file_that_is_no_database_is_told(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / db.FILE_NAME).write_text("this is no database" * 100)
            with self.assertRaises(StoreError):
                db.open_store(Path(folder))


class Tanks(WithDesk):
    def test_settings_come_back_equal_and_revisions_stay(self) -> None:
        kept = tanks.add(self.conn, tank(typed={"length_cm": "31.5 in"}), NOW)
        self.assertEqual(replace(kept, id=0, slug=""), tank())
        self.assertEqual(kept.typed, {"length_cm": "31.5 in"})
        tanks.save_revision(self.conn, kept.id, replace(kept, temp_c=24.0), NOW)
        self.assertEqual(tanks.tank(self.conn, kept.slug).temp_c, 24.0)
        before = tanks.earlier(self.conn, kept.id)
        assert before is not None
        self.assertEqual(before.temp_c, 26)
        self.assertEqual(tanks.revisions(self.conn, kept.id), 2)

    def test_addresses_are_free_and_plain(self) -> None:
        slugs = [tanks.add(self.conn, tank(name=n), NOW).slug for n in ("Sunroom 112", "Sunroom 112", "Öß/..", "")]
        self.assertEqual(slugs, ["sunroom-112", "sunroom-112-2", "tank", "tank-2"])
        with self.assertRaises(NotFound):
            tanks.tank(self.conn, "nowhere")

    def test_shelved_tanks_keep_their_record(self) -> None:
        kept = tanks.add(self.conn, tank(), NOW)
        tanks.archive(self.conn, kept.id, NOW)
        self.assertEqual(tanks.all_tanks(self.conn), [])
        self.assertEqual(tanks.archived(self.conn), [(kept.id, "sunroom-112", "Sunroom 112")])
        tanks.archive(self.conn, kept.id, None)
        self.assertEqual(len(tanks.all_tanks(self.conn)), 1)


class Journal(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank_id = tanks.add(self.conn, tank(), NOW).id

    def test_entries_come_back_as_written(self) -> None:
        new = [
            test_entry(2, ammonia="0.25-0.5", nitrite=">5", ph="7.4", temp="25"),
            entry("dose", 1, mg_n=216.0),
            entry("note", 0, text="a “note” with\nlines; and ünïcode"),
        ]
        journal.write_all(self.conn, self.tank_id, "log", "three", new, NOW)
        back = journal.entries(self.conn, self.tank_id)
        for a, b in zip(new, back, strict=True):
            self.assertEqual((a.kind, a.at, a.body, a.readings, a.zone), (b.kind, b.at, b.body, b.readings, b.zone))
            self.assertEqual(b.at.utcoffset(), a.at.utcoffset())

    def test_nothing_can_be_overwritten_or_deleted(self) -> None:
        journal.write_all(self.conn, self.tank_id, "log", "one", [test_entry(1, ammonia="0")], NOW)
        for sql in (
            "UPDATE entry SET note = 'x'",
            "DELETE FROM entry",
            "UPDATE reading SET seen = 1",
            "DELETE FROM reading",
            "UPDATE mark SET live = 0",
            "DELETE FROM mark",
        ):
            with self.subTest(sql=sql), self.assertRaises(sqlite3.IntegrityError):
                self.conn.execute(sql)

    def test_marks_say_what_is_live(self) -> None:
        _, (first,) = journal.write_all(self.conn, self.tank_id, "log", "one", [entry("note", 1, text="a")], NOW)
        act = journal.new_act(self.conn, self.tank_id, "void", NOW, "void")
        journal.mark(self.conn, act, first, False)
        self.assertEqual(journal.entries(self.conn, self.tank_id), [])
        self.assertEqual(journal.entry(self.conn, self.tank_id, first).state, "void")
        self.assertEqual(len(journal.entries(self.conn, self.tank_id, live_only=False)), 1)

    def test_another_tanks_entry_is_not_found(self) -> None:
        _, (first,) = journal.write_all(self.conn, self.tank_id, "log", "one", [entry("note", 1, text="a")], NOW)
        other = tanks.add(self.conn, tank(name="Hall"), NOW)
        with self.assertRaises(NotFound):
            journal.entry(self.conn, other.id, first)


class PlansAndPreferences(WithDesk):
    def test_batches_are_in_by_the_journal(self) -> None:
        t = tanks.add(self.conn, tank(), NOW)
        b = batches.add(self.conn, t.id, "Batch one", NOW.date())
        batches.set_count(self.conn, b, "guppy", 6)
        batches.set_count(self.conn, b, "guppy", 5)
        (found,) = batches.batches(self.conn, t.id, [])
        self.assertEqual((found.items[0].count, found.arrived), (5, None))
        arrived = entry("arrival", 0, species="guppy", count=5, batch=b)
        self.assertEqual(batches.batches(self.conn, t.id, [arrived])[0].arrived, NOW.date())
        batches.remove(self.conn, t.id, b, NOW)
        self.assertEqual(batches.batches(self.conn, t.id, []), [])
        with self.assertRaises(NotFound):
            batches.remove(self.conn, t.id + 1, b, NOW)

    def test_preferences_have_defaults_and_limits(self) -> None:
        self.assertEqual(preferences.load(self.conn).units.system, "metric")
        preferences.save(self.conn, "system", "us")
        self.assertEqual(preferences.load(self.conn).units.system, "us")
        for key, value in (
            ("system", "imperial"),
            ("zone", "Mars/Base"),
            ("colour", "red"),
            ("who", "x" * 81),
            ("dates", "year"),
        ):
            with self.subTest(key=key), self.assertRaises(Refused):
                preferences.save(self.conn, key, value)
        self.assertEqual(set(preferences.HELP), set(vars(preferences.Preferences())) - {"language"})
