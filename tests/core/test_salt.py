"""Salinity, specific gravity, instruments, mixing: check values, round trips, what stays the same."""

import doctest
import unittest
from dataclasses import replace
from datetime import timedelta

import gsw
from hypothesis import given
from hypothesis import strategies as st

from jarbloom.core.bloom.limits import limits_for
from jarbloom.core.bloom.sample import still
from jarbloom.core.journal.readings import read
from jarbloom.core.model.kit import Kit
from jarbloom.core.model.tank import Instrument, Source, Water
from jarbloom.core.upset.levels import levels
from jarbloom.core.upset.response import respond
from jarbloom.core.water import mixing, salinity
from jarbloom.core.water.ammonia import Limits, unionised_fraction
from jarbloom.core.water.carbonate import MEQ_PER_DKH, carbon_mmol_l, ph_of
from jarbloom.core.water.mixing import MixPart, Wish, blend, litres_for_kh, plan_mix, salt_g
from jarbloom.errors import Refused
from tests.make import NOW, REFERENCE, entry, numbered, tank, test_entry

TODAY = NOW.date()
TAP = Source(7.6, 9.0, 0.0, 2.5, gh_dgh=14.0, tds_mg_l=380.0, phosphate_mg_l=0.4, chlorine="chloramine",
             chlorine_mg_l=0.6, name="Tap")  # fmt: skip
SOFT = Source(6.2, 0.3, 0.0, 0.1, gh_dgh=0.2, tds_mg_l=9.0, phosphate_mg_l=0.0, chlorine="none", name="Osmosis")


class Salinity(unittest.TestCase):
    def test_check_values_and_doctests(self) -> None:
        for s, t, sg in ((35, 25, 1.02637), (30, 25, 1.02259), (35, 20, 1.02661)):
            with self.subTest(s=s, t=t):
                self.assertAlmostEqual(salinity.specific_gravity(s, t), sg, places=5)
        for module in (salinity, mixing):
            self.assertEqual(doctest.testmod(module).failed, 0)

    @given(st.floats(0.1, 42), st.floats(10, 35))
    def test_density_is_that_of_gsw_and_sg_comes_back(self, s: float, t: float) -> None:
        absolute = gsw.SA_from_SP(s, 0, 0, 0)
        self.assertAlmostEqual(salinity.density_kg_l(s, t), gsw.rho_t_exact(absolute, t, 0) / 1000, places=12)
        self.assertAlmostEqual(salinity.salinity_of_sg(salinity.specific_gravity(s, t), t), s, places=6)

    @given(st.floats(1, 42), st.floats(15, 32))
    def test_a_hydrometer_at_its_own_temperature_needs_no_correction(self, s: float, t: float) -> None:
        reading = salinity.specific_gravity(s, t)
        self.assertAlmostEqual(salinity.salinity_by_hydrometer(reading, t, t), s, places=6)

    def test_warm_water_carries_a_hydrometer_less(self) -> None:
        told = salinity.specific_gravity(35.0)
        self.assertGreater(salinity.salinity_by_hydrometer(told, 29.0), 35.5)
        self.assertLess(salinity.salinity_by_hydrometer(told, 20.0), 34.5)

    def test_typed_text_and_the_wrong_unit(self) -> None:
        for typed, g_kg in (("35", 35.0), ("35 g/kg", 35.0), ("34,5 ppt", 34.5), ("0", 0.0), ("1.02637 sg", 35.0),
                            ("SG 1.02637", 35.0), ("1.025 g/kg", 1.025), ("0.999 sg", 0.0)):  # fmt: skip
            with self.subTest(typed=typed):
                self.assertAlmostEqual(salinity.read_salinity(typed).g_kg, g_kg, delta=0.01)
        for typed, said in (
            ("1.025", "looks like a specific gravity"), ("35 sg", "no specific gravity"), ("1.2 sg", "0.99 to 1.06"),
            ("99", "not within"), ("-3", "not a salinity"), ("salty", "not a salinity"), ("nan", "not a salinity"),
        ):  # fmt: skip
            with self.subTest(typed=typed), self.assertRaisesRegex(Refused, said):
                salinity.read_salinity(typed)

    def test_a_reading_keeps_what_was_typed(self) -> None:
        found = read("salinity", "1.026 sg", Kit())
        self.assertEqual(found.typed, "1.026 sg")
        self.assertAlmostEqual(found.seen, 34.5, delta=0.1)
        self.assertTrue(read("salinity", "35 masked", Kit()).masked)


class Instruments(unittest.TestCase):
    def named(self, name: str, days: int | None, kind: str = "refractometer") -> Instrument:
        return Instrument(name, kind, None if days is None else TODAY - timedelta(days=days))

    def test_agreement_and_whom_to_doubt(self) -> None:
        fresh, old, never = self.named("A", 3), self.named("B", 90), self.named("C", None)
        self.assertTrue(salinity.compare(fresh, 35.0, self.named("D", 2), 35.6, TODAY).agree)
        good = salinity.compare(fresh, 35.0, old, 35.4, TODAY)
        self.assertTrue(good.agree and "calibrated 90 days ago" in good.words)
        self.assertAlmostEqual(good.mean_g_kg, 35.2)
        for second, said in ((old, "Doubt B"), (never, "Doubt C"), (self.named("D", 2), "Calibrate both")):
            with self.subTest(second=second.name):
                found = salinity.compare(fresh, 35.0, second, 32.0, TODAY)
                self.assertFalse(found.agree)
                self.assertIn(said, found.words)
        with self.assertRaisesRegex(Refused, "cannot confirm itself"):
            salinity.compare(fresh, 35.0, fresh, 35.0, TODAY)

    def test_coarse_instruments_may_differ_more(self) -> None:
        arm = self.named("Arm", 2, "swing_arm")
        self.assertTrue(salinity.compare(self.named("A", 3), 35.0, arm, 36.8, TODAY).agree)


class Mixing(unittest.TestCase):
    @given(st.floats(0.1, 500), st.floats(0.1, 500))
    def test_what_is_dissolved_is_kept(self, a: float, b: float) -> None:
        made = blend([MixPart(a, TAP), MixPart(b, SOFT)])
        for name in ("kh_dkh", "gh_dgh", "tds_mg_l", "nitrate_mg_n_l", "phosphate_mg_l"):
            whole = a * getattr(TAP, name) + b * getattr(SOFT, name)
            self.assertAlmostEqual(getattr(made, name) * (a + b) / whole, 1.0)
        low, high = sorted((TAP.ph, SOFT.ph))
        self.assertTrue(low - 1e-6 <= made.ph <= high + 1e-6)
        self.assertEqual(made.chlorine, "chloramine")

    def test_carbon_and_alkalinity_of_the_mix_are_those_of_its_parts(self) -> None:
        made = blend([MixPart(30, TAP), MixPart(70, SOFT)])
        carbon = 0.3 * carbon_mmol_l(TAP.ph, 9 * MEQ_PER_DKH) + 0.7 * carbon_mmol_l(SOFT.ph, 0.3 * MEQ_PER_DKH)
        self.assertAlmostEqual(made.ph, ph_of((0.3 * 9 + 0.7 * 0.3) * MEQ_PER_DKH, carbon), places=6)

    def test_chloramine_leaves_a_fifth_of_itself_as_ammonia(self) -> None:
        self.assertAlmostEqual(TAP.brings_mg_n_l, 0.6 * 14.007 / 70.906)
        self.assertEqual(replace(TAP, chlorine="chlorine").brings_mg_n_l, 0.0)
        self.assertEqual(replace(TAP, ammonia_mg_n_l=0.5).brings_mg_n_l, 0.5)
        lv = levels(
            tank(source=TAP), numbered(test_entry(1, ammonia="0"), entry("change", 0.5, litres=54.0)), NOW, Limits()
        )
        assert lv.tan is not None
        self.assertGreater(lv.tan.seen, 0.05)

    def test_litres_for_a_kh(self) -> None:
        hard, soft = litres_for_kh(100, 4.0, TAP, SOFT)
        self.assertAlmostEqual(hard + soft, 100)
        self.assertAlmostEqual((hard * 9 + soft * 0.3) / 100, 4.0)
        self.assertEqual(litres_for_kh(100, 4.0, SOFT, TAP), (soft, hard))
        with self.assertRaises(Refused) as told:
            litres_for_kh(100, 12.0, TAP, SOFT)
        self.assertEqual(told.exception.field, "target_kh")

    def test_bicarbonate_lifts_alkalinity_and_carbon_alike(self) -> None:
        made = mixing.bicarbonate_for(100.0, SOFT, 4.0)
        self.assertAlmostEqual(made.grams, 3.7 * MEQ_PER_DKH * 84.007 / 10, places=6)
        alk = 4.0 * MEQ_PER_DKH
        carbon = carbon_mmol_l(SOFT.ph, 0.3 * MEQ_PER_DKH) + 3.7 * MEQ_PER_DKH
        self.assertAlmostEqual(carbon_mmol_l(made.ph, alk), carbon, places=3)
        self.assertEqual(mixing.bicarbonate_for(100.0, TAP, 9.0).grams, 0.0)
        with self.assertRaisesRegex(Refused, "only raises"):
            mixing.bicarbonate_for(100.0, TAP, 5.0)

    def test_salt_makes_the_salinity_and_a_last_mix_the_factor(self) -> None:
        self.assertAlmostEqual(salt_g(100.0, 35.0), 3582, delta=1)  # of finished water at 25 deg C
        grams = salt_g(10.0, 35.0, 1.0)
        self.assertAlmostEqual(grams / (10.0 * salinity.density_kg_l(35.0, 25.0)), 35.0, places=6)  # g a kg, all of it
        self.assertAlmostEqual(mixing.factor_from_mix(grams * 1.07, 10.0, 35.0), 1.07)
        self.assertAlmostEqual(salt_g(10.0, 35.0, 1.0, 25.0, 20.0) + salt_g(10.0, 20.0), grams)
        for litres, reached, said in ((10.0, 0.0, "needed"), (100.0, 35.0, "between 0.9 and 1.3")):
            with self.subTest(litres=litres), self.assertRaisesRegex(Refused, said):
                mixing.factor_from_mix(grams, litres, reached)
        with self.assertRaisesRegex(Refused, "more salt in it already"):
            salt_g(10.0, 20.0, has_g_kg=30.0)

    def test_plans(self) -> None:
        tap, soft = Water("Tap", "tap", TAP, id=1), Water("Osmosis", "ro", SOFT, id=2)
        rows = (
            (Wish(100, 1, 2, target_kh=4.0), {"Tap", "Osmosis"}, False, 4.0),
            (Wish(100, 1, 2, share_second=1.0), {"Osmosis"}, False, 0.3),
            (Wish(100, 2, target_kh=4.0), {"Osmosis"}, True, 4.0),
            (Wish(100, 1, 2, target_kh=12.0), {"Tap"}, True, 12.0),
            (Wish(100, 1, 2), {"Tap", "Osmosis"}, False, 4.65),
        )
        for wish, names, buffered, kh in rows:
            waters = {1: tap, 2: soft}
            with self.subTest(wish=wish):
                made = plan_mix(wish, waters[wish.first], waters.get(wish.second or 0), 1.05)
                self.assertEqual({w.name for w, _ in made.parts}, names)
                self.assertAlmostEqual(sum(v for _, v in made.parts), 100)
                self.assertEqual(made.buffer is not None, buffered)
                self.assertAlmostEqual(made.source.kh_dkh, kh, places=2)
        with self.assertRaisesRegex(Refused, "how many"):
            plan_mix(Wish(0, 1), tap, None, 1.05)
        self.assertGreater(plan_mix(Wish(10, 2, salinity_g_kg=35.0), soft, None, 1.05).salt_g, 375)


class SaltedChanges(unittest.TestCase):
    def test_salt_brings_its_own_alkalinity_to_a_change(self) -> None:
        sea = tank(salinity_g_kg=35.0, ph=8.1, kh_dkh=8.0, source=SOFT)
        self.assertEqual((sea.refill.ph, sea.refill.kh_dkh), (8.1, 8.0))
        self.assertEqual(sea.refill.nitrate_mg_n_l, SOFT.nitrate_mg_n_l)
        self.assertEqual(tank(source=SOFT).refill, SOFT)
        lv = levels(sea, numbered(test_entry(0.1, ammonia="4", nitrite="0", ph="8.1")), NOW, Limits())
        plan = respond(sea, lv, still(61), REFERENCE.schools.corrective["firm"], NOW)
        self.assertTrue(plan.changes)
        self.assertAlmostEqual(plan.changes[0].ph_after, 8.1, delta=0.01)


class FreeAmmonia(unittest.TestCase):
    def test_one_function_for_both_waters(self) -> None:
        self.assertAlmostEqual(float(unionised_fraction(8.0, 25)), 0.0537, delta=0.0005)
        self.assertAlmostEqual(float(unionised_fraction(8.1, 25, 35)), 0.050, delta=0.0015)

    def test_the_upset_desk_uses_the_salinity(self) -> None:
        log = numbered(test_entry(0.1, ammonia="1", nitrite="0", ph="8.2"))
        fresh = levels(tank(), log, NOW, Limits())
        salt = levels(tank(salinity_g_kg=35.0), log, NOW, Limits())
        assert fresh.nh3 and salt.nh3
        self.assertLess(salt.nh3.seen, fresh.nh3.seen)
        read_salt = numbered(*log, test_entry(0.2, salinity="35"))
        self.assertEqual(levels(tank(), read_salt, NOW, Limits()).salinity_g_kg, 35.0)

    def test_marine_nitrite_by_school(self) -> None:
        sea = tank(salinity_g_kg=35.0)
        self.assertEqual(limits_for((), REFERENCE, sea).no2, 0.25)
        self.assertEqual(limits_for((), REFERENCE, replace(sea, marine_nitrite="tolerated")).no2, 2.5)
        self.assertEqual(limits_for((), REFERENCE, replace(tank(), marine_nitrite="tolerated")).no2, 0.25)
