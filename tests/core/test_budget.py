"""What a stocking brings: nitrate and water changes as mass balance, the keeper's own rhythm, zones."""

from __future__ import annotations

import doctest
import unittest

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.model.kit import MG_PER_MG_N
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking import budget as b
from jarbloom.core.vessel.volume import net_l
from tests.make import NOW, REFERENCE, entry, numbered, tank

SPECIES = REFERENCE.species
FISH = [Animals("neon_tetra", 10), Animals("bronze_corydoras", 6)]


def look(*entries, animals=FISH, on=None):
    return b.budget(on or tank(), animals, numbered(*entries), SPECIES, NOW)


class Nitrate(unittest.TestCase):
    def test_doctests(self) -> None:
        self.assertEqual(doctest.testmod(b).failed, 0)

    def test_all_nitrogen_ends_as_nitrate(self) -> None:
        found, litres = look(), net_l(tank())
        per_week = found.nitrate_week / MG_PER_MG_N["NO3"] * litres
        self.assertAlmostEqual(per_week, 7 * load_of(FISH, SPECIES, tank().temp_c, adult=True).total)

    def test_changing_week_by_week_ends_where_it_is_said_to(self) -> None:
        source, rise, share = 4.0, 6.0, 0.3
        level = 80.0
        for _ in range(200):
            level = level * (1 - share) + source * share + rise
        self.assertAlmostEqual(level, b.settles_at(source, rise, share))

    def test_the_needed_share_ends_at_the_limit_or_is_none(self) -> None:
        share = b.needed_share(4.0, 6.0, 40.0)
        assert share is not None
        self.assertAlmostEqual(b.settles_at(4.0, 6.0, share), 40.0)
        self.assertIsNone(b.needed_share(40.0, 6.0, 40.0))
        self.assertIsNone(b.needed_share(4.0, 40.0, 40.0))
        self.assertEqual(b.needed_share(4.0, 0.0, 40.0), 0.0)

    def test_the_limit_is_lower_in_a_planted_tank(self) -> None:
        self.assertLess(look(on=tank(planted=True)).nitrate_limit, look().nitrate_limit)


class Rhythm(unittest.TestCase):
    def test_weekly_changes_are_told_and_few_are_not(self) -> None:
        litres = 0.25 * net_l(tank())
        weekly = [entry("change", d, litres=litres) for d in (28, 21, 14, 7)]
        found = look(*weekly)
        self.assertAlmostEqual(found.changed_week or 0, 0.25, places=3)
        self.assertIsNotNone(found.settles_at)
        self.assertIsNone(look(*weekly[:2]).changed_week)
        old = [entry("change", d, litres=litres) for d in (200, 190, 180)]
        self.assertIsNone(look(*old).changed_week)


class Hours(unittest.TestCase):
    def test_the_worst_hour_is_above_the_mean_and_grown_animals_put_out_more(self) -> None:
        found = look()
        self.assertGreater(found.worst_hour, found.load_adult / 24)
        self.assertGreater(found.load_adult, found.load_now)
        self.assertAlmostEqual(found.worst_hour_mg_l * net_l(tank()), found.worst_hour)

    def test_zones_add_up_to_all_that_moves(self) -> None:
        zones = dict(look().zones)
        self.assertAlmostEqual(zones["middle"], 10 * SPECIES["neon_tetra"].adult_cm)
        self.assertAlmostEqual(zones["bottom"], 6 * SPECIES["bronze_corydoras"].adult_cm)
        self.assertEqual(look(animals=[]).zones, ())
