"""The record of a tank as pages ask for it: of one question it is worked out once, and goes on as the log does."""

from dataclasses import replace
from datetime import timedelta
from unittest import mock

from jarbloom.deeds import desk, history, keep_tank, log
from jarbloom.deeds import look as look_deeds
from jarbloom.deeds.history import Asked
from jarbloom.deeds.look import see
from jarbloom.store import tanks
from jarbloom.units import Units
from jarbloom.views.drawn.years.layout import NARROW, WIDE
from jarbloom.views.tank.history import history_page
from tests.make import NOW, REFERENCE, WithDesk, tank

EVERYTHING = Asked(span="all")


class OneRecord(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.slug = keep_tank.set_up(self.desk, tank()).slug
        self.read_at(3)

    def read_at(self, days: float) -> None:
        self.log(f"{days:g} days ago am 0 ni 0 na 20")

    def log(self, line: str) -> log.Saved:
        return log.log_line(self.desk, self.slug, line)

    def look(self, asked: Asked = EVERYTHING, **moved: object):
        return history.look(replace(self.desk, **moved), self.slug, asked).record

    def test_the_same_question_on_the_same_day_has_the_same_answer(self) -> None:
        first = self.look()
        self.assertIs(self.look(), first)
        self.assertIs(self.look(now=NOW + timedelta(minutes=2)), first)

    def test_whatever_it_follows_from_makes_another(self) -> None:
        first = self.look()
        self.assertIsNot(self.look(Asked(span="all", chosen=("nitrate",))), first)
        self.assertIsNot(self.look(now=NOW + timedelta(days=1)), first)
        once = self.look()
        self.read_at(1)
        again = self.look()
        self.assertIsNot(again, once)
        self.assertEqual([self.nitrates(r) for r in (once, again)], [1, 2])

    def test_a_note_moves_no_curve_and_a_reading_only_its_own(self) -> None:
        self.log("2 days ago wc 20 l")
        first = self.look(Asked(span="all", chosen=("nitrate", "changed")))
        self.log("all is well")
        noted = self.look(Asked(span="all", chosen=("nitrate", "changed")))
        self.assertIs(noted.strips, first.strips)
        self.assertEqual([len(r.marks["gear"].entries) for r in (first, noted)], [0, 1])
        self.log("na 20")
        read = self.look(Asked(span="all", chosen=("nitrate", "changed")))
        stands = {c.quantity.key: c in self.curves(noted) for c in self.curves(read)}
        self.assertEqual(stands, {"nitrate": False, "changed": True})

    def test_it_waits_for_no_forecast_and_makes_no_verdict(self) -> None:
        see(self.desk, self.slug)
        self.assertTrue(len(self.look().reads.capacity))
        self.log("am 0.25 ni 0")
        with mock.patch.object(look_deeds, "_before", side_effect=AssertionError), \
                mock.patch.object(look_deeds, "_make", side_effect=AssertionError):  # fmt: skip
            read = self.look()
        self.assertFalse(len(read.reads.capacity))  # until the new forecast is made

    def curves(self, record) -> list:
        return [c for strip in record.strips for c in strip]

    def nitrates(self, record) -> int:
        return next(len(c.known.at) for c in self.curves(record) if c.quantity.key == "nitrate")

    def page(self, asked: Asked, layout):
        looked = history.look(self.desk, self.slug, asked)
        return history_page(looked.record, looked.over, looked.others, REFERENCE.species, Units(), asked.chosen, layout)

    def test_a_record_that_went_on_is_that_of_the_whole_log(self) -> None:
        """Whatever is logged, corrected or struck: what was kept of it before leaves nothing behind."""

        def correct() -> None:
            entry = next(e for e in self.desk.log(tanks.tank(self.desk.conn, self.slug).id) if e.kind == "test")
            filled = log.FilledForm("test", entry.at, {}, {"nitrate": "40", "ammonia": "0"})
            log.correct_entry(self.desk, self.slug, entry.id, filled)

        struck: list[log.Saved] = []
        acts = (
            lambda: self.log("all is well"), lambda: self.log("na 30"), lambda: self.log("wc 25 l"),
            lambda: self.log("fed 0.4 g"), correct, lambda: self.read_at(2),
            lambda: struck.append(self.log("am 0.25 ni 0 na 40 ph 7.2 kh 4")),
            lambda: self.log("rinsed sponge in tank water"),
            lambda: log.undo(self.desk, self.slug, struck[-1].act_id), lambda: self.log("ph 7.0"),
        )  # fmt: skip
        every = ("nitrate", "nh3", "ph", "load", "heads", "changed", "food", "deaths")
        for one in (EVERYTHING, Asked(span="all", chosen=every)):
            self.page(one, WIDE)
            for k, act in enumerate(acts):
                self.desk = replace(self.desk, now=self.desk.now + timedelta(minutes=2))
                act()
                with self.subTest(act=k, chosen=one.chosen):
                    went_on = [self.page(one, layout) for layout in (WIDE, NARROW)]
                    history._kept.answers.clear()
                    desk._logs.answers.clear()
                    self.assertEqual(went_on, [self.page(one, layout) for layout in (WIDE, NARROW)])
            self.slug = keep_tank.set_up(self.desk, replace(tank(), name="Another")).slug
            self.read_at(3)
