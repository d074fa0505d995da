"""The log kept between pages is carried on by what was done since; it must be what a whole reading is."""

import random
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.journal import book, proof
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.upset import levels
from jarbloom.deeds import keep_tank, log
from jarbloom.errors import Refused
from jarbloom.store import journal
from tests.make import NOW, REFERENCE, WithDesk, tank

LINES = (
    "am 0 ni 0", "am 0.25", "ni 1 am 0.5", "note all well", "fed 0.3 g", "wc 20%", "topped up 2 l",
    "in 3 cherry shrimp!", "dead 1 cherry shrimp", "12:05 am 0 ni 0", "counted 2 cherry shrimp",
    "dose 1 mg/l", "conditioner",
)  # fmt: skip


class TheLogGrows(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, replace(tank(), started=NOW.date() - timedelta(days=60)))

    def told(self, of: Log) -> tuple[object, ...]:
        """Everything that is kept beside a log."""
        day = NOW.date() + timedelta(days=3)
        return (
            tuple(of), of.digest, of.telling, of.kinds(Tested), of.kinds(Change, Feed), of.kinds(Note),
            [of.latest(q) for q in ("ammonia", "nitrite", "nitrate")], book.groups(of), book.missing(of, day),
            book.deaths(of), levels.episode(self.tank, of, levels.USUAL),
            proof.proven(self.tank, of, REFERENCE.schools, NOW + timedelta(days=3)),
        )  # fmt: skip

    def test_as_a_whole_reading_after_any_acts(self) -> None:
        draw, acts, slug = random.Random(4), [], self.tank.slug
        grew = 0
        for step in range(120):
            desk = replace(self.desk, now=NOW + timedelta(minutes=7 * step))
            try:
                what = draw.random()
                live = journal.entries(self.conn, self.tank.id)
                if what < 0.7 or not live:
                    acts.append(log.log_line(desk, slug, draw.choice(LINES), anyway=True, reason="to try").act_id)
                elif what < 0.85:
                    acts.append(log.void_entry(desk, slug, draw.choice(live).id).act_id)
                else:
                    acts.append(log.undo(desk, slug, draw.choice(acts)).act_id)
            except Refused:
                continue
            grew += 1
            kept = desk.log(self.tank.id)
            zone = desk.preferences.tz
            whole = Log.of(journal.entries(self.conn, self.tank.id, zone=zone), zone)
            self.assertEqual(self.told(kept), self.told(whole), f"step {step}")
        self.assertGreater(grew, 60)

    def test_a_journal_that_does_not_go_on_is_read_anew(self) -> None:
        log.log_line(self.desk, self.tank.slug, "am 0")
        stamp = journal.stamp(self.conn, self.tank.id)
        self.assertEqual(journal.news(self.conn, self.tank.id, stamp, None), journal.News((), frozenset()))
        elsewhere = ("another file", *stamp[1:])
        older = (*stamp[:3], stamp[3], "2020-01-01T00:00:00+00:00")  # an act of this number, done at another time
        for before in (elsewhere, older, stamp[:3]):
            with self.subTest(before=before):
                self.assertIsNone(journal.news(self.conn, self.tank.id, before, None))
