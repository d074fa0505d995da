"""Looking ahead in a cycle: dose, test, alkalinity for what is to come; and what a batch is judged by."""

import unittest
from dataclasses import replace
from datetime import timedelta

import numpy as np

from jarbloom.core.advice.alkalinity import kh_for_the_cycle, kh_left
from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.looking_ahead import dose_is_gone, opens_on, test_pays_on
from jarbloom.core.advice.situation import situation
from jarbloom.core.advice.testing import next_test, test_advice
from jarbloom.core.advice.verdict import act_words, verdict
from jarbloom.core.bloom.drivers import drivers
from jarbloom.core.bloom.ensemble import Forecasting, prepare
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.bloom.levers import Lever, levers
from jarbloom.core.bloom.limits import planning_limits
from jarbloom.core.bloom.steps import Coming, Raised, Step, kh_raised, steps_ahead
from jarbloom.core.journal.proof import proven, seen_working
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Source
from jarbloom.core.stocking.dates import BatchDay, dates_of
from jarbloom.core.upset.levels import episode
from jarbloom.core.water.ammonia import Limits
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.units import Units
from tests.core.test_jobs import look
from tests.make import FEW, NOW, REFERENCE, at, entry, numbered, tank, test_entry

BATCH = Batch(1, "Batch one", NOW.date(), (Animals("harlequin_rasbora", 6),))
# Three and a half weeks of a usual cycle, dosed every other day, both forms gone for a week
CYCLED = [
    e
    for d in range(24, 1, -2)
    for e in (
        entry("dose", d, 8, mg_n=216.0),
        test_entry(d - 1, 18, ammonia="0" if d < 15 else "1", nitrite="0" if d < 9 else "2"),
    )
]


def jobs_of(s):
    return {j.kind: j for j in jobs(s)}


class Steps(unittest.TestCase):
    def steps(self, *log, **settings):
        made = prepare(tank(kh_dkh=30), numbered(*log), NOW, REFERENCE, replace(FEW, **settings))
        return steps_ahead(made, None)

    def test_a_dose_puts_the_clean_test_off_and_never_brings_it_nearer(self) -> None:
        wait, dose = self.steps(*CYCLED[:16])
        self.assertEqual((wait.name, dose.name), ("wait", "dose"))
        self.assertEqual(wait.clean[0], dose.clean[0])  # now is now, whatever is done next
        self.assertLess(sum(dose.clean), sum(wait.clean))
        self.assertTrue(all(d <= w + 1e-9 for w, d in zip(wait.clean, dose.clean, strict=True)))
        self.assertGreater(wait.clean[-1], 0.1)

    def test_a_fresh_tank_opens_nothing(self) -> None:
        wait, dose = self.steps(entry("dose", 1, mg_n=216.0), test_entry(0.1, ammonia="2", nitrite="0"))
        self.assertEqual(sum(wait.opens) + sum(dose.opens), 0.0)
        self.assertLess(max(wait.spent), 0.2)

    def test_no_dose_where_waiting_opens_the_gate_and_the_test_stands_on_that_day(self) -> None:
        log = (*CYCLED, test_entry(0.1, ammonia="0", nitrite="0.25"))
        s = look(*log, on=tank(kh_dkh=30), batches=[BATCH],
                 steps=(Step("wait", (0, 0.2, 0.9, 1, 1), (0, 0.2, 0.9, 1, 1), (1,) * 5),
                        Step("dose", (0, 0, 0.3, 0.8, 1), (0, 0, 0.3, 0.8, 1), (1, 0, 1, 1, 1))))  # fmt: skip
        self.assertEqual(opens_on(s), 1)
        self.assertIn("no dose now", jobs_of(s)["wait"].title)
        self.assertNotIn("dose", jobs_of(s))
        slow = replace(s.tank, pace="calendar")  # there the proof is asked, and a dose is part of it
        self.assertIsNone(opens_on(replace(s, tank=slow)))
        grows = look(*log, on=tank(kh_dkh=30), batches=[BATCH],
                     steps=(Step("wait", (0,) * 5, (0, 0.2, 0.9, 1, 1), (1,) * 5),
                            Step("dose", (0, 0, 0, 0, 0.5), (0,) * 5, (1, 0, 1, 1, 1))))  # fmt: skip
        self.assertIsNone(opens_on(grows))  # clean is not enough: the bloom has to grow for the batch
        self.assertIn("dose", jobs_of(grows))

    def test_where_a_day_after_the_dose_all_are_clean_an_earlier_hour_tells_who_carries_more(self) -> None:
        on = tank(kh_dkh=30)
        log = numbered(*CYCLED, entry("dose", 0.02, mg_n=216.0))
        made = prepare(on, log, NOW, REFERENCE, replace(FEW, members=200))

        def batch_of(count: int) -> Batch:
            return replace(BATCH, items=(Animals("harlequin_rasbora", count),))

        def wait(count: int) -> Step:
            batch = batch_of(count)
            return steps_ahead(made, Coming(batch, planning_limits(batch.items, REFERENCE, on), 0.5))[0]

        few, many, all_too_many = wait(60), wait(130), wait(200)
        self.assertGreater(few.opens[1], 0.9)  # tomorrow's hour does: no need to come earlier
        self.assertEqual(few.early, ())
        self.assertEqual((many.clean[1], many.opens[1]), (1.0, 0.0))
        self.assertGreater(many.early[0][1], 0.5)
        self.assertEqual(many.early[-1][1], 0.0)  # by then those are clean too that do not carry them
        self.assertEqual([f"{t:%H:%M}" for t, _ in many.early], ["04:00", "06:00", "08:00", "10:00", "12:00"])
        self.assertEqual(sum(p for _, p in all_too_many.early), 0.0)
        # At its hour it is that hour still
        later = prepare(on, log, NOW + timedelta(hours=13.2), REFERENCE, replace(FEW, members=200))
        many_then = steps_ahead(later, Coming(batch_of(130), planning_limits(batch_of(130).items, REFERENCE, on), 0.5))
        self.assertEqual([t for t, _ in many_then[0].early], [t for t, _ in many.early[2:]])

    def test_the_test_then_stands_at_its_hour_where_the_keeper_is_at_home(self) -> None:
        log = (*CYCLED, test_entry(0.1, ammonia="0", nitrite="0"), entry("dose", 0.02, mg_n=216.0))
        clean, crowd = (0, 1, 1, 1, 1), [replace(BATCH, items=(Animals("harlequin_rasbora", 400),))]
        six, eight, noon = (NOW.replace(minute=0) + timedelta(hours=h) for h in (12, 14, 18))
        for early, home, hour in (
            (((six, 0.2), (eight, 0.6), (noon, 0.0)), "", 8),
            (((six, 0.2), (eight, 0.6), (noon, 0.0)), "06:00-07:30", 6),
            (((six, 0.6), (eight, 0.6)), "6-22", 6),  # the sooner of two
            (((eight, 0.1), (noon, 0.1)), "", None),  # worth no tube
            (((six, 0.2), (eight, 0.6)), "17-22", None),
        ):
            steps = (Step("wait", (0,) * 5, clean, clean, early), Step("dose", (0,) * 5, (0,) * 5, (0,) * 5))
            before = (steps[0], replace(steps[1], early=early))  # the same is told before the dose that is on the list
            undosed = look(*log[:-1], on=tank(kh_dkh=30, home_hours=home), batches=crowd, steps=before)
            self.assertEqual(next_test(undosed).at_hour, hour is not None)
            s = look(*log, on=tank(kh_dkh=30, home_hours=home), batches=crowd, steps=steps)
            job = jobs_of(s)["test"]
            with self.subTest(early=early, home=home):
                self.assertEqual("tomorrow at" in job.due_text, hour is not None, job.due_text)
                if hour is not None:
                    self.assertEqual((job.due.date() - NOW.date()).days, 1)
                    self.assertEqual((job.due.hour, job.due.minute), (hour, 0))
                    self.assertIn("How fast the dose goes", job.why)
                    self.assertIn(f"tomorrow at 0{hour}:00", test_advice(s))
        open_gate = look(*log[:-1], on=tank(kh_dkh=30), batches=[BATCH], steps=steps)
        self.assertFalse(next_test(open_gate).at_hour)  # nothing is to be opened
        at_it = Step("wait", (0,) * 5, clean, clean, ((NOW - timedelta(minutes=10), 0.6),))
        reached = look(*log, on=tank(kh_dkh=30), batches=crowd, steps=(at_it, steps[1]))
        self.assertLessEqual(next_test(reached).due, NOW)
        seen = look(*log, test_entry(0.01, ammonia="0.25", nitrite="0.5"), on=tank(kh_dkh=30), batches=crowd,
                    steps=(Step("wait", (0,) * 5, clean, clean, ((eight, 0.6),)), steps[1]))  # fmt: skip
        self.assertFalse(next_test(seen).at_hour)  # that was the test of it

    def test_it_is_fed_by_the_forecast_only_where_that_is_sure(self) -> None:
        log = (*CYCLED, entry("dose", 0.95, mg_n=216.0))
        for spent, doses in ((0.95, True), (0.85, False)):
            steps = tuple(Step(n, (0,) * 5, (0,) * 5, (spent,) * 5) for n in ("wait", "dose"))
            s = look(*log, on=tank(kh_dkh=30), steps=steps)
            with self.subTest(spent=spent):
                self.assertEqual((dose_is_gone(s), "dose" in jobs_of(s)), (doses, doses))
        old = (*CYCLED[:-4], entry("dose", 1.5, mg_n=216.0))
        steps = tuple(Step(n, (0,) * 5, (0,) * 5, (1.0,) * 5) for n in ("wait", "dose"))
        self.assertFalse(dose_is_gone(look(*old, on=tank(kh_dkh=30), steps=steps)))  # no test for days: nobody is sure

    def test_a_test_pays_when_it_may_find_the_dose_gone_and_never_waits_longer_than_four_days(self) -> None:
        log = (entry("dose", 2, mg_n=216.0), test_entry(1, ammonia="2", nitrite="0"))
        for spent, days in (((0, 0, 0.3, 1, 1), 2), ((0,) * 5, 3)):
            s = look(*log, steps=tuple(Step(n, (0,) * 5, (0,) * 5, spent) for n in ("wait", "dose")))
            with self.subTest(spent=spent):
                self.assertEqual((next_test(s).due.date() - NOW.date()).days, days)
        gone = look(*log, steps=tuple(Step(n, (0,) * 5, (0,) * 5, (0.5,) * 5) for n in ("wait", "dose")))
        self.assertEqual(test_pays_on(gone), 0)
        self.assertEqual(next_test(gone).due.date(), NOW.date())


class Alkalinity(unittest.TestCase):
    SOFT = tank(kh_dkh=2.0, ph=6.8, source=Source(6.8, 2.0), typed=frozenset({"kh_dkh"}))

    def test_a_buffer_is_asked_for_before_the_doses_spend_it(self) -> None:
        s = look(entry("dose", 1, mg_n=216.0), test_entry(0.1, ammonia="1", nitrite="0", kh="2"), on=self.SOFT)
        wanted, job = kh_for_the_cycle(s), jobs_of(s)["buffer"]
        assert wanted is not None and job.amount is not None
        meq = 1000 * job.amount / 84.007 / s.volume_l  # NaHCO3
        self.assertAlmostEqual(wanted.left + meq / MEQ_PER_DKH, wanted.goal, delta=0.01)
        self.assertEqual(job.shorthand.split()[0], "buffer")
        hard = look(entry("dose", 1, mg_n=216.0), test_entry(0.1, ammonia="1", nitrite="0", kh="12"),
                    on=replace(self.SOFT, kh_dkh=12.0))  # fmt: skip
        self.assertIsNone(kh_for_the_cycle(hard))

    def test_what_low_kh_costs_those_to_come(self) -> None:
        on = tank(kh_dkh=8, ph=6.9)
        batch = replace(BATCH, items=(Animals("harlequin_rasbora", 100),))
        coming = Coming(batch, planning_limits(batch.items, REFERENCE, on))
        found = {}
        for kh in ("8", "5", "1.5"):
            log = numbered(*CYCLED, test_entry(0.2, ammonia="0", nitrite="0", kh=kh))
            found[kh] = kh_raised(prepare(on, log, NOW, REFERENCE, replace(FEW, members=200)), coming)
        self.assertIsNone(found["8"])
        five, spent = found["5"], found["1.5"]
        assert five is not None and spent is not None
        self.assertLess(five.then - five.now, 0.1)
        self.assertGreater(spent.then - spent.now, 0.2)
        self.assertAlmostEqual(spent.then, five.then, delta=0.03)  # the same water, once it is put right

    def test_it_is_raised_for_those_to_come_before_the_doses_need_it(self) -> None:
        on, crowd = tank(kh_dkh=9.0), [replace(BATCH, items=(Animals("harlequin_rasbora", 400),))]
        read = test_entry(0.1, ammonia="0", nitrite="0", kh="6")
        low = Raised(0.4, 0.8)
        for log, batches, raised, asked in (
            ([*CYCLED, read], crowd, low, True),
            ([*CYCLED, read], crowd, None, False),
            ([*CYCLED, read], crowd, Raised(0.85, 0.9), False),
            ([*CYCLED, read], [BATCH], low, False),  # the gate is open: the change before the batch brings it
            ([*CYCLED, read, entry("buffer", 0.05, grams=9.0)], crowd, low, False),  # read it first
        ):
            s = look(*log, on=on, batches=batches, raised=raised)
            with self.subTest(raised=raised, last=s.entries[-1].kind):
                self.assertEqual("buffer" in jobs_of(s), asked)
                if asked:
                    self.assertIn("slows the bloom", jobs_of(s)["buffer"].why)
                    self.assertIn("80\u00a0%", jobs_of(s)["buffer"].why)

    def test_harder_water_at_hand_is_a_change_instead(self) -> None:
        t = replace(self.SOFT, source=Source(7.8, 14.0))
        s = look(entry("dose", 1, mg_n=216.0), test_entry(0.1, ammonia="1", nitrite="0", kh="1"), on=t)
        self.assertIn("water_change", jobs_of(s))
        self.assertNotIn("buffer", jobs_of(s))

    def test_it_is_not_asked_twice_before_it_was_read_and_then_it_is_read(self) -> None:
        log = (entry("dose", 3, mg_n=216.0), test_entry(2, ammonia="1", nitrite="0", kh="0.5"),
               entry("buffer", 1, grams=20.0))  # fmt: skip
        s = look(*log, on=self.SOFT)
        self.assertNotIn("buffer", jobs_of(s))
        self.assertIn("KH", next_test(s).title)
        rise = 1000 * 20.0 / 84.007 / s.volume_l / MEQ_PER_DKH
        self.assertAlmostEqual(kh_left(s)[0], 0.5 + rise, delta=1e-6)

    def test_no_dose_below_ph_six_and_a_half(self) -> None:
        s = look(
            entry("dose", 3, mg_n=216.0), test_entry(0.1, ammonia="0", nitrite="1", ph="6.2", kh="1"), on=self.SOFT
        )
        self.assertNotIn("dose", jobs_of(s))
        self.assertIn("KH first", jobs_of(s)["wait"].why)
        self.assertIn("buffer", jobs_of(s))

    def test_what_is_left_low_is_not_taken_to_be_mended(self) -> None:
        """The same tank at KH 0.2 for twelve days, and one that was buffered just now: a week apart at least."""
        t = tank(kh_dkh=6.0)
        log = [*CYCLED[:14], test_entry(12, kh="0.2"), test_entry(0.2, ammonia="1", nitrite="2", kh="0.2", ph="6.0")]
        many = replace(FEW, members=200)
        spent = forecast(t, numbered(*log), NOW, REFERENCE, (), many).readiness
        put_right = entry("buffer", 0.1, grams=12.0)
        mended = forecast(t, numbered(*log, put_right), NOW, REFERENCE, (), many).readiness
        self.assertLess(spent.already, 0.05)
        assert mended.p50 is not None and spent.p50 is not None
        self.assertLessEqual(mended.p50, spent.p50 - timedelta(days=7))
        drv = drivers(t, numbered(put_right), REFERENCE.species, at(1), NOW, 1 / 24)
        self.assertAlmostEqual(float(drv.dose_alk.sum()), 12_000 / 84.007 / 108.08, delta=1e-3)


class JudgedByItsCourse(unittest.TestCase):
    def test_a_clean_test_of_water_that_was_loaded(self) -> None:
        t, clean = tank(), test_entry(0.2, ammonia="0", nitrite="0")
        for log, seen in (
            ([clean], False),  # nothing went in
            ([entry("dose", 1.2, mg_n=216.0), clean], True),
            ([entry("dose", 0.3, mg_n=216.0), clean], False),  # a few hours are no proof
            ([entry("dose", 9, mg_n=216.0), clean], False),  # long ago, and nothing was read between
            ([entry("dose", 9, mg_n=216.0), test_entry(5, ammonia="1", nitrite="0.5"), clean], True),
            ([entry("dose", 1.2, mg_n=216.0), test_entry(0.2, ammonia="0", nitrite="0.25")], False),
        ):
            with self.subTest(log=[(e.kind, e.at) for e in log]):
                self.assertEqual(seen_working(t, numbered(*log), NOW), seen)

    def test_a_batch_after_one_clean_test_counts_as_cycled_by_this_pace_only(self) -> None:
        log = numbered(entry("dose", 3, mg_n=216.0), test_entry(1.5, ammonia="0", nitrite="0"),
                       entry("arrival", 1, species="guppy", count=4))  # fmt: skip
        found = {p: proven(tank(pace=p), log, REFERENCE.schools, NOW) for p in ("test_led", "calendar")}
        self.assertEqual(found, {"test_led": True, "calendar": False})
        forced = numbered(*log[:2], entry("arrival", 1, species="guppy", count=4, override="could not wait"))
        self.assertFalse(proven(tank(pace="test_led"), forced, REFERENCE.schools, NOW))


class TheRest(unittest.TestCase):
    def test_few_animals_starve_the_bloom_that_the_rest_will_need(self) -> None:
        """Asked of an empty tank whose batches together put out less than a day's dose; more of them is never safer."""
        one = Batch(1, "Batch one", NOW.date(), (Animals("zebra_danio", 6),))
        few, many = (Batch(2, "Batch two", NOW.date(), (Animals("harlequin_rasbora", n),)) for n in (8, 60))
        log = numbered(*CYCLED)
        p = [forecast(tank(kh_dkh=30), log, NOW, REFERENCE, [one, b], FEW).batches[0].p_rest for b in (few, many)]
        assert p[0] is not None and p[1] is not None
        self.assertGreaterEqual(p[0], p[1])
        alone = forecast(tank(kh_dkh=30), log, NOW, REFERENCE, [one], FEW).batches[0]
        self.assertIsNone(alone.p_rest)
        crowd = Batch(2, "Batch two", NOW.date(), (Animals("oscar", 8),))  # more than doses ever feed: animals have to
        self.assertIsNone(forecast(tank(kh_dkh=30), log, NOW, REFERENCE, [one, crowd], FEW).batches[0].p_rest)

    def test_it_waits_for_them_three_weeks_from_the_first_clean_test_and_no_longer(self) -> None:
        one = Batch(1, "Batch one", NOW.date(), (Animals("zebra_danio", 6),))
        rest = Batch(2, "Batch two", NOW.date(), (Animals("harlequin_rasbora", 90),))
        for clean_days_ago, waits in ((18.8, True), (21.2, False)):
            log = (
                entry("dose", 40, mg_n=216.0),
                entry("dose", 30, mg_n=216.0),
                test_entry(26, ammonia="0", nitrite="1"),
                test_entry(clean_days_ago, ammonia="0", nitrite="0"),
                *(entry("dose", d, mg_n=216.0) for d in (12, 6, 2)),
                test_entry(0.2, ammonia="0", nitrite="0"),
            )
            s = look(*log, on=tank(kh_dkh=30), batches=[one, rest])
            low = [replace(b, p_rest=0.4, p_safe_today=0.99, p_first_day=1.0) for b in s.forecast.batches]
            gate = replace(s, forecast=replace(s.forecast, batches=tuple(low))).next_gate
            assert gate is not None
            with self.subTest(clean_days_ago):
                self.assertEqual("rest" in {c.key for c in gate.holding}, waits)
                days = [BatchDay(b.id, NOW.date(), NOW.date(), "today") for b in (one, rest)]
                told, after = dates_of(days, [one, rest], [gate], s.findings, NOW.date())
                assert told.day is not None and after.day is not None
                ends = [c.until for c in gate.holding if c.until is not None]
                self.assertEqual(told.day, max(ends) if waits else NOW.date())
                self.assertGreaterEqual(after.day, told.day)  # never before the one that it follows
                if waits:
                    self.assertIn("so long at most", told.sets)
                    until = NOW - timedelta(days=clean_days_ago) + timedelta(days=21)
                    self.assertIn(
                        f"until {until:%-d %b} at most", next(c for c in gate.missing if c.key == "rest").sentence
                    )


class AtOnce(unittest.TestCase):
    """Batches that the water bears together may come on one day: by few the bloom would be starved."""

    ONE = Batch(1, "Batch one", NOW.date(), (Animals("zebra_danio", 8),))

    def homes(self, *more: Batch, **changes) -> list[str]:
        s = look(*CYCLED, on=tank(kh_dkh=30, **changes), batches=(self.ONE, *more))
        return [j.title for j in jobs(s) if j.kind == "add_batch"]

    def batch(self, number: int, species: str, count: int) -> Batch:
        return Batch(number, f"Batch {number}", NOW.date(), (Animals(species, count),))

    def test_as_many_as_the_water_bears_and_no_more(self) -> None:
        few, crowd = self.batch(2, "harlequin_rasbora", 10), self.batch(3, "oscar", 8)
        self.assertEqual(len(self.homes()), 1)
        self.assertEqual(len(self.homes(few)), 2)
        self.assertEqual(len(self.homes(few, crowd)), 2)
        self.assertEqual(len(self.homes(replace(few, id=9), crowd)), 1)  # nobody is passed over
        self.assertLessEqual(len(self.homes(few, pace="calendar")), 1)

    def test_each_has_a_tick_of_its_own_and_the_gate_stays_open_for_the_second(self) -> None:
        few = self.batch(2, "harlequin_rasbora", 10)
        s = look(*CYCLED, on=tank(kh_dkh=30), batches=(self.ONE, few))
        keys = [j.key for j in jobs(s) if j.kind == "add_batch"]
        self.assertEqual(len(set(keys)), 2)
        came = entry("arrival", 0, species="zebra_danio", count=8, batch=1)
        arrived = replace(self.ONE, arrived=NOW.date())
        after = look(*CYCLED, came, on=tank(kh_dkh=30), batches=(arrived, few))
        self.assertNotIn("pace", {c.key for c in after.next_gate.holding})
        later = look(*CYCLED, replace(came, at=at(1)), on=tank(kh_dkh=30), batches=(arrived, few))
        self.assertIn("pace", {c.key for c in later.next_gate.holding})


class WasteOnItsWay(unittest.TestCase):
    """Below the limits, and the bloom is gone: how much to change, and when, is solved on the members."""

    CROWD = entry("arrival", 40, species="guppy", count=40, length_cm=4.0)
    LOST = entry("media", 0.5, how="replaced", share=100)

    def seen(self, *more, on=None):
        trace = test_entry(0.05, ammonia="0.25", nitrite="0", ph="7.0")
        return look(self.CROWD, *OneHighReading.WEEKS, self.LOST, trace, *more, on=on or tank(ph=7.0))

    def test_the_job_is_the_plans_first_step(self) -> None:
        s = self.seen()
        self.assertTrue(s.findings.has("media_lost_trace"))
        self.assertFalse(s.over)
        assert s.response is not None
        asked = [j for j in jobs(s) if j.kind == "water_change"]
        self.assertEqual([(j.due, j.amount) for j in asked], [(c.at, c.litres) for c in s.response.changes[:3]])
        self.assertTrue(asked)
        self.assertIn(s.units.volume(asked[0].amount), asked[0].title)
        self.assertEqual(act_words(s, s.findings.all[0]), "move the surface: air stone, outlet up, or stir by hand")

    def test_what_was_just_changed_is_not_asked_for_again(self) -> None:
        before = self.seen().response
        after = self.seen(entry("change", 0.01, litres=50.0)).response
        assert before is not None and after is not None
        self.assertTrue(all(c.at > after.retest_at for c in after.changes))

    def test_few_animals_need_none(self) -> None:
        few = entry("arrival", 40, species="guppy", count=1, length_cm=3.0)
        trace = test_entry(0.05, ammonia="0.25", nitrite="0", ph="6.6")
        s = look(few, *OneHighReading.WEEKS, self.LOST, trace, on=tank(ph=6.6))
        self.assertTrue(s.findings.has("media_lost_trace"))
        self.assertFalse([j for j in jobs(s) if j.kind == "water_change" and j.due <= s.now])


class OneHighReading(unittest.TestCase):
    FISH = entry("arrival", 40, species="guppy", count=4)
    WEEKS = tuple(test_entry(d, ammonia="0", nitrite="0", ph="7.2") for d in (30, 24, 18, 12, 8, 5, 2))

    def test_it_is_repeated_first_where_the_forecast_does_not_believe_it_and_two_act(self) -> None:
        once = look(self.FISH, *self.WEEKS, test_entry(0.02, ammonia="0", nitrite="0.25", ph="7.2"))
        self.assertTrue(once.findings.has("repeat_high"))
        self.assertEqual(verdict(once).state, "test")
        self.assertNotIn("water_change", jobs_of(once))
        twice = look(self.FISH, *self.WEEKS, test_entry(0.1, ammonia="0", nitrite="0.25", ph="7.2"),
                     test_entry(0.02, ammonia="0", nitrite="0.25", ph="7.2"))  # fmt: skip
        self.assertEqual(verdict(twice).state, "act")
        high = look(self.FISH, *self.WEEKS, test_entry(0.02, ammonia="0", nitrite="5", ph="7.2"))
        self.assertEqual(verdict(high).state, "act")

    def test_what_a_repeat_did_not_bear_out_is_looked_at_again_the_next_morning(self) -> None:
        odd = test_entry(0.1, ammonia="0", nitrite="0.25", ph="7.2")
        clean = test_entry(0.04, ammonia="0", nitrite="0", ph="7.2")
        for log, morning in (((odd, clean), True), ((clean,), False), ((replace(odd, at=at(1)), clean), False)):
            with self.subTest(n=len(log)):
                due = next_test(look(self.FISH, *self.WEEKS, *log)).due
                self.assertEqual(due.date() == at(-1).date() and due.hour < 12, morning)
        s = look(self.FISH, *self.WEEKS, odd, entry("change", 0.08, litres=50.0), clean)
        self.assertGreater((next_test(s).due - s.now).total_seconds() / 3600, 16)

    def test_over_the_limit_with_no_change_worth_its_strain_the_verdict_is_a_test(self) -> None:
        """Half was changed and the kit reads the limit again: no second half, and a look in the morning."""
        crowd = entry("arrival", 40, species="guppy", count=20)
        body = entry("death", 0.5, species="guppy", count=1, body="not_found")
        before, after = (test_entry(d, ammonia="0", nitrite="0.25", ph="7.2") for d in (0.12, 0.02))
        s = look(crowd, *self.WEEKS, body, before, entry("change", 0.1, litres=54.0), after)
        self.assertTrue(s.over)
        self.assertNotIn("water_change", {j.kind for j in jobs(s) if j.due <= s.now})
        self.assertEqual(verdict(s).state, "act")
        self.assertRegex(verdict(s).call, r"^Test tomorrow at 0[678]:")

    def test_a_step_over_the_test_of_the_same_day_is_repeated_whatever_was_logged_before_that(self) -> None:
        crowd = entry("arrival", 40, species="guppy", count=8)
        body = entry("death", 1.5, species="guppy", count=1, body="not_found")
        clean = test_entry(0.6, ammonia="0", nitrite="0", ph="7.2")
        odd, twice = (test_entry(d, ammonia="0", nitrite="0.25", ph="7.2") for d in (0.06, 0.02))
        self.assertTrue(look(crowd, *self.WEEKS, body, clean, odd).findings.has("repeat_high"))
        self.assertTrue(look(crowd, *self.WEEKS, body, clean, odd, twice).findings.has("nitrite_over"))
        self.assertTrue(look(crowd, *self.WEEKS, clean, replace(body, at=at(0.3)), odd).findings.has("nitrite_over"))

    def test_ammonia_that_came_up_is_looked_at_again_the_next_morning(self) -> None:
        came = [test_entry(d, ammonia="0.5", nitrite="0", ph="7.4", kh="6") for d in (0.06, 0.02)]
        for log, morning in ((came, True), ([replace(came[0], at=at(0.5)), *came], False)):
            with self.subTest(n=len(log)):
                s = look(self.FISH, *self.WEEKS, *log, on=tank(ph=7.4))
                self.assertFalse(s.over)
                again = next_test(s)
                self.assertEqual("nitrite follows" in again.why and again.due.hour < 12, morning)

    def test_what_two_clean_days_followed_explains_no_spike_nor_does_a_refuted_misread_confirm(self) -> None:
        body = entry("death", 6, species="guppy", count=1, body="not_found")
        odd = test_entry(0.02, ammonia="0", nitrite="0.25", ph="7.2")
        fish = entry("arrival", 40, species="guppy", count=8)
        late = replace(body, at=at(3))  # one clean day after it
        self.assertTrue(look(fish, *self.WEEKS, late, odd).findings.has("nitrite_over"))
        two = [test_entry(d, ammonia="0", nitrite="0", ph="7.2") for d in (4, 3, 1)]
        s = look(fish, *self.WEEKS, body, *two, odd)
        self.assertTrue(s.findings.has("repeat_high"))
        self.assertNotIn("water_change", jobs_of(s))
        refuted = [test_entry(1.1, ammonia="0", nitrite="0.25", ph="7.2"), *two[-1:]]
        self.assertTrue(look(fish, *self.WEEKS, *refuted, odd).findings.has("repeat_high"))
        same_day = test_entry(0.1, ammonia="0", nitrite="0.25", ph="7.2")
        between = test_entry(0.06, ammonia="0", nitrite="0", ph="7.2")
        self.assertFalse(look(fish, *self.WEEKS, same_day, between, odd).findings.has("repeat_high"))

    def test_a_misread_that_the_next_test_does_not_bear_out_is_no_upset(self) -> None:
        t, limits = tank(), Limits()
        odd, clean = test_entry(2, ammonia="0", nitrite="0.25"), test_entry(1.5, ammonia="0", nitrite="0")
        self.assertIsNone(episode(t, numbered(self.FISH, odd, clean), limits))
        for log in (
            (odd, test_entry(0.2, ammonia="0", nitrite="0")),  # only after two days
            (odd, entry("change", 1.8, litres=50.0), clean),  # the change may have done it
            (test_entry(2, ammonia="0", nitrite="1"), clean),  # two steps do not come of a misread zero
        ):
            with self.subTest(log=[e.kind for e in log]):
                self.assertIsNotNone(episode(t, numbered(self.FISH, *log), limits))


DOUBTING = replace(FEW, doubts=True)


class Sooner(unittest.TestCase):
    """What would bring the proof forward: the same members, one thing done differently."""

    CYCLE = (entry("dose", 12, mg_n=216.0), test_entry(6, ammonia="1", nitrite="0.5"))

    def of(self, *entries, members: int = FEW.members, **changes) -> dict[str, Lever]:
        settings = replace(FEW, members=members)
        found = levers(prepare(tank(**{"kh_dkh": 6, **changes}), numbered(*entries), NOW, REFERENCE, settings))
        return {x.key: x for x in found}

    def test_media_and_warmth_help_a_cold_cycle_and_half_doses_do_not(self) -> None:
        found = self.of(*self.CYCLE, temp_c=22)
        self.assertGreater(found["borrowed"].sooner[1], 3)
        self.assertGreater(found["warm"].sooner[1], 2)
        self.assertLessEqual(found["less"].sooner[1], 0)
        self.assertNotIn("warm", self.of(*self.CYCLE, temp_c=28))

    def test_where_alkalinity_is_spent_it_is_the_first(self) -> None:
        found = self.of(*self.CYCLE, test_entry(0.1, kh="0", ph="5.8", ammonia="1", nitrite="2"))
        self.assertEqual(next(iter(found)), "alkalinity")
        self.assertGreater(found["alkalinity"].sooner[1], 5)
        self.assertGreater(found["alkalinity"].amount, 3)  # g, of 80 L by 4 dKH

    def test_none_where_nothing_waits_or_animals_are_in(self) -> None:
        self.assertEqual(self.of(*self.CYCLE, entry("arrival", 3, species="guppy", count=4)), {})
        self.assertEqual(self.of(*CYCLED, members=400), {})


class AtALoss(unittest.TestCase):
    FISH = entry("arrival", 40, species="harlequin_rasbora", count=10)
    CLEAN = tuple(test_entry(d, ammonia="0", nitrite="0") for d in (30, 24, 18, 12, 8, 6))

    def test_what_the_log_does_not_tell_is_found(self) -> None:
        """A body behind the filter: ammonia out of nowhere, read twice."""
        odd = tuple(test_entry(d, ammonia="2", nitrite=n) for d, n in ((1.5, "0.5"), (0.6, "1"), (0.1, "1")))
        made = forecast(
            tank(), numbered(self.FISH, *self.CLEAN, *odd), NOW, REFERENCE, (), replace(FEW, members=600, doubts=True)
        )
        self.assertTrue(made.unlogged)
        self.assertFalse(made.lost)
        self.assertGreater(made.band("tan", 0.5), 0.5)  # it follows what was read

    def test_where_animals_live_something_may_lie_unseen_and_rarely_does(self) -> None:
        bare, stocked = (
            prepare(tank(), numbered(*more, test_entry(12, ammonia="0")), NOW, REFERENCE, replace(FEW, members=400))
            for more in ((), (entry("arrival", 40, species="harlequin_rasbora", count=1),))
        )
        self.assertEqual(float(np.quantile(bare.past.end.particulate, 0.99)), 0.0)
        much = np.quantile(stocked.past.end.particulate, (0.5, 0.995))
        self.assertLess(much[0], 0.1)
        self.assertGreater(much[1], 0.3)
        self.assertFalse(stocked.unlogged)

    def test_a_tank_that_no_course_fits_is_told_as_lost(self) -> None:
        """Nitrogen out of nothing and gone again, day after day: a wide range, and no batch by the model."""
        wild = tuple(
            test_entry(d, ammonia="8" if k % 2 else "0", nitrite="0" if k % 2 else "5")
            for k, d in enumerate((5, 4, 3, 2, 1))
        )
        t = tank(pace="test_led")
        made = forecast(t, numbered(entry("dose", 9, mg_n=216.0), *wild), NOW, REFERENCE, [BATCH], DOUBTING)
        self.assertTrue(made.lost)
        log = numbered(entry("dose", 9, mg_n=216.0), *wild)
        s = situation(t, log, [BATCH], made, REFERENCE, Units())
        self.assertTrue(s.findings.has("lost"))
        assert s.next_gate is not None
        self.assertIn("lost", {c.key for c in s.next_gate.holding})
        self.assertTrue(all(np.isfinite(rows).all() for rows in made.bands.values()))

    def test_seeds_agree_on_an_odd_log(self) -> None:
        odd = (*CYCLED, test_entry(0.6, ammonia="4", nitrite="0"), test_entry(0.1, ammonia="0", nitrite="0"))
        seeds = [Forecasting(sampler_h=8, publish_h=6, seed=k) for k in (1, 2)]
        made = [forecast(tank(kh_dkh=30), numbered(*odd), NOW, REFERENCE, [BATCH], s) for s in seeds]
        sure = np.array([f.sure for f in made])
        interval = np.mean([f.band("capacity", 0.9) - f.band("capacity", 0.1) for f in made])
        self.assertLess(sure.std(ddof=1), 0.2 * interval)
        self.assertLess(np.std([f.batches[0].p_safe_today for f in made]), 0.1)

    def test_a_cycle_of_many_weeks_is_simulated_whole_and_a_log_may_begin_in_the_middle(self) -> None:
        long = prepare(tank(started=at(100).date()), numbered(entry("dose", 99, mg_n=216.0)), NOW, REFERENCE, FEW)
        self.assertEqual(long.start.date(), at(100).date())
        cleared = [e for d in (3, 2, 1) for e in (entry("dose", d + 0.9, mg_n=216.0),
                                                  test_entry(d, ammonia="0", nitrite="0"))]  # fmt: skip
        middle = forecast(tank(started=at(40).date(), kh_dkh=20), numbered(*cleared), NOW, REFERENCE, (), DOUBTING)
        self.assertFalse(middle.lost)
        self.assertGreater(middle.readiness.already, 0.25)
        begun = forecast(tank(started=at(4).date(), kh_dkh=20), numbered(*cleared), NOW, REFERENCE, (), DOUBTING)
        self.assertTrue(begun.lost or begun.unlogged)  # from an empty tank to that in a day: by nothing that is known


if __name__ == "__main__":
    unittest.main()
