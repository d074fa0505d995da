"""The parts that speech is heard with, one by one: what follows a clause, asides, moments, numbers, faults."""

import unittest
from datetime import datetime
from zoneinfo import ZoneInfo

from jarbloom.core.journal.spoken.asides import denied, of_no_consequence, other_water, planned
from jarbloom.core.journal.spoken.bends import bent, bent_sign
from jarbloom.core.journal.spoken.cleaned import in_one_wording, plain_text
from jarbloom.core.journal.spoken.creatures import Residents, creatures
from jarbloom.core.journal.spoken.deeds import deed, outage
from jarbloom.core.journal.spoken.following import again, more_of
from jarbloom.core.journal.spoken.frames import framed
from jarbloom.core.journal.spoken.moments import clocks, said_moment
from jarbloom.core.journal.spoken.numbers import in_figures
from jarbloom.patterns import EVERY, regex
from tests.make import NOW, ZONE

TUESDAY = 1
EIGHT = Residents("harlequin rasbora", 8)

# (what is said behind, the clause before, what both come to; None: it adds nothing)
FOLLOWING = (
    ("took it out", "dead 1 guppy", "dead 1 guppy found"),
    ("must have jumped", "dead 1 guppy", "dead 1 guppy jumped"),
    ("found it on the carpet", "dead 1 guppy", "dead 1 guppy found jumped"), ("took it out", "wc 20%", None),
    ("3 cm", "in 8 guppies", "in 8 guppies 3 cm"), ("about 1 inch each", "in 8 guppies", "in 8 guppies 1 inch"),
    ("30 mm", "in 8 guppies", "in 8 guppies 30 mm"), ("3 cm", "dead 1 guppy", None),
    ("paid 24", "in 8 guppies", "in 8 guppies paid 24"), ("wild caught", "in 8 guppies", "in 8 guppies wild"),
    ("tank bred", "in 8 guppies", "in 8 guppies bred"),
    ("from the club", "in 8 guppies", "in 8 guppies from the club"),
    ("2 doa", "in 10 guppies", "in 8 guppies"), ("10 doa", "in 10 guppies", None), ("2 doa", "dead 2 guppies", None),
    ("only half of it", "media tap", "media tap 50%"), ("both", "media tank", "media tank 100%"),
    ("a third", "bed", "bed 33.3%"), ("half", "wc 20 l", None), ("used 100 ml", "bac frozen", "bac frozen 100 ml"),
    ("6 ml", "medicine against worms", "medicine against worms, 6 ml"), ("6 ml", "fed", None),
    ("off about 2 h", "fault tingle breaker tripped", "power 2 h"), ("off about 2 h", "off uv", None),
)  # fmt: skip
# (what failed or was done, in the shorthand without the words of a fault)
DEEDS = (
    ("heater stuck on", "fault heater stuck"), ("the heater quit", "fault heater dead"),
    ("dead heater", "fault heater dead"),
    ("cracked heater tube", "fault heater cracked"), ("filter is running dry", "fault filter"),
    ("the canister is leaking", "fault leak"), ("leak at the hose clamp", "fault leak"), ("leak test passed", None),
    ("air pump died", "fault pump"), ("powerhead stopped again", "fault pump"), ("breaker tripped", "fault tingle"),
    ("tingle when i touched the water", "fault tingle"), ("light timer broken", "fault light"),
    ("ato stuck", "fault topoff"), ("heater off", None), ("filter noisy", None), ("pump cleaned", None),
    ("day 3 of meds", "medicine day 3 of meds"), ("no medicine", None), ("medicine bottle is empty", None),
    ("for the medicine", None), ("carbon back in", "on carbon"), ("removed the carbon", "off carbon"),
    ("skim off 3d", "off skimmer 3d"), ("uv off for 48 h", "off uv 2d"), ("uv off for 5 h", None),
    ("uv off til tuesday", "off uv 7d"), ("uv off til wed", "off uv 1d"), ("uv on for 3 days", None),
    ("replaced 20 l with fresh water", "wc 20 l"), ("changed 3x10l", "wc 30 l"),
    ("changed 1,500 ml of water", "wc 1500 ml"),
    ("changed 1/2", None), ("20 l out 10 l in", None), ("5 l of fresh went in", "top 5 l"),
    ("new cartridge", "media replaced"),
    ("new sponge", None), ("rinsed 1 of 3 sponges in tank water", "media tank 33.3%"),
)  # fmt: skip
# (said of animals where only 8 harlequin rasboras live)
OF_RESIDENTS = (
    ("2 died", "dead 2 harlequin rasbora"), ("lost 3", "dead 3 harlequin rasbora"),
    ("6 left", "counted 6 harlequin rasbora"),
    ("6 of 8 left", "counted 6 harlequin rasbora"), ("6 of 9 left", None),
    ("all 8 there", "counted 8 harlequin rasbora"),
    ("lost 3 l", None),
)  # fmt: skip
MOMENTS = (
    ("half past 7 in the evening ph 7", "2026-11-24 19:30", None),
    ("quarter to 8 this morning ph 7", "2026-11-24 07:45", "ph 7"),
    ("at 9 this morning ph 7", "2026-11-24 09:00", "ph 7"), ("1930 yesterday ni 1", "2026-11-23 19:30", "ni 1"),
    ("mon 9p ni 1", "2026-11-23 21:00", "ni 1"), ("last tuesday am 2", "2026-11-17 12:00", "am 2"),
    ("last monday am 2", None, None), ("the 20th am 1", "2026-11-20 12:00", "am 1"), ("30th am 1", None, None),
    ("20-11 ni 1", "2026-11-20 12:00", "ni 1"), ("5-6 ni 1", None, None), ("nothing since monday", None, None),
    ("away from friday", None, None), ("uv off til sunday", None, None),
    ("earlier today am 1", "2026-11-24 18:40", "am 1"),
)  # fmt: skip


class Patterns(unittest.TestCase):
    def test_each_can_be_compiled(self) -> None:
        self.assertGreater(len(EVERY), 150)
        for one in EVERY:
            self.assertIsInstance(one.pattern, str)  # a warning would be a failure as well
        later = regex("(a)|b")
        self.assertEqual((later.fullmatch("a")[1], later.sub("c", "ab"), later.groups), ("a", "cc", 1))


class Parts(unittest.TestCase):
    def test_what_goes_on_from_a_clause(self) -> None:
        for said, before, wanted in FOLLOWING:
            with self.subTest(said=said, before=before):
                self.assertEqual(more_of(said, before), wanted)
        self.assertEqual(again("on again", "off uv"), "on uv")
        self.assertIsNone(again("on again", "wc 20%"))

    def test_deeds_and_faults(self) -> None:
        for said, wanted in DEEDS:
            with self.subTest(said=said):
                found = deed(said, TUESDAY, False) or framed(said, lambda name, new: False)
                if wanted and wanted.startswith("fault"):
                    self.assertEqual(found, f"{wanted} {said}")
                else:
                    self.assertEqual(found, wanted)

    def test_gallons_are_a_g_only_where_water_is_moved_in_the_us(self) -> None:
        self.assertEqual(deed("changed 5 g", TUESDAY, True), "wc 5 gal")
        self.assertIsNone(deed("changed 5 g", TUESDAY, False))
        self.assertEqual(deed("fed 5 g", TUESDAY, True), "fed 5 g")

    def test_without_a_name_the_only_kind_is_meant(self) -> None:
        for said, wanted in OF_RESIDENTS:
            with self.subTest(said=said):
                self.assertEqual(creatures(said, "", EIGHT), wanted)
                if wanted:
                    self.assertIsNone(creatures(said, "", Residents()))

    def test_moments(self) -> None:
        for said, at, rest in MOMENTS:
            with self.subTest(said=said):
                found = said_moment(clocks(said), NOW, True)
                if rest is None:
                    self.assertIsNone(found)
                else:
                    self.assertEqual((f"{found[0]:%Y-%m-%d %H:%M}", found[1]), (at, rest))

    def test_an_outage_between_two_hours_is_the_last_that_has_ended(self) -> None:
        morning = datetime(2026, 11, 24, 8, 0, tzinfo=ZoneInfo(ZONE))
        for said, begins, plain in (
            ("power out 23:00 to 04:00", "23 23:00", "power 5 h"),
            ("power out from 2 to 05:00", "24 02:00", "power 3 h"),
            ("power off 14:00 to 16:30", "23 14:00", "power 2.5 h"),
            ("power out from 2 to 17:00", "23 14:00", "power 3 h"),
        ):  # fmt: skip
            with self.subTest(said=said):
                at, found = outage(said, morning)
                self.assertEqual((f"{at:%d %H:%M}", found), (begins, plain))
        self.assertIsNone(outage("power out 25:00 to 26:00", morning))

    def test_numbers(self) -> None:
        for said, wanted in (
            ("one hundred and twenty litres", "120 litres"), ("two hundred", "200"), ("nitrite 1 1/2", "nitrite 1.5"),
            ("1/2 gal", "0.5 gal"), ("changed 3/4 of it", "changed 3/4 of it"), ("half a gallon", "0.5 gallon"),
            ("an hour and a half", "1.5 hours"), ("an hour and twenty minutes", "1.333 hours"), ("point 5", "0.5"),
            ("a trio of mollies", "3 mollies"), ("0.25/0.5", "0.25/0.5"),
        ):  # fmt: skip
            with self.subTest(said=said):
                self.assertEqual(in_figures(said), wanted)

    def test_a_line_is_cleaned_but_for_signs_that_say_something(self) -> None:
        for typed, wanted in (
            ("Fed 👍!!", "fed"), ("am ٠٫٥", "am 0.5"), ("ａｍ　０．５", "am 0.5"), ("guppy 💀", "guppy 💀"),
            ("am 0․5", "am 0?5"),
            ("It’s 25 :)", "it's 25"),
        ):  # fmt: skip
            with self.subTest(typed=typed):
                self.assertEqual(plain_text(typed), wanted)
        self.assertEqual(in_one_wording("wc 20 l w/ conditioner"), "wc 20 l with conditioner")

    def test_what_bends_a_piece(self) -> None:
        for said in ("no ammonia", "maybe 1", "tap 7", "my friend", "ammonia 1 each", "before the change"):
            self.assertEqual(bent(said), said != "ammonia 1 each", said)
        self.assertFalse(bent("0 maybe 0.25"))
        self.assertFalse(bent("8 rasboras from the shop"))
        self.assertFalse(bent_sign("betta not eating"))
        self.assertTrue(bent_sign("betta not hiding"))


class Asides(unittest.TestCase):
    def test_plans(self) -> None:
        for said in (
            "will change 30% tomorrow",
            "need to test",
            "ordered 6 neons",
            "remind me to feed",
            "wc 30% planned",
        ):
            self.assertTrue(planned(said, True), said)
        for said in ("fed today and tomorrow", "tomorrow am 0", "will die", "heater will not start", "tomorrow"):
            self.assertFalse(planned(said, True), said)
        self.assertFalse(planned("will do it tomorrow", False), "of what stands before it")
        self.assertTrue(planned("will change 30% tomorrow", False))

    def test_denials(self) -> None:
        for said in (
            "not fed today",
            "no deaths",
            "didn't test",
            "water no longer milky",
            "nitrate n/a",
            "uv not on yet",
        ):
            self.assertTrue(denied(said, []), said)
        for said in ("not eating", "no gill movement", "no power", "not 5", "not really", "ammonia none", "no"):
            self.assertFalse(denied(said, []), said)
        self.assertFalse(denied("not changed", ["wc 20%"]), "the same line says that it was")

    def test_other_waters(self) -> None:
        for said, where in (
            ("tap ph 7.9", "first"), ("ph 7.8 in the tap", "last"), ("ph of the tap 8", "first"),
            ("fed the quarantine tank", "deed"),
            ("mixing bin 35 ppt 24 c", "first"), ("2 guppies died in quarantine", ""),
            ("tank ph 7", ""), ("tap dancing", ""),
        ):  # fmt: skip
            with self.subTest(said=said):
                self.assertEqual(other_water(said), where)

    def test_things_of_no_consequence(self) -> None:
        for said in (
            "heater set to 26",
            "changed the bulb",
            "clowns laid eggs",
            "all good",
            "opened a new bottle of ammonia",
        ):
            self.assertTrue(of_no_consequence(said), said)
        for said in ("heater off", "changed the water", "all gasping", "fish look pale", "opened the lid"):
            self.assertFalse(of_no_consequence(said), said)


if __name__ == "__main__":
    unittest.main()
