"""These animals: which tank? Names read, sizes judged by both schools, and what a usual tank comes with."""

import unittest
from datetime import date

from jarbloom.core.animals.serving import SIZES
from jarbloom.core.model.species import Animals
from jarbloom.core.setup.which_tank import of_size, read_wishes, water_for, which_tank, with_usual_equipment
from jarbloom.core.vessel.volume import net_l
from jarbloom.units import Units
from tests.make import REFERENCE

SPECIES, TODAY = REFERENCE.species, date(2026, 11, 24)


def asked(text: str):
    return which_tank(read_wishes(text, SPECIES).animals, SPECIES, TODAY, Units())


class Wishes(unittest.TestCase):
    def test_as_people_write_them(self) -> None:
        rows = (
            (
                "8 harlequin rasboras, 6 kuhli loaches and 2 honey gouramis",
                {"harlequin_rasbora": 8, "kuhli_loach": 6, "honey_gourami": 2},
            ),
            ("six neon tetra & a betta", {"neon_tetra": 6, "betta": 1}),
            ("a pair of ocellaris clownfish + yellow tang", {"ocellaris_clownfish": 2, "yellow_tang": 1}),
            ("4x panda corydoras\n2 x panda corydoras", {"panda_corydoras": 6}),
            ("Neon Tetras", {"neon_tetra": SPECIES["neon_tetra"].group_min}),  # no number: its smallest group
            ("100000 guppies", {"guppy": 500}),
            ("١٢ guppy", {"guppy": 12}),  # digits of other alphabets
        )
        for text, wanted in rows:
            with self.subTest(text=text):
                found = read_wishes(text, SPECIES)
                self.assertEqual({a.species: a.count for a in found.animals}, wanted)
                self.assertEqual(found.open, ())

    def test_a_kind_of_the_family_asks_which(self) -> None:
        for text, count, among in (
            ("3 shrimp", 3, "cherry_shrimp"),
            ("1 pleco", 1, "bristlenose"),
            ("rasboras", 0, "harlequin_rasbora"),
        ):
            with self.subTest(text=text):
                found = read_wishes(text, SPECIES)
                self.assertEqual(found.animals, ())
                self.assertEqual(found.open[0].count, count)
                self.assertIn(among, found.open[0].meant)

    def test_what_nobody_knows_is_asked_and_nothing_breaks(self) -> None:
        for text in ("", " , ,", "2 wyverns", "🐟 🐟", "and and", "-3 guppies", "x" * 5000):
            with self.subTest(text=text[:20]):
                self.assertEqual(read_wishes(text, SPECIES).animals, ())


class Sizes(unittest.TestCase):
    def test_the_smallest_that_serves_keeps_every_minimum(self) -> None:
        for text in (
            "8 harlequin rasboras, 6 kuhli loaches, 2 honey gouramis",
            "oscar",
            "yellow tang",
            "10 guppies",
            "2 ocellaris clownfish",
        ):
            with self.subTest(text=text):
                found, animals = asked(text), read_wishes(text, SPECIES).animals
                best, bold = found.first_cautious, found.first_experienced
                for a in animals:
                    kind = SPECIES[a.species]
                    self.assertGreaterEqual(best.litres, 0.95 * kind.min_l_cautious)
                    self.assertGreaterEqual(best.tank.length_cm, 0.95 * kind.min_length_cm)
                    self.assertGreaterEqual(bold.litres, 0.95 * kind.min_l_experienced)
                self.assertLessEqual(bold.litres, best.litres)  # practised hands never need more

    def test_once_it_serves_every_larger_one_does(self) -> None:
        order = ("small", "tight", "serves")
        for text in ("8 harlequin rasboras, 6 kuhli loaches", "oscar", "6 discus", "3 zebra mbuna"):
            with self.subTest(text=text):
                for school in ("cautious", "experienced"):
                    got = [order.index(getattr(s, school)) for s in asked(text).sizes]
                    self.assertEqual(got, sorted(got))

    def test_what_no_size_mends_is_said_apart(self) -> None:
        found = asked("1 oscar, 10 neon tetras")
        self.assertTrue(any("neon_tetra" in f.species for f in found.anywhere))
        self.assertIsNotNone(found.first_cautious)  # of the size itself nothing is left to say

    def test_too_many_of_a_small_kind_are_too_full(self) -> None:
        few, many = asked("10 guppies").first_cautious, asked("120 guppies").first_cautious
        self.assertGreater(many.litres, 2.5 * few.litres)

    def test_water_suits_all_of_them_where_one_does(self) -> None:
        animals = (Animals("neon_tetra", 10), Animals("panda_corydoras", 6))
        temp, ph, salt = water_for(animals, SPECIES)
        for a in animals:
            kind = SPECIES[a.species]
            self.assertTrue(kind.temp_low <= temp <= kind.temp_high)
            self.assertTrue(kind.ph_low <= ph <= kind.ph_high)
        self.assertEqual(salt, 0)
        self.assertAlmostEqual(water_for((Animals("yellow_tang", 1),), SPECIES)[2], 34, delta=2)

    def test_usual_equipment_follows_the_litres(self) -> None:
        tanks = [of_size(size, (Animals("guppy", 6),), SPECIES, TODAY) for size in SIZES]
        for t in tanks:
            with self.subTest(size=t.length_cm):
                self.assertGreaterEqual(t.heater_w, min(0.99 * net_l(t), 1200))
                self.assertTrue(3 <= t.flow_l_h / net_l(t) <= 12)  # real flow, not the box's
                self.assertLess(t.filters[0].real_share, 0.7)
        self.assertEqual(sorted(t.media_l for t in tanks), [t.media_l for t in tanks])
        self.assertEqual(with_usual_equipment(tanks[0]).filters, tanks[0].filters)
