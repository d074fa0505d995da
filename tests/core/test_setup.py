"""Fill run, checks, cultures, what is switched off, the chooser, exposure, and jobs that were answered."""

import unittest
from dataclasses import replace
from datetime import date, datetime, timedelta
from itertools import product
from zoneinfo import ZoneInfo

import numpy as np

from jarbloom.core.advice.compare_schools import answers_of, compare_schools, recommended
from jarbloom.core.advice.jobs import all_jobs, jobs
from jarbloom.core.advice.said import Job
from jarbloom.core.advice.standing import answers, stands
from jarbloom.core.bloom.drivers import drivers
from jarbloom.core.bloom.ensemble import prepare
from jarbloom.core.bloom.events import ROCK_DIES, SEEDING, culture_of
from jarbloom.core.bloom.kinetics import first_state
from jarbloom.core.bloom.parameters import n_columns, parameters
from jarbloom.core.bloom.stepper import simulate
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.switches import switched_off
from jarbloom.core.model.tank import Filter, Heater, Source
from jarbloom.core.setup.checks import checks_due
from jarbloom.core.setup.choose import QUESTIONS, Answers, choose
from jarbloom.core.setup.culture import hope, preparations
from jarbloom.core.setup.exposure import exposure
from jarbloom.core.setup.fill import begun, heating_h, standing, steps
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import unionised_fraction
from jarbloom.data.catalogue import _rule
from jarbloom.errors import BadData
from jarbloom.units import Units
from tests.core.test_jobs import look
from tests.make import FEW, NOW, REFERENCE, at, entry, numbered, tank, test_entry

CYCLING = REFERENCE.schools.cycling
SEA = tank(salinity_g_kg=35.0, source=Source(chlorine="none"))


def step(key: str, days_ago: float, **more):
    return entry("step", days_ago, step=key, title=key, **more)


class FillRun(unittest.TestCase):
    def keys(self, t) -> list[str]:
        return [s.key for s in steps(t, Units())]

    def test_salt_and_chlorine_decide_the_steps(self) -> None:
        self.assertIn("condition", self.keys(tank()))
        self.assertNotIn("salt", self.keys(tank()))
        self.assertNotIn("condition", self.keys(SEA))
        order = self.keys(SEA)
        wanted = ["stand", "rinse", "place", "leak", "fill", "start", "salt", "settle", "heat", "confirm", "stable"]
        self.assertEqual(order, wanted)

    def test_amounts_are_this_tanks(self) -> None:
        told = {s.key: s.amount for s in steps(replace(SEA, conditioner_ml_per_100l=20.0), Units())}
        self.assertIn("108\u00a0L", told["fill"])
        self.assertIn("4.06\u00a0kg for 35", told["salt"])
        self.assertIn("SG 1.0264", told["confirm"])
        fresh = {s.key: s.amount for s in steps(tank(conditioner_ml_per_100l=20.0), Units("us"))}
        self.assertIn("22\u00a0mL for 29\u00a0gal", fresh["condition"])

    def test_steps_open_one_by_one_and_wait_for_their_time(self) -> None:
        log = [step("stand", 3), step("rinse", 2.9), step("place", 2.8), step("leak", 0.02)]
        found = {s.step.key: s for s in standing(tank(), log, Units(), NOW)}
        self.assertEqual(found["place"].done_at, log[2].at)
        self.assertTrue(found["fill"].waiting(NOW))
        self.assertEqual(found["fill"].open_from, log[3].at + timedelta(hours=1))
        self.assertFalse(found["fill"].waiting(NOW + timedelta(hours=1)))
        self.assertIsNone(found["start"].open_from)
        self.assertTrue(begun(log))
        self.assertFalse(begun([replace(log[0], state="void")]))

    def test_a_day_is_24_real_hours_when_the_clocks_change(self) -> None:
        zone = ZoneInfo("Europe/Berlin")
        before = datetime(2026, 10, 24, 12, 0, tzinfo=zone)  # the night has 25 hours
        done = [replace(step(k, 0), at=before) for k in ("stand", "rinse", "place", "leak", "fill", "condition",
                "start", "heat")]  # fmt: skip
        found = {s.step.key: s for s in standing(tank(), done, Units(), before + timedelta(hours=1))}
        self.assertEqual(found["stable"].open_from, datetime(2026, 10, 25, 11, 0, tzinfo=zone))

    def test_heating_takes_the_energy_over_the_spare_power(self) -> None:
        weak, strong = tank(heaters=(Heater(100.0),)), tank(heaters=(Heater(300.0),))
        self.assertGreater(heating_h(weak, 15), heating_h(strong, 15))
        self.assertEqual(heating_h(strong, 30), 0.0)
        self.assertEqual(heating_h(tank(heaters=()), 10), float("inf"))
        told = {s.key: s.amount for s in steps(tank(heaters=()), Units())}
        self.assertIn("more than two days", told["heat"])

    def test_the_next_step_is_a_job_until_all_are_done(self) -> None:
        dry = tank(filled=False)
        (job,) = all_jobs(look(on=dry))
        self.assertEqual((job.kind, job.subject, job.where), ("fill", "stand", "fill"))
        filled = look(step("stand", 2), step("rinse", 2), test_entry(1, ammonia="0", nitrite="0"))
        self.assertIn("fill.place", [j.key for j in all_jobs(filled)])
        every = [step(k, 2) for k in self.keys(tank())]
        self.assertNotIn("fill", [j.kind for j in all_jobs(look(*every))])


class Checks(unittest.TestCase):
    def due(self, t, *log):
        return {d.check.key: d for d in checks_due(REFERENCE.checks, t, log, NOW.date())}

    def test_they_belong_to_the_equipment(self) -> None:
        plain = self.due(tank(heaters=(), lid=False))
        self.assertFalse({"heater_dry", "lid", "clamps", "return_stop", "salinity_tool"} & set(plain))
        whole = self.due(replace(SEA, filters=(Filter("c", "canister"),), sump_l=30.0))
        self.assertLess({"heater_dry", "lid", "clamps", "return_stop", "salinity_tool", "drip_loop"}, set(whole))

    def test_ticked_they_come_again_and_a_fault_comes_tomorrow(self) -> None:
        good = entry("check", 10, check="drip_loop", title="x")
        self.assertEqual((self.due(tank(), good)["drip_loop"].due - good.at.date()).days, 90)
        bad = entry("check", 5, check="drip_loop", title="x", fault=True, text="cable wet")
        found = self.due(tank(), good, bad)["drip_loop"]
        self.assertEqual(((found.due - bad.at.date()).days, found.fault), (1, "cable wet"))
        undone = replace(bad, state="void")
        self.assertEqual(self.due(tank(), good, undone)["drip_loop"].fault, "")

    def test_first_times_come_two_at_a_time_and_not_in_an_upset(self) -> None:
        calm = look(test_entry(0.5, ammonia="0", nitrite="0"))
        self.assertEqual(len([j for j in jobs(calm) if j.kind == "check"]), 2)
        upset = look(entry("arrival", 9, species="guppy", count=4), test_entry(0.1, ammonia="2", nitrite="2", ph="8"))
        self.assertTrue(upset.acting)
        self.assertEqual([j for j in jobs(upset) if j.kind == "check"], [])

    def test_every_row_says_what_and_how_often(self) -> None:
        for key, row in REFERENCE.checks.items():
            with self.subTest(check=key):
                self.assertTrue(row.title and row.words and row.every_days > 0)
                self.assertIn(row.hardness, ("safety", "practice", "taste"))


class Cultures(unittest.TestCase):
    def test_condition_on_arrival_sets_the_prior(self) -> None:
        today = NOW.date()
        rows = (
            (Bacteria(source="bottle_cool"), "bottle_cool"), (Bacteria(source="bottle_frozen"), "bottle_frozen"),
            (Bacteria(source="bottle_cool", use_by=date(2026, 11, 1)), "bottle_warm"),
            (Bacteria(source="bottle", use_by=date(2027, 11, 1)), "bottle"), (Bacteria(), "bottle"),
        )  # fmt: skip
        for body, key in rows:
            with self.subTest(body=body):
                self.assertEqual(culture_of(body, today, 0.0), (key, 1.0))
        dead = [SEEDING[k].dead for k in ("bottle_cool", "bottle", "bottle_warm", "bottle_frozen")]
        self.assertEqual(dead, sorted(dead))
        self.assertIn("85", hope(Bacteria(source="bottle_frozen"), today, tank()))

    def test_media_from_other_water_lose_most_of_it(self) -> None:
        today, borrowed = NOW.date(), Bacteria(source="borrowed", share=30)
        same = culture_of(replace(borrowed, donor_salinity=35), today, 35.0)
        far = culture_of(replace(borrowed, donor_salinity=0), today, 35.0)
        self.assertEqual(same, ("borrowed", 1.0))
        self.assertLess(far[1], 0.05)
        self.assertIn("costs it much", hope(replace(borrowed, donor_salinity=0.0), today, SEA))
        self.assertIn("better find another", hope(replace(borrowed, donor="sick"), today, tank()))

    def test_the_list_before_it_goes_in(self) -> None:
        t = tank(devices=("uv", "carbon"))
        bottle = [p.key for p in preparations(t, "bottle", Units())]
        self.assertEqual([k for k in bottle if k.startswith("off_")], ["off_uv", "off_carbon"])
        self.assertLess({"match", "shake", "load"}, set(bottle))
        self.assertLess({"donor", "wet"}, {p.key for p in preparations(t, "borrowed", Units())})

    def test_switched_off_until_ticked(self) -> None:
        day = NOW.date()
        log = [
            entry("off", 6, device="uv", until=(day - timedelta(days=1)).isoformat()),
            entry("off", 6, device="skimmer", until=(day + timedelta(days=3)).isoformat()),
            entry("off", 5, device="carbon"),
            entry("off", 9, device="ozone", until=day.isoformat()), entry("on", 2, device="ozone"),
        ]  # fmt: skip
        found = switched_off(log)
        self.assertEqual([o.device for o in found], ["carbon", "uv", "skimmer"])
        self.assertEqual([o.overdue(day) for o in found], [True, True, False])
        s = look(*log, test_entry(0.5, ammonia="0", nitrite="0"))
        told = {j.subject: j for j in jobs(s) if j.kind == "switch_on"}
        self.assertEqual(told["uv"].shorthand, "on uv")
        self.assertIn("overdue", told["uv"].due_text)
        self.assertGreater(told["skimmer"].due, NOW)

    def run_with(self, *log):
        t = tank(school="living_rock", salinity_g_kg=35.0)
        drv = drivers(t, log, REFERENCE.species, at(10, 0), NOW, 1 / 24)
        par = parameters(np.zeros((1, n_columns(2, len(drv.happenings)))), 2, len(drv.happenings), t, 3.0)
        return par, simulate(par, drv, first_state(par, 8.1, 2.5, 0.0))

    def test_live_rock_dies_off_by_its_weight_and_how_it_came(self) -> None:
        peaks = {}
        for condition in ROCK_DIES:
            _, path = self.run_with(entry("rock", 9, kg=10.8, condition=condition))
            peaks[condition] = float(path.tan.max())
        self.assertLess(peaks["fresh"], peaks["shipped"])
        self.assertLess(peaks["shipped"], peaks["long"])
        par, path = self.run_with(entry("rock", 9, kg=10.8, condition="long"))
        left = path.end
        total = left.tan + left.no2 + left.no3 + left.particulate + left.bound
        self.assertAlmostEqual(float(total[0]), float(3.0 * par.die_off[0]), delta=0.6)  # plants take the rest

    def test_logged_rock_takes_the_place_of_the_usual_die_off(self) -> None:
        t = tank(school="living_rock", salinity_g_kg=35.0)
        usual = prepare(t, numbered(test_entry(9, ammonia="0")), NOW, REFERENCE, FEW)
        logged = prepare(t, numbered(entry("rock", 1, kg=0.1), test_entry(9, ammonia="0")), NOW, REFERENCE, FEW)
        self.assertGreater(float(np.median(usual.past.tan[-1] + usual.past.no2[-1] + usual.past.no3[-1])), 0.3)
        self.assertLess(float(np.median(logged.past.tan[-1])), 0.2)


class Chooser(unittest.TestCase):
    def best(self, **given) -> str:
        return choose(Answers(**given), CYCLING)[0].school.key

    def test_the_plain_cases(self) -> None:
        rows = (
            ({}, "measured_dose"), ({"fish": "yes"}, "fish_in_watched"), ({"donor": "yes"}, "borrowed_media"),
            ({"ammonia": "no"}, "pinch_feeding"), ({"water": "marine", "ammonia": "no"}, "living_rock"),
            ({"soon": "days"}, "live_culture"), ({"donor": "other"}, "measured_dose"),
        )  # fmt: skip
        for given, key in rows:
            with self.subTest(given=given):
                self.assertEqual(self.best(**given), key)

    def test_whatever_is_answered_there_is_a_school_with_a_reason_and_no_fish_without_need(self) -> None:
        names = list(QUESTIONS)
        for values in product(*([v for v, _ in QUESTIONS[n][1]] for n in names)):
            given = dict(zip(names, values, strict=True))
            with self.subTest(given=given):
                found = choose(Answers(**given), CYCLING)
                self.assertEqual(len(found), 7)
                self.assertFalse(found[0].out)
                self.assertTrue(found[0].speaks_for)
                self.assertTrue(all(c.out for c in found if given["fish"] == "yes" and c.school.feeds_by == "food"))
                if given["fish"] == "no":
                    self.assertFalse(found[0].school.fish_in)

    def test_a_rule_that_nobody_can_answer_is_refused(self) -> None:
        for when in ({"fish": ["maybe"]}, {"fishes": ["yes"]}, {"fish": []}):
            with self.subTest(when=when), self.assertRaisesRegex(BadData, "nobody can answer"):
                _rule({"when": when, "because": "x", "points": 1}, "measured_dose")

    def test_all_seven_say_what_they_ask(self) -> None:
        self.assertEqual(len(CYCLING), 7)
        for key, school in CYCLING.items():
            with self.subTest(school=key):
                self.assertTrue(school.suits and school.asks and school.risk and school.gate and school.rules)
                if school.fish_in:
                    self.assertIn("Real", school.risk)


class Compared(unittest.TestCase):
    LOG = (entry("dose", 6, mg_n=216.0), test_entry(1, ammonia="2", nitrite="0.5"))

    def views(self, *log, on=None, members=FEW.members):
        t = on or tank()
        s = look(*log, on=t)
        made = prepare(t, numbered(*log), NOW, REFERENCE, replace(FEW, members=members))
        return s, {v.choice.school.key: v for v in compare_schools(s, made, answers_of(s))}

    def test_each_asks_by_its_own_rules_on_the_same_data(self) -> None:
        _, found = self.views(*self.LOG)
        self.assertTrue(found["measured_dose"].current)
        self.assertEqual(recommended(list(found.values())).choice.school.key, "measured_dose")
        kinds = {k: {j.kind for j in v.asks} for k, v in found.items()}
        self.assertIn("feed", kinds["pinch_feeding"])
        self.assertNotIn("feed", kinds["measured_dose"])
        future = found["borrowed_media"].future
        assert future is not None
        self.assertGreater(future.readiness.in_time, 0.0)
        self.assertIn("nothing to forecast", found["fish_in_watched"].hindered)

    def test_with_fish_in_the_fishless_ones_are_out(self) -> None:
        s, found = self.views(entry("arrival", 5, species="guppy", count=4), test_entry(1, ammonia="0.5", nitrite="0"))
        self.assertEqual(answers_of(s).fish, "yes")
        for key in ("measured_dose", "pinch_feeding", "living_rock"):
            with self.subTest(school=key):
                self.assertTrue(found[key].choice.out)
        self.assertIsNotNone(found["fish_in_watched"].future)

    def test_live_rock_is_drawn_with_its_die_off(self) -> None:
        _, found = self.views(test_entry(1, ammonia="0"), on=SEA, members=300)
        rock = found["living_rock"].future
        assert rock is not None
        worst = rock.bands["tan"][3]
        self.assertLess(worst[-62], 0.05)  # yesterday
        self.assertGreater(worst[-60:-50].max(), 0.25)


class Exposed(unittest.TestCase):
    T = tank(school="fish_in_watched")

    def found(self, *log, on=None):
        s = look(*log, on=on or self.T)
        return exposure(s.tank, s.forecast, s.entries, s.levels.limits, s.now)

    def test_more_of_it_is_more_and_nothing_without_animals(self) -> None:
        fish = entry("arrival", 8, species="guppy", count=60)
        bad = self.found(fish, *(test_entry(d, ammonia="2", nitrite="1", ph="8") for d in (6, 4, 2, 0.5)))
        good = [test_entry(d, ammonia="0", nitrite="0", ph="7") for d in (6, 4, 2, 0.5)]
        clean = self.found(fish, *good)
        self.assertGreater(bad.nh3.likely_mg_h_l, 5 * clean.nh3.likely_mg_h_l)
        self.assertGreater(bad.no2.hours_over, clean.no2.hours_over)
        self.assertGreaterEqual(bad.nh3.worst_mg_h_l, bad.nh3.likely_mg_h_l)
        self.assertEqual(bad.days, 9)
        self.assertLessEqual(bad.no2.hours_over, 24 * 8)
        self.assertIsNone(self.found(*good))

    def test_a_reading_that_the_model_does_not_believe_still_counts(self) -> None:
        """Six guppies cannot have made 2 mg/L in four days; but it was read, and they were in it."""
        e = self.found(entry("arrival", 4, species="guppy", count=6), test_entry(0, ammonia="2", nitrite="1", ph="8"))
        share = float(unionised_fraction(8.0, self.T.temp_c))
        self.assertGreaterEqual(e.no2.likely_mg_h_l, 0.97 * 96 * 1.0 / 2)  # a line from nothing to what was read
        self.assertGreaterEqual(e.nh3.likely_mg_h_l, 0.97 * 96 * 2 * share / 2)
        self.assertAlmostEqual(e.no2.hours_over, 72, delta=2)

    def test_water_changes_thin_what_was_read_last(self) -> None:
        fish, seen = entry("arrival", 4, species="guppy", count=6), test_entry(2, ammonia="2", nitrite="1", ph="8")
        left = self.found(fish, seen)
        half = self.found(fish, seen, entry("change", 1.9, litres=net_l(self.T) / 2))
        self.assertLess(half.no2.likely_mg_h_l, left.no2.likely_mg_h_l)
        self.assertGreater(half.no2.likely_mg_h_l, 0.4 * left.no2.likely_mg_h_l)

    def test_salt_water_holds_less_of_it_free(self) -> None:
        log = (entry("arrival", 4, species="guppy", count=6), test_entry(0, ammonia="2", nitrite="0", ph="8"))
        salt = self.found(*log, on=replace(self.T, salinity_g_kg=35.0))
        self.assertLess(salt.nh3.likely_mg_h_l, self.found(*log).nh3.likely_mg_h_l)


class Answered(unittest.TestCase):
    def job(self, **more) -> Job:
        return Job("feed", "Feed", "", NOW, "today", **more)

    def told(self, how: str, days_ago: float = 0.1, **more):
        return answers([entry("job", days_ago, job="feed", how=how, **more)])["feed"]

    def test_when_a_job_stands_again(self) -> None:
        tomorrow, today = (NOW.date() + timedelta(days=1)).isoformat(), NOW.date().isoformat()
        rows = (
            (self.told("snoozed", until=tomorrow), self.job(), False),
            (self.told("snoozed", 2, until=today), self.job(), True),
            (self.told("done"), self.job(), False), (self.told("done", 1), self.job(), True),
            (self.told("skipped", text="ill"), self.job(), False),
            (self.told("snoozed", until=tomorrow), self.job(urgent=True, hardness="safety"), True),
            (self.told("skipped", 0.02, text="x"), self.job(urgent=True, hardness="safety"), False),
            (self.told("skipped", 0.1, text="x"), self.job(urgent=True, hardness="safety"), True),
            (None, self.job(), True),
        )  # fmt: skip
        for answer, job, wanted in rows:
            with self.subTest(answer=answer, urgent=job.urgent):
                self.assertEqual(stands(job, answer, NOW), wanted)

    def test_the_last_word_counts_and_a_voided_one_does_not(self) -> None:
        later = entry("job", 0.1, job="feed", how="done")
        sooner = entry("job", 1, job="feed", how="snoozed", until="2026-12-24")
        self.assertEqual(answers([later, sooner])["feed"].how, "done")
        self.assertEqual(answers([sooner, replace(later, state="void")])["feed"].how, "snoozed")

    def test_jobs_of_one_kind_are_told_apart(self) -> None:
        self.assertEqual(self.job(subject="a").key, "feed.a")
        s = look(test_entry(0.5, ammonia="0", nitrite="0"))
        keys = [j.key for j in jobs(s) if j.kind == "check"]
        self.assertEqual(len(keys), len(set(keys)))

    def test_a_dose_outside_the_school_is_said(self) -> None:
        s = look(test_entry(0.5, ammonia="0", nitrite="0"), on=tank(target_mg_n_l=4.0))
        self.assertIn("dose_range", [j.kind for j in jobs(s)])
        self.assertNotIn("dose_range", [j.kind for j in jobs(look(test_entry(0.5, ammonia="0", nitrite="0")))])

    def test_salt_water_is_topped_up_with_fresh(self) -> None:
        """Counted from the last salinity reading, whatever the tank's age; never more than 3 % of it on a day."""
        sea, seen = replace(SEA, lid=False), test_entry(0.5, ammonia="0", nitrite="0")

        def asked(*log):
            return {j.kind: j for j in jobs(look(seen, *log, on=sea))}

        told = asked(test_entry(3, salinity=f"{sea.salinity_g_kg:g}"))["topoff"]
        self.assertTrue(told.shorthand.startswith("top "))
        self.assertIn("climbed", told.why)
        self.assertLessEqual(told.amount or 0, 0.03 * net_l(sea) + 0.01)
        long = asked(test_entry(9, salinity=f"{sea.salinity_g_kg:g}"))["topoff"]
        self.assertAlmostEqual(long.amount or 0, 0.03 * net_l(sea), places=1)
        self.assertNotIn("topoff", asked(test_entry(9, salinity=f"{sea.salinity_g_kg - 6:g}")))  # below the aim already
        self.assertNotIn("topoff", asked(test_entry(3, salinity="35"), entry("topoff", 0.1, litres=12.0)))
        old = asked(test_entry(15, salinity="35"))  # an estimate so long is worth nothing
        self.assertNotIn("topoff", old)
        self.assertIn("test_salinity", old)
        self.assertNotIn("topoff", [j.kind for j in jobs(look(seen, on=tank(lid=False)))])

    def test_extreme_die_off_asks_for_a_change(self) -> None:
        t = tank(school="living_rock", salinity_g_kg=35.0)
        high, low = test_entry(0.5, ammonia="8", nitrite="0"), test_entry(0.5, ammonia="2", nitrite="0")
        self.assertIn("water_change", [j.kind for j in jobs(look(high, on=t))])
        self.assertNotIn("water_change", [j.kind for j in jobs(look(low, on=t))])
