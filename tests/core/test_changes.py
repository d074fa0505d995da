"""Corrective changes solved on the members: what holds for every plan, and the small model that they are tried on."""

import unittest
from dataclasses import replace
from datetime import datetime, time, timedelta

import numpy as np

from jarbloom.core.animals.bioload import FASTING, load_of
from jarbloom.core.bloom.drivers import FuturePlan
from jarbloom.core.bloom.ensemble import prepare, project
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.bloom.parameters import LOW_MG_N_L
from jarbloom.core.bloom.sample import ahead, sample_of, still
from jarbloom.core.journal.log import Log
from jarbloom.core.model.hours import Hours, hours_from
from jarbloom.core.model.tank import Source
from jarbloom.core.upset.levels import Spread, Thinned, levels, rose_within
from jarbloom.core.upset.response import BEAR_PH, DAY_SHARE, by_both, by_members, respond, with_unexplained
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import Limits, unionised_fraction
from jarbloom.errors import Refused
from tests.make import FEW, NOW, REFERENCE, ZONE, entry, numbered, tank, test_entry

SCHOOLS = REFERENCE.schools.corrective
FIRM = SCHOOLS["firm"]


def spiked(ammonia="2", nitrite="0", ph="7.8", **more):
    on = tank(ph=float(ph), kh_dkh=6.0, source=Source(float(ph), 6.0), **more)
    return on, levels(on, numbered(test_entry(0, ammonia=ammonia, nitrite=nitrite, ph=ph)), NOW, Limits())


class SmallModel(unittest.TestCase):
    def test_without_a_bloom_what_comes_in_stays(self) -> None:
        tan, no2, most, _ = ahead(still(3, 0.6), np.full(3, 1.0), np.full(3, 0.2), 0.0, 2.0)
        np.testing.assert_allclose(tan, 1.0 + 0.6 * 2.0)
        np.testing.assert_allclose(no2, 0.2)
        np.testing.assert_allclose(most, tan)

    def test_what_is_taken_from_ammonia_is_found_as_nitrite(self) -> None:
        tan, no2, _, most = ahead(still(1, 0.0, v_a=2.0), np.array([1.0]), np.array([0.0]), 0.0, 1.0)
        self.assertLess(tan[0], 0.2)
        self.assertAlmostEqual(tan[0] + no2[0], 1.0)
        self.assertAlmostEqual(most[0], no2[0])
        _, less, _, _ = ahead(still(1, 0.0, v_a=2.0, v_b=2.0), np.array([1.0]), np.array([0.0]), 0.0, 1.0)
        self.assertLess(less[0], no2[0])

    def test_it_follows_the_whole_ensemble(self) -> None:
        """Against the stepper with the same members, three days unfed: the middle and both edges, within 0.03 mg/L."""
        all_taken = replace(FEW, members=60)
        fish = entry("arrival", 20, species="neon_tetra", count=12)
        clean = [test_entry(d, ammonia="0", nitrite="0") for d in (12, 8, 4)]
        log = numbered(fish, *clean, entry("media", 1, how="tap"), test_entry(0.1, ammonia="1", nitrite="0.25"))
        self.assertEqual(sample_of(prepare(tank(), log, NOW, REFERENCE, FEW)).size, 61)
        whole = prepare(tank(), log, NOW, REFERENCE, all_taken)
        few = sample_of(whole)
        until = (NOW + timedelta(days=4)).date()
        path = project(whole, FuturePlan(feed_factor=FASTING, feed_factor_until=until), 4).path
        for days in (1, 3):
            tan, no2, _, _ = ahead(few, few.tan, few.no2, 0.0, days)
            k = int(days * 24 / FEW.publish_h)
            for small, full in ((tan, path.tan[k]), (no2, path.no2[k])):
                gap = np.abs(np.quantile(small, (0.1, 0.5, 0.9)) - np.quantile(full, (0.1, 0.5, 0.9)))
                self.assertLess(gap.max(), 0.03)

    def test_what_comes_in_is_what_the_fasting_animals_give_off(self) -> None:
        fish = entry("arrival", 1, species="neon_tetra", count=12)
        whole = prepare(tank(), numbered(fish), NOW, REFERENCE, FEW)
        load = load_of(whole.living, REFERENCE.species, tank().temp_c, NOW.date()).total / whole.volume_l
        low, middle = np.quantile(sample_of(whole).gain, (0.1, 0.5))
        self.assertAlmostEqual(low / (FASTING * load), 1.0, delta=0.3)
        self.assertLess(middle - FASTING * load, 0.005)  # mg N/L/day: what may lie somewhere unseen is little, mostly

    def test_where_readings_speak_against_it_no_member_carries_more(self) -> None:
        whole = prepare(tank(), numbered(entry("arrival", 200, species="neon_tetra", count=12)), NOW, REFERENCE, FEW)
        free, held = sample_of(whole), sample_of(whole, 0.02)
        for v, half in ((held.v_a, held.half_a), (held.v_b, held.half_b)):
            self.assertLessEqual((v * LOW_MG_N_L / (half + LOW_MG_N_L)).max(), 0.02 + 1e-9)
        self.assertGreater(np.median(free.v_a), np.median(held.v_a))
        above = numbered(entry("arrival", 200, species="neon_tetra", count=12), test_entry(0.1, ammonia="1"))
        made = forecast(tank(), above, NOW, REFERENCE, (), FEW)
        carried = made.sample.v_a * LOW_MG_N_L / (made.sample.half_a + LOW_MG_N_L)
        self.assertLessEqual(carried.max(), made.load_now / net_l(tank()) + 1e-6)

    def test_how_long_it_took_to_rise(self) -> None:
        log = numbered(test_entry(5, ammonia="0.25"), test_entry(3, ammonia="0"), test_entry(1, ammonia="2"))
        rows = ((log, 2.0), (log[2:], 3.0), ((), 3.0))
        for entries, days in rows:
            known = Log.of(entries)
            with self.subTest(n=len(entries)):
                self.assertAlmostEqual(rose_within(known, known.latest("ammonia")), days)


class Plans(unittest.TestCase):
    def test_nine_in_ten_stay_under_until_the_next_one_or_the_most_is_changed(self) -> None:
        for key, school in SCHOOLS.items():
            for ammonia, nitrite, gain in (("1", "0", 0.1), ("2", "1", 0.3), ("0.5", "2", 0.0)):
                on, lv = spiked(ammonia, nitrite)
                plan = respond(on, lv, still(61, gain), school, NOW)
                self.assertTrue(plan.changes)
                free = float(unionised_fraction(plan.changes[-1].ph_after, lv.temp_c, 0.0))
                tops = {"tan": lv.tan.high, "no2": lv.no2.high}
                for k, c in enumerate(plan.changes):
                    left = {q: x * (1 - c.fraction) for q, x in tops.items()}
                    following = plan.changes[k + 1].at if k + 1 < len(plan.changes) else c.at + timedelta(hours=6)
                    tops = left | {"tan": left["tan"] + gain * (following - c.at).total_seconds() / 86400}
                    day = sum(x.fraction for x in plan.changes[: k + 1] if c.at - x.at < timedelta(days=1))
                    at_most = max(c.fraction / school.max_fraction, day / DAY_SHARE) >= 1 - 3.0 / net_l(on)
                    under = tops["tan"] * free < lv.limits.nh3 * 1.02 and tops["no2"] < lv.no2_acts_at * 1.02
                    with self.subTest(school=key, ammonia=ammonia, change=k):
                        self.assertTrue(under or at_most)

    def test_no_more_than_is_needed(self) -> None:
        """A twentieth less of the first change would not have kept nine in ten under until the next."""
        on, lv = spiked("0.5", "0", "8.0")
        plan = respond(on, lv, still(61, 0.1), SCHOOLS["strong"], NOW)
        first = plan.changes[0]
        self.assertLess(first.fraction, 0.70)
        smaller = lv.tan.high * (1 - first.fraction + 0.06) + 0.1 * 0.5
        self.assertGreater(smaller * float(unionised_fraction(8.0, lv.temp_c, 0.0)), lv.limits.nh3)

    def test_a_bloom_that_carries_spares_water(self) -> None:
        on, lv = spiked("2", "0")
        bare, carried = (respond(on, lv, still(61, 0.3, v, v), FIRM, NOW) for v in (0.0, 3.0))
        self.assertLess(carried.litres, bare.litres)
        self.assertLessEqual(carried.within_limits_at, bare.within_limits_at)
        self.assertLess(carried.minutes, bare.minutes)

    def test_the_hours_at_home_are_kept(self) -> None:
        on, lv = spiked("4", "0", home_hours="06:30-08:00, 19-22")
        plan = respond(on, lv, still(61, 0.3), FIRM, NOW)
        self.assertEqual(plan.changes[0].at, NOW)  # somebody stands there with a test
        for c in plan.changes[1:]:
            self.assertTrue(time(6, 30) <= c.at.time() <= time(8) or time(19) <= c.at.time() <= time(22), c.at)

    def test_no_more_than_the_water_that_is_ready(self) -> None:
        on, lv = spiked("4", "0", ready_l=20.0, ready_every_h=24.0)
        plan = respond(on, lv, still(61), FIRM, NOW)
        self.assertEqual(plan.held_by, "water")
        self.assertTrue(all(c.litres <= 20.5 for c in plan.changes))
        self.assertTrue(
            all(b.at - a.at >= timedelta(hours=24) for a, b in zip(plan.changes, plan.changes[1:], strict=False))
        )
        free = respond(replace(on, ready_l=None), lv, still(61), FIRM, NOW)
        self.assertGreater(free.changes[0].litres, 20.5)

    def test_no_more_than_the_whole_volume_in_a_day_what_was_changed_before_counted(self) -> None:
        on, lv = spiked("2", "2", "7.4")
        for before in (0.0, 0.6):
            done = ((NOW - timedelta(hours=3), before),) if before else ()
            plan = respond(on, replace(lv, lately=done), still(61, 0.2), FIRM, NOW)
            made = [*done, *((c.at, c.fraction) for c in plan.changes)]
            for at, _ in made:
                day = sum(f for when, f in made if timedelta(0) <= at - when < timedelta(days=1))
                self.assertLessEqual(day, DAY_SHARE + 1.0 / net_l(on))
            self.assertLessEqual(plan.changes[0].fraction, 0.5 if not before else 0.41)
        worse, bad = spiked("8", "0", "8.4")
        strained = respond(worse, replace(bad, lately=((NOW - timedelta(hours=2), 0.9),)), still(61), FIRM, NOW)
        self.assertGreaterEqual(strained.changes[0].fraction, 0.45)  # the ammonia is worse than the strain

    def test_a_source_that_nobody_told_of_goes_on(self) -> None:
        on, lv = spiked("2", "0")
        quiet = still(61, 0.1)
        found = with_unexplained(quiet, lv.tan, 1.0)
        self.assertAlmostEqual(float(found.gain[0]), 0.1 + 2.0)
        self.assertAlmostEqual(float(with_unexplained(quiet, lv.tan, 9.0).gain[0]), 0.1 + 2.0 / 3)
        self.assertIs(with_unexplained(replace(quiet, tan=quiet.tan + 1.9), lv.tan, 1.0).gain, quiet.gain)
        self.assertGreater(respond(on, lv, found, FIRM, NOW).litres, respond(on, lv, quiet, FIRM, NOW).litres)

    def test_a_reading_after_a_change_is_read_with_the_one_before_it(self) -> None:
        """A kit of quarters reads the limit again after half a change: both together hold the water under it, unless
        much comes in, or the later one cannot be of that water."""
        on = tank(ph=7.0, kh_dkh=6.0, source=Source(7.0, 6.0))
        before, after = (test_entry(d, ammonia="0", nitrite="0.25", ph="7.0") for d in (0.1, 0.0))
        half = entry("change", 0.05, litres=net_l(on) / 2)

        def asked(*log, gain=0.05):
            plan = respond(on, levels(on, numbered(*log), NOW, Limits()), still(61, gain), FIRM, NOW)
            return bool(plan.changes) and plan.changes[0].at == NOW

        self.assertTrue(asked(after))
        self.assertTrue(asked(before, after))  # nothing was changed between them
        self.assertFalse(asked(before, half, after))
        self.assertTrue(asked(before, half, after, gain=6.0))
        higher = test_entry(0.0, ammonia="0", nitrite="0.5", ph="7.0")
        self.assertTrue(asked(before, half, higher))
        long_ago = replace(before, at=before.at - timedelta(hours=9))
        self.assertTrue(asked(long_ago, half, after))

    def test_both_readings_bound_it_and_never_below_what_was_read(self) -> None:
        read, half = Spread(0.125, 0.25, 0.375), Thinned(Spread(0.06, 0.125, 0.1875), 0.1)
        self.assertEqual(by_both(read, None, 0.0), read)
        self.assertEqual(by_both(read, half, 0.0), Spread(0.125, 0.1875, 0.1875))
        self.assertAlmostEqual(by_both(read, half, 1.0).high, 0.2875)
        self.assertEqual(by_both(read, half, 5.0), read)
        self.assertEqual(by_both(read, replace(half, spread=Spread(0.0, 0.0, 0.06)), 0.0), read)  # they contradict
        self.assertEqual(by_both(read, replace(half, spread=Spread(0.4, 0.5, 0.6)), 0.0), read)

    def test_members_that_have_heard_a_reading_bound_it_and_one_beyond_them_stands(self) -> None:
        read, own = Spread(0.125, 0.25, 0.375), np.linspace(0.0, 0.2, 401)
        self.assertAlmostEqual(by_members(read, own).high, 0.195)
        self.assertAlmostEqual(by_members(read, own).seen, 0.195)
        self.assertEqual(by_members(read, 5 * own), read)
        self.assertEqual(by_members(read, 0.5 * own), read)  # a meal or a body that nobody told of reads like this
        on, first = spiked("0", "0.25", "7.0")
        again, sure = replace(first, answered=True), replace(still(401, 0.0), no2=own)
        self.assertTrue(respond(on, again, replace(sure, no2=2 * own), FIRM, NOW).changes)
        self.assertEqual(respond(on, again, sure, FIRM, NOW).changes, ())
        self.assertTrue(respond(on, first, sure, FIRM, NOW).changes)  # the first look takes the kit's step whole

    def test_a_usual_change_is_no_answer_to_a_reading(self) -> None:
        def answered(*log) -> bool:
            return levels(tank(), numbered(*log), NOW, Limits()).answered

        over, clean = test_entry(1.1, nitrite="0.25"), test_entry(1.1, ammonia="0", nitrite="0")
        self.assertTrue(answered(over, entry("change", 1.0, litres=30)))
        self.assertFalse(answered(clean, entry("change", 1.0, litres=30)))
        self.assertFalse(answered(over, entry("change", 1.2, litres=30)))
        self.assertFalse(answered(test_entry(4.1, nitrite="0.25"), entry("change", 4.0, litres=30)))

    def test_a_change_that_is_needed_is_made_for_the_whole_step(self) -> None:
        """Members that leave the upper half of the step out spare a change; they do not make one smaller."""
        on, lv = spiked("0", "0.25", "7.0")
        lv = replace(lv, answered=True)
        own = np.linspace(0.0, 0.30, 401)
        unsure, few = (respond(on, lv, replace(still(401, 0.0), no2=x), FIRM, NOW).changes for x in (own, 10 * own))
        self.assertTrue(unsure)
        whole = 0.375 * (1 - unsure[0].fraction)
        self.assertLessEqual(whole, lv.no2_acts_at * 1.02)
        self.assertGreaterEqual(few[0].fraction, unsure[0].fraction)

    def test_clean_tests_bound_the_members(self) -> None:
        on, lv = spiked("0", "0", "7.0")
        doubting = replace(still(401, 0.0), no2=np.linspace(0.0, 0.5, 401))
        self.assertEqual(respond(on, lv, doubting, FIRM, NOW).changes, ())
        self.assertTrue(respond(on, replace(lv, no2=None), doubting, FIRM, NOW).changes)

    def test_little_water_is_changed_all_the_same_and_never_called_safe(self) -> None:
        """Five litres a day of 100: less than the usual least share, and no reason to say that all is well."""
        on, lv = spiked("4", "1", ready_l=5.0, ready_every_h=24.0)
        plan = respond(on, lv, still(61, 0.2), FIRM, NOW)
        self.assertTrue(plan.changes)
        self.assertTrue(all(c.litres <= 5.5 for c in plan.changes))
        self.assertEqual((plan.reached, plan.held_by), (False, "water"))
        spent = respond(on, replace(lv, lately=((NOW, 1.0),)), still(61, 0.2), FIRM, NOW)
        self.assertFalse(spent.reached)

    def test_the_step_that_animals_bear_is_kept_unless_the_ammonia_is_worse(self) -> None:
        on, lv = spiked("0", "2", "6.8")
        on = replace(on, kh_dkh=2.0, source=Source(8.2, 14.0))
        lv = replace(lv, kh_dkh=2.0)
        plan = respond(on, lv, still(61), FIRM, NOW)
        self.assertIn(plan.held_by, ("ph", "kh"))
        self.assertLess(plan.changes[0].fraction, FIRM.max_fraction)
        tender = respond(on, replace(lv, limits=Limits(nh3=0.01)), still(61), FIRM, NOW)
        self.assertLessEqual(tender.changes[0].fraction, plan.changes[0].fraction)
        self.assertLess(BEAR_PH[1], BEAR_PH[0])


class AtHome(unittest.TestCase):
    def test_the_next_moment_at_home(self) -> None:
        hours = hours_from("17-22:30; 6.30 to 8:00")
        day = datetime(2026, 11, 24, tzinfo=NOW.tzinfo)
        for now, then in (("03:00", "06:30"), ("07:10", "07:10"), ("12:00", "17:00"), ("23:00", "30:30")):
            h, m = map(int, then.split(":"))
            with self.subTest(now=now):
                at = day.replace(hour=int(now[:2]), minute=int(now[3:]))
                self.assertEqual(hours.next(at), day + timedelta(hours=h, minutes=m))
        self.assertEqual(str(hours), "06:30-08:00, 17:00-22:30")
        self.assertEqual(hours_from(" "), Hours())
        self.assertEqual(str(NOW.tzinfo), ZONE)

    def test_what_is_refused(self) -> None:
        for text in ("evenings", "22-6", "25:00-26:00", "8-12, 11-14", "8-8", "1-2,3-4,5-6,7-8,9-10,11-12,13-14"):
            with self.subTest(text=text), self.assertRaises(Refused) as told:
                hours_from(text)
            self.assertEqual(told.exception.field, "home_hours")


if __name__ == "__main__":
    unittest.main()
