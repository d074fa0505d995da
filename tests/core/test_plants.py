"""Plants: which grow by the log, what the water and the animals do to them, and the inventory itself."""

import unittest
from datetime import timedelta

from jarbloom.core.animals.home import home_of
from jarbloom.core.animals.plants import against, by_night, takes
from jarbloom.core.journal.kinds.planted import called
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.planting import growing
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.kit import Kit
from jarbloom.units import Units
from tests.make import NOW, REFERENCE, entry, tank

PLANTS, SPECIES = REFERENCE.plants, REFERENCE.species


def log(*told: tuple[float, str, str, int | None]) -> Log:
    made = [entry("planted", days, plant=plant, went=went, count=count) for days, plant, went, count in told]
    return Log.of(made, NOW.tzinfo)


class Growing(unittest.TestCase):
    def test_put_in_less_what_went(self) -> None:
        there = growing(log((20, "java_fern", "in", 3), (10, "java_fern", "in", 2), (5, "java_fern", "lost", 1),
                            (4, "hornwort", "in", None), (3, "duckweed", "in", 9), (2, "duckweed", "out", 9),
                            (1, "cabomba", "out", 2)), NOW)  # fmt: skip
        self.assertEqual([(g.plant, g.count) for g in there], [("java_fern", 4), ("hornwort", None)])
        self.assertEqual(there[0].since, (NOW - timedelta(days=20)).date())

    def test_what_was_not_counted_goes_whole(self) -> None:
        self.assertEqual(growing(log((3, "hornwort", "in", None), (2, "hornwort", "out", 1)), NOW), ())
        both = growing(log((3, "hornwort", "in", 2), (2, "hornwort", "in", None)), NOW)
        self.assertIsNone(both[0].count)

    def test_nothing_of_tomorrow(self) -> None:
        self.assertEqual(growing(log((3, "hornwort", "in", 2)), NOW - timedelta(days=4)), ())


class Suits(unittest.TestCase):
    def said(self, key: str, animals: tuple[str, ...] = (), **water: float) -> tuple[str, ...]:
        home = home_of(tank(**({"temp_c": 25.0, "ph": 7.0, "salinity_g_kg": 0.0} | water)))
        return against(PLANTS[key], home, [SPECIES[a] for a in animals], Units())

    def test_water(self) -> None:
        self.assertEqual(self.said("java_fern"), ())
        self.assertRegex(self.said("canadian_waterweed")[0], "too warm: 5.* to 24")
        self.assertRegex(self.said("red_root_floater", temp_c=16.0)[0], "too cold")
        self.assertRegex(self.said("monte_carlo", ph=8.2)[0], "pH 8.2")
        self.assertEqual(self.said("amazon_sword", salinity_g_kg=35.0), ("too salty: it bears 1 g/kg",))

    def test_who_eats_and_who_digs(self) -> None:
        self.assertIn("silver dollars eat it", self.said("hornwort", ("silver_dollar",)))
        self.assertEqual(self.said("anubias_barteri", ("silver_dollar",)), ())  # tough leaves
        digger = next(s for s in SPECIES.values() if s.digs and not s.eats_plants)
        self.assertIn("may dig it up", self.said("dwarf_hairgrass", (digger.key,))[-1])
        self.assertFalse([t for t in self.said("java_fern", (digger.key,)) if "dig" in t])

    def test_what_they_do_to_the_proof_and_the_night(self) -> None:
        self.assertIn("proves less", takes([PLANTS["hornwort"], PLANTS["anubias_nana"]]))
        self.assertNotIn("anubias", takes([PLANTS["hornwort"], PLANTS["anubias_nana"]]))
        self.assertEqual(takes([PLANTS["anubias_nana"]]), "")
        self.assertIn("oxygen", by_night([PLANTS["duckweed"]]))
        self.assertEqual(by_night([PLANTS["hornwort"]]), "")


class Inventory(unittest.TestCase):
    def test_forty_and_each_is_called_by_its_name(self) -> None:
        self.assertEqual(len(PLANTS), 40)
        for plant in PLANTS.values():
            with self.subTest(plant=plant.key):
                self.assertEqual(called(plant.name), plant.key)
                self.assertLess(plant.temp_high - plant.temp_low, 27)

    def test_the_line(self) -> None:
        setting = Setting(100, Kit(), Units(), SPECIES)
        for line, wanted in (("planted 5 java "
                              "ferns", ("java_fern", 5, "in")), ("planted crypts", ("wendts_crypt", None, "in")),
                             ("uprooted 2 amazon sword", ("amazon_sword", 2, "out"))):  # fmt: skip
            with self.subTest(line=line):
                body = parse(line, NOW, setting).bodies[0]
                self.assertEqual((body.plant, body.count, body.went), wanted)
        for line in ("planted", "planted 0 moss", "planted 2 blorbs"):
            with self.subTest(line=line):
                self.assertTrue(parse(line, NOW, setting).questions)


if __name__ == "__main__":
    unittest.main()
