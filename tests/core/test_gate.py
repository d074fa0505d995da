"""The gate as one table: every check with what just passes and what just fails, and what counts as clean."""

import unittest
from dataclasses import replace
from types import SimpleNamespace
from typing import Any

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.animals.swallowing import swallows
from jarbloom.core.bloom.outlook import BatchOutlook
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.clean import clean_edge_mg_n_l, is_clean, reading_is_clean, too_coarse
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.proof import prove
from jarbloom.core.journal.readings import read
from jarbloom.core.model.kit import USUAL_KITS, Kit, Scale
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.check import Check
from jarbloom.core.stocking.gate import gate, of_the_tank
from jarbloom.core.stocking.pace import pace_days
from jarbloom.core.upset.levels import episode
from jarbloom.core.water.ammonia import Limits
from jarbloom.units import Units
from tests.core.test_advice import look
from tests.make import NOW, REFERENCE, entry, numbered, tank, test_entry

ION = Kit(nitrite=Scale((0, 0.5, 1, 2), "NO2"))
COARSE = Kit(nitrite=Scale((0, 1, 5, 10)))
FISH = entry("arrival", 40, species="guppy", count=6)
CLEAN = test_entry(0.1, ammonia="0", nitrite="0")


class Clean(unittest.TestCase):
    def test_the_upper_edge_lies_within_the_kits_lowest_step(self) -> None:
        rows = (
            ("ammonia", "0", Kit(), True),
            ("ammonia", "<2", Kit(), False),
            ("ammonia", "0-2", Kit(), False),
            ("ammonia", "0-0.25", Kit(), False),
            ("ammonia", "<0.25", Kit(), False),
            ("ammonia", "<0.1", Kit(), True),
            ("ammonia", "0.1", Kit(), False),  # between two steps: the colour was not the lowest
            ("ammonia", "0.25", Kit(), False),
            ("ammonia", ">8", Kit(), False),
            ("nitrite", "0.5", ION, False),  # 0.152 mg N/L, and yet a step above the lowest
            ("nitrite", "0", ION, True),
            ("nitrite", "0", COARSE, False),
            ("ammonia", "0", Kit(kind="photometer"), True),
            ("ammonia", "0.1", Kit(kind="photometer"), False),
            ("nitrite", "0", USUAL_KITS["photometer"], True),
            ("nitrite", "0.05", USUAL_KITS["photometer"], True),
            ("nitrite", "0.08", USUAL_KITS["photometer"], False),
            ("ammonia", "0.02", USUAL_KITS["photometer"], True),
        )
        for quantity, typed, kit, clean in rows:
            with self.subTest(typed=typed, kit=kit.kind, quantity=quantity):
                self.assertEqual(reading_is_clean(read(quantity, typed, kit), kit), clean)

    def test_edges_in_nitrogen(self) -> None:
        self.assertAlmostEqual(clean_edge_mg_n_l(Kit(), "ammonia"), 0.125)
        self.assertAlmostEqual(clean_edge_mg_n_l(ION, "nitrite"), 0.25 * 14.007 / 46.005)
        self.assertEqual((too_coarse(COARSE, "nitrite"), too_coarse(Kit(), "nitrite")), (True, False))

    def test_both_are_needed_and_a_masked_one_is_none(self) -> None:
        rows = (({"ammonia": "0", "nitrite": "0"}, True), ({"ammonia": "0", "nitrite": "<2"}, False),
                ({"ammonia": "0"}, None), ({"ammonia": "0 masked", "nitrite": "0"}, None))  # fmt: skip
        for typed, clean in rows:
            with self.subTest(typed=typed):
                self.assertIs(is_clean(test_entry(**typed).readings, Kit()), clean)

    def test_one_notion_for_proof_upset_gate_and_jobs(self) -> None:
        """A reading of '<2' is clean for none of them."""
        for typed, clean in (("0", True), ("<2", False), ("0-2", False)):
            with self.subTest(typed=typed):
                dose = entry("dose", 1.5, mg_n=216.16)
                log = numbered(dose, test_entry(0.6, ammonia=typed, nitrite="0"))
                requirement = REFERENCE.schools.cycling["measured_dose"].gate[0]
                self.assertEqual(prove(tank(), log, requirement, NOW).done, float(clean))
                spike = test_entry(1.2, ammonia="4", nitrite="0", ph="7.8")
                upset = episode(tank(), numbered(FISH, spike, test_entry(0, ammonia=typed, nitrite="0")), Limits())
                assert upset is not None
                self.assertEqual(upset.clean_days, int(clean))
                self.assertEqual(passed(numbered(FISH, test_entry(0.1, ammonia=typed, nitrite="0")), "fresh_ammonia"),
                                 clean)  # fmt: skip
                self.assertEqual("dose" in {j.kind for j in jobs(look(tank(), log))}, clean)

    def test_a_kit_that_cannot_show_clean_water_is_named(self) -> None:
        coarse = tank(kit=COARSE)
        checks = by_key(coarse, numbered(FISH, test_entry(0.1, on=coarse, ammonia="0", nitrite="0")))
        self.assertEqual(checks["fresh_nitrite"].missing, "a finer nitrite kit")


def by_key(t: Any, log: Any, sensitive: bool = False) -> dict[str, Check]:
    living = stock(log, NOW.date())
    return {c.key: c for c in of_the_tank(t, log, living, REFERENCE, NOW, sensitive)}


def passed(log: Any, key: str, sensitive: bool = False, **changes: Any) -> bool:
    """A check that is not asked at all keeps nothing shut."""
    found = by_key(tank(**changes), log, sensitive).get(key)
    return found is None or found.passed


class Table(unittest.TestCase):
    def test_of_the_tank(self) -> None:
        def came(days: float) -> list:
            return numbered(FISH, entry("arrival", days, species="guppy", count=2), CLEAN)

        def tested(hours: float, **typed: str) -> list:
            return numbered(FISH, test_entry(hours / 24, **({"ammonia": "0", "nitrite": "0"} | typed)))

        rows = (  # check, what just passes, what just fails, and for whom
            ("fresh_ammonia", tested(47.9), tested(48.1), {}),
            ("fresh_nitrite", tested(47.9), tested(48.1), {}),
            ("fresh_nitrite", tested(1), tested(1, nitrite="0.25"), {}),
            ("pace", came(14), came(13), {"pace": "belt_and_braces"}),
            ("pace", came(21), came(20), {"pace": "belt_and_braces", "sensitive": True}),
            ("pace", came(10), came(9), {"pace": "calendar"}),
            ("pace", came(21), came(20), {"pace": "calendar", "sensitive": True}),
            ("pace", came(2), came(1), {"pace": "test_led"}),
        )
        for key, passes, fails, more in rows:
            with self.subTest(check=key, more=more):
                self.assertTrue(passed(passes, key, **more))
                self.assertFalse(passed(fails, key, **more))

    def test_what_came_after_the_last_test_was_not_in_it(self) -> None:
        """Doses, new water with ammonia and rock that dies off; what came before the test was."""

        def missing(*more) -> set[str]:
            checks = of_the_tank(tank(), numbered(*more), (), REFERENCE, NOW)
            return {c.key for c in checks if not c.passed and c.key in ("since_test", "rock")}

        dose, rock = {"amount": 2.0, "unit": "mg/L", "mg_n": 216.0}, {"kg": 4.0}
        tests = [test_entry(d, ammonia="0", nitrite="0") for d in (1.9, 0.9, 0.1)]
        rows = (
            ((entry("dose", 1, **dose), CLEAN), set()), ((CLEAN, entry("dose", 0.05, **dose)), {"since_test"}),
            ((CLEAN, entry("change", 0.05, litres=50.0, source_ammonia=1.0)), {"since_test"}),
            ((CLEAN, entry("change", 0.05, litres=50.0)), set()),
            ((CLEAN, entry("rock", 0.05, **rock)), {"rock"}), ((entry("rock", 1.5, **rock), *tests[1:]), {"rock"}),
            ((CLEAN, entry("rock", 0.05, condition="fresh", **rock)), set()),
            ((entry("rock", 3, **rock), *tests), set()), ((entry("rock", 15, **rock), CLEAN), set()),
        )  # fmt: skip
        for log, wanted in rows:
            with self.subTest(log=[e.body.key for e in log]):
                self.assertEqual(missing(*log), wanted)

    def test_the_day_of_the_last_arrival_is_the_keepers(self) -> None:
        """23:30 on the 10th in Berlin is the 10th, whatever the entry's own clock said."""
        late = entry("arrival", 14, species="guppy", count=2)
        late = replace(late, at=late.at.replace(hour=0, minute=30))  # 23:30 UTC of the day before
        log = Log.of(numbered(FISH, CLEAN, late), NOW.tzinfo)
        self.assertTrue(passed(log, "pace"))
        self.assertIn("14 days ago", by_key(tank(), log)["pace"].sentence)

    def test_the_upset_has_to_be_over(self) -> None:
        spike = test_entry(3.2, ammonia="4", nitrite="0", ph="7.8")
        one, two = (test_entry(d, ammonia="0", nitrite="0") for d in (1, 0.1))
        self.assertFalse(passed(numbered(FISH, spike, two), "upset"))
        self.assertTrue(passed(numbered(FISH, spike, one, two), "upset"))
        again = test_entry(0.05, ammonia="0.5", nitrite="0")  # the day's last readings of both decide
        self.assertFalse(passed(numbered(FISH, spike, one, two, again), "upset"))

    def test_the_proof_of_every_school(self) -> None:
        def doses(*hours: float) -> list:
            log = []
            for k, h in enumerate(hours):
                given = 10.0 - 2 * k
                log += [entry("dose", given, mg_n=216.16), test_entry(given - h / 24, ammonia="0", nitrite="0")]
            return numbered(*log)

        def clean(first: float, *, fed: bool = True, log: tuple = ()) -> list:
            pinches = [entry("feed", d + 0.5, grams=0.2) for d in range(0, 9, 2)] if fed else []
            tests = [test_entry(d, ammonia="0", nitrite="0") for d in (first, 0)]
            return numbered(*pinches, *tests, *log)

        fish = (entry("arrival", 20, species="guppy", count=2),)
        rows = (  # school, requirement, what just passes, what just fails
            ("measured_dose", "clears_dose", doses(24, 24), doses(24)),
            ("measured_dose", "clears_dose", doses(26.9, 26.9), doses(24, 27.1)),
            ("borrowed_media", "clears_dose", doses(24), doses(5)),
            ("live_culture", "clears_dose", doses(24, 24), doses(24)),
            ("pinch_feeding", "clean_run", clean(3), clean(2.9)),
            ("pinch_feeding", "clean_run", clean(3), clean(3, fed=False)),
            ("fish_in_watched", "clean_run", clean(7, fed=False, log=fish), clean(6.9, fed=False, log=fish)),
            ("fish_in_small_changes", "clean_run", clean(7, fed=False, log=fish), clean(6.9, fed=False, log=fish)),
            ("living_rock", "clean_run", clean(5, fed=False), clean(4.9, fed=False)),
        )
        for school, kind, passes, fails in rows:
            with self.subTest(school=school):
                requirement = next(r for r in REFERENCE.schools.cycling[school].gate if r.kind == kind)
                self.assertTrue(prove(tank(), passes, requirement, NOW).met)
                self.assertFalse(prove(tank(), fails, requirement, NOW).met)

    def test_forecast_and_headroom(self) -> None:
        def checks(
            p: float | None, sure: float, wanted: float, grown: float, ceiling: float, pace: str = "belt_and_braces",
            first: float = 1.0, lost: bool = False, rest: float | None = None,
        ) -> dict[str, bool]:  # fmt: skip
            outlook = BatchOutlook(1, 5.0, wanted, grown, NOW.date(), p, p, NOW.date(), first, rest)
            forecast: Any = SimpleNamespace(sure=sure, ceiling=ceiling, as_of=NOW, lost=lost)
            batch = Batch(1, "Batch one", NOW.date(), (Animals("guppy", 3),))
            found = gate(tank(pace=pace), numbered(FISH, CLEAN), batch, outlook, forecast, REFERENCE, Units())
            return {c.key: c.passed for c in found.checks}

        self.assertTrue(checks(0.90, 12, 12, 12, 12)["p_safe"])
        self.assertFalse(checks(0.899, 12, 12, 12, 12)["p_safe"])
        self.assertFalse(checks(None, 12, 12, 12, 12)["p_safe"])
        self.assertTrue(checks(0.95, 12, 12, 20, 20)["headroom"])
        self.assertFalse(checks(0.95, 11.9, 12, 20, 20)["headroom"])
        self.assertFalse(checks(0.95, 12, 12, 20, 19.9)["headroom"])
        for pace in ("test_led", "calendar"):  # the bloom may grow while it is watched, as far as the filter goes
            self.assertTrue(checks(0.95, 1.0, 12, 20, 20, pace)["headroom"])
            self.assertFalse(checks(0.95, 1.0, 12, 20, 19.9, pace)["headroom"])
        self.assertNotIn("first_day", checks(0.95, 12, 12, 12, 12, first=0.98))
        self.assertFalse(checks(0.95, 12, 12, 12, 12, first=0.979)["first_day"])
        self.assertFalse(checks(0.95, 12, 12, 12, 12, "test_led", lost=True)["lost"])
        self.assertFalse(checks(0.95, 12, 12, 12, 12, "test_led", rest=0.79)["rest"])  # it would starve the bloom
        self.assertNotIn("rest", checks(0.95, 12, 12, 12, 12, "test_led", rest=0.9))
        self.assertNotIn("rest", checks(0.95, 12, 12, 12, 12, "calendar", rest=0.5))
        self.assertNotIn("lost", checks(0.95, 12, 12, 12, 12, lost=True))  # there the proof is asked, not the model

    def test_quarantine_in_days(self) -> None:
        batch = Batch(1, "Batch one", NOW.date(), (Animals("guppy", 3),))
        outlook = BatchOutlook(1, 5.0, 5, 5, NOW.date(), 1, 1, NOW.date())
        forecast: Any = SimpleNamespace(sure=50, ceiling=50, as_of=NOW, lost=False)
        for days, asked, ok in ((21, None, True), (20, None, False), (14, 14, True), (13, 14, False)):
            with self.subTest(days=days, asked=asked):
                stay = entry("quarantine", days, species="guppy", count=3, until="2026-12-01", batch=1)
                t = tank(quarantine="always", quarantine_days=asked)
                found = gate(t, numbered(FISH, CLEAN, stay), batch, outlook, forecast, REFERENCE, Units())
                self.assertEqual(next(c for c in found.checks if c.key == "quarantine").passed, ok)


class Prey(unittest.TestCase):
    """A mouth takes what fits its gape and is not too long."""

    def test_reach(self) -> None:
        eater = replace(REFERENCE.species["angelfish"], mouth_ratio=0.3)  # 0.2 + 0.3 of 10 cm
        prey = replace(REFERENCE.species["neon_tetra"], body="eel")  # thin enough
        self.assertTrue(swallows(eater, 10.0, prey, 4.95))
        self.assertFalse(swallows(eater, 10.0, prey, 5.05))

    def test_depth_by_body_form(self) -> None:
        printed = {"eel": 0.07, "elongated": 0.18, "torpedo": 0.24, "deep": 0.42, "crab": 0.6, "star": 0.5}
        for body, depth in printed.items():
            with self.subTest(body=body):
                eater = replace(REFERENCE.species["angelfish"], mouth_ratio=0.01)  # a gape of 1 mm at 10 cm
                prey = replace(REFERENCE.species["neon_tetra"], body=body)
                self.assertTrue(swallows(eater, 10.0, prey, 0.99 * 0.1 / depth))
                self.assertFalse(swallows(eater, 10.0, prey, 1.01 * 0.1 / depth))


class Schools(unittest.TestCase):
    """The numbers as they are printed in docs/schools.md."""

    def test_cycling(self) -> None:
        printed = {  # kind, times, within hours, days, while feeding; tests every so many days, near the end
            "measured_dose": ("clears_dose", 2, 24.0, 0.0, False, 2, 1),
            "pinch_feeding": ("clean_run", 1, 24.0, 3.0, True, 4.5, 2),
            "borrowed_media": ("clears_dose", 1, 24.0, 0.0, False, 1, 1),
            "live_culture": ("clears_dose", 2, 24.0, 0.0, False, 1, 1),
            "fish_in_watched": ("clean_run", 1, 24.0, 7.0, True, 1, 1),
            "fish_in_small_changes": ("clean_run", 1, 24.0, 7.0, True, 2, 2),
            "living_rock": ("clean_run", 1, 24.0, 5.0, False, 2, 2),
        }
        self.assertEqual(set(printed), set(REFERENCE.schools.cycling))
        for key, wanted in printed.items():
            with self.subTest(school=key):
                school = REFERENCE.schools.cycling[key]
                g = school.gate[0]
                told = (g.kind, g.times, g.within_h, g.days, g.while_feeding)
                self.assertEqual((*told, school.rhythm_days, school.rhythm_near_end_days), wanted)
        rock = REFERENCE.schools.cycling["living_rock"].gate[1]
        self.assertEqual((rock.kind, rock.times, rock.within_h), ("clears_dose", 1, 24.0))
        small = REFERENCE.schools.cycling["fish_in_small_changes"]
        self.assertEqual((small.change_share, small.change_every_days), (0.125, 1.5))

    def test_the_other_topics(self) -> None:
        s = REFERENCE.schools
        days = {k: (pace_days(tank(pace=k), s, False), pace_days(tank(pace=k), s, True)) for k in s.pace}
        self.assertEqual(days, {"calendar": (10, 21), "test_led": (2, 2), "belt_and_braces": (14, 21)})
        self.assertEqual({k: (v.max_fraction, v.interval_h) for k, v in s.corrective.items()},
                         {"gentle": (0.3, 8), "firm": (0.5, 12), "strong": (0.75, 12)})  # fmt: skip
        self.assertEqual({k: (v.low, v.high) for k, v in s.turnover.items()},
                         {"gentle": (3, 5), "general": (5, 8), "brisk": (8, 12)})  # fmt: skip
        self.assertEqual({k: v.days for k, v in s.quarantine.items()}, {"always": 21, "in_place": 0})
        self.assertEqual({k: v.factor for k, v in s.marine_nitrite.items()}, {"strict": 1, "tolerated": 10})
