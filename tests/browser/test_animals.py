"""Choosing animals in the browser: searching while typing, one species in full, onto the plan, the matrix by keys."""

import re

from playwright.sync_api import expect

from tests.browser.base import PHONE, InBrowser


class Choosing(InBrowser):
    def test_what_is_typed_before_the_scripts_are_there_is_looked_for(self) -> None:
        page, held = self.page, []
        page.route(re.compile(r"\.js\b"), lambda route: held.append(route))
        page.goto("/tanks/sunroom-112/animals", wait_until="commit")
        page.get_by_label("Name, or what you look for").fill("ember")
        for script in held:
            script.continue_()
        expect(page.get_by_role("listitem").first).to_contain_text("Ember tetra")

    def test_type_a_name_open_it_and_put_it_on_the_plan(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112/stocking")
        page.get_by_role("link", name="Find animals").click()
        page.get_by_label("Name, or what you look for").fill("embr tetra")
        expect(page.get_by_role("listitem").first).to_contain_text("Ember tetra")
        page.get_by_role("link", name="Ember tetra").click()
        expect(page.get_by_role("article", name="Ember tetra")).to_contain_text("Ask the seller")
        self.allowed.add(422)
        page.get_by_label("How many").fill("0")
        page.get_by_role("button", name="Put on the plan").click()
        expect(page.get_by_role("alert")).to_contain_text("too low")
        expect(page.get_by_label("How many")).to_have_value("0")
        page.get_by_label("How many").fill("9")
        page.get_by_role("button", name="Put on the plan").click()
        expect(page.get_by_text("9 ember tetras").first).to_be_visible()

    def test_conditions_narrow_the_list(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112/animals")
        page.get_by_label("Kind").select_option("shrimp")
        expect(page.get_by_role("link", name="Guppy")).to_have_count(0)
        expect(page.get_by_role("link", name="Cherry shrimp")).to_be_visible()
        page.get_by_label(re.compile("only what fits")).check()
        expect(page.get_by_text("not here")).to_have_count(0)

    def test_a_cell_leads_to_its_sentence(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112/animals/together")
        page.get_by_label("Try out another").fill("betta")
        page.keyboard.press("Enter")
        page.get_by_label("Try out another").fill("guppy")
        page.keyboard.press("Enter")
        cell = page.get_by_role("link", name="guppies and fighting fish: keep apart", exact=True)
        cell.focus()
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("#f\\d+$"))
        expect(page.locator("li:target")).to_be_visible()
        page.get_by_role("link", name="without those tried out").click()
        expect(page.get_by_text("tried out", exact=True)).to_have_count(0)


class InTheShop(InBrowser):
    def test_the_answer_fits_a_phone(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/tanks/sunroom-112/animals?look=otocinclus")
        expect(page.get_by_role("heading", level=1)).to_contain_text("Otocinclus: not yet.")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        page.goto("/tanks/sunroom-112/animals/together?with=angelfish&with=guppy&with=oscar&with=betta")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
