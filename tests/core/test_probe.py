"""A probe's trace: what is flagged, and that the stand-in does what its table of faults says."""

import unittest
from datetime import timedelta

from jarbloom.core.setup.probe import SILENT, STALE, Hour, beside_tests, disagrees, drift, flags
from jarbloom.devices.stand_in_probe import FAULTS, NOISE, StandIn
from tests.make import NOW, at, entry, test_entry

TRUTH = {"temp": 25.0, "ph": 7.4, "salinity": 35.0, "ammonia": 0.5}
FULL = NOW.replace(minute=0, second=0, microsecond=0)


def hours(value: float = 7.4, count: int = 48, wobble: float = 0.05, n: int = 60) -> list[Hour]:
    first = FULL - timedelta(hours=count - 1)
    return [Hour(first + timedelta(hours=k), n, value, value - wobble, value + wobble) for k in range(count)]


class Flags(unittest.TestCase):
    def keys(self, traces, log=(), last_ok=NOW) -> list[str]:
        return [f.key for f in flags(traces, log, last_ok, NOW)]

    def test_a_table_of_what_is_wrong(self) -> None:
        drifted = [test_entry(1, ph="6.8"), test_entry(0.2, ph="6.8")]
        one = [test_entry(0.2, ph="6.8")]
        mixed = [test_entry(1, ph="6.8"), test_entry(0.2, ph="8.0")]
        rows = (
            ("well", {"ph": hours()}, (), NOW, []),
            ("never heard", {}, (), None, ["silent"]),
            ("silent for long", {"ph": hours()}, (), NOW - STALE - timedelta(minutes=1), ["stale"]),
            ("silent for some minutes", {"ph": hours()}, (), NOW - SILENT - timedelta(minutes=1), ["stale"]),
            ("asked a moment ago", {"ph": hours()}, (), NOW - SILENT + timedelta(minutes=1), []),
            ("one quantity is gone", {"ph": hours()[:-6], "temp": hours(25)}, (), NOW, ["stale"]),
            ("stuck", {"ph": hours(wobble=0.0)}, (), NOW, ["stuck"]),
            ("few values are no proof of sticking", {"ph": hours(wobble=0.0, n=1)}, (), NOW, []),
            ("drifting", {"ph": hours()}, drifted, NOW, ["drifting"]),
            ("one test is not enough", {"ph": hours()}, one, NOW, []),
            ("two ways is noise", {"ph": hours()}, mixed, NOW, []),
        )
        for name, traces, log, last_ok, wanted in rows:
            with self.subTest(name):
                self.assertEqual(self.keys(traces, log, last_ok), wanted)

    def test_drift_is_told_with_its_sign_and_masked_tests_do_not_count(self) -> None:
        log = [test_entry(1, ph="6.8"), test_entry(0.2, ph="6.8")]
        self.assertAlmostEqual(drift("ph", hours(), log) or 0, 0.6)
        masked = [test_entry(1, ammonia="0 masked"), test_entry(0.2, ammonia="0 masked")]
        self.assertIsNone(drift("ammonia", hours(2.0), masked))

    def test_a_test_is_compared_with_the_hours_around_it(self) -> None:
        found = beside_tests("ph", hours(), [test_entry(0.5, ph="7.2"), test_entry(20, ph="7.0")])
        self.assertEqual(len(found), 1)
        self.assertAlmostEqual(found[0].off, 0.2)

    def test_only_a_lasting_rise_is_reason_to_test(self) -> None:
        last = [test_entry(0.5, ammonia="0")]
        self.assertIn("test it", disagrees({"ammonia": hours(2.0)}, last, NOW))
        self.assertEqual(disagrees({"ammonia": hours(0.4)}, last, NOW), "")
        self.assertEqual(disagrees({"ammonia": hours(2.0)}, [test_entry(0.01, ammonia="0")], NOW), "")
        self.assertEqual(disagrees({"ammonia": hours(2.0, wobble=0.0)}, last, NOW), "")
        self.assertEqual(disagrees({}, last, NOW), "")
        self.assertEqual(disagrees({"ammonia": hours(2.0)}, [entry("note", 1, text="x")], NOW), "")


class TheStandIn(unittest.TestCase):
    def test_it_is_a_pure_function_of_seed_and_moment(self) -> None:
        a, b = StandIn(7, at(5)), StandIn(7, at(5))
        self.assertEqual(a.measure(TRUTH, NOW), b.measure(TRUTH, NOW))
        self.assertNotEqual(a.measure(TRUTH, NOW), StandIn(8, at(5)).measure(TRUTH, NOW))

    def several(self, stand_in: StandIn, quantity: str, count: int = 200) -> list[float | None]:
        return [stand_in.measure(TRUTH, NOW + timedelta(minutes=k)).get(quantity) for k in range(count)]

    def test_noise_drift_and_dropouts(self) -> None:
        fresh = [v for v in self.several(StandIn(1, NOW), "salinity") if v is not None]
        self.assertAlmostEqual(sum(fresh) / len(fresh), 35.0, delta=0.05)
        self.assertTrue(0 < max(fresh) - min(fresh) < 8 * NOISE["salinity"])
        self.assertTrue(0 < self.several(StandIn(1, NOW), "ph").count(None) < 30)
        old = [v for v in self.several(StandIn(1, at(30)), "ph") if v is not None]
        new = [v for v in self.several(StandIn(1, NOW), "ph") if v is not None]
        self.assertAlmostEqual(sum(old) / len(old) - sum(new) / len(new), 30 * 0.012, delta=0.05)

    def test_each_fault_does_what_it_is_called(self) -> None:
        for fault in FAULTS:
            stand_in = StandIn(1, NOW, fault, NOW, "ph", {"ph": 7.11})
            seen = self.several(stand_in, "ph")
            known = [v for v in seen if v is not None]
            with self.subTest(fault=fault):
                match fault:
                    case "dropout":
                        self.assertEqual(known, [])
                    case "stuck":
                        self.assertEqual(set(known), {7.11})
                    case "drift":
                        self.assertGreater(min(known), 8.2)
                    case "noise":
                        self.assertGreater(max(known) - min(known), 0.4)
                    case _:
                        self.assertTrue(all(7.2 < v < 7.6 for v in known))
                self.assertTrue(any(v is not None for v in self.several(stand_in, "temp")))
