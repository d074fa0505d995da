"""Pages and forms over HTTP: every page answers, bad input is told at its place, nothing typed is lost."""

import csv
import html
import io
import json
import logging
import re
import sqlite3
import unittest
import unittest.mock
import zipfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from xml.etree import ElementTree

from starlette.testclient import TestClient

from jarbloom.settings import Settings
from jarbloom.store import journal, tanks
from jarbloom.store.db import FILE_NAME, connect, transaction
from jarbloom.web.app import create_app
from jarbloom.web.render import explained
from tests.make import DEMO_PAGES, FEW, NOW, REFERENCE, demo_folder


class Web(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        folder = cls.enterClassContext(demo_folder())
        cls.app = create_app(Settings(folder, NOW, FEW, demo=True))
        cls.http = cls.enterClassContext(TestClient(cls.app, raise_server_exceptions=False))

    def get(self, path: str):
        return self.http.get(path)

    def said(self, path: str, status: int = 200) -> str:
        """A page as a reader has it: entities as signs, and a line break is a space."""
        answer = self.get(path)
        self.assertEqual(answer.status_code, status, path)
        return re.sub(r"[ \n]+", " ", html.unescape(answer.text))

    def post(self, path: str, data: dict, **more):
        return self.http.post(path, data=data, follow_redirects=False, **more)


class Outlook(Web):
    PATH = "/tanks/sunroom-112/outlook"

    def test_what_ifs_stand_beside_the_plan_and_write_nothing(self) -> None:
        before = self.get("/tanks/sunroom-112/log").text.count("jb-entry")
        asked = {"w": ["wc 30%", "dose 1 mg/l", "in 6 kuhli loaches"], "d": ["2026-11-25", "2026-11-24", "2026-11-28"]}
        answer = self.http.get(self.PATH, params={"q": "nh3"} | asked)
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(answer.text.count("<article>"), 4)
        self.assertIn("as planned", answer.text)
        self.assertRegex(answer.text, "limits with [^.]*probability")
        self.assertEqual(self.get("/tanks/sunroom-112/log").text.count("jb-entry"), before)

    def test_bad_what_ifs_are_told_at_the_field_and_stay(self) -> None:
        for line, day, told in (
            ("xqz 3", "2026-11-25", "not understood"),
            ("wc 30%", "2026-11-01", "between today and"),
            ("wc 30%", "2031-01-01", "between today and"),
            ("wc 30%", "soon", "is no date"),
            ("am 0", "2026-11-25", "cannot be foretold"),
            ("yesterday wc 30%", "2026-11-25", "own field"),
            ("wc 300%", "2026-11-25", "300 %"),
            ("note hello", "2026-11-25", ""),
        ):
            with self.subTest(line=line, day=day):
                answer = self.http.get(self.PATH, params={"w": line, "d": day})
                self.assertEqual(answer.status_code, 422 if told else 200)
                self.assertIn(told, answer.text)
                self.assertIn(f'value="{line}"', answer.text)

    def test_what_would_bring_it_forward_comes_after_the_page_where_something_waits(self) -> None:
        waits, ready = self.get("/tanks/landing-60/outlook").text, self.get("/tanks/hall-96/outlook").text
        self.assertIn("What would bring it forward", waits)
        self.assertNotIn("What would bring it forward", ready)
        told = self.get("/tanks/landing-60/outlook/sooner").text
        self.assertIn("running filter’s media", told)
        self.assertIn("Unplug the heater", told)  # warmth is on offer, with what it asks of a keeper

    def test_downloads(self) -> None:
        picture = self.get(f"{self.PATH}/chart.svg?q=tan")
        self.assertEqual(picture.headers["content-type"], "image/svg+xml")
        self.assertIn("sunroom-112-tan.svg", picture.headers["content-disposition"])
        drawn = ElementTree.fromstring(picture.text)
        self.assertEqual(drawn.tag, "{http://www.w3.org/2000/svg}svg")
        self.assertIn("f-range", picture.text)
        rows = list(csv.DictReader(io.StringIO(self.get(f"{self.PATH}/forecast.csv").text)))
        self.assertEqual(rows[0]["date"], "2026-11-02")
        self.assertEqual(len(rows[0]), 1 + 7 * 7)
        self.assertTrue(all(float(r["no2_mg_n_l_p10"]) <= float(r["no2_mg_n_l_p90"]) for r in rows))
        self.assertEqual(self.get("/tanks/nothing/outlook/forecast.csv").status_code, 404)

    def test_earlier_forecasts_are_drawn_against_what_came(self) -> None:
        page = self.get(self.PATH).text
        self.assertRegex(page, r"Of \d+ readings that came two days or more after a kept forecast, \d+ fell")
        self.assertIn("f-foretold", page)
        self.assertIn("f-rung", page)


class Pages(Web):
    def test_every_page_answers_with_one_verdict_loads_nothing_from_outside_and_sends_each_form_once(self) -> None:
        for path in DEMO_PAGES:
            with self.subTest(path=path):
                answer = self.get(path)
                self.assertEqual(answer.status_code, 200, answer.text[:300])
                self.assertEqual(answer.text.count("<h1"), 1)
                self.assertEqual(re.findall(r'(?:src|href)="(?:https?:)?//', answer.text), [])
                self.assertNotIn(" style=", answer.text)
                self.assertIn("default-src 'self'", answer.headers["content-security-policy"])
                for form in re.findall(r'<form\b[^>]*method="post"[^>]*>(.{0,40})', answer.text, re.S):
                    self.assertIn('name="_once"', form)

    def test_words_of_the_house_open_their_sentence_once(self) -> None:
        made = str(explained("Bloom <b>; the bloom carries 9\u00a0mg\u00a0N\u00a0a\u00a0day", "bloom", "mgn"))
        self.assertEqual(made.count("<button"), 2)  # once each, whatever kind of space stands between the words
        self.assertIn("&lt;b&gt;", made)
        self.assertEqual(
            set(re.findall(r'popovertarget="([^"]+)"', made)), set(re.findall(r'popover id="([^"]+)"', made))
        )
        self.assertEqual(str(explained("nothing of it", "gate")), "nothing of it")

    def test_the_shell_of_an_app(self) -> None:
        manifest = self.get("/manifest.webmanifest").json()
        for icon in manifest["icons"]:
            self.assertEqual(self.get(icon["src"]).headers["content-type"], icon["type"])
        worker = self.get("/sw.js")
        self.assertIn("javascript", worker.headers["content-type"])
        files = json.loads(re.search(r"FILES = (\[.*?\]);", worker.text)[1])
        self.assertIn("/static/quick.js", " ".join(files))
        for path in files:  # one that is missing would keep the worker from being installed
            self.assertEqual(self.get(path).status_code, 200, path)
        self.assertIn("ember tetras", self.get("/start/example").text)

    def test_static_files_are_there(self) -> None:
        page = self.get("/").text
        for path in set(re.findall(r'(?:src|href)="(/static/[^"]+)"', page)):
            self.assertEqual(self.get(path).status_code, 200, path)
        for font in re.findall(r"url\((fonts/[^)]+)\)", self.get("/static/tokens.css").text):
            self.assertEqual(self.get(f"/static/{font}").status_code, 200, font)

    def test_what_is_not_there_is_404_in_words(self) -> None:
        for path in (
            "/tanks/nowhere",
            "/tanks/nowhere/log",
            "/nothing",
            "/start/elsewhere",
            "/tanks/hall-96/log/99999",
            "/tanks/hall-96/log/new/dance",
        ):
            with self.subTest(path=path):
                answer = self.get(path)
                self.assertEqual(answer.status_code, 404)
                self.assertIn("Not here.", answer.text)

    def test_numbers_beyond_any_database_are_not_found(self) -> None:
        far = 2**80
        for path in (f"/tanks/hall-96/log/{far}", f"/waters/{far}", f"/instruments/{far}", f"/tanks/hall-96/log/-{far}",
                     f"/tanks/hall-96/arrival/{far}"):  # fmt: skip
            with self.subTest(path=path):
                self.assertEqual(self.get(path).status_code, 404)
        for path in (f"/tanks/hall-96/log/{far}/void", f"/tanks/hall-96/acts/{far}/undo",
                     f"/tanks/hall-96/stocking/{far}/in"):  # fmt: skip
            with self.subTest(path=path):
                self.assertEqual(self.post(path, {}).status_code, 404)

    def test_forms_of_other_sites_and_names_are_refused(self) -> None:
        line = "/tanks/sunroom-112/log/line"
        self.assertEqual(self.post(line, {"line": "am 0"}, headers={"Sec-Fetch-Site": "cross-site"}).status_code, 403)
        self.assertEqual(self.post(line, {"line": "am 0"}, headers={"Origin": "http://evil.test"}).status_code, 403)
        self.assertEqual(self.http.get("/", headers={"Host": "evil.test"}).status_code, 421)

    def test_the_record_draws_one_width_and_brings_the_rest_when_asked(self) -> None:
        path, query = "/tanks/alcove-180/history", "?span=year"
        wide, narrow = '<svg[^>]*class="hs wide"', '<svg[^>]*class="hs narrow"'
        for headers, drawn, other in (({}, wide, narrow), ({"user-agent": "x Mobile y"}, narrow, wide),
                                      ({"sec-ch-ua-mobile": "?1"}, narrow, wide)):  # fmt: skip
            page = self.http.get(path + query, headers=headers).text
            self.assertRegex(page, drawn)
            self.assertNotRegex(page, other)
            self.assertNotIn("<tbody>", page)
        self.assertRegex(self.get(f"{path}/narrow{query}").text, narrow)
        self.assertEqual(self.get(f"{path}/other{query}").status_code, 404)
        part = self.http.get(f"{path}/figures{query}", headers={"hx-request": "true"}).text
        whole = self.get(f"{path}/figures{query}").text  # a page of its own, where no script asks for it
        self.assertNotIn("<h1", part)
        self.assertIn("<h1", whole)
        self.assertEqual(part.count("<tr data-x"), whole.count("<tr data-x"))
        self.assertGreater(part.count("<tr data-x"), 100)

    def test_the_tank_page_is_light(self) -> None:
        import gzip

        self.assertLess(len(gzip.compress(self.get("/tanks/sunroom-112").content)), 40_000)


class Logging(Web):
    LINE = "/tanks/sunroom-112/log/line"

    def test_chips_write_nothing(self) -> None:
        before = self.get("/tanks/sunroom-112/log").text.count("jb-entry")
        chips = self.post("/tanks/sunroom-112/log/read", {"line": "am .25 na 1o"}).text
        self.assertIn("0.12 to 0.38", chips)
        self.assertIn('data-fix="am .25 na 10"', chips)
        self.assertEqual(self.get("/tanks/sunroom-112/log").text.count("jb-entry"), before)

    def test_animals_on_the_line_meet_the_gate_as_the_button_does(self) -> None:
        held = self.post(self.LINE, {"line": "in 6 neon tetra"})
        self.assertEqual(held.status_code, 409)
        self.assertIn("The gate holds them", held.text)
        self.assertIn("in 6 neon tetra", held.text)  # nothing typed is lost
        self.assertIn('name="reason"', held.text)
        let_in = self.post(self.LINE, {"line": "in 6 neon tetra", "reason": "a gift from next door"})
        self.assertEqual(let_in.status_code, 303)
        self.assertIn("a gift from next door", self.said("/tanks/sunroom-112"))
        form = {"at": "2026-11-24T18:00", "species": "guppy", "count": "3"}
        by_form = self.post("/tanks/landing-60/log/new/arrival", form)
        self.assertEqual(by_form.status_code, 409)
        self.assertIn('name="reason"', by_form.text)

    def test_words_behind_a_reading_are_kept_with_it_and_heard(self) -> None:
        self.assertEqual(self.post("/tanks/landing-60/log/line", {"line": "am 2 ni 0, old strip"}).status_code, 303)
        self.assertIn("old strip", self.said("/tanks/landing-60/log"))
        chips = self.post(self.LINE.replace("line", "read"), {"line": "am 0 ni 0, fish calm"}).text
        self.assertIn("kept with it", chips)

    def test_bad_lines_are_4xx_and_keep_what_was_typed(self) -> None:
        for line in (
            "",
            "am -1",
            "am 99999",
            "wc 900 l",
            "xqz 3",
            "2031-01-01 am 0",
            "tomorrow am 0",
            "dead 3 guppy",
            "note " + "x" * 30_000,
        ):
            with self.subTest(line=line[:40]):
                answer = self.post(self.LINE, {"line": line})
                self.assertEqual(answer.status_code, 422)
                self.assertIn('role="alert"', answer.text)
                self.assertIn(f'value="{line}"', answer.text)

    def test_a_five_megabyte_note_is_told_at_its_field(self) -> None:
        text = "n" * 5_000_000
        answer = self.post("/tanks/sunroom-112/log/new/note", {"text": text, "at": "2026-11-24T18:00"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("5,000,000 characters", answer.text)
        self.assertIn(text, answer.text)
        self.assertEqual(self.post(self.LINE, {"line": "x" * 13_000_000}).status_code, 413)

    def test_the_same_minute_asks_and_keeps_both_when_told(self) -> None:
        first = self.post(self.LINE, {"line": "17:31 kh 5"})
        self.assertEqual(first.status_code, 303)
        again = self.post(self.LINE, {"line": "17:31 kh 6"})
        self.assertEqual(again.status_code, 409)
        self.assertIn("Keep both", again.text)
        self.assertEqual(self.post(self.LINE, {"line": "17:31 kh 6", "anyway": "1"}).status_code, 303)

    def test_what_was_not_understood_stays_in_the_field(self) -> None:
        before = len(self.get("/tanks/sunroom-112/log?all=1").text)
        answer = self.post(self.LINE, {"line": "16:10 ph 7.2 na 1o"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn('value="16:10 ph 7.2 na 1o"', answer.text)
        self.assertIn("did you mean 10", answer.text)
        self.assertIn('data-fix="16:10 ph 7.2 na 10"', answer.text)
        self.assertNotIn("Saved", answer.text)
        self.assertEqual(len(self.get("/tanks/sunroom-112/log?all=1").text), before)

    def test_a_refused_line_shows_no_saved(self) -> None:
        self.assertEqual(self.post(self.LINE, {"line": "16:05 kh 5"}).status_code, 303)
        self.assertIn("Saved", self.get("/tanks/sunroom-112").text)
        refused = self.post(self.LINE, {"line": "am 0 xqz"})
        self.assertEqual(refused.status_code, 422)
        self.assertNotIn("Saved", refused.text)
        self.assertNotIn("/undo", refused.text)

    def test_salinities_with_two_points_are_told(self) -> None:
        for line in ("sal 1.0.26 sg", "sal 1..5", "sal .", "sal 1.026 sg @", "sal 1,0,26"):
            with self.subTest(line=line):
                self.assertEqual(self.post(self.LINE, {"line": line}).status_code, 422)
                typed = line.removeprefix("sal ")
                form = self.post("/tanks/landing-60/log/new/test", {"salinity": typed, "at": "2026-11-24T17:00"})
                self.assertEqual(form.status_code, 422)
                self.assertIn(f'value="{typed}"', form.text)
                self.assertLess(self.http.get("/waters", params={"s": typed}).status_code, 500)

    def test_form_correct_void_undo(self) -> None:
        base = "/tanks/hall-96/log"
        self.assertEqual(self.post(f"{base}/new/feed", {"grams": "0.4", "at": "2026-11-24T07:00"}).status_code, 303)
        page = self.get(f"{base}?kind=feed").text
        entry_id = re.search(r"/log/(\d+)\"", page)[1]
        wrong = self.post(f"{base}/{entry_id}", {"grams": "lots", "at": "2026-11-24T07:00", "note": "kept text"})
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("kept text", wrong.text)
        self.assertIn("“lots” is not a number", wrong.text)
        self.assertEqual(self.post(f"{base}/{entry_id}", {"grams": "0.2", "at": "2026-11-24T07:00"}).status_code, 303)
        self.assertIn("superseded", self.get(f"{base}?all=1&kind=feed").text)
        page = self.get(f"{base}?kind=feed").text
        newer = re.search(r"/log/(\d+)\"", page)[1]
        self.assertEqual(self.post(f"{base}/{newer}/void", {}).status_code, 303)
        self.assertEqual(self.post(f"{base}/{newer}/void", {}).status_code, 422)
        act = re.search(r"/acts/(\d+)/undo", self.get(base).text)[1]
        self.assertEqual(self.post(f"/tanks/hall-96/acts/{act}/undo", {"back": base}).headers["location"], base)
        self.assertIn("0.2", self.get(f"{base}?kind=feed").text)
        self.assertEqual(self.post(f"/tanks/hall-96/acts/{act}/undo", {}).status_code, 422)

    def test_bad_forms_by_kind(self) -> None:
        rows = (
            ("test", {"at": "2026-11-24T17:00"}),
            ("test", {"ammonia": "abc"}),
            ("dose", {"amount": "-2", "unit": "mg/L"}),
            ("dose", {"amount": "2", "unit": "pints"}),
            ("change", {"litres": "1e9"}),
            ("media", {"how": ""}),
            ("power", {}),
            ("power", {"hours": "0"}),
            ("power", {"hours": "400", "where": "closed"}),
            ("power", {"hours": "4", "where": "under the bed"}),
            ("bed", {"share": "140"}),
            ("change", {"litres": "10", "source_ammonia": "-1"}),
            ("change", {"litres": "10", "source_kh": "soft"}),
            ("test", {"salinity": "1025"}),
            ("arrival", {"species": "guppy", "count": "0"}),
            ("death", {"species": "", "count": "1"}),
            ("observation", {}),
            ("note", {"text": ""}),
            ("feed", {"grams": "nan"}),
            ("feed", {"at": "whenever"}),
            ("change", {"litres": "10", "at": "2030-01-01T00:00"}),
        )
        for kind, data in rows:
            with self.subTest(kind=kind, data=data):
                answer = self.post(f"/tanks/sunroom-112/log/new/{kind}", data)
                self.assertEqual(answer.status_code, 422)
                self.assertIn("Not saved.", answer.text)


class TanksAndPlans(Web):
    def fields(self, path: str) -> dict[str, str]:
        """The form as a browser would send it back untouched."""
        page = self.get(path).text
        found = dict(re.findall(r'<input name="(\w+)"[^>]*value="([^"]*)"', page))
        found |= {m[0]: "on" for m in re.findall(r'type="checkbox" name="(\w+)" value="on"( checked)', page)}
        for name, body in re.findall(r'<select name="(\w+)"[^>]*>(.*?)</select>', page, re.S):
            chosen = re.search(r'value="([^"]*)" selected', body)
            found[name] = chosen[1] if chosen else re.search(r'value="([^"]*)"', body)[1]
        return found

    def test_set_up_in_us_units_keeps_what_was_typed(self) -> None:
        self.assertEqual(
            self.post("/preferences", {"system": "us", "zone": "Europe/Berlin", "who": "", "keys": "on"}).status_code,
            303,
        )
        try:
            typed = self.fields("/start/dry/all") | {
                "name": "Porch 20",
                "length_cm": "24",
                "width_cm": "12.25",
                "height_cm": "16.5",
                "temp_c": "77.5",
            }
            made = self.post("/start/dry", typed)
            self.assertEqual(made.status_code, 303)
            self.assertEqual(self.fields("/tanks/porch-20/setup/volume")["width_cm"], "12.25")
            self.assertEqual(self.fields("/tanks/porch-20/setup/water")["temp_c"], "77.5")
            self.assertIn("gal", self.get("/tanks/porch-20").text)
        finally:
            self.post("/preferences", {"system": "metric", "zone": "Europe/Berlin", "who": "", "keys": "on"})
        self.assertEqual(self.fields("/tanks/porch-20/setup/volume")["length_cm"], "60.96")
        self.assertEqual(self.fields("/tanks/porch-20/setup/water")["temp_c"], "25.28")

    def test_bad_tanks_are_told_at_the_field_and_keep_the_rest(self) -> None:
        good = self.fields("/start/dry/all") | {
            "name": "Kept name",
            "length_cm": "60",
            "width_cm": "30",
            "height_cm": "36",
        }
        rows = (
            ("length_cm", "-5"),
            ("height_cm", "abc"),
            ("waterline_cm", "40"),
            ("substrate_cm", "36"),
            ("temp_c", "99"),
            ("ph", ""),
            ("name", ""),
            ("started", "soon"),
            ("started", "2031-01-01"),
            ("ammonia_steps", "1 2 3"),
            ("nitrite_steps", "0 2 1"),
            ("hot_c", "21"),
            ("measured_l", "900"),
            ("school", "magic"),
            ("heater1_w", "nan"),
        )
        for name, value in rows:
            with self.subTest(name=name, value=value):
                extra = {"cold_c": "25"} if name == "hot_c" else {}
                answer = self.post("/start/dry", good | extra | {name: value})
                self.assertEqual(answer.status_code, 422)
                self.assertRegex(answer.text, rf'id="e-{name}"')
                if name != "name":
                    self.assertIn('value="Kept name"', answer.text)

    def test_settings_change_and_come_back(self) -> None:
        typed = self.fields("/tanks/desk-28/settings")
        self.assertEqual(self.post("/tanks/desk-28/settings", typed | {"name": "Desk 30"}).status_code, 303)
        self.assertIn("Desk 30", self.get("/").text)
        self.assertEqual(self.post("/tanks/desk-28/settings/undo", {}).status_code, 303)
        self.assertIn("Desk 28", self.get("/").text)
        self.assertEqual(self.post("/tanks/desk-28/shelve", {}).status_code, 303)
        self.assertEqual(self.get("/tanks/desk-28").status_code, 404)
        shelf = re.search(r"/shelf/(\d+)/restore", self.get("/").text)[0]
        self.assertEqual(self.post(shelf, {}).status_code, 303)
        self.assertEqual(self.get("/tanks/desk-28").status_code, 200)

    def test_rescue_from_an_empty_form_and_a_wrong_one(self) -> None:
        wrong = self.post("/start/trouble", {"litres": "lots", "animals": "3 wyverns", "words": "please help"})
        self.assertEqual(wrong.status_code, 422)
        for said in ("“lots” is not a number", "“wyverns” is not in the catalogue", "please help"):
            self.assertIn(said, wrong.text)
        bad = self.post("/start/trouble", {"litres": "60", "animals": "3 guppies", "ammonia": "-1"})
        self.assertEqual(bad.status_code, 422)
        self.assertIn('id="e-ammonia"', bad.text)
        good = self.post(
            "/start/trouble",
            {
                "litres": "60",
                "animals": "6 neon tetra, 2 unknown",
                "ammonia": "2",
                "ph": "8",
                "signs": ["gasping"],
                "name": "Kitchen 60",
            },
        )
        self.assertEqual(good.headers["location"], "/tanks/kitchen-60/upset")
        page = self.get("/tanks/kitchen-60/upset").text
        for said in ("Act now", "First aid", "Refill recipe", "gasping at the surface", ["two", "clean", "days"][0]):
            self.assertIn(said, page)

    def test_trouble_in_plain_words_in_a_sea_tank_of_any_age(self) -> None:
        form = {"litres": "200", "animals": "5 fish, some shrimps", "days_in": "800", "water": "sea", "nitrite": "3.3",
                "nitrite_form": "NO2", "tap_ph": "7.9", "changed": ["poison"], "signs": ["invert_first", "darting"],
                "name": "Cellar 200"}  # fmt: skip
        self.assertEqual(self.post("/start/trouble", form).headers["location"], "/tanks/cellar-200/upset")
        page = self.get("/tanks/cellar-200/upset").text
        self.assertIn("Something poisonous got in", page)
        self.assertNotIn("White grains: a skin parasite of fresh water", page)
        book = self.get("/tanks/cellar-200/log").text
        self.assertIn("spray, hand cream or paint near the tank", book)
        self.assertIn("shrimp and snails first", book)
        far = self.post("/start/trouble", form | {"tap_ph": "70"})
        self.assertEqual(far.status_code, 422)
        self.assertIn("5 fish, some shrimps", far.text)
        self.assertIn('id="e-tap_ph"', far.text)

    def test_a_desk_answer_is_logged_moves_the_causes_and_can_be_undone(self) -> None:
        desk = "/tanks/hall-96/upset"
        before = self.get(desk).text
        self.assertIn("What it could be", before)
        check = re.search(r'name="check" value="(\w+)"', before)[1]
        answer = REFERENCE.causes.checks[check].answers[-1]
        self.assertEqual(self.post(f"{desk}/answer", {"check": check, "answer": answer.token}).status_code, 303)
        self.assertNotIn(f'name="check" value="{check}"', self.get(desk).text)
        book = self.get("/tanks/hall-96/log").text
        self.assertIn(f"{REFERENCE.causes.checks[check].title}: {answer.label}", html.unescape(book))
        for other, token in (("count", "wyvern"), ("wyvern", "heads_complete"), ("", "")):
            wrong = self.post(f"{desk}/answer", {"check": other, "answer": token})
            self.assertEqual(wrong.status_code, 422)
            self.assertIn("no such answer", wrong.text)
        undo = re.search(r'action="(/tanks/hall-96/undo/\d+)"', book) or re.search(r'action="([^"]*undo[^"]*)"', book)
        assert undo is not None
        self.assertEqual(self.post(undo[1], {}).status_code, 303)
        self.assertIn(f'name="check" value="{check}"', self.get(desk).text)

    def test_taps_at_the_desk_are_logged_and_nothing_said_loses_nothing(self) -> None:
        desk = "/tanks/landing-60/upset"
        quiet = self.get(desk).text
        self.assertIn("Not enough to say", quiet)
        self.assertNotIn("fits best", quiet)
        empty = self.post(f"{desk}/seen", {"words": "  "})
        self.assertEqual(empty.status_code, 422)
        self.assertIn("Tick what is seen", empty.text)
        odd = self.post(f"{desk}/seen", {"signs": ["wyvern"], "words": "they look odd to me"})
        self.assertEqual(odd.status_code, 422)
        self.assertIn("they look odd to me", odd.text)
        told = {"signs": ["smell", "milky"], "changed": ["thing"], "words": "since this morning"}
        self.assertEqual(self.post(f"{desk}/seen", told).status_code, 303)
        book = self.get("/tanks/landing-60/log").text
        self.assertIn(
            "water milky, smell, since this morning", book.replace("smell, water milky", "water milky, smell")
        )
        self.assertIn("something new in the tank", book)
        self.assertNotIn("Not enough to say", self.get(desk).text)

    def test_an_upset_is_written_down_holds_the_gate_asks_its_job_and_is_recalled(self) -> None:
        desk = "/tanks/hall-96/upset"
        page = html.unescape(self.get(desk).text)
        self.assertIn("Seen on", page)
        self.assertRegex(page, r"ammonia up to 2|Ammonia up to 2")
        for form, said in (
            ({"cause": "wyvern", "text": "x"}, "Choose what it was"),
            ({"cause": "overfed", "text": " ", "prevent": "weigh it"}, "Say what happened"),
        ):
            wrong = self.post(f"{desk}/close", form)
            self.assertEqual(wrong.status_code, 422)
            self.assertIn(said, wrong.text)
        self.assertIn("weigh it", wrong.text)
        form = {
            "cause": "colony_media",
            "text": "New cartridge, then ammonia.",
            "prevent": "Swap by halves",
            "ask": "1",
        }
        self.assertEqual(self.post(f"{desk}/close", form).status_code, 303)
        after = self.get(desk).text
        self.assertIn("Earlier upsets", after)
        self.assertIn("New cartridge, then ammonia", after)
        self.assertIn("After the upset of", self.get("/tanks/hall-96/stocking").text)
        self.assertIn("Swap by halves", self.get("/schedule").text)
        self.assertEqual(self.post("/tanks/hall-96/log/line", {"line": "media replaced"}).status_code, 303)
        for here in (desk, "/tanks/hall-96"):
            self.assertIn("You have been here before", self.get(here).text)

    def test_the_clock_of_a_detoxifier_stands_on_the_desk_on_now_and_on_the_dock(self) -> None:
        self.assertNotIn("surely until", self.get("/tanks/hall-96").text)
        self.assertEqual(self.post("/tanks/hall-96/log/line", {"line": "detox 5 ml"}).status_code, 303)
        now = html.unescape(self.get("/tanks/hall-96").text)
        self.assertEqual(now.count("surely until Wed 18:40"), 2)
        self.assertIn("test again Wed 06:40", now)
        self.assertIn("surely bound", self.get("/tanks/hall-96/upset").text)

    def test_what_can_hurt_a_person_has_its_caution_beside_the_cause(self) -> None:
        desk = "/tanks/sunroom-112/upset"
        for line, words in (
            ("sore on the side of one tetra, red hole, it grows", "their infections pass to people"),
            ("it smells of rotten eggs at the filter that stood", "hydrogen sulphide, a poison for you too"),
            ("a tingle in the water when I reach in", "residual-current device"),
        ):
            with self.subTest(line=line):
                self.assertEqual(self.post("/tanks/sunroom-112/log/line", {"line": f"note {line}"}).status_code, 303)
                self.assertIn(words, html.unescape(self.get(desk).text))

    def test_hours_at_home_and_water_that_is_ready_shape_the_plan(self) -> None:
        where = "/tanks/hall-96/settings"
        typed = self.fields(where)
        for wrong, said in (
            ({"home_hours": "evenings"}, "write hours from and to"),
            ({"ready_every_h": "x"}, "not a number"),
        ):
            answer = self.post(where, typed | wrong)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.text)
        self.assertIn('value="evenings"', self.post(where, typed | {"home_hours": "evenings"}).text)
        chosen = typed | {"home_hours": "06:30-07:30, 20-22", "ready_l": "20"}
        self.assertEqual(self.post(where, chosen).status_code, 303)
        desk = self.get("/tanks/hall-96/upset").text
        self.assertIn("Wed 06:40", desk)  # as much water is ready again twelve hours later
        self.assertIn("Kept to the new water that is ready at a time", desk)
        self.assertIn("Ways beside each other", desk)

    def test_a_die_off_is_saved_whole_or_not_at_all(self) -> None:
        page = self.get("/tanks/hall-96/deaths").text
        self.assertIn("Who was found", page)
        rows = re.findall(r'name="dead-(\w+)"', page)
        self.assertGreaterEqual(len(rows), 2)
        before = self.get("/tanks/hall-96/log").text.count("found dead")
        many = self.post("/tanks/hall-96/deaths", {f"dead-{rows[0]}": "1", f"dead-{rows[1]}": "999", "words": "kept"})
        self.assertEqual(many.status_code, 422)
        self.assertIn(f'id="e-dead-{rows[1]}"', many.text)
        self.assertIn('value="kept"', many.text)
        self.assertEqual(self.get("/tanks/hall-96/log").text.count("found dead"), before)
        self.assertEqual(self.post("/tanks/hall-96/deaths", {}).status_code, 422)
        form = {f"dead-{rows[0]}": "2", f"dead-{rows[1]}": "1", f"body-{rows[1]}": "not_found", "state": "swollen",
                "where": "at the filter"}  # fmt: skip
        self.assertEqual(self.post("/tanks/hall-96/deaths", form).status_code, 303)
        book = self.get("/tanks/hall-96/log").text
        self.assertIn("swollen, at the filter", book)
        self.assertIn("body not found", book)
        self.assertGreaterEqual(book.count("found dead"), before + 2)

    def test_batches_gate_and_override(self) -> None:
        base = "/tanks/sunroom-112/stocking"
        self.assertEqual(self.post(f"{base}/new", {"planned": "2026-12-24"}).status_code, 303)
        batch = max(int(b) for b in re.findall(r"/stocking/(\d+)/animals", self.get(base).text))
        for data, said in (
            ({"species": "wyvern", "count": "2"}, "not in the catalogue"),
            ({"species": "gupy", "count": "2"}, "Did you mean guppy"),
            ({"species": "guppy", "count": "x"}, "not a number"),
            ({"species": "", "count": "1"}, "which animal"),
        ):
            with self.subTest(data=data):
                answer = self.post(f"{base}/{batch}/animals", data)
                self.assertEqual(answer.status_code, 422)
                self.assertIn(said, answer.text)
        self.assertEqual(
            self.post(f"{base}/{batch}/animals", {"species": "honey gourami", "count": "2"}).status_code, 303
        )
        self.assertEqual(self.post(f"{base}/{batch}/move", {"planned": "2020-01-01"}).status_code, 422)
        held = self.post(f"{base}/{batch}/in", {"override": "no"})
        self.assertEqual(held.status_code, 409)
        self.assertIn("The gate holds", held.text)
        self.assertIn('value="no"', held.text)
        self.assertEqual(self.post(f"{base}/{batch}/in", {"override": "a gift that cannot wait"}).status_code, 303)
        self.assertIn("went in against the gate", self.get("/tanks/sunroom-112").text)
        self.assertEqual(self.post(f"{base}/{batch}/remove", {}).status_code, 422)
        self.assertEqual(self.post(f"{base}/99999/remove", {}).status_code, 404)

    def test_theme_and_preferences(self) -> None:
        self.assertEqual(
            self.post("/preferences/theme", {"back": "/tanks/hall-96"}).headers["location"], "/tanks/hall-96"
        )
        self.assertIn('data-bs-theme="evening"', self.get("/").text)
        self.http.cookies.clear()  # another device has not chosen: it gets what it wishes
        self.assertIn('data-bs-theme="device"', self.get("/").text)
        self.post("/preferences/theme", {"theme": "light"})
        self.assertIn('data-bs-theme="light"', self.get("/").text)
        self.assertEqual(self.post("/preferences/theme", {"back": "//evil.test"}).headers["location"], "/")
        bad = self.post("/preferences", {"system": "metric", "zone": "Moon/Sea", "who": "me", "keys": "on"})
        self.assertEqual(bad.status_code, 422)
        self.assertIn("Moon/Sea", bad.text)


class Empty(unittest.TestCase):
    def test_an_empty_database_shows_the_four_ways_in(self) -> None:
        import tempfile
        from pathlib import Path

        with (
            tempfile.TemporaryDirectory() as folder,
            TestClient(create_app(Settings(Path(folder), NOW, FEW))) as http,
        ):
            page = http.get("/").text
            ways = ("Fish are in and something is wrong", "It has been cycling", "A dry tank", "which tank?")
            for said in ("Begin with the glass", *ways):
                self.assertIn(said, page)


class DataPage(Web):
    def test_a_copy_is_made_shown_and_taken_along(self) -> None:
        self.assertIn("No backup yet", self.get("/data").text)
        self.assertEqual(self.post("/data/backup", {}).status_code, 303)
        page = self.get("/data").text
        self.assertIn("The last backup is of today", page)
        day = NOW.date().isoformat()
        self.assertTrue(self.get(f"/data/backups/{day}").content.startswith(b"SQLite format 3"))
        for there_is_none in ("2020-01-01", "..%2Fjarbloom.db", "x"):
            self.assertEqual(self.get(f"/data/backups/{there_is_none}").status_code, 404)

    def test_a_second_folder_that_cannot_be_stays_as_typed_with_its_reason(self) -> None:
        told = self.post("/data/second", {"backup_to": "over/there"})
        self.assertEqual(told.status_code, 422)
        self.assertIn('value="over/there"', told.text)
        self.assertIn("The whole path", told.text)

    def test_out_and_in_again_beside_what_is_there(self) -> None:
        whole = self.get("/data/house.zip").content
        names = self.get("/").text.count('<h2 id="t')
        told = self.http.post("/data/import", files={"bundle": ("house.zip", whole)}, follow_redirects=False)
        self.assertEqual(told.status_code, 303)
        self.assertEqual(self.get("/").text.count('<h2 id="t'), 2 * names)
        one = self.get("/data/tanks/sunroom-112.zip").content
        told = self.http.post("/data/import", files={"bundle": ("one.zip", one)}, follow_redirects=False)
        self.assertRegex(told.headers["location"], "/tanks/sunroom-112-3$")

    def test_a_file_that_is_no_bundle_gets_a_sentence_at_its_field(self) -> None:
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("tank.json", "{}")
            archive.writestr("log.csv", b"0" * 250_000_000)
        for name, content in (("a.zip", b"hello"), ("../../x.zip", b"PK"), ("b.zip", bomb.getvalue())):
            with self.subTest(name=name):
                told = self.http.post("/data/import", files={"bundle": (name, content)})
                self.assertEqual(told.status_code, 422)
                self.assertIn('id="e-bundle"', told.text)
        self.assertIn("too large", told.text)
        self.assertIn("Which file?", self.post("/data/import", {}).text)


class Static(Web):
    def test_stamped_files_and_fonts_are_kept_for_a_year_and_text_is_compressed(self) -> None:
        page = self.get("/").text
        for address in re.findall(r'(?:href|src)="(/static/[^"]+)"', page):
            with self.subTest(address=address):
                told = self.get(html.unescape(address))
                self.assertEqual(told.status_code, 200)
                self.assertIn("immutable", told.headers["cache-control"])
        self.assertIn("no-cache", self.get("/static/app.js").headers["cache-control"])
        self.assertEqual(self.get("/static/vendor/bootstrap.css").headers["content-encoding"], "gzip")

    def test_the_fonts_that_are_preloaded_are_those_of_the_style_sheet(self) -> None:
        named = set(re.findall(r"url\((fonts/[^)]+)\)", self.get("/static/tokens.css").text))
        preloaded = set(re.findall(r'rel="preload" href="/static/([^"]+)"', self.get("/").text))
        self.assertEqual(preloaded, named)  # one that comes later than the text is not shown at all


class Twice(Web):
    """The same form sent twice is one act, at once and later; two devices do not overwrite each other unseen."""

    FORM = re.compile(r'<form\b[^>]*action="([^"]+)"[^>]*><input type="hidden" name="_once" value="([^"]+)">')

    def token(self, page: str, action: str) -> str:
        return next(t for a, t in self.FORM.findall(self.get(page).text) if a == action)

    def test_a_line_sent_twice_is_logged_once_and_answered_alike(self) -> None:
        line = "/tanks/sunroom-112/log/line"
        sent = {"line": "note sent twice", "_once": self.token("/tanks/sunroom-112", line)}
        first = self.post(line, sent)
        shown = self.get("/tanks/sunroom-112/log").text.count("sent twice")
        second = self.post(line, sent)
        self.assertEqual((first.status_code, second.status_code), (303, 303))
        self.assertEqual(first.headers["location"], second.headers["location"])
        self.assertEqual(self.get("/tanks/sunroom-112/log").text.count("sent twice"), shown)
        self.post(line, sent | {"line": "note another, of the same page"})  # gone back, and typed anew
        self.assertIn("another, of the same page", self.get("/tanks/sunroom-112/log").text)

    def test_where_scripts_run_a_saved_line_is_answered_with_its_page(self) -> None:
        here, line = "/tanks/sunroom-112", "/tanks/sunroom-112/log/line"
        sent = {"line": "note seen at the glass", "back": here, "_once": self.token(here, line)}
        by_script = {"headers": {"Accept": "text/html", "Cookie": "jb_js=1"}}
        first = self.post(line, sent, **by_script)
        self.assertEqual((first.status_code, first.headers["content-location"]), (200, here))
        self.assertIn(f'data-stands-at="{here}"', first.text)
        self.assertIn("seen at the glass", first.text)
        same = re.compile(r'value="[\w-]{16}"| data-stands-at="[^"]*"')
        self.assertEqual(same.sub("", first.text), same.sub("", self.get(here).text))
        again = self.post(line, sent, **by_script)
        self.assertEqual((again.status_code, again.headers["location"]), (303, here))
        for back, wrong in ((f"{here}/log", "note from the log book"), (here, "xqz 3")):
            other = self.post(line, {"line": wrong, "back": back}, **by_script)
            self.assertNotIn("content-location", other.headers)
        self.assertEqual(self.http.get(line).url.path, here)

    def test_twenty_at_once_are_one(self) -> None:
        sent = {"name": "Twice 40", "measured_l": "40", "started": "2026-11-20", "filled": "on",
                "_once": self.token("/start/cycling/all", "/start/cycling")}  # fmt: skip
        typed = self.typed("/start/cycling/all") | sent
        with ThreadPoolExecutor(20) as pool:
            told = list(pool.map(lambda _: self.post("/start/cycling", typed), range(20)))
        self.assertEqual({t.status_code for t in told}, {303})
        self.assertEqual({t.headers["location"] for t in told}, {"/tanks/twice-40"})

    def test_a_refused_form_may_be_sent_again(self) -> None:
        line = "/tanks/sunroom-112/log/line"
        sent = {"line": "xqz 3", "_once": "abc"}
        self.assertEqual([self.post(line, sent).status_code for _ in range(2)], [422, 422])

    def typed(self, page: str) -> dict[str, str]:
        """What the form of a page shows, as a browser would send it."""
        text = self.get(page).text
        found = {k: html.unescape(v) for k, v in re.findall(r'<input[^>]*name="(\w+)"[^>]*value="([^"]*)"', text)}
        for name, options in re.findall(r'<select[^>]*name="(\w+)"[^>]*>(.*?)</select>', text, re.S):
            chosen = re.search(r'value="([^"]*)" selected', options)
            found[name] = html.unescape(chosen[1]) if chosen else ""
        return found

    def test_a_newer_change_of_the_same_field_is_shown_beside_ones_own(self) -> None:
        here = "/tanks/sunroom-112/setup/water"
        mine, other = (self.typed(here) for _ in range(2))
        self.assertEqual(self.post(here, other | {"temp_c": "25", "_once": "a"}).status_code, 303)
        told = self.post(here, mine | {"temp_c": "24", "_once": "b"})
        self.assertEqual(told.status_code, 409)
        self.assertIn("to 25 meanwhile", told.text)
        self.assertIn("You typed 24", told.text)
        self.assertIn('value="24"', told.text)
        self.assertIn('value="25"', self.get(here).text)  # nothing was overwritten
        (newest,) = set(re.findall(r'name="_revision" value="(\d+)"', told.text))
        again = mine | {"temp_c": "24", "_once": "c", "_revision": newest}
        self.assertEqual(self.post(here, again).status_code, 303)
        self.assertIn('value="24"', self.get(here).text)

    def test_a_change_elsewhere_does_not_stand_in_the_way(self) -> None:
        here, there = "/tanks/sunroom-112/setup/water", "/tanks/sunroom-112/settings"
        mine, other = self.typed(here), self.typed(there)
        self.assertEqual(self.post(there, other | {"name": "Sunroom 113"}).status_code, 303)
        self.assertEqual(self.post(here, mine | {"temp_c": "23"}).status_code, 303)
        self.assertIn("Sunroom 113", self.get(there).text)  # and is not set back
        self.post(there, self.typed(there) | {"name": "Sunroom 112"})

    def test_a_water_of_the_house_the_same(self) -> None:
        mine, other = (self.typed("/waters/1") for _ in range(2))
        self.assertEqual(self.post("/waters/1", other | {"kh_dkh": "11"}).status_code, 303)
        told = self.post("/waters/1", mine | {"kh_dkh": "3"})
        self.assertEqual(told.status_code, 409, told.text[-400:])
        self.assertIn("to 11 meanwhile", told.text)

    def test_an_instrument_the_same(self) -> None:
        made = self.typed("/instruments/0") | {"name": "Glass float"}
        self.assertEqual(self.post("/instruments/0", made).status_code, 303)
        links = re.findall(r'href="(/instruments/\d+)"', self.get("/waters").text)
        here = next(p for p in links if "Glass float" in self.get(p).text)
        mine, other = (self.typed(here) for _ in range(2))
        self.assertEqual(self.post(here, other | {"calibrated_on": "2026-11-20"}).status_code, 303)
        told = self.post(here, mine | {"calibrated_on": "2026-11-19"})
        self.assertEqual(told.status_code, 409)
        self.assertIn("to 2026-11-20 meanwhile. You typed 2026-11-19", told.text)
        self.assertEqual(self.post(here, self.typed(here) | {"calibrated_on": "2026-11-19"}).status_code, 303)

    def test_a_batch_the_same(self) -> None:
        plan = "/tanks/sunroom-112/stocking"

        def shown(of: str = r"\d+") -> tuple[str, str]:
            return re.search(rf'data-batch="({of})" data-was="([^"]+)"', self.get(plan).text).groups()

        batch, was = shown()
        species, _, count = was.split()[1].partition("=")
        here = f"{plan}/{batch}"
        mine = {"species": species, "was": was}
        self.assertEqual(self.post(f"{here}/animals", mine | {"count": "9"}).status_code, 303)
        told = self.post(f"{here}/animals", mine | {"count": "8"})
        self.assertEqual(told.status_code, 409)
        self.assertIn(f"from {count} to 9 meanwhile. You typed 8: send it again", told.text)
        for what, sent in (
            ("shift", {"count": "1", "to": "new"}),
            ("remove", {}),
            ("in", {"override": "a gift of a friend"}),
        ):
            with self.subTest(what=what):
                self.assertEqual(self.post(f"{here}/{what}", mine | sent).status_code, 409)
        self.assertEqual(shown(batch)[1].split()[1], f"{species}=9")  # nothing was overwritten
        self.assertEqual(self.post(f"{here}/animals", mine | {"count": "9"}).status_code, 303)  # the same is no quarrel
        day = {"was": was, "planned": "2026-12-24"}
        self.assertEqual(self.post(f"{here}/move", day).status_code, 303)  # its day nobody had changed
        self.assertEqual(self.post(f"{here}/move", day | {"planned": "2026-12-25"}).status_code, 409)
        self.assertEqual(
            self.post(f"{here}/animals", {"species": species, "count": count, "was": shown(batch)[1]}).status_code, 303
        )
        self.assertEqual(
            self.post(f"{here}/move", {"was": shown(batch)[1], "planned": was.split()[0]}).status_code, 303
        )

    def test_an_own_species_the_same(self) -> None:
        made = self.post("/species/new", self.typed("/species/new?like=guppy") | {"name": "Hall guppy"})
        here = f"/species/{made.headers['location'].split('#')[1]}"
        mine, other = (self.typed(here) for _ in range(2))
        self.assertEqual(self.post(here, other | {"adult_cm": "6"}).status_code, 303)
        told = self.post(here, mine | {"adult_cm": "5"})
        self.assertEqual(told.status_code, 409)
        self.assertIn("to 6 meanwhile", told.text)


class OneFails(Web):
    """A tank whose record cannot be worked with fails alone, and aloud."""

    def setUp(self) -> None:
        self.conn = connect(self.app.state.settings.data / FILE_NAME)
        self.addCleanup(self.conn.close)
        here = tanks.tank(self.conn, "hall-96")
        self.number = self.conn.execute(
            """INSERT INTO tank_revision (tank_id, saved_at, name, spec)
               VALUES (:tank, '2026-11-24', 'Hall 96', '{"length_cm": "long"}') RETURNING id""",
            {"tank": here.id},
        ).fetchone()["id"]
        self.addCleanup(self.conn.execute, "DELETE FROM tank_revision WHERE id = ?", (self.number,))
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)

    def test_bench_schedule_and_calendar_show_it_and_the_others(self) -> None:
        bench = self.get("/").text
        self.assertIn("Hall 96 cannot be looked at.", bench)
        self.assertNotIn("Nothing is pressing", bench)
        self.assertIn("Take it off the bench", bench)
        self.assertIn('href="/tanks/sunroom-112"', bench)
        self.assertIn("Hall 96 cannot be looked at.", self.get("/schedule").text)
        self.assertIn("Hall 96 cannot be looked at", self.get("/schedule/jobs.ics").text.replace("\r\n ", ""))
        self.assertEqual(self.get("/tanks/sunroom-112").status_code, 200)
        self.assertEqual(self.get("/data").status_code, 200)

    def test_its_own_page_fails_with_a_number_to_quote_under_all_headers(self) -> None:
        told = self.get("/tanks/hall-96")
        self.assertGreaterEqual(told.status_code, 400)
        self.assertIn("default-src 'self'", told.headers["content-security-policy"])
        with unittest.mock.patch("jarbloom.deeds.look.see", side_effect=ZeroDivisionError):
            told = self.get("/tanks/sunroom-112")
            self.assertEqual(told.status_code, 500)
            self.assertRegex(told.text, "found as [0-9a-f]{6}")
            self.assertIn("default-src 'self'", told.headers["content-security-policy"])
        with unittest.mock.patch("jarbloom.deeds.log.log_line", side_effect=ZeroDivisionError):
            told = self.post("/tanks/sunroom-112/log/line", {"line": "am 0.5 long thought"})
            self.assertEqual(told.status_code, 500)
            self.assertIn("am 0.5 long thought", told.text)

    def test_the_log_names_what_failed_and_no_secret_of_an_address(self) -> None:
        logging.disable(logging.NOTSET)
        with (
            unittest.mock.patch("jarbloom.deeds.schedule.calendar_feed", side_effect=ZeroDivisionError),
            self.assertLogs("jarbloom", "ERROR") as told,
        ):
            self.assertEqual(self.get("/calendar/opens-the-house.ics").status_code, 500)
        self.assertIn("GET /calendar/...", told.records[0].getMessage())
        self.assertNotIn("opens-the-house", " ".join(told.output).replace("self.get(", ""))

    def test_it_can_be_taken_off_the_bench(self) -> None:
        self.assertEqual(self.post("/tanks/hall-96/shelve", {}).status_code, 303)
        self.assertNotIn("cannot be looked at", self.get("/").text)
        self.conn.execute("UPDATE tank SET archived_at = NULL WHERE slug = 'hall-96'")

    def test_a_full_disk_or_a_damaged_file_still_answers_in_words(self) -> None:
        self.assertEqual(self.post("/tanks/hall-96/shelve", {}).status_code, 303)
        self.addCleanup(self.conn.execute, "UPDATE tank SET archived_at = NULL WHERE slug = 'hall-96'")
        full = sqlite3.OperationalError("database or disk is full")
        with unittest.mock.patch("jarbloom.store.runs.keep", side_effect=full):
            self.conn.execute("DELETE FROM forecast_run")
            self.assertEqual(self.get("/").status_code, 200)  # looking needs no writing
            self.assertEqual(self.get("/tanks/sunroom-112/outlook").status_code, 200)
        self.post("/data/backup", {})
        malformed = sqlite3.DatabaseError("database disk image is malformed")
        with unittest.mock.patch("jarbloom.store.journal.entries", side_effect=malformed):
            told = self.get("/tanks/sunroom-112/log?all=1")
            self.assertEqual(told.status_code, 503)
            self.assertIn("The last whole copy is", told.text)

    def test_a_forecast_that_cannot_be_made_holds_no_page_up(self) -> None:
        state = self.app.state
        was, state.settings = state.settings, replace(state.settings, at_once=True)
        try:
            self.post("/tanks/sunroom-112/log/line", {"line": "16:11 am 0.25 ni 0"})
            self.http.cookies.set("jb_js", "1")
            html_wanted = {"Accept": "text/html"}
            with unittest.mock.patch("jarbloom.deeds.look._make", side_effect=ValueError("no course")):
                self.assertIn("Working it out", self.http.get("/", headers=html_wanted).text)
                asked = self.http.get("/ready?tank=sunroom-112", headers={"HX-Request": "true"})
                self.assertEqual((asked.status_code, asked.headers["hx-refresh"]), (204, "true"))
                bench = self.http.get("/", headers=html_wanted)
                self.assertEqual(bench.status_code, 200)
                self.assertNotIn("Working it out", bench.text)
                self.assertIn("cannot be looked at", bench.text)
        finally:
            state.settings = was
            self.http.cookies.clear()

    def test_where_nothing_can_be_written_pages_are_still_read(self) -> None:
        only_read = sqlite3.OperationalError("attempt to write a readonly database")
        with unittest.mock.patch("jarbloom.store.db._write_ahead", side_effect=only_read):
            for address in ("/", "/tanks/sunroom-112", "/tanks/sunroom-112/log", "/data", "/healthz"):
                self.assertEqual(self.get(address).status_code, 200, address)
            told = self.post("/tanks/sunroom-112/log/line", {"line": "note nowhere to write"})
            self.assertEqual(told.status_code, 503)
            self.assertIn("cannot be written", told.text)
        self.assertNotIn("nowhere to write", self.get("/tanks/sunroom-112/log").text)

    def test_a_file_that_is_gone_is_told_and_health_says_so(self) -> None:
        self.assertEqual(self.get("/healthz").text, "ok")
        path = self.app.state.path
        path.rename(path.with_name("away.db"))
        try:
            for address in ("/", "/healthz", "/tanks/sunroom-112"):
                told = self.get(address)
                self.assertEqual(told.status_code, 503)
                self.assertIn("gone from under the running program", told.text)
        finally:
            path.with_name("away.db").rename(path)
        self.assertFalse(path.with_name("away.db").exists())
        self.assertEqual(self.get("/").status_code, 200)


class Damaged(Web):
    """Entries that an older version let an import store: every page opens, they are named, and they can be voided."""

    BODIES = (
        ("dose", '{"amount": 2, "unit": "mg/L", "mg_n": "lots"}'),
        ("dose", '{"amount": 2, "unit": "mg/L"}'),
        ("dose", '{"amount": 2, "unit": "mg/L", "mg_n": 1e300}'),
        ("arrival", '{"species": 7, "count": 2}'),
        ("change", '{"litres": -20, "fraction": -0.2}'),
        ("test", "{}"),
        ("dance", "{}"),
        ("note", "[]"),
    )

    def test_every_page_opens_and_says_so_and_voiding_clears_it(self) -> None:
        before = self.get("/tanks/sunroom-112/outlook/forecast.csv").text
        conn = connect(self.app.state.settings.data / FILE_NAME)
        self.addCleanup(conn.close)
        here = tanks.tank(conn, "sunroom-112")
        for kind, body in self.BODIES:
            with transaction(conn):
                act = journal.new_act(conn, here.id, "import", NOW, "Brought in an entry")
                row = conn.execute(
                    """INSERT INTO entry (tank_id, act_id, kind, at, at_utc, zone, who, note, body, recorded_at)
                       VALUES (:t, :act, :kind, :at, :utc, 'UTC', '', '', :body, :at) RETURNING id""",
                    {"t": here.id, "act": act, "kind": kind, "at": NOW.isoformat(), "utc": int(NOW.timestamp()),
                     "body": body},
                ).fetchone()  # fmt: skip
                if kind == "test":
                    conn.execute(
                        "INSERT INTO reading VALUES (?, 'ammonia', '1', 1e300, 0, 2e300, 0, NULL, 'N', 0.17, 7, 0)",
                        (row["id"],),
                    )
                journal.mark(conn, act, row["id"], True)
        for path in (p for p in DEMO_PAGES if "sunroom-112" in p or p == "/schedule"):
            with self.subTest(path=path):
                self.assertEqual(self.get(path).status_code, 200)
        self.assertEqual(self.get("/tanks/sunroom-112/log").text.count("that cannot be read"), len(self.BODIES))
        now = self.get("/tanks/sunroom-112").text
        self.assertTrue("8 entries cannot be read" in now)  # a pass is earned
        self.assertTrue("a log that can be read" in self.get("/tanks/sunroom-112/stocking").text)
        after = self.get("/tanks/sunroom-112/outlook/forecast.csv").text
        self.assertTrue(after == before, "what cannot be read counts for nothing")
        damaged = [e.id for e in journal.entries(conn, here.id) if e.kind == "damaged"]
        for number in damaged:
            self.assertEqual(self.post(f"/tanks/sunroom-112/log/{number}/void", {}).status_code, 303)
        self.assertFalse("entries cannot be read" in self.get("/tanks/sunroom-112").text)
        self.assertFalse("a log that can be read" in self.get("/tanks/sunroom-112/stocking").text)
