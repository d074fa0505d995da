"""The pages about animals through HTTP: answers, bad input, and the way onto the plan."""

from __future__ import annotations

import html
import re

from tests.make import REFERENCE
from tests.web.test_pages import Web

TANK = "/tanks/sunroom-112"


class Finder(Web):
    def test_the_fragment_answers_names_slips_and_nothing(self) -> None:
        self.assertIn("Guppy", self.said(f"{TANK}/animals/found?q=gupy"))
        self.assertIn("Nothing in the catalogue is called “zzzz”", self.said(f"{TANK}/animals/found?q=zzzz"))
        read = self.said(f"{TANK}/animals/found?q=bottom+under+5+cm+no+heater+fits")
        self.assertIn("Read as: lives at the bottom, fresh water, up to 5", read)
        self.assertNotIn("not here", read)

    def test_while_the_gate_holds_nothing_goes_in_today(self) -> None:
        text = self.said(f"{TANK}/animals")
        self.assertIn("No animal goes in today.", text)
        self.assertNotRegex(text, r"up to \d+ now")

    def test_a_name_from_other_water_is_answered_with_the_reason(self) -> None:
        text = self.said(f"{TANK}/animals?look=ocellaris_clownfish")
        self.assertIn("Ocellaris clownfish: not here.", text)
        self.assertIn("g/kg", text)
        self.said(f"{TANK}/animals?look=no_such_animal", 404)

    def test_onto_the_plan_and_what_is_refused_keeps_what_was_typed(self) -> None:
        for count, said in (("0", "too low"), ("500", "too high"), ("2.5", "come whole"), ("many", "not a number")):
            with self.subTest(count=count):
                answer = self.post(f"{TANK}/animals/plan", {"species": "ember_tetra", "count": count, "batch": "new"})
                self.assertEqual(answer.status_code, 422)
                self.assertIn(said, re.search(r'id="e-count">([^<]*)', answer.text)[1])
                self.assertRegex(answer.text, rf'id="count"[^>]*value="{re.escape(count)}"')
        before = self.said(f"{TANK}/stocking").count('class="jb-batch"')
        for _ in range(2):
            good = self.post(f"{TANK}/animals/plan", {"species": "ember_tetra", "count": "8", "batch": "new"})
            self.assertEqual(good.status_code, 303)
        text = self.said(f"{TANK}/stocking")
        self.assertIn("ember tetras", text)
        self.assertEqual(text.count('class="jb-batch"'), before + 2)
        odd = self.post(f"{TANK}/animals/plan", {"species": "ember_tetra", "count": "8", "batch": "x"})
        self.assertEqual(odd.status_code, 422)

    def test_more_of_a_species_is_added_to_those_who_wait(self) -> None:
        batch = self.said(f"{TANK}/animals?look=kuhli_loach").split('<option value="')[1:]
        first = next(o.split('"')[0] for o in batch if o.split('"')[0].isdigit())
        for _ in range(2):
            self.post(f"{TANK}/animals/plan", {"species": "ember_tetra", "count": "5", "batch": first})
        self.assertRegex(self.said(f"{TANK}/stocking"), r'id="n\d+ember_tetra"[^>]*value="10"')

    def test_plants_are_put_in_and_taken_out_on_their_page(self) -> None:
        path = "/tanks/hall-96/animals/plants"
        self.assertIn("No plants in the log.", self.said(path))
        self.assertEqual(self.post(path, {"plant": "hornwort", "count": "4", "went": "in"}).status_code, 303)
        grown = self.said(path)
        self.assertIn("1 kind of plants.", grown)
        self.assertIn("Saved. Plants: 4 hornwort put in", grown)
        self.assertIn("proves less of the bloom", grown)
        refused = self.post(path, {"plant": "java_moss", "count": "many", "went": "in"})
        self.assertEqual(refused.status_code, 422)
        self.assertIn('value="many"', refused.text)
        self.assertNotIn("Saved.", refused.text)
        self.assertEqual(self.post(path, {"plant": "blorb", "went": "in"}).status_code, 422)
        self.post(path, {"plant": "hornwort", "count": "4", "went": "lost"})
        self.assertIn("No plants in the log.", self.said(path))


class Together(Web):
    def test_the_matrix_and_its_sentences(self) -> None:
        text = html.unescape(self.get(f"{TANK}/animals/together?with=angelfish&with=guppy").text)
        self.assertIn("tried out", text)
        self.assertIn("nip fins, and guppies carry long ones", text)
        self.assertIn("angelfish in this tank: not in this tank as it is", text)

    def test_the_smallest_tank_for_those_tried_out(self) -> None:
        text = html.unescape(self.get(f"{TANK}/animals/together?with=oscar&alone=on").text)
        self.assertIn("180\u00a0cm x 60\u00a0cm", text)
        self.assertIn("ask a structural professional", text)
        self.assertNotIn("kuhli loaches", text)
        self.assertIn("with those who live here or are planned", text)

    def test_a_wrong_name_is_told_and_the_others_stay(self) -> None:
        answer = self.get(f"{TANK}/animals/together?with=guppy&with=neon+tetrra")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Did you mean neon tetra", answer.text)
        self.assertIn('value="neon tetrra"', answer.text)
        self.assertRegex(answer.text, r'name="with"\s+value="guppy"')

    def test_fifteen_species_stand_in_one_half_matrix(self) -> None:
        keys = list(REFERENCE.species)[:15]
        text = self.get(f"{TANK}/animals/together?" + "&".join(f"with={k}" for k in keys)).text
        rows = text.count('<th scope="row">')
        self.assertGreaterEqual(rows, 15)
        cells = text.split("<tbody>")[1].split("</tbody>")[0].count("<td")
        self.assertEqual(cells, rows * (rows + 1) // 2)
