"""What every step must keep: conservation, limits, order, and the policies that act inside a run."""

import unittest
from dataclasses import replace
from datetime import timedelta

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jarbloom.core.bloom.capacity import carried_mg_n_l_day, left_after_day
from jarbloom.core.bloom.conditioning import Evidence, Kits, Sight, reading_probability
from jarbloom.core.bloom.drivers import FuturePlan, drivers
from jarbloom.core.bloom.ensemble import Forecasting, prepare, project
from jarbloom.core.bloom.events import LOSS, SEEDING, power_shift, salt_shift
from jarbloom.core.bloom.kernel import implicit_monod, to_machine_code
from jarbloom.core.bloom.kinetics import first_state, mature_state, total_n, warmth
from jarbloom.core.bloom.parameters import BLOCK_DAYS, NITRITE_WAIT_MG_N_L, PRIORS, n_columns, parameters
from jarbloom.core.bloom.plans import school_plan, usual_plan, with_entries
from jarbloom.core.bloom.stepper import simulate
from jarbloom.core.journal.readings import read
from jarbloom.core.model.kit import MG_PER_MG_N, Kit, Scale
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.water.ammonia import ammonium_per_unionised, unionised_fraction
from jarbloom.units import figure
from tests.core.test_bloom import ALK, a_cycle, ensemble
from tests.make import FEW, NOW, REFERENCE, at, entry, numbered, tank, test_entry

DAY = 1 / 24


def run(par, *entries, days=8.0, dt=1 / 12, on=None, plan=None, at_steps=None):
    start = at(days)
    t = replace(on or tank(), started=start.date())
    drv = drivers(t, numbered(*entries), REFERENCE.species, start, start + timedelta(days=days), dt, plan)
    return simulate(par, drv, first_state(par, t.ph, ALK), at_steps)


class Steps(unittest.TestCase):
    @given(st.floats(0, 50, allow_nan=False), st.floats(0, 20, allow_nan=False), st.floats(0.01, 5, allow_nan=False))
    def test_monod_takes_something_never_more_than_there_is(self, content: float, vmax: float, k: float) -> None:
        left = float(implicit_monod(np.array([content]), np.array([vmax]), np.array([k]))[0])
        self.assertGreaterEqual(left, -1e-12)
        self.assertLessEqual(left, content + 1e-12)
        # it solves its own equation: what is gone is V s/(K + s)
        self.assertAlmostEqual(content - left, vmax * left / (k + left) if left > 0 else 0.0, places=6)

    def test_half_the_step_is_nearly_the_same_run(self) -> None:
        par = ensemble(30)
        log = [entry("dose", 7.5, mg_n=216.0), entry("feed", 4, grams=0.3), entry("change", 2, litres=40.0)]
        coarse, fine = run(par, *log, dt=1 / 8), run(par, *log, dt=1 / 16)
        np.testing.assert_allclose(coarse.end.a, fine.end.a, rtol=0.03)
        np.testing.assert_allclose(total_n(coarse.end), total_n(fine.end), rtol=0.01)

    @settings(max_examples=12)
    @given(st.floats(0.1, 6), st.floats(18, 30), st.floats(6.6, 8.4))
    def test_nitrogen_is_kept_whatever_the_water(self, dose: float, temp: float, ph: float) -> None:
        par = ensemble(8, plants=0.0, inputs=1.0)
        end = run(par, entry("dose", 6, mg_n=dose * 108.08), on=tank(temp_c=temp, ph=ph)).end
        np.testing.assert_allclose(total_n(end), dose, rtol=1e-6)

    def test_a_change_takes_the_water_and_leaves_most_of_what_rots(self) -> None:
        """Half of the water: half of what is dissolved goes, and of a body that lies in the filter what is lifted."""
        par = ensemble(8, plants=0.0, inputs=1.0, lifted=0.3, k_min=1e-9)
        body, half = entry("feed", 3, grams=4.0), entry("change", 1, litres=54.04)
        before, after = run(par, body).end, run(par, body, half).end
        np.testing.assert_allclose(after.particulate, (1 - 0.5 * 0.3) * before.particulate, rtol=1e-6)
        par = ensemble(8, plants=0.0, k_min=1e-9)
        dose = entry("dose", 3, mg_n=216.0)
        brings = tank().refill.nitrate_mg_n_l
        left = 0.5 * total_n(run(par, dose).end) + 0.5 * brings
        np.testing.assert_allclose(total_n(run(par, dose, half).end), left, rtol=0.01)

    def test_records_at_chosen_steps_are_those_of_the_whole_run(self) -> None:
        par = ensemble(10)
        log = [entry("dose", 7.5, mg_n=216.0)]
        whole, some = run(par, *log), run(par, *log, at_steps=np.array([0, 7, 50, 96]))
        np.testing.assert_array_equal(whole.tan[[0, 7, 50, 96]], some.tan)
        self.assertEqual((some.row(50), some.row(60), some.row(0)), (2, 2, 0))

    def test_a_member_lives_the_same_alone_as_among_others(self) -> None:
        par = ensemble(10)
        log = [entry("dose", 7.5, mg_n=216.0), entry("feed", 4, grams=0.3), entry("change", 2, litres=40.0)]
        among = run(par, *log)
        for j in (0, 9):
            one = slice(j, j + 1)
            alone = run(
                replace(
                    par,
                    values={name: v[one] for name, v in par.values.items()},
                    noise_a=par.noise_a[:, one],
                    noise_b=par.noise_b[:, one],
                    event_z=par.event_z[:, :, one],
                    a_max=par.a_max[one],
                ),
                *log,
            )
            for name in ("tan", "nh3", "no2", "no3", "a", "b", "ph"):
                np.testing.assert_array_equal(getattr(alone, name)[:, 0], getattr(among, name)[:, j])

    def test_where_nothing_can_be_kept_the_loop_is_compiled_all_the_same(self) -> None:
        named: dict = {}
        exec("def twice(x):\n    return 2 * x", named)  # it stands in no file, so there is no folder beside it
        self.assertEqual(to_machine_code(named["twice"])(21), 42)

    def test_nitrification_spends_alkalinity_by_the_book(self) -> None:
        """7.14 mg CaCO3 for each mg N: 2 meq for 14.007 mg."""
        par = ensemble(10, plants=0.0, a_0=3.0, b_0=3.0, lag_a=1e-3, lag_b=1e-3, ph_low=3.0, alk_use=1.0)
        end = run(par, entry("dose", 7, mg_n=108.08)).end
        self.assertLess(float(end.tan.max()), 0.01)
        np.testing.assert_allclose(ALK - end.alk, 2 / 14.007, rtol=0.02)

    def test_an_old_tank_begins_in_balance_with_its_load(self) -> None:
        par = ensemble(200)
        for load in (0.1, 0.5):
            state = mature_state(par, 7.4, ALK, load, 5.0)
            carried = np.minimum(*carried_mg_n_l_day(par, state.a, state.b, np.full(200, 7.4), 25.0))
            self.assertGreater(float(np.median(carried)), load)


class Water(unittest.TestCase):
    def test_warmth(self) -> None:
        self.assertAlmostEqual(float(warmth(25.0, 1.09)), 1.0, delta=1e-4)
        self.assertAlmostEqual(float(warmth(15.0, 1.09)), 1.09**-10, delta=1e-4)
        temps = np.linspace(5, 34, 30)
        self.assertTrue((np.diff(warmth(temps, 1.07)) > 0).all())
        self.assertLess(float(warmth(42.0, 1.09)), 0.1)

    def test_unionised_in_both_spellings(self) -> None:
        for ph, temp in ((7.0, 25.0), (8.0, 20.0), (8.6, 28.0)):
            share = 1 / (1 + float(ammonium_per_unionised(temp, 0.0)) * 10**-ph)
            self.assertAlmostEqual(share, float(unionised_fraction(ph, temp)), places=12)

    def test_losses_grow_with_hours_and_jumps(self) -> None:
        for where in ("closed", "open"):
            shifts = [power_shift(where, h) for h in (1, 6, 24, 72)]
            self.assertEqual(shifts, sorted(shifts))
        self.assertGreater(power_shift("closed", 24), power_shift("open", 24))
        self.assertAlmostEqual(LOSS["salt"].mean + salt_shift(12), 0.0)

    def test_a_dead_bottle_is_no_bottle(self) -> None:
        n = 2000
        rng = np.random.default_rng(3)
        par = parameters(rng.standard_normal((n, n_columns(2, 1))), 2, 1, tank(), 16.0)
        end = run(par, entry("bacteria", 1, source="bottle"), days=1.5).end
        untouched = float(np.mean(end.a < 0.9 * np.median(end.a) / 10))
        self.assertAlmostEqual(untouched, SEEDING["bottle"].dead, delta=0.12)


class Policies(unittest.TestCase):
    def test_redosing_waits_for_nitrite(self) -> None:
        par = ensemble(20, a_0=20.0, b_0=1e-6, lag_a=1e-3, plants=0.0)
        end = run(par, days=30, on=tank(kh_dkh=40), plan=FuturePlan(redose_mg_n_l=2.0, animals_from=None)).end
        self.assertLess(float(end.no2.max()), NITRITE_WAIT_MG_N_L + 2.5)
        self.assertGreater(float(np.median(end.no2)), 3.0)

    def test_relief_changes_only_where_the_water_is_over(self) -> None:
        log = entry("dose", 7.9, mg_n=108.08)
        par = ensemble(40, a_0=1e-9, plants=0.0)
        relieved = run(par, log, plan=FuturePlan(relief_share=0.5, relief_over=(0.4, 0.4))).end
        patient = run(par, log, plan=FuturePlan(relief_share=0.5, relief_over=(5.0, 5.0))).end
        np.testing.assert_allclose(relieved.tan, 0.25, rtol=0.05)  # 1, 0.5, 0.25: then it is under
        np.testing.assert_allclose(patient.tan, 1.0, rtol=0.05)

    def test_kh_is_mended_in_a_plan_and_not_in_the_past(self) -> None:
        par = ensemble(20, a_0=5.0, b_0=5.0, lag_a=1e-3, lag_b=1e-3)
        doses = [entry("dose", d, mg_n=540.0) for d in range(1, 8)]
        soft = tank(kh_dkh=4)
        spent, mended = (run(par, *doses, on=soft, plan=p).end.alk for p in (None, FuturePlan()))
        self.assertLess(float(np.median(spent)), 0.3)
        self.assertGreater(float(np.median(mended)), 0.5)

    def test_live_rock_feeds_itself(self) -> None:
        rock = prepare(tank(school="living_rock", started=NOW.date()), [], NOW, REFERENCE, FEW)
        dry = prepare(tank(started=NOW.date()), [], NOW, REFERENCE, FEW)
        for found, more in ((rock, True), (dry, False)):
            tan = project(found, FuturePlan(), 5).path.tan[-1]
            self.assertEqual(bool(np.median(tan) > 0.3), more)

    def test_plans_of_a_school_with_and_without_batches(self) -> None:
        found = prepare(tank(), a_cycle(), NOW, REFERENCE, FEW)
        batch = Batch(1, "one", NOW.date() + timedelta(days=5), (Animals("guppy", 3),))
        self.assertIsNone(school_plan(found).animals_from)
        plan = usual_plan(found, [batch])
        self.assertEqual(plan.animals_from, batch.planned)
        earlier = replace(entry("arrival", -3, species="guppy", count=1), at=NOW + timedelta(days=3))
        self.assertEqual(with_entries(plan, [earlier]).animals_from, earlier.at.date())


class Likelihood(unittest.TestCase):
    def test_a_higher_truth_makes_a_higher_reading_likelier(self) -> None:
        kit, truth = tank().kit, np.linspace(0.3, 3.5, 30)
        p = reading_probability(read("ammonia", "4", kit), truth)
        self.assertTrue((np.diff(p) >= -1e-12).all())

    def test_many_at_once_are_each_alone(self) -> None:
        kit = tank().kit
        readings = [read("ammonia", "0.25", kit), read("nitrite", ">5", kit), read("nitrate", "10-20", kit)]
        truth = np.random.default_rng(1).random((3, 7)) * 4
        together = Kits(readings).probability(truth, 1.1)
        for row, reading, alone in zip(together, readings, truth, strict=True):
            np.testing.assert_allclose(row, reading_probability(reading, alone, 1.1))

    def test_no_reading_is_ever_impossible(self) -> None:
        for quantity, typed in (("ammonia", "0"), ("ammonia", "8"), ("nitrite", "0.25-0.5")):
            p = reading_probability(read(quantity, typed, tank().kit), np.array([0.0, 1.0, 100.0]))
            self.assertTrue((p > 1e-9).all())

    def test_a_reading_far_off_still_pulls(self) -> None:
        """The nearer of two members that are both far from what was read is the likelier, however far: so a sampler
        knows where to go. All steps together are certain."""
        kit, far = tank().kit, np.array([0.0, 0.2, 0.6, 1.2])
        p = reading_probability(read("ammonia", "8", kit), far)
        self.assertTrue((np.diff(np.log(p)) > 0.05).all(), p)
        for quantity in ("ammonia", "nitrite", "nitrate"):
            steps = [read(quantity, figure(s, 6), kit) for s in kit.scale(quantity).steps]
            every = Kits(steps).probability(np.full((len(steps), 3), (0.0, 1.0, 9.0)))
            np.testing.assert_allclose(every.sum(axis=0), 1.0, atol=1e-6)

    def test_a_kit_told_in_the_ion_is_the_same_kit(self) -> None:
        by_n = Kit(nitrite=Scale((0, 0.25, 0.5, 1, 2, 5)))
        per = MG_PER_MG_N["NO2"]
        by_ion = Kit(nitrite=Scale(tuple(s * per for s in (0, 0.25, 0.5, 1, 2, 5)), "NO2"))
        truth = np.linspace(0, 6, 40)
        for step in (0.0, 0.5, 5.0):
            a = reading_probability(read("nitrite", repr(step), by_n), truth)
            b = reading_probability(read("nitrite", repr(step * per), by_ion), truth)
            np.testing.assert_allclose(a, b, rtol=1e-9)

    def test_evidence_reads_the_run_where_the_readings_are(self) -> None:
        par = ensemble(12)
        path = run(par, entry("dose", 7.5, mg_n=216.0))
        kit = tank().kit
        sights = [Sight(6, read("ammonia", "2", kit), 7.0), Sight(90, read("nitrite", "0", kit), 0.5)]
        p = Evidence(sights).probabilities(path, par)
        np.testing.assert_allclose(p[0], reading_probability(sights[0].reading, path.tan[6], par.gain_am), rtol=1e-6)
        np.testing.assert_allclose(p[1], reading_probability(sights[1].reading, path.no2[90], par.gain_ni), rtol=1e-6)

    def test_more_readings_of_the_same_narrow_it(self) -> None:
        def spread(*days: float) -> float:
            log = numbered(entry("dose", 12, mg_n=216.0), *(test_entry(d, ammonia="1", nitrite="1") for d in days))
            end = prepare(tank(started=at(12).date()), log, NOW, REFERENCE, Forecasting(members=300)).past.end
            return float(np.std(np.log(end.a)))

        self.assertLess(spread(1.0, 0.8, 0.6, 0.4, 0.2), spread(1.0))


class Parameters(unittest.TestCase):
    def test_priors_are_what_they_say(self) -> None:
        z = np.random.default_rng(0).standard_normal(20_000)
        for p in PRIORS:
            with self.subTest(p.name):
                values = p.value(z)
                self.assertAlmostEqual(float(np.median(values)), p.centre, delta=0.05 * abs(p.centre) + 0.01)
                self.assertLessEqual(float(values.max()), p.high)
                self.assertTrue(p.source)

    def test_planted_tanks_bring_seed_and_take_ammonia(self) -> None:
        z = np.zeros((1, n_columns(1, 0)))
        bare, planted = (parameters(z, 1, 0, tank(planted=p), 16.0) for p in (False, True))
        self.assertGreater(float(planted.a_0[0]), float(bare.a_0[0]))
        self.assertGreater(float(planted.plants[0]), 10 * float(bare.plants[0]))

    def test_growth_noise_is_a_week_long(self) -> None:
        par = ensemble(3)
        self.assertEqual(par.noise_a.shape, (8, 3))
        self.assertEqual(BLOCK_DAYS, 7.0)

    def test_what_is_left_of_a_dose_falls_with_capacity(self) -> None:
        par = ensemble(1)
        left = [
            float(left_after_day(par, np.array([c]), np.array([c]), np.array([7.6]), 25.0, 2.0)[0][0])
            for c in (0.5, 2.0, 8.0, 30.0)
        ]
        self.assertEqual(left, sorted(left, reverse=True))
        self.assertLess(left[-1], 0.1)
