"""Readings as intervals, and words for moments."""

import unittest

from jarbloom.core.journal.line.times import moment
from jarbloom.core.journal.readings import interval_text, read, reading_words
from jarbloom.core.model.kit import Kit, Scale
from jarbloom.errors import Refused
from jarbloom.units import Units
from tests.make import NOW


class Readings(unittest.TestCase):
    def test_a_step_spans_to_the_midpoints(self) -> None:
        rows = (
            ("0.25", 0.25, 0.125, 0.375),
            ("0", 0, 0, 0.125),
            ("1", 1, 0.75, 1.5),
            ("0.25-0.5", 0.375, 0.25, 0.5),
            ("0.3", 0.3, 0.25, 0.5),
            ("<0.25", 0.125, 0, 0.25),
            ("8", 8, 6, None),
            (">8", 8, 8, None),
        )
        for typed, seen, low, high in rows:
            with self.subTest(typed=typed):
                r = read("ammonia", typed, Kit())
                self.assertEqual((r.seen, r.low, r.high), (seen, low, high))

    def test_the_form_of_the_kit_is_told_from_the_canonical_value(self) -> None:
        r = read("nitrate", "20", Kit())
        self.assertAlmostEqual(r.seen, 20 * 14.007 / 62.004, places=4)
        self.assertEqual((r.typed, r.form, interval_text(r)), ("20", "NO3", "15 to 30"))
        ion = Kit(ammonia=Scale((0, 0.5, 1, 2), "NH4"))
        self.assertAlmostEqual(read("ammonia", "1", ion).seen, 14.007 / 18.038, places=4)

    def test_a_photometer_has_no_steps(self) -> None:
        r = read("ammonia", "0.37", Kit(kind="photometer"))
        self.assertLess(r.low, 0.37)
        self.assertGreater(r.high or 0, 0.37)

    def test_temperature_keeps_what_was_typed(self) -> None:
        r = read("temp", "77 F", Kit())
        self.assertAlmostEqual(r.seen, 25.0)
        self.assertEqual(r.typed, "77 °F")
        self.assertAlmostEqual(read("temp", r.typed, Kit()).seen, 25.0)

    def test_absurd_readings_are_refused_at_their_field(self) -> None:
        for quantity, typed in (
            ("ph", "77"),
            ("ammonia", "-1"),
            ("ammonia", "1000"),
            ("temp", "99"),
            ("kh", "abc"),
            ("nitrite", "2-1"),
        ):
            with self.subTest(typed=typed), self.assertRaises(Refused) as told:
                read(quantity, typed, Kit())
            self.assertEqual(told.exception.field, quantity)

    def test_masked_is_kept_with_what_was_typed(self) -> None:
        for quantity, typed in (("ammonia", "2 masked"), ("nitrite", ".25-.5 Masked"), ("ph", "7.6 masked")):
            with self.subTest(typed=typed):
                r = read(quantity, typed, Kit())
                self.assertTrue(r.masked and r.typed.endswith(" masked"))
                plain = read(quantity, typed.lower().removesuffix(" masked"), Kit())
                self.assertEqual((r.seen, r.low, r.high), (plain.seen, plain.low, plain.high))
                self.assertEqual(read(quantity, r.typed, Kit()), r)
        with self.assertRaises(Refused):
            read("ammonia", "masked", Kit())

    def test_a_sign_stays_a_sign(self) -> None:
        rows = (
            ("ph", "<6", 6.0, 3.0, 6.0),
            ("ph", ">8.8", 8.8, 8.8, 11.0),
            ("kh", "<1", 1.0, 0.0, 1.0),
            ("temp", ">30", 30.0, 30.0, 45.0),
        )
        for quantity, typed, seen, low, high in rows:
            with self.subTest(quantity=quantity):
                r = read(quantity, typed, Kit())
                self.assertEqual((r.seen, r.low, r.high), (seen, low, high))
                self.assertIn(typed, reading_words(r, Units()))

    def test_a_specific_gravity_says_where_its_scale_is_true(self) -> None:
        rows = (("1.026 sg", 34.5), ("1.026 sg @ 25", 34.5), ("1.026 sg @ 20", 34.2), ("35 g/kg", 35.0))
        for typed, g_kg in rows:
            with self.subTest(typed=typed):
                self.assertAlmostEqual(read("salinity", typed, Kit()).seen, g_kg, delta=0.06)
        self.assertEqual(interval_text(read("salinity", "1.026 sg", Kit())), "34.5\u00a0g/kg")
        self.assertEqual(interval_text(read("salinity", "35", Kit())), "")
        for typed in ("1.0.26 sg", "1..5", "1.026 sg @ 90", "35 @ 25", "sg"):
            with self.subTest(typed=typed), self.assertRaises(Refused) as told:
                read("salinity", typed, Kit())
            self.assertEqual(told.exception.field, "salinity")

    def test_salinity_is_in_grams_a_kilogram(self) -> None:
        self.assertEqual(read("salinity", "35", Kit()).seen, 35.0)
        with self.assertRaises(Refused):
            read("salinity", "350", Kit())


class Moments(unittest.TestCase):
    def test_words_for_a_moment(self) -> None:
        rows = (
            ("yesterday 19:30", "2026-11-23 19:30"),
            ("19:30", "2026-11-24 19:30"),
            ("@8:05", "2026-11-24 08:05"),
            ("mon 7:00", "2026-11-23 07:00"),
            ("tuesday", "2026-11-24 12:00"),
            ("2026-11-20", "2026-11-20 12:00"),
            ("2026-11-20 06:15", "2026-11-20 06:15"),
            ("20 nov 19:30", "2026-11-20 19:30"),
            ("25 dec 2025", "2025-12-25 12:00"),
            ("5:15 pm", "2026-11-24 17:15"),
            ("12:05 am", "2026-11-24 00:05"),
            ("3 days ago", "2026-11-21 18:40"),
            ("2h ago", "2026-11-24 16:40"),
        )
        for text, wanted in rows:
            with self.subTest(text=text):
                found = moment(text.split(), NOW)
                assert found is not None
                self.assertEqual(f"{found.at:%Y-%m-%d %H:%M}", wanted)
                self.assertEqual(found.used, len(text.split()))

    def test_what_is_no_moment(self) -> None:
        for text in ("am", ".25", "monkey", "12"):
            self.assertIsNone(moment([text], NOW), text)
        for text in ("2026-02-30", "13:00 pm", "25:00", "31 nov"):
            with self.subTest(text=text), self.assertRaises(Refused):
                moment(text.split(), NOW)

    def test_am_behind_a_time_is_ammonia_when_a_number_follows(self) -> None:
        for text, hour, used in (("8:00 am .5", 8, 1), ("8:00 am fed", 8, 2), ("8:00 pm .5", 20, 2)):
            with self.subTest(text=text):
                found = moment(text.split(), NOW)
                assert found is not None
                self.assertEqual((found.at.hour, found.used), (hour, used))

    def test_a_day_without_a_year_is_one_of_late(self) -> None:
        january = NOW.replace(year=2027, month=1, day=3)
        found = moment(["30", "dec"], january)
        assert found is not None
        self.assertEqual(f"{found.at:%Y-%m-%d}", "2026-12-30")
        with self.assertRaises(Refused) as told:  # a year ago, or a slip?
            moment(["30", "nov"], NOW)
        self.assertIn("2025", told.exception.sentence)
