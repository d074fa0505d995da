"""Alkalinity that is low while a tank cycles: how soon this keeper puts it right, as the log tells."""

import unittest
from dataclasses import replace
from datetime import timedelta

import numpy as np

from jarbloom.core.bloom.drivers import drivers, step_of
from jarbloom.core.bloom.ensemble import known_by, prepare, project
from jarbloom.core.bloom.forecast import course_of, forecast, gate_of
from jarbloom.core.bloom.mending import ALK_KEPT, Habit, habit_of, mend
from jarbloom.core.bloom.plans import school_plan, usual_plan, with_entries
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from tests.make import FEW, NOW, REFERENCE, entry, numbered, tank, test_entry

SOFT = tank(kh_dkh=4.0, ph=7.2)
# A cycle whose doses use up the KH
DOSES = tuple(entry("dose", d, mg_n=216.0) for d in (30, 24, 20, 17, 14, 12, 6, 4, 2))
TESTS = tuple(test_entry(d - 0.2, ammonia="0", nitrite="0.5") for d in (20, 17, 14, 12, 6, 4))
LOW, FINE = "1.5", "4"


class FromTheLog(unittest.TestCase):
    def habit(self, *entries) -> Habit:
        return habit_of(known_by(numbered(*entries), NOW), SOFT, NOW)

    def test_what_counts_as_low_and_as_put_right(self) -> None:
        low, change = test_entry(10, kh=LOW), entry("change", 8, litres=50.0)
        rows = (
            ((), 0, 0.0),
            ((test_entry(10, kh=FINE),), 0, 0.0),
            ((low,), 0, 10.0),
            ((low, test_entry(6, kh="1")), 0, 10.0),  # still low: one stretch
            ((low, change), 1, 2.0),
            ((low, entry("buffer", 9, grams=5.0)), 1, 1.0),
            ((low, entry("change", 8, litres=8.0)), 0, 10.0),  # too little to raise it
            ((low, test_entry(7, kh=FINE)), 1, 3.0),  # done and not logged
            ((change, test_entry(5, kh=LOW)), 0, 5.0),  # what was changed before counts for nothing
            ((low, change, test_entry(5, kh=LOW), entry("buffer", 4.5, grams=5.0)), 2, 2.5),
            ((test_entry(10, ph="6.2"),), 0, 10.0),  # acid water of which KH was never read
            ((test_entry(10, ph="6.2", kh=FINE),), 0, 0.0),
            ((low, test_entry(6, ph="7.0")), 0, 10.0),  # a pH alone does not say that KH is back
        )
        for entries, mended, days in rows:
            with self.subTest([f"{e.kind} {e.at:%d}" for e in entries]):
                found = self.habit(*entries)
                self.assertEqual(found.mended, mended)
                self.assertAlmostEqual(found.days_low, days, places=3)

    def test_acid_water_of_the_tanks_own_is_no_neglect(self) -> None:
        found = habit_of(known_by(numbered(test_entry(10, ph="6.2")), NOW), tank(ph=6.2, kh_dkh=1.0), NOW)
        self.assertTrue(found.unknown)

    def test_the_chance_follows_the_record(self) -> None:
        """Mean of the Beta: (2 + mended) / (6 + mended + days left low)."""
        for habit, mean in ((Habit(0, 0.0), 1 / 3), (Habit(4, 4.0), 6 / 14), (Habit(0, 45.0), 2 / 51)):
            with self.subTest(habit):
                chances = np.array(habit.chances(20_000, 1))
                self.assertAlmostEqual(float(chances.mean()), mean, delta=0.01)
        unknown = np.array(Habit(0, 0.0).chances(20_000, 1))
        self.assertAlmostEqual(float(((1 - unknown) ** 10).mean()), 0.10, delta=0.02)
        self.assertLess(float(((1 - unknown) ** 30).mean()), 0.025)


class InTheWater(unittest.TestCase):
    def test_only_what_is_low_is_brought_to_the_tanks_own(self) -> None:
        alk = np.array([0.1, 0.9, 1.1, 2.0])
        np.testing.assert_allclose(mend(alk, 2.0, np.ones(4), 1), [2.0, 2.0, 1.1, 2.0])
        np.testing.assert_allclose(mend(alk, 2.0, np.zeros(4), 1), alk)
        low, half = np.full(4000, 0.5), np.full(4000, 0.5)
        does = mend(low, 2.0, half, 7)
        self.assertAlmostEqual(float((does > 1).mean()), 0.5, delta=0.03)
        np.testing.assert_array_equal(does, mend(low, 2.0, half, 7))  # the same in every plan
        self.assertTrue((does != mend(low, 2.0, half, 8)).any())

    def test_it_falls_as_it_is_spent_and_comes_back(self) -> None:
        log = numbered(*DOSES, *TESTS, test_entry(0.5, ammonia="0", nitrite="0", kh=FINE))
        made = prepare(SOFT, log, NOW, REFERENCE, FEW)
        home, plan = SOFT.kh_dkh * MEQ_PER_DKH, school_plan(made)
        ways = {"mended": plan, "left": replace(plan, mends=(0.0,) * FEW.members),
                "kept": replace(plan, animals_from=NOW.date())}  # fmt: skip
        ends = {name: project(made, way, 20).path.end.alk for name, way in ways.items()}
        self.assertGreaterEqual(ends["kept"].min(), ALK_KEPT * home - 1e-9)
        self.assertLess(np.median(ends["left"]), 0.2 * home)
        self.assertGreater(np.quantile(ends["mended"], 0.75), ALK_KEPT * home)
        self.assertLess(np.quantile(ends["mended"], 0.1), ALK_KEPT * home)

    def test_before_animals_come_it_may_be_put_right(self) -> None:
        made = prepare(SOFT, numbered(*DOSES, test_entry(12, kh=LOW)), NOW, REFERENCE, FEW)
        day = NOW.date() + timedelta(days=6)
        plan = usual_plan(made, [Batch(1, "one", day, (Animals("guppy", 3),))])
        drv = drivers(SOFT, made.entries, REFERENCE.species, NOW, NOW + timedelta(days=12), 0.25, plan, NOW)
        days = {int(x) for x in drv.mend if x}
        self.assertEqual(days, {NOW.date().toordinal() + k for k in range(1, 6)})  # today nobody has yet
        first_step = step_of(NOW.replace(hour=0, minute=0) + timedelta(days=6), NOW, 0.25)
        self.assertEqual(drv.kept_from, first_step)  # who has animals does the jobs
        alone = drivers(
            SOFT, made.entries, REFERENCE.species, NOW, NOW + timedelta(days=12), 0.25, school_plan(made), NOW
        )
        self.assertIsNone(alone.kept_from)
        tried = with_entries(school_plan(made), numbered(entry("arrival", -6, species="guppy", count=3)))
        self.assertEqual(tried.animals_from, day)  # so it is where a what-if has them come
        what_if = drivers(SOFT, made.entries, REFERENCE.species, NOW, NOW + timedelta(days=12), 0.25, tried, NOW)
        self.assertEqual(what_if.kept_from, first_step)

    def test_until_animals_come_a_plan_with_them_is_the_cycle_by_itself(self) -> None:
        """The chart is of the one, the date of the other: one question, one answer."""
        made = prepare(SOFT, numbered(*DOSES, *TESTS, test_entry(12, kh=LOW)), NOW, REFERENCE, FEW)
        batch = Batch(1, "one", NOW.date() + timedelta(days=6), (Animals("guppy", 3),))
        alone, planned = project(made, school_plan(made)), project(made, usual_plan(made, [batch]))
        comes = alone.index(NOW.replace(hour=0, minute=0) + timedelta(days=6))
        for name in ("a", "b", "tan", "no2", "ph"):
            before, after = (np.array(getattr(p.path, name)) for p in (alone, planned))
            np.testing.assert_array_equal(before[:comes], after[:comes])
            self.assertTrue((before[comes + 8 :] != after[comes + 8 :]).any(), name)

    def test_dates_follow_the_keeper_and_today_does_not(self) -> None:
        """KH at 0.5: put right twice before, nothing known, and left so for four weeks."""
        now = test_entry(0.3, ammonia="0", nitrite="1", kh="0.5", ph="6.1")
        logs = {
            "does": (test_entry(25, kh=LOW), entry("buffer", 24.8, grams=9.0), test_entry(12, kh=LOW),
                     entry("buffer", 11.8, grams=9.0)),
            "unknown": (),
            "leaves": (test_entry(28, kh=LOW), test_entry(12, kh="1")),
        }  # fmt: skip
        made = {
            name: forecast(SOFT, numbered(*DOSES, *TESTS, *more, now), NOW, REFERENCE, (), replace(FEW, members=200))
            for name, more in logs.items()
        }
        in_time = {name: f.readiness.in_time for name, f in made.items()}
        self.assertGreater(in_time["does"], in_time["leaves"] + 0.15)
        self.assertGreater(in_time["unknown"], in_time["leaves"] + 0.15)
        # Nobody has done it today: what is ready today does not hang on it
        ensemble = prepare(SOFT, numbered(*DOSES, *TESTS, *logs["does"], now), NOW, REFERENCE, FEW)
        plan, today = school_plan(ensemble), len(ensemble.noons)
        passed, unmended = (
            gate_of(ensemble, course_of(ensemble, project(ensemble, p))) for p in (plan, replace(plan, mends=()))
        )
        np.testing.assert_array_equal(passed[today], unmended[today])
        self.assertGreater(passed.any(axis=0).sum(), unmended.any(axis=0).sum())


if __name__ == "__main__":
    unittest.main()
