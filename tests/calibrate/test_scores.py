"""The scores by which forecasts are judged, and the worlds that they are judged in."""

import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

import numpy as np
from scripts.calibrate import report
from scripts.calibrate.ask import AHEAD, FIXED_DAYS, extrapolated, one_tank
from scripts.calibrate.keeper import DAY_ZERO, Keeper, Lived, a_tank, at
from scripts.calibrate.score import brier, crps, flat, pit, reliability, width
from scripts.calibrate.worlds import FilmWorld, OwnWorld, PatchWorld
from scripts.follow.arms import WordForWord
from scripts.follow.spikes import Watched
from scripts.follow.stock import Life

from jarbloom.core.bloom.drivers import drivers
from jarbloom.core.bloom.parameters import PRIORS
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.readings import read
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Filter, Tank
from tests.make import FEW, REFERENCE

DOC = Path(__file__).parents[2] / "docs" / "model.md"


class Scores(unittest.TestCase):
    def test_crps_of_known_cases(self) -> None:
        self.assertEqual(crps(np.array([3.0]), 5.0), 2.0)
        self.assertAlmostEqual(crps(np.array([0.0, 2.0]), 1.0), 0.5)
        rng = np.random.default_rng(1)
        # CRPS of N(0, 1) at 0 is (sqrt 2 - 1)/sqrt pi (Gneiting & Raftery 2007, eq. 5)
        self.assertAlmostEqual(crps(rng.standard_normal(40_000), 0.0), (2**0.5 - 1) / np.pi**0.5, delta=0.005)

    def test_pit_is_flat_with_ties_and_skewed_when_biased(self) -> None:
        rng = np.random.default_rng(2)
        draw = lambda n=200: rng.integers(0, 4, n)  # noqa: E731
        fair = [pit(draw(), int(draw(1)[0]), rng) for _ in range(1500)]
        self.assertGreater(flat(fair)[1], 0.01)
        late = [pit(draw() + 1, int(draw(1)[0]), rng) for _ in range(300)]
        self.assertLess(flat(late)[1], 1e-6)

    def test_reliability_brier_and_width(self) -> None:
        bins = reliability([0.1, 0.9, 1.0, 0.5], [False, True, True, True])
        self.assertEqual([b.n for b in bins], [1, 0, 1, 0, 2])
        self.assertEqual(bins[4].came, 1.0)
        self.assertAlmostEqual(brier([1.0, 0.5], [True, False]), 0.125)
        self.assertAlmostEqual(width(np.arange(101.0), 0.8), 80.0)

    def test_the_pencil_line(self) -> None:
        kit = Tank("x", DAY_ZERO).kit
        lived = Lived(Tank("x", DAY_ZERO, measured_l=100.0))

        def test(day: float, am: str, ni: str) -> Entry:
            return Entry(Tested(readings=(read("ammonia", am, kit), read("nitrite", ni, kit))), at(day))

        lived.log = [test(10, "0", "4"), test(12, "0", "2")]
        self.assertAlmostEqual(extrapolated(lived, 13), 1.0, delta=0.1)
        lived.log = [test(10, "0", "1"), test(12, "0", "2")]
        self.assertIsNone(extrapolated(lived, 13))


class SpikesMet(unittest.TestCase):
    def test_a_change_at_half_past_is_not_passed_over(self) -> None:
        t = Tank("x", DAY_ZERO, measured_l=100.0)
        life = Life(t, FilmWorld(t, REFERENCE.media, np.random.default_rng(1)), REFERENCE, ())
        life.dose(0.4)
        met = Watched(life, set(), REFERENCE)
        met.live(1.0)
        before = life.world.tan
        met.live(1 + 7.5 / 24)
        met.change(1 + 7.5 / 24, 50.0)
        met.live(1 + 8 / 24)
        self.assertLess(life.world.tan, 0.6 * before)


class Worlds(unittest.TestCase):
    def test_both_keep_their_nitrogen(self) -> None:
        t = Tank("x", DAY_ZERO, measured_l=100.0, filters=(Filter(media_l=5.0),), kh_dkh=12)
        dose = Entry(Dose(amount=200.0, unit="mg", mg_n=200.0), at(0.5))
        for world in (FilmWorld, OwnWorld):
            with self.subTest(world.__name__):
                w = world(t, REFERENCE.media, np.random.default_rng(4))
                before = w.tan + w.no2 + w.no3
                w.advance(drivers(t, [dose], REFERENCE.species, at(0), at(25), 1 / 24))
                gained = w.tan + w.no2 + w.no3 - before
                self.assertAlmostEqual(gained, 2.0, delta=0.25)  # the film world's keeper doses a little wrong

    def test_a_branch_leaves_the_trunk_alone(self) -> None:
        rng = np.random.default_rng(5)
        t = a_tank(rng)
        keeper = Keeper(t, FilmWorld(t, REFERENCE.media, rng), REFERENCE, rng)
        keeper.run(10, {8})
        branch, film = keeper.lived.branches[8], list(keeper.lived.branches[8].film)
        other = branch.branch()
        other.advance(drivers(t, [], REFERENCE.species, at(8), at(12), 1 / 24))
        self.assertEqual(branch.film, film)

    def test_who_tests_more_meets_the_same_days(self) -> None:
        """Followed keepers are compared tank by tank: what one of them looks at is not to change the other's chance."""
        t = Tank("x", DAY_ZERO, measured_l=100.0, filters=(Filter(media_l=5.0),), kh_dkh=12)
        dose = Entry(Dose(amount=200.0, unit="mg", mg_n=200.0), at(0.1))

        def lived(looks: int, days_of: tuple[int, ...] | None) -> np.ndarray:
            w = PatchWorld(t, REFERENCE.media, np.random.default_rng(4))
            w.days_of = days_of
            for day in range(12):
                w.advance(drivers(t, [dose], REFERENCE.species, at(day), at(day + 1), 1 / 24))
                for _ in range(looks):
                    w.look("nitrite")
            return w.colony

        np.testing.assert_array_equal(lived(0, (7, 4)), lived(3, (7, 4)))
        self.assertTrue((lived(0, None) != lived(3, None)).any())
        self.assertTrue((lived(0, (7, 4)) != lived(0, (8, 4))).any())

    def test_a_follower_comes_at_the_hour_that_the_list_names(self) -> None:
        t = Tank("x", DAY_ZERO, measured_l=100.0, filters=(Filter(media_l=5.0),))
        life = Life(t, FilmWorld(t, REFERENCE.media, np.random.default_rng(1)), REFERENCE, (Animals("guppy", 3),))
        keeper, visits = WordForWord(life, 1), []
        with patch.object(keeper, "_visit", visits.append):
            keeper.early = 12.375
            keeper.morning(11)
            self.assertEqual((visits, life.done_to), ([], 0.0))
            keeper.morning(12)
        self.assertEqual((visits, life.done_to, keeper.look_on), ([12.375], 12.375, 12))

    def test_the_same_seed_lives_the_same_life_and_is_asked(self) -> None:
        one, two = (one_tank(FilmWorld, 11, 3, REFERENCE, FEW) for _ in range(2))
        self.assertEqual(one.ready, two.ready)
        self.assertEqual([s.p for s in one.safeties], [s.p for s in two.safeties])
        for a, b in zip(one.answers, two.answers, strict=True):
            np.testing.assert_array_equal(a.members, b.members)
        known = {f"day {d}" for d in FIXED_DAYS} | {f"{k} ahead" for k in AHEAD}
        self.assertTrue({a.asked for a in one.answers} <= known)
        text = report.summary({"film": [one, two]})
        self.assertIn("By school, ten days ahead", text)


class TheDocument(unittest.TestCase):
    def test_every_prior_stands_in_it_with_its_source(self) -> None:
        text = DOC.read_text("utf-8")
        self.assertTrue(report.priors_table() in text, "docs/model.md: make calibrate writes the priors anew")
        self.assertEqual(report.priors_table().count("\n") - 1, len(PRIORS))

    def test_the_scores_can_be_written_anew(self) -> None:
        with tempfile.TemporaryDirectory() as holder:
            copy = Path(holder) / "model.md"
            copy.write_text(DOC.read_text("utf-8"), "utf-8")
            report.write_into(copy, "NEW SCORES")
            self.assertIn("NEW SCORES", copy.read_text("utf-8"))
            self.assertEqual(copy.read_text("utf-8").count(report.BEGIN), 1)
