"""Page data: what Now, the bench, the upset desk, stocking and the log book say, without templates."""

import unittest
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import TankSeen, situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.bloom.ensemble import prepare
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.upset.courses import courses, from_plain, to_plain
from jarbloom.units import Units
from jarbloom.views.drawn.axes import LETTER
from jarbloom.views.drawn.crowding import SIZED
from jarbloom.views.drawn.vessel import vessel_look
from jarbloom.views.house.bench import bench_page
from jarbloom.views.stocking.plan import stocking_page
from jarbloom.views.tank.log_book import book
from jarbloom.views.tank.now import now_page, tabs
from jarbloom.views.tank.upset import upset_chart
from jarbloom.views.tank.upset_page import upset_page
from tests.make import FEW, NOW, REFERENCE, at, entry, numbered, tank, test_entry

FISH = entry("arrival", 9, species="guppy", count=6)
SPIKE = test_entry(0.05, ammonia="2", nitrite="1", ph="8")


def seen(*entries, on=None, batches=(), units=None) -> TankSeen:
    t, log = on or tank(), numbered(*entries)
    s = situation(t, log, batches, forecast(t, log, NOW, REFERENCE, batches, FEW), REFERENCE, units or Units())
    return TankSeen(s, verdict(s), jobs(s))


def in_trouble(*entries, on=None) -> TankSeen:
    """With the courses that the deed keeps beside the forecast."""
    x = seen(*entries, on=on)
    assert x.situation.response is not None
    return replace(x, courses=courses(prepare(x.tank, x.situation.entries, NOW, REFERENCE, FEW), x.situation.response))


class Now(unittest.TestCase):
    def test_what_was_done_today_is_struck(self) -> None:
        p = now_page(seen(entry("dose", 0.1, mg_n=216.0), entry("dose", 3, mg_n=216.0), test_entry(0.2, ammonia="0")))
        self.assertEqual([d.title for d in p.done], ["Test readings", "Ammonia dose"])
        self.assertIn("Last reading today", p.last_words)

    def test_steppers_stand_on_the_last_reading_with_its_interval(self) -> None:
        found = {t.quantity: t for t in tabs(seen(test_entry(1, ammonia="0.5", ph="7.2", temp="25.5")).situation)}
        am = found["ammonia"]
        self.assertEqual(am.steps.split("|")[am.start], "0.5")
        self.assertEqual(am.intervals.split("|")[am.start], "0.38 to 0.75")
        self.assertEqual(am.last, "last 0.5")
        self.assertEqual(found["ph"].steps.split("|")[found["ph"].start], "7.2")
        self.assertEqual(len(am.steps.split("|")), len(am.intervals.split("|")))
        us = {t.quantity: t for t in tabs(seen(units=Units("us")).situation)}
        self.assertEqual(us["temp"].unit, "°F")

    def test_an_override_is_shown_for_as_long_as_it_matters(self) -> None:
        fresh = entry("arrival", 5, species="guppy", count=6, batch=1, override="a gift that came early")
        self.assertIn("a gift that came early", now_page(seen(fresh)).overrides[0])
        self.assertEqual(now_page(seen(replace(fresh, at=at(40)))).overrides, ())


class UpsetDesk(unittest.TestCase):
    def test_rows_recipe_rhythm_and_the_other_schools(self) -> None:
        x = in_trouble(
            FISH,
            SPIKE,
            entry("media", 2, how="replaced", share=100),
            entry("death", 0.02, species="guppy", count=1),
            on=tank(ph=8.0),
        )
        p = upset_page(x)
        self.assertTrue(p.acting and p.open)
        self.assertEqual((p.rows[0].when, p.rows[0].now), ("now", True))
        self.assertEqual([w.name for w in p.ways], ["firm", "gentle", "strong"])
        self.assertEqual([w.chosen for w in p.ways], [True, False, False])
        self.assertTrue(all(w.changes and w.litres and w.safe and w.effort for w in p.ways))
        self.assertEqual([k for k, _ in p.recipe][:4], ["new water", "hot tap", "cold tap", "comes to"])
        self.assertTrue(any("thrown away" in c for c in p.changed))
        self.assertTrue(any("found dead" in c for c in p.seen))
        self.assertIn("5 animals", p.living)

    def test_no_school_goes_beyond_what_a_finding_allows(self) -> None:
        """Spent KH allows no more than 15 % at a time: by any school."""
        spent = test_entry(0.1, ammonia="1", nitrite="1", ph="6.2", kh="0.3")
        x = in_trouble(FISH, spent, on=tank(ph=6.8, kh_dkh=3.0, source=replace(tank().source, ph=6.8, kh_dkh=3.0)))
        most = x.situation.findings.change_most
        self.assertLessEqual(most, 0.15)
        for way in upset_page(x).ways:
            if way.changes != "none":
                litres, n = float(way.litres.split("\u00a0")[0]), int(way.changes.split()[0])
                with self.subTest(school=way.name):
                    self.assertLessEqual(litres / n, most * x.situation.volume_l + 0.6)

    def test_chart_compares_nothing_done_with_the_plan(self) -> None:
        x = in_trouble(FISH, SPIKE, on=tank(ph=8.0))
        for width in (756, 358):
            chart = upset_chart(x.situation, x.courses, width=width)
            assert chart is not None
            self.assertEqual(len(chart.steps), len(x.situation.response.changes if x.situation.response else ()))
            self.assertTrue(chart.marks and chart.without and chart.band)
            self.assertTrue(chart.top < chart.limit_y < chart.base)
            self.assertTrue(all(0 <= t.at <= width for t in chart.x_ticks))

    def test_courses_are_kept_and_a_change_helps(self) -> None:
        x = in_trouble(FISH, SPIKE, on=tank(ph=8.0))
        still, changed = from_plain(to_plain(x.courses))
        self.assertEqual((still.start, still.n), (NOW, x.courses[0].n))
        self.assertLess(changed.nh3[1][6], 0.7 * still.nh3[1][6])
        self.assertTrue((still.no2[0] <= still.no2[2]).all())

    def test_nothing_wrong_says_so(self) -> None:
        x = seen(FISH, test_entry(0.1, ammonia="0", nitrite="0"))
        p = upset_page(x)
        self.assertEqual((p.acting, p.rows, p.chart, p.recipe), (False, (), None, ()))

    def test_suspects_are_drawn_from_what_set_them_off(self) -> None:
        """New media at most ten days before: signs from half a day to two weeks after them, clipped to the axis."""
        p = upset_page(in_trouble(FISH, SPIKE, entry("media", 2, how="replaced", share=100), on=tank(ph=8.0)))
        suspects = {w.title: w for w in p.line.suspects}
        media = suspects["The media were thrown out"]
        self.assertIn("thrown away", media.words)
        self.assertTrue(p.line.lanes[0].events == () or media.left > 58)
        for w in suspects.values():
            self.assertTrue(58 <= w.left < w.right <= p.line.width)
            self.assertTrue(w.usual is None or w.left <= w.usual <= w.right)
            self.assertGreater(w.y, p.line.lanes[-1].y)
        self.assertEqual(upset_page(seen(FISH, test_entry(0.1, ammonia="0", nitrite="0"))).line.suspects, ())

    def test_tap_that_cannot_help_is_told(self) -> None:
        source = replace(tank().source, ammonia_mg_n_l=3.0)
        x = seen(FISH, SPIKE, on=tank(ph=8.0, source=source))
        self.assertIn("alone do not get below", upset_page(x).reached)
        self.assertIn("What else there is", upset_page(x).reached)


class Bench(unittest.TestCase):
    def test_one_verdict_over_all(self) -> None:
        acting, calm = seen(FISH, SPIKE, on=tank(id=1, name="Hall 96", ph=8.0)), seen(on=tank(id=2, filled=False))
        p = bench_page([acting, calm], REFERENCE, Units())
        self.assertEqual(p.call, "Hall 96 needs you now.")
        self.assertTrue(p.jobs[0].job.urgent)
        self.assertEqual([w.tank for w in p.water], ["Hall 96"])
        self.assertEqual(p.tanks[1].read, "dry")
        both = bench_page([acting, acting], REFERENCE, Units())
        self.assertEqual(both.call, "Hall 96 and Hall 96 need you now.")
        self.assertEqual(bench_page([seen(on=tank(filled=False))], REFERENCE, Units()).call, "Nothing is pressing.")
        self.assertIn("Test", bench_page([seen()], REFERENCE, Units()).call)
        quiet = bench_page([seen(on=tank(filled=False))], REFERENCE, Units(), ["Hall 96"])
        self.assertEqual(quiet.call, "Hall 96 cannot be looked at.")  # nothing is called quiet then


class Stocking(unittest.TestCase):
    def test_rows_gate_and_schools_side_by_side(self) -> None:
        batch = Batch(1, "Batch one", NOW.date() + timedelta(days=9), (Animals("kuhli_loach", 6), Animals("guppy", 1)))
        tank_seen = seen(FISH, test_entry(0.1, ammonia="0", nitrite="0"), batches=[batch])
        p = stocking_page(tank_seen)
        self.assertEqual(p.call, tank_seen.verdict.call)
        gate = tank_seen.situation.next_gate
        assert gate is not None
        self.assertEqual(p.words, f"Missing for batch one: {gate.missing_first}.")
        self.assertEqual([r.name for r in p.batches[0].rows], ["kuhli loaches", "guppy"])
        self.assertEqual([r.count for r in p.columns.living], [6])
        self.assertEqual(len(p.ways), 4)
        self.assertIn("stays clear in", p.columns.batches[0].chance.words)
        self.assertEqual(len(p.choices), len(REFERENCE.species))
        brings = {what: (figure, words) for what, figure, words in p.brings}
        self.assertIn("a week", brings["nitrate"][0])
        self.assertIn("holds nitrate at 40", brings["water changes"][1])
        self.assertIn("mg/L", brings["oxygen towards morning"][0])
        assert p.crowd is not None
        self.assertIn("bottom: 54 of 80", " ".join(z.words for z in p.crowd.zones))

    def test_what_is_missing_is_the_same_on_both_pages(self) -> None:
        batch = Batch(1, "Batch one", NOW.date() + timedelta(days=9), (Animals("harlequin_rasbora", 8),))
        cycling = seen(
            entry("dose", 12.1, mg_n=200.0), test_entry(9, ammonia="1", nitrite="0.5"),
            test_entry(6, ammonia="0.5", nitrite="1"), test_entry(3, ammonia="0.25", nitrite="2"),
            test_entry(0.1, ammonia="0", nitrite="2"), batches=[batch],
        )  # fmt: skip
        gate = cycling.situation.next_gate
        assert gate is not None
        self.assertGreater(len(gate.holding), 1)
        self.assertEqual(cycling.verdict.because, f"Still missing: {gate.missing_first}.")
        self.assertEqual(stocking_page(cycling).words, f"Missing for batch one: {gate.missing_first}.")

    def test_the_drawing_grows_with_its_animals(self) -> None:
        batch = Batch(1, "Batch one", NOW.date() + timedelta(days=9), (Animals("angelfish", 2, 4.0),))
        s = seen(FISH, batches=[batch])
        lengths = [max(a.figure.width for a in stocking_page(s, sized).crowd.section.animals) for sized in SIZED]
        self.assertEqual(lengths, sorted(lengths))
        self.assertGreater(lengths[-1], 2 * lengths[0])
        self.assertEqual(stocking_page(s, "nonsense").crowd, stocking_page(s, "adult").crowd)
        known_by_litres = seen(FISH, on=tank(length_cm=None, width_cm=None, height_cm=None, measured_l=100.0))
        self.assertIsNone(stocking_page(known_by_litres).crowd)

    def test_what_is_written_beside_the_drawing_is_within_it(self) -> None:
        batch = Batch(1, "Batch one", NOW.date() + timedelta(days=9), (Animals("oscar", 4), Animals("kuhli_loach", 90)))
        crowd = stocking_page(seen(FISH, batches=[batch])).crowd
        assert crowd is not None
        self.assertIn("bottom: 810 of 80 cm", [z.words for z in crowd.zones if z.crowded])
        for zone in crowd.zones:
            self.assertLessEqual(crowd.section.x + crowd.section.width + 9 + LETTER * len(zone.words), crowd.width)

    def test_the_old_rules_are_told_in_the_keepers_units(self) -> None:
        log = (FISH, test_entry(0.1, ammonia="0", nitrite="0"))
        metric, us = (stocking_page(seen(*log, units=Units(u))).ways for u in ("metric", "us"))
        self.assertIn("1 cm for each L", metric[1].words)
        self.assertIn("60 cm²", metric[2].words)
        self.assertIn("24 in²", us[2].words)
        self.assertNotRegex(" ".join(w.words + w.figure for w in us), r"\d\s(cm|L)\b")

    def test_nothing_planned_and_too_far_ahead(self) -> None:
        self.assertEqual(stocking_page(seen()).call, "Nothing is planned.")
        self.assertEqual(stocking_page(seen()).brings, ())
        far = Batch(1, "Batch one", NOW.date() + timedelta(days=90), (Animals("guppy", 5),))
        self.assertIsNone(stocking_page(seen(batches=[far])).columns.batches[0].chance)


class Books(unittest.TestCase):
    def test_days_newest_first_and_late_entries_marked(self) -> None:
        log = numbered(entry("note", 3, text="old"), entry("note", 0.1, text="new"))
        late = replace(log[0], recorded_at=NOW)
        days = book([late, log[1]], Units(), REFERENCE.species).days
        self.assertEqual([d.lines[0].words for d in days], ["new", "old"])
        self.assertIn("logged 24 Nov", days[1].lines[0].late)
        self.assertEqual(days[0].lines[0].late, "")

    def test_a_long_book_is_turned_by_whole_days_and_loses_none(self) -> None:
        log = numbered(*(entry("note", 0.3 * k, text=f"n{k}") for k in range(500)))
        told: list[str] = []
        pages, until = [], None
        while True:
            shown = book(log, Units(), REFERENCE.species, until)
            pages.append(shown)
            told += [line.words for day in shown.days for line in day.lines]
            if shown.earlier is None:
                break
            until = shown.earlier
        self.assertEqual(told, [f"n{k}" for k in range(500)])
        self.assertEqual([p.later for p in pages], [False, True, True, True])
        labels = [d.label for p in pages for d in p.days]
        self.assertEqual(len(labels), len(set(labels)))
        self.assertEqual(book(log, Units(), REFERENCE.species, at(400).date()).days, ())

    def test_one_kind_of_the_book(self) -> None:
        log = numbered(entry("note", 3, text="a"), entry("feed", 2, grams=0.3), entry("note", 1, text="b"))
        shown = book(log, Units(), REFERENCE.species, kind="note")
        self.assertEqual([line.words for day in shown.days for line in day.lines], ["b", "a"])
        self.assertEqual((shown.count, shown.kinds), (2, (("note", "Note", 2), ("feed", "Feeding", 1))))

    def test_facts_of_a_tank(self) -> None:
        told = dict(vessel_look(tank(), Units(), ()).facts)
        self.assertEqual(told["net water"], "108\u00a0L")
        self.assertIn("on its footprint", told)
        bare = tank(length_cm=None, width_cm=None, height_cm=None, measured_l=60.0)
        self.assertNotIn("on its footprint", dict(vessel_look(bare, Units("us"), ()).facts))
