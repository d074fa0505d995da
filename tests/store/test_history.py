"""The record of a tank as pages ask for it: of one moment it is worked out once."""

from dataclasses import replace
from datetime import timedelta

from jarbloom.deeds import history, keep_tank, log
from jarbloom.deeds.history import Asked
from tests.make import NOW, WithDesk, tank


class OneRecord(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.slug = keep_tank.set_up(self.desk, tank()).slug
        self.read_at(3)

    def read_at(self, days: float) -> None:
        log.log_line(self.desk, self.slug, f"{days:g} days ago am 0 ni 0 na 20")

    def look(self, asked: Asked = Asked(span="all"), **desk: object):  # noqa: B008
        return history.look(replace(self.desk, **desk), self.slug, asked).record

    def test_the_same_question_within_the_minute_has_the_same_answer(self) -> None:
        first = self.look()
        self.assertIs(self.look(), first)
        self.assertIs(self.look(now=NOW + timedelta(seconds=20)), first)

    def test_whatever_it_follows_from_makes_another(self) -> None:
        first = self.look()
        self.assertIsNot(self.look(Asked(span="all", chosen=("nitrate",))), first)
        self.assertIsNot(self.look(now=NOW + timedelta(minutes=2)), first)
        once = self.look()
        self.read_at(1)
        again = self.look()
        self.assertIsNot(again, once)
        self.assertEqual([self.nitrates(r) for r in (once, again)], [1, 2])

    def nitrates(self, record) -> int:
        return next(len(c.known.at) for curves in record.strips for c in curves if c.quantity.key == "nitrate")
