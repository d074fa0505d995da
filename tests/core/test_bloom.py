"""The nitrogen-cycle model: mass balance, limits, envelope, conditioning, and the forecast's promises."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

import numpy as np
from scipy.special import ndtr

from jarbloom.core.bloom.capacity import QUANTILES, left_after_day
from jarbloom.core.bloom.conditioning import condition, reading_probability
from jarbloom.core.bloom.drivers import FuturePlan, drivers
from jarbloom.core.bloom.ensemble import Forecasting, prepare, project
from jarbloom.core.bloom.events import SEEDING
from jarbloom.core.bloom.forecast import course_of, forecast, gate_of
from jarbloom.core.bloom.kernel import implicit_monod
from jarbloom.core.bloom.kinetics import first_state, total_n
from jarbloom.core.bloom.parameters import n_columns, parameters
from jarbloom.core.bloom.plans import school_plan
from jarbloom.core.bloom.readiness import first_days
from jarbloom.core.bloom.record import from_json, to_json
from jarbloom.core.bloom.stepper import simulate
from jarbloom.core.bloom.steps import Raised
from jarbloom.core.journal.readings import read
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from tests.lsoda import integrate
from tests.make import FEW, NOW, REFERENCE, at, entry, numbered, tank, test_entry

ALK = 3.0


def ensemble(n: int = 50, seed: int = 3, **changes: float):
    rng = np.random.default_rng(seed)
    par = parameters(rng.standard_normal((n, n_columns(8, 2))), 8, 2, tank(), 6.0)
    values = par.values | {k: np.full(n, v) for k, v in changes.items()}
    return replace(par, values=values)


def run(par, *entries, days: float = 10, dt: float = 1 / 12, on=None, plan=None):
    """From `days` before now until now, so that entries are told by how long ago they were."""
    start = at(days)
    t = replace(on or tank(), started=start.date())
    drv = drivers(t, numbered(*entries), REFERENCE.species, start, start + timedelta(days=days), dt, plan)
    return simulate(par, drv, first_state(par, t.ph, ALK)), drv


class Kinetics(unittest.TestCase):
    def test_nitrogen_is_neither_made_nor_lost(self) -> None:
        par = ensemble(plants=0.0, inputs=1.0)
        path, _ = run(par, entry("dose", 9, mg_n=216.0), entry("dose", 4, mg_n=108.0), entry("feed", 6, grams=0.5))
        net = 108.08
        expected = (216 + 108) / net + 0.5 * 1000 * 0.42 * 0.16 / net
        np.testing.assert_allclose(total_n(path.end), expected, rtol=1e-9)

    def test_a_change_takes_its_share_of_everything_dissolved_and_leaves_the_colony(self) -> None:
        par = ensemble(plants=0.0)
        still, _ = run(par, entry("dose", 9, mg_n=216.0), days=9.5)
        half, _ = run(par, entry("dose", 9, mg_n=216.0), entry("change", 0.05, litres=54.04), days=9.5)
        np.testing.assert_allclose(total_n(half.end), 0.5 * total_n(still.end) + 0.5 * 1.0, rtol=2e-2)
        np.testing.assert_allclose(half.end.a, still.end.a, rtol=3e-2)

    def test_nothing_ever_falls_below_zero(self) -> None:
        par = ensemble(200, mu_a=1.1, mu_b=1.1, plants=1.0)
        path, _ = run(par, entry("dose", 29, mg_n=2000.0), days=30, dt=0.25)
        for name in ("tan", "no2", "no3", "a", "b"):
            self.assertGreaterEqual(getattr(path, name).min(), 0.0, name)

    def test_implicit_monod_solves_its_equation(self) -> None:
        s = implicit_monod(np.array([2.0]), np.array([0.7]), np.array([0.4]))
        np.testing.assert_allclose(s + 0.7 * s / (0.4 + s), 2.0, rtol=1e-12)

    def test_agrees_with_lsoda(self) -> None:
        """Members as the priors give them, 40 days with doses, feed and changes, at the published step."""
        days, dt = 40, Forecasting().publish_h / 24
        doses = [entry("dose", d, mg_n=216.0) for d in (39.5, 24, 20, 16, 13, 10, 8, 6, 4, 2)]
        more = [entry("change", 12, litres=54.0), entry("feed", 18, grams=0.4)]
        start = at(days).replace(hour=0, minute=0)
        drv = drivers(tank(), numbered(*doses, *more), REFERENCE.species, start, start + timedelta(days=days), dt)
        par = ensemble(6)
        first = first_state(par, 7.4, ALK, 1.0)
        path = simulate(par, drv, first)
        exact = np.stack([integrate(par, drv, first, m) for m in range(6)], axis=1)
        for k, (name, most) in enumerate((("tan", 0.03), ("no2", 0.06))):
            rms = float(np.sqrt(np.mean((getattr(path, name) - exact[:, :, k]) ** 2)))
            self.assertLess(rms, most, name)
        ratio = np.log(path.b[-1] / exact[-1, :, 3])
        self.assertLess(float(np.abs(ratio).max()), 0.05)

    def test_low_ph_stalls_and_a_rinse_costs_colony(self) -> None:
        par = ensemble(200)
        soft, _ = run(par, entry("dose", 29, mg_n=216.0), days=30, on=tank(ph=5.6))
        usual, _ = run(par, entry("dose", 29, mg_n=216.0), days=30)
        self.assertLess(np.median(soft.end.a), 0.2 * np.median(usual.end.a))
        rinsed, _ = run(par, entry("dose", 29, mg_n=216.0), entry("media", 1, how="tap", share=100), days=30)
        self.assertLess(np.median(rinsed.end.a), 0.7 * np.median(usual.end.a))

    def test_detoxifier_leaves_what_kits_read(self) -> None:
        par = ensemble(20, a_0=1e-6, plants=0.0)
        path, _ = run(par, entry("dose", 2, mg_n=216.0), entry("conditioner", 1, detoxifies=True), days=3)
        np.testing.assert_allclose(path.tan[-2], 2.0, rtol=0.02)
        self.assertGreater(float(path.end.bound.mean()), 0.3)

    def test_rotting_body_feeds_the_water(self) -> None:
        par = ensemble(20, a_0=1e-9, plants=0.0, inputs=1.0)
        arrival = entry("arrival", 9, species="angelfish", count=1, length_cm=10)
        lost, _ = run(par, arrival, entry("death", 8, species="angelfish", count=1, body="not_found"), days=9.5)
        found, _ = run(par, arrival, entry("death", 8, species="angelfish", count=1, body="found"), days=9.5)
        body_mg = 1000 * 0.025 * 0.0175 * 10**3
        np.testing.assert_allclose(total_n(lost.end) - total_n(found.end), 0.8 * body_mg / 108.08, rtol=0.02)


class Envelope(unittest.TestCase):
    """docs/model.md, priors: what tanks do, before any reading."""

    @staticmethod
    def ready_days(entries=(), **changes) -> int:
        t = tank(started=NOW.date(), kh_dkh=8, **changes)
        found = forecast(
            t, numbered(*entries), NOW, REFERENCE, (), Forecasting(members=240, horizon_days=120)
        ).readiness
        return 999 if found.p50 is None else (found.p50 - NOW.date()).days

    def test_unseeded_takes_four_to_six_weeks_and_cold_much_longer(self) -> None:
        warm, cold = self.ready_days(), self.ready_days(temp_c=19)
        self.assertTrue(28 <= warm <= 42, warm)
        self.assertGreater(cold, 1.6 * warm)

    def test_nitrite_goes_last(self) -> None:
        fresh = prepare(
            tank(started=NOW.date(), kh_dkh=8), [], NOW, REFERENCE, Forecasting(members=240, horizon_days=60)
        )
        path = project(fresh, school_plan(fresh)).path
        ammonia, nitrite = (np.median((guild > 2.0).argmax(axis=0)) for guild in (path.a, path.b))
        self.assertGreater(nitrite, ammonia)

    def test_borrowed_media_take_days_to_two_weeks(self) -> None:
        full, little = (
            self.ready_days([entry("bacteria", 0, source="borrowed", share=s)], school="borrowed_media")
            for s in (30, 10)
        )
        self.assertTrue(1 <= full <= little <= 14, (full, little))

    def test_a_live_bottle_takes_up_to_two_weeks_a_dead_one_as_long_as_none(self) -> None:
        t = tank(started=NOW.date(), kh_dkh=8, school="live_culture")
        bottle = numbered(entry("bacteria", 0, source="bottle"))
        found = prepare(t, bottle, NOW, REFERENCE, Forecasting(members=400, horizon_days=90))
        first = first_days(gate_of(found, course_of(found, project(found, school_plan(found)))), 0)
        alive = ndtr(found.par.event_z[0][1]) > SEEDING["bottle"].dead
        self.assertTrue(1 <= np.median(first[alive]) <= 14, np.median(first[alive]))
        self.assertAlmostEqual(np.median(first[~alive]), self.ready_days(), delta=4)

    def test_doses_above_five_stall_nitrite(self) -> None:
        def stubborn(target: float) -> tuple[float, float]:
            """Nitrite after 60 days, and the second guild, of a keeper who doses every four days whatever it reads."""
            doses = [entry("dose", d, mg_n=target * 108.08) for d in (59.7, *range(48, 0, -4))]
            fresh = [test_entry(d, kh="12") for d in range(48, 0, -4)]
            t = tank(started=at(60).date(), kh_dkh=12)
            end = prepare(t, numbered(*doses, *fresh), NOW, REFERENCE, Forecasting(members=240)).past.end
            return float(np.median(end.no2)), float(np.median(end.b))

        usual, heavy = stubborn(2.0), stubborn(6.0)
        self.assertLess(usual[0], 0.25)
        self.assertGreater(heavy[0], 20.0)
        self.assertLess(heavy[1], usual[1])

    def test_low_ph_stalls(self) -> None:
        self.assertGreater(self.ready_days(ph=6.2), 60)


class Conditioning(unittest.TestCase):
    def test_probabilities_of_all_steps_come_to_one(self) -> None:
        kit = tank().kit
        readings = [read("ammonia", f"{s:g}", kit) for s in kit.ammonia.steps]
        for c in (0.0, 0.1, 0.3, 1.4, 7.0, 60.0):
            with self.subTest(c=c):
                total = sum(float(reading_probability(r, np.array([c]))[0]) for r in readings)
                self.assertAlmostEqual(total, 1.0, places=9)

    def test_the_seen_step_is_the_likeliest(self) -> None:
        kit = tank().kit
        for step in (0.5, 2.0, 4.0):
            p = [
                float(reading_probability(read("ammonia", f"{s:g}", kit), np.array([step]))[0])
                for s in kit.ammonia.steps
            ]
            self.assertEqual(kit.ammonia.steps[int(np.argmax(p))], step)

    def test_sampler_finds_a_known_posterior(self) -> None:
        """Prior N(0,1), one observation y = 1.5 with sd 0.5: posterior N(1.2, 0.447)."""
        found = condition(lambda z: -0.5 * ((z[:, 0] - 1.5) / 0.5) ** 2, 4000, 2, np.random.default_rng(1))
        self.assertAlmostEqual(float(found.z[:, 0].mean()), 1.2, delta=0.05)
        self.assertAlmostEqual(float(found.z[:, 0].std()), 0.447, delta=0.05)
        self.assertAlmostEqual(float(found.z[:, 1].std()), 1.0, delta=0.1)


def a_cycle():
    return numbered(
        entry("dose", 22, mg_n=216.0), test_entry(18, ammonia="2", nitrite="0"),
        test_entry(14, ammonia="1", nitrite="1"), test_entry(10, ammonia="0", nitrite="2"),
        entry("dose", 10, mg_n=216.0), test_entry(6, ammonia="0", nitrite="2"), entry("dose", 6, mg_n=216.0),
        test_entry(2, ammonia="0", nitrite="1"), test_entry(0.1, ammonia="0", nitrite="0.25"),
    )  # fmt: skip


class TheForecast(unittest.TestCase):
    def test_the_same_inputs_give_the_same_answer(self) -> None:
        one, two = (forecast(tank(), a_cycle(), NOW, REFERENCE, (), FEW) for _ in range(2))
        np.testing.assert_array_equal(one.bands["capacity"], two.bands["capacity"])
        self.assertEqual(one.readiness, two.readiness)

    def test_the_order_of_the_log_and_when_it_was_written_do_not_matter(self) -> None:
        late = [replace(e, recorded_at=NOW) for e in reversed(a_cycle())]
        one, two = (forecast(tank(), log, NOW, REFERENCE, (), FEW) for log in (a_cycle(), late))
        np.testing.assert_array_equal(one.bands["no2"], two.bands["no2"])

    def test_nothing_later_than_the_date_is_read(self) -> None:
        early = NOW - timedelta(days=8)
        whole = forecast(tank(), a_cycle(), early, REFERENCE, (), FEW)
        cut = forecast(tank(), [e for e in a_cycle() if e.at <= early], early, REFERENCE, (), FEW)
        np.testing.assert_array_equal(whole.bands["no2"], cut.bands["no2"])

    def test_quantiles_are_in_order_and_dates_run_on(self) -> None:
        f = forecast(tank(), a_cycle(), NOW, REFERENCE, (), FEW)
        for name, band in f.bands.items():
            self.assertTrue((np.diff(band, axis=0) >= -1e-12).all(), name)
        self.assertEqual(f.days[f.today], NOW.date())
        self.assertTrue(all((b - a).days == 1 for a, b in zip(f.days, f.days[1:], strict=False)))
        dates = [d for d in (f.readiness.p10, f.readiness.p50, f.readiness.p90) if d]
        self.assertEqual(dates, sorted(dates))

    def test_readings_narrow_and_move_it(self) -> None:
        blind = forecast(tank(), a_cycle()[:1], NOW, REFERENCE, (), Forecasting(members=200))
        told = forecast(tank(), a_cycle(), NOW, REFERENCE, (), Forecasting(members=200))
        self.assertGreater(told.sure, blind.sure)
        width = [np.log(f.band("capacity", 0.9) / max(f.sure, 1e-6)) for f in (blind, told)]
        self.assertLess(width[1], width[0])

    def test_a_cleared_tank_is_ready_and_a_fresh_one_is_not(self) -> None:
        cleared = [
            e
            for k in range(9)
            for e in (entry("dose", 9.9 - k, mg_n=216.0), test_entry(9 - k, ammonia="0", nitrite="0"))
        ]
        hump = [
            entry("dose", 45, mg_n=216.0),
            test_entry(30, ammonia="1", nitrite="2"),
            entry("dose", 24, mg_n=216.0),
            test_entry(20, ammonia="0", nitrite="5"),
        ]
        done = forecast(
            tank(started=at(45).date()), numbered(*hump, *cleared), NOW, REFERENCE, (), Forecasting(members=200)
        )
        self.assertGreater(done.readiness.already, 0.3)  # the transfer error keeps it modest
        fresh = forecast(tank(started=NOW.date()), [], NOW, REFERENCE, (), FEW)
        self.assertLess(fresh.readiness.already, 0.05)
        self.assertEqual(fresh.n_readings, 0)

    def test_more_animals_are_never_safer(self) -> None:
        day = NOW.date() + timedelta(days=10)
        p = []
        for count in (4, 40, 2000):
            batch = Batch(1, "Batch one", day, (Animals("harlequin_rasbora", count),))
            p.append(forecast(tank(), a_cycle(), NOW, REFERENCE, [batch], FEW).batches[0].p_safe)
        self.assertGreaterEqual(p[0], p[1])
        self.assertGreaterEqual(p[1], p[2])
        self.assertLess(p[2], 0.5)

    def test_beyond_the_horizon_nothing_is_said(self) -> None:
        batch = Batch(1, "Batch one", date(2027, 3, 1), (Animals("harlequin_rasbora", 4),))
        self.assertIsNone(forecast(tank(), a_cycle(), NOW, REFERENCE, [batch], FEW).batches[0].p_safe)

    def test_a_reading_that_does_not_fit_is_named_and_wrecks_nothing(self) -> None:
        steady = numbered(
            entry("dose", 6, mg_n=216.0),
            *(test_entry(d, ammonia="2", nitrite="0") for d in (5, 4, 3, 2)),
            test_entry(0.05, ammonia="0", nitrite="0"),
        )
        f = forecast(tank(started=NOW.date() - timedelta(days=6)), steady, NOW, REFERENCE, (), Forecasting(members=200))
        self.assertIn("0", [x.typed for x in f.surprises])
        self.assertTrue(np.isfinite(f.bands["tan"]).all())

    def test_a_record_of_years_is_still_a_quick_window(self) -> None:
        old = tank(started=date(2023, 1, 1))
        stocked = [
            entry("arrival", 400, species="harlequin_rasbora", count=10),
            test_entry(7, ammonia="0", nitrite="0"),
        ]
        f = forecast(old, numbered(*stocked), NOW, REFERENCE, (), FEW)
        self.assertLess(len(f.days), 130)
        self.assertGreater(f.likely, f.load_adult)

    def test_what_if_a_change_lowers_what_comes(self) -> None:
        found = prepare(tank(), a_cycle(), NOW, REFERENCE, FEW)
        still = project(found, FuturePlan(), 5)
        changed = project(found, FuturePlan(changes=((NOW + timedelta(hours=3), 0.5),)), 5)
        k = still.index(NOW + timedelta(days=1))
        self.assertLess(np.median(changed.path.no3[k]), 0.7 * np.median(still.path.no3[k]))

    def test_kept_as_json_and_back(self) -> None:
        batch = Batch(1, "Batch one", NOW.date(), (Animals("kuhli_loach", 6),))
        f = forecast(tank(), a_cycle(), NOW, REFERENCE, [batch], FEW)
        back = from_json(to_json(f))
        np.testing.assert_allclose(back.bands["tan"], f.bands["tan"], rtol=1e-5)
        self.assertEqual(
            (back.readiness.p50, back.days, back.batches[0].planned), (f.readiness.p50, f.days, NOW.date())
        )
        self.assertEqual(to_json(back), to_json(from_json(to_json(back))))
        early = replace(
            f, steps=tuple(replace(x, early=((NOW, 0.2), (NOW + timedelta(hours=2), 0.6))) for x in f.steps)
        )
        early = replace(early, raised=Raised(0.25, 0.5))
        kept = from_json(to_json(early))
        self.assertEqual((kept.steps, kept.raised), (early.steps, early.raised))


class Capacity(unittest.TestCase):
    def test_a_full_day_clears_what_the_rate_allows(self) -> None:
        par = ensemble(1, k_a=0.45, k_b=0.45, transfer=1.0, ph_low=3.0, diffuse=0.0)
        tan, no2 = left_after_day(par, np.array([2.7 / 1.09]), np.array([50.0]), np.array([7.4]), 26.0, 2.0)
        # Monod batch: 1.75 + 0.45 ln(2/0.25) = 2.69 mg/L/day clears 2 to 0.25 in a day
        self.assertAlmostEqual(float(tan[0]), 0.25, delta=0.05)
        self.assertLess(float(no2[0]), 0.1)
        self.assertEqual(QUANTILES[1], 0.10)
