"""While the keeper is away: the sheet, what to do before, its address, what a helper ticks; and the report."""

import io
import re
from dataclasses import replace
from datetime import timedelta
from unittest.mock import patch

from PIL import Image

from jarbloom.core.advice import away as core
from jarbloom.core.advice.away import PORTION, Absence, measure
from jarbloom.core.advice.food import Ration, ration
from jarbloom.core.advice.report import report
from jarbloom.core.animals.bioload import usual_feed_g_day
from jarbloom.core.model.findings import Feeding
from jarbloom.deeds import away, keep_tank, log, look
from jarbloom.deeds.photos import Sent
from jarbloom.errors import NotFound, Refused
from jarbloom.formats.report_md import report_md
from jarbloom.store import journal
from tests.make import NOW, WithDesk, tank

DAY = timedelta(days=1)


class Away(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, replace(tank(), started=NOW.date() - timedelta(days=300), lid=False))
        self.slug = self.tank.slug
        self.line("in 10 harlequin rasboras", 250, reason="an old tank")
        for days in (45, 38, 31, 24, 17, 10, 3):
            self.line("wc 25%", days)
        self.line("am 0 ni 0 na 20", 2)

    def line(self, text: str, days: float, reason: str = "") -> None:
        log.log_line(replace(self.desk, now=NOW - timedelta(days=days)), self.slug, text, reason=reason)

    def absence(self, days: int = 14, **more: object) -> Absence:
        return Absence(NOW.date() + DAY, NOW.date() + timedelta(days=days), **more)

    def sheet(self, a: Absence):
        return core.sheet(look.see(self.desk, self.slug).situation, a)

    def test_food_on_its_days_and_less_than_the_usual(self) -> None:
        found = self.sheet(self.absence(every=2))
        self.assertEqual(
            [bool(d.portion) for d in found.days], [k % 2 == 1 for k in range(14)]
        )  # they were fed on leaving
        self.assertEqual({d.portion for d in found.days} - {0.0}, {found.portion})
        daily = self.sheet(self.absence(every=1))
        self.assertTrue(all(d.portion for d in daily.days))
        self.assertFalse(any(d.portion for d in self.sheet(self.absence(every=0)).days))

    def test_the_water_that_leaves_is_put_back(self) -> None:
        found = self.sheet(self.absence(30))
        lost = sum(d.topoff_l for d in found.days)
        self.assertGreater(lost, 0.02 * look.see(self.desk, self.slug).situation.volume_l)
        told = next(what for what, _ in found.before if "beside the tank" in what)
        litres = float(re.search(r"Put ([\d.]+)", told)[1])
        self.assertLessEqual(lost, litres + 0.5)
        self.assertIn("conditioned tap water", told)

    def test_what_falls_into_the_days_is_told_before(self) -> None:
        whats = [what for what, _ in self.sheet(self.absence(14)).before]
        self.assertTrue(any(w.startswith("Change ") for w in whats), whats)  # weekly changes, and two weeks away
        self.assertFalse(any(w.startswith("Change ") for w in [w for w, _ in self.sheet(self.absence(3)).before]))
        self.assertTrue(any("without food" in w for w, _ in self.sheet(self.absence(3)).before))
        self.assertFalse(any("without food" in w for w, _ in self.sheet(self.absence(14)).before))
        self.line("in 4 bronze corydoras", 3, reason="they were here")
        self.assertIn("Look twice at the newcomers.", [w for w, _ in self.sheet(self.absence()).before])

    def test_an_upset_is_not_left_to_a_helper(self) -> None:
        self.line("am 4 ni 2", 0.1)
        whats = [what for what, _ in self.sheet(self.absence()).before]
        self.assertEqual(whats[0], "Do not leave it like this.")
        self.assertFalse(any(w.startswith("Change ") for w in whats))  # how much is the upset desk's to say

    def test_no_packet_holds_more_than_is_fed_today(self) -> None:
        s = look.see(self.desk, self.slug).situation
        usual = usual_feed_g_day(s.living, s.reference.species, s.tank.temp_c, NOW.date())
        for level, own, packet in (
            (Feeding.USUAL, None, PORTION * usual), (Feeding.USUAL, 0.5, 0.5),  # the keeper's own stands
            (Feeding.HALF, None, 0.5 * usual), (Feeding.HALF, 0.5, 0.5 * usual), (Feeding.HALF, 0.01, 0.01),
            (Feeding.PINCH, 0.5, 0.25 * usual), (Feeding.MOST, None, PORTION * usual),
        ):  # fmt: skip
            held = Ration(level, level.share * usual, "Something is wrong.")
            with self.subTest(level=level, own=own), patch.object(core, "ration", return_value=held):
                found = core.sheet(s, self.absence(grams=own))
                self.assertAlmostEqual(found.portion, packet, 2)
                self.assertEqual({d.portion for d in found.days} - {0.0}, {found.portion})
                self.assertEqual("Something is wrong." in found.rests_on, level < Feeding.USUAL)
        self.assertLess(ration(s).level, Feeding.USUAL)  # this tank is not proven: told as on every page
        self.assertIn(ration(s).why, core.sheet(s, self.absence()).rests_on)
        with patch.object(core, "ration", return_value=Ration(Feeding.NONE, 0.0, "Ammonia over its limit.")):
            bare = core.sheet(s, self.absence(grams=1.0))
        self.assertEqual(bare.portion, 0.0)
        self.assertFalse(any(d.portion for d in bare.days))
        self.assertIn("no food is set down", bare.rests_on)
        self.assertFalse(any("packet" in why for _, why in bare.before))

    def test_days_that_cannot_be(self) -> None:
        today = NOW.date()
        for first, last in (
            (today, today - DAY),
            (today - 9 * DAY, today - 8 * DAY),
            (today, today + timedelta(days=90)),
        ):
            with self.subTest(first=first), self.assertRaises(Refused) as caught:
                away.make(self.desk, self.slug, Absence(first, last))
            self.assertEqual(caught.exception.field, "last")

    def test_measures(self) -> None:
        self.assertIn("pinch", measure(0.02))
        self.assertEqual(measure(2.4), "about a level teaspoon")

    def shared(self) -> str:
        away.make(self.desk, self.slug, self.absence(every=1, contact="ring us"))
        return away.share(self.desk, self.slug)

    def test_an_address_shows_this_until_it_is_over(self) -> None:
        secret = self.shared()
        self.assertEqual(away.seen_by(self.desk, secret).tank.name, self.tank.name)
        kept = [row[0] for row in self.conn.execute("SELECT hash FROM away")]
        self.assertNotIn(secret, kept)  # its hash alone is kept
        for wrong in ("", "x" * 32, secret[:-1]):
            with self.subTest(wrong=wrong), self.assertRaises(NotFound):
                away.seen_by(self.desk, wrong)
        with self.assertRaises(NotFound):  # two days after the last
            away.seen_by(replace(self.desk, now=NOW + timedelta(days=17)), secret)
        newer = away.share(self.desk, self.slug)
        with self.assertRaises(NotFound):
            away.seen_by(self.desk, secret)
        away.withdraw(self.desk, self.slug)
        with self.assertRaises(NotFound):
            away.seen_by(self.desk, newer)

    def test_a_tick_writes_what_was_done_and_can_be_taken_back(self) -> None:
        secret = self.shared()
        day = NOW.date() + DAY
        there = replace(self.desk, now=NOW + DAY)
        away.tick(there, secret, day, "fed")
        feeds = [e for e in journal.entries(self.conn, self.tank.id) if e.kind == "feed"]
        self.assertEqual(
            [(e.who, e.body.grams) for e in feeds], [("the helper", away.seen_by(there, secret).sheet.portion)]
        )
        self.assertIn((day, "fed"), away.seen_by(there, secret).ticked)
        away.tick(there, secret, day, "fed")
        self.assertEqual([e for e in journal.entries(self.conn, self.tank.id) if e.kind == "feed"], [])
        self.assertNotIn((day, "fed"), away.seen_by(there, secret).ticked)
        away.tick(there, secret, day, "fed")  # and again
        self.assertIn((day, "fed"), away.seen_by(there, secret).ticked)
        for wrong, what in ((day + 2 * DAY, "fed"), (NOW.date() - DAY, "fed"), (day, "topped"), (day, "medicine")):
            with self.subTest(what=what, day=wrong), self.assertRaises(Refused):
                away.tick(there, secret, wrong, what)

    def test_a_word_and_a_photo_of_the_helper(self) -> None:
        secret = self.shared()
        away.say(self.desk, secret, "The snail is up again", [])
        out = io.BytesIO()
        Image.new("RGB", (40, 30), "teal").save(out, "JPEG")
        away.say(self.desk, secret, "see here", [Sent("a.jpg", out.getvalue())])
        told = [(e.kind, e.who) for e in journal.entries(self.conn, self.tank.id)][-2:]
        self.assertEqual(sorted(told), [("note", "the helper"), ("photo", "the helper")])
        for words, sent in (("", []), ("x" * 3000, []), ("", [Sent("b", b"no picture")])):
            with self.subTest(words=words[:3]), self.assertRaises(Refused):
                away.say(self.desk, secret, words, sent)

    def test_nothing_is_stored_by_an_address_that_is_over(self) -> None:
        secret, out = self.shared(), io.BytesIO()
        Image.new("RGB", (40, 30), "navy").save(out, "JPEG")
        late = replace(self.desk, now=NOW + timedelta(days=17))
        before = journal.entries(self.conn, self.tank.id)
        with self.assertRaises(NotFound):
            away.say(late, secret, "the snail again", [Sent("a.jpg", out.getvalue())])
        with self.assertRaises(NotFound):
            away.tick(late, secret, NOW.date() + DAY, "fed")
        self.assertEqual(journal.entries(self.conn, self.tank.id), before)
        self.assertEqual([p for p in self.folder.rglob("*") if p.suffix in {".jpg", ".part"}], [])

    def test_back_again_ends_it(self) -> None:
        secret = self.shared()
        away.end(self.desk, self.slug)
        self.assertIsNone(away.seen(self.desk, self.slug))
        with self.assertRaises(NotFound):
            away.tick(self.desk, secret, NOW.date(), "looked")

    def test_the_report_holds_the_stretch_and_no_signs_of_its_own(self) -> None:
        self.line("note <b>bold</b> | *star* [link](x)", 1)
        s = look.see(self.desk, self.slug).situation
        short, long = report(s, 7), report(s, 60)
        self.assertEqual(dict(short.numbers)["Water changed"].split(" in ")[1], "1 change")
        self.assertEqual(dict(long.numbers)["Water changed"].split(" in ")[1], "7 changes")
        self.assertEqual(
            (short.living, short.quantities), (("10 harlequin rasboras",), ("ammonia", "nitrite", "nitrate"))
        )
        text = report_md(short)
        self.assertIn(r"\<b\>bold\</b\> \| \*star\* \[link\](x)", text)
        self.assertIn("| 22 Nov 18:40 | 0 | 0 | 20 |", text)
        self.assertNotIn("\u00a0", text)
