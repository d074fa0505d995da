"""Daily copies, putting one back, saving what is readable of a damaged file, secrets, and the whole house as a file."""

import io
import json
import sqlite3
import stat
import tempfile
import unittest
import zipfile
from contextlib import closing
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path

from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Source, Water
from jarbloom.deeds import back_up, exchange, keep_house, log, remind, schedule
from jarbloom.errors import BadBundle, Refused, StoreError
from jarbloom.store import backups, db, house, journal, preferences, reminders, tanks
from jarbloom.store.copies import backup, look_into
from jarbloom.store.restore import rescue, restore
from jarbloom.store.secret_file import FILE_NAME as SECRETS
from tests.make import NOW, WithDesk, entry, read_all, tank

DAY = timedelta(days=1)
RAIN = Water("Rain barrel", "rain", Source(kh_dkh=1.0))


def keep(conn: sqlite3.Connection, tank_id: int, *entries: Entry) -> None:
    journal.write_all(conn, tank_id, "log", "Logged", entries, NOW)


class Thinning(unittest.TestCase):
    def test_of_two_years_of_days_seven_days_five_weeks_and_twelve_months_stay(self) -> None:
        today = date(2026, 11, 24)
        days = [today - k * DAY for k in range(730)]
        stays = backups.kept_of(days)
        self.assertTrue({today - k * DAY for k in range(7)} <= stays)
        self.assertLessEqual(len(stays), 7 + 5 + 12)
        self.assertEqual(len({(d.year, d.month) for d in stays}), 12)
        self.assertEqual({d for d in stays if d.month == 8}, {date(2026, 8, 31)})  # the newest of its month

    def test_thinned_day_by_day_it_comes_to_the_same_kind_of_set(self) -> None:
        """What is thrown away today must not be missed later: months are still there after two years of days."""
        kept: set[date] = set()
        for k in range(730):
            kept = backups.kept_of(kept | {date(2024, 11, 25) + k * DAY})
        self.assertEqual(len({(d.year, d.month) for d in kept}), 12)
        self.assertGreaterEqual(len({d.isocalendar()[:2] for d in kept}), 5)

    def test_few_copies_all_stay(self) -> None:
        days = {date(2026, 1, 1), date(2026, 6, 1), date(2026, 11, 1)}
        self.assertEqual(backups.kept_of(days), days)


class Daily(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        tanks.add(self.conn, tank(), NOW)

    def test_one_a_day_from_three_in_the_morning_and_at_once_where_there_is_none(self) -> None:
        self.assertIsNotNone(back_up.daily(self.desk))
        self.assertIsNone(back_up.daily(self.later(hours=2)))
        self.later(hours=5)  # past midnight, before three
        self.assertIsNone(back_up.daily(self.desk))
        self.later(hours=4)
        self.assertIsNotNone(back_up.daily(self.desk))
        self.assertEqual(len(back_up.see_backups(self.desk).here), 2)

    def test_two_nights_without_one_are_told_and_a_failure_at_once(self) -> None:
        back_up.daily(self.desk)
        self.assertEqual(back_up.missed(self.later(days=1)), "")
        self.assertIn("2 days old", back_up.missed(self.later(days=1)))
        (self.folder / "disk").write_text("a file where the folder should be")
        blocked = replace(self.desk.preferences, backup_to=str(self.folder / "disk"))
        self.desk = replace(self.desk, preferences=blocked)
        with self.assertRaises(StoreError):
            back_up.now(self.desk)
        missed = back_up.missed(self.desk)
        self.assertIn("failed", missed)
        subject, body = remind.mail_text([], NOW, missed) or ("", "")
        self.assertIn("house", subject)
        self.assertIn(missed, body)
        self.assertIn("Back up the house", schedule.calendar_file(self.desk).decode())
        back_up.choose_second(self.desk, "")
        self.desk = self.desk_anew()
        back_up.now(self.desk)
        self.assertNotIn("Back up the house", schedule.calendar_file(self.desk).decode())

    def test_a_second_folder_gets_the_same_and_other_files_are_left_alone(self) -> None:
        other = self.folder / "elsewhere"
        back_up.choose_second(self.desk, str(other))
        self.desk = self.desk_anew()
        (other / "holiday.txt").write_text("not ours")
        for _ in range(20):
            back_up.now(self.later(days=1))
        seen = back_up.see_backups(self.desk)
        self.assertEqual([c.day for c in seen.here], [c.day for c in seen.there])
        self.assertLess(len(seen.here), 14)
        self.assertTrue((other / "holiday.txt").exists())
        self.assertEqual(look_into(seen.there[0].file), look_into(seen.here[0].file))
        self.assertEqual(stat.S_IMODE(seen.here[0].file.stat().st_mode), 0o600)

    def desk_anew(self):
        return replace(self.desk, preferences=preferences.load(self.conn, "UTC"))

    def test_a_folder_that_cannot_be_is_refused_at_its_field(self) -> None:
        for typed in ("some/where", str(self.folder / "file" / "x")):
            (self.folder / "file").write_text("x")
            with self.subTest(typed=typed), self.assertRaises(Refused) as told:
                back_up.choose_second(self.desk, typed)
            self.assertEqual(told.exception.field, "backup_to")

    def test_folder_and_file_are_their_owners_alone(self) -> None:
        with tempfile.TemporaryDirectory() as other:
            path = db.open_store(Path(other) / "house")
            self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600)
            self.assertEqual(stat.S_IMODE(path.parent.stat().st_mode), 0o700)

    def test_the_password_lies_in_a_file_of_its_own(self) -> None:
        self.conn.execute("INSERT INTO preference (key, value) VALUES ('mail_password', 'swim bladder')")
        self.conn.execute("INSERT INTO preference (key, value) VALUES ('calendar_secret', 'in use for years')")
        reminders.move_secrets_out(self.conn)
        self.assertTrue(schedule.calendar_feed(self.desk, "in use for years"))  # the address goes on
        self.assertEqual(reminders.mail_settings(self.conn)["mail_password"], "swim bladder")
        self.assertEqual(stat.S_IMODE((self.folder / SECRETS).stat().st_mode), 0o600)
        copy = back_up.now(self.desk)
        self.assertNotIn(b"swim bladder", copy.file.read_bytes())
        self.assertNotIn(b"in use for years", copy.file.read_bytes())
        self.assertNotIn(b"swim bladder", read_all(exchange.export_house(self.desk)))


class PutBack(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = tanks.add(self.conn, tank(), NOW)
        keep(self.conn, self.tank.id, entry("note", 1, text="before"))
        self.copy = self.folder / "copy.db"
        backup(self.conn, self.copy)
        keep(self.conn, self.tank.id, entry("note", 0.5, text="after"))

    def notes(self, folder: Path) -> list[str]:
        with closing(db.connect(db.open_store(folder))) as conn:
            return [e.body.text for e in journal.entries(conn, self.tank.id)]

    def test_the_copy_is_in_place_and_the_present_one_aside_with_all_it_held(self) -> None:
        held, aside = restore(self.folder, self.copy, NOW)
        self.assertEqual((held.tanks, held.entries), (1, 1))
        self.assertEqual(self.notes(self.folder), ["before"])
        assert aside is not None
        self.assertEqual(look_into(aside).entries, 2)
        _, second = restore(self.folder, aside, NOW)  # and back again: nothing was lost
        self.assertNotEqual(second, aside)
        self.assertEqual(self.notes(self.folder), ["before", "after"])

    def test_what_is_no_whole_database_changes_nothing(self) -> None:
        damaged = bytearray(self.copy.read_bytes())
        damaged[4096:40960] = b"x" * 36864
        for name, content in (("text.db", b"hello"), ("half.db", bytes(damaged)), ("empty.db", b"")):
            (self.folder / name).write_bytes(content)
            with self.subTest(name=name), self.assertRaises(StoreError):
                restore(self.folder, self.folder / name, NOW)
        with sqlite3.connect(self.copy) as newer:
            newer.execute("PRAGMA user_version = 99")
        with self.assertRaisesRegex(StoreError, "newer version"):
            restore(self.folder, self.copy, NOW)
        self.assertEqual(self.notes(self.folder), ["before", "after"])
        self.assertEqual([f.name for f in self.folder.glob("before-restore*")], [])

    def test_what_is_readable_of_a_damaged_file_is_saved(self) -> None:
        for k in range(400):
            keep(self.conn, self.tank.id, entry("note", 0.4, text=f"entry {k} " + "long " * 60))
        self.conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        whole = journal.entries(self.conn, self.tank.id)
        root = self.conn.execute("SELECT pageno FROM dbstat WHERE name = 'entry' AND pagetype = 'leaf' LIMIT 1 OFFSET 9"
                                 ).fetchone() if self.has_dbstat() else None  # fmt: skip
        page = root[0] if root else 40
        self.conn.close()
        path = self.folder / db.FILE_NAME
        raw = bytearray(path.read_bytes())
        raw[(page - 1) * 4096 : page * 4096] = b"\xff" * 4096
        path.write_bytes(bytes(raw))
        conn, _ = db.read_store(self.folder)
        with closing(conn):
            self.assertNotEqual(db.check(conn), [])
        saved = {s.table: s for s in rescue(self.folder, self.folder / "saved.db")}
        self.assertGreater(sum(s.gaps for s in saved.values()), 0)
        self.assertGreater(saved["entry"].rows, len(whole) * 0.8)
        self.assertEqual(path.read_bytes(), bytes(raw))  # the damaged one is as it was
        restore(self.folder, self.folder / "saved.db", NOW)
        self.assertGreater(len(self.notes(self.folder)), len(whole) * 0.8)

    def has_dbstat(self) -> bool:
        try:
            self.conn.execute("SELECT 1 FROM dbstat LIMIT 1")
        except sqlite3.OperationalError:
            return False
        return True

    def test_neither_check_nor_backup_brings_a_file_up_to_date(self) -> None:
        with sqlite3.connect(self.folder / db.FILE_NAME) as conn:
            conn.execute("PRAGMA user_version = 4")
        conn, version = db.read_store(self.folder)
        with closing(conn):
            self.assertEqual(version, 4)
            self.assertEqual(db.check(conn), [])
            backup(conn, self.folder / "old.db")
        self.assertEqual(look_into(self.folder / "old.db").version, 4)


class Elsewhere(WithDesk):
    def test_a_zone_that_this_machine_does_not_know_stops_no_page(self) -> None:
        self.conn.execute("INSERT INTO preference (key, value) VALUES ('zone', 'Mars/Olympus')")
        self.assertEqual(preferences.load(self.conn, "Europe/Berlin").zone, "Europe/Berlin")
        self.assertEqual(preferences.load(self.conn, "Mars/Olympus").zone, "UTC")


class Gone(WithDesk):
    def test_a_file_that_is_deleted_or_replaced_is_told_and_never_made_anew(self) -> None:
        path, known = self.folder / db.FILE_NAME, db.file_id(self.folder / db.FILE_NAME)
        db.open_same(path, known).close()
        path.rename(self.folder / "moved.db")
        with self.assertRaisesRegex(StoreError, "gone from under"):
            db.open_same(path, known)
        self.assertFalse(path.exists())
        with self.assertRaises(StoreError):
            db.connect(path, there=True)
        path.write_bytes((self.folder / "moved.db").read_bytes())
        with self.assertRaisesRegex(StoreError, "Another file"):
            db.open_same(path, known)


class House(WithDesk):
    def test_a_whole_house_goes_out_and_comes_in_again(self) -> None:
        first = tanks.add(self.conn, tank(), NOW)
        second = tanks.add(self.conn, tank(name="Landing 60"), NOW)
        log.log_line(self.desk, first.slug, "am 0.5 ni 1")
        log.log_line(self.desk, second.slug, "dose 2 mg/l")
        tanks.archive(self.conn, second.id, NOW)
        keep_house.keep_water(self.desk, RAIN)
        log.log_line(self.desk, first.slug, "rain barrel ph 6.1")  # a figure that was read in a line goes along
        file = self.folder / "house.zip"
        file.write_bytes(read_all(exchange.export_house(self.desk)))
        exchange.bring_in_any(self.desk, file)
        self.assertEqual(len(house.waters(self.conn)), 1)  # it is the same here, whoever read it
        with tempfile.TemporaryDirectory() as other:
            conn = db.connect(db.open_store(Path(other)))
            self.addCleanup(conn.close)
            there = replace(self.desk, conn=conn)
            made = exchange.bring_in_any(there, file)
            self.assertEqual([t.name for t in made], ["Sunroom 112", "Landing 60"])
            self.assertEqual([t.name for t in tanks.all_tanks(conn)], ["Sunroom 112"])  # the other on its shelf
            self.assertEqual([(w.name, w.source.ph) for w in house.waters(conn)], [("Rain barrel", 6.1)])
            self.assertEqual(
                [e.body.seen for e in there.log(made[0].id)], [e.body.seen for e in self.desk.log(first.id)]
            )
            exchange.bring_in_any(there, file)
            self.assertEqual(len(house.waters(conn)), 1)  # the same water is not taken twice

    def test_one_bad_tank_keeps_the_whole_house_out_and_is_named(self) -> None:
        tanks.add(self.conn, tank(), NOW)
        whole = zipfile.ZipFile(io.BytesIO(read_all(exchange.export_house(self.desk))))
        file = self.folder / "bad.zip"
        with zipfile.ZipFile(file, "w") as archive:
            for name in whole.namelist():
                text = whole.read(name).decode()
                if name.endswith("tank.json"):
                    told = json.loads(text)
                    told["tank"]["length_cm"] = -3
                    text = json.dumps(told)
                archive.writestr(name, text)
        with self.assertRaisesRegex(BadBundle, "tanks/sunroom-112, tank.json"):
            exchange.bring_in_any(self.desk, file)
        self.assertEqual(len(tanks.all_tanks(self.conn)), 1)


if __name__ == "__main__":
    unittest.main()
