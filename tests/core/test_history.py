"""The record over the years: series out of the log, thinning, drifts, ranges, windows, who lived there."""

import math
import unittest
from dataclasses import replace
from datetime import date, timedelta

import numpy as np

from jarbloom.core.history import lived
from jarbloom.core.history.drift import beyond, drifts, ends, why_nitrate
from jarbloom.core.history.happened import marks
from jarbloom.core.history.record import Source, record
from jarbloom.core.history.series import DAY_S, Series, free_ammonia, load, per_bucket, readings, runs, thin
from jarbloom.core.history.wanted import wanted
from jarbloom.core.history.window import Window
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.log import Log
from jarbloom.core.model.kit import MG_PER_MG_N
from jarbloom.core.water.ammonia import unionised_fraction
from jarbloom.units import Units
from tests.make import NOW, REFERENCE, entry, numbered, tank, test_entry


def made(values, every_days=7.0, start=0.0) -> Series:
    v = np.array(values, float)
    return Series(start + DAY_S * every_days * np.arange(len(v)), v, v, v)


def window(days: int, back: int = 0, record_days: int = 900) -> Window:
    today = NOW.date()
    last = today - timedelta(days=back)
    return Window(last - timedelta(days=days - 1), last, today - timedelta(days=record_days), today)


class ReadOut(unittest.TestCase):
    def setUp(self) -> None:
        self.log = Log.of(
            numbered(
                test_entry(40, ammonia="1", ph="8.2", temp="26"), test_entry(30, ammonia="1", nitrate="20"),
                test_entry(8, ammonia="1 masked"), test_entry(5, ammonia="1"), test_entry(4, nitrate="40"),
            ),
            NOW.tzinfo,
        )  # fmt: skip

    def test_masked_readings_are_left_out_and_the_kit_tells_its_edges(self) -> None:
        found = readings(self.log, "ammonia")
        self.assertEqual(len(found), 3)
        self.assertTrue((found.low < found.seen).all() and (found.high > found.seen).all())

    def test_lengths_are_points_of_one_animal_and_another_that_no_line_joins(self) -> None:
        log = Log.of(numbered(*(entry("length", days, species=who, count=1, length_cm=cm)
                                for days, who, cm in ((30, "betta", 5.0), (20, "guppy", 3.0), (3, "betta", 5.5)))),
                     NOW.tzinfo)  # fmt: skip
        shown = record(Source(tank(), log, window(60)), REFERENCE, Units(), NOW, chosen=("length",))
        curve = shown.strips[0][0]
        self.assertEqual(curve.series.seen.tolist(), [5.0, 3.0, 5.5])
        self.assertEqual(len(runs(curve.series, curve.pause_s)), 3)

    def test_free_ammonia_is_that_of_the_ph_of_its_days(self) -> None:
        kept = tank(ph=6.8, temp_c=24.0)
        found = free_ammonia(self.log, kept)
        n = readings(self.log, "ammonia").seen[0]
        high = n * unionised_fraction(8.2, 26.0, 0.0)
        self.assertAlmostEqual(found.seen[0], high, 9)
        self.assertAlmostEqual(found.seen[1], high, 9)  # ten days later the pH read still stands
        self.assertAlmostEqual(found.seen[2], n * unionised_fraction(6.8, 24.0, 0.0), 9)  # after a month it does not
        self.assertGreater(found.seen[0] / found.seen[2], 15)

    def test_nitrate_is_shown_as_the_card_counts_it(self) -> None:
        shown = record(Source(tank(), self.log, window(60)), REFERENCE, Units(), NOW, chosen=("nitrate",))
        (curve,) = shown.strips[0]
        self.assertEqual(curve.unit, "mg/L as NO3")
        np.testing.assert_allclose(curve.whole.seen, [20, 40], rtol=1e-6)
        self.assertAlmostEqual(readings(self.log, "nitrate").seen[0], 20 / MG_PER_MG_N["NO3"], 6)

    def test_us_units(self) -> None:
        shown = record(Source(tank(), self.log, window(60)), REFERENCE, Units("us"), NOW, chosen=("temp",))
        self.assertAlmostEqual(float(shown.strips[0][0].whole.seen[0]), 78.8, 1)


class Thinned(unittest.TestCase):
    def test_peaks_stay_and_points_go(self) -> None:
        rng = np.random.default_rng(1)
        values = rng.normal(20, 1, 50_000)
        values[31_111], values[8_888] = 90.0, -40.0
        many = made(values, every_days=0.1)
        few = thin(many, float(many.at[0]), float(many.at[-1]), 240)
        self.assertLessEqual(len(few), 4 * 242)
        self.assertEqual(few.seen.max(), 90.0)
        self.assertEqual(few.seen.min(), -40.0)
        self.assertEqual((few.at[0], few.at[-1]), (many.at[0], many.at[-1]))
        self.assertTrue((np.diff(few.at) > 0).all())

    def test_a_line_breaks_where_nothing_was_read_and_nowhere_else(self) -> None:
        """Of a column of weeks in which the same was read every day its ends alone are kept."""
        daily = [test_entry(d, nitrate="20") for d in range(0, 3600) if not 1500 <= d < 1700]
        log = Log.of(numbered(*daily), NOW.tzinfo)
        begun = NOW.date() - timedelta(days=3600)
        shown = record(Source(tank(), log, Window(begun, NOW.date(), begun, NOW.date())), REFERENCE, Units(), NOW)
        (nitrate,) = shown.strips[0]
        for name, series, pause_s in (
            ("strip", nitrate.series, nitrate.drawn_pause_s), ("all", shown.overview, shown.overview_pause_s),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertEqual(len(runs(series, pause_s)), 2)

    def test_gaps_stay_gaps(self) -> None:
        weekly = made([1, 2, 3, 4])
        later = made([5, 6], start=200 * DAY_S)
        both = Series(
            *(
                np.concatenate(p)
                for p in zip(
                    (weekly.at, weekly.seen, weekly.low, weekly.high),
                    (later.at, later.seen, later.low, later.high),
                    strict=True,
                )
            )
        )
        self.assertEqual([(r.start, r.stop) for r in runs(both)], [(0, 4), (4, 6)])
        pause = both.longest_pause_s
        self.assertEqual(both.value_at(15 * DAY_S, pause), 3)
        self.assertIsNone(both.value_at(100 * DAY_S, pause))
        self.assertIsNone(both.value_at(-1, pause))

    def test_sums_keep_every_litre(self) -> None:
        series = made([25, 30, 10, 40, 5], every_days=3)
        edges = np.array([0, 7, 14, 21]) * DAY_S - 1
        np.testing.assert_allclose(per_bucket(series, edges), [65, 45, 0])
        self.assertEqual(per_bucket(series, edges).sum(), series.seen.sum())


class Drifting(unittest.TestCase):
    first, last = NOW - timedelta(days=364), NOW

    def year(self, low: float, high: float, noise: float = 0.2) -> Series:
        n = 52
        v = np.linspace(low, high, n) + noise * np.sin(np.arange(n) * 2.1)
        return Series(np.linspace(self.first.timestamp(), self.last.timestamp() - 1, n), v, v, v)

    def test_what_moves_is_told_and_what_stands_is_not(self) -> None:
        found = drifts(
            {"nitrate": self.year(3, 8), "kh": self.year(6, 6), "ph": self.year(7.4, 7.3)}, ends(self.first, self.last)
        )
        self.assertEqual([d.quantity for d in found], ["nitrate"])
        self.assertGreater(found[0].by, 3)

    def test_a_noisy_card_is_no_drift(self) -> None:
        noisy = self.year(5, 6.5, noise=9)
        self.assertEqual(drifts({"nitrate": noisy}, ends(self.first, self.last)), ())

    def test_summer_is_no_drift_but_a_warmer_year_is(self) -> None:
        at = np.linspace((self.first - timedelta(days=365)).timestamp(), self.last.timestamp() - 1, 104)
        season = 2 * np.sin((at - at[0]) / DAY_S / 365 * 2 * math.pi)
        temp = Series(at, 25 + season, 25 + season, 25 + season)
        half = NOW - timedelta(days=180)
        self.assertEqual(drifts({"temp": temp}, ends(half, self.last)), ())
        warmer = Series(at, temp.seen + 2.0 * (at > self.first.timestamp()), temp.low, temp.high)
        found = drifts({"temp": warmer}, ends(half, self.last, 365))
        self.assertAlmostEqual(found[0].by, 2.0, delta=0.15)

    def test_why_nitrate_rises(self) -> None:
        between = ends(self.first, self.last)
        weekly = self.year(25, 25, 0)
        rarer = Series(weekly.at, np.where(np.arange(52) > 30, np.arange(52) % 2 * 25.0, 25.0), weekly.low, weekly.high)
        self.assertEqual(why_nitrate(self.year(20, 30), weekly, between), "load grew")
        self.assertEqual(why_nitrate(self.year(20, 20), rarer, between), "changes fell")
        self.assertEqual(why_nitrate(self.year(20, 30), rarer, between), "both")
        self.assertEqual(why_nitrate(self.year(20, 20), weekly, between), "")

    def test_beyond_what_they_bear_begins_with_two_readings(self) -> None:
        living = stock(numbered(entry("arrival", 300, species="cherry_shrimp", count=10)))
        bears = wanted("temp", living, REFERENCE.species, tank())
        self.assertIsNotNone(bears)
        hot = bears.high + 1
        (found,) = beyond("temp", made([24, hot, 24, hot, hot, hot, 24]), bears)
        self.assertEqual((found.first, found.last, found.over), (21 * DAY_S, 35 * DAY_S, True))
        self.assertEqual(beyond("nitrate", made([90, 90]), wanted("nitrate", living, REFERENCE.species, tank())), ())

    def test_no_range_where_no_value_suits_all(self) -> None:
        cold_and_warm = stock(numbered(entry("arrival", 300, species="common_goldfish", count=1),
                                       entry("arrival", 299, species="discus", count=6)))  # fmt: skip
        self.assertIsNone(wanted("temp", cold_and_warm, REFERENCE.species, tank()))
        self.assertIsNone(wanted("temp", (), REFERENCE.species, tank()))


class Windows(unittest.TestCase):
    def test_ways_keep_within_the_record(self) -> None:
        w = window(274)
        self.assertIsNone(w.later())
        back = w.earlier()
        self.assertEqual((back.days, back.last), (274, w.last - timedelta(days=137)))
        self.assertEqual(back.later(), w)
        while back is not None:
            self.assertGreaterEqual(back.first, w.begin)
            self.assertEqual(back.days, 274)
            back = back.earlier()
        self.assertEqual(w.closer().last, w.last)
        self.assertTrue(w.all().whole)
        self.assertIsNone(w.all().wider())
        self.assertEqual(w.of(date(1990, 1, 1), date(1991, 1, 1)).days, 1)
        self.assertEqual(w.of(w.last, w.first), w.of(w.first, w.last))

    def test_closer_ends_at_a_day(self) -> None:
        w, n = window(274), 0
        while w is not None and n < 20:
            last, w, n = w, w.closer(), n + 1
        self.assertEqual(last.days, 1)


class LivedThere(unittest.TestCase):
    def setUp(self) -> None:
        self.log = Log.of(
            numbered(
                entry("arrival", 400, species="harlequin_rasbora", count=10),
                entry("death", 200, species="harlequin_rasbora", count=1),
                entry("arrival", 100, species="cherry_shrimp", count=20),
                entry("given", 50, species="harlequin_rasbora", count=9),
                entry("change", 60, litres=25.0), entry("media", 30, how="tap"), entry("note", 20, text="all well"),
            ),
            NOW.tzinfo,
        )  # fmt: skip

    def test_a_row_a_kind_with_its_steps(self) -> None:
        rasboras, shrimp = lived.rows(self.log)
        self.assertEqual([(s.count, s.found_dead) for s in rasboras.steps], [(10, 0), (9, 1), (0, 0)])
        self.assertEqual(rasboras.count_on(NOW.date() - timedelta(days=150)), 9)
        self.assertEqual(shrimp.count_on(NOW.date()), 20)
        for days in range(0, 420, 7):  # as the stock book has it, on every day
            day = NOW.date() - timedelta(days=days)
            there = {a.species: a.count for a in stock(self.log, day)}
            self.assertEqual(rasboras.count_on(day), there.get("harlequin_rasbora", 0))

    def test_only_who_was_there_in_view(self) -> None:
        shown = record(Source(tank(), self.log, window(31)), REFERENCE, Units(), NOW)
        self.assertEqual([r.species for r in shown.rows], ["cherry_shrimp"])
        self.assertEqual(
            {lane: m.labels for lane, m in shown.marks.items() if m.entries}, {"gear": ("media cleaning", "note")}
        )

    def test_lanes(self) -> None:
        told = {lane: [e.kind for e in m.entries] for lane, m in marks(self.log).items()}
        self.assertEqual(told["life"], ["arrival", "death", "arrival", "given"])
        self.assertEqual((told["water"], told["gear"]), (["change"], ["media", "note"]))
        self.assertTrue(all((np.diff(m.times) > 0).all() for m in marks(self.log).values()))

    def test_load_follows_who_lives_there(self) -> None:
        kept = replace(tank(), started=NOW.date() - timedelta(days=420))
        found = load(self.log, kept, REFERENCE, NOW)
        day = lambda ago: (NOW - timedelta(days=ago)).timestamp()  # noqa: E731
        self.assertGreater(found.value_at(day(210), np.inf), found.value_at(day(195), np.inf))  # one died
        self.assertGreater(found.value_at(day(52), np.inf), 3 * found.value_at(day(10), np.inf))  # nine were given away
        self.assertIsNone(found.value_at(day(401), np.inf))


class GrownLogs(unittest.TestCase):
    """What is folded over a long log goes on from where it was, and is what the whole log comes to."""

    def test_marks_of_a_log_that_grew_are_those_of_the_whole(self) -> None:
        pairs = [(entry("change", d, litres=20.0), entry("bed", d)) for d in range(9, 3, -1)]
        old = numbered(*(e for pair in pairs for e in pair), entry("note", 3.5, text="a"))
        log = Log.of(old)
        before = marks(log)
        news = numbered(*old, entry("note", 2, text="b"), entry("media", 1, how="tap"))[-2:]
        rows = (
            (news, set()),  # at the end: two lanes stand as they were
            ([replace(old[2], body=news[1].body)], set()),  # one told again as something else
            ([], {old[0].id, old[3].id}),
            ([replace(news[0], at=old[0].at - timedelta(days=1))], set()),  # an older one that came late
        )
        for came, gone in rows:
            with self.subTest(came=[e.kind for e in came], gone=len(gone)):
                grown = log.with_news(came, gone)
                fresh = marks(Log.of(tuple(grown)))
                for lane, found in marks(grown).items():
                    self.assertEqual([e.id for e in found.entries], [e.id for e in fresh[lane].entries])
                    self.assertEqual((found.labels, found.weights), (fresh[lane].labels, fresh[lane].weights))
                    np.testing.assert_array_equal(found.times, fresh[lane].times)
        self.assertIs(marks(log.with_news(news, set()))["water"], before["water"])
        self.assertEqual([e.id for e in before["gear"].entries], [e.id for e in marks(log)["gear"].entries])


class LaidOver(unittest.TestCase):
    def test_a_year_before_lies_under_the_same_day(self) -> None:
        log = Log.of(
            numbered(*(test_entry(d, nitrate="10" if d > 365 else "40") for d in range(3, 720, 7))), NOW.tzinfo
        )
        w = window(120)
        older = Source(
            tank(), log, replace(w, first=w.first - timedelta(days=365), last=w.last - timedelta(days=365)), 365
        )
        shown = record(Source(tank(), log, w), REFERENCE, Units(), NOW, chosen=("nitrate",), over=older)
        (curve,) = shown.strips[0]
        inside = curve.before.between(shown.start.timestamp(), shown.end.timestamp())
        np.testing.assert_allclose(inside.seen, 10, rtol=1e-6)
        np.testing.assert_allclose(curve.whole.seen, 40, rtol=1e-6)
        self.assertEqual([d.quantity for d in shown.drifts], ["nitrate"])  # against the same days a year before
        alone = record(Source(tank(), log, w), REFERENCE, Units(), NOW, chosen=("nitrate",))
        self.assertEqual(alone.drifts, ())
