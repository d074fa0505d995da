"""From log and plan to the model's inputs, and what each school goes on doing."""

import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np

from jarbloom.core.animals.bioload import FASTING, feed_load, load_of, rotting_food_mg_n
from jarbloom.core.bloom.drivers import DETOX_SHARE, FuturePlan, drivers, step_of
from jarbloom.core.bloom.ensemble import Forecasting, known_by, prepare
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.bloom.limits import limits_for
from jarbloom.core.bloom.plans import usual_plan
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.kit import Kit
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import Limits
from jarbloom.units import Units
from tests.make import FEW, NOW, REFERENCE, at, entry, numbered, tank, test_entry

START = at(10, 0)
DT = 1 / 12
VOLUME = net_l(tank())
SETTING = Setting(VOLUME, Kit(), Units(), REFERENCE.species)


def grid(*entries, plan=None, days=10, on=None):
    t = on or tank()
    return drivers(t, numbered(*entries), REFERENCE.species, START, START + timedelta(days=days), DT, plan)


class FromTheLog(unittest.TestCase):
    def test_each_kind_stands_at_its_step(self) -> None:
        log = (
            entry("dose", 8, 12, mg_n=216.0), entry("change", 7, 12, litres=54.0),
            entry("conditioner", 6, 12, detoxifies=True),
            entry("conditioner", 5, 12, ml=5.0), entry("media", 4, 12, how="tap", share=50),
            entry("bacteria", 3, 12, source="borrowed", share=60), test_entry(2, 12, ph="7.0", kh="4", temp="22"),
        )  # fmt: skip
        g = grid(*log)

        def step(days_ago: int) -> int:
            return step_of(at(days_ago, 12), START, DT)

        self.assertAlmostEqual(g.dose[step(8)], 216.0 / VOLUME)
        self.assertAlmostEqual(g.dose.sum(), 216.0 / VOLUME)
        self.assertAlmostEqual(g.change[step(7)], 54 / VOLUME)
        self.assertEqual((g.detox[step(6)], g.detox[step(5)]), (DETOX_SHARE, 0.0))
        self.assertEqual(
            [(h.kind, h.key, h.share) for h in g.happenings], [("loss", "tap", 0.5), ("seed", "borrowed", 2.0)]
        )
        self.assertEqual(g.ph_read[step(2)], 7.0)
        self.assertTrue(np.isnan(g.ph_read[step(3)]))
        self.assertAlmostEqual(g.kh_read[step(2)], 4 * 17.848 / 50.04)
        self.assertEqual((g.temp[0], g.temp[-1]), (26.0, 22.0))

    def test_rock_counts_by_its_kilograms_in_this_water(self) -> None:
        (happening,) = grid(entry("rock", 5, kg=VOLUME / 10, condition="shipped")).happenings
        self.assertAlmostEqual(happening.share, 1.0)  # 1 kg on 10 L is the usual amount
        told = KINDS["rock"].from_plain({"amount": "8", "unit": "kg", "condition": "shipped"}, SETTING)
        self.assertEqual(told.kg, 8.0)

    def test_a_solution_brings_alkalinity_the_chloride_does_not(self) -> None:
        """One eq with a mol of NH3 dissolved in water, none with a mol of NH4Cl: 2 mg N/L are 0.143 meq/L, 0.40 dKH."""
        rows = (
            ("mL", "chloride", 0.1428),
            ("g", "solution", 0.0),
            ("mg/L", "solution", 0.1428),
            ("mg/L", "chloride", 0),
        )
        for unit, bottle, meq_l in rows:
            with self.subTest(unit=unit, bottle=bottle):
                g = grid(entry("dose", 5, mg_n=2 * VOLUME, amount=1.0, unit=unit), on=tank(dose_from=bottle))
                self.assertAlmostEqual(g.dose_alk.sum(), meq_l, places=4)

    def test_in_one_minute_the_order_of_writing_is_the_order_of_things(self) -> None:
        """`am 0 ni 0` and then `dose 2 mg/l`: the test read the water before the dose, which is then all in."""
        read, dosed = test_entry(5, ammonia="0", nitrite="0"), entry("dose", 5, mg_n=2 * VOLUME)
        for first, second, expected in ((read, dosed, "before"), (dosed, read, "after")):
            log = [replace(first, id=1), replace(second, id=2)]
            with self.subTest(expected=expected):
                f = forecast(tank(started=at(8).date()), log, NOW, REFERENCE, (), Forecasting(members=200))
                self.assertEqual(bool(f.surprises), expected == "after")

    def test_two_changes_in_one_step_take_their_shares_one_after_the_other(self) -> None:
        half = entry("change", 7, 12, litres=VOLUME / 2)
        self.assertAlmostEqual(grid(half, half).change.max(), 0.75)

    def test_what_lies_outside_is_left_out(self) -> None:
        g = grid(entry("dose", 11, 12, mg_n=100.0), entry("dose", 0, mg_n=100.0))
        self.assertEqual(g.dose.sum(), 0.0)

    def test_logged_feed_replaces_the_ration(self) -> None:
        fish = entry("arrival", 9, 8, species="harlequin_rasbora", count=8)
        usual = load_of([Animals("harlequin_rasbora", 8, None, at(9).date())], REFERENCE.species, 26, at(5).date())
        k = step_of(at(5, 12), START, DT)
        self.assertAlmostEqual(grid(fish).excretion[k] * VOLUME, usual.excreted, places=6)
        fed = grid(fish, entry("feed", 5, 9, grams=1.0))
        self.assertAlmostEqual(fed.excretion[k] * VOLUME, feed_load(1.0).excreted)
        self.assertAlmostEqual(fed.waste[k] * VOLUME, feed_load(1.0).particulate)
        fasting = grid(fish, entry("feed", 5, 9, grams=0.0))
        self.assertAlmostEqual(fasting.excretion[k] * VOLUME, usual.excreted * FASTING, places=6)

    def test_food_without_animals_rots(self) -> None:
        g = grid(entry("feed", 5, 9, grams=0.5))
        self.assertAlmostEqual(g.particulate.sum() * VOLUME, rotting_food_mg_n(0.5))
        self.assertEqual(g.excretion.sum(), 0.0)

    def test_only_what_was_known_is_known(self) -> None:
        log = [
            *numbered(entry("dose", 3, mg_n=1.0), entry("dose", -1, mg_n=1.0)),
            replace(entry("dose", 2, mg_n=1.0), state="void"),
        ]
        self.assertEqual(len(known_by(log, NOW)), 1)


class FromThePlan(unittest.TestCase):
    def test_batches_come_on_their_day_at_adult_size(self) -> None:
        day = (START + timedelta(days=4)).date()
        batch = Batch(1, "Batch one", day, (Animals("harlequin_rasbora", 8),))
        g = grid(plan=FuturePlan((batch,)))
        adult = load_of(batch.items, REFERENCE.species, 26, adult=True)
        before, after = step_of(START + timedelta(days=3.5), START, DT), step_of(START + timedelta(days=4.5), START, DT)
        self.assertEqual(g.excretion[before], 0.0)
        self.assertAlmostEqual(g.excretion[after] * VOLUME, adult.excreted)
        self.assertEqual(g.kept_from, 0)

    def test_redosing_ends_before_the_animals_and_feeding_can_rest(self) -> None:
        until = (START + timedelta(days=3)).date()
        g = grid(plan=FuturePlan(redose_mg_n_l=2.0, animals_from=until))
        self.assertEqual(np.count_nonzero(g.redose), 2)  # none on the day before them
        early, plan = START - timedelta(hours=8), FuturePlan(redose_mg_n_l=2.0, animals_from=until)
        later = drivers(tank(), (), REFERENCE.species, early, START + timedelta(days=9), DT, plan, START)
        self.assertEqual(
            (np.flatnonzero(later.redose) * DT * 24 % 24).round(6).tolist(), [8, 8]
        )  # at the hour it is now
        fish = entry("arrival", 11, species="harlequin_rasbora", count=8, length_cm=3.0)
        rest = grid(fish, plan=FuturePlan(feed_factor=0.2, feed_factor_until=until))
        k_rest, k_fed = step_of(START + timedelta(days=1), START, DT), step_of(START + timedelta(days=6), START, DT)
        self.assertLess(rest.excretion[k_rest], 0.25 * rest.excretion[k_fed])

    def test_planned_changes(self) -> None:
        g = grid(plan=FuturePlan(changes=((START + timedelta(days=2), 0.5), (START - timedelta(days=2), 0.5))))
        self.assertEqual(np.count_nonzero(g.change), 1)


class Schools(unittest.TestCase):
    def plan(self, school: str, *entries, batches=(), **changes):
        return usual_plan(prepare(tank(school=school, **changes), numbered(*entries), NOW, REFERENCE, FEW), batches)

    def test_each_school_goes_on_in_its_way(self) -> None:
        fish = entry("arrival", 2, species="guppy", count=3)
        self.assertEqual(self.plan("measured_dose").redose_mg_n_l, 2.0)
        self.assertGreater(self.plan("pinch_feeding").food_g_day, 0)
        self.assertEqual(self.plan("fish_in_watched", fish), FuturePlan(relief_share=0.5, relief_over=(0.5, 0.5)))
        small = self.plan("fish_in_small_changes", fish)
        self.assertTrue(small.changes and all(f == 0.125 for _, f in small.changes))
        self.assertEqual(self.plan("measured_dose", fish).redose_mg_n_l, 0.0)

    def test_a_change_stands_before_the_first_stocking(self) -> None:
        day = NOW.date() + timedelta(days=6)
        plan = self.plan("measured_dose", batches=[Batch(1, "one", day, (Animals("guppy", 5),))])
        self.assertEqual(plan.animals_from, day)
        self.assertEqual([(c.date(), f) for c, f in plan.changes], [(day, 0.5)])

    def test_a_date_gone_by_means_today(self) -> None:
        plan = self.plan("measured_dose", batches=[Batch(1, "one", at(3).date(), (Animals("guppy", 5),))])
        self.assertEqual(plan.batches[0].planned, NOW.date())

    def test_limits_follow_the_most_sensitive(self) -> None:
        self.assertEqual(limits_for([Animals("platy", 1)], REFERENCE), Limits(0.02, 0.25))
        mixed = [Animals("platy", 1), Animals("bronze_corydoras", 1)]
        self.assertEqual(limits_for(mixed, REFERENCE), Limits(0.02, 0.125))
        self.assertEqual(limits_for([Animals("never heard of", 1)], REFERENCE), Limits(0.01, 0.125))


class Timing(unittest.TestCase):
    """A dose between two steps comes neither early nor late, and the past ends at the very moment asked."""

    def test_an_amount_is_shared_by_where_it_stands(self) -> None:
        half = replace(entry("dose", 8, mg_n=100.0), at=START + timedelta(days=2, hours=1))
        g = grid(half)
        k = step_of(half.at, START, DT)
        np.testing.assert_allclose(g.dose[k : k + 2] * VOLUME, [50.0, 50.0])

    def test_but_all_of_it_before_a_reading_that_followed(self) -> None:
        late = replace(entry("dose", 8, mg_n=100.0), at=START + timedelta(days=2, minutes=100))
        after = replace(test_entry(8, ammonia="2"), at=START + timedelta(days=2, minutes=110))
        g = grid(late, after)
        self.assertAlmostEqual(g.dose[step_of(late.at, START, DT)] * VOLUME, 100.0)

    def test_the_past_ends_when_it_is_asked(self) -> None:
        """A dose just given has hardly been touched, at whatever minute one asks."""
        for minutes in (0, 7, 59, 60, 119):
            moment = NOW + timedelta(minutes=minutes)
            dose = replace(entry("dose", 0, mg_n=216.16), at=moment - timedelta(minutes=1))
            found = prepare(tank(), numbered(dose), moment, REFERENCE, FEW)
            with self.subTest(minutes=minutes):
                np.testing.assert_allclose(np.median(found.past.end.tan), 2.0, rtol=0.02)

    def test_every_day_of_the_grid_is_fed_for_itself(self) -> None:
        fish = entry("arrival", 9, 8, species="harlequin_rasbora", count=8)
        feast = entry("feed", 5, 9, grams=2.0)
        start = START + timedelta(hours=17)
        g = drivers(tank(), numbered(fish, feast), REFERENCE.species, start, start + timedelta(days=8), DT)
        day = at(5).date()
        fed = [k for k in range(g.n_step) if (start + timedelta(days=k * DT)).date() == day]
        np.testing.assert_allclose(g.excretion[fed] * VOLUME, feed_load(2.0).excreted)
        self.assertLess(g.excretion[fed[0] - 1], g.excretion[fed[0]])
        self.assertLess(g.excretion[fed[-1] + 1], g.excretion[fed[-1]])

    def test_a_change_of_the_clocks_moves_nothing(self) -> None:
        """Clocks went back on 25 October 2026 in Berlin: what was logged keeps its distance to what is asked."""
        asked = NOW.replace(month=10, day=28)
        zone = asked.tzinfo
        moments = [datetime(2026, 10, d, 18, 30, tzinfo=zone) for d in (20, 24, 26)]
        log = numbered(
            *(replace(entry("dose", 0, mg_n=216.16), at=m) for m in moments),
            replace(test_entry(0, ammonia="1", nitrite="1"), at=datetime(2026, 10, 27, 18, 30, tzinfo=zone)),
        )
        t = tank(started=moments[0].date())
        local = prepare(t, log, asked, REFERENCE, FEW)
        utc = prepare(t, [replace(e, at=e.at.astimezone(UTC)) for e in log], asked, REFERENCE, FEW)
        np.testing.assert_allclose(local.past.end.tan, utc.past.end.tan)
        self.assertAlmostEqual(local.sights[0].age_days, 1.0, delta=0.02)
        self.assertEqual(len(local.noons), 8)
