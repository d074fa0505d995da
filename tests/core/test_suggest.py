"""How a line may go on while it is typed."""

import unittest

from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.line.suggest import MOST, suggestions
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.kit import Kit
from jarbloom.units import Units
from tests.make import NOW, REFERENCE

HERE = Setting(112, Kit(), Units(), REFERENCE.species, {"harlequin_rasbora": 8, "guppy": 6, "kuhli_loach": 0})


def words(line: str) -> list[str]:
    return [t.words for t in suggestions(line, HERE)]


class Suggestions(unittest.TestCase):
    def test_words_of_the_log(self) -> None:
        self.assertEqual(words("nit"), ["nitrite", "nitrate"])
        self.assertEqual(words("am .25 con"), ["conditioner"])
        self.assertEqual(words("n"), [])  # a letter tells nothing yet
        self.assertEqual(words("am .25 "), [])
        self.assertEqual(words(""), [])

    def test_those_who_live_here_where_one_of_them_is_meant(self) -> None:
        self.assertEqual(words("dead 2 h"), ["harlequin rasboras"])
        self.assertEqual(words("lost 1 ras"), ["harlequin rasbora"])
        self.assertEqual(words("dead 1 k"), [])  # none is left
        self.assertEqual(words("dead 2 neon"), [])

    def test_the_catalogue_for_newcomers_those_here_first(self) -> None:
        self.assertEqual(words("in 8 ha")[0], "harlequin rasboras")
        self.assertIn("neon tetras", words("in 8 neon t"))
        self.assertLessEqual(len(words("added 6 te")), MOST)
        self.assertNotIn("unknown", words("in 3 un"))

    def test_what_a_clause_asks(self) -> None:
        self.assertEqual(words("media t"), ["tank", "tap"])
        self.assertEqual(words("off u"), ["uv"])
        self.assertIn("Java fern", words("planted 5 java"))

    def test_every_one_is_a_line_that_is_understood(self) -> None:
        for line in ("dead 2 h", "in 6 neon", "media ta", "off sk", "planted 5 j", "wc 30% counted 8 har"):
            for tap in suggestions(line, HERE):
                with self.subTest(tap=tap.line):
                    self.assertTrue(tap.line.startswith(line.rsplit(" ", 1)[0]))
                    self.assertTrue(parse(tap.line, NOW, HERE).bodies)


if __name__ == "__main__":
    unittest.main()
