"""The record as it is drawn and told: strips, lanes, stays, ticks, the table behind them, the headline, its ways."""

import csv
import io
import re
import unittest
from dataclasses import replace
from datetime import date, timedelta
from urllib.parse import parse_qs

from jarbloom.core.history.record import Record, Source, record
from jarbloom.core.history.window import SPANS, YEAR, Window
from jarbloom.core.journal.log import Log
from jarbloom.formats.history_csv import history_csv
from jarbloom.units import Units, lasting
from jarbloom.views.drawn.axes import LETTER
from jarbloom.views.drawn.years.layout import NARROW, WIDE
from jarbloom.views.drawn.years.overview import overview
from jarbloom.views.drawn.years.sheet import Sheet, sheet
from jarbloom.views.drawn.years.strips import in_view
from jarbloom.views.tank.history import HistoryPage, history_page
from jarbloom.views.tank.history_table import standing, table
from tests.make import NOW, REFERENCE, entry, numbered, tank, test_entry

DAYS = 720
SPECIES = REFERENCE.species
KEPT = replace(tank(), started=NOW.date() - timedelta(days=DAYS))


def window(days: int, back: int = 0) -> Window:
    today = NOW.date()
    last = today - timedelta(days=back)
    return Window(last - timedelta(days=days - 1), last, today - timedelta(days=DAYS), today)


def seen(log: Log, days: int = 300, chosen: tuple[str, ...] = (), back: int = 0, before: int = 0) -> Record:
    w, over = window(days, back), None
    if before:
        by = timedelta(days=before)
        over = Source(KEPT, log, replace(w, first=w.first - by, last=w.last - by), before)
    return record(Source(KEPT, log, w), REFERENCE, Units(), NOW, chosen=chosen, over=over)


def drawn(r: Record, layout=WIDE) -> Sheet:
    return sheet(r, layout, SPECIES, Units())


def page(r: Record, over: str = "none", chosen: tuple[str, ...] = ()) -> HistoryPage:
    return history_page(r, over, (("hall-96", "Hall 96"),), SPECIES, Units(), chosen)


def weekly(nitrate, *more, days: int = DAYS) -> Log:
    tests = (test_entry(d, nitrate=nitrate(d)) for d in range(3, days, 7))
    return Log.of(numbered(*tests, *more), NOW.tzinfo)


class Headline(unittest.TestCase):
    def told(self, log: Log, **more) -> str:
        p = page(seen(log, **more))
        return f"{p.strong} {p.rest} {p.aside}".strip()

    def test_what_rose_and_why(self) -> None:
        rising = lambda d: "40" if d < 100 else "10"  # noqa: E731
        fewer = [entry("change", d, litres=30.0) for d in range(120, 300, 7)]
        told = self.told(weekly(rising, *fewer))
        self.assertRegex(told, r"^One slow drift in ten months\. Nitrate is up 30\xa0mg/L\xa0as\xa0NO3: less water was")
        more_fish = entry("arrival", 400, species="guppy", count=4), entry("arrival", 90, species="guppy", count=20)
        even = [entry("change", d, litres=30.0) for d in range(2, 400, 7)]
        self.assertIn("the load grew, the changes did not", self.told(weekly(rising, *more_fish, *even)))
        self.assertNotIn(":", self.told(weekly(rising, *even)))  # the log tells no reason: none is made up

    def test_a_fall_is_not_put_down_to_what_would_raise_it(self) -> None:
        falling = lambda d: "10" if d < 100 else "40"  # noqa: E731
        fewer = [entry("change", d, litres=30.0) for d in range(120, 300, 7)]
        told = self.told(weekly(falling, *fewer))
        self.assertIn("Nitrate is down", told)
        self.assertNotIn("less water", told)

    def test_nothing_and_little(self) -> None:
        self.assertTrue(self.told(weekly(lambda d: "20")).startswith("Nothing has drifted in ten months."))
        self.assertTrue(self.told(Log.of(numbered(entry("note", 3, text="x")), NOW.tzinfo)).startswith("Little to see"))

    def test_against_the_year_before(self) -> None:
        r = seen(weekly(lambda d: "40" if d < YEAR else "10"), 120, ("nitrate",), before=YEAR)
        self.assertEqual(page(r, "year").strong, "One slow drift since a year before.")


class Strips(unittest.TestCase):
    def test_a_gap_is_not_drawn_over(self) -> None:
        log = Log.of(
            numbered(*(test_entry(d, nitrate="20") for d in (*range(5, 60, 7), *range(200, 260, 7)))), NOW.tzinfo
        )
        (line,) = drawn(seen(log, 300, ("nitrate",))).strips[0].lines
        self.assertEqual(line.path.count("M"), 2)
        self.assertEqual(len(line.marks), 17)

    def test_all_that_is_drawn_stays_in_the_plot(self) -> None:
        log = weekly(lambda d: str((5, 20, 40, 80)[d % 4]), *(test_entry(d, ph="8", kh="3") for d in range(4, 300, 20)))
        for layout in (WIDE, NARROW):
            for strip in drawn(seen(log, 300), layout).strips:
                for line in strip.lines:
                    points = re.findall(r"[ML]?(-?[\d.]+)[ ,](-?[\d.]+)", f"{line.path}")
                    with self.subTest(layout=layout.name, line=line.key):
                        self.assertTrue(points or line.columns)
                        self.assertTrue(all(layout.left <= float(x) <= layout.right for x, _ in points))
                        self.assertTrue(all(strip.top <= float(y) <= strip.base for _, y in points))

    def test_what_is_told_in_one_unit_is_drawn_to_one_scale(self) -> None:
        log = Log.of(numbered(*(test_entry(d, ammonia="2", nitrite="0.5") for d in range(3, 60, 3))), NOW.tzinfo)
        strip = drawn(seen(log, 60, ("ammonia",))).strips[0]
        ammonia, nitrite = (line.marks[0][1] for line in strip.lines)
        self.assertEqual(strip.ticks_right, ())
        self.assertLess(ammonia, nitrite)  # higher up on the page
        self.assertEqual(strip.small, "mg/L as N")

    def test_sums_hold_every_litre_in_view(self) -> None:
        log = Log.of(numbered(*(entry("change", d, litres=10.0 + d % 3) for d in range(1, 200, 5))), NOW.tzinfo)
        r = seen(log, 210, ("changed",))
        self.assertEqual(drawn(r).strips[0].small, "L a week")
        in_all = f"{sum(10 + d % 3 for d in range(1, 200, 5))} in all"
        self.assertEqual([told for _, told in in_view(r)], [in_all])

    def test_a_hot_spell_is_named_with_its_length(self) -> None:
        fish = entry("arrival", 300, species="cherry_shrimp", count=9)
        hot = (test_entry(d, temp="30" if 60 <= d <= 102 else "24") for d in range(4, 300, 7))
        strip = drawn(seen(Log.of(numbered(fish, *hot), NOW.tzinfo), 290, ("temp",))).strips[0]
        (wash,) = strip.washes
        self.assertRegex(wash.words, r"^over \d+ for (five|six) weeks$")
        self.assertIsNotNone(strip.band)

    def test_ticks_do_not_touch(self) -> None:
        log = weekly(lambda d: "20")
        for layout in (WIDE, NARROW):
            for days in (1, 2, 6, 20, 60, 150, 400, DAYS):
                r = seen(log, days)
                for name, ticks in (("axis", drawn(r, layout).x_ticks), ("all", overview(r, layout).ticks)):
                    with self.subTest(layout=layout.name, days=days, name=name):
                        xs = [t.at for t in ticks]
                        self.assertEqual(xs, sorted(xs))
                        self.assertTrue(all(b - a >= 30 for a, b in zip(xs, xs[1:], strict=False)), xs)


class LanesAndStays(unittest.TestCase):
    def test_words_of_marks_do_not_lie_on_each_other(self) -> None:
        busy = [entry("note", d, text=f"Looked at the stems, day {d}") for d in range(2, 290, 4)]
        busy += [entry("media", d, how="tap", share=50) for d in (40, 41, 42, 200)]
        for lane in drawn(seen(Log.of(numbered(*busy), NOW.tzinfo), 300)).lanes:
            ends = [(g.x + 8, g.x + 14 + len(g.words) * LETTER) for g in lane.glyphs if g.words]
            with self.subTest(lane=lane.key):
                self.assertTrue(all(a[1] <= b[0] for a, b in zip(ends, ends[1:], strict=False)))
                self.assertTrue(all(b.x - a.x >= 7 for a, b in zip(lane.glyphs, lane.glyphs[1:], strict=False)))

    def test_many_of_one_mark_are_counted_and_few_are_told(self) -> None:
        close = [entry("change", 100 + d, litres=20.0) for d in (0, 0.5, 1)] + [entry("dose", 100.2, amount=1.0)]
        apart = [entry("change", 20, litres=30.0)]
        water = next(
            x for x in drawn(seen(Log.of(numbered(*close, *apart), NOW.tzinfo), 700)).lanes if x.key == "water"
        )
        self.assertRegex(water.glyphs[0].title, r"^15 Aug 2026 to 16 Aug 2026: water change \(3\), ")
        self.assertIn("30", water.glyphs[1].title)

    def test_the_graver_keeps_its_words(self) -> None:
        log = numbered(entry("observation", 30, signs=["hiding"]), entry("arrival", 90, species="guppy", count=5),
                       entry("death", 28, species="guppy", count=1, cause="not known"))  # fmt: skip
        life = next(x for x in drawn(seen(Log.of(log, NOW.tzinfo), 300)).lanes if x.key == "life")
        self.assertEqual([g.words for g in life.glyphs if g.words][-1], "found dead")

    def test_a_stay_tells_its_counts_and_its_end(self) -> None:
        log = numbered(entry("arrival", 200, species="guppy", count=8), entry("death", 100, species="guppy", count=2),
                       entry("given", 40, species="guppy", count=6, to="a keeper nearby"))  # fmt: skip
        r = seen(Log.of(log, NOW.tzinfo), 300)
        (bar,) = drawn(r).bars
        self.assertEqual([words for _, words in bar.counts], ["6", "none"])
        self.assertEqual(len(bar.struck), 1)
        left, width = bar.spans[0]
        share = (left + width - WIDE.left) / (WIDE.right - WIDE.left)
        self.assertAlmostEqual(share, 260 / 300, delta=0.01)  # it ends forty days before the last
        self.assertEqual(drawn(r).bars_small, "0 at the end")


class TableAndWays(unittest.TestCase):
    def test_a_row_tells_what_stood_then(self) -> None:
        read = ((4, "40"), (9, "20"), (4 + YEAR, "10"), (9 + YEAR, "10"))
        log = Log.of(numbered(*(test_entry(d, nitrate=v) for d, v in read)), NOW.tzinfo)
        r = seen(log, 12, ("nitrate",), before=YEAR)
        rows = table(r).rows
        self.assertEqual([row.cells[0] for row in rows], [""] * 2 + ["20"] * 5 + ["40"] * 5)
        self.assertEqual([row.cells[1] for row in rows], [""] * 2 + ["10"] * 10)
        self.assertEqual([row.apart for row in rows][1:3], [(), ((1, "+10"),)])
        self.assertEqual([row.events for row in rows if row.events], [])
        self.assertTrue(rows[-1].last and not rows[0].last)
        now = standing(r)  # beside the strips before any cursor moves: the last row, by the table's columns
        self.assertEqual((now.short, now.cells, now.apart), (rows[-1].short, {1: "40", 2: "10"}, {1: "+30"}))

    def test_each_way_leads_to_a_stretch_within_the_record(self) -> None:
        r = seen(weekly(lambda d: "20"), 120, ("nitrate", "ph"), back=200, before=90)
        p = page(r, "dates", ("nitrate", "ph"))
        self.assertEqual([name for name, _ in p.ways], ["earlier", "later", "closer", "wider"])
        for way in (*(w for _, w in p.ways), *p.spans):
            asked = parse_qs(way.query)
            first, last = (date.fromisoformat(asked[k][0]) for k in ("from", "to"))
            with self.subTest(way=way.words):
                self.assertTrue(r.window.begin <= first <= last <= r.window.today)
                self.assertEqual(asked["q"], ["nitrate", "ph"])
                older = date.fromisoformat(asked["over_from"][0])
                self.assertEqual((first - older).days, 90)  # what lies over it goes along
        self.assertEqual(len(p.spans), sum(d < DAYS + 1 for k, d in SPANS.items() if k != "week") + 1)

    def test_the_file_holds_every_reading_in_view_and_no_other(self) -> None:
        log = weekly(lambda d: "20" if d % 2 else "40", test_entry(10, ph="7.2"))
        told = list(csv.DictReader(io.StringIO(history_csv(seen(log, 100, ("nitrate", "ph"))))))
        self.assertEqual([t["quantity"] for t in told].count("nitrate"), sum(d < 100 for d in range(3, DAYS, 7)))
        self.assertEqual([float(t["value"]) for t in told if t["quantity"] == "ph"], [7.2])
        self.assertEqual({t["unit"] for t in told}, {"mg/L as NO3", ""})
        self.assertTrue(all(float(t["low"]) <= float(t["value"]) for t in told))

    def test_lengths_of_time_as_one_says_them(self) -> None:
        for days, words in ((0.4, "a day"), (13, "13 days"), (14, "two weeks"), (84, "twelve weeks"),
                            (YEAR, "a year"), (548, "18 months"), (730, "two years")):  # fmt: skip
            with self.subTest(days=days):
                self.assertEqual(lasting(days), words)
