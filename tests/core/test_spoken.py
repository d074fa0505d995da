"""Lines as people speak: put into the shorthand where every word has one meaning, else left to be asked about."""

import unittest
from dataclasses import replace
from datetime import datetime
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.setting import Setting
from jarbloom.core.journal.spoken.clauses import paired, plain_clause, several, switches
from jarbloom.core.journal.spoken.moments import said_moment
from jarbloom.core.journal.spoken.numbers import in_figures, in_millilitres
from jarbloom.core.model.kit import Kit
from jarbloom.units import Units
from tests.make import NOW, REFERENCE, ZONE

HERE = Setting(
    112, Kit(), Units(), REFERENCE.species, {"harlequin_rasbora": 8, "guppy": 6, "betta": 1}, names={"pebble": "betta"}
)

# (as said, in the shorthand)
CLAUSES = (
    ("ammonia is 0.25 ppm", "am 0.25"), ("the nitrite level is still 1", "ni 1"), ("10 ppm nitrate", "na 10"),
    ("nitrate 160+", "na >160"), ("nitrate over 80", "na >80"), ("nitrite less than .25", "ni <.25"),
    ("ammonia between 0.25 and 0.5", "am 0.25-0.5"), ("ammonia 0.5/0.25", "am 0.25-0.5"),
    ("nitrate 40 or so", "na 40"), ("ammonia and nitrite both zero", "am 0 ni 0"),
    ("0.25 ammonia 1 nitrite 10 nitrate", "am 0.25 ni 1 na 10"), ("kh 90 ppm", "kh 5.04"), ("25.5 degrees", "t 25.5"),
    ("78.1f", "t 78.1 f"), ("nitrite a half", "ni 0.5"), ("25% water change", "wc 25%"),
    ("did a 30 percent change", "wc 30%"), ("changed half the water", "wc 50%"),
    ("changed a third of the tank water", "wc 33.3%"), ("water change 20 l", "wc 20 l"),
    ("22 litres changed", "wc 22 litres"), ("topped up 2l", "top 2 l"),
    ("topped off with 3 litres of fresh water", "top 3 litres"), ("2 guppies died", "dead 2 guppies"),
    ("lost a rasbora", "dead 1 rasbora"), ("one of the guppies is dead", "dead 1 guppies"),
    ("neon died", "dead neon"), ("added 6 neon tetras", "in 6 neon tetras"),
    ("8 harlequin rasboras in", "in 8 harlequin rasboras"), ("fed flakes", "fed"),
    ("fed them 0.2 g of flakes", "fed 0.2 g"), ("fed 3 pellets", "fed"), ("gave them some frozen food", "fed"),
    ("skimmer off", "off skimmer"), ("turned off the uv for 5 days", "off uv 5d"), ("uv lamp is back on", "on uv"),
    ("20 l out 20 l in", "wc 20 l"), ("3 buckets of 9 litres changed", "wc 27 l"), ("sg 1.025", "sal 1.025 sg"),
    ("dosed conditioner 5 ml", "cond 5 ml"), ("power was out for 6 hours", "power 6 h"),
    ("rinsed the sponge in tank water", "media tank"), ("rinsed the filter under the tap", "media tap"),
    ("100 ml of bacteria", "bac 100 ml"),
)  # fmt: skip
# What no pattern may take: another meaning is as near
LEFT = (
    "20 l out 10 l in", "heat to 30 for white spot", "fed 2", "fed .2", "fed 2 g frozen", "no ammonia",
    "the rasboras died", "changed 1/2", "changed the bulb", "ammonia test at 8", "nitrite 1 dkh", "ph 7 ppm",
    "kh 100-120 ppm", "rinsed half the sponge in tank water", "replaced 30% of the media", "got home", "gave up",
    "top of the tank", "ammonia 0 maybe 0.25 or more",
)  # fmt: skip
MOMENTS = (
    ("this morning am 1", "2026-11-24 08:00", "am 1"), ("last night am 1", "2026-11-23 22:00", "am 1"),
    ("last night 23:00 am 1", "2026-11-23 23:00", "am 1"), ("fed yesterday evening", "2026-11-23 20:00", "fed"),
    ("nov 20th am 0", "2026-11-20 12:00", "am 0"), ("20th of november am 0", "2026-11-20 12:00", "am 0"),
    ("20.11. am 0", "2026-11-20 12:00", "am 0"), ("11/20 am 0", "2026-11-20 12:00", "am 0"),
    ("two weeks ago", None, None), ("2 weeks ago in 8 rasboras", "2026-11-10 18:40", "in 8 rasboras"),
    ("half an hour ago fed", "2026-11-24 18:10", "fed"), ("day before yesterday fed", "2026-11-22 12:00", "fed"),
    ("dec 30 fed", None, None),  # a year ago nearly: not lately
    ("on the 20th am 1", "2026-11-20 12:00", "am 1"), ("on the 28th am 1", "2026-10-28 12:00", "am 1"),
    ("sunday evening fed", "2026-11-22 20:00", "fed"), ("tuesday night fed", None, None),  # tonight is still to come
    ("31.11. am 0", None, None), ("this evening am 0", "2026-11-24 18:40", "am 0"), ("am 0 ni 0", None, None),
)  # fmt: skip
# Denials, plans, doubts, questions, other waters, other people, other times: nothing is saved
ASKED = (
    "is nitrite 1 bad?", "did not feed", "will change 30% tomorrow", "tap ph 8.2 kh 6", "my friend lost 2 guppies",
    "should be 25 degrees", "lost a heater", "added salt", "nitrite was 1 before the change", "bag ph 6.8",
    "quarantine ammonia 1", "i think ammonia is 1", "ammonia 0.25 instead of 0.5", "fed twice", "last tuesday am 2",
    "next saturday 30% change", "no fish gasping", "ammonia maybe 1", "feeding", "bought 6 guppies",
    "the 2nd guppy died on it", "fed the cat", "3 shrimp", "1 pleco died", "2 rasboras jumped",
    "12/11 fed and 11/12 fed",
)  # fmt: skip


class Clauses(unittest.TestCase):
    def test_as_said(self) -> None:
        for said, wanted in CLAUSES:
            with self.subTest(said=said):
                self.assertEqual(plain_clause(said), wanted)

    def test_what_may_mean_something_else_is_left(self) -> None:
        for said in LEFT:
            with self.subTest(said=said):
                self.assertIsNone(plain_clause(said))

    def test_a_list_of_animals_goes_on(self) -> None:
        self.assertEqual(plain_clause("2 guppies", "dead 3 rasboras"), "dead 2 guppies")
        self.assertIsNone(plain_clause("2 guppies", "wc 20%"))
        self.assertIsNone(plain_clause("2 guppies"))

    def test_lists_and_rows(self) -> None:
        for said, wanted in (
            (paired("ammonia, nitrite, nitrate: 0, 0.5, 20"), "am 0 ni 0.5 na 20"),
            (paired("ammonia and nitrite 0.25 and 1"), "am 0.25 ni 1"),
            (paired("ammonia, nitrite, nitrate: 0, 0.5"), None),
            (several("3 rasboras and 2 pandas dead"), "dead 3 rasboras dead 2 pandas"),
            (several("3 rasboras dead"), None),
            (switches("uv off carbon on"), "off uv on carbon"),
            (switches("uv off carbon"), None),
            (in_millilitres("conditioner 1 tsp", False), "conditioner 4.929 ml"),
            (in_millilitres("topped up a pint", False), "topped up a pint"),  # of which country?
            (in_millilitres("changed 5 uk gallons", False), "changed 22.73 l"),
        ):
            with self.subTest(wanted=wanted):
                self.assertEqual(said, wanted)


class Moments(unittest.TestCase):
    def test_as_said(self) -> None:
        for said, at, rest in MOMENTS:
            with self.subTest(said=said):
                found = said_moment(said, NOW, day_first=True)
                self.assertEqual(found and (f"{found[0]:%Y-%m-%d %H:%M}", found[1]), at and (at, rest))

    def test_a_day_that_may_be_read_two_ways_is_asked_about(self) -> None:
        then = datetime(2026, 12, 20, 20, tzinfo=ZoneInfo(ZONE))  # 12 November and 11 December have both come
        for day_first in (True, False):
            self.assertIsNone(said_moment("12/11 am 0", then, day_first))
        self.assertEqual(said_moment("12/11 am 0", NOW, True)[0].date().isoformat(), "2026-11-12")
        self.assertIsNone(said_moment("12/11 am 0", NOW, False))  # month first, it has not come yet

    def test_hours_ago_are_hours_that_passed(self) -> None:
        """In the night when clocks go back, three hours before four o'clock is two o'clock for the first time."""
        night = datetime(2026, 10, 25, 4, 0, tzinfo=ZoneInfo(ZONE))
        at = said_moment("3 hours ago fed", night, True)[0]
        self.assertEqual((night.timestamp() - at.timestamp()) / 3600, 3)


class Lines(unittest.TestCase):
    def test_whole_lines(self) -> None:
        for line, wanted in (
            ("Ammonia's fine", ()),
            ("2 guppies died this morning", ("death",)),
            ("uv off, skimmer off, bacteria 100 ml", ("off", "off", "bacteria")),
            ("dead 3 rasboras, 2 guppies", ("death", "death")),
            ("6pm yesterday am 0.5", ("test",)),
            ("fish gasping", ("observation",)),
            ("ammonia zero point five, changed half the water", ("test", "change")),
            ("Pebble died", ("death",)),
        ):
            with self.subTest(line=line):
                self.assertEqual(tuple(b.key for b in parse(line, NOW, HERE).bodies), wanted)

    def test_the_order_of_a_date_in_figures_is_the_keepers(self) -> None:
        for dates, units, day in (("", "metric", 12), ("", "us", None), ("month", "metric", None), ("day", "us", 12)):
            with self.subTest(dates=dates, units=units):
                found = parse("12/11 am 0", NOW, replace(HERE, dates=dates, units=Units(units)))
                self.assertEqual(found.at.day if found.bodies else None, day)

    def test_what_bends_the_words_is_asked_about(self) -> None:
        for line in ASKED:
            with self.subTest(line=line):
                self.assertEqual(parse(line, NOW, HERE).bodies, ())

    @given(st.text(st.sampled_from("abehlnort 0123456789.,/%½"), max_size=60))
    def test_no_text_breaks_it(self, text: str) -> None:
        plain_clause(text)
        said_moment(in_figures(text), NOW, True)


if __name__ == "__main__":
    unittest.main()
