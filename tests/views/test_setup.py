"""Pictures and words of setting up as numbers: true proportions, gaps, limits, what a page says."""

import re
import unittest
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.advice.compare_schools import Answers, compare_schools
from jarbloom.core.advice.said import Job
from jarbloom.core.bloom.ensemble import prepare
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Decor, Heater, Instrument, Source, Water
from jarbloom.core.setup.equipment import equipment
from jarbloom.core.setup.exposure import exposure
from jarbloom.core.setup.fill import standing
from jarbloom.core.setup.probe import Hour, TestBesideProbe
from jarbloom.core.vessel.shapes import SHAPES
from jarbloom.core.vessel.volume import decor_l, vessel
from jarbloom.core.water.mixing import Wish, plan_mix
from jarbloom.units import INCH_CM, Units
from jarbloom.views.drawn.vessel import CM_PER, drawing, vessel_look
from jarbloom.views.house.schedule import schedule_page
from jarbloom.views.house.water import instrument_row, mix_look, water_row
from jarbloom.views.setup.equipment import equipment_look, heat_chart
from jarbloom.views.setup.fill import fill_words, step_rows
from jarbloom.views.setup.probe import NARROW, beside_rows, trace
from jarbloom.views.setup.school import school_page
from tests.core.test_jobs import look
from tests.core.test_vessel import shaped
from tests.make import FEW, NOW, REFERENCE, entry, numbered, tank, test_entry

METRIC = Units()
FULL = NOW.replace(minute=0, second=0, microsecond=0)


def corners(path: str) -> list[tuple[float, float]]:
    return [(float(a), float(b)) for a, b in re.findall(r"([-\d.]+) ([-\d.]+)", path)]


def area(points: list[tuple[float, float]]) -> float:
    after = [*points[1:], points[0]]
    return abs(sum(x * v - u * y for (x, y), (u, v) in zip(points, after, strict=True))) / 2


class Drawn(unittest.TestCase):
    def test_all_three_views_are_to_one_scale(self) -> None:
        for shape in SHAPES:
            t = shaped(shape, substrate_back_cm=None)
            d = drawing(t, METRIC)
            px = d.px_per_cm
            with self.subTest(shape=shape):
                self.assertAlmostEqual(area(corners(d.inner)) / px**2 / 10_000, vessel(t).surface_m2, delta=0.004)
                self.assertAlmostEqual(d.front.height / px, 51.0, delta=0.2)
                self.assertAlmostEqual(d.side.height, d.front.height)
                water = area(corners(d.front.water)) / px**2
                self.assertAlmostEqual(water, (d.front.width / px - 2) * 46, delta=8)

    def test_rock_takes_the_area_of_its_volume(self) -> None:
        t = shaped("box", decor=(Decor("stone", 26.0), Decor("wood", 3.0, "L")))
        d = drawing(t, METRIC)
        for path, item in zip(d.front.decor, t.decor, strict=True):
            drawn_l = area(corners(path)) / d.px_per_cm**2 * 40.0 / 1000
            with self.subTest(kind=item.kind):
                self.assertAlmostEqual(drawn_l / decor_l(item), 1.0, delta=0.03)

    def test_a_heap_never_stands_out_of_the_water(self) -> None:
        t = shaped("box", decor=(Decor("stone", 200.0),))
        d = drawing(t, METRIC)
        top = min(y for _, y in corners(d.front.water))
        self.assertGreaterEqual(min(y for _, y in corners(d.front.decor[0])), top)

    def test_grips_say_their_size_in_the_keepers_unit(self) -> None:
        for system, unit in (("metric", "cm"), ("us", "in")):
            d = drawing(shaped("bow_front"), Units(system))
            grips = {h.name: h for h in d.handles}
            with self.subTest(system=system):
                self.assertEqual(set(grips), {"length_cm", "height_cm", "waterline_cm", "substrate_cm",
                                              "substrate_back_cm", "width_cm", "bow_cm"})  # fmt: skip
                self.assertAlmostEqual(float(grips["length_cm"].value) * CM_PER[unit], 80.0, delta=0.02)
                self.assertAlmostEqual(grips["height_cm"].px_per_unit, d.px_per_cm * CM_PER[unit], places=3)
        self.assertEqual(CM_PER["in"], INCH_CM)

    def test_the_scale_can_be_held_and_a_bare_floor_has_no_bed(self) -> None:
        held = drawing(shaped("box", length_cm=120.0), METRIC, 5.0)
        self.assertEqual(held.px_per_cm, 5.0)
        self.assertGreater(held.width, 720)
        bare = drawing(shaped("box", substrate="none", substrate_cm=0.0, substrate_back_cm=None), METRIC)
        self.assertEqual(bare.front.bed, "")
        self.assertNotIn("substrate_cm", {h.name for h in bare.handles})

    def test_the_words_beside_it(self) -> None:
        told = dict(vessel_look(shaped("box", measured_l=120.0, sump_l=20.0), METRIC, ()).facts)
        self.assertIn("as counted", told["net water"])
        self.assertIn("%", told["by geometry"])
        self.assertIn("grown people", vessel_look(shaped("box"), METRIC, ()).words)


class EquipmentPage(unittest.TestCase):
    def test_curves_stay_in_the_chart_and_limits_are_named(self) -> None:
        t = tank(heaters=(Heater(200.0),))
        e = equipment(t, (), REFERENCE)
        chart = heat_chart(e.failures, t.temp_c, METRIC)
        assert chart is not None
        for curve in chart.curves:
            for x, y in corners(curve.path):
                self.assertTrue(chart.left <= x <= chart.right and 0 <= y <= chart.bottom)
        self.assertIn("34\u00a0°C", [x.label for x in chart.levels if x.limit])
        self.assertIsNone(heat_chart((), 25.0, METRIC))

    def test_what_is_said_of_the_heating(self) -> None:
        rows = (
            ((Heater(20.0),), "Too little"), ((Heater(200.0),), "Two heaters"), ((), "No heater is set up"),
            ((Heater(60.0), Heater(60.0)), "split"),
        )  # fmt: skip
        for heaters, said in rows:
            t = tank(heaters=heaters)
            with self.subTest(heaters=heaters):
                self.assertIn(said, equipment_look(t, equipment(t, (), REFERENCE), METRIC).heat_words)
        warm = tank(heaters=(), room_c=30.0, room_rh=90.0)
        self.assertIn("no heater is needed", equipment_look(warm, equipment(warm, (), REFERENCE), METRIC).heat_words)

    def test_little_oxygen_is_told(self) -> None:
        t = tank(surface="still")
        crowd = equipment_look(t, equipment(t, [Animals("bronze_corydoras", 90)], REFERENCE), METRIC)
        self.assertTrue(crowd.low_air)
        self.assertIn("Below", crowd.air_words)
        calm = equipment_look(t, equipment(t, [Animals("guppy", 2)], REFERENCE), METRIC)
        self.assertFalse(calm.low_air)


class ProbePage(unittest.TestCase):
    def hours(self, *ages: int) -> list[Hour]:
        return [Hour(FULL - timedelta(hours=k), 2, 25.0, 24.9, 25.1) for k in sorted(ages, reverse=True)]

    def test_a_gap_splits_the_line(self) -> None:
        found = trace("temp", self.hours(9, 8, 7, 3, 2, 1), (), NOW, METRIC)
        self.assertEqual(found.line.count("M"), 2)
        self.assertEqual(found.band.count("Z"), 2)

    def test_empty_one_point_and_constant_are_drawn(self) -> None:
        self.assertEqual(trace("temp", (), (), NOW, METRIC).line, "")
        one = trace("temp", self.hours(1), (), NOW, METRIC)
        self.assertTrue(one.line.startswith("M"))
        self.assertTrue(all(one.top <= t.at <= one.base for t in one.y_ticks))
        self.assertGreaterEqual(len(one.y_ticks), 2)

    def test_tests_stand_on_it_and_the_phone_shows_fewer_days(self) -> None:
        log = [test_entry(1, temp="25"), test_entry(6, temp="24")]
        self.assertEqual(len(trace("temp", self.hours(1), log, NOW, METRIC).marks), 2)
        narrow = trace("temp", self.hours(1), log, NOW, METRIC, NARROW)
        self.assertEqual((len(narrow.marks), narrow.width), (1, NARROW[0]))

    def test_differences_of_temperature_have_no_offset(self) -> None:
        rows = beside_rows([TestBesideProbe(NOW, 25.0, 26.0)], "temp", Units("us"))
        self.assertEqual(rows[0][1:], ("77", "78.8", "+1.8"))


class Words(unittest.TestCase):
    def test_steps_of_the_run(self) -> None:
        log = [entry("step", 1, step="stand"), entry("step", 0.9, step="rinse"), entry("step", 0.8, step="place"),
               entry("step", 0.01, step="leak")]  # fmt: skip
        rows = step_rows(standing(tank(), log, METRIC, NOW), NOW)
        self.assertEqual([r.state for r in rows[:6]], ["done", "done", "done", "done", "waiting", "later"])
        self.assertEqual(fill_words(rows)[0], "Wait.")
        later = step_rows(standing(tank(), log, METRIC, NOW + timedelta(hours=2)), NOW + timedelta(hours=2))
        self.assertIn("count the litres", fill_words(later)[0])
        fresh = step_rows(standing(tank(), (), METRIC, NOW), NOW)
        self.assertIn("step by step", fill_words(fresh)[0])

    def test_a_schedule_by_days(self) -> None:
        def listed(days: int):
            job = Job("feed", "Feed", "", NOW + timedelta(days=days), "")
            return type("L", (), {"tank": tank(), "job": job})()

        page = schedule_page([listed(0), listed(-2), listed(1), listed(9)], (), (), NOW)
        self.assertEqual([d.title for d in page.days], ["Today", "Tomorrow", "Thursday 3 December"])
        self.assertEqual(page.call, "2 jobs today.")
        self.assertEqual(schedule_page((), (), (), NOW).call, "Nothing is due today.")

    def test_waters_and_instruments(self) -> None:
        today = NOW.date()
        old = Water("Tap", "tap", Source(), today - timedelta(days=500))
        self.assertIn("more than a year ago", water_row(old, today).measured)
        self.assertEqual(water_row(replace(old, measured_on=None), today).measured, "day not noted")
        for days, said, stale in ((0, "today", False), (1, "1 day ago", False), (40, "more than 30", True)):
            row = instrument_row(Instrument("A", "refractometer", today - timedelta(days=days)), today)
            with self.subTest(days=days):
                self.assertIn(said, row.calibrated)
                self.assertEqual(row.stale, stale)
        self.assertTrue(instrument_row(Instrument("A", "refractometer"), today).stale)

    def test_what_a_mix_warns_of(self) -> None:
        bad = Water("Well", "well", Source(7.8, 9.0, 1.0, 8.0, chlorine="chlorine"), id=1)
        told = " ".join(mix_look(plan_mix(Wish(40, 1), bad, None, 1.05), tank(), METRIC).words)
        for said in ("un-ionised at this pH", "nitrate as ion", "Condition it"):
            self.assertIn(said, told)
        good = Water("Osmosis", "ro", Source(6.5, 0.5, 0.0, 0.0, chlorine="none"), id=1)
        self.assertEqual(len(mix_look(plan_mix(Wish(40, 1), good, None, 1.05), tank(), METRIC).words), 1)

    def school(self, *log, on=None, **answers: str):
        t = on or tank()
        s = look(*log, on=t)
        views = compare_schools(s, prepare(t, numbered(*log), NOW, REFERENCE, FEW), Answers(**answers))
        exposed = exposure(s.tank, s.forecast, s.entries, s.levels.limits, s.now)
        return school_page(s, views, "", exposed, bool(answers))

    def test_the_schools_page(self) -> None:
        fits = self.school(test_entry(1, ammonia="0"))
        self.assertEqual(fits.call, "Measured dose fits.")
        self.assertEqual(len(fits.rows), 7)
        self.assertEqual(len(fits.charts), 2)
        other = self.school(test_entry(1, ammonia="0"), donor="yes")
        self.assertIn("Borrowed media would fit best", other.call)
        fish = self.school(
            entry("arrival", 4, species="guppy", count=5, already_in=True), test_entry(1, ammonia="0.5", nitrite="0.5"),
            on=tank(school="fish_in_watched"), fish="yes",
        )  # fmt: skip
        self.assertEqual(fish.call, "Fish-in, light and watched fits.")
        self.assertEqual(len(fish.exposure), 2)
        self.assertIn("nothing here says that it was harmless", fish.exposure_words)
        stocked = self.school(entry("arrival", 4, species="guppy", count=5), test_entry(1, ammonia="0"))
        self.assertIn("Cycled by measured dose", stocked.call)
