"""Readiness, the value of a test, what-ifs, why, and the record of earlier forecasts; and what no input may break."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

import numpy as np

from jarbloom.core.bloom.drivers import drivers
from jarbloom.core.bloom.ensemble import Forecasting, prepare, project
from jarbloom.core.bloom.forecast import course_of, forecast, gate_of
from jarbloom.core.bloom.plans import school_plan
from jarbloom.core.bloom.readiness import first_days, readiness
from jarbloom.core.bloom.track import track
from jarbloom.core.bloom.value import TestValue, next_tests, shrinking, width, worthwhile
from jarbloom.core.bloom.whatif import WhatIf, compare
from jarbloom.core.bloom.why import unknowns
from jarbloom.core.journal.log import latest
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.upset.levels import is_clean
from jarbloom.core.water.ammonia import unionised_fraction
from tests.core.test_bloom import a_cycle
from tests.make import FEW, NOW, REFERENCE, at, entry, numbered, tank, test_entry

SOME = Forecasting(members=200)


class Readiness(unittest.TestCase):
    def test_dates_are_quantiles_of_first_days(self) -> None:
        days = [date(2026, 11, 20) + timedelta(days=k) for k in range(10)]
        ok = np.zeros((10, 10), dtype=bool)
        for member in range(10):
            ok[member:, member] = True  # member k is ready from day k on
        found = readiness(ok, 2, days, 5.0)
        self.assertAlmostEqual(found.already, 3.5 / 11)
        self.assertEqual((found.p10, found.p50, found.p90), (days[2], days[4], days[8]))
        self.assertAlmostEqual(found.in_time, 10.5 / 11)
        self.assertEqual(first_days(ok, 2).tolist(), [0, 0, 0, 1, 2, 3, 4, 5, 6, 7])

    def test_never_within_the_horizon_is_said(self) -> None:
        found = readiness(np.zeros((5, 4), dtype=bool), 0, [NOW.date() + timedelta(days=k) for k in range(5)], 1.0)
        self.assertIsNone(found.p10)
        self.assertTrue(0 < found.in_time == found.already < 0.2)  # four members never prove that it cannot be

    def test_a_larger_load_is_carried_later(self) -> None:
        small, large = (
            forecast(tank(), a_cycle(), NOW, REFERENCE, [Batch(1, "one", at(-30).date(), (Animals("guppy", n),))], FEW)
            for n in (3, 60)
        )
        self.assertLess(small.carries.stated_load, large.carries.stated_load)
        self.assertGreaterEqual(small.carries.already, large.carries.already)

    def test_clean_water_without_a_colony_is_not_ready(self) -> None:
        fresh = tank(started=NOW.date() - timedelta(days=9), school="pinch_feeding")
        zeros = [test_entry(d, ammonia="0", nitrite="0") for d in (8, 6, 4, 2)]
        self.assertLess(forecast(fresh, numbered(*zeros), NOW, REFERENCE, (), SOME).readiness.already, 0.2)


class ValueOfATest(unittest.TestCase):
    def test_width_is_that_of_eight_in_ten(self) -> None:
        self.assertAlmostEqual(width(np.arange(101)), 80.0)
        self.assertEqual(width(np.full(9, 4)), 0.0)

    def test_a_test_never_costs_what_is_known(self) -> None:
        rng = np.random.default_rng(8)
        for _ in range(20):
            days = rng.integers(0, 40, 150)
            p = rng.random((5, 150)) ** 3
            p /= p.sum(axis=0)
            self.assertLessEqual(shrinking(days, p), 1.0 + 1e-12)
        days = np.repeat([3, 30], 50)
        told = np.vstack([days == 3, days == 30]).astype(float)
        self.assertAlmostEqual(shrinking(days, told), 0.0)
        self.assertAlmostEqual(shrinking(days, np.full((2, 100), 0.5)), 1.0)

    def test_later_tests_tell_more_while_nothing_moves(self) -> None:
        early = numbered(entry("dose", 5, mg_n=216.0), test_entry(3, ammonia="2", nitrite="0"))
        ensemble = prepare(tank(started=at(5).date()), early, NOW, REFERENCE, SOME)
        projection = project(ensemble, school_plan(ensemble))
        first = first_days(gate_of(ensemble, course_of(ensemble, projection)), len(ensemble.noons))
        found = next_tests(ensemble, projection, first)
        gain = {(t.quantity, (t.day - NOW.date()).days): t.gain for t in found}
        self.assertGreater(gain["ammonia", 7], gain["ammonia", 1])
        self.assertGreater(gain["ammonia", 7], gain["nitrate", 7])

    def test_the_earliest_that_brings_most_is_asked_for(self) -> None:
        def value(quantity: str, ahead: int, after: float) -> TestValue:
            return TestValue(quantity, NOW.date() + timedelta(days=ahead), 10.0, after)

        rows = [value("ammonia", 1, 9.0), value("nitrite", 2, 6.1), value("nitrite", 3, 6.0), value("ammonia", 3, 8.0)]
        self.assertEqual(worthwhile(rows), rows[1])
        self.assertIsNone(worthwhile([value("ammonia", 1, 9.9)]))
        self.assertIsNone(worthwhile([]))


class WhatIfs(unittest.TestCase):
    def setUp(self) -> None:
        self.ensemble = prepare(tank(), a_cycle(), NOW, REFERENCE, SOME)

    def test_the_same_future_is_the_same(self) -> None:
        planned, empty = compare(self.ensemble, [WhatIf("nothing")])
        np.testing.assert_array_equal(planned.bands["no2"], empty.bands["no2"])

    def test_a_change_lowers_a_dose_raises_and_a_cut_costs(self) -> None:
        tomorrow = replace(entry("change", -1, litres=80.0), at=NOW + timedelta(days=1))
        dose = replace(entry("dose", -1, mg_n=1000.0), at=NOW + timedelta(days=1))
        cut = replace(entry("power", -1, hours=60.0, where="closed"), at=NOW + timedelta(days=1))
        plain, less, more, dark = compare(
            self.ensemble, [WhatIf("wc", (tomorrow,)), WhatIf("dose", (dose,)), WhatIf("cut", (cut,))]
        )
        k = len(self.ensemble.noons) + 2
        self.assertLess(less.bands["no3"][3, k], plain.bands["no3"][3, k])
        self.assertGreater(more.nh3_peak_p50, 2 * plain.nh3_peak_p50)
        self.assertLess(dark.bands["capacity"][3, k + 5], 0.7 * plain.bands["capacity"][3, k + 5])
        self.assertIsNone(plain.p_under)

    def test_animals_are_asked_about_from_the_day_they_are_in(self) -> None:
        later = replace(entry("arrival", -9, species="guppy", count=4, length_cm=3.0), at=NOW + timedelta(days=9))
        few = compare(self.ensemble, [WhatIf("few", (later,))])[1]
        crowd = replace(later, body=replace(later.body, count=2000))
        many = compare(self.ensemble, [WhatIf("many", (crowd,))])[1]
        assert few.p_under is not None and many.p_under is not None
        self.assertGreater(few.p_under, 0.5)
        self.assertLess(many.p_under, 0.05)
        self.assertGreater(many.p_under, 0.0)

    def test_a_batch_can_be_added_to_the_plan(self) -> None:
        batch = Batch(-1, "extra", NOW.date() + timedelta(days=10), (Animals("guppy", 5),))
        self.assertIsNotNone(compare(self.ensemble, [WhatIf("extra", (), (batch,))])[1].p_under)


class Why(unittest.TestCase):
    def test_what_moves_the_day_is_named(self) -> None:
        ensemble = prepare(tank(), a_cycle(), NOW, REFERENCE, SOME)
        first = np.round(1000 * ensemble.par.mu_b).astype(int)
        found = unknowns(ensemble, first)
        self.assertEqual(found[0].name, "mu_b")
        self.assertGreater(found[0].share, 0.99)
        self.assertEqual(unknowns(ensemble, np.full(200, 3)), ())


class Record(unittest.TestCase):
    def test_readings_meet_the_latest_forecast_of_two_days_before(self) -> None:
        log = a_cycle()
        earlier = [forecast(tank(), [e for e in log if e.at <= at(d)], at(d), REFERENCE, (), FEW) for d in (9, 5, 0.5)]
        found = track(earlier, log)
        self.assertEqual({m.asked for m in found.met if m.at >= at(3)}, {at(5).date()})
        self.assertEqual(len(found.said), 3)
        self.assertEqual(found.inside, sum(m.inside for m in found.met))
        self.assertEqual(track([], log).met, ())


class Unbreakable(unittest.TestCase):
    """Whatever is logged: a wide honest interval, never NaN, never a crash."""

    def check(self, t, *entries) -> None:
        f = forecast(t, numbered(*entries), NOW, REFERENCE, (), FEW)
        for name, band in f.bands.items():
            self.assertTrue(np.isfinite(band).all(), name)
            self.assertTrue((band >= 0).all(), name)

    def test_rows(self) -> None:
        young = tank(started=at(20).date())
        rows = {
            "no filter": (replace(young, filters=(), length_cm=None, measured_l=60.0), entry("dose", 9, mg_n=120.0)),
            "ice": (replace(young, temp_c=4.0), entry("dose", 9, mg_n=216.0), test_entry(1, ammonia="2")),
            "heat": (replace(young, temp_c=40.0), entry("dose", 9, mg_n=216.0), test_entry(1, temp="45")),
            "tenfold dose": (young, entry("dose", 9, mg_n=2160.0), test_entry(1, ammonia="8", nitrite="5")),
            "zeros for weeks": (young, *(test_entry(d, ammonia="0", nitrite="0") for d in range(19, 0, -1))),
            "contradiction": (
                young,
                *(test_entry(d + 0.1, ammonia="0") for d in range(6)),
                *(test_entry(d + 0.2, ammonia="8", nitrite="5") for d in range(6)),
            ),
            "sea": (replace(young, salinity_g_kg=35.0, ph=8.2), entry("dose", 9, mg_n=216.0)),
            "salt jump": (young, test_entry(9, salinity="30"), test_entry(3, salinity="0")),
            "no alkalinity": (replace(young, kh_dkh=0.0, ph=5.0), entry("dose", 9, mg_n=216.0), test_entry(2, kh="0")),
            "long cut": (young, entry("power", 5, hours=336.0), entry("power", 1, hours=300.0)),
            "all at once": (
                young, entry("dose", 5, mg_n=100.0), entry("change", 5, litres=108.0), entry("bed", 5),
                entry("conditioner", 5, detoxifies=True), entry("media", 5, how="dried", share=100),
                entry("bacteria", 5, source="bottle"), entry("arrival", 5, species="unknown", count=9),
            ),
        }  # fmt: skip
        for name, (t, *entries) in rows.items():
            with self.subTest(name):
                self.check(t, *entries)

    def test_heat_kills_the_rate_and_cold_slows_it(self) -> None:
        def carried(temp: float) -> float:
            return forecast(tank(temp_c=temp), a_cycle(), NOW, REFERENCE, (), FEW).likely

        usual = carried(26)
        self.assertLess(carried(43), 0.2 * usual)
        self.assertLess(carried(8), 0.5 * usual)


class Events(unittest.TestCase):
    def drivers(self, *entries, t=None, days=10):
        start = at(days).replace(hour=0, minute=0)
        return drivers(t or tank(), numbered(*entries), REFERENCE.species, start, NOW, 1 / 12)

    def test_a_power_cut_slows_and_costs_more_in_a_closed_filter(self) -> None:
        closed, open_ = (self.drivers(entry("power", 5, hours=24.0, where=w)) for w in ("closed", "open"))
        self.assertEqual(np.count_nonzero(closed.running < 1), 12)
        self.assertGreater(closed.happenings[0].shift, open_.happenings[0].shift)

    def test_the_new_water_may_be_other_water(self) -> None:
        drv = self.drivers(
            entry("change", 5, litres=30.0, source_ammonia=1.0, source_nitrate=8.0, source_kh=10.0),
            entry("change", 3, litres=30.0),
        )
        k = int(np.argmax(drv.change > 0))
        np.testing.assert_allclose(drv.source[:2, k], [1.0, 8.0])
        np.testing.assert_allclose(drv.source[0, k + 24], 0.0)

    def test_a_jump_of_salinity_costs_a_small_step_does_not(self) -> None:
        self.assertEqual(self.drivers(test_entry(5, salinity="1.5")).happenings, ())
        jump = self.drivers(test_entry(5, salinity="30"))
        self.assertEqual(jump.happenings[0].key, "salt")
        self.assertEqual(jump.salinity[-1], 30.0)

    def test_a_stirred_bed_feeds_the_water(self) -> None:
        whole, part = self.drivers(entry("bed", 5)), self.drivers(entry("bed", 5, share=30))
        self.assertAlmostEqual(part.particulate.sum(), 0.3 * whole.particulate.sum())

    def test_a_masked_reading_is_kept_and_not_believed(self) -> None:
        base = [entry("dose", 6, mg_n=216.0), test_entry(4, ammonia="2", nitrite="0")]
        plain = forecast(tank(), numbered(*base), NOW, REFERENCE, (), FEW)
        masked = forecast(tank(), numbered(*base, test_entry(1, ammonia="8 masked")), NOW, REFERENCE, (), FEW)
        np.testing.assert_array_equal(plain.bands["tan"], masked.bands["tan"])
        self.assertEqual(plain.last_reading, masked.last_reading)

    def test_a_masked_zero_proves_nothing_and_a_masked_eight_alarms_nobody(self) -> None:
        zero = test_entry(1, ammonia="0 masked", nitrite="0")
        self.assertIsNone(is_clean(zero.readings, tank().kit))
        self.assertIsNone(latest([zero], "ammonia"))
        self.assertEqual(latest([test_entry(2, ammonia="1"), zero], "ammonia").reading.typed, "1")

    def test_in_the_sea_less_of_it_is_free(self) -> None:
        salt, fresh = (
            forecast(tank(ph=8.0, salinity_g_kg=s), numbered(entry("dose", 1, mg_n=216.0)), NOW, REFERENCE, (), FEW)
            for s in (35.0, 0.0)
        )
        self.assertLess(salt.band("nh3", 0.5), fresh.band("nh3", 0.5))
        self.assertAlmostEqual(float(unionised_fraction(8.1, 25, 35)), 0.05, delta=0.002)
