"""Several lines pasted at once, lines that were kept on a phone, and the first steps of a tank, as deeds."""

from dataclasses import replace
from datetime import timedelta

from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.deeds import begin, keep_tank, log, records
from jarbloom.deeds.log_lines import MOST_LINES, log_lines, read_lines
from jarbloom.errors import Refused
from jarbloom.store import batches, journal
from tests.make import NOW, WithDesk, tank


class ManyLines(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        old = replace(tank(), started=NOW.date() - timedelta(days=300))
        self.tank = keep_tank.set_up(self.desk, old)
        self.slug = self.tank.slug

    def entries(self):
        return [e for e in journal.entries(self.conn, self.tank.id) if e.state == "live"]

    def test_two_hundred_lines_with_three_bad_ones(self) -> None:
        days = [(NOW - timedelta(days=220 - k)).strftime("%Y-%m-%d") for k in range(200)]
        lines = [f"{day} 19:00 am 0 ni 0 na {5 + k % 20}" for k, day in enumerate(days)]
        lines[17], lines[60], lines[199] = "2026-07-01 19:00 wibble 3", f"{days[60]} am 9999", "tomorrow am 0"
        text = "\r\n".join(["", *lines, "  "])
        read = read_lines(self.desk, self.slug, text)
        self.assertEqual([r.line for r in read if r.problem], [lines[17], lines[60], lines[199]])
        self.assertEqual(self.entries(), [])  # reading writes nothing
        saved, waiting = log_lines(self.desk, self.slug, text)
        self.assertEqual([r.line for r in waiting], [lines[17], lines[60], lines[199]])
        self.assertEqual(len(self.entries()), 197)
        self.assertEqual(len(saved.entry_ids), 197)
        again, refused = log_lines(self.desk, self.slug, text)  # the same paste again adds nothing
        self.assertIsNone(again)
        self.assertEqual(len(refused), 200)
        log.undo(self.desk, self.slug, saved.act_id)  # one act, one undo
        self.assertEqual(self.entries(), [])

    def test_lines_build_on_those_before_them(self) -> None:
        text = "\n".join(("- 2026-10-01 in 8 harlequin rasboras", "- 2026-10-09 dead 2 rasboras",
                          "- 2026-10-10 dead 7 rasboras", "* 2026-09-01 dead 1 rasbora"))  # fmt: skip
        saved, waiting = log_lines(self.desk, self.slug, text)
        self.assertEqual(len(saved.entry_ids), 2)
        self.assertIn("7, and 6 live here", waiting[0].problem)
        self.assertEqual(len(waiting), 2)  # and nobody died before they came

    def test_the_same_twice_in_one_paste_waits(self) -> None:
        _, waiting = log_lines(self.desk, self.slug, "2026-11-01 19:00 am 0\n2026-11-01 19:00 am 0.25")
        self.assertEqual(len(waiting), 1)
        self.assertIn("already", waiting[0].problem)

    def test_animals_that_come_in_today_meet_their_gate(self) -> None:
        _, waiting = log_lines(self.desk, self.slug, "in 6 guppies\n10:00 am 0")
        self.assertEqual([r.line for r in waiting], ["in 6 guppies"])
        self.assertIn("a line of its own", waiting[0].problem)

    def test_too_many_and_none(self) -> None:
        with self.assertRaisesRegex(Refused, "at most"):
            read_lines(self.desk, self.slug, "am 0\n" * (MOST_LINES + 1))
        self.assertEqual(log_lines(self.desk, self.slug, " \n•\n"), (None, ()))


class KeptOnAPhone(WithDesk):
    def test_a_line_goes_in_with_its_own_time_whatever_the_phones_clock_shows(self) -> None:
        kept = keep_tank.set_up(self.desk, replace(tank(), started=NOW.date() - timedelta(days=30)))
        at = log.typed_at(self.desk, "7200")
        self.assertEqual(NOW - at, timedelta(hours=2))
        log.log_line(self.desk, kept.slug, "am 0.25", typed=at)
        log.log_line(self.desk, kept.slug, "yesterday 19:00 am 0", typed=NOW - timedelta(days=2))
        days = sorted(e.at for e in journal.entries(self.conn, kept.id))
        self.assertEqual(days, [(NOW - timedelta(days=3)).replace(hour=19, minute=0), at])
        self.assertEqual(log.typed_at(self.desk, ""), NOW)
        for age in ("-5", "a while", "999999999", "nan"):
            with self.subTest(age=age), self.assertRaises(Refused):
                log.typed_at(self.desk, age)


class FirstSteps(WithDesk):
    def test_a_tank_from_its_glass_alone(self) -> None:
        glass = Tank("", NOW.date(), 80.0, 35.0, 45.0, substrate_cm=4.0, filled=False)
        one = begin.first_step(self.desk, glass, "fresh")
        two = begin.first_step(self.desk, glass, "sea")
        self.assertEqual([one.name, two.name], ["Tank 1", "Tank 2"])
        self.assertEqual((one.salinity_g_kg, two.salinity_g_kg), (0, 35))
        ready = begin.expected(self.desk, one)
        self.assertTrue(NOW.date() < ready.p10 < ready.p50)

    def test_borrowed_media_fits_and_is_sooner(self) -> None:
        from jarbloom.core.setup.choose import Answers

        kept = begin.first_step(self.desk, Tank("", NOW.date(), 60.0, 30.0, 36.0, filled=False), "fresh")
        new, later = begin.fitting(self.desk, kept, Answers())
        lent, sooner = begin.fitting(self.desk, kept, Answers(donor="yes"))
        self.assertNotEqual(new.school.key, lent.school.key)
        self.assertEqual(lent.school.key, "borrowed_media")
        self.assertLess(sooner.p50, later.p50)

    def test_which_tank_ends_as_a_planned_one(self) -> None:
        wishes = (Animals("harlequin_rasbora", 9), Animals("kuhli_loach", 6))
        kept = begin.tank_for(self.desk, (80, 35, 40), wishes)
        self.assertFalse(kept.filled)
        planned = batches.batches(self.conn, kept.id, self.desk.log(kept.id))
        self.assertEqual(sum(b.count_of("harlequin_rasbora") for b in planned), 9)
        self.assertEqual(sum(a.count for a in records.planned_animals(self.desk, kept)), 15)
        self.assertTrue(all(b.planned > NOW.date() for b in planned))
        with self.assertRaises(Refused):
            begin.tank_for(self.desk, (80, 35, 40), ())
