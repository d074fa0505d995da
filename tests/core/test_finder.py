"""The finder: names with slips, conditions in words, stances, room in the bloom, and what a choice locks out."""

from __future__ import annotations

import doctest
import unittest
from dataclasses import replace
from datetime import date

from jarbloom.core.animals import finder as f
from jarbloom.core.animals.bioload import one_load
from jarbloom.core.animals.company import Case
from jarbloom.core.animals.compatibility import case_of
from jarbloom.core.model.species import Animals
from jarbloom.units import Units
from tests.core.test_animals import TODAY, home
from tests.make import REFERENCE

SPECIES = REFERENCE.species
RASBORAS = Animals("harlequin_rasbora", 8, 3.0, TODAY)


def case(*animals: Animals, **changes: object) -> Case:
    return case_of(home(**changes), animals, SPECIES, TODAY, Units())


def ask(text: str, **changes: object) -> f.Ask:
    return replace(f.read_ask(text, SPECIES, (18.0, 24.0)), **changes)


def names(asked: f.Ask, here: Case | None = None, room: float = 12.0) -> list[str]:
    return [a.kind.name for a in f.find(asked, here or case(RASBORAS), SPECIES, room)]


class PlainWords(unittest.TestCase):
    def test_what_people_look_for(self) -> None:
        rows = (
            (
                "peaceful bottom fish",
                {"panda corydoras", "kuhli loach"},
                {"red-tailed shark", "neon tetra", "nerite snail"},
            ),
            ("small shrimp", {"cherry shrimp"}, {"vampire shrimp", "ember tetra"}),
            ("cleans algae", {"nerite snail", "otocinclus", "amano shrimp"}, {"neon tetra", "oscar"}),
            ("algae eater", {"otocinclus"}, {"guppy"}),
            ("for soft water", {"neon tetra", "chili rasbora"}, {"guppy", "molly", "yellow lab"}),
            ("hard water fish", {"guppy", "molly"}, {"chili rasbora", "discus"}),
            ("centrepiece", {"honey gourami", "ram"}, {"neon tetra", "bristlenose pleco"}),
            ("mollies", {"molly", "sailfin molly"}, {"guppy"}),
            ("goldfish", {"common goldfish"}, {"gold barb"}),
            ("an easy shoaling fish for my tank", {"zebra danio"}, {"betta", "discus"}),
            ("tiny and peaceful", {"ember tetra"}, {"kuhli loach", "oscar"}),
            ("shrimp-safe fish", {"otocinclus"}, {"angelfish", "oscar"}),
            ("snails", {"nerite snail"}, {"assassin"}),
        )
        for text, wanted, unwanted in rows:
            with self.subTest(text=text):
                found = set(names(ask(text)))
                self.assertLessEqual(wanted, found)
                self.assertFalse(found & unwanted)

    def test_a_name_is_never_taken_for_a_trait(self) -> None:
        for text in ("big", "tiger barb", "small-scaled rasbora", "peacock cichlid", "hardy"):
            with self.subTest(text=text):
                asked = f.read_ask(text, SPECIES, (18.0, 24.0))
                self.assertEqual(bool(asked.traits), text in ("big", "hardy"))

    def test_what_fits_comes_before_the_alphabet(self) -> None:
        found = f.find(ask("peaceful bottom fish"), case(RASBORAS), SPECIES, 12.0)
        ranks = [f.STANCES.index(a.stance) for a in found]
        self.assertEqual(ranks, sorted(ranks))
        self.assertNotEqual([a.kind.name for a in found], sorted(a.kind.name for a in found))


class Names(unittest.TestCase):
    def test_doctests(self) -> None:
        self.assertEqual(doctest.testmod(f).failed, 0)

    def test_slips_of_the_finger_both_names_and_parts(self) -> None:
        for typed, first in {"gupy": "guppy", "neon tetra": "neon tetra", "paracheirodon innesi": "neon tetra",
                             "otocinculus": "otocinclus", "Kuhli loch": "kuhli loach", "betta": "fighting fish",
                             "cherry shrimp": "cherry shrimp", "glass catfish": "glass catfish"}.items():  # fmt: skip
            with self.subTest(typed=typed):
                self.assertEqual(names(ask(typed))[0], first)
        self.assertEqual(names(ask("qqqqqq")), [])

    def test_conditions_in_words(self) -> None:
        asked = ask("bottom under 5 cm no heater fits")
        self.assertEqual(
            (asked.text, asked.zone, asked.largest_cm, asked.room_c, asked.fits),
            ("", "bottom", 5.0, (18.0, 24.0), True),
        )
        for a in f.find(asked, case(RASBORAS), SPECIES, 12.0):
            self.assertEqual(a.kind.zone, "bottom")
            self.assertLessEqual(a.kind.adult_cm, 5)
            self.assertLessEqual(a.kind.temp_low, 18)
            self.assertGreaterEqual(a.kind.temp_high, 24)
            self.assertIn(a.stance, ("fits", "with care"))
        self.assertAlmostEqual(f.read_ask("under 2 in", SPECIES, (18.0, 24.0)).largest_cm or 0, 5.08)
        self.assertAlmostEqual(f.read_ask("under 2", SPECIES, (18.0, 24.0), inches=True).largest_cm or 0, 5.08)


class Stances(unittest.TestCase):
    def stance(self, key: str, here: Case) -> str:
        return f.judge(SPECIES[key], here, 12.0).stance

    def test_each_stance(self) -> None:
        self.assertEqual(self.stance("ember_tetra", case()), "fits")
        self.assertEqual(self.stance("ocellaris_clownfish", case()), "not here")
        self.assertEqual(self.stance("otocinclus", case(started=TODAY)), "not yet")
        self.assertEqual(self.stance("oscar", case()), "not here")
        large = case(Animals("neon_tetra", 10, 2.0, TODAY), litres=400.0, length_cm=150.0, width_cm=60.0)
        self.assertEqual(self.stance("angelfish", large), "not for life")

    def test_the_order_is_by_stance_when_no_name_is_typed(self) -> None:
        order = [f.STANCES.index(a.stance) for a in f.find(f.FinderQuery(water="fresh"), case(RASBORAS), SPECIES, 12.0)]
        self.assertEqual(order, sorted(order))


class Room(unittest.TestCase):
    def test_room_is_what_grown_animals_put_out(self) -> None:
        kind = SPECIES["neon_tetra"]
        one = one_load(kind, kind.adult_cm, home().temp_c).total
        self.assertEqual(f.room_for(kind, case(), 7.5 * one), 7)
        self.assertEqual(f.room_for(kind, case(), 0.0), 0)

    def test_a_group_counts_those_who_are_there(self) -> None:
        kind = SPECIES["harlequin_rasbora"]
        answer = f.judge(kind, case(replace(RASBORAS, count=kind.group_min - 2)), 100.0)
        self.assertEqual(answer.least, 2)
        self.assertTrue(answer.group_now)
        self.assertFalse(f.judge(kind, case(), 0.0).group_now)


class LockedOut(unittest.TestCase):
    def test_what_is_lost_was_possible_and_is_not_any_more(self) -> None:
        here = case(RASBORAS, litres=400.0, length_cm=150.0, width_cm=60.0)
        lost = {k.key for k in f.locked_out(SPECIES["angelfish"], here, SPECIES)}
        self.assertIn("neon_tetra", lost)
        self.assertNotIn("harlequin_rasbora", lost)
        for key in sorted(lost)[:5]:
            self.assertIn(f.judge(SPECIES[key], here, 0.0).stance, ("fits", "with care"))
            with_it = case_of(here.home, [RASBORAS, Animals("angelfish", 4, 4.0, TODAY)], SPECIES, TODAY, Units())
            self.assertIn(f.judge(SPECIES[key], with_it, 0.0).stance, ("not here", "not for life"))
        self.assertLess(len(f.locked_out(SPECIES["ramshorn_snail"], here, SPECIES)), len(lost) / 2)

    def test_the_seller_is_asked_for_sexes_and_where_they_come_from(self) -> None:
        asked = " ".join(f.ask_the_seller(SPECIES["betta"]))
        self.assertIn("one male alone", asked)
        self.assertIn("tank-bred", asked)


class Growing(unittest.TestCase):
    def test_animals_without_a_date_grow_from_today(self) -> None:
        angel = case(Animals("angelfish", 4)).members[0]
        self.assertEqual(angel.length(TODAY), SPECIES["angelfish"].shop_cm)
        self.assertGreater(angel.length(date(TODAY.year + 2, 1, 1)), 10)
