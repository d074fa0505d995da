"""The one date of a batch: never before it is possible, told with its range and what sets it."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import situation
from jarbloom.core.bloom.ensemble import prepare
from jarbloom.core.bloom.forecast import forecast, summarise
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.dates import BatchDate, BatchDay, batch_days, dates_of, offered_day
from jarbloom.core.stocking.terms import terms_of
from jarbloom.units import Units
from tests.make import FEW, NOW, REFERENCE, entry, numbered, tank, test_entry

TODAY = NOW.date()
CYCLED = [
    e for k in (3.9, 2.9, 1.9) for e in (entry("dose", k, mg_n=216.0), test_entry(k - 0.9, ammonia="0", nitrite="0"))
]
STOCKED = [entry("arrival", 40, species="harlequin_rasbora", count=8, length_cm=3.5),
           *(test_entry(d, ammonia="0", nitrite="0") for d in (20, 13, 6, 0.3))]  # fmt: skip


def batch(number: int, in_days: int, species: str = "ember_tetra", count: int = 6) -> Batch:
    return Batch(number, f"Batch {number}", TODAY + timedelta(days=in_days), (Animals(species, count),))


def dated(log, *plan, on=None):
    t, entries = on or tank(started=TODAY - timedelta(days=60)), numbered(*log)
    ensemble = prepare(t, entries, NOW, REFERENCE, FEW)
    made = summarise(ensemble, plan)
    terms = terms_of(t, entries, TODAY, REFERENCE.schools, made.readiness)
    days = batch_days(ensemble, made, plan, terms)
    return situation(t, entries, plan, made, REFERENCE, Units(), NOW, days)


class OneDate(unittest.TestCase):
    def test_pace_and_order_set_it(self) -> None:
        slow = tank(started=TODAY - timedelta(days=60), pace="belt_and_braces")
        s = dated(STOCKED, batch(1, 2), batch(2, 5), on=slow)
        one, two = s.dates
        assert one.day is not None and two.day is not None
        self.assertGreaterEqual(one.day, TODAY)
        self.assertGreaterEqual((two.day - max(one.day, one.planned)).days, 14)  # belt and braces
        self.assertFalse(two.planned_possible)
        self.assertIn("days asked between batches", two.sentence)

    def test_the_range_ends_at_the_date_and_only_the_bloom_makes_one(self) -> None:
        raw = [entry("dose", 12, mg_n=216.0), test_entry(5, ammonia="1", nitrite="1"),
               test_entry(0.4, ammonia="0.25", nitrite="2")]  # fmt: skip
        (one,) = dated(raw, batch(1, 3)).dates
        if one.day is not None:
            self.assertGreater(one.day, TODAY)
            assert one.low is not None
            self.assertLessEqual(one.low, one.day)
            self.assertNotIn("any day", one.sentence)
        (paced,) = dated([*STOCKED, entry("arrival", 3, species="guppy", count=2)], batch(1, 30)).dates
        self.assertEqual(paced.low, paced.day)

    def test_today_only_where_the_gate_is_passed(self) -> None:
        for log in (STOCKED, [*STOCKED, entry("observation", 0.1, signs=["gasping"])], CYCLED):
            s = dated(log, batch(1, 0))
            (one,), gate = s.dates, s.next_gate
            assert gate is not None
            with self.subTest(gate=gate.missing_words):
                self.assertEqual(one.words == "today", gate.passed)
                if not gate.passed and one.day is not None:
                    self.assertGreater(one.day, TODAY)

    def test_kh_that_may_run_out_sets_it_and_says_so(self) -> None:
        soft = tank(kh_dkh=4.0, ph=7.2, started=TODAY - timedelta(days=60))
        log = [*(entry("dose", d, mg_n=216.0) for d in (30, 24, 20, 17, 14, 12, 6, 4, 2)),
               *(test_entry(d - 0.2, ammonia="0", nitrite="0.5") for d in (20, 17, 14, 12, 6, 4))]  # fmt: skip
        log.append(test_entry(0.3, ammonia="0", nitrite="0"))
        (one,) = dated(log, batch(1, 0), on=soft).dates
        assert one.day is not None
        self.assertGreater((one.day - TODAY).days, 3)
        self.assertIn("KH may be used up", one.sets)
        (read,) = dated([*log, test_entry(0.2, kh="4")], batch(1, 0), on=soft).dates
        (hard,) = dated(log, batch(1, 0), on=replace(soft, kh_dkh=12.0)).dates
        for known in (read, hard):  # enough for the days to come
            assert known.day is not None
            self.assertLess(known.day, one.day)
            self.assertNotIn("KH", known.sets)

    def test_what_can_be_put_right_today_does_not_hold_for_as_long_as_it_is_remembered(self) -> None:
        (one,) = dated([*CYCLED, test_entry(0.2, ammonia="0", nitrite="0", kh="0.5")], batch(1, 0)).dates
        assert one.day is not None
        self.assertIn("KH 2 or more", one.sets)
        self.assertEqual((one.day - TODAY).days, 1)

    def test_what_was_found_holds_it(self) -> None:
        free = dated(STOCKED, batch(1, 0)).dates[0]
        dead = dated([*STOCKED, entry("death", 0.2, species="harlequin_rasbora", count=1)], batch(1, 0)).dates[0]
        assert free.day is not None and dead.day is not None
        self.assertGreaterEqual((dead.day - TODAY).days, 6)
        self.assertIn("dead", dead.sets)
        s = dated([*STOCKED, entry("death", 0.2, species="harlequin_rasbora", count=1)], batch(1, 1))
        self.assertFalse([j for j in jobs(s) if j.kind == "replan"])  # calm: what was found comes first

    def test_a_later_batch_does_not_make_an_earlier_one_impossible(self) -> None:
        alone = forecast(tank(), numbered(*STOCKED), NOW, REFERENCE, [batch(1, 1)], FEW).batches[0]
        crowd = batch(2, 3, "oscar", 8)
        first, second = forecast(tank(), numbered(*STOCKED), NOW, REFERENCE, [batch(1, 1), crowd], FEW).batches
        assert first.p_safe is not None and second.p_safe is not None
        self.assertEqual(first.p_safe, alone.p_safe)
        self.assertGreater(first.p_safe, 0.9)
        self.assertLess(second.p_safe, 0.1)

    def test_a_planned_day_before_it_is_offered_the_date_and_no_bare_search(self) -> None:
        s = dated([*STOCKED, entry("arrival", 3, species="guppy", count=2)], batch(1, 2))
        titles = [j.title for j in jobs(s)]
        self.assertFalse([t for t in titles if t.startswith("Find another day")])
        self.assertNotIn("Bring batch 1 home", titles)

    def test_a_new_batch_is_offered_a_day_after_those_that_wait(self) -> None:
        waiting = BatchDate(1, TODAY + timedelta(days=9), None, False, "", TODAY + timedelta(days=4), False)
        self.assertEqual(offered_day([waiting], TODAY, 14, None), TODAY + timedelta(days=23))
        self.assertEqual(offered_day([], TODAY, 14, TODAY + timedelta(days=6)), TODAY + timedelta(days=6))
        self.assertEqual(offered_day([], TODAY, 14, None), TODAY + timedelta(days=1))

    def test_words(self) -> None:
        day = date(2026, 12, 5)
        made = BatchDate(1, day, date(2026, 12, 1), False, "the proof comes first", day, True)
        self.assertEqual(made.sentence, "from Sat 5 Dec; 1 to 5 Dec in eight of ten; the proof comes first")
        self.assertEqual(replace(made, today=True).sentence, "today")
        self.assertEqual(replace(made, day=None).words, "no day in sight")

    def test_a_day_that_is_not_known_stays_unknown(self) -> None:
        s = dated(STOCKED, batch(1, 2))
        told = dates_of([BatchDay(1, None, None, "not in sight")], s.batches, (), s.findings, TODAY)
        self.assertEqual((told[0].day, told[0].planned_possible), (None, False))
