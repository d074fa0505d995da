"""Which reading decides: doubt only cuts towards safety."""

import unittest

from jarbloom.core.journal.log import Log
from jarbloom.core.upset.credible import credible
from tests.make import entry, numbered, test_entry


def decides(*entries, quantity="ammonia", unlikely=(), distrusted=()):
    found = credible(Log.of(numbered(*entries)), quantity, 108.08, frozenset(unlikely), frozenset(distrusted))
    return (found.reading.reading.typed if found.reading else None), found.doubt


class Deciding(unittest.TestCase):
    def test_the_last_reading_decides_where_nothing_speaks_against_it(self) -> None:
        self.assertEqual(decides(), (None, ""))
        self.assertEqual(decides(test_entry(2, ammonia="1"), test_entry(0, ammonia="0.25")), ("0.25", ""))

    def test_a_low_one_that_is_called_unlikely_waits_for_a_second(self) -> None:
        high, low = test_entry(1, ammonia="2"), test_entry(0.2, ammonia="0")
        self.assertEqual(decides(high, low), ("0", ""))
        self.assertEqual(decides(high, low, unlikely=[2]), ("2", "low"))
        self.assertEqual(decides(high, low, distrusted=[2]), ("2", "low"))
        again = test_entry(0.1, ammonia="0")
        self.assertEqual(decides(high, low, again, unlikely=[2, 3]), ("0", ""))  # confirmed: no surprise any more

    def test_a_clean_day_before_the_high_reading_confirms_nothing_after_it(self) -> None:
        log = (test_entry(2, ammonia="0"), test_entry(1, ammonia="2"), test_entry(0.2, ammonia="0"))
        self.assertEqual(decides(*log, unlikely=[3]), ("2", "low"))

    def test_a_change_between_them_explains_a_fall(self) -> None:
        log = (test_entry(1, ammonia="1"), entry("change", 0.5, litres=100.0), test_entry(0.2, ammonia="0"))
        self.assertEqual(decides(*log, unlikely=[3]), ("0", ""))

    def test_of_two_within_hours_the_worse_counts_until_a_third(self) -> None:
        zero, two = test_entry(0.1, ammonia="0"), test_entry(0.05, ammonia="2")
        self.assertEqual(decides(zero, two), ("2", "contradiction"))
        two_first, zero_after = test_entry(0.1, ammonia="2"), test_entry(0.05, ammonia="0")
        self.assertEqual(decides(two_first, zero_after), ("2", "contradiction"))
        third = test_entry(0.02, ammonia="0")
        self.assertEqual(decides(two_first, zero_after, third), ("0", "odd_high"))
        dosed = entry("dose", 0.07, mg_n=216.0)
        self.assertEqual(decides(zero, dosed, two), ("2", ""))  # something went in between

    def test_an_expired_test_does_not_hold_against_two_good_ones(self) -> None:
        strip, liquid = test_entry(0.1, ammonia="0.5"), test_entry(0.05, ammonia="0")
        self.assertEqual(decides(strip, liquid, distrusted=[1]), ("0.5", "contradiction"))
        self.assertEqual(decides(strip, liquid, test_entry(0.02, ammonia="0"), distrusted=[1]), ("0", "odd_high"))

    def test_an_unlikely_high_one_is_said_to_be(self) -> None:
        self.assertEqual(decides(test_entry(3, ammonia="0"), test_entry(0, ammonia="1"), unlikely=[2]), ("1", "high"))
        twice = (test_entry(3, ammonia="0"), test_entry(1, ammonia="1"), test_entry(0, ammonia="1"))
        self.assertEqual(decides(*twice, unlikely=[2, 3]), ("1", ""))

    def test_masked_readings_say_nothing(self) -> None:
        self.assertEqual(decides(test_entry(1, ammonia="1"), test_entry(0, ammonia="0 masked")), ("1", ""))
