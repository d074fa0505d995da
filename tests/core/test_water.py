"""Chemistry against published check values and exact laws."""

import doctest
import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from jarbloom import units
from jarbloom.core.animals import bioload
from jarbloom.core.water import ammonia, carbonate, dilution, recipes
from jarbloom.errors import Refused


class CheckValues(unittest.TestCase):
    def test_unionised_share_in_fresh_water(self) -> None:
        for ph, temp, percent in ((7.0, 25, 0.564), (8.0, 25, 5.37), (7.5, 20, 1.24)):
            with self.subTest(ph=ph, temp=temp):
                share = 100 * float(ammonia.unionised_fraction(ph, temp))
                self.assertAlmostEqual(share / percent, 1.0, delta=0.01)

    def test_unionised_share_in_sea_water(self) -> None:
        self.assertAlmostEqual(float(ammonia.unionised_fraction(8.1, 25, 35)), 0.050, delta=0.0015)

    def test_fresh_and_salt_meet(self) -> None:
        """No jump on the way from fresh to sea water, and never less free ammonia at less salt."""
        salts = [k / 50 for k in range(2001)]
        shares = [float(ammonia.unionised_fraction(8.1, 25, s)) for s in salts]
        for s, a, b in zip(salts[5:], shares[5:], shares[6:], strict=False):
            with self.subTest(salinity=s):
                self.assertLess(abs(b / a - 1), 0.005)
        self.assertLess(shares[50] / shares[0], 1.0)  # 1 g/kg: less than fresh by activity, by no more than 10 %
        self.assertGreater(shares[50] / shares[0], 0.90)
        self.assertEqual(float(ammonia.meter_offset(0.0)), 0.0)

    def test_how_much_meters_differ_in_sea_water_is_carried(self) -> None:
        least, most = ammonia.unionised_range(8.1, 25, 35)
        self.assertLess(least, float(ammonia.unionised_fraction(8.1, 25, 35)))
        self.assertGreater(most, float(ammonia.unionised_fraction(8.1, 25, 35)))
        self.assertAlmostEqual(most / least, 10 ** (0.124 * 0.7), delta=0.02)
        self.assertEqual(*ammonia.unionised_range(8.1, 25, 0))

    def test_epa_criteria(self) -> None:
        self.assertAlmostEqual(ammonia.epa_acute_tan(7.0, 20), 17, delta=0.5)
        self.assertAlmostEqual(ammonia.epa_chronic_tan(7.0, 20), 1.9, delta=0.05)

    def test_bands_and_sensitive_animals(self) -> None:
        rows = (
            (0.009, "usual", "fine"),
            (0.015, "usual", "watch"),
            (0.015, "sensitive", "harm"),
            (0.03, "usual", "harm"),
            (0.1, "usual", "act"),
            (0.5, "usual", "act_now"),
            (0.11, "sensitive", "act_now"),
        )
        for value, sense, key in rows:
            with self.subTest(value=value, sense=sense):
                self.assertEqual(ammonia.band(value, ammonia.NH3_BANDS, sense).key, key)
        self.assertEqual(ammonia.Limits.for_animals("sensitive", "usual"), ammonia.Limits(0.01, 0.25))

    def test_doctests_of_the_formulas(self) -> None:
        for module in (ammonia, carbonate, dilution, recipes, bioload, units):
            with self.subTest(module=module.__name__):
                result = doctest.testmod(module)
                self.assertEqual((result.failed, result.attempted > 0), (0, True))


class Dilution(unittest.TestCase):
    def test_mass_is_kept(self) -> None:
        for before, f, source in ((2.0, 0.5, 0.0), (2.0, 0.3, 1.0), (0.1, 0.25, 0.5)):
            with self.subTest(before=before, f=f):
                self.assertAlmostEqual(dilution.after_change(before, f, source), before - f * (before - source))

    @given(st.floats(0, 10), st.floats(0, 5))
    def test_many_small_changes_become_a_drip(self, before: float, volumes: float) -> None:
        c, n = before, 4000
        for _ in range(n):
            c = dilution.after_change(c, volumes / n)
        self.assertAlmostEqual(c, before * math.exp(-volumes), delta=0.01)


class Carbonate(unittest.TestCase):
    def test_constants_against_print(self) -> None:
        """Dickson, Sabine & Christian 2007, ch. 5, at S 35 and 25 deg C, on the total scale: within 0.015."""
        sea = carbonate.constants(25, 35)
        for name, value, printed in (("k1", sea.k1, 5.8472), ("k2", sea.k2, 8.9660), ("kb", sea.kb, 8.5975),
                                     ("kw", sea.kw, 13.217)):  # fmt: skip
            with self.subTest(constant=name):
                self.assertAlmostEqual(-math.log10(value), printed, delta=0.015)

    def test_sea_water_mixes_by_its_own_constants(self) -> None:
        """2.3 meq/L at pH 8.1 (meter) and 25 deg C holds about 2.0 mmol/L of carbon; fresh water would hold 2.3."""
        sea = carbonate.constants(25, 35)
        self.assertAlmostEqual(carbonate.carbon_mmol_l(8.22, 2.3, sea), 1.98, delta=0.04)
        mixed = [carbonate.mixed_ph(7.8, 7, 8.3, 8, 0.5, water) for water in (carbonate.constants(), sea)]
        self.assertGreater(mixed[1] - mixed[0], 0.05)

    @given(st.floats(5.5, 9.5), st.floats(0.3, 6))
    def test_ph_comes_back_from_its_carbon(self, ph: float, alk: float) -> None:
        self.assertAlmostEqual(carbonate.ph_of(alk, carbonate.carbon_mmol_l(ph, alk)), ph, places=3)

    @given(st.floats(6, 8.5), st.floats(1, 15), st.floats(6, 8.5), st.floats(1, 15), st.floats(0, 1))
    def test_a_mixture_of_equals_stays_and_ends_are_its_ends(
        self, ph1: float, kh1: float, ph2: float, kh2: float, f: float
    ) -> None:
        self.assertAlmostEqual(carbonate.mixed_ph(ph1, kh1, ph1, kh1, f), ph1, places=3)
        self.assertAlmostEqual(carbonate.mixed_ph(ph1, kh1, ph2, kh2, 1.0), ph2, places=3)

    def test_no_hardness_takes_the_worse_end(self) -> None:
        self.assertEqual(carbonate.mixed_ph(6.5, 0.0, 7.9, 0.0, 0.5), 7.9)


class Recipes(unittest.TestCase):
    def test_the_dose_of_both_sources_holds_the_nitrogen(self) -> None:
        for source in ("chloride", "solution"):
            dose = recipes.dose_for(224.0, source, 9.5)
            held = (
                recipes.nitrogen_in_chloride_mg(dose.amount)
                if source == "chloride"
                else recipes.nitrogen_in_solution_mg(dose.amount, 9.5)
            )
            with self.subTest(source=source):
                self.assertAlmostEqual(held, 224.0)

    def test_household_ammonia(self) -> None:
        # 1 mL of 10 % solution weighs 0.958 g and holds 95.8 mg NH3, 78.8 mg N
        self.assertAlmostEqual(recipes.nitrogen_in_solution_mg(1.0, 10.0), 78.8, delta=0.1)
        with self.assertRaises(Refused):
            recipes.nitrogen_in_solution_mg(1.0, 60.0)

    def test_refill_mixes_to_the_tank(self) -> None:
        mix = recipes.refill(48, 96, 25.0, 12.0, 52.0, 20.0, False)
        self.assertAlmostEqual(mix.hot_l + mix.cold_l, 48)
        self.assertAlmostEqual((mix.hot_l * 52 + mix.cold_l * 12) / 48, 25.0)
        self.assertAlmostEqual(mix.conditioner_ml or 0, 9.6)
        self.assertAlmostEqual(recipes.refill(48, 96, 25, 12, 52, 20.0, True).conditioner_ml or 0, 19.2)

    def test_a_cool_hot_tap_says_what_the_tank_loses(self) -> None:
        mix = recipes.refill(50, 100, 26.0, 10.0, 20.0, None, False)
        self.assertEqual((mix.hot_l, mix.conditioner_ml), (50, None))
        self.assertAlmostEqual(mix.step_c, -3.0)


class Units(unittest.TestCase):
    @given(st.floats(-50, 5000))
    def test_there_and_back(self, value: float) -> None:
        for dimension, unit in (
            ("volume", "gal"),
            ("length", "in"),
            ("temp", "°F"),
            ("flow", "gal/h"),
            ("dosage", "mL per 10 gal"),
        ):
            back = units.shown(units.canonical(value, unit, dimension), unit, dimension)
            self.assertAlmostEqual(back, value, delta=1e-6)

    def test_the_factors_of_print(self) -> None:
        """NIST SP 811, appendix B.8; CaCO3 by its German degree, 17.848 mg/L."""
        rows = (
            (1, "gal", "volume", 3.785412), (10, "gal", "volume", 37.85412), (250, "mL", "volume", 0.25),
            (1, "gal/h", "flow", 3.785412), (300, "gal/h", "flow", 1135.624), (1, "in", "length", 2.54),
            (8, "mm", "length", 0.8), (1, "oz", "mass", 28.34952), (500, "mg", "mass", 0.5),
            (1, "lb", "weight", 0.4535924), (22, "lb", "weight", 9.979032),
            (5, "mL per 10 gal", "dosage", 13.20860), (100, "ppm", "hardness", 5.602869),
            (32, "°F", "temp", 0.0), (212, "°F", "temp", 100.0),
        )  # fmt: skip
        for value, unit, dimension, canonical in rows:
            with self.subTest(unit=unit, dimension=dimension):
                self.assertAlmostEqual(
                    units.canonical(value, unit, dimension), canonical, delta=1e-6 * canonical + 1e-9
                )

    def test_what_the_keeper_reads(self) -> None:
        us, metric = units.Units("us"), units.Units()
        rows = (
            ((us.volume(100), us.text(1000, "flow"), us.text(10, "weight")), ("26 gal", "264 gal/h", "22 lb")),
            ((us.text(10, "dosage"), us.length(80), us.temp(25)), ("3.79 mL per 10 gal", "31.5 in", "77 °F")),
            ((metric.volume(100), metric.text(1000, "flow"), metric.text(10, "dosage")),
             ("100 L", "1000 L/h", "10 mL per 100 L")),
        )  # fmt: skip
        for told, wanted in rows:
            self.assertEqual(tuple(t.replace(units.NBSP, " ") for t in told), wanted)

    def test_known_values(self) -> None:
        self.assertAlmostEqual(units.canonical(77, "°F", "temp"), 25)
        self.assertAlmostEqual(units.canonical(10, "gal", "volume"), 37.85411784)
        self.assertEqual(units.Units("us").volume(112), "30\u00a0gal")
        self.assertEqual(units.Units().temp(24.94), "24.9\u00a0°C")

    def test_numbers_are_refused_with_their_value(self) -> None:
        for text in ("", "abc", "nan", "inf", "1e999", "--1"):
            with self.subTest(text=text), self.assertRaises(Refused):
                units.number(text)
        self.assertEqual(units.number("0,25"), 0.25)
        with self.assertRaisesRegex(Refused, "too high"):
            units.number("12", high=10)
