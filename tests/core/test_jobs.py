"""Jobs and verdicts by situation: what is asked, how much, and in which words."""

import unittest
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import situation
from jarbloom.core.advice.testing import day_words, next_test
from jarbloom.core.advice.verdict import ready_words, verdict
from jarbloom.core.bloom.forecast import Surprise, forecast
from jarbloom.core.bloom.outlook import BatchOutlook
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.bloom.value import TestValue
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.units import Units
from tests.make import FEW, NOW, REFERENCE, entry, numbered, tank, test_entry

FISH = entry("arrival", 30, species="guppy", count=6)
GROWN = entry("arrival", 30, species="guppy", count=6, length_cm=4.5)
CLEAN_WEEK = tuple(test_entry(d, ammonia="0", nitrite="0") for d in (20, 14, 8))


def look(*entries, on=None, batches=(), units=None, settings=FEW, **made):
    """A situation; `made` replaces parts of its forecast."""
    t = on or tank()
    log = numbered(*entries)
    f = replace(forecast(t, log, NOW, REFERENCE, batches, settings), **made)
    return situation(t, log, batches, f, REFERENCE, units or Units())


def kinds(s):
    return [j.kind for j in jobs(s)]


def test_title(s):
    return next(j.title for j in jobs(s) if j.kind == "test")


def value(quantity: str, in_days: int, after: float) -> TestValue:
    return TestValue(quantity, NOW.date() + timedelta(days=in_days), 10.0, after)


class TheNextTest(unittest.TestCase):
    """Asked for by what it would tell, within the school's rhythm."""

    LOG = (entry("dose", 6, mg_n=216.0), test_entry(1, ammonia="2", nitrite="0"))

    def look(self, *values: TestValue, ready_in: int = 30):
        ready = Readiness(*[NOW.date() + timedelta(days=ready_in)] * 5, 0.0, 216.0)
        return look(*self.LOG, on=tank(pace="calendar"), next_tests=values, readiness=ready)

    def test_the_quantity_and_its_worth_are_named(self) -> None:
        s = self.look(value("ammonia", 1, 9.0), value("nitrite", 1, 4.0))
        (job,) = [j for j in jobs(s) if j.kind == "test"]
        self.assertEqual(job.title, "Test nitrite and ammonia")
        self.assertIn("from 10 to about 4", job.why)

    def test_it_may_come_sooner_or_up_to_two_days_later(self) -> None:
        rhythm = next_test(self.look()).due
        self.assertEqual(rhythm, NOW + timedelta(days=1))
        self.assertLess(next_test(self.look(value("ammonia", 0, 2.0))).due, rhythm)
        self.assertEqual(next_test(self.look(value("ammonia", 2, 2.0))).due, rhythm + timedelta(days=1))
        self.assertEqual(next_test(self.look(value("ammonia", 7, 2.0))).due, rhythm + timedelta(days=2))

    def test_near_the_end_and_with_animals_the_rhythm_rules(self) -> None:
        late = value("ammonia", 7, 2.0)
        self.assertEqual(next_test(self.look(late, ready_in=3)).due, next_test(self.look(ready_in=3)).due)
        stocked = look(FISH, *self.LOG, next_tests=(late,))
        self.assertEqual(next_test(stocked).due, next_test(look(FISH, *self.LOG, next_tests=())).due)

    def test_a_test_that_tells_nothing_is_not_praised(self) -> None:
        (job,) = [j for j in jobs(self.look(value("ammonia", 1, 9.8))) if j.kind == "test"]
        self.assertNotIn("narrow", job.why)


class Jobs(unittest.TestCase):
    def test_dry_tank_is_filled_first(self) -> None:
        self.assertEqual(kinds(look(on=tank(filled=False))), ["fill"])

    def test_without_a_reading_a_test_is_due_now(self) -> None:
        self.assertEqual(jobs(look())[0].due_text, "now")

    def test_fish_are_fed_once_a_day_and_not_while_acting(self) -> None:
        clean = test_entry(1, ammonia="0", nitrite="0")
        feed = next(j for j in jobs(look(FISH, clean)) if j.kind == "feed")
        self.assertTrue(0.02 < (feed.amount or 0) < 1, feed.amount)
        self.assertEqual(feed.hardness, "taste")
        self.assertNotIn("feed", kinds(look(FISH, clean, entry("feed", 0.1, grams=0.1))))
        spike = test_entry(0, ammonia="4", nitrite="1", ph="8")
        self.assertNotIn("feed", kinds(look(GROWN, spike)))
        self.assertIn("stop_feeding", kinds(look(GROWN, spike)))
        pinch = next(j for j in jobs(look(FISH, spike)) if j.kind == "feed")  # young guppies must not fast
        self.assertIn("pinch", pinch.title)

    def test_pinch_feeding_asks_for_a_pinch(self) -> None:
        s = look(test_entry(1, ammonia="0", nitrite="0"), on=tank(school="pinch_feeding"))
        self.assertIn("Add a pinch", next(j.title for j in jobs(s) if j.kind == "feed"))

    def test_nitrate_asks_for_a_change_until_it_was_made(self) -> None:
        high = test_entry(1, ammonia="0", nitrite="0", nitrate="80")
        change = next(j for j in jobs(look(FISH, high)) if j.kind == "water_change")
        self.assertAlmostEqual(change.amount or 0, 0.3 * 108.08, delta=0.1)
        self.assertIn("40 as ion", change.why)
        self.assertNotIn("water_change", kinds(look(FISH, high, entry("change", 0.5, litres=30.0))))
        planted = look(FISH, test_entry(1, ammonia="0", nitrite="0", nitrate="40"), on=tank(planted=True))
        self.assertIn("25 as ion", next(j.why for j in jobs(planted) if j.kind == "water_change"))

    def test_routine_changes_of_a_fish_in_school(self) -> None:
        s = look(FISH, test_entry(1, ammonia="0", nitrite="0"), on=tank(school="fish_in_small_changes"))
        change = next(j for j in jobs(s) if j.kind == "water_change")
        self.assertAlmostEqual(change.amount or 0, 0.125 * 108.08, delta=0.1)

    def test_doses_wait_while_ammonia_or_much_nitrite_is_there(self) -> None:
        dosed = entry("dose", 3, mg_n=216.0)
        rows = (
            (test_entry(1, ammonia="1", nitrite="0"), None),
            (test_entry(1, ammonia="0", nitrite="1"), "dose"),
            (test_entry(1, ammonia="0", nitrite="5"), "wait"),
        )
        for reading, wanted in rows:
            with self.subTest(wanted=wanted):
                found = [k for k in kinds(look(dosed, reading)) if k in ("dose", "wait")]
                self.assertEqual(found, [wanted] if wanted else [])

    def test_the_dose_comes_from_the_keepers_own_bottle(self) -> None:
        s = look(
            entry("dose", 3, mg_n=216.0),
            test_entry(1, ammonia="0", nitrite="0"),
            on=tank(dose_from="solution", solution_percent=9.5),
        )
        dose = next(j for j in jobs(s) if j.kind == "dose")
        self.assertEqual(dose.unit, "mL")
        self.assertIn("ammonia solution", dose.title)

    def test_spent_hardness_is_warned_of_early(self) -> None:
        doses = [entry("dose", d, mg_n=216.0) for d in (12, 10, 8, 6, 4)]
        clean = test_entry(1, ammonia="0", nitrite="0")
        self.assertIn("KH", test_title(look(*doses, clean, on=tank(kh_dkh=5))))
        self.assertNotIn("KH", test_title(look(*doses, clean, on=tank(kh_dkh=25))))
        self.assertNotIn("KH", test_title(look(*doses, clean, test_entry(0.5, kh="5"), on=tank(kh_dkh=5))))
        # after one water change it is asked for again as soon as enough has been spent
        changed = entry("change", 11, litres=20.0)
        self.assertIn("KH", test_title(look(*doses, clean, changed, on=tank(kh_dkh=5))))

    def test_heads_are_counted_after_an_arrival(self) -> None:
        new = entry("arrival", 0.5, species="guppy", count=6)
        self.assertIn("count", kinds(look(new, test_entry(0.2, ammonia="0", nitrite="0"))))
        self.assertNotIn("count", kinds(look(FISH, test_entry(0.2, ammonia="0", nitrite="0"))))

    def test_every_job_says_why_and_when_and_what_it_logs_is_understood(self) -> None:
        setting = Setting(108.08, tank().kit, Units(), REFERENCE.species)
        for s in (
            look(FISH, test_entry(0, ammonia="4", nitrite="1")),
            look(FISH, test_entry(1, ammonia="0", nitrite="0")),
            look(entry("dose", 3, mg_n=216.0), test_entry(1, ammonia="0", nitrite="0", nitrate="160")),
        ):
            for job in jobs(s):
                with self.subTest(job=job.title):
                    self.assertTrue(job.why and job.due_text)
                    if job.shorthand:
                        parsed = parse(job.shorthand, NOW, setting)
                        self.assertEqual((len(parsed.bodies), parsed.questions), (1, ()))


class Rhythm(unittest.TestCase):
    def test_daily_after_an_arrival_weekly_when_settled(self) -> None:
        clean = test_entry(0.5, ammonia="0", nitrite="0")
        last = clean.at
        new = look(entry("arrival", 2, species="guppy", count=5), clean)
        self.assertEqual(next_test(new).due, last + timedelta(days=1))
        self.assertEqual(next_test(look(FISH, *CLEAN_WEEK, clean)).due, last + timedelta(days=7))

    def test_words_for_days(self) -> None:
        for days, said in ((-1, "today"), (0, "today"), (1, "tomorrow"), (3, "on Friday"), (20, "on 14 Dec")):
            self.assertEqual(day_words(NOW + timedelta(days=days), NOW), said)


class Verdicts(unittest.TestCase):
    def batch(self, in_days: int = 0) -> Batch:
        return Batch(1, "Batch one", NOW.date() + timedelta(days=in_days), (Animals("harlequin_rasbora", 8),))

    def proven(self):
        return [
            e
            for k in (3.9, 2.9, 1.9)
            for e in (entry("dose", k, mg_n=216.0), test_entry(k - 0.9, ammonia="0", nitrite="0"))
        ]

    def outlook(self, p: float = 0.97) -> BatchOutlook:
        return BatchOutlook(1, 12.4, 12.4, 12.4, NOW.date(), p, p, NOW.date())

    def ready(self, s, sure: float):
        """The same situation with a forecast that is sure of so much."""
        bands = s.forecast.bands | {"capacity": s.forecast.bands["capacity"] * 0 + sure}
        f = replace(s.forecast, bands=bands, batches=(self.outlook(),), surprises=(), lost=False, unlogged=False)
        return situation(s.tank, s.entries, s.batches, f, REFERENCE, Units())

    def test_add_when_everything_is_met(self) -> None:
        s = self.ready(look(*self.proven(), test_entry(0.1, ammonia="0", nitrite="0"), batches=[self.batch()]), 80.0)
        v = verdict(s)
        self.assertEqual((v.state, v.call), ("add", "Batch one can go in."))
        self.assertIn("add_batch", kinds(s))
        change = next(j for j in jobs(s) if j.kind == "water_change")
        self.assertEqual(change.due_text, "before they go in")

    def test_hold_names_what_is_missing(self) -> None:
        base = look(*self.proven(), test_entry(0.1, ammonia="0", nitrite="0"), batches=[self.batch()])
        base = replace(base, tank=replace(base.tank, pace="belt_and_braces"))  # which asks the full load beforehand
        short = verdict(self.ready(base, 5.0))
        self.assertIn("sure of 5\u00a0mg\u00a0N of the 12", short.because)
        none = verdict(self.ready(base, 0.0))
        self.assertIn("not yet sure of any", none.because)
        self.assertTrue(short.reasons[-1].startswith("What would change this"))

    def test_quiet_and_too_little(self) -> None:
        clean = test_entry(0.5, ammonia="0", nitrite="0")
        self.assertEqual(verdict(self.ready(look(FISH, *CLEAN_WEEK, clean), 200.0)).call, "Quiet.")
        self.assertEqual(verdict(self.ready(look(FISH, *CLEAN_WEEK, clean), 1.0)).call, "Add nothing.")
        owed = verdict(self.ready(look(FISH, clean), 200.0))  # animals are in, and nothing has proven the tank
        self.assertEqual(owed.state, "watch")
        self.assertIn("not cycled yet", owed.because)

    def test_a_surprise_asks_to_repeat(self) -> None:
        odd = Surprise(1, NOW - timedelta(hours=2), "nitrite", "0", 0.04)
        s = look(test_entry(0.1, ammonia="0", nitrite="0"), surprises=(odd,))
        v = verdict(s)
        self.assertEqual((v.state, v.call), ("test", "Repeat the test of nitrite today."))
        due = next(j for j in jobs(s) if j.kind == "test")
        self.assertEqual((due.title, due.due_text), ("Repeat the test of nitrite", "today"))
        self.assertIn("4\u00a0% likely", v.because)

    def test_readiness_in_words(self) -> None:
        day = NOW.date()
        s = look(test_entry(0.1, ammonia="0", nitrite="0"))
        rows = (
            (Readiness(None, None, None, None, None, 0.0, 1.0), "not ready within"),
            (Readiness(day, day, day, day, day, 0.95, 1.0), "would pass today"),
            (Readiness(day, day, day + timedelta(days=6), None, None, 0.1, 1.0), "later than the chart shows"),
        )
        for ready, said in rows:
            with self.subTest(said=said):
                self.assertIn(said, ready_words(replace(s, forecast=replace(s.forecast, readiness=ready))))

    def test_words_are_in_the_keepers_units(self) -> None:
        s = look(FISH, test_entry(0, ammonia="4", nitrite="1", ph="8"), units=Units("us"))
        v = verdict(s)
        self.assertIn("gal", v.call)
        self.assertIn("°F", " ".join(v.reasons))
        self.assertNotRegex(v.sentence, r"\d\u00a0L\b")


class GrowingUpTogether(unittest.TestCase):
    """Those who live in a tank and turn dangerous to each other get their date on the list before it comes."""

    LARGE = tank(length_cm=150, width_cm=60, height_cm=60)
    CLEAN = test_entry(0.1, ammonia="0", nitrite="0")

    def animal_jobs(self, angelfish_cm: float, days_ago: float, on=None):
        log = (entry("arrival", days_ago, species="angelfish", count=4, length_cm=angelfish_cm),
               entry("arrival", days_ago, species="neon_tetra", count=10, length_cm=3.0), self.CLEAN)  # fmt: skip
        return [j for j in jobs(look(*log, on=on or self.LARGE)) if j.kind == "animals"]

    def test_a_pair_is_parted_today_before_its_day_and_not_yet(self) -> None:
        (today,) = self.animal_jobs(13.0, 1)
        self.assertEqual((today.title, today.due_text), ("Part the angelfish from the neon tetras", "soon"))
        self.assertIn("today", today.why)
        soon = [self.animal_jobs(cm, 1) for cm in (8.0, 8.25, 8.5, 8.75, 9.0, 9.25, 9.5)]
        dated = [j for found in soon for j in found if j.due > NOW]
        self.assertTrue(dated)
        for job in dated:
            self.assertLessEqual(job.due.date(), NOW.date() + timedelta(days=60))
            self.assertRegex(job.due_text, r"^by \d+ \w+ 20\d\d$")
        self.assertEqual(self.animal_jobs(4.0, 1), [])

    def test_a_tank_too_small_is_a_job_and_one_large_enough_none(self) -> None:
        small = [j.title for j in self.animal_jobs(7.0, 1, tank())]
        self.assertIn("A larger tank for the angelfish", small)

    def test_it_can_be_put_off(self) -> None:
        (job,) = self.animal_jobs(13.0, 1)
        self.assertFalse(job.protects)
        put_off = entry("job", 0, job=job.key, how="snoozed", until=(NOW.date() + timedelta(days=7)).isoformat())
        log = (entry("arrival", 1, species="angelfish", count=4, length_cm=13.0),
               entry("arrival", 1, species="neon_tetra", count=10, length_cm=3.0), self.CLEAN, put_off)  # fmt: skip
        self.assertNotIn("animals", kinds(look(*log, on=self.LARGE)))
