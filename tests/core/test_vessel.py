"""Volume, weight, heat, oxygen: against independent integration, balances and known figures."""

import doctest
import unittest
from dataclasses import replace

import gsw
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Decor, Filter, Heater, Tank
from jarbloom.core.setup.equipment import check_filters, equipment, topped_l_day
from jarbloom.core.vessel import heat
from jarbloom.core.vessel.media import ceiling_mg_n_day, clears_at_most_mg_n_day, useful_surface_m2
from jarbloom.core.vessel.shapes import SHAPES, has_shape, inner, inner_height_cm, outer
from jarbloom.core.vessel.volume import (
    check_geometry,
    floor_load_kg_m2,
    geometric_net_l,
    net_l,
    substrate_at_cm,
    vessel,
    weight_kg,
)
from jarbloom.core.water import oxygen
from jarbloom.errors import Refused
from tests.make import NOW, REFERENCE, at, entry, tank

SIZES = {"length_cm": 80.0, "width_cm": 40.0, "height_cm": 50.0, "bow_cm": 9.0}
CELLS = 900  # of the grid, along each side


def shaped(shape: str, **changes) -> Tank:
    plain = {
        "shape": shape, "waterline_cm": 4.0, "substrate": "sand", "substrate_cm": 3.0, "substrate_back_cm": 9.0,
        "filters": (), "glass_mm": 10.0,
    }  # fmt: skip
    return tank(**SIZES | plain | changes)


def is_inside(shape: str, x, y, t: float):
    """The water seen from above as inequalities, written from the geometry and not from the outlines. y runs from the
    front; t is the glass that is taken off outside sizes."""
    length, width, bow = SIZES["length_cm"], SIZES["width_cm"], SIZES["bow_cm"]
    r = length / 2
    match shape:
        case "box":
            return (x > t) & (x < length - t) & (y > t) & (y < width - t)
        case "cylinder":
            return np.hypot(x - r, y - r) < r - t
        case "half_cylinder":
            return (np.hypot(x - r, y - r) < r - t) & (y < r - t)
        case "bow_front":
            big = (r * r + bow * bow) / (2 * bow)
            across = (x > t) & (x < length - t) & (y < width + bow - t)
            return across & ((np.hypot(x - r, y - big) < big - t) | (y > big))
        case "hexagon":
            apothem = np.sqrt(3) * r / 2
            turned = [
                abs((x - r) * np.sin(a) + (y - apothem) * np.cos(a)) < apothem - t for a in (0, np.pi / 3, -np.pi / 3)
            ]
            return turned[0] & turned[1] & turned[2]
        case "quarter_round":
            return (np.hypot(x, length - y) < length - t) & (x > t) & (y < length - t)
    raise AssertionError(shape)


def integrated(t: Tank) -> tuple[float, float]:
    """(gross, net) litres by adding up cells, with the bed as a ramp from front to back."""
    glass = t.glass_mm / 10 if t.outside else 0.0
    side = max(SIZES["length_cm"], SIZES["width_cm"] + SIZES["bow_cm"]) + 1
    step = side / CELLS
    x, y = np.meshgrid((np.arange(CELLS) + 0.5) * step, (np.arange(CELLS) + 0.5) * step)
    mask = is_inside(t.shape, x, y, glass)
    near, far = y[mask].min() - step / 2, y[mask].max() + step / 2
    bed = t.substrate_cm + (y - near) / (far - near) * ((t.substrate_back_cm or t.substrate_cm) - t.substrate_cm)
    height = SIZES["height_cm"] - glass
    cell = step * step / 1000
    return float(mask.sum() * height * cell), float(((height - t.waterline_cm - 0.6 * bed) * mask).sum() * cell)


class Volume(unittest.TestCase):
    def test_every_shape_is_within_half_a_percent_of_adding_up_cells(self) -> None:
        for shape in SHAPES:
            for outside in (False, True):
                t = shaped(shape, outside=outside)
                gross, net = integrated(t)
                with self.subTest(shape=shape, outside=outside):
                    self.assertAlmostEqual(vessel(t).gross_l / gross, 1.0, delta=0.005)
                    self.assertAlmostEqual(net_l(t) / net, 1.0, delta=0.005)

    def test_known_areas(self) -> None:
        r = SIZES["length_cm"] / 2
        for shape, area in (
            ("cylinder", np.pi * r * r), ("half_cylinder", np.pi * r * r / 2), ("quarter_round", np.pi * r * r),
            ("hexagon", 1.5 * np.sqrt(3) * r * r), ("box", 80 * 40),
        ):  # fmt: skip
            with self.subTest(shape=shape):
                self.assertAlmostEqual(inner(shaped(shape)).area_cm2 / area, 1.0, places=3)

    def test_far_more_water_than_the_sizes_hold_means_a_larger_box(self) -> None:
        box = shaped("box")
        holds = geometric_net_l(box)
        plain = heat.areas(box).surface
        self.assertAlmostEqual(heat.areas(replace(box, measured_l=1.2 * holds)).surface, plain)
        self.assertAlmostEqual(heat.areas(replace(box, measured_l=8 * holds)).surface / plain, 4.0)

    def test_glass_makes_the_footprint_larger_or_the_water_smaller(self) -> None:
        for shape in SHAPES:
            inside, outside = shaped(shape), shaped(shape, outside=True)
            with self.subTest(shape=shape):
                self.assertAlmostEqual(inner(inside).area_cm2, outer(outside).area_cm2)
                self.assertGreater(outer(inside).area_cm2, inner(inside).area_cm2)
                self.assertLess(net_l(outside), net_l(inside))
                self.assertEqual(inner_height_cm(outside), 49.0)

    @given(st.floats(0, 12), st.floats(0, 12))
    def test_a_slope_holds_as_much_as_its_mean_in_a_box(self, front: float, back: float) -> None:
        sloped = shaped("box", substrate_cm=front, substrate_back_cm=back)
        level = shaped("box", substrate_cm=(front + back) / 2, substrate_back_cm=None)
        self.assertAlmostEqual(net_l(sloped), net_l(level))
        self.assertAlmostEqual(substrate_at_cm(sloped, 0.0), front)
        self.assertAlmostEqual(substrate_at_cm(sloped, 40.0), back)

    def test_what_stands_in_the_water_takes_its_litres_and_a_sump_adds_them(self) -> None:
        bare = shaped("box")
        rocky = replace(bare, decor=(Decor("stone", 26.0), Decor("wood", 2.0, "L")), sump_l=30.0)
        self.assertAlmostEqual(net_l(bare) - net_l(rocky), 10 + 2 - 30)
        self.assertAlmostEqual(net_l(replace(rocky, filters=(Filter(water_l=4.0),))) - net_l(rocky), 4.0)
        self.assertEqual(net_l(replace(rocky, measured_l=99.0)), 99.0)
        self.assertAlmostEqual(geometric_net_l(replace(rocky, measured_l=99.0)), net_l(rocky))
        # the sump stands beside: its water is not on this footprint
        self.assertAlmostEqual(weight_kg(rocky), weight_kg(replace(rocky, sump_l=0.0)))
        self.assertAlmostEqual(weight_kg(rocky) - weight_kg(bare), 26 + 1.8 - 12)
        self.assertAlmostEqual((floor_load_kg_m2(bare) or 0) * vessel(bare).footprint_m2, weight_kg(bare))

    def test_a_filled_tank_weighs_what_the_cautions_say(self) -> None:
        """1.2 to 1.5 kg for each litre with stand and stone (docs/safety.md); here without the stand."""
        for shape in SHAPES:
            t = shaped(shape, decor=(Decor("stone", 8.0),))
            with self.subTest(shape=shape):
                self.assertTrue(1.1 < weight_kg(t) / net_l(t) < 1.7, weight_kg(t) / net_l(t))

    def test_impossible_geometry_names_its_field(self) -> None:
        rows = (
            ({"waterline_cm": 50.0}, "waterline_cm"),
            ({"waterline_cm": 49.5, "outside": True}, "waterline_cm"),
            ({"substrate_cm": 46.0}, "substrate_cm"),
            ({"substrate_back_cm": 46.5}, "substrate_back_cm"),
            ({"outside": True, "glass_mm": 250.0}, "glass_mm"),
            ({"decor": (Decor("stone", 900.0),)}, "stone"),
            ({"measured_l": 200.0}, "measured_l"),
        )
        for changes, field in rows:
            with self.subTest(changes=changes), self.assertRaises(Refused) as told:
                check_geometry(shaped("box", **changes))
            self.assertEqual(told.exception.field, field)
        for bow in (0.0, 41.0):
            with self.subTest(bow=bow), self.assertRaises(Refused) as told:
                check_geometry(shaped("bow_front", bow_cm=bow))
            self.assertEqual(told.exception.field, "bow_cm")

    def test_a_shape_is_known_only_with_all_its_sizes(self) -> None:
        for shape, row in SHAPES.items():
            for name in row.needs:
                with self.subTest(shape=shape, without=name):
                    self.assertFalse(has_shape(shaped(shape, **{name: None})))
            rest = {n: None for n in SIZES if n not in row.needs}
            self.assertTrue(has_shape(shaped(shape, **rest)))

    def test_surfaces_of_all_filters_and_of_porous_rock_count(self) -> None:
        media = REFERENCE.media
        bare = shaped("cylinder")
        two = replace(bare, filters=(Filter("a", media="foam", media_l=1), Filter("b", media="ceramic", media_l=2)))
        self.assertAlmostEqual(useful_surface_m2(two, media) - useful_surface_m2(bare, media), 0.8 + 2 * 1.0)
        rocky = replace(bare, decor=(Decor("reef_rock", 10.0),))
        self.assertAlmostEqual(useful_surface_m2(rocky, media) - useful_surface_m2(bare, media), 3.0)
        self.assertAlmostEqual(ceiling_mg_n_day(two, media), 200 * useful_surface_m2(two, media))
        self.assertAlmostEqual(clears_at_most_mg_n_day(replace(bare, filters=(Filter(nominal_l_h=100),)), 0.25), 600)


class Heat(unittest.TestCase):
    def test_doctests_of_the_formulas(self) -> None:
        for module in (heat, oxygen):
            with self.subTest(module=module.__name__):
                result = doctest.testmod(module)
                self.assertEqual((result.failed, result.attempted > 0), (0, True))

    def test_the_power_needed_is_the_power_that_settles_there(self) -> None:
        for lid in (True, False):
            t = tank(room_c=18.0, lid=lid)
            with self.subTest(lid=lid):
                self.assertAlmostEqual(heat.settles_at_c(t, heat.needed_w(t)), t.temp_c, places=3)
        self.assertEqual(heat.needed_w(tank(room_c=30.0, room_rh=95.0)), 0.0)
        self.assertLess(heat.needed_w(tank(lid=True)), heat.needed_w(tank(lid=False)))

    def test_watts_by_hand(self) -> None:
        """A box of 80 x 35 x 45 cm, 4 cm below its rim, 4 K above a room whose air takes up nothing more (saturated at
        the water's own vapour pressure is never reached, so the latent part is reckoned beside it).

        Sides 2 (0.80 + 0.35) 0.41 = 0.943 m2 at 7, bottom 0.28 at 2, under a lid 0.28 at 3 W/m2 K: 8.001 W/K.
        """
        t = tank(temp_c=26.0, room_c=22.0, room_rh=50.0, lid=True, waterline_cm=4)
        latent = 680.0 * 0.02 * 0.28 * (3.3634 - 0.5 * 2.6453)  # kPa over water of 26 and 22 degrees, by the tables
        self.assertAlmostEqual(heat.needed_w(t), 4 * 8.001 + latent, delta=0.3)
        open_top = tank(temp_c=26.0, room_c=22.0, room_rh=50.0, lid=False, waterline_cm=4)
        latent = 680.0 * 0.1 * 0.28 * (3.3634 - 0.5 * 2.6453)
        self.assertAlmostEqual(heat.needed_w(open_top), 4 * (8.001 + 0.84) + latent, delta=0.5)

    def test_evaporation_of_the_notes(self) -> None:
        self.assertAlmostEqual(heat.evaporation_l_day(0.28, 25, 21, 50, False), 1.3, delta=0.05)
        self.assertEqual(heat.evaporation_l_day(0.28, 15, 25, 90, False), 0.0)

    def test_curves_begin_at_the_target_and_end_where_they_settle(self) -> None:
        t = tank(heaters=(Heater(150.0),), room_c=20.0)
        stuck, dead = heat.failures(t)
        for f in (stuck, dead):
            with self.subTest(f=f.name):
                self.assertEqual(f.temps_c[0], t.temp_c)
                self.assertAlmostEqual(f.temps_c[-1], f.settles_c, delta=0.6)
        self.assertTrue(np.all(np.diff(stuck.temps_c) >= 0) and np.all(np.diff(dead.temps_c) <= 0))
        self.assertIsNotNone(stuck.hours_to_limit)
        hour = int((stuck.hours_to_limit or 0) / heat.CURVE_STEP_H)
        self.assertTrue(stuck.temps_c[hour] >= stuck.limit_c > stuck.temps_c[hour - 1])

    def test_energy_is_kept_over_a_step(self) -> None:
        t = tank(heaters=(Heater(150.0),))
        f = heat.failures(t)[0]
        stored = heat.heat_capacity_j_k(t) * (f.temps_c[1] - f.temps_c[0])
        given = (150.0 - heat.loss_w(t, float(f.temps_c[0]))) * 3600 * heat.CURVE_STEP_H
        self.assertAlmostEqual(stored / given, 1.0)

    def test_two_heaters_cook_less_and_chill_less_than_one(self) -> None:
        one = heat.failures(tank(heaters=(Heater(150.0),)))
        two = heat.failures(tank(heaters=(Heater(75.0), Heater(75.0))))
        self.assertLess(two[0].settles_c, one[0].settles_c)
        self.assertGreater(two[1].settles_c, one[1].settles_c)
        self.assertEqual(heat.failures(tank(heaters=())), ())

    def test_salt_climbs_while_nothing_is_topped_up(self) -> None:
        self.assertEqual(heat.topoff_drift_g_kg_day(tank()), 0.0)
        t = tank(salinity_g_kg=35.0, lid=False)
        lost = heat.evaporation_l_day(0.28, t.temp_c, t.room_c, t.room_rh, False)
        kept = 35.0 * net_l(t)  # the salt stays
        self.assertAlmostEqual(35.0 + heat.topoff_drift_g_kg_day(t), kept / (net_l(t) - lost))

    def test_a_tank_known_by_its_litres_only_has_heat_too(self) -> None:
        bare = tank(length_cm=None, width_cm=None, height_cm=None, measured_l=108.0)
        self.assertAlmostEqual(heat.needed_w(bare) / heat.needed_w(tank()), 1.0, delta=0.5)


class Oxygen(unittest.TestCase):
    @given(st.floats(2, 35), st.floats(0, 40))
    def test_saturation_is_that_of_gsw(self, temp: float, salinity: float) -> None:
        salt = gsw.SA_from_SP(salinity, 0, 0, 0) if salinity else 0.0
        whole = gsw.O2sol_SP_pt(salinity, temp) * 31.998e-6 * gsw.rho_t_exact(salt, temp, 0)
        self.assertAlmostEqual(oxygen.saturation_mg_l(temp, salinity), float(whole), places=9)

    def test_known_saturations(self) -> None:
        self.assertAlmostEqual(oxygen.saturation_mg_l(25), 8.27, delta=0.02)
        self.assertAlmostEqual(oxygen.saturation_mg_l(25, 35), 6.77, delta=0.02)

    def test_what_is_taken_is_what_comes_in(self) -> None:
        night = oxygen.by_night(100, 60, 2.0, 0.28, "rippled", 25)
        supply = 1000 * 1.5 * 0.28 * (night.saturation - night.predicted)
        self.assertAlmostEqual(supply, night.fish + night.nitrification + night.heterotrophs)
        self.assertAlmostEqual(night.fish, 100 * 0.3 * 24)
        self.assertGreater(oxygen.by_night(100, 60, 2.0, 0.28, "broken", 25).predicted, night.predicted)
        self.assertEqual(oxygen.by_night(9000, 60, 2.0, 0.28, "still", 25).predicted, 0.0)
        self.assertAlmostEqual(oxygen.by_night(100, 60, 2, 0.28, "rippled", 35).fish / night.fish, 2.0)


class Equipment(unittest.TestCase):
    def test_all_of_it_for_one_tank(self) -> None:
        two = (Filter("a", "canister", 600, 0.6, "foam", 2), Filter("b", "sponge", 200, 0.5, "foam", 0.5))
        e = equipment(tank(filters=two), [Animals("guppy", 10)], REFERENCE)
        self.assertAlmostEqual(e.turnover_per_h, 460 / net_l(tank()))
        self.assertEqual([round(w.flow_l_h) for w in e.filters], [360, 100])
        self.assertAlmostEqual(sum(w.ceiling_mg_n_day for w in e.filters), 200 * 2.5 * 0.8)
        assert e.night is not None
        self.assertLess(e.night.predicted, e.night.saturation)
        self.assertIsNone(equipment(tank(), (), REFERENCE).night)

    def test_two_filters_of_one_name_are_refused_at_the_second(self) -> None:
        with self.assertRaises(Refused) as told:
            check_filters(tank(filters=(Filter("Sponge"), Filter("sponge "))))
        self.assertEqual(told.exception.field, "filter2_name")

    def test_top_offs_tell_the_real_evaporation(self) -> None:
        tops = [entry("topoff", d, litres=2.0) for d in (10, 8, 6, 4)]
        self.assertAlmostEqual(topped_l_day(tops) or 0, 1.0)
        self.assertIsNone(topped_l_day(tops[:2]))
        self.assertIsNone(topped_l_day([replace(t, at=at(1)) for t in tops]))
        self.assertEqual(NOW.tzinfo, tops[0].at.tzinfo)
