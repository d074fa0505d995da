"""A keeper's own chores: their rhythm, the job they become, and the tick that writes their line."""

from dataclasses import replace
from datetime import date, timedelta

from jarbloom.core.journal.log import Log
from jarbloom.core.model.chore import Chore
from jarbloom.core.setup.chores import due_on
from jarbloom.deeds import answer_job, chores, keep_tank, log, look
from jarbloom.errors import NotFound, Refused
from tests.make import NOW, WithDesk, tank

TUESDAY = NOW.date()  # 24 Nov 2026


class Rhythm(WithDesk):
    def setUp(self) -> None:
        super().setUp()
        self.tank = keep_tank.set_up(self.desk, tank())
        self.slug = self.tank.slug

    def on(self, days: float):
        return replace(self.desk, now=NOW + timedelta(days=days))

    def jobs(self, days: float) -> dict[str, object]:
        s = look.see(self.on(days), self.slug)
        return {j.title: j for j in s.jobs if j.kind == "chore"}

    def tick(self, title: str, days: float):
        return answer_job.done(self.on(days), self.slug, self.jobs(days)[title].key)

    def test_every_so_many_days_from_the_last_tick(self) -> None:
        chores.add(self.desk, self.slug, "Wipe the back glass", "days", 7, "")
        self.assertIn("Wipe the back glass", self.jobs(0))
        self.tick("Wipe the back glass", 2)
        self.assertEqual(self.jobs(8), {})
        self.assertIn("Wipe the back glass", self.jobs(9))
        self.assertIn("overdue", self.jobs(12)["Wipe the back glass"].due_text)

    def test_on_a_weekday(self) -> None:
        sunday = Chore("Trim", "weekday", 6, "", TUESDAY, 1)
        self.assertEqual(due_on(sunday, Log()), date(2026, 11, 29))
        chores.add(self.desk, self.slug, "Trim", "weekday", 6, "")
        self.assertEqual(self.jobs(4), {})
        self.assertIn("Trim", self.jobs(5))
        self.tick("Trim", 6)  # on Monday: the next is the Sunday after
        self.assertEqual(self.jobs(11), {})
        self.assertIn("Trim", self.jobs(12))

    def test_after_each_change_its_line_is_logged_in_the_same_act(self) -> None:
        chores.add(self.desk, self.slug, "Conditioner", "after_change", 0, "conditioner 10 ml")
        self.assertEqual(self.jobs(0), {})
        log.log_line(self.on(1), self.slug, "wc 25%")
        saved = self.tick("Conditioner", 1.01)
        self.assertEqual(sorted(e.kind for e in self.desk.log(self.tank.id)), ["change", "conditioner", "job"])
        self.assertEqual(self.jobs(1.02), {})
        log.undo(self.on(1.03), self.slug, saved.act_id)  # the line and the tick go together
        self.assertEqual([e.kind for e in self.desk.log(self.tank.id)], ["change"])
        self.assertIn("Conditioner", self.jobs(1.04))

    def test_taken_off_and_put_back(self) -> None:
        chores.add(self.desk, self.slug, "Trim", "days", 1, "")
        _, (stands,), _ = chores.see(self.desk, self.slug)
        chores.remove(self.desk, self.slug, stands.chore.id)
        self.assertEqual(self.jobs(1), {})
        chores.remove(self.desk, self.slug, stands.chore.id, back=True)
        self.assertIn("Trim", self.jobs(1))
        with self.assertRaises(NotFound):
            chores.remove(self.desk, self.slug, 999)

    def test_what_cannot_be_is_said_at_its_field(self) -> None:
        for title, rhythm, every, line, field in (
            ("", "days", 7, "", "title"), ("a", "days", 0, "", "every"), ("a", "weekday", 9, "", "rhythm"),
            ("a", "moon", 1, "", "rhythm"), ("a", "days", 7, "flurb 3", "line"), ("x" * 200, "days", 7, "", "title"),
        ):  # fmt: skip
            with self.subTest(field=field), self.assertRaises(Refused) as caught:
                chores.add(self.desk, self.slug, title, rhythm, every, line)
            self.assertEqual(caught.exception.field, field)
