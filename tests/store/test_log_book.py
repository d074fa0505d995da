"""The log book: searching, what changed before something, several entries at once."""

import tempfile
import unittest
from contextlib import closing
from dataclasses import replace
from datetime import timedelta
from pathlib import Path

from jarbloom.core.journal.book import stock
from jarbloom.deeds import keep_tank, log, log_book, records
from jarbloom.errors import Refused
from jarbloom.store import db
from jarbloom.store.restore import rescue
from jarbloom.store.words import with_word
from jarbloom.web.forms.duration import shift_of
from tests.make import NOW, WithDesk, tank

LINES = (
    (40, "in 10 harlequin rasboras"), (30, "note the Älteste is called Rosa"), (20, "na 20 ph 7.2"), (12, "media tap"),
    (9, "fed 0.3 g"), (8, "dead 1 harlequin rasbora"), (7, "wc 30%"), (6, "medicine salt for the fins"),
    (5, "am 0 ni 0"),
)  # fmt: skip


class TheBook(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, replace(tank(), started=NOW.date() - timedelta(days=300)))
        self.ids = {}
        for days, line in LINES:
            desk = replace(self.desk, now=NOW - timedelta(days=days))
            self.ids[line] = log.log_line(desk, self.tank.slug, line, reason="in all the same").entry_ids[0]

    def told(self, text: str) -> list[str]:
        entries = records.journal_of(self.desk, self.tank, struck=True)
        by_id = {v: k for k, v in self.ids.items()}
        return [by_id[e.id] for e in log_book.found(self.desk, self.tank, entries, text)]

    def test_what_is_looked_for_is_found(self) -> None:
        for text, wanted in (
            ("rasbora", ["in 10 harlequin rasboras", "dead 1 harlequin rasbora"]),
            ("alteste", ["note the Älteste is called Rosa"]),
            ("ROSA", ["note the Älteste is called Rosa"]), ("nitrate", ["na 20 ph 7.2"]), ("ammon", ["am 0 ni 0"]),
            ("water change", ["wc 30%"]), ("harl dead", ["dead 1 harlequin rasbora"]), ("dead media", []),
            ("death rasb", ["dead 1 harlequin rasbora"]),
            ("zebra", []), ('"; DROP TABLE entry; --', []), ("NEAR AND OR *", []), ("tap", ["media tap"]),
        ):  # fmt: skip
            with self.subTest(text=text):
                self.assertEqual(self.told(text), wanted)
        self.assertEqual(len(self.told("  ?! ")), len(LINES))  # no word in it: nothing is asked

    def test_a_voided_entry_is_still_found_among_the_struck(self) -> None:
        log.void_entry(self.desk, self.tank.slug, self.ids["media tap"])
        self.assertEqual(self.told("tap"), ["media tap"])
        live = records.journal_of(self.desk, self.tank, struck=False)
        self.assertEqual(log_book.found(self.desk, self.tank, live, "tap"), [])

    def test_the_last_act_is_offered_for_undo_while_it_is_fresh_and_stands(self) -> None:
        self.assertIsNone(records.just_saved(self.desk, self.tank), "five days old")
        saved = log.log_line(self.desk, self.tank.slug, "fed 0.2 g")
        self.assertEqual(records.just_saved(self.desk, self.tank).id, saved.act_id)
        for minutes, offered in ((14, True), (15, False), (-1, False)):
            desk = replace(self.desk, now=self.desk.now + timedelta(minutes=minutes))
            self.assertEqual(records.just_saved(desk, self.tank) is not None, offered, minutes)
        log.undo(self.desk, self.tank.slug, saved.act_id)
        undone = records.just_saved(self.desk, self.tank)
        self.assertTrue(undone is None or undone.id != saved.act_id)

    def test_another_tanks_words_are_not_found(self) -> None:
        other = keep_tank.set_up(self.desk, replace(tank(), name="Other", started=NOW.date() - timedelta(days=30)))
        log.log_line(self.desk, other.slug, "note Rosa visits")
        self.assertEqual(with_word(self.conn, self.tank.id, "rosa"), {self.ids["note the Älteste is called Rosa"]})

    def test_what_changed_in_the_two_weeks_before(self) -> None:
        entry, changed = log_book.changed_before(self.desk, self.tank, self.ids["dead 1 harlequin rasbora"])
        self.assertEqual(entry.kind, "death")
        self.assertEqual([e.kind for e in changed], ["media", "feed"])  # tests and notes change nothing

    def test_several_shifted_in_one_act_and_back(self) -> None:
        chosen = [self.ids["na 20 ph 7.2"], self.ids["wc 30%"]]
        before = {e.at for e in self.desk.log(self.tank.id)}
        saved = log_book.shift_several(self.desk, self.tank.slug, chosen, timedelta(hours=-3))
        after = {e.at for e in self.desk.log(self.tank.id)}
        self.assertEqual(len(before - after), 2)
        self.assertEqual({at - timedelta(hours=3) for at in before - after}, after - before)
        self.assertIn("back 3 h", saved.sentence)
        log.undo(self.desk, self.tank.slug, saved.act_id)
        self.assertEqual({e.at for e in self.desk.log(self.tank.id)}, before)

    def test_a_shift_that_cannot_be_moves_nothing(self) -> None:
        whole = [e.at for e in self.desk.log(self.tank.id)]
        for ids, by in (
            ([self.ids["am 0 ni 0"], self.ids["wc 30%"]], timedelta(days=6)),  # one would lie ahead
            ([self.ids["dead 1 harlequin rasbora"]], timedelta(days=-60)),  # dead before it came
            ([self.ids["na 20 ph 7.2"]], timedelta(days=-290)),  # before there was water
            ([self.ids["wc 30%"]], timedelta()), ([], timedelta(hours=1)), ([99_999], timedelta(hours=1)),
        ):  # fmt: skip
            with self.subTest(by=by), self.assertRaises(Refused):
                log_book.shift_several(self.desk, self.tank.slug, ids, by)
        self.assertEqual([e.at for e in self.desk.log(self.tank.id)], whole)

    def test_a_group_that_is_shifted_keeps_who_left_it(self) -> None:
        named = self.ids["in 10 harlequin rasboras"]
        log_book.shift_several(self.desk, self.tank.slug, [named], timedelta(days=-2))
        whole = self.desk.log(self.tank.id)
        self.assertEqual([a.count for a in stock(whole)], [9])
        arrival = whole[0]
        self.assertEqual((arrival.kind, arrival.body.first), ("arrival", named))

    def test_several_voided_in_one_act_and_back(self) -> None:
        saved = log_book.void_several(self.desk, self.tank.slug, [self.ids["wc 30%"], self.ids["fed 0.3 g"]])
        self.assertEqual(len(self.desk.log(self.tank.id)), len(LINES) - 2)
        with self.assertRaises(Refused):  # one that is struck already: nothing is done to the other
            log_book.void_several(self.desk, self.tank.slug, [self.ids["wc 30%"], self.ids["media tap"]])
        self.assertEqual(len(self.desk.log(self.tank.id)), len(LINES) - 2)
        log.undo(self.desk, self.tank.slug, saved.act_id)
        self.assertEqual(len(self.desk.log(self.tank.id)), len(LINES))

    def test_a_rescued_file_is_searched_too(self) -> None:
        with tempfile.TemporaryDirectory() as holder:
            rescue(self.folder, Path(holder) / "rescued.db")
            with closing(db.connect(Path(holder) / "rescued.db")) as rescued:
                self.assertEqual(with_word(rescued, self.tank.id, "rosa"), with_word(self.conn, self.tank.id, "rosa"))


class Durations(unittest.TestCase):
    def test_as_one_types_them(self) -> None:
        for text, hours in (
            ("2 h", 2),
            ("-1 day", -24),
            ("90 min", 1.5),
            ("+1d", 24),
            ("−2 weeks", -336),
            ("1,5 h", 1.5),
        ):
            self.assertEqual(shift_of(text), timedelta(hours=hours), text)
        for text in ("", "soon", "h", "3", "1e9 d", "2 fortnights"):
            with self.subTest(text=text), self.assertRaises(Refused):
                shift_of(text)
