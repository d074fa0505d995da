"""The batch planner: lots, terms, first sure days, and plans judged on one course of the water."""

import unittest
from dataclasses import replace
from datetime import date, timedelta
from functools import cache

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import carries
from jarbloom.core.bloom.ensemble import Forecasting, prepare, project
from jarbloom.core.bloom.limits import planning_limits
from jarbloom.core.bloom.plans import noon, usual_plan
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.course import WaterCourse, standings
from jarbloom.core.stocking.habits import all_at_once, in_thirds
from jarbloom.core.stocking.lots import CLEAN_AFTER, items_of, lots_of
from jarbloom.core.stocking.pace import LEAST_GAP_DAYS, pace_days
from jarbloom.core.stocking.plan import propose, redate
from jarbloom.core.stocking.reasons import reasons
from jarbloom.core.stocking.target import lower_target, sized_target_mg_n_l
from jarbloom.core.stocking.terms import Terms, terms_of
from tests.make import NOW, REFERENCE, entry, numbered, tank, test_entry

SPECIES, TODAY = REFERENCE.species, NOW.date()
WISHES = (
    Animals("harlequin_rasbora", 8), Animals("zebra_danio", 8), Animals("ram", 2), Animals("nerite_snail", 1),
    Animals("bronze_corydoras", 6),
)  # fmt: skip


ROOMY = 3  # a tank so large that all of them are sure with any seed, not nearly so with some


def days(n: int) -> date:
    return TODAY + timedelta(days=n)


READY = Readiness(days(1), days(3), days(5), days(7), days(9), 0.0, 200.0, 1.0)


def lots(*wishes: Animals, living: tuple[Animals, ...] = (), started: date = date(2026, 1, 1)):
    return lots_of(wishes, living, SPECIES, started)


@cache
def cycled(times: int = 1):
    """A tank so many times as large as the usual one whose bloom clears 2 mg/L within a day, as its readings of two
    weeks say."""
    doses = [entry("dose", d, 8, mg_n=216.0 * times) for d in range(24, 1, -2)]
    tests = [
        test_entry(d, 18, ammonia="0" if d < 14 else "1", nitrite="0" if d < 8 else "2") for d in range(23, -1, -2)
    ]
    log = numbered(*doses, *tests)
    large = tank(kh_dkh=30, started=days(-30), length_cm=80 * times)
    return prepare(large, log, NOW, REFERENCE, Forecasting(members=120))


@cache
def halfway():
    """The usual tank after two weeks of doses: ammonia goes, nitrite has only just begun to."""
    doses = [entry("dose", d, 8, mg_n=216.0) for d in range(16, 1, -2)]
    tests = [test_entry(d, 18, ammonia="0" if d < 6 else "1", nitrite="2") for d in range(15, -1, -2)]
    return prepare(tank(kh_dkh=30, started=days(-30)), numbered(*doses, *tests), NOW, REFERENCE,
                   Forecasting(members=120))  # fmt: skip


@cache
def young():
    """The same tank a week after the first dose: hardly any bloom yet."""
    log = numbered(entry("dose", 7, 8, mg_n=216.0), test_entry(1, 18, ammonia="2", nitrite="0"))
    return prepare(tank(kh_dkh=30, started=days(-8)), log, NOW, REFERENCE, Forecasting(members=120))


def terms(**changes) -> Terms:
    return replace(Terms(TODAY, 14, 21), **changes)


class Lots(unittest.TestCase):
    def test_groups_stay_whole_or_at_their_minimum(self) -> None:
        for wish, sizes in (
            (Animals("harlequin_rasbora", 8), [8]), (Animals("harlequin_rasbora", 15), [15]),
            (Animals("harlequin_rasbora", 20), [10, 10]), (Animals("harlequin_rasbora", 3), [3]),
            (Animals("nerite_snail", 3), [1, 1, 1]), (Animals("ram", 2), [2]),
        ):  # fmt: skip
            with self.subTest(wish=wish):
                self.assertEqual([lot.animals.count for lot in lots(wish)], sizes)

    def test_a_group_that_lives_here_can_be_joined_by_single_ones(self) -> None:
        living = (Animals("harlequin_rasbora", 8),)
        self.assertEqual(len(lots(Animals("harlequin_rasbora", 2), living=living)), 2)
        few = (Animals("harlequin_rasbora", 3),)
        self.assertEqual(len(lots(Animals("harlequin_rasbora", 2), living=few)), 1)

    def test_the_hardy_come_first_and_holders_of_ground_last(self) -> None:
        order = [lot.kind.key for lot in lots(*WISHES)]
        self.assertEqual(order[0], "zebra_danio")
        self.assertEqual(order[-1], "ram")
        self.assertEqual({lot.order for lot in lots(Animals("ram", 2))}, {"last"})

    def test_nobody_is_lost_on_the_way(self) -> None:
        wishes = (*WISHES, Animals("harlequin_rasbora", 5))
        counted = {a.species: a.count for a in items_of(lots(*wishes))}
        self.assertEqual(counted["harlequin_rasbora"], 13)
        self.assertEqual(sum(counted.values()), sum(w.count for w in wishes))

    def test_who_cleans_and_who_needs_age_waits(self) -> None:
        started = days(-3)
        (snail,) = lots(Animals("nerite_snail", 1), started=started)
        (coral,) = lots(Animals("hammer_coral", 1), started=started)
        (danio,) = lots(Animals("zebra_danio", 8), started=started)
        self.assertGreaterEqual(snail.not_before, started + CLEAN_AFTER)
        self.assertGreater(coral.not_before, started + timedelta(days=100))
        self.assertEqual(danio.not_before, started)


class TheTerms(unittest.TestCase):
    def test_gap_is_the_longest_of_pace_quarantine_and_what_tests_need(self) -> None:
        self.assertEqual(terms().gap(False), 14)
        self.assertEqual(terms().gap(True), 21)
        self.assertEqual(terms(quarantine_days=28).gap(True), 28)

    def test_every_school_of_pace_in_days(self) -> None:
        printed = {"calendar": (10, 21), "test_led": (2, 2), "belt_and_braces": (14, 21)}
        self.assertEqual(set(printed), set(REFERENCE.schools.pace))
        for key, asked in printed.items():
            with self.subTest(pace=key):
                t = tank(pace=key)
                self.assertEqual(tuple(pace_days(t, REFERENCE.schools, s) for s in (False, True)), asked)

    def test_from_the_schools_and_the_log(self) -> None:
        log = numbered(entry("arrival", 5, species="zebra_danio", count=8))
        with_fish = terms_of(tank(), log, TODAY, REFERENCE.schools, READY)
        self.assertFalse(with_fish.proof_asked)
        self.assertEqual(with_fish.last_arrival, days(-5))
        self.assertFalse(terms_of(tank(), [], TODAY, REFERENCE.schools, READY).proof_asked)  # judged by its course
        for pace, full in (("calendar", False), ("belt_and_braces", True)):
            terms = terms_of(tank(pace=pace), [], TODAY, REFERENCE.schools, READY)
            self.assertEqual((terms.proof_asked, terms.full_load), (True, full))
        own = terms_of(tank(quarantine="always", quarantine_days=30.0), [], TODAY, REFERENCE.schools, READY)
        self.assertEqual(own.quarantine_days, 30)
        self.assertEqual((own.ready_from, own.ready_surely), (days(9), True))
        unsure = terms_of(tank(), [], TODAY, REFERENCE.schools, replace(READY, p90=None))
        self.assertEqual((unsure.ready_from, unsure.ready_surely), (days(5), False))
        self.assertEqual(own.bought(days(40)), days(10))


class Planning(unittest.TestCase):
    def plan(self, wishes=WISHES, locked=(), ensemble=None, **changes):
        return propose(ensemble or cycled(), wishes, terms(**changes), locked)

    def test_everybody_is_placed_once_and_every_batch_is_sure(self) -> None:
        found = self.plan(ensemble=cycled(ROOMY))
        self.assertEqual(found.left, ())
        counted: dict[str, int] = {}
        for p in found.placed:
            self.assertGreaterEqual(p.watched.p_safe, 0.9)
            self.assertGreaterEqual(p.sure, p.together)
            for a in p.items:
                counted[a.species] = counted.get(a.species, 0) + a.count
        self.assertEqual(counted, {w.species: w.count for w in WISHES})

    def test_days_keep_their_distance_and_the_last_come_alone(self) -> None:
        found = self.plan(ensemble=cycled(ROOMY))
        planned = [p.planned for p in found.placed]
        self.assertTrue(all((b - a).days >= 14 for a, b in zip(planned, planned[1:], strict=False)))
        self.assertEqual([a.species for a in found.placed[-1].items], ["ram"])
        self.assertEqual([a.species for a in found.placed[0].items], ["zebra_danio"])

    def test_test_led_is_never_later_than_the_calendar(self) -> None:
        soon = {"pace_days": LEAST_GAP_DAYS, "pace_sensitive_days": LEAST_GAP_DAYS}
        led, calendar = self.plan(ensemble=cycled(ROOMY), **soon), self.plan(ensemble=cycled(ROOMY))
        self.assertLessEqual(led.placed[-1].planned, calendar.placed[-1].planned)

    def test_doses_go_on_until_the_bloom_bears_all_where_a_first_few_would_starve_it(self) -> None:
        many = (Animals("zebra_danio", 25), Animals("platy", 25))
        soon = {"pace_days": LEAST_GAP_DAYS, "pace_sensitive_days": LEAST_GAP_DAYS}
        found = self.plan(many, ensemble=halfway(), **soon)
        self.assertEqual((found.left, found.placed[0].binding), ((), "together"))
        first = found.placed[0].planned
        course = WaterCourse(halfway())
        self.assertGreaterEqual(course.watch(Batch(1, "all", first, many)).p_safe, 0.9)
        self.assertGreaterEqual(course.watch(Batch(1, "some", days(25), many[:1])).p_safe, 0.9)  # some could
        self.assertGreater(first, days(25))
        few = self.plan((Animals("zebra_danio", 8),), ensemble=halfway(), **soon)  # who has nobody to wait for comes
        self.assertLess(few.placed[0].planned, first)
        asked = self.plan(many, ensemble=halfway(), proof_asked=True, ready_from=days(20))  # the proof decides there
        self.assertNotIn("together", {p.binding for p in asked.placed})

    def test_the_keepers_days_and_the_quarantine_are_kept(self) -> None:
        found = self.plan(weekdays=frozenset({5, 6}), quarantine_days=21)
        self.assertTrue(all(p.planned.weekday() in (5, 6) for p in found.placed))
        self.assertEqual(found.placed[0].bought, found.placed[0].planned)  # an empty tank is its own quarantine
        for before, after in zip(found.placed, found.placed[1:], strict=False):
            self.assertEqual((after.planned - after.bought).days, 21)
            self.assertGreaterEqual(after.bought, before.planned)

    def test_a_young_tank_waits_for_its_proof_or_has_no_day(self) -> None:
        ready = days(20)
        found = self.plan(ensemble=young(), wishes=(Animals("zebra_danio", 8),), proof_asked=True, ready_from=ready)
        self.assertTrue(all(p.planned >= ready for p in found.placed))
        none = self.plan(proof_asked=True, ready_from=None)
        self.assertEqual((none.placed, none.why_left), ((), "proof not in sight"))

    def test_more_fish_than_the_bloom_can_ever_carry_are_left_with_the_figures(self) -> None:
        found = self.plan(wishes=(Animals("oscar", 4),))
        self.assertEqual(found.why_left, "not in sight")
        self.assertEqual(sum(a.count for a in found.left) + sum(a.count for p in found.placed for a in p.items), 4)
        self.assertTrue(found.left_together > found.left_sure or found.left_p < 0.9)

    def test_who_finds_no_day_keeps_nobody_else_out(self) -> None:
        wishes = (Animals("zebra_danio", 20), Animals("bronze_corydoras", 12), Animals("harlequin_rasbora", 30))
        found = self.plan(wishes, pace_days=LEAST_GAP_DAYS, pace_sensitive_days=LEAST_GAP_DAYS)
        self.assertEqual({a.species for a in found.left}, {"bronze_corydoras"})
        placed = {a.species: a.count for a in items_of(lots(*(a for p in found.placed for a in p.items)))}
        self.assertEqual(placed, {"zebra_danio": 20, "harlequin_rasbora": 30})
        self.assertLess(found.left_p, 0.9)

    def test_a_tank_without_a_filter_is_told_so(self) -> None:
        bare = replace(cycled(), tank=replace(cycled().tank, filters=()))
        self.assertEqual(self.plan(ensemble=bare).why_left, "no filter")

    def test_locked_batches_are_given_room(self) -> None:
        locked = (Batch(7, "kept", days(20), (Animals("ember_tetra", 10),), locked=True),)
        found = self.plan(locked=locked)
        self.assertTrue(found.placed)
        self.assertTrue(all(abs((p.planned - days(20)).days) >= 14 for p in found.placed))
        every = [a for p in found.placed for a in p.items] + list(found.left)
        self.assertEqual(sum(a.count for a in every), sum(w.count for w in WISHES))

    def test_an_age_that_is_reached_soon_is_waited_for_rather_than_a_batch_made_for_it(self) -> None:
        tested = replace(cycled(), tank=replace(cycled().tank, started=days(-24)))
        found = self.plan(ensemble=tested, wishes=(Animals("zebra_danio", 8), Animals("ramshorn_snail", 2)))
        self.assertEqual(len(found.placed), 1)
        self.assertGreaterEqual(found.placed[0].planned, days(4))

    def test_the_same_log_gives_the_same_plan(self) -> None:
        self.assertEqual(self.plan(), self.plan())

    def test_the_keepers_own_batches_get_their_first_sure_days(self) -> None:
        mine = [Batch(1, "one", days(3), (Animals("zebra_danio", 8),)), Batch(2, "two", days(4), WISHES[:1])]
        (one, first), (two, second) = redate(cycled(), mine, terms())
        self.assertEqual((one.id, two.id), (1, 2))
        self.assertGreaterEqual((second.planned - first.planned).days, 14)
        self.assertEqual(second.items, WISHES[:1])


class OnTheWater(unittest.TestCase):
    def test_coarse_steps_tell_the_same_as_the_forecasts_own(self) -> None:
        ensemble = cycled()
        for count in (10, 40, 120):
            batch = Batch(1, "b", days(6), (Animals("harlequin_rasbora", count),))
            fine = project(ensemble, usual_plan(ensemble, [batch]), 21)
            limits = planning_limits(batch.items, REFERENCE, tank())
            exact = fine.p_safe(noon(batch.planned, NOW), limits)[0]
            with self.subTest(count=count):
                self.assertAlmostEqual(WaterCourse(ensemble).watch(batch).p_safe, exact, delta=0.02)

    def test_a_first_day_tried_alone_and_the_plan_with_it_tell_the_same(self) -> None:
        """Whatever the hour of the day: doses go on to the day before the last, for both."""
        for name, ensemble in (("cycled", cycled()), ("halfway", halfway())):
            course = WaterCourse(ensemble)
            for day in (0, 1, 2, 3, 20, 26):
                batch = Batch(1, "b", days(day), (Animals("zebra_danio", 20),))
                with self.subTest(tank=name, day=day):
                    whole = standings(ensemble, [batch])[0].watched.p_safe
                    self.assertAlmostEqual(course.watch(batch).p_safe, whole, delta=0.05)

    def test_more_animals_are_never_safer(self) -> None:
        course = WaterCourse(young())
        found = [
            course.watch(Batch(1, "b", days(10), (Animals("harlequin_rasbora", n),))).p_safe for n in (1, 10, 40, 100)
        ]
        self.assertEqual(found, sorted(found, reverse=True))

    def test_a_plan_judged_whole_agrees_with_its_batches_tried_one_by_one(self) -> None:
        ensemble, placed = cycled(), propose(cycled(), WISHES, terms()).placed
        plan = [Batch(k + 1, "b", p.planned, p.items) for k, p in enumerate(placed)]
        for p, s in zip(placed, standings(ensemble, plan), strict=True):
            self.assertAlmostEqual(p.watched.p_safe, s.watched.p_safe, delta=0.06)
            self.assertAlmostEqual(p.together, s.together, places=6)

    def test_thirds_hold_every_animal_and_stand_two_weeks_apart(self) -> None:
        thirds = in_thirds(lots(*WISHES), TODAY)
        self.assertEqual([b.planned for b in thirds], [TODAY, days(14), days(28)])
        self.assertEqual(sum(a.count for b in thirds for a in b.items), sum(w.count for w in WISHES))
        self.assertEqual(all_at_once(WISHES, TODAY)[0].items, WISHES)

    def test_reasons_name_what_is_against_a_day(self) -> None:
        ensemble = cycled()
        plan = [Batch(1, "batch one", days(2), WISHES[2:3]), Batch(2, "batch two", days(5), WISHES[1:2])]
        told = {}
        strict = terms(weekdays=frozenset({5}), quarantine_days=21)
        for s in standings(ensemble, plan):
            some = lots_of(s.batch.items, (), SPECIES, ensemble.tank.started)
            told[s.batch.id] = {r.key: r.kept for r in reasons(s, plan, (), SPECIES, strict, some, 500.0)}
        self.assertFalse(told[1]["order"])  # holders of ground before a shoal
        self.assertFalse(told[2]["pace"])
        self.assertFalse(told[2]["quarantine"])
        self.assertIn("water", told[1])


class Headroom(unittest.TestCase):
    def test_the_bloom_carries_today_and_the_filter_what_they_grow_to(self) -> None:
        for sure, on_the_day, grown, ceiling, good in (
            (20, 15, 40, 80, True), (10, 15, 40, 80, False), (20, 15, 90, 80, False), (15, 15, 80, 80, True),
        ):  # fmt: skip
            with self.subTest(sure=sure, grown=grown):
                self.assertEqual(carries(sure, on_the_day, grown, ceiling), good)

    def test_young_fish_do_not_bar_the_tank_for_others(self) -> None:
        young = numbered(
            entry("arrival", 90, species="angelfish", count=2, length_cm=4.0),
            *(test_entry(d, ammonia="0", nitrite="0") for d in (30, 16, 2)),
        )
        ensemble = prepare(tank(started=days(-120), ph=7.0), young, NOW, REFERENCE, Forecasting(members=120))
        found = propose(ensemble, (Animals("bristlenose", 1),), terms())
        self.assertEqual(found.left, ())
        grown = load_of(ensemble.living, SPECIES, 26, adult=True).total
        self.assertLess(found.placed[0].together, grown)


class Target(unittest.TestCase):
    def test_a_dose_is_sized_by_what_is_planned(self) -> None:
        school = REFERENCE.schools.cycling["measured_dose"]
        self.assertEqual(sized_target_mg_n_l(75.0, 100.0, school), 1.5)
        self.assertEqual(lower_target(3.0, 20.0, 100.0, school), 1.0)
        self.assertIsNone(lower_target(1.0, 20.0, 100.0, school))
        self.assertIsNone(lower_target(3.0, 20.0, 100.0, REFERENCE.schools.cycling["pinch_feeding"]))
        self.assertEqual(lower_target(2.0, 11.0, 55.0, REFERENCE.schools.cycling["living_rock"]), 1.0)


if __name__ == "__main__":
    unittest.main()
