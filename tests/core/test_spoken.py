"""Lines as people speak: put into the shorthand where every word has one meaning, else left to be asked about."""

import unittest
from dataclasses import replace
from datetime import datetime
from itertools import pairwise, permutations, product
from pathlib import Path
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from jarbloom.core.animals.names import called
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.setting import Setting
from jarbloom.core.journal.spoken.amends import amended
from jarbloom.core.journal.spoken.creatures import Residents, creatures, several
from jarbloom.core.journal.spoken.deeds import deed, switches
from jarbloom.core.journal.spoken.frames import framed
from jarbloom.core.journal.spoken.moments import said_moment
from jarbloom.core.journal.spoken.numbers import in_figures, in_millilitres
from jarbloom.core.journal.spoken.readings import paired, quarters, readings
from jarbloom.core.journal.spoken.spelling import spelled
from jarbloom.core.model.kit import Kit
from jarbloom.units import NBSP, Units
from tests.make import NOW, REFERENCE, ZONE

HERE = Setting(
    112,
    Kit(),
    Units(),
    REFERENCE.species,
    {"harlequin_rasbora": 8, "guppy": 6, "betta": 1},
    names={"pebble": "betta"},
    lexicon=REFERENCE.words,
)

# (as said, in the shorthand)
CLAUSES = (
    ("ammonia is 0.25 ppm", "am 0.25"), ("the nitrite level is still 1", "ni 1"), ("10 ppm nitrate", "na 10"),
    ("did my weekly 30 percent", "wc 30%"), ("took out 3 buckets of 10 l and put fresh back", "wc 30 l"),
    ("the neighbour fed them", "fed"), ("gave them a pinch", "fed"), ("fed 3 pellets each", "fed"),
    ("power back after 40 min", "power 0.67 h"), ("top up with ro 2l", "top 2 l"), ("replaced carbon", "on carbon"),
    ("rinsed the filter sponge", "media"), ("day 3 of treatment", "medicine day 3 of treatment"),
    ("treated the guppies for white spot", "medicine treated the guppies for white spot"),
    ("new arrivals: 4 guppies", "in 4 guppies"), ("media in tank water", "media tank"),
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
    ("100 ml of bacteria", "bac 100 ml"), ("rinsed half the sponge in tank water", "media tank 50%"),
    ("replaced 30% of the media", "media replaced 30%"), ("heater stuck on", "fault heater stuck heater stuck on"),
    ("ammonia dropped from 4 to 1", "am 1"), ("ammonia .25 or .5", "am .25-.5"), ("nitrite not above .25", "ni <.25"),
    ("kh down to 3 from 5", "kh 3"), ("nitrite is a quarter", "ni 0.25"), ("alk 3 meq/l", "kh 8.41"),
    ("specific gravity 10 26", "sal 1.026 sg"), ("sold 6 guppies to the shop", "gave 6 guppies to the shop"),
    ("guppy had babies, 20", "born 20 guppy"), ("both clownfish seen", "counted 2 clownfish"),
    ("got 6 neon tetras 2 cm for 24", "in 6 neon tetras 2 cm paid 24"), ("dead pump", "fault pump dead pump"),
    ("found 1 dead rasbora", "dead 1 rasbora found"), ("vacuumed half the gravel", "bed 50%"),
    ("my wife already fed", "fed"), ("skimmer off for 48 h", "off skimmer 2d"), ("uv off til sunday", "off uv 5d"),
    ("ammonia closer to .5 than .25", "am .25-.5"), ("room 21, tank 25", "t 25"), ("ph 7 6", "ph 7.6"),
    ("new bag of carbon in", "on carbon"), ("1 capful of conditioner", "cond"), ("did a 50% on the 20g", "wc 50%"),
    ("changed 40 lbs of water", "wc 18.14 l"), ("conditioner that also binds ammonia 10 ml", "detox 10 ml"),
    ("swapped half the filter floss", "media replaced 50%"), ("replaced both cartridges", "media replaced 100%"),
    ("did 2 x 20 l", "wc 40 l"), ("siphoned out 15 litres and refilled", "wc 15 litres"),
    ("changed 10% = 11 litres", "wc 11 l"), ("added 2 l of distilled for evaporation", "top 2 l"),
    ("wife fed them while i was out", "fed"), ("dosed conditioner", "cond"), ("stirred up the sand by accident", "bed"),
    ("power cut for 40 minutes", "power 0.67 h"), ("put the carbon back", "on carbon"),
    ("cleaned the sponge in the bucket with tank water", "media tank"), ("ph crashed to 6.0", "ph 6.0"),
    ("amm 0 nitrite 0", "am 0 ni 0"), ("no ammonia no nitrite nitrates 15", "am 0 ni 0 na 15"),
    ("nitrite none", "ni 0"),
    ("retested: still 0.25 ammonia", "am 0.25"), ("alk 3.1 meq", "kh 8.69"),
    ("gave away 5 guppies to a friend", "gave 5 guppies to a friend"), ("2 guppy fry spotted", "born 2 guppy"),
    ("counted 9 of 10 neons", "counted 9 neons"), ("3 shrimps died since yesterday", "dead 3 shrimps"),
    ("got around to vacuuming the gravel", "bed"), ("poured in the whole bottle of bacteria", "bac"),
)  # fmt: skip
# What no pattern may take: another meaning is as near
LEFT = (
    "20 l out 10 l in", "heat to 30 for white spot", "fed 2", "fed .2", "fed 2 g frozen", "no ammonia",
    "changed 1/2", "changed the bulb", "ammonia test at 8", "nitrite 1 dkh", "ph 7 ppm",
    "kh 100-120 ppm", "got home", "gave up",
    "counted 9 of 8 neons", "added 6 neons at 10", "no nitrite", "temp swung from 24 to 27",
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
    ("fed at lunchtime", "2026-11-24 13:00", "fed"), ("fed at dinner", None, None),  # it is still to come
    ("on the 20th am 1", "2026-11-20 12:00", "am 1"), ("on the 28th am 1", "2026-10-28 12:00", "am 1"),
    ("sunday evening fed", "2026-11-22 20:00", "fed"), ("tuesday night fed", None, None),  # tonight is still to come
    ("31.11. am 0", None, None), ("this evening am 0", "2026-11-24 18:40", "am 0"), ("am 0 ni 0", None, None),
)  # fmt: skip
# Denials, plans, doubts, questions, other waters, other people, other times: nothing is saved
ASKED = (
    "is nitrite 1 bad?", "my friend lost 2 guppies", "should be 25 degrees", "lost a heater", "added salt",
    "nitrite was 1 before the change", "i think ammonia is 1", "ammonia 0.25 instead of 0.5", "not fed twice",
    "fed twice the usual",
    "ammonia maybe 1", "last monday ph 7", "wc 25% tonight", "tap ph 8 and then 7", "wc 30%, planned for tomorrow",
    "fed, in the quarantine tank", "ammonia 1, nitrite 0 in the tap", "qt am 1, wc 50%", "will not eat, should i wait",
    "lost 2 guppies yesterday, changed 50%", "heater will not start", "no gill movement", "feeding", "bought 6 guppies",
    "the 2nd guppy died on it", "fed the cat", "3 shrimp", "1 pleco died", "2 rasboras jumped",
    "plants out of the tank again", "fish food spilled into the tank",
    "filter stopped overnight, running again now", "one of the fish is gone", "snail shell empty", "scratch that",
    "neon trapped behind the filter", "crab escaped from the tank", "glass bulging at the front",
    "water dripping from the stand", "lid was open and fish on carpet", "snail floating on the surface",
    "the fish look drunk",
    "the ammonia tube is green", "poked the sand", "in rasboras", "betta in a new tank",
    "12/11 fed and 11/12 fed", "the rasboras died", "medication finished",
)  # fmt: skip
# Kept in the keeper's words; nothing is counted from them
KEPT = (
    "did not feed", "will change 30% tomorrow", "tap ph 8.2 kh 6", "bag ph 6.8", "quarantine ammonia 1",
    "not fed today",
    "next saturday 30% change", "no fish gasping", "haven't changed any water since 20 nov", "todo: media, tank water",
    "read online that you should dose 4 ppm", "my brother's tank has ammonia 2", "changed the bulb", "heater set to 26",
    "remind me to turn uv on sunday", "6 neons reserved at the shop, pick up fri", "ph of the tap 8", "uv not on yet",
    "betta flaring at its reflection", "fish love the wood", "scraped algae off the glass", "filter making noise",
    "brown algae on the leaves", "cleaned the impeller", "turned the heater up to 26", "thinking of adding 5 rasboras",
    "thought the panda was dead but it moved", "opened a new bottle of conditioner", "mixing bin 35 ppt 24 c",
)  # fmt: skip
# (line, what is saved, in order; the words that are kept besides)
MIXED = (
    ("washed the filter under the tap, oops", ("media",), "washed the filter under the tap, oops"),
    ("the usual thirty litre change and dosed conditioner", ("change", "conditioner"), ""),
    ("oil film on the surface", ("observation",), ""),
    ("water smells of eggs", ("observation",), ""),
    ("fish all at the bottom, not eating", ("observation",), ""),
    ("water all over the stand, the hose slipped", ("fault",), "water all over the stand, the hose slipped"),
    ("fed today, not tested", ("feed",), "fed today, not tested"),
    ("am .5, will change 30% tomorrow", ("test",), "am .5, will change 30% tomorrow"),
    ("changed 20 l without conditioner!!", ("change",), "changed 20 l without conditioner!!"),
    ("bag t 21, tank t 25", ("test",), "bag t 21, tank t 25"),
    ("50% change done, dechlorinated", ("change", "conditioner"), ""),
    ("heater dead t 19", ("fault", "test"), ""),
    ("found 1 dead rasbora this morning took it out", ("death",), ""),
    ("1 guppy dead, 12 born", ("death", "birth"), ""),
    ("betta jumped out, dead", ("death",), ""),
    ("3 guppies didn't make it", ("death",), ""),
    ("took the carbon out for the meter", (), ""),
    ("breaker tripped, off about 2 h", ("power",), ""),
    ("uv off yesterday evening, on again today", ("off", "on"), ""),
    ("wc 20%, stirred the sand", ("change", "bed"), ""),
    ("fed, turned the uv off", ("feed", "off"), ""),
    ("in 6 neon tetras, the tank is full now", ("arrival",), "the tank is full now"),
    ("a rasbora jumped, I put it back", ("observation",), ""),
    ("topped it up, two litres", ("topoff",), ""),
)
# (line, moments of what is saved)
SEVERAL_MOMENTS = (
    ("added 6 neon tetras this morning at 10", ("11-24 10:00",)),
    ("fed yesterday evening at 7", ("11-23 19:00",)),
    ("changed 20 l this morning at 10 litres a minute", ()),
    ("8:00 fed, 12:00 fed, 18:00 fed", ("11-24 08:00", "11-24 12:00", "11-24 18:00")),
    ("yesterday am 1 today am .5", ("11-23 18:40", "11-24 18:40")),
    ("mon am 2, tue am 1", ("11-23 12:00", "11-24 18:40")),
    ("fed, wc 20% yesterday", ("11-23 18:40", "11-23 18:40")),
    ("power out 11p to 4a", ("11-23 23:00",)),
    ("Monday\nam 1\nfed\nTuesday 8:00\nam .5", ("11-23 12:00", "11-23 12:00", "11-24 08:00")),
    ("20 nov: am 2 ni 0\n21 nov: am 1 ni .5", ("11-20 12:00", "11-21 12:00")),
    ("Monday\n8:00 fed\n- [ ] wc 30%", ("11-23 08:00", "11-24 18:40")),
    ("fed yesterday and changed 20% today", ("11-23 18:40", "11-24 18:40")),
    ("wc 20% on sunday and am 0 today", ("11-22 12:00", "11-24 18:40")),
    ("fed last night and again this morning", ("11-23 22:00", "11-24 08:00")),
    ("wc 20% yesterday, again today", ("11-23 18:40", "11-24 18:40")),
    ("yesterday fed. nitrite was 1 now", ("11-23 18:40", "11-24 18:40")),
    ("am 2 yesterday and 1 today", ()),
    ("fed, again", ()),
    ("fed at 8:00 yesterday wc 20%", ()),
    ("dosed 2 ppm yesterday and fed at 8:00", ()),
    ("yesterday 8:00 fed, 18:00 wc 20%", ("11-23 08:00", "11-23 18:00")),
    ("monday 8:00 am 1, 20:00 am .5", ("11-23 08:00", "11-23 20:00")),
    ("on sunday am 1 at 9am, am .5 at 9pm", ("11-22 09:00", "11-22 21:00")),
    ("fed yesterday, wc 20% at 8:00", ()),
    ("last night fed, 8:00 am 0", ()),
    ("8:00 fed, 18:00 wc 20%, yesterday", ()),
    ("Sunday 22 November\nfed\n23 nov\nwc 20% at 18:00", ("11-22 12:00", "11-23 18:00")),
)
NOTHING_DONE = (Path(__file__).parents[1] / "cases/nothing_done.txt").read_text("utf-8").splitlines()

TUESDAY = 1
DEEDS = {"fed": "feed", "changed 20%": "change", "rinsed the filter in tank water": "media"}
WHEN = {"yesterday": "23 18", "this morning": "24 08", "today": "24 18", "now": "24 18"}
JOINED = (", ", " and ", " ")


EVENING = datetime(2026, 11, 24, 18, 40, tzinfo=ZoneInfo(ZONE))
OTHERS = replace(
    HERE, living={"harlequin_rasbora": 8, "panda_corydoras": 6, "guppy": 10, "cherry_shrimp": 15}, net_l=100.0, names={}
)
IN_PARTS = (Path(__file__).parents[1] / "cases/in_parts.txt").read_text("utf-8").splitlines()


def plain_clause(said: str, before: str = "") -> str | None:
    """One clause in the shorthand, as the line takes it: a deed, readings, or animals."""
    piece = quarters(said)
    plain = deed(piece, TUESDAY, False) or readings(piece) or creatures(piece, before, Residents())
    return plain or framed(piece, is_animal)


def is_animal(name: str, new: bool) -> bool:
    named = called(name, HERE.species, HERE.living)
    return bool(named.keys if new else named.here)


def summary(line: str) -> str:
    """Each entry of a line in the words of the log book, with its moment where that is not now."""
    entries = parse(line, EVENING, OTHERS).entries
    told = (f"{'' if at == EVENING else f'{at:%d %H:%M} '}{b.key}: {b.words(REFERENCE.species, Units())}"
            for at, b in entries)  # fmt: skip
    return " + ".join(told).replace(NBSP, " ")


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
            (switches("uv off carbon on", TUESDAY), "off uv on carbon"),
            (switches("uv off carbon", TUESDAY), None),
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
            ("day 12 am 2 ni 5", ("test",)),
            ("week 3: nitrite 2", ("test",)),
            ("leak at the hose clamp, lost 5 l", ("fault",)),
            ("at least 2 guppies dead", ("death",)),
            ("fed 1/8 tsp flakes", ("feed",)),
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

    def test_what_is_no_deed_is_kept_in_words(self) -> None:
        for line in KEPT:
            with self.subTest(line=line):
                found = parse(line, NOW, HERE)
                self.assertEqual([(b.key, b.text) for b in found.bodies], [("note", line)])

    def test_deeds_beside_words(self) -> None:
        for line, kinds, note in MIXED:
            with self.subTest(line=line):
                found = parse(line, NOW, HERE)
                self.assertEqual((tuple(b.key for b in found.bodies), found.note), (kinds, note))

    def test_each_deed_has_its_own_moment(self) -> None:
        for line, moments in SEVERAL_MOMENTS:
            with self.subTest(line=line):
                found = parse(line, NOW, HERE)
                self.assertEqual(tuple(f"{at:%m-%d %H:%M}" for at, _ in found.entries), moments)

    def test_two_clauses_with_two_moments_never_share_one(self) -> None:
        """These, however joined: each at its own moment, or asked about."""
        read = 0
        for (first, second), (one, other) in product(pairwise([*DEEDS, "fed"]), permutations(WHEN, 2)):
            for joined, order in product(JOINED, ("{a} {t}{j}{b} {u}", "{t} {a}{j}{u} {b}", "{t} {a}{j}{b} {u}")):
                line = order.format(a=first, b=second, t=one, u=other, j=joined)
                found = sorted((b.key, f"{at:%d %H}") for at, b in parse(line, NOW, HERE).entries)
                with self.subTest(line=line):
                    self.assertIn(found, ([], sorted(((DEEDS[first], WHEN[one]), (DEEDS[second], WHEN[other])))))
                read += bool(found)
        self.assertGreater(read, 150)

    def test_a_point_in_front_stays_one(self) -> None:
        for line, quantity, typed in ((".5 am 1 ni", "ammonia", ".5"), (".25 ammonia", "ammonia", ".25"),
                                      (",5 am 1 ni", "ammonia", ".5"), (". ph 7", "ph", "7")):  # fmt: skip
            with self.subTest(line=line):
                found = {r.quantity: r.typed for r in parse(line, NOW, HERE).bodies[0].readings}
                self.assertEqual(found[quantity], typed)
        self.assertEqual(parse(".5 l topped up", NOW, HERE).bodies[0].litres, 0.5)

    def test_a_deed_run_together_with_a_sign_is_not_lost_in_its_words(self) -> None:
        for line in ("fish gasping fed", "fed water cloudy", "fish gasping and fed", "fish gasping turned the uv off"):
            with self.subTest(line=line):
                self.assertIn(len(parse(line, NOW, HERE).bodies), (0, 2))

    def test_a_sign_of_another_year_or_place_is_none(self) -> None:
        for bend in ("a year ago {}", "{} last month", "pond {}", "video: {}", "undo {}", "why is {}", "skip {}"):
            for sign in ("fish gasping", "water milky"):
                with self.subTest(bend=bend, sign=sign):
                    self.assertEqual(parse(bend.format(sign), NOW, HERE).bodies, ())
                    self.assertEqual([b.key for b in parse(sign, NOW, HERE).bodies], ["observation"])

    def test_an_hour_alone_is_the_only_one_of_the_waking_day_that_has_come(self) -> None:
        for line, when in (
            ("at 3 fed", "24 15:00"), ("at 7 wc 20 l", "24 07:00"), ("wc at 10 10 l", "24 10:00"), ("at 19 fed", None),
            ("at 5 fed", None), ("ni 1 at 7", None), ("0730 am .25", "24 07:30"), ("2026 am .25", None),
            ("midnight am .5", "24 00:00"), ("friday before last in 6 neon tetras", "13 12:00"),
        ):  # fmt: skip
            with self.subTest(line=line):
                found = [f"{at:%d %H:%M}" for at, _ in parse(line, NOW, HERE).entries]
                self.assertEqual(found, [when] if when else [])

    def test_after_midnight_the_evening_is_that_of_the_day_before(self) -> None:
        late = datetime(2026, 11, 25, 0, 20, tzinfo=ZoneInfo(ZONE))
        for line, when in (("23:50 wc 20 l", "24 23:50"), ("fed this morning", "24 08:00"), ("00:10 fed", "25 00:10")):
            with self.subTest(line=line):
                self.assertEqual(f"{parse(line, late, HERE).entries[0][0]:%d %H:%M}", when)
        self.assertEqual(parse("14:00 fed", late, HERE).entries, ())  # of which day?
        morning = late.replace(hour=7)
        self.assertEqual(f"{parse('8pm am 1', morning, HERE).entries[0][0]:%d %H:%M}", "24 20:00")
        self.assertEqual(parse("14:00 am 1", morning, HERE).entries, ())

    def test_a_sign_before_the_number_and_a_size_behind_a_comma(self) -> None:
        for line, kind, told in (
            ("-2 rasboras jumped", "death", {"count": 2, "cause": "jumped"}),
            ("+2l ro", "topoff", {"litres": 2.0}),
            ("did my weekly water change, about a third of the tank, fish seem happy", "change", {"typed": "33.3 %"}),
            ("dead 1 rasbora not found", "death", {"count": 1, "body": "not_found"}),
        ):
            with self.subTest(line=line):
                body = parse(line, NOW, HERE).bodies[0]
                self.assertEqual((body.key, {k: getattr(body, k) for k in told}), (kind, told))

    def test_what_is_done_several_times_is_saved_so_often(self) -> None:
        for line, litres in (
            ("2x25% wc", [28.0, 28.0]), ("wc 10 l x3", [10.0] * 3), ("wc 1/4 + 1/4", [28.0, 28.0]), ("wc 25% x9", []),
        ):  # fmt: skip
            with self.subTest(line=line):
                self.assertEqual([b.litres for b in parse(line, NOW, HERE).bodies], litres)
        for line, days in (
            ("fed twice", ["24", "24"]), ("my son fed them twice yesterday", ["23", "23"]),
            ("today fed 3x", ["24"] * 3), ("yesterday fed twice today", []), ("nearly fed twice", []),
        ):  # fmt: skip
            with self.subTest(line=line):
                found = parse(line, NOW, HERE)
                self.assertEqual([f"{at:%d}" for at, b in found.entries if b.key == "feed"], days)
        fed = parse("yesterday morning and evening fed", NOW, HERE)
        self.assertEqual([f"{at:%d %H}" for at, _ in fed.entries], ["23 08", "23 20"])

    def test_readings_before_and_after_a_change_are_two_tests(self) -> None:
        found = parse("am 1 then 50% change then am .5", NOW, HERE).bodies
        self.assertEqual([b.key for b in found], ["test", "change", "test"])
        self.assertEqual(
            [found[k].readings[0].seen for k in (0, 2)], [found[0].readings[0].seen, 0.5 * found[0].readings[0].seen]
        )
        self.assertEqual(parse("am 1 then am .5", NOW, HERE).bodies, ())

    def test_a_line_of_other_things_counts_for_nothing(self) -> None:
        """Lines in which words of the log mean something else, another tank, another time, or nothing that was done."""
        for line in NOTHING_DONE:
            with self.subTest(line=line):
                self.assertLessEqual({b.key for b in parse(line, NOW, HERE).bodies}, {"note"})

    def test_told_in_any_order_of_its_parts(self) -> None:
        """Lines written down at one go, without looking at the program, and what a reader makes of each."""
        for told in IN_PARTS:
            line, wanted = told.split(" => ")
            with self.subTest(line=line):
                self.assertEqual(summary(line), wanted)

    def test_a_word_that_is_no_part_leaves_the_clause_unread(self) -> None:
        for told in IN_PARTS[::5]:
            line = told.split(" => ")[0]
            for bent in (f"{line} in the quarantine tank", f"{line} next week", f"almost {line}", f"dreamt {line}"):
                with self.subTest(line=bent):
                    self.assertIsNone(framed(bent, is_animal))

    def test_all_of_a_kind_is_asked_about_with_their_number(self) -> None:
        for line in ("all guppies dead", "all the guppies died", "lost all my guppies", "dead all guppy"):
            with self.subTest(line=line):
                asked = parse(line, NOW, HERE)
                self.assertEqual(asked.bodies, ())
                told = parse(asked.questions[0].taps[0].line, NOW, HERE).bodies
                self.assertEqual([(b.key, b.species, b.count) for b in told], [("death", "guppy", 6)])
        for line in ("all guppies dead but one", "all neon tetras dead", "in all guppies", "all dead", "all fish dead"):
            with self.subTest(line=line):
                self.assertEqual(parse(line, NOW, HERE).bodies, ())
        died = parse("a guppy and 2 harlequin rasboras died yesterday", NOW, HERE).bodies
        self.assertEqual([(b.species, b.count) for b in died], [("guppy", 1), ("harlequin_rasbora", 2)])

    def test_attributes_said_behind_the_animals(self) -> None:
        came = parse("6 neon tetras in, 2 cm, from the club, paid 30, wild caught", NOW, HERE).bodies[0]
        self.assertEqual((came.count, came.length_cm, came.seller, came.price, came.tank_bred),
                         (6, 2.0, "the club", 30.0, "no"))  # fmt: skip
        came = parse("in 6 neon tetras 2 cm tank bred from the club, paid 30", NOW, HERE).bodies[0]
        self.assertEqual((came.length_cm, came.seller, came.price, came.tank_bred), (2.0, "the club", 30.0, "yes"))
        died = parse("found one of the rasboras on the floor, must have jumped", NOW, HERE).bodies[0]
        self.assertEqual((died.count, died.cause, died.body), (1, "jumped", "found"))
        self.assertEqual(parse("10 neon tetras arrived, 2 doa", NOW, HERE).bodies[0].count, 8)
        change = parse("wc 20 l, new water ph 7.8 kh 8", NOW, HERE).bodies[0]
        self.assertEqual((change.source_ph, change.source_kh), (7.8, 8.0))

    def test_the_last_word_counts(self) -> None:
        for said, wanted in (
            ("nitrite .5, no, 1", "nitrite 1"), ("wc 20 l, i mean 25", "wc 25 l"), ("am .25 sorry .5", "am .5"),
            ("ph 7.6 not 6.7", "ph 7.6"), ("am 1 -> .5", "am .5"), ("dose 2 mg/l, hm no only 1", "dose 1 mg/l"),
            ("ammonia um let me see .5 yes .5", "ammonia .5"), ("no change, 8 rasboras", "no change, 8 rasboras"),
        ):  # fmt: skip
            with self.subTest(said=said):
                self.assertEqual(amended(said), wanted)

    def test_slips_are_put_right_where_one_word_is_near(self) -> None:
        for said, wanted in (
            ("wtaer chnage 25%", "water change 25%"), ("ded 1 rasora", "dead 1 rasbora"), ("bactera", "bacteria"),
            ("nitrte 1 nitrtae 2 nitride 3 citrate", "nitrte 1 nitrtae 2 nitride 3 citrate"),
            ("nitrat 2 nirtite 1 ntrate", "nitrate 2 nitrite 1 nitrate"),
            ("deed dread lost cost bed head", "deed dread lost cost bed head"),
            ("charge the light", "charge the light"), ("yetserday evning", "yesterday evening"),
        ):  # fmt: skip
            with self.subTest(said=said):
                self.assertEqual(spelled(said, ["rasbora"]).replace("died", "dead"), wanted)

    def test_a_word_of_ordinary_days_is_no_slip_of_a_resident(self) -> None:
        names = tuple(n.lower() for s in REFERENCE.species.values() for n in s.name.split())
        said = " ".join(sorted(REFERENCE.words.ordinary))
        self.assertEqual(spelled(said, names, REFERENCE.words.ordinary), said)
        self.assertEqual(spelled("yelow tnag in the tank", ("yellow tang",), {"tank"}), "yellow tang in the tank")
        tang = replace(HERE, living={"yellow_tang": 1, "neon_tetra": 6})
        read = parse("added 6 neons at noon to the tank", NOW, tang)
        self.assertEqual([(b.key, at.hour) for at, b in read.entries], [("arrival", 12)])

    def test_what_was_understood_is_offered_with_the_rest_in_words(self) -> None:
        found = parse("fed. blorb 3 things. am .5", NOW, HERE)
        self.assertEqual(found.bodies, ())
        tap = next(t.line for q in found.questions for t in q.taps)
        offered = parse(tap, NOW, HERE)
        self.assertEqual([b.key for b in offered.bodies], ["test", "feed", "note"])
        self.assertEqual(offered.bodies[2].text, "fed. blorb 3 things. am .5")

    def test_what_is_not_understood_can_be_kept_with_the_word_that_all_is_well(self) -> None:
        for line in ("the quux hangs from the ceiling", "xyzzy plugh", "fed. blorb 3 things. am .5"):
            with self.subTest(line=line):
                taps = [t for q in parse(line, NOW, HERE).questions for t in q.taps]
                self.assertEqual(len(taps), len(set(taps)))  # two questions do not offer the same way out twice
                kept, well = (parse(t.line, NOW, HERE).bodies for t in taps[-2:])
                self.assertEqual([(b.key, b.text) for b in kept], [("note", line)])
                self.assertEqual([(b.key, b.text) for b in well], [("note", f"{line}; all is well")])

    def test_the_moment_is_said_back_once(self) -> None:
        found = parse("yesterday at 6pm fed and changed 20 l, this morning am .5", NOW, HERE)
        self.assertEqual([c.value for c in found.chips if c.label == "when"], ["Mon 23 Nov 18:00", "Tue 24 Nov 08:00"])

    def test_a_story_or_a_question_is_asked_about_once(self) -> None:
        for line in (
            "so this is how it went with the tank " * 9,
            "should i change half of the water now or later today?",
        ):
            with self.subTest(line=line[:40]):
                found = parse(line, NOW, HERE)
                self.assertEqual((found.bodies, len(found.questions)), ((), 1))
                self.assertEqual(parse(found.questions[0].taps[0].line, NOW, HERE).bodies[0].text, line.strip())

    def test_a_tap_that_answers_keeps_all_that_stands_beside_it(self) -> None:
        for line, saved in (
            ("all guppies died last night", [("death", "23 22")]),
            ("all guppies dead, wc 50%", [("change", "24 18"), ("death", "24 18")]),
            ("changed 90% of the water yesterday and fed this morning", [("change", "23 18"), ("feed", "24 08")]),
            ("yesterday changed 90% of the water, fed", [("change", "23 18"), ("feed", "23 18")]),
            ("all guppies dead\nfed", [("death", "24 18"), ("feed", "24 18")]),
        ):
            with self.subTest(line=line):
                asked = parse(line, NOW, HERE)
                self.assertEqual(asked.bodies, ())
                answered = parse(asked.questions[0].taps[0].line, NOW, HERE)
                self.assertEqual(sorted((b.key, f"{at:%d %H}") for at, b in answered.entries), saved)
        kept = parse("all guppies dead, long day at work", NOW, HERE).questions[0].taps[0].line
        self.assertIn("long day at work", parse(kept, NOW, HERE).note or parse(kept, NOW, HERE).bodies[-1].text)

    def test_when_is_asked_where_a_moment_may_hold_for_two(self) -> None:
        asked = parse("lost 2 guppies yesterday, changed 50%", NOW, HERE)
        taps = {t.words: t.line for q in asked.questions for t in q.taps}
        for words, moments in (("now", (23, 24)), ("at the same time", (23, 23))):
            with self.subTest(words=words):
                answered = parse(taps[words], NOW, HERE)
                self.assertEqual([(at.day, b.key) for at, b in answered.entries],
                                 list(zip(moments, ("death", "change"), strict=True)))  # fmt: skip

    @given(st.text(st.sampled_from("abehlnort 0123456789.,/%½"), max_size=60))
    def test_no_text_breaks_it(self, text: str) -> None:
        plain_clause(text)
        said_moment(in_figures(text), NOW, True)


if __name__ == "__main__":
    unittest.main()
