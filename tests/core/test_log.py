"""Readings as intervals, words for moments, and the shorthand grammar."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from jarbloom.core.animals.names import match_species
from jarbloom.core.journal.complete import Setting
from jarbloom.core.journal.kinds import KINDS, clean_body
from jarbloom.core.journal.line.shorthand import parse
from jarbloom.core.journal.line.times import moment
from jarbloom.core.journal.readings import interval_text, read
from jarbloom.core.journal.words import words
from jarbloom.core.model.kit import Kit, Scale
from jarbloom.errors import Refused
from jarbloom.units import Units
from tests.make import NOW, REFERENCE, entry, test_entry

SETTING = Setting(112, Kit(), Units(), REFERENCE.species, ("harlequin_rasbora",))


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
            ("25 dec", "2025-12-25 12:00"),
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
        with self.assertRaises(Refused):
            moment(["2026-02-30"], NOW)


class NewWords(unittest.TestCase):
    def test_masked_belongs_to_the_reading_before_it(self) -> None:
        found = parse("am 2 masked ni .25", NOW, SETTING)
        ammonia, nitrite = found.drafts[0].readings
        self.assertEqual((ammonia.masked, nitrite.masked), (True, False))
        self.assertIn("not believed", found.chips[0].detail)
        self.assertEqual(found.leftover, "")

    def test_salinity_beside_others(self) -> None:
        found = parse("sal 30 t 25.4", NOW, SETTING)
        self.assertEqual([r.quantity for r in found.drafts[0].readings], ["salinity", "temp"])

    def test_what_is_missing_is_asked(self) -> None:
        for line, question in (
            ("power", "how many hours"),
            ("power long", "how many hours"),
            ("power 9000h", "9000"),
            ("bed 20 l", "in %"),
            ("sal 30 mg/l", "Leave the unit out"),
            ("tomorrow am 0", "not come yet"),
        ):
            with self.subTest(line=line):
                found = parse(line, NOW, SETTING)
                self.assertEqual(found.drafts, ())
                self.assertIn(question, " ".join(c.label for c in found.chips if not c.ok))


class Shorthand(unittest.TestCase):
    def test_understood_lines(self) -> None:
        rows = (
            ("wc 30%", "change", {"litres": 33.6, "fraction": 0.3}),
            ("bed", "bed", {}),
            ("bed 40%", "bed", {"share": 40.0}),
            ("power 6h", "power", {"hours": 6.0}),
            ("power cut 30 hours open", "power", {"hours": 30.0, "where": "open"}),
            ("outage 1.5h closed", "power", {"hours": 1.5, "where": "closed"}),
            ("wc 22 l", "change", {"litres": 22.0}),
            ("wc 6 gal", "change", {"litres": 6 * 3.785411784}),
            ("dose 2 mg/l", "dose", {"mg_n": 224.0, "unit": "mg/L"}),
            ("dose .8 g", "dose", {"mg_n": 0.8 * 261.857}),
            ("dose 60 mg", "dose", {"mg_n": 60.0}),
            ("top 2l", "topoff", {"litres": 2.0}),
            ("fed", "feed", {}),
            ("fed 0.2 g", "feed", {"grams": 0.2}),
            ("conditioner 10 ml", "conditioner", {"ml": 10.0, "detoxifies": False}),
            ("detox 5ml", "conditioner", {"ml": 5.0, "detoxifies": True}),
            ("bac 50 ml", "bacteria", {"ml": 50.0, "source": "bottle"}),
            ("media tap 50%", "media", {"how": "tap", "share": 50.0}),
            ("dead 1 rasbora", "death", {"species": "harlequin_rasbora", "count": 1}),
            ("in 6 kuhli loaches", "arrival", {"species": "kuhli_loach", "count": 6}),
            ("saw fish gasping", "observation", {"signs": ["gasping"]}),
            ("note hello, world; all well", "note", {"text": "hello, world; all well"}),
        )
        for line, kind, body in rows:
            with self.subTest(line=line):
                p = parse(line, NOW, SETTING)
                self.assertEqual([d.kind for d in p.drafts], [kind])
                for key, value in body.items():
                    got = p.drafts[0].body[key]
                    if isinstance(value, float):
                        self.assertAlmostEqual(got, value, delta=0.05)
                    else:
                        self.assertEqual(got, value)
                self.assertEqual((p.leftover, [c for c in p.chips if not c.ok]), ("", []))

    def test_readings_come_as_one_test(self) -> None:
        p = parse("am .25 ni 1 na 10 ph 7.6 t 25.4", NOW, SETTING)
        self.assertEqual([r.quantity for r in p.drafts[0].readings], ["ammonia", "nitrite", "nitrate", "ph", "temp"])
        self.assertEqual([c.detail for c in p.chips][:2], ["0.12 to 0.38", "0.75 to 1.5"])

    def test_a_line_may_hold_several_things_and_a_time(self) -> None:
        p = parse("yesterday 19:30 am 0, ni 0,5 wc 30% dead 1 rasbora", NOW, SETTING)
        self.assertEqual([d.kind for d in p.drafts], ["test", "change", "death"])
        self.assertEqual(p.at, NOW.replace(day=23, hour=19, minute=30))
        self.assertEqual(p.drafts[0].readings[1].seen, 0.5)

    def test_questions_with_a_way_out(self) -> None:
        rows = (
            ("am .25 na 1o", "did you mean 10", "am .25 na 10", "na 1o"),
            ("ammnia 2", "ammonia", "ammonia 2", "ammnia 2"),
            ("dose 2", "of what", "dose 2 mg/l", "dose 2"),
            ("in 3 danois", "zebra danio", "in 3 zebra danio", "in 3 danois"),
        )
        for line, asked, fix, left in rows:
            with self.subTest(line=line):
                p = parse(line, NOW, SETTING)
                ask = next(c for c in p.chips if not c.ok)
                self.assertIn(asked, ask.label)
                self.assertEqual((ask.fix, p.leftover), (fix, left))

    def test_refused_lines_say_why(self) -> None:
        rows = (
            ("am -1", "below zero"),
            ("wc 300 l", "more than the tank holds"),
            ("wc 130%", "not between"),
            ("dose 900 mg/l", "nobody doses"),
            ("am", "how much"),
            ("xyzzy", "not understood"),
            ("am 1 am 2", "twice"),
            ("wc 3 g", "Use litres"),
            ("dead 0 rasbora", "no count"),
            ("dead 1 dragon", "not in the catalogue"),
            ("media", "rinsed how"),
            ("am 1 ppb", "not known"),
            ("am 1ppb", "not known"),
        )
        for line, said in rows:
            with self.subTest(line=line):
                p = parse(line, NOW, SETTING)
                self.assertTrue(any(said in c.label for c in p.chips if not c.ok), p.chips)

    def test_a_doubtful_time_takes_nothing(self) -> None:
        for line in ("2026-12-24 am 0", "25:00 am 1", "am .25 @23:50", "am 1 yesterday 2026-11-01"):
            with self.subTest(line=line):
                p = parse(line, NOW, SETTING)
                self.assertEqual((p.drafts, p.leftover), ((), line))

    def test_us_units(self) -> None:
        us = Setting(112, Kit(), Units("us"), REFERENCE.species)
        self.assertAlmostEqual(parse("wc 5", NOW, us).drafts[0].body["litres"], 18.927, places=2)
        self.assertAlmostEqual(parse("t 77", NOW, us).drafts[0].readings[0].seen, 25.0)
        self.assertAlmostEqual(parse("t 25c", NOW, us).drafts[0].readings[0].seen, 25.0)

    @given(st.text(max_size=80))
    def test_no_text_breaks_it(self, line: str) -> None:
        p = parse(line, NOW, SETTING)
        for draft in p.drafts:
            self.assertIn(draft.kind, KINDS)

    def test_a_very_long_line_is_told_so(self) -> None:
        p = parse("note " + "x" * 30_000, NOW, SETTING)
        self.assertEqual(p.drafts, ())
        self.assertIn("30,005", p.chips[0].label)

    def test_names(self) -> None:
        rows = (
            ("harlequin rasboras", "harlequin_rasbora"),
            ("Corydoras aeneus", "bronze_corydoras"),
            ("corys", "bronze_corydoras"),
            ("neons", "neon_tetra"),
            ("unknown", "unknown"),
            ("tetra", None),
        )
        for text, key in rows:
            with self.subTest(text=text):
                self.assertEqual(match_species(text, REFERENCE.species), key)
        self.assertEqual(match_species("tetra", REFERENCE.species, ("neon_tetra",)), "neon_tetra")


class Kinds(unittest.TestCase):
    def test_bodies_are_checked_by_field(self) -> None:
        for kind, raw, field in (
            ("change", {}, "litres"),
            ("change", {"litres": "x"}, "litres"),
            ("arrival", {"species": "guppy", "count": "2.5"}, "count"),
            ("media", {"how": "boiled"}, "how"),
            ("note", {"text": " "}, "text"),
            ("feed", {"grams": "1", "colour": "red"}, "colour"),
            ("observation", {"signs": ["levitating"]}, "signs"),
        ):
            with self.subTest(kind=kind, raw=raw), self.assertRaises(Refused) as told:
                body = clean_body(kind, raw)
                if kind == "note" and not body.get("text"):
                    raise Refused("empty", "text")
            self.assertEqual(told.exception.field, field)

    def test_every_kind_has_words(self) -> None:
        samples = [
            test_entry(ammonia="0", ph="7.4", temp="25", kh="5", salinity="12"),
            entry("dose", mg_n=60.0, typed="60 mg"),
            entry("feed", grams=0.2),
            entry("feed"),
            entry("change", litres=30.0, fraction=0.27),
            entry("topoff", litres=2.0),
            entry("conditioner", ml=5.0, detoxifies=True),
            entry("bacteria", source="borrowed", share=20),
            entry("media", how="tap", share=50),
            entry("bed", share=40),
            entry("power", hours=6.0, where="open"),
            entry("arrival", species="kuhli_loach", count=6),
            entry("death", species="guppy", count=1, body="found"),
            entry("birth", species="guppy", count=12),
            entry("given", species="guppy", count=4, to="a neighbour"),
            entry("moved", species="guppy", count=4, to="Hall 96"),
            entry("count", species="guppy", count=7),
            entry("quarantine", species="guppy", count=7, until="2026-12-01"),
            entry("observation", signs=["gasping"], text="at dawn"),
            entry("note", text="hello"),
            entry("rock", kg=8.0, condition="shipped"),
            entry("off", device="uv", until="2026-12-01"),
            entry("on", device="uv"),
            entry("check", check="lid", title="Lid", fault=True, text="a gap"),
            entry("step", step="fill", title="Fill", amount="100 L"),
            entry("job", job="feed", how="snoozed", title="Feed", until="2026-12-01", text="away"),
        ]
        told = {words(e, REFERENCE.species, Units()) for e in samples}
        self.assertEqual(len(told), len(samples))
        self.assertIn("6 kuhli loaches", told)
        self.assertTrue({e.kind for e in samples} == set(KINDS))
