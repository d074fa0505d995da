"""Chart geometry as numbers: axes, the three regimes of the headroom picture, the ghost, the table behind it."""

import re
import unittest
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.advice.situation import situation
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.units import Units
from jarbloom.views.drawn.axes import LinearAxis, RootLogAxis, TimeAxis, area, line, nice_step
from jarbloom.views.drawn.headroom import headroom, stipple
from jarbloom.views.drawn.section import boards, section
from jarbloom.views.drawn.turned import turned
from tests.core.test_bloom import a_cycle
from tests.make import FEW, NOW, REFERENCE, numbered, tank
from tests.make import entry as make_entry


def look(batches=(), entries=None):
    log = a_cycle() if entries is None else entries
    made = forecast(tank(), log, NOW, REFERENCE, batches, FEW)
    return situation(tank(), log, batches, made, REFERENCE, Units())


def rasboras(count: int, in_days: int = 10, id: int = 1) -> Batch:
    return Batch(id, "Batch one", NOW.date() + timedelta(days=in_days), (Animals("harlequin_rasbora", count),))


class Axes(unittest.TestCase):
    def test_time_runs_left_to_right_and_stays_on_the_chart(self) -> None:
        x = TimeAxis(NOW.date(), NOW.date() + timedelta(days=10), 50, 150)
        self.assertEqual(x.per_day, 10)
        self.assertEqual(x.edge(NOW.date() + timedelta(days=3)), 80)
        self.assertEqual(x.edge(NOW.date() - timedelta(days=3)), 50)
        self.assertEqual(x.edge(NOW.date() + timedelta(days=30)), 150)
        self.assertTrue(any(t.strong for t in x.weekly(NOW.date())))

    def test_amounts(self) -> None:
        y = LinearAxis(100, 200, 0)
        self.assertEqual([y.y(v) for v in (0, 50, 100)], [200, 100, 0])
        self.assertEqual([nice_step(v) for v in (0.3, 1.2, 7, 33)], [0.5, 2, 10, 50])
        log = RootLogAxis(20, 100, 0)
        self.assertGreater(log.y(0) - log.y(0.25), 15)  # near zero it still tells

    def test_paths_of_nothing_and_of_one_point(self) -> None:
        self.assertEqual((line([]), line([(1, 2)]), area([(1, 2)], [(1, 3)])), ("", "M1.0 2.0", ""))


class Headroom(unittest.TestCase):
    def test_regimes(self) -> None:
        near, far = headroom(look([rasboras(100)])), headroom(look([rasboras(2)]))
        self.assertEqual(near.reserve, "")
        self.assertIn("times all of this", far.reserve)
        for chart in (near, far):
            self.assertGreater(chart.blocks[0].height, 5)  # blocks are never squashed
            self.assertGreaterEqual(chart.blocks[0].y, chart.top)

    def test_without_animals_or_batches(self) -> None:
        chart = headroom(look())
        self.assertEqual((chart.blocks, chart.ghost, chart.fits, chart.excess), ((), None, (), ()))
        self.assertTrue(chart.water.startswith("M"))
        self.assertTrue(chart.rows)

    def test_ghost_counts_add_up(self) -> None:
        ghost = headroom(look([rasboras(200)])).ghost
        assert ghost is not None
        self.assertLessEqual(ghost.sure, ghost.likely)
        self.assertLess(ghost.sure, ghost.count)
        total = ghost.whole[1] + ghost.pale[1] + ghost.over[1]
        self.assertAlmostEqual(total, ghost.whole[0] + ghost.whole[1] - ghost.over[0], delta=0.3)

    def test_load_out_of_the_water_is_drawn(self) -> None:
        fish = numbered(make_entry("arrival", 3, species="goldfish", count=6, length_cm=10))
        chart = headroom(look(entries=fish))
        self.assertEqual(chart.blocks[0].kind, "living")
        self.assertTrue(chart.excess)

    def test_every_day_has_a_row_and_today_is_marked(self) -> None:
        s = look([rasboras(8)])
        chart = headroom(s)
        self.assertEqual([r.today for r in chart.rows].count(True), 1)
        self.assertEqual([r.x for r in chart.rows], sorted(r.x for r in chart.rows))
        today = next(r for r in chart.rows if r.today)
        self.assertIn("ammonia 0", today.events)

    def test_coordinates_are_rounded_and_inside(self) -> None:
        chart = headroom(look([rasboras(8)]))
        numbers = [float(n) for n in re.findall(r"-?\d+\.\d+", chart.water + chart.best_future)]
        self.assertTrue(all(n == round(n, 1) for n in numbers))
        self.assertEqual(stipple(5, 20), stipple(5, 20))
        self.assertNotEqual(stipple(5, 20), stipple(6, 20))


class Sections(unittest.TestCase):
    def test_true_to_scale(self) -> None:
        s = section(tank(), [Animals("harlequin_rasbora", 6, 4.0)], REFERENCE, 3.0, 200.0)
        self.assertEqual((s.width, s.glass_top), (240, 65))
        self.assertEqual(len(s.animals), 6)
        self.assertTrue(all(abs(a.figure.width - 12.2) < 0.1 for a in s.animals))
        self.assertTrue(all(s.water_top < a.y < s.bottom for a in s.animals))

    def test_only_litres_known(self) -> None:
        bare = tank(length_cm=None, width_cm=None, height_cm=None, measured_l=60.0, substrate_cm=0.0)
        self.assertFalse(section(bare, [], REFERENCE, 3.0, 200.0).known)

    def test_all_tanks_share_one_scale(self) -> None:
        found = boards([tank(), replace(tank(), length_cm=40.0)], [(), ()], REFERENCE, Units())
        self.assertAlmostEqual(found[0].section.width / found[1].section.width, 2.0, places=2)
        self.assertTrue(found[0].stick and not found[1].stick)


class TurnedChart(unittest.TestCase):
    def test_time_runs_down_and_load_to_the_right(self) -> None:
        chart = turned(look([rasboras(100, 5), replace(rasboras(60, 12), id=2, name="Batch two")]))
        one, two = chart.slabs
        self.assertEqual((one.title, two.title), ("one", "two"))
        self.assertAlmostEqual(one.x + one.width, two.x, places=1)
        self.assertAlmostEqual(two.y - one.y, 7 * 19.0, delta=0.2)
        self.assertTrue(all(s.x + s.width <= chart.width for s in chart.slabs))
        self.assertTrue(all(chart.left <= t.at <= chart.width for t in chart.amounts))
        self.assertEqual([t.at for t in chart.days], sorted(t.at for t in chart.days))
        self.assertEqual([t.strong for t in chart.days].count(True), 1)

    def test_living_animals_stand_at_the_edge(self) -> None:
        fish = numbered(make_entry("arrival", 3, species="goldfish", count=6, length_cm=10))
        chart = turned(look([rasboras(10)], entries=fish))
        self.assertEqual(next((s.kind, s.x) for s in chart.slabs), ("living", chart.left))
        self.assertTrue(chart.excess)
        self.assertEqual(turned(look()).slabs, ())
