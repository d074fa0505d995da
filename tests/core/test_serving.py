"""The smallest tank for given animals, what forces its size, and what the next one opens."""

from __future__ import annotations

import unittest

from jarbloom.core.animals import serving as v
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.animals.compatibility import case_of, findings
from jarbloom.core.animals.finder import judge
from jarbloom.core.animals.home import home_of
from jarbloom.core.model.species import Animals
from jarbloom.core.vessel.media import AREAL_RATE_G_M2_DAY
from jarbloom.units import Units
from tests.core.test_animals import TODAY
from tests.make import REFERENCE, tank

SPECIES = REFERENCE.species


def serve(minimum: str = "cautious", **animals: int) -> v.Serving:
    here = tank(minimum=minimum)
    case = case_of(home_of(here), [Animals(k, n) for k, n in animals.items()], SPECIES, TODAY, Units())
    return v.serving(case, here, SPECIES, REFERENCE.media)


class Smallest(unittest.TestCase):
    def test_it_serves_and_the_next_smaller_does_not(self) -> None:
        for animals in ({"neon_tetra": 10}, {"angelfish": 4, "bronze_corydoras": 6}, {"oscar": 1}, {"betta": 1}):
            with self.subTest(animals=animals):
                found = serve(**animals)
                assert found.tank is not None
                sizes = [size[0] for size in v.SIZES]
                place = sizes.index(found.tank.length_cm)
                case = case_of(
                    home_of(found.tank), [Animals(k, n) for k, n in animals.items()], SPECIES, TODAY, Units()
                )
                self.assertFalse({f.key for f in findings(case)} & v.OF_SIZE)
                self.assertEqual(bool(found.forced_by), place > 0)
                for key in animals:
                    self.assertGreaterEqual(found.litres, 0.95 * SPECIES[key].min_l_cautious)

    def test_more_animals_never_need_less(self) -> None:
        alone, both = serve(neon_tetra=10), serve(neon_tetra=10, oscar=1)
        self.assertGreater(both.litres, alone.litres)
        self.assertGreater(both.load_mg_n_day, alone.load_mg_n_day)
        self.assertGreater(both.heater_w, alone.heater_w)

    def test_the_experienced_school_is_never_larger(self) -> None:
        for key in ("angelfish", "kribensis", "oscar", "bala_shark"):
            with self.subTest(key=key):
                group = SPECIES[key].group_min
                self.assertLessEqual(serve("experienced", **{key: group}).litres, serve(**{key: group}).litres)

    def test_the_foam_carries_twice_the_grown_load_at_its_lower_figure(self) -> None:
        found = serve(angelfish=4)
        assert found.tank is not None
        load = load_of([Animals("angelfish", 4)], SPECIES, found.tank.temp_c, adult=True).total
        self.assertAlmostEqual(found.load_mg_n_day, load)
        carries = 1000 * AREAL_RATE_G_M2_DAY * found.foam_l * REFERENCE.media["foam"].m2_per_l_low
        self.assertTrue(2 * load <= carries <= 2 * load + 100)

    def test_what_no_size_mends_stays_said(self) -> None:
        self.assertIn("mouth", {f.key for f in serve(oscar=1, neon_tetra=10).remains})
        cold = serve(common_goldfish=2)
        self.assertIn("temp", {f.key for f in cold.remains})

    def test_one_size_up_opens_only_what_did_not_fit(self) -> None:
        found = serve(neon_tetra=10)
        assert found.tank is not None and found.next_size is not None
        self.assertTrue(found.opens)
        neon = [Animals("neon_tetra", 10)]
        here = case_of(home_of(found.tank), neon, SPECIES, TODAY, Units())
        for kind in found.opens[:6]:
            self.assertIn(judge(kind, here, 0.0).stance, ("not here", "not for life"))
