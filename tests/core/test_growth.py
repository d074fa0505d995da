"""Growth put right by what was measured: through the points, sooner where it is fast, never smaller than its kind."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.animals.growth import PACE, length_on, pace, reaches
from jarbloom.core.journal.book import groups, stock
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.kit import Kit
from jarbloom.core.model.species import Animals
from jarbloom.units import Units
from tests.make import NOW, REFERENCE, entry, numbered

CAME = date(2026, 1, 10)
PLECO = REFERENCE.species["common_pleco"]


def pleco(*measured: tuple[int, float]) -> Animals:
    """A common pleco that came at 6 cm, measured so many days later."""
    return Animals("common_pleco", 1, 6.0, CAME, tuple((CAME + timedelta(days=d), cm) for d, cm in measured))


def by_row(days: int) -> float:
    return length_on(pleco(), PLECO, CAME + timedelta(days=days))


class Measured(unittest.TestCase):
    def test_the_curve_goes_through_what_was_measured(self) -> None:
        one = pleco((120, 10.0), (240, 17.0))
        for days, cm in ((0, 6.0), (60, 8.0), (120, 10.0), (180, 13.5), (240, 17.0)):
            self.assertAlmostEqual(length_on(one, PLECO, CAME + timedelta(days=days)), cm, places=6)
        self.assertGreater(length_on(one, PLECO, CAME + timedelta(days=300)), 17.0)

    def test_a_length_as_expected_changes_nothing(self) -> None:
        one = pleco((200, by_row(200)))
        self.assertAlmostEqual(pace(one, PLECO), 1.0)
        self.assertAlmostEqual(length_on(one, PLECO, CAME + timedelta(days=900)), by_row(900), places=6)

    def test_who_grows_fast_is_too_large_sooner(self) -> None:
        fast, today = pleco((200, 1.4 * by_row(200))), CAME + timedelta(days=201)
        self.assertGreater(pace(fast, PLECO), 1.2)
        self.assertLess(reaches(fast, PLECO, 30.0, today), reaches(pleco(), PLECO, 30.0, today))

    def test_nobody_is_believed_to_stay_small(self) -> None:
        """What has hardly grown still grows up: slower, by half at the least, to the length of its kind."""
        small = pleco((300, 6.2))
        self.assertEqual(pace(small, PLECO), PACE[0])
        self.assertAlmostEqual(length_on(small, PLECO, date(2060, 1, 1)), PLECO.adult_cm, delta=0.5)
        full = [load_of([a], REFERENCE.species, 25.0, adult=True).total for a in (small, pleco())]
        self.assertEqual(full[0], full[1])

    def test_two_weeks_tell_no_pace(self) -> None:
        self.assertEqual(pace(pleco((14, 9.0)), PLECO), 1.0)

    def test_one_that_outgrew_its_kind_puts_out_what_it_is(self) -> None:
        large = pleco((700, 1.2 * PLECO.adult_cm))
        full = [load_of([a], REFERENCE.species, 25.0, adult=True).total for a in (large, pleco())]
        self.assertGreater(full[0], 1.3 * full[1])
        self.assertAlmostEqual(length_on(large, PLECO, CAME + timedelta(days=2000)), 1.2 * PLECO.adult_cm)


class InTheLog(unittest.TestCase):
    def test_it_counts_from_its_day_for_the_oldest_or_the_group_named(self) -> None:
        log = numbered(
            entry("arrival", 200, species="guppy", count=2, length_cm=2.0),
            entry("arrival", 100, species="guppy", count=3, length_cm=2.0),
            entry("length", 50, species="guppy", count=1, length_cm=3.1),
            entry("length", 40, species="guppy", count=1, length_cm=2.8, group=2),
        )
        old, young = groups(log)
        self.assertEqual([cm for _, cm in old.measured], [3.1])
        self.assertEqual([cm for _, cm in young.measured], [2.8])
        before = stock(log, (NOW - timedelta(days=51)).date())
        self.assertEqual([a.measured for a in before], [(), ()])

    def test_of_one_day_the_last_counts_and_none_before_they_came(self) -> None:
        log = numbered(
            entry("length", 250, species="guppy", count=1, length_cm=4.0),
            entry("arrival", 200, species="guppy", count=2),
            entry("length", 50, 9, species="guppy", count=1, length_cm=3.1),
            entry("length", 50, 18, species="guppy", count=1, length_cm=3.3),
        )
        (group,) = groups(log)
        self.assertEqual([cm for _, cm in group.measured], [3.3])

    def test_as_one_types_it(self) -> None:
        here = Setting(112, Kit(), Units(), REFERENCE.species, {"betta": 1, "harlequin_rasbora": 8})
        inches = replace(here, units=Units("us"))
        for line, setting, cm in (
            ("length betta 5.5 cm", here, 5.5), ("length 3 rasboras 38mm", here, 3.8), ("length betta 5.5", here, 5.5),
            ("length betta 2 in", here, 5.08), ("length betta 2", inches, 5.08),
            ("yesterday length 1 betta 2in", here, 5.08),
        ):  # fmt: skip
            with self.subTest(line=line):
                (body,) = parse(line, NOW, setting).bodies
                self.assertAlmostEqual(body.length_cm, cm)
        for line in ("length betta", "length betta 55 cm", "length 3 rasboras 3 gal", "length 4 cm"):
            with self.subTest(line=line):
                self.assertEqual(parse(line, NOW, here).bodies, ())


if __name__ == "__main__":
    unittest.main()
