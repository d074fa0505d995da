"""The stocking board's columns, the drawn figures, and the keys at the tank."""

import unittest
from dataclasses import replace
from datetime import date, timedelta
from importlib.resources import files

from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.kit import Kit
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.dates import BatchDate
from jarbloom.units import Units
from jarbloom.views.drawn.figures import FORMS, SMALL, drawn, figure_of, form_of
from jarbloom.views.stocking.board import Stand, trial_words
from jarbloom.views.stocking.columns import chance_of, columns, day_words, one_day
from jarbloom.views.stocking.plan import stamp_words, stocking_page
from jarbloom.views.tank.now import now_page
from tests.make import NOW, REFERENCE, entry
from tests.views.test_page_data import FISH, SPIKE, seen

TODAY = date(2026, 11, 24)


def dated(day: date | None, low: date | None = None, today: bool = False, planned: date = TODAY) -> BatchDate:
    return BatchDate(1, day, low, today, "the bloom", planned, day is not None and planned >= day)


def later(days: int) -> date:
    return TODAY + timedelta(days=days)


class Figures(unittest.TestCase):
    def test_every_animal_has_a_drawing_that_ships(self) -> None:
        at = files("jarbloom.web").joinpath("static", "figures")
        shipped = {f.name.removesuffix(".svg") for f in at.iterdir()}
        self.assertEqual(shipped, set(FORMS))
        self.assertLessEqual({form_of(k) for k in REFERENCE.species.values()}, shipped)

    def test_kin_look_alike_and_forms_tell_bodies_apart(self) -> None:
        of = {
            k: form_of(REFERENCE.species[k])
            for k in (
                "kuhli_loach",
                "angelfish",
                "cherry_shrimp",
                "acropora",
                "panda_corydoras",
                "sterbas_corydoras",
                "lined_seahorse",
            )
        }
        self.assertEqual(of["panda_corydoras"], of["sterbas_corydoras"])
        self.assertEqual(len(set(of.values())), 6)

    def test_size_is_length_times_scale_and_nothing_else(self) -> None:
        self.assertAlmostEqual(drawn("torpedo", 60).width, 61, delta=0.1)  # 60 px from nose to tail, half a px of edge
        tall = drawn("seahorse", 60)  # it stands: its length is its height
        self.assertAlmostEqual(tall.height, 61, delta=0.1)
        self.assertLess(tall.width, tall.height)
        guppy = REFERENCE.species["guppy"]
        self.assertEqual([figure_of(guppy, px).detailed for px in (SMALL - 1, SMALL)], [False, True])

    def test_a_keepers_own_species_is_drawn_by_its_body(self) -> None:
        own = replace(REFERENCE.species["guppy"], scientific="", body="eel")
        self.assertEqual(form_of(own), "eel")
        self.assertEqual(form_of(replace(own, group="shrimp")), "shrimp")


class OneDate(unittest.TestCase):
    def test_the_one_date_of_a_batch(self) -> None:
        rows = (
            (dated(later(8)), TODAY, "from Wed 2 Dec"),  # planned too early: the first day that is possible
            (dated(later(8), planned=later(20)), later(20), "on Mon 14 Dec"),  # as planned
            (dated(None), later(3), "no day in sight"),
            (dated(TODAY, today=True), TODAY, "today"),
            (dated(TODAY, today=True, planned=later(6)), later(6), "on Mon 30 Nov"),
            (None, later(6), "on Mon 30 Nov"),  # no animals in it yet
        )
        for d, planned, words in rows:
            with self.subTest(words=words):
                self.assertEqual(day_words(d, planned, TODAY), words)
        self.assertIsNone(one_day(dated(None), TODAY, TODAY))

    def test_chances_are_said_in_tens_rounded_down(self) -> None:
        rows = (
            (0.899, 8, "eight of ten"),
            (0.9, 9, "nine of ten"),
            (0.99, 9, "nine of ten"),
            (0.995, 10, "more than 99 of 100"),
            (0.04, 0, "fewer than one of ten"),
        )
        for p, cells, words in rows:
            with self.subTest(p=p):
                chance = chance_of(p)
                self.assertEqual(chance.cells, cells)
                self.assertIn(words, chance.words)
        self.assertIsNone(chance_of(None))


class Columns(unittest.TestCase):
    def batch(self, k: int, days: int, count: int = 4, species: str = "guppy") -> Batch:
        return Batch(k, f"Batch {k}", later(days), (Animals(species, count),))

    def test_missing_things_are_named_once_and_what_is_met_is_counted(self) -> None:
        x = seen(SPIKE, FISH, batches=(self.batch(1, 3),))
        column = stocking_page(x).columns.batches[0]
        self.assertTrue(column.open)
        self.assertEqual(len(column.open), len(set(column.open)))
        self.assertFalse([text for text in column.open if "%" in text])  # no '66 % more certainty'
        gate = x.situation.next_gate
        self.assertEqual(column.met, sum(c.passed for c in gate.checks))

    def test_a_tank_that_is_outgrown_later_keeps_the_gate_shut_today(self) -> None:
        x = seen(batches=(self.batch(1, 3, 1, "common_pleco"), self.batch(2, 9)))
        held = {g.batch_id: {c.key for c in g.holding} for g in x.situation.gates}
        self.assertIn("litres", held[1])
        self.assertNotIn("litres", held[2])

    def test_four_batches_stand_as_rows_in_the_order_of_their_days(self) -> None:
        batches = tuple(self.batch(k, d) for k, d in ((1, 20), (2, 3), (3, 9), (4, 12)))
        shown = stocking_page(seen(batches=batches)).columns
        self.assertTrue(shown.as_rows)
        self.assertEqual([c.id for c in shown.batches], [2, 3, 4, 1])
        self.assertEqual(shown.hangs, ())
        three = stocking_page(seen(batches=batches[:3])).columns
        self.assertFalse(three.as_rows)

    def test_an_empty_batch_has_its_column(self) -> None:
        shown = stocking_page(seen(batches=(Batch(7, "Batch one", later(5), ()),))).columns.batches
        self.assertEqual([(c.id, c.rows, c.day) for c in shown], [(7, (), "on Sun 29 Nov")])

    def test_all_of_a_page_is_drawn_to_one_scale(self) -> None:
        batch = Batch(1, "Batch one", later(9), (Animals("bristlenose", 1), Animals("ember_tetra", 8)))
        x = seen(batches=(batch,))
        large, small = columns(x.situation, stocking_page(x).chart).batches[0].rows
        cm = {k: REFERENCE.species[k].adult_cm for k in ("bristlenose", "ember_tetra")}
        ratio = large.figures[0].width / small.figures[0].width
        self.assertAlmostEqual(ratio, cm["bristlenose"] / cm["ember_tetra"], delta=0.2)

    def test_a_stamp_in_words(self) -> None:
        self.assertEqual(stamp_words("2026-11-30 guppy=4 of_another=2", REFERENCE.species), "2026-11-30, 4 guppies")

    def test_a_trial_is_told_in_one_line_and_the_worst_of_the_others_with_it(self) -> None:
        def stand(k: int, moved: str, good: bool) -> Stand:
            return Stand(k, f"Batch {k}", "", "Tue 8 Dec", moved, False, "92 %", "", "", "", "", good, (), ())

        rows = (stand(1, "", False), stand(2, "1 day later than 7 Dec", True), stand(3, "", True))
        self.assertEqual(trial_words(rows, 0), "")
        told = trial_words(rows, 2)
        self.assertTrue(told.startswith("Batch 2 on Tue 8 Dec, 1 day later than 7 Dec: 92 %"), told)
        self.assertIn("Batch 1", told)
        self.assertNotIn("Batch 3", told)
        self.assertEqual(trial_words(rows, 3), "")  # where it stands already


class Keys(unittest.TestCase):
    def test_every_tap_is_a_line_that_is_wholly_understood(self) -> None:
        x = seen(FISH, entry("feed", 2, grams=0.2), entry("change", 3, litres=11.0))
        s = x.situation
        for system in ("metric", "us"):
            q = now_page(replace(x, situation=replace(s, units=Units(system)))).quick
            setting = Setting(s.volume_l, Kit(), Units(system), REFERENCE.species, {"guppy": 6})
            for kind, lines in (
                ("change", [t.line for t in q.changes]),
                ("feed", [t.line for t in q.feeds]),
                ("death", [r.line for r in q.residents]),
                ("observation", [t.line for t in q.signs]),
            ):
                self.assertTrue(lines, kind)
                for line in lines:
                    with self.subTest(line=line, system=system):
                        found = parse(line, NOW, setting)
                        self.assertEqual([b.key for b in found.bodies], [kind])
                        self.assertEqual(found.questions, ())

    def test_the_change_that_is_due_is_filled_and_stands_first(self) -> None:
        x = seen(SPIKE, FISH)
        q = now_page(x).quick
        due = next(j for j in x.jobs if j.kind == "water_change")
        self.assertEqual(q.changes[0].words, x.situation.units.volume(due.amount))
        self.assertEqual(q.why["change"], x.situation.units.volume(due.amount))
        self.assertEqual([r.name for r in q.residents], ["guppy"])

    def test_an_empty_tank_offers_nobody_to_be_found_dead(self) -> None:
        self.assertEqual(now_page(seen()).quick.residents, ())
