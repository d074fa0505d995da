"""The next hours and days: clocks against printed check values, which course stands when, and what an upset leaves."""

import math
import re
import unittest
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.advice.food import ration
from jarbloom.core.advice.situation import Situation, standing_gate
from jarbloom.core.causes import clocks
from jarbloom.core.causes.aftermath import UNKNOWN_DAYS, account, resume_on
from jarbloom.core.causes.courses import MOST, changes
from jarbloom.core.causes.inquiry import inquire
from jarbloom.core.causes.ranking import rank
from jarbloom.core.journal.kinds.lesson import Lesson
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.findings import Feeding
from jarbloom.core.model.tank import Source
from jarbloom.core.upset.levels import episode
from jarbloom.core.water.ammonia import Limits
from jarbloom.core.water.oxygen import hours_left, saturation_mg_l
from jarbloom.units import SYSTEMS, Units
from tests.core.test_causes import FISH, look, ranked
from tests.make import NOW, REFERENCE, ZONE, entry, numbered, tank, test_entry

SEA = {"salinity_g_kg": 35.0, "ph": 8.1, "kh_dkh": 8.0, "temp_c": 25.0}
CLOWN = entry("arrival", 60, species="ocellaris_clownfish", count=2, already_in=True)


def note(text: str, hours_ago: float = 1.0) -> Entry:
    return Entry(Note(text=text), NOW - timedelta(hours=hours_ago), zone=ZONE)


def courses(s: Situation):
    assert s.facts is not None
    return inquire(s.facts, s.findings, bool(s.response and s.response.changes)).courses


def keys(s: Situation) -> list[str]:
    return [c.row.key for c in courses(s)]


def text_of(s: Situation, key: str) -> str:
    found = next(c for c in courses(s) if c.row.key == key)
    return " ".join([found.clock, *(step.text for step in found.steps)]).replace("\u00a0", " ")


class Oxygen(unittest.TestCase):
    """100 L, 0.30 m2, 200 g at 25 deg C: printed check values of docs/upsets.md, next hours and days."""

    def test_printed_values(self) -> None:
        self.assertAlmostEqual(hours_left(100, 0.30, 200, 25.0, start_mg_l=7.5), 7.5, delta=0.05)
        self.assertAlmostEqual(hours_left(100, 0.30, 200, 25.0, 35.0, start_mg_l=6.2), 4.9, delta=0.05)
        self.assertAlmostEqual(hours_left(100, 1e-9, 200, 25.0, start_mg_l=7.5), 5.6, delta=0.05)
        self.assertTrue(math.isinf(hours_left(100, 0.30, 200, 25.0, surface="rippled", start_mg_l=7.5)))

    def test_without_a_surface_it_is_a_straight_line(self) -> None:
        """4.5 mg/L of 100 L at 80 mg an hour."""
        self.assertAlmostEqual(hours_left(100, 1e-12, 200, 25.0, start_mg_l=7.5), 450 / 80, places=3)

    def test_warmth_and_weight_shorten_it_and_water_lengthens_it(self) -> None:
        usual = hours_left(100, 0.30, 200, 25.0)
        self.assertLess(hours_left(100, 0.30, 200, 30.0), usual)
        self.assertLess(hours_left(100, 0.30, 300, 25.0), usual)
        self.assertGreater(hours_left(200, 0.30, 200, 25.0), usual)
        self.assertLess(hours_left(100, 0.30, 200, 25.0, critical_mg_l=4.0), usual)
        self.assertEqual(hours_left(100, 0.30, 200, 25.0, start_mg_l=2.0), 0.0)
        self.assertGreater(saturation_mg_l(25.0), 8)

    def test_half_of_it_is_promised_from_when_it_went_out(self) -> None:
        many = entry("arrival", 60, species="goldfish", count=6, length_cm=14, already_in=True)
        s = look(many, note("power out since an hour, still out", 1.0))
        assert s.facts is not None
        self.assertIn("power", keys(s))
        hours = clocks.oxygen_hours(s.facts)
        until = NOW - timedelta(hours=1) + timedelta(hours=0.5 * hours)
        self.assertIn(f"until {until:%H:%M}", text_of(s, "power"))


class Called(unittest.TestCase):
    def test_what_stands_calls_for_its_course(self) -> None:
        warm = look(FISH, test_entry(0.05, temp="33"))
        rows = (
            (warm, "cool_down"),
            (look(FISH, test_entry(0.05, temp="17")), "warm_up"),
            (look(FISH, test_entry(0.05, kh="0.5", ph="6.2", ammonia="1", nitrite="0")), "alkalinity"),
            (look(CLOWN, test_entry(0.05, salinity="39"), on=tank(**SEA)), "salinity"),
            (look(FISH, note("somebody sprayed window cleaner by the tank, shrimp on their backs")), "contamination"),
            (look(FISH, note("the tank is leaking, water on the floor")), "leak"),
            (look(FISH, entry("power", 0.1, hours=9)), "stood_filter"),
            (look(FISH, entry("observation", 0.05, signs=["spots", "flashing"])), "disease"),
            (look(FISH, entry("observation", 0.05, signs=["chase", "torn"])), "bullying"),
            (look(FISH, note("found one on the floor behind the tank, jumped out")), "jumped"),
        )
        for s, key in rows:
            with self.subTest(course=key):
                self.assertIn(key, keys(s))
                self.assertLessEqual(len(keys(s)), MOST)
        self.assertEqual(keys(warm)[0], "cool_down")

    def test_what_leads_calls_for_its_course_where_no_finding_does(self) -> None:
        s = look(FISH, entry("observation", 0.05, signs=["torn", "hiding", "guard"]))
        named = {k for f in s.findings for k, row in REFERENCE.courses.items() if f.key in row.findings}
        self.assertNotIn("bullying", named)
        self.assertIn("bullying", keys(s))

    def test_a_calm_tank_has_none(self) -> None:
        clean = [test_entry(d, ammonia="0", nitrite="0") for d in (3, 2, 1, 0.1)]
        self.assertEqual(keys(look(FISH, *clean)), [])

    def test_every_place_in_the_steps_is_filled_for_every_tank(self) -> None:
        empty = look()
        known = (look(FISH, test_entry(0.1, temp="31", kh="0.5", salinity="3")), empty,
                 look(CLOWN, test_entry(0.1, temp="18", salinity="30"), entry("power", 0.2, hours=6), on=tank(**SEA)),
                 look(CLOWN, test_entry(0.1, salinity="39"), on=tank(**SEA, source=Source(6.5, 0.0))))  # fmt: skip
        for s in known:
            for units in (Units(), Units(SYSTEMS[-1])):
                assert s.facts is not None
                facts = replace(s.facts, units=units)
                for row in REFERENCE.courses.values():
                    words = {**changes(s.findings), **(clocks.CLOCKS[row.clock](facts) if row.clock else {})}
                    for _, text in row.steps:
                        with self.subTest(course=row.key):
                            self.assertFalse(set(re.findall(r"{(\w+)}", text)) - set(words))
                            self.assertNotIn("{", text.format(**words))

    def test_no_course_names_a_dose_or_a_drug(self) -> None:
        for row in REFERENCE.courses.values():
            for _, text in row.steps:
                self.assertIsNone(re.search(r"\bmg/L of\b|\bml per\b|formalin|malachite|antibiotic", text, re.I), text)
            self.assertEqual([h for h, _ in row.steps], sorted(h for h, _ in row.steps), row.key)


class LittleToGoBy(unittest.TestCase):
    """A useful answer with its doubt, or the one question that helps most."""

    def test_nothing_but_they_die(self) -> None:
        s = look(FISH, note("they die"))
        found = inquire(s.facts, s.findings, False)
        self.assertTrue(found.asks_why)
        self.assertTrue(found.ranking.close or found.ranking.poor, "nobody can tell from that")
        self.assertTrue(found.checks)
        self.assertEqual(found.checks[0].check.stress, 0)
        self.assertTrue({"air", "no_food"} & {h.act.key for h in found.aid.do} or s.findings.feeding < Feeding.USUAL)

    def test_a_year_without_an_entry(self) -> None:
        old = tank(started=(NOW - timedelta(days=500)).date())
        fish = entry("arrival", 480, species="harlequin_rasbora", count=8)
        s = look(fish, entry("observation", 0.02, signs=["gasping"]), on=old)
        found = inquire(s.facts, s.findings, False)
        self.assertTrue(found.asks_why and found.checks)
        self.assertTrue(s.findings.has("stale", "never_tested"))
        self.assertIn("air", {h.act.key for h in found.aid.do} | {a for f in s.findings for a in f.acts})

    def test_told_three_days_late_it_is_the_same_upset(self) -> None:
        def first(late: float) -> str:
            spoilt = (entry("media", 1 + late, how="replaced"), test_entry(late + 0.05, ammonia="4", nitrite="0"))
            s = look(FISH, *spoilt, entry("observation", late + 0.05, signs=["gasping"]))
            return ranked(s).causes[0].key

        self.assertEqual(first(3.0), first(0.0))
        self.assertEqual(first(0.0), "colony_media")


class Steps(unittest.TestCase):
    def test_cooling_takes_its_time(self) -> None:
        s = look(FISH, test_entry(0.05, temp="33"), on=tank(temp_c=25))
        words = clocks.cooling(s.facts)["cooling"].replace("\u00a0", " ")
        self.assertIn("to 29 °C not before 22:40", words)  # 4 C in four hours from 18:40
        self.assertIn("to 25 °C on Wednesday", words)

    def test_salt_by_the_day(self) -> None:
        """35 from 38 in 100 L: three days, a 38th of the water each; from 32: a g/kg of 100 L is about 102 g."""
        on = tank(**SEA, measured_l=100.0, salt_factor=1.0)
        high = clocks.salinity(look(CLOWN, test_entry(0.05, salinity="38"), on=on).facts)["salt"]
        self.assertIn("3 days", high.replace("\u00a0", " "))
        self.assertIn("2.6", high)
        shrimp = entry("arrival", 60, species="nerite_snail", count=1, already_in=True)
        for more, grams in (((shrimp,), 102), ((), 204)):  # fish alone bear two upwards
            s = look(CLOWN, *more, test_entry(0.05, salinity="32"), on=on)
            low = clocks.salinity(s.facts)["salt"].replace("\u00a0", " ")
            self.assertAlmostEqual(int(re.search(r"each day (\d+) g", low)[1]), grams, delta=8)

    def test_alkalinity_comes_back_by_a_degree_a_day_and_the_amount_is_the_jobs(self) -> None:
        on = tank(kh_dkh=5.0, source=Source(7.6, 12.0), measured_l=100.0)
        s = look(FISH, test_entry(0.05, kh="1", ph="6.6", ammonia="0", nitrite="0"), on=on)
        words = clocks.alkalinity(s.facts)["kh"]
        self.assertIn("takes 4 days at 1 dKH a day", words)
        self.assertNotRegex(words, r"\d\s*L\b")  # one question has one answer: litres stand among the jobs

    def test_no_course_lets_water_in_where_a_finding_forbids_it(self) -> None:
        untreated = look(FISH, entry("change", 0.1, litres=30), note("forgot the conditioner, they gasp", 1.0))
        self.assertEqual(untreated.findings.change_most, 0)
        self.assertIn("No water in before", text_of(untreated, "contamination"))
        poisoned = look(FISH, note("somebody sprayed window cleaner by the tank, shrimp on their backs"))
        self.assertGreater(poisoned.findings.share, 0)
        self.assertIn("stands among the jobs", text_of(poisoned, "contamination"))


class After(unittest.TestCase):
    SPIKE = (test_entry(12, ammonia="4", nitrite="1", ph="8"), test_entry(11, ammonia="1", nitrite="0.5"))

    def calm_for(self, days: int) -> Situation:
        """Two clean days ended it; `days` is the day of the ladder, the first of them the second clean day."""
        clean = [test_entry(days - 1 + k, ammonia="0", nitrite="0") for k in (1, 0)]
        spike = [replace(e, at=NOW - timedelta(days=days + 3)) for e in self.SPIKE[:1]]
        grown = entry("arrival", 60, species="platy", count=4, length_cm=5.0, already_in=True)
        more = [test_entry(d, ammonia="0", nitrite="0") for d in range(days - 1)]
        long_ago = [test_entry(d, ammonia="0", nitrite="0") for d in (40, 33, 26)]
        return look(grown, *long_ago, *spike, *clean, *more)

    def test_the_day_that_ended_it(self) -> None:
        found = episode(tank(), self.calm_for(3).entries, Limits())
        assert found is not None
        self.assertEqual(found.over_on, (NOW - timedelta(days=2)).date())
        self.assertIsNone(episode(tank(), numbered(FISH, *self.SPIKE), Limits()).over_on)

    def test_feeding_comes_back_in_steps(self) -> None:
        rows = ((1, Feeding.PINCH), (2, Feeding.PINCH), (3, Feeding.HALF), (4, Feeding.HALF), (5, Feeding.MOST),
                (7, Feeding.MOST), (8, Feeding.USUAL))  # fmt: skip
        for day, level in rows:
            s = self.calm_for(day)
            with self.subTest(day=day):
                self.assertEqual(ration(s).level, level)
                self.assertEqual("feeding_again" in keys(s), level < Feeding.USUAL)
        usual = ration(self.calm_for(8)).grams
        self.assertAlmostEqual(ration(self.calm_for(5)).grams, 0.75 * usual, places=6)

    def test_the_account_tells_what_was_seen_done_and_lost(self) -> None:
        s = look(FISH, entry("media", 2, how="tap"), test_entry(1, ammonia="4", nitrite="0.5", ph="7.8"),
                 entry("observation", 1, signs=["gasping"]), entry("change", 0.9, litres=50),
                 entry("death", 0.8, species="harlequin_rasbora", count=2))  # fmt: skip
        told = account(s.facts, ranked(s)).replace("\u00a0", " ")
        for part in ("Ammonia up to 4", "1 water change, 50 L", "2 animals", "tap"):
            self.assertIn(part, told)

    def test_new_animals_wait_for_the_day_of_the_cause(self) -> None:
        causes, today = REFERENCE.causes, NOW.date()
        rows = (("overfed", 5), ("toxin_in", 21), ("colony_rinse", 14), ("test_fault", 0), (None, UNKNOWN_DAYS))
        for key, days in rows:
            with self.subTest(cause=key):
                row = causes.rows[key] if key else None
                self.assertEqual((resume_on(row, causes, today) - today).days, days)

    def test_what_was_written_down_holds_the_gate_to_its_day(self) -> None:
        clean = [test_entry(d, ammonia="0", nitrite="0") for d in range(9)]
        for wait, held in ((3, True), (-1, False)):
            body = Lesson(cause="colony_rinse", title="The filter was washed in tap water", text="x",
                          resume=(NOW + timedelta(days=wait)).date())  # fmt: skip
            s = look(FISH, *clean, Entry(body, NOW - timedelta(days=5), zone=ZONE))
            with self.subTest(wait=wait):
                self.assertEqual(s.findings.has("resuming"), held)
                shut = [c.key for c in standing_gate(s) if not c.passed and c.hardness != "taste"]
                self.assertEqual("resuming" in " ".join(shut) or "finding" in " ".join(shut) or bool(shut), held)

    def test_the_same_ground_is_recalled(self) -> None:
        body = Lesson(cause="colony_rinse", title="The filter was washed in tap water", text="It cost 80 %.")
        before = Entry(body, NOW - timedelta(days=40), zone=ZONE)
        s = look(FISH, before, entry("media", 1, how="tap"))
        found = inquire(s.facts, s.findings, False).recalled
        self.assertEqual([r.lesson.body.cause for r in found], ["colony_rinse"])
        self.assertEqual(inquire(look(FISH, before).facts, s.findings, False).recalled, ())
        self.assertIsNotNone(rank(s.facts))


if __name__ == "__main__":
    unittest.main()
