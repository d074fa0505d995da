"""Page data about animals: the matrix and the words of the finder."""

from __future__ import annotations

import unittest

from jarbloom.core.animals.compatibility import case_of
from jarbloom.core.animals.finder import FinderQuery, find, judge
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.check import Check
from jarbloom.units import Units
from jarbloom.views.stocking.finder import finder_page
from jarbloom.views.stocking.together import together_page
from tests.core.test_animals import TODAY, home
from tests.make import REFERENCE
from tests.views.test_page_data import seen

SPECIES = REFERENCE.species
CLOSED = Check("fresh_nitrite", False, "Nitrite was never read.", "a nitrite reading")


def case(*animals: Animals, **changes: object):
    return case_of(home(**changes), animals, SPECIES, TODAY, Units())


class Matrix(unittest.TestCase):
    def test_nobody_and_at_ease(self) -> None:
        self.assertEqual(together_page(case(), (), ()).call, "Nobody to compare yet.")
        calm = together_page(case(Animals("ember_tetra", 10), Animals("pygmy_corydoras", 8)), ("ember_tetra",), ())
        self.assertTrue(calm.call.startswith("They go together"))
        self.assertEqual([line.status for line in calm.lines], ["lives here", "tried out"])

    def test_a_later_danger_gives_its_month_and_leads_to_its_sentence(self) -> None:
        large = {"litres": 400.0, "length_cm": 150.0, "width_cm": 60.0}
        p = together_page(case(Animals("neon_tetra", 10), Animals("angelfish", 4), **large), (), ())
        self.assertRegex(p.call, r"^Together until [A-Z]\w+ 20\d\d\.$")
        cell = p.lines[1].cells[0]
        self.assertEqual((cell.level, cell.later), ("apart", True))
        self.assertIn(cell.anchor, [s.anchor for part in p.parts for s in part.sentences])


class Finder(unittest.TestCase):
    def page(self, key: str = "", standing: tuple[Check, ...] = (), room: float = 50.0):
        here = case()
        one = judge(SPECIES[key], here, room) if key else None
        answers = find(FinderQuery(water="fresh"), here, SPECIES, room)
        return finder_page(seen().situation, here, FinderQuery(), answers, {False: standing, True: standing}, one, room)

    def test_now_needs_an_open_gate_room_and_a_whole_group(self) -> None:
        self.assertRegex(self.page().call, r"^\d+ kinds could go in now\.$")
        self.assertRegex(self.page("ember_tetra").call, r"^Ember tetras: up to \d+ now\.$")
        self.assertEqual(self.page("ember_tetra", (CLOSED,)).call, "Ember tetras: yes, but not today.")
        self.assertEqual(self.page("ember_tetra", room=0.5).call, "Ember tetras: yes, but not yet.")
        closed = self.page(standing=(CLOSED,))
        self.assertIn("a nitrite reading", closed.words)
        self.assertFalse([r for r in closed.rows if "up to" in r.now])

    def test_sensitive_animals_wait_for_the_slower_pace(self) -> None:
        here = case()
        answers = [judge(SPECIES[k], here, 50.0) for k in ("ember_tetra", "rummy_nose_tetra")]
        page = finder_page(seen().situation, here, FinderQuery(), answers, {False: (), True: (CLOSED,)}, None, 50.0)
        now = {r.key: r.now for r in page.rows}
        self.assertRegex(now["ember_tetra"], r"^up to \d+ now$")
        self.assertEqual(now["rummy_nose_tetra"], "none today")
        self.assertEqual(page.call, "1 kind could go in now.")

    def test_a_row_tells_what_it_rests_on_and_who_looked_twice(self) -> None:
        told = {}
        for key in ("guppy", "socolofi_cichlid", "figure_eight_puffer", "firefish", "hammer_coral"):
            one = self.page(key).one
            assert one
            told[key] = dict(one.facts)["The row"]
        self.assertIn("another hand wrote down unseen; ranges from handbooks of freshwater keeping", told["guppy"])
        self.assertIn("the same hand wrote down unseen", told["socolofi_cichlid"])
        self.assertIn("handbooks of brackish tanks", told["figure_eight_puffer"])
        self.assertIn("handbooks of saltwater keeping", told["firefish"])
        self.assertIn("the practice of reef keepers", told["hammer_coral"])

    def test_long_animals_are_marked_as_not_to_scale(self) -> None:
        oscar, ember = self.page("oscar").one, self.page("ember_tetra").one
        assert oscar and ember
        self.assertEqual((oscar.found.to_scale, ember.found.to_scale), (False, True))
