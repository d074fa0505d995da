"""The stocking board by keys and by drag, an arrival day that survives a reload, and heads counted, in the browser."""

import re
from datetime import timedelta

from playwright.sync_api import Page, expect

from tests.browser.base import PHONE, InBrowser, notice, read_out
from tests.make import NOW

BOARD = "/tanks/sunroom-112/stocking"


class Board(InBrowser):
    def block(self, page: Page, name: str):
        return page.get_by_role("slider", name=re.compile(f"^{name}:"))

    def row(self, page: Page, name: str):
        return page.get_by_role("row", name=re.compile(f"^{name} "))

    def setUp(self) -> None:
        super().setUp()
        self.page.goto(BOARD)
        self.page.get_by_text("How they stand on their days").click()
        expect(self.row(self.page, "Batch two").first).to_contain_text("of")

    def test_what_comes_late_into_an_open_fold_is_read_out_and_into_a_closed_one_is_not(self) -> None:
        page = self.page
        page.add_init_script(
            "document.addEventListener('DOMContentLoaded', () => document.getElementById('planner').open = true)"
        )
        page.goto(BOARD)
        expect(read_out(page)).to_contain_text(re.compile(r"First sure days: Batch one \w+"))
        expect(page.locator("#board table")).to_be_attached()
        expect(read_out(page)).not_to_contain_text("under the limits")

    def test_keys_move_a_block_and_every_figure_answers(self) -> None:
        page = self.page
        board = page.locator("#board")
        before = self.row(board, "Batch two").inner_text()
        block = self.block(page, "Batch two")
        block.focus()
        page.keyboard.press("ArrowRight")
        expect(self.row(board, "Batch two")).to_contain_text("1 day later than 14 Dec")
        page.keyboard.press("Shift+ArrowRight")
        expect(self.row(board, "Batch two")).to_contain_text("8 days later than 14 Dec")
        expect(notice(page)).to_contain_text("Batch two on Tue 22 Dec, 8")  # spoken, and in sight
        page.keyboard.press("Escape")
        expect(self.row(board, "Batch two")).not_to_contain_text("later than")
        self.assertEqual(self.row(board, "Batch two").inner_text(), before)
        expect(notice(page)).to_have_text("")

    def test_enter_keeps_the_day_and_undo_brings_it_back(self) -> None:
        page = self.page
        self.block(page, "Batch two").focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Enter")
        saved = page.locator("form[role=status]")
        expect(saved).to_contain_text("Batch two moved from 14 Dec to 15 Dec")
        saved.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("slider", name=re.compile("^Batch two"))).to_have_attribute(
            "aria-valuetext", "Mon 14 Dec"
        )

    def test_a_block_is_dragged_by_the_hand(self) -> None:
        page = self.page
        page.evaluate("scrollTo(0, 0)")
        box = self.block(page, "Batch two").locator(".grip").bounding_box()
        per_day = float(page.locator("[data-board]").get_attribute("data-per-day"))
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 3 * per_day, y, steps=6)
        expect(self.row(page.locator("#board"), "Batch two")).to_contain_text("3 days later than")
        page.mouse.up()
        saved = page.locator("form[role=status]")
        expect(saved).to_contain_text("Batch two moved from 14 Dec to 17 Dec")
        saved.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("region", name="Batch two")).to_contain_text("on Mon 14 Dec")

    def test_an_animal_is_carried_into_another_batch(self) -> None:
        page = self.new_page({"width": 1280, "height": 2600})  # both batches in sight
        page.goto(BOARD)
        one = page.get_by_role("region", name="Batch one")
        one.get_by_label("change Batch one").click()
        one.get_by_label("into").first.select_option("a new batch")  # tried first: nothing is kept yet
        expect(notice(page)).to_contain_text("A new batch on")
        carried = page.get_by_role("region", name="Batch one").get_by_title("drag into another batch").nth(1)
        start = carried.bounding_box()
        end = page.get_by_role("heading", name=re.compile("^Batch two")).bounding_box()
        page.mouse.move(start["x"] + 10, start["y"] + 8)
        page.mouse.down()
        page.mouse.move(start["x"] + 30, start["y"] + 40, steps=5)
        page.mouse.move(end["x"] + 20, end["y"] + 10, steps=10)
        page.mouse.up()
        saved = page.locator("form[role=status]")
        expect(saved).to_contain_text("4 nerite snails moved from batch one to batch two")
        saved.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("region", name="Batch one")).to_contain_text("nerite snails")

    def test_a_locked_block_does_not_move(self) -> None:
        page = self.page
        page.get_by_label("change Batch two").click()
        page.get_by_role("button", name="lock day and animals of Batch two", exact=True).click()
        expect(self.block(page, "Batch two")).to_have_attribute("aria-disabled", "true")
        page.get_by_label("change Batch two").click()
        page.get_by_role("button", name="unlock Batch two").click()
        expect(self.block(page, "Batch two")).not_to_have_attribute("aria-disabled", "true")

    def test_the_planners_days_are_one_press(self) -> None:
        page = self.page
        page.get_by_text("What the planner would do").click()
        page.get_by_role("button", name="Take these days").click()
        saved = page.locator("form[role=status]")
        expect(saved).to_contain_text("The planner's days")
        saved.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("region", name="Batch two")).to_contain_text("on Mon 14 Dec")


class ArrivalDay(InBrowser):
    def test_the_timer_goes_on_where_it_was_after_a_reload(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/tanks/sunroom-112/stocking")
        page.get_by_role("link", name="Arrival day of Batch one").click()
        page.get_by_role("textbox", name="water in the bag").fill("1.5")
        page.get_by_role("textbox", name="temperature of the bag").fill("23")
        page.get_by_role("textbox", name="pH of the bag").fill("6.9")
        page.get_by_role("button", name="Begin").click()
        page.get_by_role("button", name="Lights are off").click()
        page.get_by_role("button", name="It floats").click()
        timer = page.get_by_role("timer")
        expect(timer).to_contain_text(re.compile(r"\d+ min \d+ s to go"))
        self.served.set_clock(NOW + timedelta(minutes=10))
        page.reload()
        left = re.search(r"(\d+) min", timer.inner_text())
        self.assertLess(int(left[1]), 60)
        self.served.set_clock(NOW + timedelta(hours=2))
        page.reload()
        expect(timer).to_have_count(0)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        while page.get_by_role("button", name=re.compile("^(Added|It drips)$")).count():
            self.served.set_clock(self.served.app.state.settings.now + timedelta(hours=3))
            page.reload()
            page.get_by_role("button", name=re.compile("^(Added|It drips)$")).click()
        self.served.set_clock(self.served.app.state.settings.now + timedelta(hours=3))
        page.reload()
        page.get_by_role("textbox", name="kuhli loaches alive").fill("5")
        self.allowed.add(409)
        page.get_by_role("button", name="They are across").click()
        expect(page.get_by_role("alert")).to_contain_text("The gate holds batch one")
        expect(page.get_by_role("textbox", name="kuhli loaches alive")).to_have_value("5")
        page.get_by_role("textbox", name=re.compile("The reason")).fill("they cannot go back")
        page.get_by_role("button", name="They are across").click()
        page.goto("/tanks/sunroom-112/animals/book")
        expect(page.get_by_role("heading", level=1)).to_contain_text("9 animals of 2 kinds")
        page.get_by_role("textbox", name="seen of kuhli loaches").fill("4")
        page.get_by_role("button", name="Save the count").click()
        expect(page.get_by_text("1 not seen since")).to_be_visible()
