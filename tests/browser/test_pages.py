"""Every page of the demo at desk and phone size: no console error, no sideways scroll, nothing axe objects to."""

import html
import re
from dataclasses import dataclass, replace
from pathlib import Path

import pypdfium2
from playwright.sync_api import expect

from jarbloom.deeds import look
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.remind import mail_text
from jarbloom.formats import advice_json
from jarbloom.store import preferences
from jarbloom.store.db import FILE_NAME, connect
from tests.browser.base import DESK, PHONE, InBrowser
from tests.make import FEW, NOW, REFERENCE, ZONE

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text("utf-8")
PAGES = ["/", "/data", "/start", "/start/dry/all", "/start/cycling", "/start/trouble", "/preferences", "/schedule",
         "/start/animals?q=8+harlequin+rasboras,+6+kuhli+loaches,+shrimp", "/tanks/desk-28/begin/2",
         "/tanks/desk-28/begin/3",
         "/waters",
         "/waters/0", "/instruments/0",
         "/tanks/sunroom-112/log/new/test",
         "/tanks/sunroom-112/log/new/observation",
         *(f"/tanks/{slug}{page}" for slug in ("sunroom-112", "hall-96", "landing-60") for page in ("", "/upset")),
         *(f"/tanks/{slug}{page}" for slug in ("desk-28", "landing-60") for page in ("/outlook", "/setup/fill")),
         "/tanks/desk-28", "/tanks/sunroom-112/outlook", "/stores",
         *(f"/tanks/sunroom-112{page}" for page in ("/stocking", "/animals", "/chart", "/setup/equipment",
                                                     "/setup/school")),  # a cycle in fresh water
         *(f"/tanks/landing-60{page}" for page in ("/log", "/settings", "/setup/volume", "/setup/water",
                                                    "/setup/culture", "/setup/probe")),  # and the sea
         *(f"/tanks/hall-96{page}" for page in ("/animals/book", "/animals/plants",
                                                 "/animals/styles?style=community", "/arrival")),
         *(f"/tanks/alcove-180{page}" for page in ("/history", "/history?span=all&over=sunroom-112", "/photos",
                                                    "/log")),
         "/tanks/hall-96/log", "/tanks/hall-96/report", "/tanks/landing-60/away", "/tanks/desk-28/old-notes",
         "/tanks/desk-28/history", "/tanks/hall-96/chores",
         "/species", "/species/new?like=guppy"]  # fmt: skip


# Where axe looks: each kind of page once. What stands where is the same in both themes; colours are not.
LOOKED_AT = {"/", "/start", "/start/animals?q=8+harlequin+rasboras,+6+kuhli+loaches,+shrimp", "/tanks/desk-28/begin/2",
             "/tanks/desk-28/begin/3", "/tanks/sunroom-112", "/tanks/hall-96/upset", "/tanks/sunroom-112/stocking",
             "/tanks/sunroom-112/outlook", "/tanks/landing-60/log", "/start/trouble",
             "/tanks/landing-60/settings", "/tanks/landing-60/setup/volume", "/tanks/sunroom-112/setup/equipment",
             "/tanks/landing-60/setup/water", "/tanks/sunroom-112/setup/school", "/tanks/desk-28/setup/fill",
             "/tanks/landing-60/setup/culture", "/tanks/landing-60/setup/probe", "/schedule", "/waters", "/data",
             "/tanks/hall-96/animals/book", "/tanks/hall-96/arrival", "/species/new?like=guppy",
             "/tanks/alcove-180/history", "/tanks/alcove-180/photos", "/tanks/hall-96/report",
             "/tanks/landing-60/away", "/tanks/desk-28/old-notes"}  # fmt: skip
# Colours come from the tokens: the pages that use most of them
DIM = {"/", "/tanks/sunroom-112", "/tanks/hall-96/upset", "/tanks/sunroom-112/stocking", "/tanks/landing-60/log",
       "/data", "/tanks/alcove-180/history",
       "/tanks/landing-60/setup/volume", "/tanks/hall-96/animals/book", "/start/trouble"}  # fmt: skip
ENLARGED = {"width": 320, "height": 200}  # a window of 1280 by 800 at 400 %
STAYS = """Array.from(document.querySelectorAll('body *')).filter(e => ['fixed', 'sticky'].includes(
    getComputedStyle(e).position) && e.offsetHeight > 50).map(e => e.className)"""
PAPER = {"width": 703, "height": 1020}  # A4 less the margins the style sheet asks for, in CSS pixels
THEMES = {"light": "", "evening": "runOnly: ['color-contrast']"}


class EveryPage(InBrowser):
    def test_it_answers_fits_both_sizes_and_axe_finds_nothing(self) -> None:
        page = self.page
        for path in PAGES:
            with self.subTest(path=path):
                self.problems.clear()
                page.set_viewport_size(PHONE)
                answer = page.goto(path)
                assert answer is not None
                self.assertEqual(answer.status, 200)
                if path.endswith("/stocking"):
                    page.wait_for_load_state("networkidle")  # what the planner says comes after
                for size in (PHONE, ENLARGED, DESK):
                    page.set_viewport_size(size)
                    sideways = page.evaluate(
                        "document.documentElement.scrollWidth - document.documentElement.clientWidth"
                    )
                    self.assertLessEqual(sideways, 0, size)
                    if size == ENLARGED:
                        self.assertEqual(page.evaluate(STAYS), [], "covers the page")
                self.assertEqual(self.problems, [])
                if path in LOOKED_AT:
                    self.assertEqual(self.axe(path), [])

    def axe(self, path: str) -> list[list]:
        self.page.evaluate(AXE)
        found = []
        for theme, rules in THEMES.items():
            if theme == "evening" and path not in DIM:
                continue
            self.page.evaluate("theme => document.documentElement.setAttribute('data-bs-theme', theme)", theme)
            found += self.page.evaluate(
                f"axe.run({{resultTypes: ['violations'], {rules}}}).then(r => r.violations.map("
                "v => [v.impact, v.id, v.nodes.slice(0, 3).map(n => n.html.slice(0, 160))]))"
            )
        return found

    def test_axe_looks_at_pages_that_are_loaded(self) -> None:
        self.assertEqual((LOOKED_AT | DIM) - set(PAGES), set())

    def test_wet_targets_are_large(self) -> None:
        page = self.new_page(PHONE)
        page.goto("/tanks/sunroom-112")
        key = page.locator("[data-key=test]")
        self.assertGreaterEqual(key.bounding_box()["height"], 76)
        key.click()
        for name in ("one step up, ammonia", "one step down, ammonia"):
            box = page.get_by_role("button", name=name).bounding_box()
            assert box is not None
            self.assertGreaterEqual(min(box["width"], box["height"]), 64)
        small = page.evaluate("""Array.from(document.querySelectorAll('.jb-dock button, .jb-tabs a')).filter(
            b => b.offsetParent && b.getBoundingClientRect().height < 43).map(b => b.outerHTML.slice(0, 90))""")
        self.assertEqual(small, [])


END = 12  # letters at either end of a text


@dataclass(frozen=True)
class Sheet:
    """What stands on a printed page, and the letters that lie beyond its edge."""

    text: str
    outside: str


def sheets_of(pdf: bytes) -> list[Sheet]:
    found = []
    for sheet in pypdfium2.PdfDocument(pdf):
        (width, height), text = sheet.get_size(), sheet.get_textpage()
        outside = ""
        for k in range(text.count_chars()):
            left, bottom, right, top = text.get_charbox(k)
            if left < right and (left < 0 or bottom < 0 or right > width or top > height):
                outside += text.get_text_range(k, 1)
        found.append(Sheet(text.get_text_bounded(), outside))
    return found


def squeezed(text: str) -> str:
    """Without blanks and hyphens, which lines and sheets break at."""
    return re.sub(r"[\s\u00ad\u200b\ufffe-]+", "", text)


class OnPaper(InBrowser):
    """What is cut off or not reached on a sheet cannot be scrolled to."""

    CUT = """Array.from(document.querySelectorAll('main *')).filter(e => { const s = getComputedStyle(e);
        return !e.closest('svg') && e.clientHeight && !e.closest('.visually-hidden') && s.overflowY != 'visible'
            && (e.scrollHeight > e.clientHeight + 1 || e.scrollWidth > e.clientWidth + 1);
        }).map(e => e.outerHTML.slice(0, 90))"""

    def test_nothing_is_cut_and_no_way_about_is_printed(self) -> None:
        page = self.new_page(PAPER)
        page.emulate_media(media="print")
        for path in ("/", "/tanks/hall-96/upset", "/tanks/alcove-180/history", "/tanks/hall-96/report", "/stores"):
            with self.subTest(path=path):
                page.goto(path)
                expect(page.get_by_role("heading", level=1)).to_be_visible()
                expect(page.get_by_role("navigation")).to_have_count(0)
                self.assertEqual(page.evaluate(self.CUT), [])
                self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PAPER["width"])

    TEXTS = """(() => { const found = [], main = document.querySelector('main');
        const w = document.createTreeWalker(main, NodeFilter.SHOW_TEXT);
        while (w.nextNode()) { const e = w.currentNode.parentElement, r = document.createRange();
            r.selectNodeContents(w.currentNode);
            if (w.currentNode.data.trim() && !e.closest('svg, script, style, .visually-hidden, option')
                && r.getClientRects().length) found.push(w.currentNode.data); }
        return found; })()"""

    def test_the_printed_sheets_hold_every_word_and_none_runs_off_them(self) -> None:
        """Read back out of the PDF that the browser prints."""
        page = self.new_page(PAPER)
        for path in ("/tanks/hall-96", "/tanks/hall-96/stocking", "/tanks/alcove-180/log", "/tanks/hall-96/report",
                     "/stores"):  # fmt: skip
            page.goto(path, wait_until="networkidle")  # what comes after the page has come too
            page.emulate_media(media="print")
            wanted = [squeezed(t) for t in page.evaluate(self.TEXTS)]
            sheets = sheets_of(page.pdf(format="A4"))
            printed = "".join(squeezed(s.text) for s in sheets)
            with self.subTest(path=path):
                self.assertGreater(len(wanted), 10)
                ends = [(t[:END], t[-END:]) for t in wanted]  # a text may go on overleaf
                self.assertEqual([t for t in ends if not (t[0] in printed and t[1] in printed)], [])
                self.assertEqual([s.outside for s in sheets if s.outside], [])
                self.assertEqual([k for k, s in enumerate(sheets, 1) if not s.text.strip()], [], "an empty sheet")


class OverTheWire(InBrowser):
    SHIFTS = """new Promise(done => new PerformanceObserver(list => done(list.getEntries().reduce(
        (sum, e) => sum + (e.hadRecentInput ? 0 : e.value), 0))).observe({type: 'layout-shift', buffered: true})
        || setTimeout(() => done(0), 300))"""

    def test_the_first_view_is_light_the_next_ones_lighter_and_nothing_jumps(self) -> None:
        page = self.new_page(PHONE, service_workers="block")  # what a worker fetches is not seen here
        wire, sums = page.context.new_cdp_session(page), [0.0]
        wire.send("Network.enable")
        wire.on("Network.loadingFinished", lambda told: sums.append(sums.pop() + told["encodedDataLength"]))
        for path, most_kb in (("/", 200), ("/tanks/sunroom-112", 40), ("/tanks/hall-96/upset", 40)):
            sums[:] = [0.0]
            page.goto(path, wait_until="networkidle")
            shifted = page.evaluate(self.SHIFTS)
            with self.subTest(path=path):
                self.assertLess(sums[0] / 1000, most_kb)
                self.assertLess(shifted, 0.05)


class ComesAtOnce(InBrowser):
    """A page whose forecast is not made yet says what stood before, and is followed by the whole."""

    def setUp(self) -> None:
        super().setUp()
        state = self.served.app.state
        state.settings = replace(state.settings, at_once=True)

    def log(self, slug: str, line: str) -> None:
        told = self.page.request.post(f"/tanks/{slug}/log/line", form={"line": line, "_once": line}, max_redirects=0,
                                      headers={"Origin": self.served.address})  # fmt: skip
        self.assertEqual(told.status, 303)

    def get(self, path: str, **headers: str) -> str:
        answer = self.page.request.get(path, headers=headers)
        self.assertEqual(answer.status, 200)
        return flat(html.unescape(answer.text()))

    def test_the_page_comes_first_and_its_forecast_follows(self) -> None:
        page, here = self.page, "/tanks/sunroom-112"
        page.goto(here)  # the cookie is set, and the run is kept
        said = flat(page.get_by_role("heading", level=1).inner_text())
        self.log("sunroom-112", "am 0.5 ni 1")
        first = self.get(here, Accept="text/html")
        self.assertIn("Working it out", first)
        self.assertIn("Before that", first)
        self.assertIn(said.split(".")[0], first)
        page.goto(here)
        expect(page.get_by_role("textbox", name="Log: what was read or done")).to_be_visible()  # by itself
        self.assertNotIn("Working it out", self.get(here, Accept="text/html"))  # and it is kept from there on

    def test_who_cannot_ask_again_gets_the_whole(self) -> None:
        self.log("hall-96", "am 0.25 ni 0")
        self.assertNotIn("Working it out", self.get("/tanks/hall-96", Accept="text/html"))  # no script has run yet
        self.page.goto("/waters")
        self.log("hall-96", "ph 7.4 kh 6")
        part = self.get("/tanks/hall-96/stocking/board", **{"HX-Request": "true"})
        self.assertNotIn("Working it out", part)


class OneAnswer(InBrowser):
    """The same question has one answer, wherever it is asked: the verdict of a tank, and the date of a batch."""

    def test_all_places_tell_one_verdict_and_one_date(self) -> None:
        page, state = self.page, self.served.app.state
        conn = connect(state.settings.data / FILE_NAME)
        self.addCleanup(conn.close)
        chosen = replace(preferences.load(conn, ZONE), zone=ZONE)
        desk = Desk(conn, NOW, chosen, REFERENCE, FEW)
        bench = look.see_bench(desk).seen
        mail = mail_text(bench, NOW)
        assert mail is not None
        page.goto("/schedule")
        schedule = page.get_by_role("main").inner_text()
        ics = page.request.get("/schedule/jobs.ics").text().replace("\r\n ", "").replace("\\,", ",").replace("\\;", ";")
        page.goto("/")
        cards = page.get_by_role("main").inner_text()
        for slug in ("sunroom-112", "hall-96", "landing-60"):
            seen = next(x for x in bench if x.tank.slug == slug)
            told = advice_json.advice(seen)
            page.goto(f"/tanks/{slug}")
            now = flat(page.get_by_role("main").inner_text())
            page.goto(f"/tanks/{slug}/stocking")
            stocking = flat(page.get_by_role("main").inner_text())
            call = flat(seen.verdict.call)
            with self.subTest(slug=slug, verdict=call):
                self.assertEqual(told["verdict"]["sentence"], seen.verdict.sentence)
                for where in (now, stocking, flat(cards), flat(schedule), flat(mail[1])):
                    self.assertTrue(call in where, "another verdict")
            for batch in seen.situation.waiting:
                date = seen.situation.date_of(batch)
                assert date is not None
                words = flat(date.words)
                with self.subTest(slug=slug, batch=batch.name, date=words):
                    for where in (now, flat(schedule), flat(mail[1]), flat(ics)):
                        self.assertTrue(f"{words}" in where, "another date")
                    day = words.removeprefix("from ")  # where it is planned later, that is the one day of its column
                    self.assertTrue(words in stocking or f"Bring forward to {day}" in stocking, "another date")
                    for where in (now, stocking, flat(cards)):
                        self.assertFalse("any day now" in where or "fits today" in where)
                    if batch is seen.situation.next_batch and date.day is not None:
                        self.assertEqual(told["next_batch"]["earliest_date"], date.day.isoformat())


def flat(text: str) -> str:
    return " ".join(text.replace("\u00a0", " ").split())
