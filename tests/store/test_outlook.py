"""Seeing the outlook: what-ifs read from lines, ensembles kept, runs of earlier days kept and met."""

import unittest
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from threading import Barrier

from jarbloom.deeds import keep_tank, log, look
from jarbloom.deeds.ensembles import _kept, ensemble_of
from jarbloom.deeds.log import FilledForm
from jarbloom.deeds.outlook import see_outlook
from jarbloom.kept import Kept
from jarbloom.store import journal, runs
from tests.make import NOW, WithDesk, at, tank


class AskedAtOnce(unittest.TestCase):
    def test_twenty_who_ask_the_same_cost_one_answer_and_a_failure_is_no_answer(self) -> None:
        kept, made, ready = Kept[int](4), [], Barrier(20)

        def make() -> int:
            made.append(1)
            return 7

        def ask(_: int) -> int:
            ready.wait()
            return kept.once("x", make)

        with ThreadPoolExecutor(20) as pool:
            self.assertEqual(set(pool.map(ask, range(20))), {7})
        self.assertEqual(len(made), 1)
        with self.assertRaises(ZeroDivisionError):
            kept.once("y", lambda: 1 // 0)
        self.assertEqual(kept.once("y", lambda: 3), 3)


class Outlook(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, tank(started=at(20).date()))
        self.slug = self.tank.slug
        for line in ("20 days ago dose 2 mg/l", "9 days ago am 1 ni 1", "4 days ago am 0 ni 2"):
            log.log_line(self.desk, self.slug, line)

    def day(self, ahead: int) -> str:
        return (NOW.date() + timedelta(days=ahead)).isoformat()

    def test_nothing_asked_nothing_compared(self) -> None:
        found = see_outlook(self.desk, self.slug)
        self.assertEqual((found.futures, found.asked), ((), ()))

    def test_lines_become_futures_and_the_log_stays_as_it_was(self) -> None:
        before = journal.entries(self.conn, self.tank.id)
        found = see_outlook(self.desk, self.slug, [("wc 50%", self.day(1)), ("dose 1 mg/l fed 0.2 g", self.day(2))])
        self.assertEqual(
            [f.name for f in found.futures], ["as planned", "wc 50%, Wed 25 Nov", "dose 1 mg/l fed 0.2 g, Thu 26 Nov"]
        )
        self.assertEqual([e.kind for e in found.asked[1].what_if.entries], ["dose", "feed"])
        self.assertTrue(all(e.at > NOW for a in found.asked for e in a.what_if.entries))
        self.assertEqual(journal.entries(self.conn, self.tank.id), before)

    def test_a_line_that_is_not_understood_keeps_the_others(self) -> None:
        found = see_outlook(
            self.desk, self.slug, [("wc 50%", self.day(1)), ("blorb", self.day(1)), ("am 0", self.day(1))]
        )
        self.assertEqual([bool(a.refused) for a in found.asked], [False, True, True])
        self.assertEqual(len(found.futures), 2)

    def test_today_means_from_now_on(self) -> None:
        (asked,) = see_outlook(self.desk, self.slug, [("wc 10%", self.day(0))]).asked
        self.assertGreater(asked.what_if.entries[0].at, NOW)

    def test_an_ensemble_is_conditioned_once_until_the_log_changes(self) -> None:
        entries = journal.entries(self.conn, self.tank.id)
        one = ensemble_of(self.desk, self.tank, entries)
        self.assertIs(one, ensemble_of(self.desk, self.tank, entries))
        log.log_line(self.desk, self.slug, "am 0 ni 1")
        self.assertIsNot(one, ensemble_of(self.desk, self.tank, journal.entries(self.conn, self.tank.id)))
        for hour in range(_kept.most + 2):
            ensemble_of(self.later(hours=1), self.tank, entries)
            self.assertLessEqual(len(_kept.answers), _kept.most, hour)

    def test_earlier_runs_are_kept_one_a_day_and_meet_their_readings(self) -> None:
        for _ in range(3):
            look.see(self.desk, self.slug)
            look.see(self.later(hours=2), self.slug)
            self.later(hours=22)
        filled = FilledForm("test", self.desk.now - timedelta(minutes=1), {}, {"ammonia": "0", "nitrite": "0.5"})
        log.log_entry(self.desk, self.slug, filled)
        found = see_outlook(self.desk, self.slug)
        kept = runs.earlier(self.conn, self.tank.id, found.seen.situation.forecast.version)
        self.assertGreaterEqual(len(kept), 3)
        self.assertEqual({m.quantity for m in found.track.met}, {"ammonia", "nitrite"})
        self.assertTrue(all(m.asked < m.at.date() for m in found.track.met))
        self.assertEqual(runs.earlier(self.conn, self.tank.id, 999), [])
