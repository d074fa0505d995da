"""Old notes: days in any order, headings, units, cells, own words."""

import unittest
from datetime import date, time

from jarbloom.core.journal.old_notes.days import orders_of, read_day, read_time
from jarbloom.core.journal.old_notes.meaning import MEANINGS, guess
from jarbloom.core.journal.old_notes.rows import Plan, Reader, moment, own_words
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.kit import MG_PER_MG_N, Kit
from jarbloom.errors import Refused
from jarbloom.units import Units
from tests.make import NOW, REFERENCE

KIT = Kit()
SETTING = Setting(100.0, KIT, Units(), REFERENCE.species)


def reader(*columns: str, order: str = "dmy", **words: str) -> Reader:
    return Reader(Plan(columns, order, words), SETTING, NOW.tzinfo, NOW)


class Days(unittest.TestCase):
    def test_as_people_write_them(self) -> None:
        for text, order, day in (
            ("03/04/2025", "dmy", date(2025, 4, 3)), ("03/04/2025", "mdy", date(2025, 3, 4)),
            ("3.4.25", "dmy", date(2025, 4, 3)), ("2025-04-03", "dmy", date(2025, 4, 3)),
            ("2025/4/3 18:30", "mdy", date(2025, 4, 3)),
            ("45750", "dmy", date(2025, 4, 3)), ("3 April 2025", "mdy", date(2025, 4, 3)),
            ("Apr 3, 2025", "dmy", date(2025, 4, 3)),
            ("Do 3. Mai 2025", "dmy", date(2025, 5, 3)), ("3-Apr-25", "dmy", date(2025, 4, 3)),
            ("25-04-03", "ymd", date(2025, 4, 3)),
            ("31/02/2025", "dmy", None), ("soon", "dmy", None), ("", "dmy", None), ("7.2", "dmy", None),
            ("12", "dmy", None),
        ):  # fmt: skip
            with self.subTest(text=text, order=order):
                self.assertEqual(read_day(text, order), day)

    def test_times(self) -> None:
        for text, at in (("18:30", time(18, 30)), ("6.05 pm", time(18, 5)), ("12:10 am", time(0, 10)),
        ("2025-04-03 07:05", time(7, 5)),
                         ("25:00", None), ("noonish", None), ("13:00 pm", None)):  # fmt: skip
            with self.subTest(text=text):
                self.assertEqual(read_time(text), at)

    def test_the_order_is_asked_only_where_it_is_open(self) -> None:
        today = date(2026, 11, 24)
        self.assertEqual(
            orders_of(["03/04/2025", "10/04/2025", "17/04/2025"], today), ("dmy",)
        )  # a 17th month there is not
        self.assertEqual(orders_of(["04/17/2025", "04/24/2025"], today), ("mdy",))
        self.assertEqual(len(orders_of(["2025-04-03", "2025-05-03"], today)), 1)
        both = orders_of(["03/04/2025", "05/04/2025", "08/04/2025", "11/04/2025"], today)
        self.assertEqual(both, ("dmy", "mdy"))  # both can be read; days in a row are likelier than months
        self.assertEqual(orders_of(["a", "b"], today), ())
        self.assertEqual(orders_of(["03/12/2026", "01/11/2026"], today), ("mdy",))  # 3 December has not come yet


class Headings(unittest.TestCase):
    def test_what_they_mean(self) -> None:
        for head, cells, wanted in (
            ("Date", ["2025-01-01"], "day"), ("NO3 (mg/l)", ["20"], "nitrate:NO3"), ("Nitrate-N", ["5"], "nitrate:N"),
            ("NO2", ["0"], "nitrite:NO2"), ("Ammonia", ["0.25"], "ammonia:N"), ("NH4", ["0"], "ammonia:NH4"),
            ("pH", ["7.2"], "ph"),
            ("Temp", ["77", "78.1"], "temp:°F"), ("Temp (°C)", ["25"], "temp:°C"), ("Temperature", ["25,4"], "temp:°C"),
            ("KH", ["6"], "kh:dKH"), ("Alkalinity ppm", ["120"], "kh:ppm"), ("Salinity", ["1.025"], "salinity:sg"),
            ("ppt", ["35"], "salinity:g/kg"), ("WC %", ["30"], "change:%"), ("Water change", ["20 gal"], "change:gal"),
            ("Water change", ["30%"], "change:%"), ("changed (L)", ["40"], "change:L"), ("Notes", ["all fine"], "note"),
            ("What I did", ["wc"], "words"), ("", ["2025-01-01", "2025-02-01"], "day"), ("GH", ["8"], "gh"),
            ("PO4", ["0.2"], "phosphate"),
            ("Mood", ["3"], "skip"), ("Ca", ["420"], "calcium"), ("Mg", ["1300"], "magnesium"),
        ):  # fmt: skip
            with self.subTest(head=head, cells=cells):
                found = guess(head, cells, KIT)
                self.assertEqual(found, wanted)
                self.assertIn(found, MEANINGS)


class Rows(unittest.TestCase):
    def test_a_test_with_a_note_and_a_change(self) -> None:
        read = reader("day", "ammonia:N", "nitrate:NO3", "ph", "temp:°F", "change:%", "note")
        row = ("3/4/2025", "<0.25", "20-40", "7,2", "77", "30", "a quiet week")
        self.assertEqual(f"{moment(row, read.plan, NOW.tzinfo):%Y-%m-%d %H:%M}", "2025-04-03 12:00")
        test, change, note = read.bodies(row)
        seen = {r.quantity: r for r in test.readings}
        self.assertEqual(seen["temp"].seen, 25.0)
        self.assertEqual((seen["ammonia"].low, seen["ph"].seen), (0.0, 7.2))
        self.assertAlmostEqual(seen["nitrate"].seen, 30 / MG_PER_MG_N["NO3"], 6)
        self.assertEqual((change.litres, note.text), (30.0, "a quiet week"))

    def test_forms_and_units_are_brought_to_the_kits(self) -> None:
        (as_n,) = reader("nitrate:N").bodies(("5",))
        (as_ion,) = reader("nitrate:NO3").bodies(("22.1",))
        self.assertAlmostEqual(as_n.readings[0].seen, as_ion.readings[0].seen, 1)
        (kh,) = reader("kh:ppm").bodies(("107",))
        self.assertAlmostEqual(kh.readings[0].seen, 5.995, 2)
        (salt,) = reader("salinity:sg").bodies(("1.0264",))
        self.assertAlmostEqual(salt.readings[0].seen, 35, delta=0.6)
        (own,) = reader("temp:°C").bodies(("77 F",))
        self.assertEqual(own.readings[0].seen, 25.0)  # the cell says its own unit

    def test_what_cannot_be_is_said_with_its_column(self) -> None:
        for column, cell, words in (
            ("ph", "acid", "no number"), ("ph", "72", "not within"), ("nitrate:NO3", "20 drops", "unit"),
            ("temp:°C", "77", "°F"),
            ("change:%", "much", "no number"), ("change:L", "500", "more than the tank holds"),
            ("feed:g", "2 spoons", "grams"),
        ):  # fmt: skip
            with self.subTest(cell=cell), self.assertRaisesRegex(Refused, words) as caught:
                reader("day", column).bodies(("2025-01-01", cell))
            self.assertEqual(caught.exception.field, "1")
        for told in ("", "32/13/2025", "tomorrow"):
            with self.subTest(told=told), self.assertRaisesRegex(Refused, "day"):
                moment((told,), reader("day").plan, NOW.tzinfo)

    def test_nothing_noted_is_nothing(self) -> None:
        self.assertEqual(reader("day", "ph", "note", "nitrate:NO3").bodies(("1.1.2025", "-", "", "n/a")), [])

    def test_own_words(self) -> None:
        rows = [("1.1.2025", t) for t in ("wc 25%", "Big clean", "big  clean", "moved the fern", "fed 0.5 g")]
        plain = reader("day", "words")
        kinds = [plain.bodies(r)[0].key for r in rows]
        self.assertEqual(kinds, ["change", "note", "note", "note", "feed"])
        self.assertEqual(own_words(rows, plain.plan, plain), [("Big clean", 2, ""), ("moved the fern", 1, "")])
        taught = Reader(Plan(("day", "words"), "dmy", {"big clean": "wc 50%"}), SETTING, NOW.tzinfo, NOW)
        self.assertEqual([b.litres for b in taught.bodies(rows[2])], [50.0])
        self.assertEqual(own_words(rows, taught.plan, taught)[0], ("Big clean", 2, "wc 50%"))
