"""Drawings are made once of a standing, and anew as soon as anything that they show has changed."""

import gc
import unittest
from dataclasses import dataclass, replace
from datetime import timedelta

from jarbloom.deeds import keep_tank, log, look
from jarbloom.views.drawn.standing import Drawings, drawn_once
from jarbloom.views.tank.now import now_page
from tests.make import WithDesk, tank


@dataclass(frozen=True)
class Standing:
    name: str


class Once(unittest.TestCase):
    def setUp(self) -> None:
        self.made: list[str] = []

    def draw(self, one: Standing, size: int = 1) -> str:
        self.made.append(one.name)
        return f"{one.name} {size}"

    def test_the_same_object_once_by_its_arguments(self) -> None:
        drawn, one = drawn_once(self.draw), Standing("a")
        self.assertEqual([drawn(one), drawn(one), drawn(one, size=2), drawn(one, size=2)], ["a 1", "a 1", "a 2", "a 2"])
        self.assertEqual(self.made, ["a", "a"])

    def test_an_equal_one_is_another(self) -> None:
        drawn, one, other = drawn_once(self.draw), Standing("a"), Standing("a")
        drawn(one), drawn(other)
        self.assertEqual(len(self.made), 2)

    def test_nothing_is_kept_of_one_that_is_gone(self) -> None:
        kept = Drawings()
        for k in range(300):  # numbers of objects come again
            one = Standing(str(k))
            self.assertEqual(kept.once(one, "x", lambda one=one: one.name), str(k))
            del one
            gc.collect(0)
        self.assertLess(len(kept._kept), 3)

    def test_of_a_slot_the_last_is_kept_while_nothing_differs(self) -> None:
        kept, one, made = Drawings(), Standing("a"), []
        for how in (1, 1, 2, 2, 1):
            kept.latest(one, "slot", how, lambda how=how: made.append(how))
        self.assertEqual(made, [1, 2, 1])


class TheNowPage(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.slug = keep_tank.set_up(self.desk, tank()).slug
        log.log_line(self.desk, self.slug, "dose 2 mg/l")

    def page(self):
        return now_page(look.see(self.desk, self.slug))

    def test_a_note_draws_nothing_anew_and_stands_all_the_same(self) -> None:
        before = self.page()
        self.assertIs(self.page(), before)
        log.log_line(self.desk, self.slug, "note all well")
        after = self.page()
        self.assertIsNot(after, before)
        self.assertIs(after.chart, before.chart)

    def test_what_is_drawn_and_the_minute_draw_it_anew(self) -> None:
        charts = [self.page().chart]
        log.log_line(self.desk, self.slug, "top 1 l")
        charts.append(self.page().chart)
        self.assertIn("new water", " ".join(g.title for g in charts[1].strip.glyphs))
        log.log_line(self.desk, self.slug, "am 1 ni 0")
        charts.append(self.page().chart)
        self.desk = replace(self.desk, now=self.desk.now + timedelta(minutes=5))
        charts.append(self.page().chart)
        keep_tank.change(self.desk, self.slug, replace(look.see(self.desk, self.slug).tank, name="Sunroom, left"))
        charts.append(self.page().chart)
        self.assertIn("Sunroom, left", charts[-1].title)
        self.assertEqual(len({id(c) for c in charts}), len(charts))


if __name__ == "__main__":
    unittest.main()
