"""What is heard in the keeper's own words, and what is not."""

import unittest
from dataclasses import replace
from pathlib import Path

from jarbloom.core.journal.hearing import hear, words_of
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.readings import read
from jarbloom.core.journal.unheard import not_understood
from jarbloom.core.model.entry import Entry
from tests.make import NOW, REFERENCE, tank

# (words, keys that are heard, keys that are not)
SAID = (
    ("fish gulping at the surface", {"gasp"}, set()),
    ("two tetras panting", {"breath"}, set()),
    ("found a dead fish", {"dead"}, set()),
    ("gave antibiotic food", {"medicine"}, set()),
    ("gills look raw", {"redgill"}, set()),
    ("smoke from the power strip", {"scorch"}, set()),
    ("the adapter got wet", {"scorch"}, set()),
    ("the plug lies in a puddle", {"scorch"}, set()),
    ("put the heater in the water again", set(), {"scorch"}),
    ("sparkling clean glass", set(), {"scorch"}),
    ("the lionfish stung me", {"keeper_hurt"}, set()),
    ("my finger is swollen since I moved the rock", {"keeper_hurt"}, {"swell"}),
    ("splashed ammonia in my eye", {"keeper_hurt"}, set()),
    ("the toddler drank from the bucket", {"keeper_hurt"}, set()),
    ("clownfish stung by the anemone", set(), {"keeper_hurt"}),
    ("cat drank from the tank", set(), {"keeper_hurt"}),
    ("the dog licked the medicine", {"keeper_hurt"}, set()),
    ("cut the plants back", set(), {"keeper_hurt"}),
    ("boiled the live rock", {"polyp_poison"}, set()),
    ("scrubbed the zoas off the rock", {"polyp_poison"}, set()),
    ("the rest hang at the top", {"gasp"}, set()),
    ("discus dark and in the corner", {"pale", "hide"}, set()),
    ("lights are dark", set(), {"pale"}),
    ("one cory swims in circles", {"list"}, set()),
    ("white thready droppings", {"thin"}, set()),
    ("gave half a bottle of algae killer", {"medicine"}, set()),
    ("one trembles", {"dart"}, set()),
    ("keeps its mouth wide open", {"breath"}, set()),
    ("the cord is frayed", {"tingle"}, set()),
    ("light fell in the water", {"tingle"}, set()),
    ("rained through the window on the power strip", {"scorch"}, set()),
    ("drops of water under the cabinet", {"leak"}, set()),
    ("snail upside down, smells", {"dead"}, {"list"}),
    ("a bump on the side", set(), {"list"}),
    ("a neon is stuck in the filter intake", {"trapped"}, set()),
    ("someone poured a beer in the tank", {"poison_strong"}, set()),
    ("co2 bottle ran empty in one go", {"gas"}, set()),
    ("moved house", {"bed_out"}, set()),
    ("no fish gasping", set(), {"gasp"}),
    ("they are not gasping any more", set(), {"gasp"}),
    ("nobody hiding, nothing dead", set(), {"hide", "dead"}),
    ("stopped rubbing since the change", set(), {"flash"}),
    ("dead plants removed", set(), {"dead"}),
    ("the heater is dead", {"lamp_dark"}, {"dead"}),
    ("the pump is dead", {"weak_flow"}, {"dead"}),
    ("killed the algae on the glass", set(), {"dead"}),
    ("not eating", {"refuse"}, set()),
    ("refuses food, otherwise calm", {"refuse", "calm"}, set()),
    ("brown dust on the glass", set(), {"dust"}),
    ("gold dust on the flanks", {"dust"}, set()),
    ("white spots on the glass", set(), {"grains"}),
    ("white spots on its fins", {"grains"}, set()),
    ("white fluff on the new wood", {"new_thing"}, {"tuft"}),
    ("cloudy eye", {"popeye"}, {"milky"}),
    ("water cloudy", {"milky"}, set()),
    ("moved the outlet to the left", set(), {"inflow"}),
    ("all fish at the outlet", {"inflow"}, set()),
    ("dripped them for two hours", {"dripped"}, {"leak"}),
    ("water drips from the seam", {"leak"}, set()),
    ("sprayed the roses", {"poison"}, set()),
    ("turned the spray bar", set(), {"poison"}),
    ("forgot the conditioner", {"untreated"}, set()),
    ("chlorine test is zero", set(), {"untreated"}),
    ("spots on the fins? not sure", {"grains"}, set()),
    ("filter media rinsed in tank water", set(), {"media_tap"}),
    ("rinsed the sponge under the tap", {"media_tap"}, set()),
    ("a few eggs on the leaf", {"breeding"}, {"eggs_smell"}),
    ("smells of rotten eggs", {"eggs_smell"}, {"breeding"}),
    ("if they gasp tomorrow I will change water", set(), {"gasp"}),
)
NUMBERS = (
    ("am 2, other kit", [("ammonia", 2.0)]),
    ("the water reads ammonia 0.5 and nitrite .25", [("ammonia", 0.5), ("nitrite", 0.25)]),
    ("t 31.8 room 24, lamp lit", [("temp", 31.8)]),
    ("water at 88 f", [("temp", 31.11)]),
    ("found the thermometer at 31 this morning", [("temp", 31.0)]),
    ("heatwave, tank sits at 30.5", [("temp", 30.5)]),
    ("thermometer in the room at 30", []),
    ("bucket thermometer at 31", []),
    ("tap water at 31", []),
    ("got 2 thermometers for 15", []),
    ("tank is at 40 litres", []),
    ("moved the tank to 12 elm street", []),
    ("filled the tank up to 20 cm below the rim", []),
    ("thermometer 3 years old", []),
    ("temp 86 f", [("temp", 30.0)]),
    ("tap ph 8.0 kh 10", []),
    ("bag am 4 ph 6.4", []),
    ("quarantine tank am 1", []),
    ("room is 30 degrees", []),
    ("it is 31 degrees in there", [("temp", 31.0)]),
    ("fed 12 g by mistake", [("food", 12.0)]),
    ("sal 1.021 sg", []),
    ("no numbers here", []),
)

CASES = Path(__file__).parents[1] / "cases"


class Hearing(unittest.TestCase):
    def test_words(self) -> None:
        for text, heard, not_heard in SAID:
            with self.subTest(text=text):
                keys = words_of(text, REFERENCE.words).keys
                self.assertLessEqual(heard, keys)
                self.assertFalse(not_heard & keys)

    def test_numbers_are_of_this_tanks_water_only(self) -> None:
        for text, wanted in NUMBERS:
            with self.subTest(text=text):
                found = [(n.quantity, round(n.value, 2)) for n in words_of(text, REFERENCE.words).numbers]
                self.assertEqual(found, wanted)

    def test_ordinary_talk_raises_nothing(self) -> None:
        calm = {"calm", "breeding", "new_thing", "dawn", "in_the_dark", "moult", "fry", "new_water", "lamp_new"}
        for text in (
            "trimmed the plants and wiped the glass", "cleaned the front pane", "all fish fine, ate well",
            "siphoned a little, topped up", "lights now from 12 to 20", "the moss grows well", "new background photo",
            "gave them a treat of bloodworms", "moved the stone a bit", "shrimp grazing on the wood",
        ):  # fmt: skip
            with self.subTest(text=text):
                self.assertEqual(words_of(text, REFERENCE.words).keys - calm, frozenset())

    def test_notes_boxes_and_the_words_beside_a_test_are_all_heard(self) -> None:
        beside = Tested(readings=(read("ammonia", "0", tank().kit),))
        entries = [
            Entry(Observation(signs=("gasping", "spots")), NOW, id=1),
            Entry(Note(text="the gourami hides"), NOW, id=2),
            Entry(beside, NOW, "old strip", id=3),
            Entry(Note(text="trimmed"), NOW, id=4),
        ]
        heard = hear(entries, REFERENCE.words, REFERENCE.species, frozenset({"dwarf_gourami", "guppy"}))
        self.assertTrue(heard[0].any("gasp") and heard[0].any("grains"))
        self.assertEqual(heard[1].species, frozenset({"dwarf_gourami"}))
        self.assertTrue(heard[2].any("test_old"))
        self.assertFalse(heard[3].keys)

    def test_an_own_species_with_a_short_name_or_none_is_not_named_by_everything(self) -> None:
        row = REFERENCE.species["guppy"]
        own = {
            k: replace(row, key=k, name=name, scientific="", synonyms=()) for k, name in (("x1", "koi"), ("x2", " "))
        }
        said = [Entry(Note(text=text), NOW) for text in ("they hide", "the koi hides", "koi hide")]
        heard = hear(said, REFERENCE.words, own, frozenset(own))
        self.assertEqual([h.species for h in heard], [frozenset(), frozenset({"x1"}), frozenset({"x1"})])


class HeardOnce(unittest.TestCase):
    def test_each_entry_is_heard_once_and_anew_where_it_was_told_again(self) -> None:
        first, second, third = (Entry(Note(text=text), NOW, id=k) for k, text in enumerate(("one", "two", "three"), 1))
        looked: list[int] = []

        def words(entry: Entry) -> str:
            looked.append(entry.id)
            assert isinstance(entry.body, Note)
            return entry.body.text

        log = Log.of((first, second))
        self.assertEqual(log.each("words", log, words), ["one", "two"])
        grown = log.with_news((third,), ())
        self.assertEqual(grown.each("words", grown, words), ["one", "two", "three"])
        self.assertEqual(looked, [1, 2, 3])
        told_again = grown.with_news((replace(third, body=Note(text="four")),), ())
        self.assertEqual(told_again.each("words", told_again, words), ["one", "two", "four"])
        another = log.with_news((Entry(Note(text="five"), NOW, id=3),), ())
        self.assertEqual(another.each("words", another, words), ["one", "two", "five"])


class NotUnderstood(unittest.TestCase):
    NAMES = ("neon tetra", "panda corydoras")

    def left(self, text: str, **more: bool) -> tuple[str, ...]:
        return not_understood(text, REFERENCE.words, self.NAMES, **more)

    def test_ordinary_days_are_no_riddle(self) -> None:
        for text in (
            "added root tabs for the swords", "new leaf on the anubias", "my daughter named the panda Bob, photo day",
            "feeder set to one portion", "wood still floats", "skimmer cup emptied", "refractometer calibrated",
            "saw all six pandas together", "everyone came to the front for food", "heater down one degree for summer",
            "no deaths today", "carbon out again", "is this normal?", "ok", "will trim the moss next week",
        ):  # fmt: skip
            with self.subTest(text=text):
                self.assertEqual(self.left(text), ())

    def test_notes_of_ordinary_days_and_of_days_that_are_none(self) -> None:
        """Written down as a keeper might, before it was looked what becomes of them (tests/cases)."""
        names = (*self.NAMES, "dwarf gourami", "cherry shrimp", "clownfish", "royal gramma", "hammer coral",
                 "goldfish", "discus", "zebra danio")  # fmt: skip
        for file, told in (("ordinary.txt", False), ("told.txt", True)):
            for text in (CASES / file).read_text("utf-8").splitlines():
                with self.subTest(text=text):
                    self.assertEqual(bool(not_understood(text, REFERENCE.words, names)), told)

    def test_no_sign_of_something_is_no_riddle(self) -> None:
        self.assertEqual(self.left("cleaned the windows, no spray, no gasping"), ())
        self.assertTrue(self.left("no quux in the tank"))

    def test_what_may_be_anything_is_told_clause_by_clause(self) -> None:
        for text, left in (
            ("the quux hangs from the ceiling", ("the quux hangs from the ceiling",)),
            ("ate well, the stand bends", ("the stand bends",)),
            ("a meteor came, fish gasping", ("a meteor came", "fish gasping")),  # a finding answers the sign, or nobody
        ):
            with self.subTest(text=text):
                self.assertEqual(self.left(text), left)

    def test_words_about_when_or_where_do_not_explain_the_rest(self) -> None:
        for text, rest in (
            ("the whole shoal sulks since the change", True), ("all calm since the change", False),
            ("kh 6 and the pump groans", True), ("kh 6 in the evening", False),
            ("filter rattles and then goes silent", True), ("fish press against the glass", True),
            ("trimmed plants and threw out the old leaves", False),
        ):  # fmt: skip
            with self.subTest(text=text):
                self.assertEqual(bool(self.left(text)), rest)

    def test_what_was_heard_is_left_to_the_findings(self) -> None:
        for text in (
            "opened a black layer in the gravel",
            "gh went from 4 to 14",
            "co2 turned up",
            "room at 34 all day",
        ):
            with self.subTest(text=text):
                self.assertEqual(self.left(text), (text,))

    def test_who_says_that_all_is_well_has_explained_it(self) -> None:
        self.assertEqual(self.left("the quux hangs from the ceiling; all is well"), ())
        self.assertEqual(self.left("all is well, the quux hangs"), ("the quux hangs",))

    def test_the_words_of_a_deed_beside_it_are_the_deeds(self) -> None:
        self.assertEqual(self.left("wc 30 l xyz abc", beside_deed=True), ())
        self.assertEqual(self.left("the stand bends", beside_deed=True), ("the stand bends",))
