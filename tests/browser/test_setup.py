"""Setting up in the browser: the drawing answers while typing and dragging, the run is walked, jobs are answered."""

import re

from playwright.sync_api import Locator, expect

from tests.browser.base import PHONE, InBrowser, notice, read_out


class Drawing(InBrowser):
    def setUp(self) -> None:
        super().setUp()
        self.page.goto("/tanks/sunroom-112/setup/volume")

    def net(self) -> Locator:
        return self.page.get_by_role("row", name=re.compile("^net water"))

    def test_it_redraws_while_typing_and_keeps_the_last_one_beside_an_error(self) -> None:
        page = self.page
        expect(self.net()).to_contain_text("108")
        expect(read_out(page)).to_have_text("")
        page.get_by_label(re.compile("^length")).and_(page.locator("input")).fill("100")
        expect(self.net()).to_contain_text("135")
        expect(read_out(page)).to_contain_text("net water 135")
        self.allowed.add(422)
        page.get_by_label("water line below the rim").and_(page.locator("input")).fill("60")
        expect(page.get_by_role("alert")).to_contain_text("at or below the bottom")
        expect(self.net()).to_contain_text("135")
        page.get_by_label("water line below the rim").and_(page.locator("input")).fill("5")
        expect(page.get_by_role("alert")).to_have_count(0)
        expect(self.net()).to_contain_text("132")

    def test_sizes_are_dragged_and_moved_by_keys(self) -> None:
        page = self.page
        field = page.locator("#f-length_cm")
        grip = page.get_by_role("slider", name="length", exact=True)
        box = grip.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 30, y, steps=4)
        page.mouse.up()
        expect(field).not_to_have_value("80")
        self.assertGreater(float(field.input_value()), 82)
        expect(self.net()).not_to_contain_text("108")
        tall = page.locator("#f-height_cm")
        page.wait_for_load_state("networkidle")  # the drawings of the way there have come
        page.get_by_role("slider", name="height").focus()
        page.keyboard.press("ArrowUp")
        expect(tall).to_have_value("45.5")
        expect(page.get_by_role("slider", name="height")).to_be_focused()
        page.keyboard.press("Shift+ArrowDown")
        expect(tall).to_have_value("40.5")

    def test_a_shape_shows_the_sizes_it_needs(self) -> None:
        page = self.page
        width, bow = page.locator("#f-width_cm"), page.locator("#f-bow_cm")
        expect(width).to_be_visible()
        expect(bow).to_be_hidden()
        page.get_by_label("shape").select_option("cylinder")
        expect(width).to_be_hidden()
        self.allowed.add(422)
        page.get_by_label("shape").select_option("bow_front")
        expect(bow).to_be_visible()
        bow.fill("8")
        expect(page.get_by_role("slider", name="bow beyond the sides")).to_be_visible()
        page.get_by_role("button", name="Save the volume").click()
        expect(page.get_by_label("shape")).to_have_value("bow_front")
        page.get_by_role("button", name="Take back the last change of settings").click()
        expect(page.get_by_label("shape")).to_have_value("box")


class SettingUp(InBrowser):
    def all_jobs(self, page) -> None:
        """Three stand in view, the rest is one press away."""
        more = page.locator(".jb-morejobs > summary")
        if more.count():
            more.click()

    def test_from_a_dry_tank_through_the_first_steps_on_the_phone(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/start/dry")
        page.get_by_label("its name").fill("Porch 60")
        self.allowed.add(422)  # asked between two sizes
        for name, value in (("#f-length_cm", "60"), ("#f-width_cm", "30"), ("#f-height_cm", "36")):
            page.locator(name).fill(value)
        expect(page.get_by_role("row", name=re.compile("^net water"))).to_contain_text("59")
        page.get_by_role("button", name="Next: filter and heat").click()
        self.allowed.clear()
        verdict = page.get_by_role("heading", level=1)  # after five fields
        expect(verdict).to_contain_text(re.compile(r"59.L to swim in\. First animals in about \d to"))
        expect(page.get_by_text(re.compile("Assumed so far: .*60.% of the"))).to_be_visible()
        page.get_by_role("radio", name="from a running tank").check()
        page.get_by_role("button", name="Next: how to cycle").click()
        expect(verdict).to_contain_text("Borrowed media fits")  # the answer of the step before is remembered
        page.get_by_role("button", name="Cycle this way").click()
        expect(verdict).to_contain_text("step by step")
        for _ in range(4):
            page.get_by_role("button", name="Done", exact=True).click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Wait.")
        expect(page.get_by_text(re.compile("Opens from Tue 24 Nov 19:40"))).to_be_visible()
        self.allowed.add(422)
        page.get_by_label("Counted").fill("much")
        page.get_by_role("button", name="Done already").click()
        expect(page.get_by_role("alert")).to_contain_text("“much” is not a number")
        expect(page.get_by_label("Counted")).to_have_value("much")
        page.get_by_label("Counted").fill("57")
        page.get_by_role("button", name="Done already").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Dose the conditioner")
        page.goto("/tanks/porch-60")
        expect(page.get_by_role("heading", level=1)).not_to_contain_text("still dry")

    def test_equipment_answers_while_typing(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112/setup/equipment")
        need = page.get_by_role("row", name=re.compile("^to hold"))
        before = need.inner_text()
        page.get_by_label("room in its coldest hours").fill("12")
        expect(need).not_to_have_text(before)
        expect(page.get_by_role("img", name=re.compile("after a heater fails"))).to_be_visible()
        page.get_by_role("button", name="Checked: Drip loop on every cable").click()
        row = page.get_by_role("listitem").filter(has=page.get_by_role("button", name="Checked: Drip loop"))
        expect(row).to_contain_text("last 24 Nov")

    def test_mixing_answers_while_typing(self) -> None:
        page = self.page
        page.goto("/tanks/landing-60/setup/water")
        salt = page.get_by_role("row", name=re.compile("^salt for"))
        expect(salt).to_contain_text("639")
        page.get_by_label("how much").fill("34")
        expect(salt).to_contain_text("1.28")
        expect(read_out(page)).to_contain_text("1.28")
        page.get_by_label("salinity wanted").fill("1.02")
        expect(page.get_by_role("alert")).to_contain_text("looks like a specific gravity")
        page.get_by_label("salinity wanted").fill("35")
        page.get_by_label("second water").select_option("Rain barrel")
        page.get_by_role("button", name="Use this as the new water").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Osmosis and Rain barrel")

    def test_the_school_is_chosen_and_switched_midway(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112/setup/school")
        borrowed = page.get_by_role("article").filter(has=page.get_by_role("heading", name="Borrowed media"))
        page.get_by_label("Is there a healthy tank that could lend media?").select_option("yes")
        page.get_by_role("button", name="What fits?").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Borrowed media would fit best")
        borrowed.get_by_role("link", name="its expected course").click()
        expect(page.get_by_text("What to expect by borrowed media")).to_be_visible()
        page.get_by_role("button", name="Go on by borrowed media").click()
        expect(borrowed).to_contain_text("your school")
        page.goto("/tanks/sunroom-112/settings")
        page.get_by_role("button", name="Take back the last change").click()

    def test_a_culture_and_what_is_off_for_it(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112/setup/culture")
        page.get_by_label("what", exact=True).select_option("bottle_frozen")
        expect(page.locator("#look").get_by_text(re.compile("dead with about 85"))).to_be_visible()
        page.get_by_label(re.compile("UV lamp off")).check()
        page.get_by_role("button", name="It is in").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("1 thing is switched off")
        page.goto("/tanks/sunroom-112")
        self.all_jobs(page)
        expect(page.get_by_text("Switch the UV lamp on again", exact=True)).to_be_visible()
        page.get_by_role("button", name=re.compile("^Done: Switch the UV lamp on again")).click()
        expect(notice(page)).to_contain_text("UV lamp")

    def test_jobs_are_put_off_and_skipped_with_a_reason(self) -> None:
        page = self.page
        page.goto("/tanks/landing-60")
        self.all_jobs(page)
        job = page.get_by_role("listitem").filter(has_text="Drip loop on every cable")
        job.get_by_text("Later, or not").click()
        self.allowed.add(422)
        job.get_by_role("button", name=re.compile("^Skip")).click()
        expect(job.get_by_text("Say why")).to_be_visible()
        job.get_by_role("button", name="Put off in 3 days").click()
        expect(notice(page)).to_contain_text("Put off until Fri 27 Nov")
        page.goto("/schedule")
        expect(page.get_by_text("Landing 60: Drip loop on every cable, until Fri 27 Nov")).to_be_visible()
        page.goto("/tanks/landing-60")
        notice(page).get_by_role("button", name="Undo").click()
        expect(notice(page)).to_contain_text("Undone")  # the page has come again
        self.all_jobs(page)
        expect(page.get_by_role("listitem").filter(has_text="Drip loop on every cable")).to_be_visible()

    def test_the_calendar_has_an_address_and_keys_lead_there(self) -> None:
        page = self.page
        page.goto("/")
        page.keyboard.press("g")
        page.keyboard.press("j")
        expect(page).to_have_url(re.compile("/schedule$"))
        page.get_by_role("button", name="Make a secret address").click()
        feed = page.get_by_label("Secret address").input_value()
        self.assertIn("BEGIN:VCALENDAR", page.request.get(feed).text())
