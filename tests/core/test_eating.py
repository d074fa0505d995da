"""Feeding trials: who refuses, since when, when it presses, and how a line says it."""

import unittest

from jarbloom.core.journal.eating import refusers
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.kit import Kit
from jarbloom.units import Units
from tests.make import NOW, REFERENCE, entry, numbered


def trial(days: float, taken: str, species: str = "angelfish", food: str = "flakes"):
    return entry("trial", days, species=species, count=1, taken=taken, food=food)


class Refusing(unittest.TestCase):
    def found(self, *trials):
        came = (entry("arrival", 60, species="angelfish", count=2),
                entry("arrival", 60, species="ember_tetra", count=9),
                entry("arrival", 60, species="nerite_snail", count=3))  # fmt: skip
        return refusers(Log.of(numbered(*came, *trials), NOW.tzinfo), REFERENCE.species, NOW)

    def test_since_the_first_refusal_after_it_ate(self) -> None:
        (found,) = self.found(
            trial(20, "refused"), trial(12, "eaten"), trial(8, "refused", food="pods"), trial(2, "refused")
        )
        self.assertEqual((found.days, found.foods, found.pressing), (8, ("pods", "flakes"), False))
        self.assertEqual((NOW - found.last_ate).days, 12)

    def test_a_small_fish_and_a_hard_one_press_sooner(self) -> None:
        days = {s: self.found(trial(6, "refused", s))[0].pressing for s in ("angelfish", "ember_tetra")}
        self.assertEqual(days, {"angelfish": False, "ember_tetra": True})
        self.assertTrue(self.found(trial(11, "refused"))[0].pressing)
        hard = next(k.key for k in REFERENCE.species.values() if k.refusal == "high" and k.adult_cm > 6 and k.moves)
        log = Log.of(numbered(entry("arrival", 30, species=hard, count=1), trial(4, "refused", hard)), NOW.tzinfo)
        self.assertTrue(refusers(log, REFERENCE.species, NOW)[0].pressing)

    def test_who_eats_or_is_gone_is_none(self) -> None:
        self.assertEqual(self.found(trial(8, "refused"), trial(1, "eaten")), ())
        self.assertEqual(len(self.found(trial(8, "refused"), trial(1, "some"))), 1)  # a little ends nothing
        gone = entry("given", 1, species="angelfish", count=2)
        self.assertEqual(self.found(trial(8, "refused"), gone), ())

    def test_as_a_line(self) -> None:
        setting = Setting(100.0, Kit(), Units(), REFERENCE.species, {"angelfish": 2, "honey_gourami": 2})
        for line, taken, food in (
            ("refused 1 angelfish frozen shrimp", "refused", "frozen shrimp"),
            ("ate 2 honey gouramis pellets", "eaten", "pellets"),
            ("ate 1 angelfish", "eaten", ""),
        ):  # fmt: skip
            with self.subTest(line=line):
                (body,) = parse(line, NOW, setting).bodies
                self.assertEqual((body.key, body.taken, body.food), ("trial", taken, food))
