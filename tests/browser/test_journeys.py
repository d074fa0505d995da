"""The real interface by role and label: from an empty start to first fish, and through a bad day."""

import re
from datetime import timedelta

from playwright.sync_api import expect

from tests.browser.base import PHONE, InBrowser, notice
from tests.make import NOW


class FromNothing(InBrowser):
    with_demo = False

    def test_a_tank_from_fill_to_first_fish_and_through_a_spike(self) -> None:
        page = self.page
        page.goto("/")
        page.get_by_role("link", name=re.compile("It has been cycling")).click()
        page.get_by_label("its name").fill("Sunroom 112")
        self.allowed.add(422)  # the drawing says what is missing when it is asked between two sizes
        for label, value in (("long, cm", "80"), ("front to back, cm", "35"), ("high, cm", "45")):
            page.get_by_label(label).fill(value)
        page.get_by_label("first day with water").fill("2026-10-10")
        page.get_by_role("button", name="Next: filter and heat").click()
        page.get_by_role("link", name="leave it as assumed").click()
        page.get_by_role("button", name="Cycle this way").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Nothing to forecast yet")
        self.allowed.clear()

        # log by shorthand: chips come while typing, Enter saves, the verdict changes
        line = page.get_by_role("textbox", name="Log: what was read or done")
        line.fill("10 oct 18:00 dose 2 mg/l")
        expect(page.locator("#chips")).to_contain_text("rises 2")
        line.press("Enter")
        expect(notice(page)).to_contain_text("Ammonia dose")
        page.goto("/tanks/sunroom-112/log/lines")  # the notes of six weeks in one paste
        page.get_by_label(re.compile("^Lines, each")).fill("\n".join((
            "20 oct 19:00 am 1 ni 1 na 5", "2 nov 19:00 am 0 ni 5", "2 nov 19:30 dose 2 mg/l",
            "10 nov 19:00 am 0 ni 0 na 20", "21 nov 18:00 dose 2 mg/l", "22 nov 17:30 am 0 ni 0",
            "22 nov 18:00 dose 2 mg/l", "23 nov 17:30 am 0 ni 0", "23 nov 18:00 dose 2 mg/l",
        )))  # fmt: skip
        page.get_by_role("button", name="Read them").click()
        page.get_by_role("button", name="Save 9 lines").click()
        page.goto("/tanks/sunroom-112")
        field = page.get_by_role("textbox", name="Log: what was read or done")
        field.fill("17:30 am 0 ni 0 na 20 ph 7.4 t 25")
        field.press("Enter")
        expect(field).to_have_value("")  # the page with the saved line has come
        expect(notice(page)).to_be_visible()
        expect(page.get_by_role("heading", level=1)).not_to_contain_text("Nothing to forecast")

        # plan a batch, see the gate, mark it in
        page.get_by_role("link", name="Stocking").click()
        page.get_by_label("Plan a batch for").fill("2026-11-24")
        page.get_by_role("button", name="Add a batch").click()
        page.get_by_label("How many").fill("8")
        page.get_by_label("Add a species to Batch one").fill("harlequin rasbora")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_role("region", name="Batch one")).to_contain_text("8 harlequin rasboras, 4.5 cm")
        page.get_by_label(re.compile("^all that is asked of Batch one")).click()
        expect(page.get_by_text("The target dose was cleared within 24 hours 3 of 2 times").last).to_be_visible()
        if page.get_by_label("The reason, kept in the log").count():
            page.get_by_label("change Batch one").click()
            page.get_by_label("The reason, kept in the log").fill("the gate is tried here")
            page.get_by_role("button", name="They are in, against the gate").click()
        else:
            page.get_by_role("button", name="They are in").click()
        expect(notice(page)).to_contain_text("Batch one is in")

        # a spike: the verdict acts, a death is logged, the changes are listed and ticked off
        line = page.get_by_role("textbox", name="Log: what was read or done")
        line.fill("am 4 ni 1 ph 7.8 dead 1 rasbora")
        line.press("Enter")
        expect(page.get_by_role("heading", level=1)).to_contain_text("Act now: change")
        page.get_by_role("link", name="Open the upset desk").click()
        expect(page.get_by_text("First aid: right whatever the cause is")).to_be_visible()
        rows = page.get_by_role("table").filter(has_text="free ammonia").get_by_role("row")
        self.assertGreater(rows.count(), 1)
        expect(page.get_by_text("7 animals")).to_be_visible()
        page.get_by_role("button", name=re.compile(r"^Done: Change \d+")).click()
        expect(page).to_have_url(re.compile("/upset$"))
        expect(page.get_by_role("heading", level=1)).to_contain_text("Test at 20:40")
        page.get_by_role("link", name="Now").click()
        expect(page.locator(".jb-job.done").filter(has_text="Water change")).to_be_visible()

        # days pass: a clean day, a second one, and the upset is over
        self.addCleanup(self.served.set_clock, NOW)
        for days, text, said in (
            (1, "am 0 ni 0 ph 7.6", "One clean day"),
            (2, "am 0 ni 0", None),
        ):
            self.served.set_clock(NOW + timedelta(days=days))
            page.reload()
            field = page.get_by_role("textbox", name="Log: what was read or done")
            field.fill(text)
            field.press("Enter")
            expect(field).to_have_value("")
            expect(notice(page)).to_contain_text("Test readings")
            heading = page.get_by_role("heading", level=1)
            if said:
                expect(heading).to_contain_text(said)
            else:
                expect(heading).not_to_contain_text(re.compile("Act now|Hold everything"))
        page.get_by_role("link", name="Upset desk").click()
        expect(page.get_by_text("2 of 2 clean days")).to_be_visible()

    def test_fish_are_in_and_something_is_wrong(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/start")
        page.get_by_role("link", name=re.compile("Fish are in and something is wrong")).click()
        page.get_by_label("Water in it, about").fill("60")
        page.get_by_label("What lives in it").fill("6 neon tetra and 2 corys")
        page.get_by_label("ammonia").fill("2")
        page.get_by_label("pH", exact=True).fill("8")
        page.get_by_label("gasping at the surface").check()
        page.get_by_role("button", name="Get the plan").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Act now: change")
        expect(page.get_by_role("heading", name="Refill recipe")).to_be_visible()
        expect(page.get_by_text("gasping at the surface,")).to_be_visible()


class WithTheDemo(InBrowser):
    def test_questions_are_answered_by_a_click_and_bad_text_stays(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112")
        line = page.get_by_role("textbox", name="Log: what was read or done")
        line.fill("12:00 am .25 na 1o")
        page.get_by_role("button", name="10", exact=True).click()
        expect(line).to_have_value("12:00 am .25 na 10")
        expect(page.locator("#chips")).to_contain_text("7.5 to 15")
        self.allowed = {422}
        line.fill("xqz 3")
        line.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("not understood")
        expect(page.get_by_role("textbox", name="Log: what was read or done")).to_have_value("xqz 3")

    def test_saved_can_be_undone_at_once(self) -> None:
        page = self.page
        page.goto("/tanks/hall-96")
        page.evaluate("() => navigator.serviceWorker.ready")
        page.get_by_role("textbox", name="Log: what was read or done").fill("note a visitor tapped the glass")
        page.keyboard.press("Enter")
        expect(notice(page)).to_contain_text("a visitor tapped the glass")
        expect(page).to_have_url(re.compile("/tanks/hall-96$"))
        page.evaluate("""async () => { const last = async () => (await caches.match('/tanks/hall-96'))?.text() || '';
            while (!(await last()).includes('a visitor tapped')) { await new Promise(r => setTimeout(r, 50)); } }""")
        page.reload()  # asks for the page, and sends nothing again
        notice(page).get_by_role("button", name="Undo").click()
        expect(notice(page)).to_contain_text("Undone")
        page.get_by_role("link", name="Log book").click()
        expect(page.locator(".jb-entry").filter(has_text="a visitor tapped the glass").first).to_contain_text("Undone")
        page.goto("/tanks/hall-96/log?all=1")
        expect(page.locator(".jb-entry.note").filter(has_text="a visitor tapped the glass")).to_have_count(1)

    def test_correcting_and_voiding_in_the_log_book(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112/log?kind=test")
        page.get_by_role("link", name=re.compile("Correct Test readings of 17:00")).first.click()
        page.get_by_label("nitrite").fill("1")
        page.get_by_label("note").fill("looked again in daylight")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("looked again in daylight")).to_be_visible()
        page.get_by_role("button", name="Void Conditioner of 15:00").click()
        page.get_by_text("Kind, day, struck ones").click()
        page.get_by_role("checkbox", name="with struck ones").check()
        page.get_by_role("button", name="Show").click()
        expect(page.locator(".jb-entry.void")).to_have_count(1)
        expect(page.locator(".jb-entry.superseded")).to_have_count(1)

    def test_the_chart_is_read_with_the_keyboard(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112")
        page.get_by_role("img", name=re.compile("Headroom of Sunroom 112")).first.focus()
        readout = page.locator("#days-out")
        expect(readout).to_contain_text("Tue 24 Nov")
        page.keyboard.press("ArrowRight")
        expect(readout).to_contain_text("Wed 25 Nov · sure")
        page.keyboard.press("Shift+ArrowLeft")
        expect(readout).to_contain_text("Wed 18 Nov")
        page.keyboard.press("d")
        expect(page.get_by_role("columnheader", name="at best")).to_be_visible()

    def test_what_if_beside_the_plan(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112")
        page.get_by_role("link", name="Outlook").click()
        page.get_by_role("link", name="un-ionised").click()
        expect(page.get_by_role("img", name=re.compile("ammonia, un-ionised of Sunroom 112")).first).to_be_visible()
        page.get_by_label("What would be done, 1").fill("wc 40%")
        page.get_by_label("What would be done, 2").fill("dose 4 mg/l")
        page.get_by_role("button", name="Compare").click()
        expect(page.get_by_role("heading", name="as planned")).to_be_visible()
        expect(page.get_by_role("heading", name="dose 4 mg/l, today")).to_be_visible()
        page.wait_for_load_state()
        page.get_by_role("img", name=re.compile("ammonia, un-ionised of Sunroom 112")).first.focus()
        page.keyboard.press("ArrowRight")
        expect(page.locator("#fan-days-out")).to_contain_text("Wed 25 Nov · 5 %")
        self.allowed = {422}
        page.get_by_label("What would be done, 2").fill("dose 4 stones")
        page.get_by_role("button", name="Compare").click()
        expect(page.get_by_text("Dose 4 of what?")).to_be_visible()
        expect(page.get_by_label("What would be done, 1")).to_have_value("wc 40%")

    def test_a_finger_reads_the_outlook_on_the_phone(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/tanks/sunroom-112/outlook?q=capacity")
        chart = page.get_by_role("img", name=re.compile("capacity and load of Sunroom 112")).last
        box = chart.bounding_box()
        assert box is not None
        readout = page.locator("#fan-days-out")
        page.mouse.click(box["x"] + 0.9 * box["width"], box["y"] + 60)
        expect(readout).to_contain_text("Dec")
        later = readout.text_content()
        page.mouse.click(box["x"] + 0.5 * box["width"], box["y"] + 60)
        expect(readout).not_to_have_text(later or "")

    def test_single_keys(self) -> None:
        page = self.page
        page.goto("/tanks/sunroom-112")
        page.keyboard.press("w")
        expect(page.get_by_text("What would change this")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_text("What would change this")).to_be_hidden()
        page.keyboard.press("l")
        expect(page.get_by_role("textbox", name="Log: what was read or done")).to_be_focused()
        page.keyboard.press("Escape")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_be_visible()
        page.keyboard.press("Escape")
        page.keyboard.press("g")
        page.keyboard.press("s")
        expect(page).to_have_url(re.compile("/stocking$"))
        page.wait_for_load_state()  # keys are heard once the page's scripts have run
        page.keyboard.press("e")
        expect(page.locator("html")).to_have_attribute("data-bs-theme", "evening")
        page.wait_for_load_state()
        page.keyboard.press("e")
        expect(page.locator("html")).to_have_attribute("data-bs-theme", "light")

    def test_the_keys_at_the_tank(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/tanks/sunroom-112")
        dock = page.get_by_role("region", name="Log", exact=True)
        said = dock.get_by_role("status")
        dock.get_by_role("button", name="Test").click()  # six taps for two readings
        dock.get_by_role("button", name="one step up, ammonia").click()
        expect(dock.locator(".val")).to_contain_text("0.12 to 0.38")
        dock.get_by_role("button", name="then nitrite").click()
        dock.get_by_role("button", name="Save 2 readings").click()
        expect(said).to_contain_text("ammonia 0.25, nitrite")
        expect(dock.get_by_role("button", name="Found dead")).to_be_visible()  # the sheet ends itself
        said.get_by_role("button", name="Undo").click()
        expect(said).to_have_text("Undone.")

        dock.get_by_role("button", name="Type").click()
        dock.get_by_role("textbox", name="Log line").fill("wc 10%")
        expect(page.locator("#dock-chips")).to_contain_text("11 L")
        dock.get_by_role("button", name="close").click()
        expect(dock.get_by_role("button", name="Type")).to_be_focused()

        page.goto("/tanks/hall-96")
        dock.get_by_role("button", name="Found dead").click()  # a death within three taps
        dock.get_by_role("button", name="harlequin rasbora").click()
        expect(said).to_contain_text("1 harlequin rasbora")
        said.get_by_role("button", name="Undo").click()
        expect(said).to_have_text("Undone.")

    def test_without_network_lines_are_kept_and_go_in_once_with_their_own_time(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/tanks/hall-96")
        page.evaluate("""async () => { while (!await caches.match('/tanks/hall-96')) {
            await new Promise(r => setTimeout(r, 50)); } }""")
        page.clock.install()
        page.context.set_offline(True)
        self.served.silent_at = "/log/quick"  # while a page loads the browser's own switch may not hold yet
        self.allowed_texts = ("ERR_INTERNET_DISCONNECTED", "ERR_FAILED", "status of 503")
        dock, kept = page.get_by_role("region", name="Log", exact=True), page.locator("#kept")
        dock.get_by_role("button", name="Seen").click()
        dock.get_by_role("button", name="water milky").click()
        expect(kept).to_contain_text("No answer from the house")
        expect(kept).to_contain_text("saw water milky")
        page.reload()  # the page itself is there too, as last looked at
        expect(page.get_by_role("heading", level=1)).to_contain_text("Act now")
        expect(kept).to_contain_text("saw water milky")
        page.clock.fast_forward("02:00:00")
        self.served.silent_at = ""
        page.context.set_offline(False)
        page.clock.run_for(20_000)
        expect(kept).to_be_hidden()
        page.goto("/tanks/hall-96/log")
        row = page.locator(".jb-entry").filter(has_text="void").filter(has_text="milky")
        expect(row).to_have_count(1)
        expect(row).to_contain_text(re.compile("16:(3[5-9]|40)"))  # two hours before the house's clock

    def test_a_paste_of_several_lines_and_the_last_ones_by_the_up_key(self) -> None:
        page = self.page
        page.goto("/tanks/hall-96")
        line = page.get_by_role("textbox", name="Log: what was read or done")
        line.evaluate("""el => { const data = new DataTransfer();
            data.setData('text', '2026-11-02 20:00 note one\\n2026-11-02 20:10 flurb 3\\n2026-11-02 20:20 note two');
            el.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true})); }""")
        expect(page.get_by_role("heading", level=1)).to_contain_text("Several lines")
        page.get_by_role("button", name="Save the 2 good lines").click()
        expect(notice(page)).to_contain_text("2 lines at once: 2 entries")
        expect(page.get_by_label(re.compile("^Lines, each"))).to_have_value("2026-11-02 20:10 flurb 3")
        notice(page).get_by_role("button", name="Undo").click()

        page.goto("/tanks/hall-96")
        line.fill("note by hand")
        line.press("Enter")
        expect(notice(page)).to_contain_text("by hand")
        line.fill("half a li")
        page.goto("/tanks/hall-96/log")
        page.go_back()
        expect(line).to_have_value("half a li")  # going back finds it again
        line.press("ArrowUp")
        expect(line).to_have_value("note by hand")
        line.press("ArrowDown")
        expect(line).to_have_value("")
        page.get_by_role("button", name="Undo").click()

        page.goto("/tanks/hall-96")
        line.fill("counted 7 h")  # how it may go on, by the arrow keys
        on = page.get_by_role("group", name="Go on with").get_by_role("button")
        expect(on).to_have_text(["harlequin rasboras"])
        line.press("ArrowDown")
        expect(on).to_be_focused()
        page.keyboard.press("Escape")
        expect(line).to_be_focused()
        line.press("ArrowDown")
        page.keyboard.press("Enter")
        expect(line).to_have_value("counted 7 harlequin rasboras ")
        expect(line).to_be_focused()

    def test_us_units_everywhere(self) -> None:
        page = self.page
        page.goto("/preferences")
        page.get_by_label("units").select_option("us")
        page.get_by_role("button", name="Save").click()
        try:
            page.goto("/tanks/hall-96/upset")
            expect(page.get_by_role("heading", level=1)).to_contain_text("gal")
            expect(page.get_by_role("main")).not_to_contain_text(re.compile(r"\d\s(L|°C)\b"))
        finally:
            page.goto("/preferences")
            page.get_by_label("units").select_option("metric")
            page.get_by_role("button", name="Save").click()


class InTrouble(InBrowser):
    def test_from_the_phone_home_screen_to_first_aid_and_through_the_desk(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/")
        page.get_by_role("link", name="Something is wrong").click()
        expect(page.get_by_text("First, right whatever it is")).to_be_in_viewport()
        expect(page.get_by_text("Do not feed today")).to_be_in_viewport()
        page.get_by_role("link", name="Hall 96").click()
        expect(page.get_by_text("First aid: right whatever the cause is")).to_be_visible()
        expect(page.get_by_role("heading", name=re.compile("What it could be"))).to_be_visible()

        # a tap answers the next check, is logged, and another is asked
        asked = page.locator(".jb-asked .q").first
        first = asked.inner_text()
        page.locator(".jb-answers").first.get_by_role("button").last.click()
        expect(page.locator(".jb-asked .q").first).not_to_have_text(first)

        # what is seen, and what changed, as taps
        page.get_by_text("Tick what is seen, and what changed").click()
        page.get_by_label("a tingle in the water").check()
        page.get_by_role("button", name="Log it").click()
        expect(page.get_by_text("Electric current in the water").first).to_be_visible()
        expect(page.locator(".jb-aid li").first).to_contain_text("Switch off at the board, hands dry")
