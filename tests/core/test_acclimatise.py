"""Bag to tank: the way, its portions or drip, and the run of an arrival day."""

import unittest
from datetime import timedelta

from jarbloom.core.animals.acclimatise import (
    BEARS,
    INTERVALS,
    MOST_PORTIONS,
    OPEN_BAG_MIN,
    RISE_A_DAY_G_KG,
    Bag,
    TankWater,
    advise,
    open_at_once,
    reckoned_tan,
    share_of_tank_water,
    tolerance_of,
)
from jarbloom.core.animals.arrival import run_steps, standings
from jarbloom.core.model.species import Animals
from jarbloom.core.water.ammonia import unionised_fraction
from tests.make import NOW, REFERENCE

SPECIES = REFERENCE.species
RASBORAS = (Animals("harlequin_rasbora", 8),)
FRESH = TankWater(25.0, 7.4, 0.0, 0.0)


def advice(bag: Bag, water: TankWater = FRESH, animals=RASBORAS, discards: bool = True):
    return advise(bag, water, animals, SPECIES, discards)


class Shares(unittest.TestCase):
    def test_check_values(self) -> None:
        for portions, discards, share in (
            ([1.0], False, 0.5), ([1.0], True, 0.5), ([0.5, 0.5], False, 0.5), ([0.5, 0.5], True, 1 - 1 / 1.5**2),
            ([], False, 0.0), ([0.25] * 8, False, 2 / 3),
        ):  # fmt: skip
            with self.subTest(portions=portions, discards=discards):
                self.assertAlmostEqual(share_of_tank_water(portions, 1.0, discards), share)

    def test_pouring_off_never_leaves_less_tank_water(self) -> None:
        for n in range(1, 8):
            some = [0.3] * n
            self.assertGreaterEqual(share_of_tank_water(some, 1.0, True), share_of_tank_water(some, 1.0, False) - 1e-12)


class Ways(unittest.TestCase):
    def test_much_ammonia_and_a_low_ph_go_across_quickly(self) -> None:
        found = advice(Bag(1.0, 22.0, 6.4, None, 4.0, 30), TankWater(25.0, 7.9, 0.0, 0.0))
        self.assertEqual(found.way, "temperature")
        expected = 4.0 * (1 - share_of_tank_water([found.courses["portions"].steps[1].litres], 1.0, True))
        freed = expected * float(unionised_fraction(7.9, 25.0))
        self.assertAlmostEqual(found.courses["portions"].freed, freed)
        self.assertIn("free", found.reasons[0])
        self.assertGreater(found.courses["portions"].freed, found.courses["temperature"].freed)

    def test_the_same_ammonia_in_acid_water_does_not(self) -> None:
        self.assertNotEqual(advice(Bag(1.0, 24.0, 6.4, None, 4.0), TankWater(25.0, 6.5, 0.0, 0.0)).way, "temperature")

    def test_salt_that_differs_is_dripped(self) -> None:
        marine = TankWater(25.0, 8.2, 35.0, 0.0)
        found = advice(Bag(2.0, 25.0, 8.1, 32.5, 0.1), marine, (Animals("scarlet_hermit", 3),))
        self.assertEqual(found.way, "drip")
        self.assertIn("2.5 g/kg", found.reasons[0])
        self.assertNotIn("days", found.courses)

    def test_a_far_rise_of_salt_takes_days_whatever_else_is_in_the_bag(self) -> None:
        for bag_salt, tank_salt, days in ((20.0, 35.0, 8), (28.0, 35.0, 4), (5.0, 12.0, 4)):
            for tan in (0.1, 8.0):
                found = advice(Bag(2.0, 25.0, 7.4, bag_salt, tan), TankWater(25.0, 8.2, tank_salt, 0.0))
                steps = [s for s in found.courses["days"].steps if s.key.startswith("salt")]
                with self.subTest(bag=bag_salt, tank=tank_salt, tan=tan):
                    self.assertEqual((found.way, len(steps)), ("days", days))
                    self.assertLessEqual((tank_salt - bag_salt) / len(steps), RISE_A_DAY_G_KG + 1e-9)
                    self.assertTrue(all(s.minutes >= 24 * 60 for s in steps))
        self.assertNotEqual(advice(Bag(2.0, 25.0, 8.1, 35.0, 0.1), TankWater(25.0, 8.2, 28.0, 0.0)).way, "days")

    def test_alike_waters_take_portions(self) -> None:
        self.assertEqual(advice(Bag(1.5, 24.0, 7.3, None, 0.1)).way, "portions")

    def test_what_was_not_read_is_said(self) -> None:
        found = advice(Bag(1.0, hours=3))
        self.assertTrue(found.assumed)
        self.assertGreater(found.tan_mg_n_l, 0)
        self.assertIn("Neither pH nor salinity", " ".join(found.reasons))
        self.assertIn("not read", " ".join(found.reasons))

    def test_a_longer_way_reckons_more_ammonia(self) -> None:
        self.assertAlmostEqual(advice(Bag(1.0, hours=30)).tan_mg_n_l, 10 * advice(Bag(1.0, hours=3)).tan_mg_n_l)

    def test_no_step_of_the_portions_is_more_than_is_borne(self) -> None:
        for ph in (5.8, 6.4, 7.0, 8.2):
            for discards in (True, False):
                bag = Bag(1.2, 25.0, ph, None, 0.1)
                found = advice(bag, discards=discards)
                bears, course = tolerance_of(RASBORAS, SPECIES), found.courses["portions"]
                portions = [s for s in course.steps if s.key.startswith("portion")]
                self.assertLessEqual(len(portions), MOST_PORTIONS)
                share = 0.0
                for k, step in enumerate(portions):
                    after = share_of_tank_water([step.litres] * (k + 1), bag.litres, discards)
                    moved = abs(FRESH.ph - ph) * (after - share)
                    with self.subTest(ph=ph, discards=discards, portion=k):
                        self.assertIn(step.minutes, INTERVALS)
                        self.assertLessEqual(moved, bears.ph * step.minutes / 15 + 1e-6)
                    share = after
                self.assertLessEqual(sum(s.minutes for s in portions), OPEN_BAG_MIN)
                self.assertTrue(course.left <= 1.0 + 1e-9 or found.way == "drip")

    def test_drip_stages_halve_what_is_left_and_bear_the_rate(self) -> None:
        bag, marine = Bag(2.0, 25.0, 8.1, 28.0, 0.1), TankWater(25.0, 8.2, 35.0, 0.0)
        course = advice(bag, marine, (Animals("cleaner_shrimp", 1),)).courses["drip"]
        stages = [s for s in course.steps if s.key.startswith("drip")]
        left = 7.0
        for stage in stages:
            ml_min = stage.drops_per_s * 60 / 20
            self.assertAlmostEqual(ml_min * stage.minutes / 1000, bag.litres, places=2)
            first_quarter = left * ml_min * 15 / 1000 / bag.litres
            self.assertLessEqual(first_quarter, 1.1 * BEARS["delicate"][2])  # minutes are rounded to five
            left /= 2
        self.assertLessEqual(left, 1.01)

    def test_the_most_delicate_decides(self) -> None:
        self.assertEqual(tolerance_of((*RASBORAS, Animals("cherry_shrimp", 5)), SPECIES).of, "cherry shrimp")
        self.assertEqual(tolerance_of((Animals("zebra_danio", 8),), SPECIES).ph, BEARS["hardy"][1])

    def test_a_cold_bag_floats_longer(self) -> None:
        cold, warm = (advice(Bag(1.0, t, 7.4)).courses["temperature"].minutes for t in (18.0, 25.0))
        self.assertGreater(cold, warm)


class TheRun(unittest.TestCase):
    def setUp(self) -> None:
        self.course = advice(Bag(1.5, 24.0, 7.3, None, 0.1)).courses["portions"]
        self.keys = [s.key for s in run_steps(self.course)]

    def test_one_step_stands_at_a_time_and_waits_for_the_one_before(self) -> None:
        done = {}
        for k, key in enumerate(self.keys):
            found = standings(self.course, done)
            current = [s for s in found if s.current]
            self.assertEqual([s.step.key for s in current], [key])
            self.assertEqual(sum(s.done_at is not None for s in found), k)
            done[key] = NOW + timedelta(hours=k)
        self.assertFalse(any(s.current for s in standings(self.course, done)))

    def test_timers_count_from_the_moment_that_was_kept(self) -> None:
        done = {"lights": NOW, "float": NOW + timedelta(minutes=2)}
        portion = next(s for s in standings(self.course, done) if s.current)
        minutes = self.course.steps[0].minutes
        self.assertEqual(portion.opens, NOW + timedelta(minutes=2 + minutes))
        self.assertTrue(portion.waiting(NOW + timedelta(minutes=1 + minutes)))
        self.assertFalse(portion.waiting(NOW + timedelta(minutes=2 + minutes)))

    def test_the_first_hours_and_the_lights_count_from_the_move_across(self) -> None:
        done = dict.fromkeys(self.keys[: self.keys.index("across") + 1], NOW)
        found = {s.step.key: s for s in standings(self.course, done)}
        self.assertEqual(found["watch-15"].opens, NOW + timedelta(minutes=15))
        self.assertEqual(found["watch-180"].opens, NOW + timedelta(minutes=180))
        self.assertEqual(found["light_on"].opens.date(), NOW.date() + timedelta(days=1))

    def test_several_bags_share_a_clock_and_their_ammonia(self) -> None:
        fish = (Animals("harlequin_rasbora", 40),)
        one, ten = Bag(1.0, 24.0, 7.0, hours=10.0), Bag(1.0, 24.0, 7.0, hours=10.0, bags=10)
        self.assertAlmostEqual(
            reckoned_tan(one, fish, REFERENCE.species, 25), 10 * reckoned_tan(ten, fish, REFERENCE.species, 25)
        )
        self.assertFalse([r for r in advice(one).reasons if "bags" in r])
        many = advice(ten)
        course = many.courses[many.way]
        shortest = min(s.minutes for s in course.steps if s.litres)
        at_once = open_at_once(ten, course)
        self.assertLessEqual(at_once * 2, shortest)  # two minutes a bag
        self.assertLess(at_once, 10)
        self.assertIn("a cup, pipette or line of its own", many.reasons[-2])
        self.assertIn(f"open {at_once} at a time", many.reasons[-1])
        self.assertEqual(open_at_once(Bag(1.0, bags=10), many.courses["temperature"]), 10)  # none is opened twice


if __name__ == "__main__":
    unittest.main()
