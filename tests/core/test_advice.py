"""What is concluded: levels, corrective changes, proof, gate, verdict, jobs; catalogue and bioload."""

import unittest
from dataclasses import replace
from datetime import timedelta
from itertools import pairwise

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.animals.bioload import FASTING, Load, load_of, mass_g, ration_g_day, usual_feed_g_day
from jarbloom.core.animals.growth import length_on
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.bloom.sample import still
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.proof import clean_days, doses_cleared
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.schools import Requirement
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Filter, Source
from jarbloom.core.stocking.check import Check, Gate
from jarbloom.core.upset.levels import episode, levels
from jarbloom.core.upset.promise import last_promise
from jarbloom.core.upset.response import respond
from jarbloom.core.vessel import volume as box
from jarbloom.core.vessel.media import ceiling_mg_n_day, turnover_per_h
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import Limits, unionised_fraction
from jarbloom.data import catalogue
from jarbloom.errors import BadData, Refused
from jarbloom.units import Units
from tests.make import FEW, NOW, REFERENCE, at, entry, numbered, tank, test_entry

FIRM = REFERENCE.schools.corrective["firm"]
DOSE = REFERENCE.schools.cycling["measured_dose"].gate[0]


def look(t, entries, batches=(), now=NOW):
    made = forecast(t, entries, now, REFERENCE, batches, FEW)
    return situation(t, entries, batches, made, REFERENCE, Units())


class Vessel(unittest.TestCase):
    def test_litres_of_a_box(self) -> None:
        t = tank()
        self.assertAlmostEqual(box.net_l(t), 80 * 35 / 1000 * (45 - 4 - 4 * 0.6))
        self.assertEqual(box.net_l(replace(t, measured_l=100.0)), 100.0)
        self.assertGreater(box.weight_kg(t), box.net_l(t))
        fast = (Filter(nominal_l_h=1000, real_share=0.5),)
        self.assertAlmostEqual(box.floor_load_kg_m2(t) or 0, box.weight_kg(t) / (0.816 * 0.366))
        self.assertAlmostEqual(turnover_per_h(replace(t, measured_l=100.0, filters=fast)), 5.0)

    def test_impossible_geometry_names_its_field(self) -> None:
        for changes, field in (
            ({"waterline_cm": 50}, "waterline_cm"),
            ({"substrate_cm": 42}, "substrate_cm"),
            ({"measured_l": 500.0}, "measured_l"),
            ({"measured_l": 0.2}, "measured_l"),
            ({"length_cm": None}, "measured_l"),
        ):
            with self.subTest(changes=changes), self.assertRaises(Refused) as told:
                box.check_geometry(tank(**changes))
            self.assertEqual(told.exception.field, field)

    def test_more_media_hold_more(self) -> None:
        media = REFERENCE.media
        self.assertGreater(ceiling_mg_n_day(tank(filters=(Filter(media_l=4),)), media), ceiling_mg_n_day(tank(), media))


class Catalogue(unittest.TestCase):
    def test_the_catalogue_and_the_unknown(self) -> None:
        self.assertGreaterEqual(len(REFERENCE.species), 221)
        self.assertEqual(len(REFERENCE.schools.cycling), 7)

    def test_wrong_rows_are_named(self) -> None:
        text = (catalogue._FOLDER / "species.csv").read_text("utf-8")
        head, first, *_ = text.splitlines()
        rows = (
            (first.replace("middle,peaceful", "sky,peaceful"), "zone"),
            (first.replace(",4.5,", ",4x5,", 1), "adult_cm"),
            (first.replace(",22,28,", ",29,28,", 1), "temp_low"),
            (first + "\n" + first, "twice"),
            (first + ",more", "number of fields"),
        )
        for row, named in rows:
            with self.subTest(named=named), self.assertRaises(BadData) as told:
                catalogue.read_species(f"{head}\n{row}\n")
            self.assertIn(named, told.exception.sentence)
            self.assertIn("row", told.exception.sentence)


class Bioload(unittest.TestCase):
    def test_eight_small_rasboras_and_a_community(self) -> None:
        """5-bloom-model and DESIGN 13.13: eight small rasboras excrete 6 to 10 mg N a day, a community 15 to 40."""
        eight = load_of([Animals("harlequin_rasbora", 8)], REFERENCE.species, 25, adult=True)
        self.assertTrue(6 <= eight.excreted <= 10, eight)
        community = load_of(
            [Animals("harlequin_rasbora", 8), Animals("kuhli_loach", 6), Animals("honey_gourami", 2)],
            REFERENCE.species,
            25,
            adult=True,
        )
        self.assertTrue(15 <= community.total <= 40, community)

    def test_warmth_doubles_in_ten_degrees_and_small_fish_eat_more_for_their_mass(self) -> None:
        self.assertAlmostEqual(ration_g_day(1.0, 30) / ration_g_day(1.0, 20), 2.0)
        self.assertAlmostEqual(ration_g_day(1.0, 25), 0.025)
        self.assertGreater(ration_g_day(0.1, 25) / 0.1, ration_g_day(10, 25) / 10)
        self.assertEqual(FASTING, 0.2)

    def test_growth_runs_to_the_adult_length(self) -> None:
        kind = REFERENCE.species["angelfish"]
        group = Animals("angelfish", 1, 4.0, NOW.date())
        lengths = [length_on(group, kind, NOW.date() + timedelta(days=d)) for d in (0, 180, 365, 3650)]
        self.assertEqual(lengths, sorted(lengths))
        self.assertEqual(lengths[0], 4.0)
        self.assertAlmostEqual(lengths[-1], kind.adult_cm, delta=0.1)
        self.assertAlmostEqual(mass_g(kind, 10.0), 0.0175 * 1000)  # W = a L^3 of its row

    def test_stock_is_arrivals_less_deaths(self) -> None:
        log = numbered(
            entry("arrival", 20, species="guppy", count=3),
            entry("arrival", 10, species="guppy", count=4),
            entry("death", 5, species="guppy", count=4),
        )
        self.assertEqual([(g.species, g.count) for g in stock(log)], [("guppy", 3)])
        self.assertEqual(sum(g.count for g in stock(log, at(7).date())), 7)
        self.assertGreater(usual_feed_g_day(stock(log), REFERENCE.species, 25), 0)
        self.assertEqual(load_of([], REFERENCE.species, 25), Load())
        batch = Batch(1, "one", NOW.date(), (Animals("guppy", 2),))
        self.assertGreater(load_of(batch.items, REFERENCE.species, 25, batch.planned).total, 0)


class Upset(unittest.TestCase):
    def spike(self, ammonia: str = "2", nitrite: str = "1", ph: str = "7.8", **changes):
        t = tank(ph=7.8, kh_dkh=8, source=Source(7.8, 8.0), **changes)
        log = numbered(
            entry("arrival", 5, species="harlequin_rasbora", count=8),
            test_entry(0, ammonia=ammonia, nitrite=nitrite, ph=ph),
        )
        return t, levels(t, log, NOW, Limits()), log

    def test_free_ammonia_by_ph_with_its_interval(self) -> None:
        _t, lv, _ = self.spike()
        share = float(unionised_fraction(7.8, 26))
        assert lv.nh3 is not None
        self.assertAlmostEqual(lv.nh3.seen, 2 * share)
        self.assertAlmostEqual(lv.nh3.low, 1.5 * share)
        self.assertTrue(lv.over)
        self.assertEqual(lv.nh3_band.key if lv.nh3_band else "", "act")

    def test_changes_are_within_the_school_and_enough(self) -> None:
        t, lv, _ = self.spike()
        for key, school in REFERENCE.schools.corrective.items():
            with self.subTest(school=key):
                plan = respond(t, lv, still(61, 0.05), school, NOW)
                self.assertTrue(plan.reached)
                self.assertTrue(all(c.fraction <= school.max_fraction + 1e-9 for c in plan.changes))
                last = plan.changes[-1]
                self.assertLess(last.nh3_after.seen, lv.limits.nh3)
                self.assertLess(last.no2_after, lv.limits.no2)
                self.assertEqual(plan.changes[0].at, NOW)
        gentle = respond(t, lv, still(61), REFERENCE.schools.corrective["gentle"], NOW)
        strong = respond(t, lv, still(61), REFERENCE.schools.corrective["strong"], NOW)
        self.assertGreater(len(gentle.changes), len(strong.changes))

    def test_mass_balance_of_the_plan(self) -> None:
        t, lv, _ = self.spike()
        plan = respond(t, lv, still(61, 0.24), FIRM, NOW)
        for a, b in zip(plan.changes, plan.changes[1:], strict=False):
            days = (b.at - a.at).total_seconds() / 86400
            self.assertGreaterEqual(b.tan_before, a.tan_after)
            self.assertAlmostEqual(b.tan_before - a.tan_after, 0.24 * days, delta=0.24)
            self.assertAlmostEqual(a.tan_after, (1 - a.fraction) * a.tan_before, places=9)

    def test_nobody_changes_water_at_night(self) -> None:
        t, lv, _ = self.spike("8", "5")
        for c in respond(t, lv, still(61, 0.5), FIRM, NOW).changes[1:]:
            self.assertTrue((7, 30) <= (c.at.hour, c.at.minute) <= (22, 0), c.at)

    def test_the_upper_edge_of_the_step_is_brought_below_the_limit(self) -> None:
        t, lv, _ = self.spike("1", "0")
        strong = REFERENCE.schools.corrective["strong"]
        left = lv.tan.high
        for change in respond(t, lv, still(61), strong, NOW).changes:
            left *= 1 - change.fraction
        self.assertLess(left * float(unionised_fraction(7.8, 26)), lv.limits.nh3)

    def test_a_second_change_follows_on_the_same_day_while_much_is_free(self) -> None:
        t, lv, _ = self.spike("4", "0")
        morning = NOW.replace(hour=9)
        first, second = respond(t, lv, still(61), FIRM, morning).changes[:2]
        self.assertGreater(first.nh3_after.high, 0.05)
        self.assertLessEqual(second.at - first.at, timedelta(hours=6))
        t, lv, _ = self.spike("1", "0")
        rest = respond(t, lv, still(61), FIRM, morning).changes
        self.assertTrue(all(b.at - a.at > timedelta(hours=6) for a, b in pairwise(rest)))

    def test_a_logged_change_tells_the_figure_that_the_plan_promised(self) -> None:
        t, lv, log = self.spike()
        plan = respond(t, lv, still(61), FIRM, NOW).changes[0]
        done = replace(entry("change", 0, litres=plan.litres), id=90, at=NOW + timedelta(minutes=20))
        later = NOW + timedelta(hours=3)
        after = Log.of((*log, done))
        promise = last_promise(t, after, levels(t, after, later, Limits()), later)
        assert promise is not None
        self.assertAlmostEqual(promise.told.nh3_after.seen, plan.nh3_after.seen)
        self.assertEqual([k.stands for k in promise.kept], ["", ""])
        self.assertAlmostEqual(promise.kept[0].low, 1.5 * (1 - plan.fraction))
        for typed, stands in (("4", "higher"), ("1", "kept"), ("0", "lower")):
            read = replace(test_entry(0, ammonia=typed), id=91, at=NOW + timedelta(hours=2))
            log_now = Log.of((*after, read))
            found = last_promise(t, log_now, levels(t, log_now, later, Limits()), later)
            assert found is not None
            self.assertEqual(found.kept[0].stands, stands, typed)
        days_on = NOW + timedelta(days=3)
        self.assertIsNone(last_promise(t, after, levels(t, after, days_on, Limits()), days_on))

    def test_water_that_raises_the_ph_raises_what_is_told_after_it(self) -> None:
        t, _lv, log = self.spike("2", "0", "6.6")
        t = replace(t, ph=6.6, kh_dkh=1.0, source=Source(8.4, 10.0))
        done = replace(entry("change", 0, litres=30.0), id=90, at=NOW + timedelta(minutes=20))
        lv = levels(t, (*log, done), NOW + timedelta(hours=1), Limits())
        self.assertGreater(lv.ph, 6.9)
        soft = levels(replace(t, source=Source(6.0, 1.0)), (*log, done), NOW + timedelta(hours=1), Limits())
        self.assertEqual(soft.ph, 6.6)  # a fall is not relied upon

    def test_tap_of_high_ph_frees_ammonia_and_is_told(self) -> None:
        t, lv, _ = self.spike("4", "0", "6.6")
        t = replace(t, ph=6.6, kh_dkh=1.0, source=Source(8.4, 10.0))
        plan = respond(t, replace(lv, limits=Limits(nh3=0.005)), still(61), FIRM, NOW)
        self.assertTrue(plan.frees_ammonia)

    def test_bad_tap_water_is_not_called_a_cure(self) -> None:
        t, lv, _ = self.spike()
        plan = respond(replace(t, source=Source(7.8, 8.0, ammonia_mg_n_l=1.5)), lv, still(61), FIRM, NOW)
        self.assertFalse(plan.reached)

    def test_little_ammonia_is_an_upset_where_much_of_it_is_free(self) -> None:
        """0.5 mg N/L at pH 8.6 and 26 degrees is 0.1 of NH3-N, five times the limit; at pH 7 a fiftieth of it."""
        fish = entry("arrival", 9, species="guppy", count=6)
        for ph, over in (("8.6", True), ("7.0", False)):
            log = numbered(fish, test_entry(1, ammonia="0.5", nitrite="0", ph=ph))
            with self.subTest(ph=ph):
                self.assertEqual(episode(tank(ph=float(ph)), log, Limits()) is not None, over)

    def test_two_clean_days_end_it(self) -> None:
        t, _lv, log = self.spike()
        rows = (
            ((), 0, True),
            ((test_entry(-1, ammonia="0", nitrite="0"),), 1, True),
            ((test_entry(-1, ammonia="0", nitrite="0"), test_entry(-2, ammonia="0", nitrite="0")), 2, False),
            ((test_entry(-1, ammonia="0", nitrite="0"), test_entry(-2, ammonia="2", nitrite="0")), 0, True),
        )
        for more, clean, goes_on in rows:
            with self.subTest(n=len(more), clean=clean):
                found = episode(t, numbered(*log, *more), Limits())
                assert found is not None
                self.assertEqual((found.clean_days, found.open), (clean, goes_on))


class ProofAndGate(unittest.TestCase):
    def doses(self, *clean: bool):
        log = []
        for k, ok in enumerate(clean):
            log += [
                entry("dose", len(clean) - k + 0.5, mg_n=216.0),
                test_entry(len(clean) - k - 0.4, ammonia="0" if ok else "0.5", nitrite="0"),
            ]
        return numbered(*log)

    def test_doses_cleared_count_as_a_run(self) -> None:
        for clean, run in (((), 0), ((True,), 1), ((True, True), 2), ((True, False), 0), ((False, True, True), 2)):
            with self.subTest(clean=clean):
                self.assertEqual(doses_cleared(tank(), Log.of(self.doses(*clean)), DOSE), run)

    def test_a_small_dose_or_a_late_test_proves_nothing(self) -> None:
        small = numbered(entry("dose", 1, mg_n=50.0), test_entry(0.1, ammonia="0", nitrite="0"))
        late = numbered(entry("dose", 3, mg_n=216.0), test_entry(1, ammonia="0", nitrite="0"))
        for log in (small, late):
            self.assertEqual(doses_cleared(tank(), Log.of(log), DOSE), 0)

    def test_clean_days_need_two_tests_and_break(self) -> None:
        one = numbered(test_entry(3, ammonia="0", nitrite="0"))
        run = Requirement("clean_run", days=3)
        self.assertEqual(clean_days(tank(), Log.of(one), run), 0)
        both = numbered(*one, test_entry(0, ammonia="0", nitrite="0"))
        self.assertEqual(clean_days(tank(), Log.of(both), run), 3)
        broken = numbered(*one, test_entry(1, ammonia="1", nitrite="0"), test_entry(0, ammonia="0", nitrite="0"))
        self.assertEqual(clean_days(tank(), Log.of(broken), run), 0)

    def test_taste_never_closes_a_gate(self) -> None:
        self.assertTrue(Gate(1, (Check("a", True, ""), Check("b", False, "", hardness="taste"))).passed)
        self.assertFalse(Gate(1, (Check("b", False, "", hardness="practice"),)).passed)

    def test_what_does_not_fit_is_said_with_numbers(self) -> None:
        batch = Batch(1, "Batch one", NOW.date(), (Animals("angelfish", 2), Animals("guppy", 1)))
        s = look(tank(lid=False, ph=6.0), self.doses(True, True), [batch])
        keys = {c.key for c in s.gates[0].missing}
        self.assertLessEqual({"litres", "group", "lid", "ph"}, keys)
        litres = next(c for c in s.gates[0].checks if c.key == "litres")
        self.assertIn("240", litres.sentence)


class Verdicts(unittest.TestCase):
    def state(self, s):
        v = verdict(s)
        self.assertTrue(v.reasons and all(v.reasons))
        self.assertNotIn("!", v.sentence)
        self.assertNotRegex(v.sentence, r"\bsafe\b|perfect")
        return v

    def test_dry_and_empty(self) -> None:
        self.assertEqual(self.state(look(tank(filled=False), [])).state, "hold")
        self.assertEqual(self.state(look(tank(), [])).state, "test")

    def test_a_spike_with_fish_acts_and_without_fish_does_not(self) -> None:
        spike = test_entry(0.1, ammonia="4", nitrite="1", ph="7.8")
        fish = entry("arrival", 5, species="guppy", count=6)
        acting = look(tank(), numbered(fish, spike))
        v = self.state(acting)
        self.assertEqual(v.state, "act")
        self.assertRegex(v.call, r"change \d+")
        found = jobs(acting)
        self.assertEqual([j.kind for j in found][:1], ["water_change"])
        self.assertIn("pinch", next(j.title for j in found if j.kind == "feed"))  # young guppies must not fast
        self.assertNotEqual(self.state(look(tank(), numbered(entry("dose", 5, mg_n=216.0), spike))).state, "act")

    def test_after_the_spike_it_holds_until_two_clean_days(self) -> None:
        log = numbered(
            entry("arrival", 9, species="guppy", count=6),
            test_entry(1.2, ammonia="4", nitrite="1"),
            test_entry(0.1, ammonia="0", nitrite="0"),
        )
        v = self.state(look(tank(), log))
        self.assertEqual(v.state, "hold")
        self.assertIn("One clean day", v.because)

    def test_stale_readings_ask_for_a_test(self) -> None:
        log = numbered(entry("dose", 12, mg_n=216.0), test_entry(6, ammonia="1", nitrite="0"))
        v = self.state(look(tank(), log))
        self.assertEqual((v.state, v.call), ("test", "Test ammonia and nitrite today."))
        self.assertIn("6 days old", v.because)

    def test_jobs_tell_amounts_and_a_line_that_can_be_logged(self) -> None:
        log = numbered(entry("dose", 12, mg_n=216.0), test_entry(0.5, ammonia="0", nitrite="1"))
        dose = next(j for j in jobs(look(tank(), log)) if j.kind == "dose")
        self.assertAlmostEqual(dose.amount or 0, 216.16 / 261.857, delta=0.01)
        self.assertEqual(dose.shorthand, "dose 2 mg/l")
        self.assertTrue(dose.why and dose.caution == "ammonia")
        again = numbered(*log, entry("dose", 0.1, mg_n=216.0))
        self.assertNotIn("dose", [j.kind for j in jobs(look(tank(), again))])


class AfterAChange(unittest.TestCase):
    """Once a corrective change is logged, the plan goes on from what it should have brought."""

    FISH = entry("arrival", 9, species="guppy", count=6)

    def after(self, litres: float, ammonia: str = "4"):
        spike = test_entry(0.3, ammonia=ammonia, nitrite="0", ph="7.8")
        return look(tank(ph=7.8), numbered(self.FISH, spike, entry("change", 0.02, litres=litres)))

    def test_levels_are_thinned_and_marked_as_expected(self) -> None:
        s = self.after(54.04)
        assert s.levels.tan is not None
        self.assertAlmostEqual(s.levels.tan.seen, 2.0, places=2)
        self.assertAlmostEqual(s.levels.tan.low, 1.5, places=2)
        self.assertEqual(s.levels.changed_at, at(0.02))

    def test_new_water_with_ammonia_of_its_own_thins_less(self) -> None:
        """Half of 4 mg N/L out, half of 1 mg N/L in: 2.5, as the model reckons it."""
        spike = test_entry(0.3, ammonia="4", nitrite="0", ph="7.8")
        litres = net_l(tank()) / 2
        for source, expected in ((None, 2.0), (1.0, 2.5), (0.0, 2.0)):
            told = {} if source is None else {"source_ammonia": source}
            s = look(tank(ph=7.8), numbered(self.FISH, spike, entry("change", 0.02, litres=litres, **told)))
            assert s.levels.tan is not None
            with self.subTest(source=source):
                self.assertAlmostEqual(s.levels.tan.seen, expected, places=3)

    def test_a_change_of_the_same_minute_counts_by_the_order_of_writing(self) -> None:
        spike = replace(test_entry(0.3, ammonia="4", nitrite="0", ph="7.8"), id=2)
        fish, litres = replace(self.FISH, id=1), net_l(tank()) / 2
        for number, expected in ((3, 2.0), (1, 4.0)):
            change = replace(entry("change", 0.3, litres=litres), id=number)
            s = look(tank(ph=7.8), [replace(fish, id=0), *sorted([spike, change], key=lambda e: e.order)])
            assert s.levels.tan is not None
            with self.subTest(written=number):
                self.assertAlmostEqual(s.levels.tan.seen, expected, places=3)

    def test_the_next_change_waits_and_a_test_comes_first(self) -> None:
        s = self.after(54.04)
        v, found = verdict(s), jobs(s)
        self.assertEqual(v.state, "act")
        self.assertRegex(v.call, r"^Test at 20:\d\d\.$")
        self.assertRegex(v.advice, r"Else change .* (?:at|tomorrow at) \d\d:\d\d\.")
        change = next(j for j in found if j.kind == "water_change")
        self.assertFalse(change.urgent)
        self.assertGreaterEqual(change.due - at(0.02), timedelta(hours=12) - timedelta(minutes=1))
        test = next(j for j in found if j.kind == "test")
        self.assertEqual(test.due, at(0.02) + timedelta(hours=2))

    def test_below_the_limits_by_reckoning_still_asks_for_a_reading(self) -> None:
        v = verdict(self.after(97.0, "1"))
        self.assertEqual(v.state, "test")
        self.assertIn("only a reading tells", v.because)

    def test_a_fresh_reading_counts_alone(self) -> None:
        log = numbered(
            self.FISH,
            test_entry(0.3, ammonia="4", nitrite="0", ph="7.8"),
            entry("change", 0.2, litres=54.0),
            test_entry(0.05, ammonia="4", nitrite="0", ph="7.8"),
        )
        s = look(tank(ph=7.8), log)
        self.assertIsNone(s.levels.changed_at)
        self.assertTrue(verdict(s).call.startswith("Act now: change"))

    def test_an_unexplained_death_holds_the_next_batch(self) -> None:
        batch = Batch(1, "Batch one", NOW.date(), (Animals("guppy", 5),))
        clean = test_entry(0.1, ammonia="0", nitrite="0")
        for cause, days, held in (("", 2, True), ("not known yet", 2, True), ("jumped out", 2, False), ("", 9, False)):
            with self.subTest(cause=cause, days=days):
                fish = entry("arrival", 30, species="guppy", count=6)
                log = numbered(fish, clean, entry("death", days, species="guppy", count=1, cause=cause))
                keys = {c.key for c in look(tank(), log, [batch]).gates[0].missing}
                self.assertEqual("death" in keys, held)
