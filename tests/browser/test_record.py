"""The record over the years, photos, the log book, old notes and the helper's sheet, by role and label."""

import io
import re
from datetime import timedelta

from PIL import Image
from playwright.sync_api import expect

from tests.browser.base import DESK, PHONE, InBrowser, read_out
from tests.make import NOW

OLD = "Date;Nitrate;pH;What I did\n03/04/2026;20;7,2;Big clean\n10/04/2026;40;7,1;Big clean\n17/04/2026;20 drops;7,0;\n"


def picture(colour: str) -> dict[str, object]:
    out = io.BytesIO()
    Image.new("RGB", (300, 200), colour).save(out, "JPEG")
    return {"name": f"{colour}.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}


class TheRecord(InBrowser):
    def test_years_looked_through_by_keys_mouse_and_table(self) -> None:
        page = self.new_page(DESK)
        page.goto("/tanks/alcove-180/log")
        page.get_by_role("link", name="Over the years").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("since a year before")
        page.wait_for_load_state()  # a key before the scripts are there is nobody's
        picture_ = page.get_by_role("img", name=re.compile("Record of Alcove 180")).first
        nitrate = picture_.locator("[data-col='1']")
        expect(nitrate).not_to_be_empty()
        expect(picture_.locator("[data-less='1']")).to_have_text(re.compile(r"^[+−]?\d"))
        picture_.focus()
        page.keyboard.press("Shift+ArrowLeft")
        said = page.locator("#hist-out")
        expect(said).to_contain_text("Nitrate mg/L as NO3")
        before = said.inner_text()
        page.keyboard.press("ArrowLeft")
        expect(said).not_to_have_text(before)

        shown = page.get_by_role("group", name="Move the frame")
        page.get_by_role("link", name="Earlier").click()
        expect(shown).to_contain_text("2025 to")
        expect(page.get_by_role("link", name="Earlier")).to_be_focused()  # the new one
        expect(read_out(page)).to_contain_text("2025 to")
        page.locator("h1").click()
        page.keyboard.press("+")
        expect(page).to_have_url(re.compile("from=2025-12-18&to=2026-05-03"))
        expect(shown).to_contain_text("18 Dec 2025 to")
        expect(page.get_by_role("link", name="Earlier")).not_to_be_focused()  # it was left before
        box = page.locator("svg[data-brush]:visible").bounding_box()
        page.mouse.move(box["x"] + 0.2 * box["width"], box["y"] + 20)  # a stretch drawn on the thin picture
        page.mouse.down()
        page.mouse.move(box["x"] + 0.45 * box["width"], box["y"] + 20, steps=4)
        page.mouse.up()
        expect(page).to_have_url(re.compile("from=2024"))
        expect(shown).to_contain_text(re.compile(r"\d+ \w+ 2024 to \d+ \w+ 2025"))
        page.get_by_role("link", name="all", exact=True).click()
        expect(page.get_by_role("link", name="all", exact=True)).to_have_attribute("aria-current", "true")
        page.go_back()
        expect(page).to_have_url(re.compile("from=2024"))
        expect(shown).to_contain_text(re.compile(r"\d+ \w+ 2024 to \d+ \w+ 2025"))  # drawn anew: folds are shut by it

        page.set_viewport_size(PHONE)  # the narrow picture comes when it is looked at, with the same figures beside it
        narrow = page.get_by_role("img", name=re.compile("Record of Alcove 180"))
        expect(narrow).to_have_class(re.compile("narrow"))
        expect(narrow.locator("[data-col='1']")).not_to_be_empty()
        narrow.focus()
        page.keyboard.press("ArrowLeft")
        expect(said).to_contain_text("Nitrate mg/L as NO3")
        page.set_viewport_size(DESK)

        page.get_by_text("Other dates, other quantities").click()
        page.get_by_role("combobox", name="Laid over it").select_option("hall-96")
        page.get_by_role("checkbox", name="GH").check()
        page.get_by_role("button", name="Show").click()
        expect(page.locator(".hs.wide")).to_contain_text("GH")
        expect(shown).to_contain_text("Hall 96, by the age of the tank")
        page.get_by_text("Other dates, other quantities").click()
        with page.expect_download() as got:
            page.get_by_role("link", name="as a table (CSV)").click()
        self.assertIn("quantity,value", got.value.path().read_text())

    def test_a_photo_sent_compared_and_taken_from_the_phone(self) -> None:
        page = self.new_page(DESK)
        page.goto("/tanks/sunroom-112/photos")
        expect(page.get_by_role("heading", level=1)).to_contain_text("No photo yet")
        page.get_by_label("Photos", exact=True).set_input_files(
            {"name": "x.jpg", "mimeType": "image/jpeg", "buffer": b"MZ"}
        )
        page.get_by_label("In words").fill("first light")
        self.allowed.add(422)
        page.get_by_role("button", name="Keep").click()
        expect(page.locator("#e-photo")).to_contain_text("no picture")
        expect(page.get_by_label("In words")).to_have_value("first light")  # nothing typed is lost
        page.get_by_label("Photos", exact=True).set_input_files([picture("teal"), picture("orange")])
        page.get_by_role("button", name="Keep").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("2 photos")
        for box in page.get_by_role("checkbox", name=re.compile("Compare the photo")).all():
            box.check()
        page.get_by_role("button", name="Compare the two picked").click()
        divide = page.get_by_role("slider", name="The divide between A and B")
        expect(divide).to_be_visible()
        page.wait_for_load_state()
        divide.focus()
        page.keyboard.press("Home")
        expect(page.locator("#half rect")).to_have_attribute("width", "0")
        phone = self.new_page(PHONE)
        phone.goto("/tanks/sunroom-112")
        dock = phone.get_by_role("region", name="Log", exact=True)
        with phone.expect_file_chooser() as asked:
            dock.get_by_role("button", name="Photo").click()
        asked.value.set_files([picture("purple")])
        expect(dock.get_by_role("status")).to_contain_text("Saved. Photo of the tank")
        dock.get_by_role("button", name="Undo").click()
        expect(dock.get_by_role("status")).to_have_text("Undone.")

    def test_the_log_book_searched_and_several_shifted(self) -> None:
        page = self.new_page(DESK)
        page.goto("/tanks/alcove-180/log")
        page.get_by_role("searchbox", name="Look for").fill("gourami")
        page.get_by_role("button", name="Show").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("3 entries with “gourami”")
        page.get_by_role("link", name=re.compile("before it: what changed before Found dead")).click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("two weeks before")
        expect(page.get_by_text("new water").first).to_be_visible()
        page.go_back()
        page.get_by_role("checkbox", name=re.compile("Tick Found dead")).check()
        page.get_by_label("or shift by").fill("soon")
        self.allowed.add(422)
        page.get_by_role("button", name="Shift", exact=True).click()
        expect(page.locator("#e-several")).to_contain_text("no time to shift by")
        expect(page.get_by_role("checkbox", name=re.compile("Tick Found dead"))).to_be_checked()
        page.get_by_label("or shift by").fill("-1 h")
        page.get_by_role("button", name="Shift", exact=True).click()
        expect(page.get_by_text("07:00").first).to_be_visible()
        page.get_by_role("button", name=re.compile("Undo: Shifted 1 entry")).click()
        expect(page.get_by_text("taken back").first).to_be_visible()

    def test_old_notes_from_a_file_to_the_picture(self) -> None:
        page = self.new_page(DESK)
        page.goto("/tanks/alcove-180/log")
        page.get_by_role("link", name="old notes out of a spreadsheet").click()
        page.get_by_label("A file: XLSX").set_input_files(
            {"name": "old.csv", "mimeType": "text/csv", "buffer": OLD.encode()}
        )
        page.get_by_role("button", name="Look at it").click()
        expect(page.get_by_text("“20 drops” has a unit")).to_be_visible()
        page.get_by_label("“Big clean”, 2 times, means").fill("wc 50%")
        page.get_by_role("button", name="Look again").click()
        expect(page.get_by_text("86 L new water (50 %)").first).to_be_visible()
        page.get_by_role("button", name="Bring in 4 entries").click()
        expect(page).to_have_url(re.compile("history"))
        page.goto("/tanks/alcove-180/log?until=2026-04-12")
        expect(page.get_by_text("86 L new water (50 %)").first).to_be_visible()

    def test_a_helper_ticks_by_the_secret_address(self) -> None:
        page = self.new_page(DESK)
        page.goto("/tanks/hall-96/away")
        page.get_by_label("First day away").fill(NOW.date().isoformat())
        page.get_by_label("Last day away").fill((NOW.date() - timedelta(days=1)).isoformat())
        page.get_by_label("Whom to call").fill("us, any time")
        self.allowed.add(422)
        page.get_by_role("button", name="Make the sheet").click()
        expect(page.locator("#e-last")).to_contain_text("before the first")
        expect(page.get_by_label("Whom to call")).to_have_value("us, any time")
        page.get_by_label("Last day away").fill((NOW.date() + timedelta(days=5)).isoformat())
        page.get_by_role("button", name="Make the sheet").click()
        expect(page.get_by_text("Do not leave it like this.")).to_be_visible()  # Hall 96 is in an upset
        page.get_by_role("button", name="An address for the helper").click()
        address = page.locator(".aw-secret").inner_text()
        phone = self.new_page(PHONE)
        phone.goto(address)
        box = phone.get_by_role("button", name=re.compile("looked at, all normal on")).first
        box.click()
        expect(box).to_have_attribute("aria-pressed", "true")
        phone.get_by_label("What you saw").fill("all swim")
        phone.get_by_role("button", name="Send").click()
        phone.wait_for_url("**#said")
        page.goto("/tanks/hall-96/log")
        expect(page.get_by_text("all swim")).to_be_visible()
        page.goto("/tanks/hall-96/away")
        page.get_by_role("button", name="Withdraw the address").click()
        phone_answer = phone.goto(address)
        self.assertEqual(phone_answer.status, 410)
        self.problems.clear()

    def test_lengths_guests_a_quarantine_tank_and_ticks_in_the_shop(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/tanks/alcove-180/animals/book")
        expect(page.get_by_text("counted 6, 11, 17, 30: twice as many every 17 days")).to_be_visible()
        page.get_by_role("link", name="bronze corydoras").first.click()
        expect(page.get_by_role("img", name=re.compile("Length of the bronze corydoras"))).to_have_count(2)
        expect(page.get_by_text("It grows slower.")).to_be_visible()
        page.get_by_role("link", name="log a length").click()
        page.get_by_label(re.compile("^how many were measured")).fill("1")
        page.get_by_label(re.compile("^length, tail and all")).fill("6.6")
        page.get_by_role("button", name="Save").first.click()
        page.goto("/tanks/alcove-180/animals/book/of/bronze_corydoras")
        expect(page.get_by_text("It has outgrown the usual 6.5 cm")).to_be_visible()

        page.goto("/tanks/alcove-180/animals/book#quarantine")
        page.get_by_role("button", name="Set up a quarantine tank").click()
        expect(page).to_have_url(re.compile("/tanks/quarantine-of-alcove-180$"))
        page.goto("/tanks/quarantine-of-alcove-180/animals/book")
        page.get_by_role(
            "button", name="All home, and shelve this tank"
        ).click()  # nobody is in: nothing speaks against
        expect(page).to_have_url(re.compile("/tanks/alcove-180/animals/book$"))
        expect(page.get_by_role("button", name="Set up a quarantine tank")).to_be_visible()

        page.goto("/stores")
        first = page.get_by_role("region", name="For the shop").get_by_role("checkbox").first
        first.check()
        page.reload()
        expect(first).to_be_checked()
