"""Who came uninvited, what stays where it is put, and those with a name of their own."""

import unittest
from datetime import timedelta

from jarbloom.core.advice.animal_jobs import uninvited_jobs
from jarbloom.core.journal.kinds.uninvited import UNINVITED
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.setting import Setting
from jarbloom.core.journal.uninvited import fed_g_day, sighted
from jarbloom.core.model.kit import Kit
from jarbloom.units import Units
from tests.core.test_jobs import look
from tests.make import NOW, REFERENCE, entry, numbered

HERE = Setting(
    112, Kit(), Units(), REFERENCE.species,
    {"betta": 1, "harlequin_rasbora": 8, "torch_coral": 1}, names={"pebble": "betta", "old grey": "harlequin_rasbora"},
)  # fmt: skip


def snails(*counts: tuple[float, int | None]):
    return [entry("uninvited", days, what="snails", **({} if n is None else {"count": n})) for days, n in counts]


def seen(*counts: tuple[float, int | None]):
    return sighted(Log.of(numbered(*snails(*counts))), NOW)


class Trend(unittest.TestCase):
    def test_doubling_is_read_off_the_counts(self) -> None:
        (s,) = seen((20, 7), (10, 15), (0.1, 31))  # one more than was counted: 8, 16, 32
        self.assertAlmostEqual(s.doubles_days, 10, delta=0.1)
        self.assertTrue(s.swarming)

    def test_too_little_tells_no_trend(self) -> None:
        for counts in (((10, 5), (1, 40)), ((3, 5), (2, 20), (1, 40)), ((90, 2), (80, 9), (1, 40))):
            with self.subTest(counts=counts):
                (s,) = seen(*counts)
                self.assertIsNone(s.doubles_days)
                self.assertFalse(s.swarming)

    def test_a_steady_or_falling_number_and_a_few_are_no_swarm(self) -> None:
        for counts in (((30, 40), (15, 40), (1, 40)), ((30, 80), (15, 60), (1, 20)), ((20, 1), (10, 3), (1, 6))):
            with self.subTest(counts=counts):
                self.assertFalse(seen(*counts)[0].swarming)

    def test_seen_is_kept_without_a_count_and_none_left_ends_it(self) -> None:
        (s,) = seen((40, None), (2, None))
        self.assertEqual((s.first, s.counts), (snails((40, None))[0].at, ()))
        self.assertEqual(seen((20, 8), (10, 16), (1, 0)), ())

    def test_food_is_named_only_where_it_was_weighed(self) -> None:
        fed = [entry("feed", d, grams=0.5) for d in range(28)]
        self.assertAlmostEqual(fed_g_day(Log.of(numbered(*fed)), NOW), 0.5)
        self.assertIsNone(fed_g_day(Log.of(numbered(*fed[:3])), NOW))
        self.assertIsNone(fed_g_day(Log.of(numbered(*fed[:10], *(entry("feed", d + 0.1) for d in range(20)))), NOW))


class TheJob(unittest.TestCase):
    FISH = entry("arrival", 60, species="harlequin_rasbora", count=8)

    def jobs(self, *more):
        return uninvited_jobs(look(self.FISH, *more))

    def test_a_swarm_asks_for_less_food_and_says_what_was_fed(self) -> None:
        fed = [entry("feed", d + 0.2, grams=2.0) for d in range(20)]
        (job,) = self.jobs(*snails((20, 7), (10, 15), (0.1, 31)), *fed)
        self.assertIn("small snails", job.title)
        self.assertIn("31 at the last look", job.why)
        self.assertIn("are usual", job.why)
        (calm,) = self.jobs(*snails((20, 7), (10, 15), (0.1, 31)))
        self.assertNotIn("are usual", calm.why)
        self.assertNotIn("copper", calm.why.replace("No remedy with copper", ""))

    def test_what_does_not_live_on_leavings_gives_none(self) -> None:
        leeches = [entry("uninvited", d, what="leech", count=n) for d, n in ((20, 7), (10, 15), (0.1, 31))]
        self.assertEqual(self.jobs(*leeches), [])

    def test_what_stings_or_strikes_says_so_and_nothing_is_called_harmless(self) -> None:
        rows = REFERENCE.uninvited
        self.assertEqual(set(rows), set(UNINVITED))
        for key in ("bristle_worms", "stinging_anemones", "clicking_shrimp"):
            self.assertEqual(rows[key].caution, "stings")
        self.assertEqual(rows["polyps"].caution, "salt_rock")
        for row in rows.values():
            self.assertNotRegex((row.says + row.act).lower(), r"harmless|safe\b|no danger")


class AsTyped(unittest.TestCase):
    def body(self, line: str):
        (body,) = parse(line, NOW, HERE).bodies
        return body

    def test_uninvited(self) -> None:
        for line, what, count, text in (
            ("uninvited 12 snails", "snails", 12, ""), ("uninvited 0 planaria", "flatworms", 0, ""),
            ("hitchhiker crab in the rock", "crab", None, "in the rock"),
            ("uninvited something red", "other", None, "red"),
        ):  # fmt: skip
            with self.subTest(line=line):
                body = self.body(line)
                self.assertEqual((body.what, body.count, body.text), (what, count, text))
        for line in ("uninvited", "uninvited 2.5 snails", "uninvited 12 guests"):
            self.assertEqual(parse(line, NOW, HERE).bodies, (), line)

    def test_corals(self) -> None:
        body = self.body("placed 1 torch coral 3 heads, top left")
        self.assertEqual((body.species, body.how, body.heads, body.text), ("torch_coral", "placed", 3, "top left"))
        body = self.body("split torch coral")
        self.assertEqual((body.how, body.heads, body.text), ("split", None, ""))

    def test_by_its_own_name(self) -> None:
        found = parse("dead pebble", NOW, HERE)
        self.assertEqual(((found.bodies[0].species, found.bodies[0].count), found.note), (("betta", 1), "pebble"))
        found = parse("yesterday length Old Grey 3.1 cm", NOW, HERE)
        self.assertEqual((found.bodies[0].length_cm, found.note), (3.1, "Old Grey"))
        self.assertEqual(found.at.date(), (NOW - timedelta(days=1)).date())
        self.assertEqual(parse("dead 2 pebble", NOW, HERE).bodies, ())
        self.assertEqual(self.body("name 1 betta Biscuit").called, "Biscuit")
        for line in (
            "name 2 rasboras Marble",
            "name 1 betta",
            "name 1 betta R2",
            "name 1 betta Guppy",
            "name 1 betta fish",
            "name 1 betta shrimp",
        ):  # what others are called
            self.assertEqual(parse(line, NOW, HERE).bodies, (), line)


if __name__ == "__main__":
    unittest.main()
