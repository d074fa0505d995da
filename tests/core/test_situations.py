"""What is said in some five hundred situations, and what holds over all of them and over thousands of random logs."""

import random
import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import combinations
from zoneinfo import ZoneInfo

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.bloom.forecast import Surprise, forecast
from jarbloom.core.findings.finding import RULES
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.findings import Severity
from jarbloom.units import SYSTEMS, Units
from tests.cases.situations import CASES, QUICK, Asked, ask, log_of, moment, written, wrong
from tests.make import REFERENCE, ZONE

# Two jobs that must never stand on one list, by kind or by the beginning of their titles
CONTRADICT = (
    ("feed", "stop_feeding"), ("add_batch", "replan"), ("dose", "wait"), ("cool", "warm"),
    ("topup_fresh", "topoff"), ("rinse_filter", "wash_filter"),
)  # fmt: skip
ONCE = ("test", "feed", "stop_feeding", "add_batch", "replan", "dose")  # topics with one job at the most


def asked_of(case) -> Asked:
    return ask(*log_of(case))


class Situations(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.asked = {case["id"]: asked_of(case) for case in CASES}

    def test_what_must_and_must_never_be_said(self) -> None:
        self.assertGreaterEqual(len(CASES), 120)
        for case in CASES:
            with self.subTest(case=case["id"], log=[line["line"] for line in case["log"]]):
                self.assertEqual(wrong(case, self.asked[case["id"]]), [], case["why"])

    def test_no_two_jobs_contradict_each_other(self) -> None:
        for case in CASES:
            with self.subTest(case=case["id"]):
                self.assertEqual(contradictions(self.asked[case["id"]]), [])

    def test_the_verdict_is_the_worst_finding_and_acts_are_never_forbidden(self) -> None:
        for case in CASES:
            asked = self.asked[case["id"]]
            found = asked.situation.findings
            with self.subTest(case=case["id"]):
                self.assertEqual(asked.verdict.state == "act", found.worst == Severity.ACT)
                if found.worst >= Severity.TEST:
                    self.assertNotIn(asked.verdict.call, ("Quiet.", "Hold."))
                self.assertFalse(found.forbidden & asked.kinds)
                self.assertEqual([f for f in found.holding if not asked.shut], [])

    def test_every_finding_names_what_raised_it(self) -> None:
        """Entries of the log, but for those that rest on a sum, on a count or on nothing having been read."""
        sums = {"ahead_over", "oxygen_computed", "upset_open", "feeding_ladder", "never_tested", "stale",
                "salinity_unread", "missing", "missing_night", "not_cycled", "filter_off", "unheard", "hidden_body",
                "jumped"}  # fmt: skip
        for case in CASES:
            asked = self.asked[case["id"]]
            known = {e.id for e in asked.situation.entries}
            for f in asked.situation.findings:
                with self.subTest(case=case["id"], finding=f.key):
                    self.assertLessEqual(set(f.found.entries), known)
                    self.assertTrue(f.found.entries or f.key in sums)


def contradictions(asked: Asked) -> list[tuple[str, str]]:
    kinds = [j.kind for j in asked.jobs]
    found = [(a, b) for a, b in CONTRADICT if a in kinds and b in kinds]
    found += [(k, k) for k in ONCE if kinds.count(k) > 1]
    tests = [j for j in asked.jobs if j.kind == "test"]
    found += [(a.title, b.title) for a, b in combinations(tests, 2)]
    keys = [j.key for j in asked.jobs]
    return found + [(k, k) for k in set(keys) if keys.count(k) > 1]


class TheTable(unittest.TestCase):
    def test_every_row_has_its_function_and_every_function_its_row(self) -> None:
        self.assertEqual(set(RULES), set(REFERENCE.findings))

    def test_a_row_that_acts_says_what_to_do_and_none_permits_more_than_it_may(self) -> None:
        for row in REFERENCE.findings.values():
            with self.subTest(finding=row.key):
                self.assertTrue(row.title and row.looks_at and row.window and row.why and row.ends and row.source)
                if row.level == Severity.ACT:
                    self.assertTrue(row.acts or row.share or row.tests)
                if row.level >= Severity.TEST:
                    self.assertTrue(row.gate or row.key in ("food_left",), "what presses keeps the gate shut")
                self.assertFalse(set(row.acts) & set(row.forbids))
                self.assertTrue(0 <= row.share <= 0.5 and 0 <= row.change_most <= 100)
                if row.share:
                    self.assertLessEqual(100 * row.share, row.change_most)

    def test_every_act_is_asked_for_somewhere(self) -> None:
        asked = {a for row in REFERENCE.findings.values() for a in row.acts}
        asked |= set(REFERENCE.causes.aid)  # the desk asks for the rest, by cause
        self.assertEqual(set(REFERENCE.acts) - asked, {"softer_water"})  # that one comes with a plan that cannot help


GOOD = ("am 0 ni 0", "am 0 ni 0 na 10 ph 7.4", "t 25", "fed", "wc 25% conditioner", "note trimmed the plants",
        "counted 12 neon", "kh 6 ph 7.4", "media tank")  # fmt: skip
BAD = ("saw fish gasping", "dead 1 neon", "t 33", "t 16", "am 1 ni 0 ph 8", "ni 2", "kh 0 ph 5.6", "media tap",
       "power 9h", "fed 8 g", "note sprayed the room", "saw white spots on the neons", "counted 9 neon",
       "note water smells of bad eggs", "saw neons darting", "fault heater dead", "medicine against spots",
       "note forgot the conditioner", "am 4 ni 5")  # fmt: skip
HOURS = (8, 19)
ORDER = {"add": 0, "hold": 0, "watch": 1, "test": 2, "act": 3}


def random_lines(seed: int) -> list[tuple[datetime, str]]:
    """Some lines of the last days of a cycled community, good and bad, in order of time."""
    rng = random.Random(seed)
    lines = rng.choices(GOOD, k=rng.randint(1, 4)) + rng.choices(BAD, k=rng.randint(0, 2))
    rng.shuffle(lines)
    times = sorted(moment(f"{rng.randint(-6, 0)}d {rng.choice(HOURS)}:{10 + n:02}") for n in range(len(lines)))
    return list(zip(times, lines, strict=True))


class OverRandomLogs(unittest.TestCase):
    """Thousands of logs, heard against one forecast: what is said hangs on the log."""

    SEEDS = range(1000)

    @classmethod
    def setUpClass(cls) -> None:
        calm = next(c for c in CASES if c["id"] == "s-h22")
        cls.tank, entries, now = log_of({**calm, "log": [{"at": "0d 19:00", "line": "am 0 ni 0"}]})
        cls.before = [e for e in entries if e.at < now - timedelta(days=7)]
        cls.forecast = forecast(cls.tank, entries, now, REFERENCE, (), QUICK)
        cls.now = moment("0d 19:45")

    def logs(self, every: int = 1):
        """(seed, its log, the lines of it)"""
        for seed in self.SEEDS[::every]:
            lines = random_lines(seed)
            yield seed, written(lines, self.tank, self.before), [line for _, line in lines]

    def ask(self, entries, now=None, doubted: bool = False) -> Asked:
        """With the last ammonia called unlikely where it is `doubted`."""
        now, tank = now or self.now, self.tank
        f = replace(self.forecast, as_of=now)
        last = Log.of(entries).latest("ammonia")
        if doubted and last is not None:
            f = replace(f, surprises=(Surprise(last.entry_id, last.at, "ammonia", last.reading.typed, 0.03),))
        s = situation(tank, entries, (), f, REFERENCE, Units(), now)
        return Asked(tank, s, verdict(s), jobs(s))

    def test_no_contradiction_and_bad_news_never_improves_anything(self) -> None:
        for seed, entries, lines in self.logs(5):
            bad = BAD[seed % len(BAD)]
            worse = written([*random_lines(seed), (moment("0d 19:40"), bad)], self.tank, self.before)
            before, after = self.ask(entries, doubted=seed % 5 == 0), self.ask(worse, doubted=seed % 5 == 0)
            with self.subTest(seed=seed, log=lines, bad=bad):
                self.assertEqual(contradictions(before) + contradictions(after), [])
                self.assertGreaterEqual(ORDER[after.verdict.state], ORDER[before.verdict.state])
                self.assertLessEqual(after.food or 0, max(before.food or 0, 1))
                self.assertTrue(after.shut or not before.shut)

    def test_a_plain_note_changes_nothing(self) -> None:
        for seed, entries, _ in self.logs(10):
            noted = [*entries, Entry(Note(text="moved the lamp"), self.now, id=len(entries) + 1, zone="UTC")]
            with self.subTest(seed=seed):
                self.assertEqual(said(self.ask(entries)), said(self.ask(noted)))

    def test_zone_of_writing_order_of_entry_and_late_writing_change_nothing(self) -> None:
        for seed, entries, _ in self.logs(10):
            here = said(self.ask(entries))
            abroad = [replace(e, at=e.at.astimezone(UTC)).in_zone(ZoneInfo(ZONE)) for e in entries]
            late = [replace(e, recorded_at=self.now) for e in entries]
            with self.subTest(seed=seed):
                self.assertEqual(said(self.ask(abroad)), here)
                self.assertEqual(said(self.ask(entries[::-1])), here)
                self.assertEqual(said(self.ask(late)), here)

    def test_units_change_no_answer(self) -> None:
        for seed, entries, _ in self.logs(20):
            f = replace(self.forecast, as_of=self.now)
            told = [situation(self.tank, entries, (), f, REFERENCE, Units(u), self.now) for u in SYSTEMS]
            asked = [said(Asked(self.tank, s, verdict(s), jobs(s))) for s in told]
            with self.subTest(seed=seed):
                self.assertTrue(all(x == asked[0] for x in asked))

    def test_a_sign_by_its_box_and_in_words_say_the_same(self) -> None:
        def with_(body):
            return said(self.ask([*self.before, Entry(body, self.now, id=99, zone="UTC")]))

        box = with_(Observation(signs=("gasping",)))
        self.assertEqual(box[0], "act")
        self.assertEqual(box, with_(Observation(text="all fish gasping")))
        self.assertEqual(box, with_(Note(text="all fish gasping")))


def said(asked: Asked) -> tuple:
    """What decides: the state, the acts, the food, the gate and the tests."""
    return (
        asked.verdict.state, sorted(asked.kinds), asked.food, sorted(asked.shut),
        [(j.title, j.due.date()) for j in asked.jobs if j.kind == "test"],
    )  # fmt: skip
