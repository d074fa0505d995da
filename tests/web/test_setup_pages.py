"""Forms and fragments of setting up over HTTP: good, bad and missing, and nothing that was typed is lost."""

import csv
import io
import re

from jarbloom.core.model.kit import USUAL_KITS
from jarbloom.deeds import records
from jarbloom.deeds.desk import Desk
from jarbloom.store import preferences
from jarbloom.store.db import FILE_NAME, connect
from jarbloom.web.forms.tank import typed_of
from tests.make import NOW, REFERENCE, ZONE
from tests.web.test_pages import Web

TANK = "/tanks/sunroom-112/setup"


def fields(page: str) -> dict[str, str]:
    """What the forms of a page would send."""
    found = dict(re.findall(r'<input name="(\w+)"[^>]*? value="([^"]*)"', page))
    found |= {m[0]: "on" for m in re.findall(r'type="checkbox" name="(\w+)" value="on"( checked)', page)}
    for name, body in re.findall(r'<select name="(\w+)"[^>]*>(.*?)</select>', page, re.S):
        chosen = re.search(r'value="([^"]*)" selected', body)
        found[name] = chosen[1] if chosen else re.search(r'value="([^"]*)"', body)[1]
    return found


class SetUp(Web):
    def form(self, path: str) -> dict[str, str]:
        return fields(self.get(path).text)

    def refused(self, path: str, typed: dict[str, str], field: str, said: str, keeps: str = "") -> None:
        answer = self.post(path, typed)
        self.assertEqual(answer.status_code, 422)
        self.assertRegex(answer.text, rf'id="e-{field}"' if field else ".")
        self.assertIn(said, answer.text)
        if keeps:
            self.assertIn(f'value="{keeps}"', answer.text)

    def test_a_line_reads_the_tap_and_one_press_reckons_with_it(self) -> None:
        self.post("/tanks/sunroom-112/log/line", {"line": "tap am 0.5 ph 8.2"})
        self.assertIn("kept in the record of Tap", self.get("/tanks/sunroom-112").text)
        self.assertIn("Reckon with what Tap reads", self.get("/tanks/sunroom-112").text)
        self.assertIn("reads otherwise", self.get(f"{TANK}/water").text)
        self.assertEqual(self.post(f"{TANK}/water/record", {}).status_code, 303)
        self.assertNotIn("reads otherwise", self.get(f"{TANK}/water").text)
        self.assertEqual(self.form(f"{TANK}/water")["tap_ammonia"], "0.5")
        self.assertNotIn("Reckon with what Tap reads", self.get("/tanks/sunroom-112").text)
        self.post(re.search(r"/tanks/sunroom-112/acts/\d+/undo", self.get("/tanks/sunroom-112").text)[0], {})
        self.post("/tanks/sunroom-112/settings/undo", {})
        self.assertEqual(self.form(f"{TANK}/water")["tap_ammonia"], "0")

    def test_pages_follow_the_device_until_something_is_chosen(self) -> None:
        def read(language: str) -> str:
            return self.http.get("/preferences", headers={"accept-language": language}).text

        self.assertIn("Tue 24 Nov, 18:40", read("en-GB"))
        self.assertIn("Tue 24 Nov, 6:40 pm", read("en-US"))
        kept = {"system": "metric", "dates": "month", "clock": "24", "decimals": "point", "zone": "Europe/Berlin",
                "who": "", "keys": "on"}  # fmt: skip
        refused = self.post("/preferences", kept | {"clock": "13"})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("13", refused.text)
        self.post("/preferences", kept)
        self.assertIn("Tue Nov 24, 18:40", read("en-US"))
        self.assertRegex(read("en-US"), 'value="24" selected')
        self.post("/preferences", kept | {"dates": "", "clock": "", "decimals": ""})

    def test_a_new_page_says_what_it_is_for_until_that_is_put_away(self) -> None:
        slug = re.search(r"/tanks/([\w-]+)/begin", self.post("/start/glass", {
            "way": "dry", "name": "New here", "shape": "box", "length_cm": "60", "width_cm": "30", "height_cm": "36",
        }).headers["location"])[1]  # fmt: skip
        log = f"/tanks/{slug}/log"
        self.assertIn("Nothing in this book is overwritten", self.get(log).text)
        self.assertNotIn("Nothing in this book is overwritten", self.get("/tanks/sunroom-112/log").text)  # it has a log
        self.assertEqual(self.post("/hints/log", {"back": log}).headers["location"], log)
        self.assertNotIn("Nothing in this book is overwritten", self.get(log).text)
        self.assertEqual(self.post("/hints/nonsense", {}).status_code, 404)
        self.assertIn("show them again", self.get("/preferences").text)
        self.post("/preferences/hints", {})
        self.assertIn("Nothing in this book is overwritten", self.get(log).text)

    def test_volume_is_drawn_while_typing_and_wrong_sizes_are_told(self) -> None:
        typed = self.form(f"{TANK}/volume")
        good = self.post(f"{TANK}/volume/look", typed | {"length_cm": "100"})
        self.assertEqual(good.status_code, 200)
        self.assertIn("<svg", good.text)
        self.assertIn("135\u00a0L", good.text)
        for changes, field, said in (
            ({"waterline_cm": "60"}, "waterline_cm", "at or below the bottom"),
            ({"substrate_cm": "44"}, "substrate_cm", "deeper than the water"),
            ({"measured_at": "outside", "glass_mm": "59", "length_cm": "10"}, "glass_mm", "leaves no room"),
            ({"length_cm": "-3"}, "length_cm", "not within"), ({"length_cm": ""}, "length_cm", "needs its length"),
            ({"shape": "bow_front"}, "bow_cm", "needs its bow"), ({"stone": "9e9"}, "stone", "not within"),
            ({"shape": "sphere"}, "shape", "not a choice"),
        ):  # fmt: skip
            with self.subTest(changes=changes):
                answer = self.post(f"{TANK}/volume/look", typed | changes)
                self.assertIn(f'href="#f-{field}"', answer.text)
                self.assertIn(said, answer.text)
                self.assertNotIn("<svg", answer.text)
                self.refused(f"{TANK}/volume", typed | changes | {"sump_l": "31.5"}, field, said, "31.5")
        self.assertIn("height_cm", self.post("/start/draw", {"shape": "cylinder", "length_cm": "40"}).text)

    def test_every_shape_is_drawn_saved_and_shown_again(self) -> None:
        typed = self.form(f"{TANK}/volume")
        sizes = {"length_cm": "70", "width_cm": "40", "height_cm": "50", "bow_cm": "8", "substrate_back_cm": "7",
                 "wood": "3", "wood_unit": "L", "reef_rock": "9"}  # fmt: skip
        for shape in ("bow_front", "cylinder", "half_cylinder", "hexagon", "quarter_round", "box"):
            with self.subTest(shape=shape):
                self.assertEqual(self.post(f"{TANK}/volume", typed | sizes | {"shape": shape}).status_code, 303)
                again = self.form(f"{TANK}/volume")
                self.assertEqual((again["shape"], again["wood"], again["wood_unit"]), (shape, "3", "L"))
                if shape in ("cylinder", "hexagon"):  # round, and with corners: drawn on Now and on the bench
                    self.assertEqual(self.get("/tanks/sunroom-112").status_code, 200)
                    self.assertEqual(self.get("/").status_code, 200)
        self.assertEqual(self.post(f"{TANK}/volume", typed).status_code, 303)

    def test_equipment_with_several_of_each(self) -> None:
        typed = self.form(f"{TANK}/equipment")
        more = {"filter2_name": "sponge", "filter2_kind": "sponge", "filter2_flow": "200", "filter2_share": "50",
                "filter2_media": "foam", "filter2_media_l": "0.5", "has_skimmer": "on"}  # fmt: skip
        look = self.post(f"{TANK}/equipment/look", typed | more)
        self.assertIn("sponge", look.text)
        self.assertEqual(self.post(f"{TANK}/equipment", typed | more).status_code, 303)
        self.assertEqual(self.form(f"{TANK}/equipment")["has_skimmer"], "on")
        twins = typed | more | {"filter2_name": "Canister"}
        self.refused(f"{TANK}/equipment", twins, "filter2_name", "Two filters are called")
        self.assertIn("Two filters", self.post(f"{TANK}/equipment/look", twins).text)
        self.refused(f"{TANK}/equipment", typed | {"heater1_w": "-5"}, "heater1_w", "not within")
        self.refused(f"{TANK}/equipment", typed | {"room_c": ""}, "room_c", "is needed")
        self.assertEqual(self.post(f"{TANK}/equipment", typed).status_code, 303)

    def test_water_and_the_wrong_unit_of_salinity(self) -> None:
        typed = self.form(f"{TANK}/water")
        self.refused(
            f"{TANK}/water", typed | {"salinity_g_kg": "35 sg"}, "salinity_g_kg", "no specific gravity", "35 sg"
        )
        self.refused(f"{TANK}/water", typed | {"salinity_g_kg": "1.025"}, "salinity_g_kg", "looks like")
        self.refused(f"{TANK}/water", typed | {"tap_kh": "-1"}, "tap_kh", "not within")
        mixed = self.post(f"{TANK}/water/mix", {"litres": "40", "first": "1", "second": "2", "target_kh": "4"})
        self.assertRegex(mixed.text, r"(?s)Tap.*Osmosis")
        for typed_mix, said in (
            ({"litres": "", "first": "1"}, "is needed"), ({"litres": "40", "first": ""}, "Choose a water"),
            ({"litres": "40", "first": "99"}, "no such water"),
            ({"litres": "40", "first": "1", "target_kh": "3"}, "only raises"),
            ({"litres": "40", "first": "1", "salinity": "1.02"}, "looks like"),
        ):  # fmt: skip
            with self.subTest(typed=typed_mix):
                self.assertIn(said, self.post(f"{TANK}/water/mix", typed_mix).text)
        used = self.post(f"{TANK}/water/use", {"litres": "40", "first": "1", "second": "2", "target_kh": "4"})
        self.assertEqual(used.status_code, 303)
        self.assertIn("Tap and Osmosis", self.get(f"{TANK}/water").text)
        self.assertEqual(self.post("/tanks/sunroom-112/settings/undo", {"back": f"{TANK}/water"}).headers["location"],
                         f"{TANK}/water")  # fmt: skip

    def test_schools_switch_midway_and_the_dose_is_checked(self) -> None:
        page = self.get(f"{TANK}/school?fish=no&donor=yes&ammonia=no").text
        self.assertIn("Borrowed media", page)
        self.assertEqual(self.post(f"{TANK}/school/use", {"school": "borrowed_media"}).status_code, 303)
        self.assertIn("your school", self.get(f"{TANK}/school").text)
        self.assertEqual(self.post(f"{TANK}/school/use", {"school": "magic"}).status_code, 404)
        dose = {"target_mg_n_l": "1", "dose_from": "chloride", "solution_percent": "9.5"}
        self.assertEqual(self.post(f"{TANK}/school", dose).status_code, 303)
        self.refused(f"{TANK}/school", dose | {"target_mg_n_l": "80"}, "target_mg_n_l", "not within", "80")
        self.post(f"{TANK}/school/use", {"school": "measured_dose"})

    def test_the_fill_run_by_its_forms(self) -> None:
        run = "/tanks/desk-28/setup/fill"
        wrong = self.post(f"{run}/fill", {"litres": "25"})
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("An earlier step comes first", wrong.text)
        self.assertEqual(self.post(f"{run}/stand", {}).status_code, 303)
        self.assertEqual(self.post(f"{run}/dance", {}).status_code, 404)
        self.assertIn("1 of 9 steps are done", self.get(run).text)

    def test_cultures_by_their_form(self) -> None:
        page = f"{TANK}/culture"
        self.assertIn("The donor tank is healthy", self.post(f"{page}/look", {"source": "borrowed"}).text)
        self.refused(page, {"source": "bottle", "use_by": "soon"}, "use_by", "not a date")
        off = {"source": "bottle", "ready": "off_uv", "until-uv": "2020-01-01"}
        answer = self.post(page, off)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("in the past", answer.text)
        self.assertEqual(self.post(page, off | {"until-uv": "2026-12-01"}).status_code, 303)
        self.assertIn("1 thing is switched off", self.said(page))

    def test_probe_addresses(self) -> None:
        self.refused(f"{TANK}/probe", {"url": "ftp://x", "on": "on"}, "url", "An address like", "ftp://x")
        self.assertEqual(self.post(f"{TANK}/probe", {"url": "127.0.0.1:9/x"}).status_code, 303)
        self.assertIn("Not listened to", self.get(f"{TANK}/probe").text)

    def test_checks_and_their_faults(self) -> None:
        self.assertEqual(self.post(f"{TANK}/check/drip_loop", {}).status_code, 303)
        wrong = self.post(f"{TANK}/check/clamps", {"fault": "on", "text": ""})
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("what was wrong", wrong.text)
        self.assertEqual(self.post(f"{TANK}/check/clamps", {"fault": "on", "text": "a crack"}).status_code, 303)
        self.assertIn("a crack", self.get(f"{TANK}/equipment").text)
        self.assertEqual(self.post(f"{TANK}/check/nothing", {}).status_code, 404)

    def test_jobs_are_answered_and_wrong_answers_told_beside_them(self) -> None:
        jobs = "/tanks/sunroom-112/jobs"
        wrong = self.post(f"{jobs}/test/skip", {"reason": ""})
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("Say why", wrong.text)
        self.assertEqual(self.post(f"{jobs}/test/snooze", {"until": "yesterday"}).status_code, 422)
        self.assertEqual(self.post(f"{jobs}/test/sing", {}).status_code, 404)
        self.assertEqual(self.post(f"{jobs}/unheard/done", {}).status_code, 404)
        put = self.post(f"{jobs}/test/snooze", {"until": "2026-11-26", "back": "/schedule"})
        self.assertEqual((put.status_code, put.headers["location"]), (303, "/schedule"))
        self.assertIn("until Thu 26 Nov", self.get("/schedule").text)
        outside = self.post(f"{jobs}/check.shut_off/skip", {"reason": "rented", "back": "//elsewhere.example"})
        self.assertNotIn("elsewhere", outside.headers.get("location", ""))

    def test_the_schedule_its_feed_and_its_mail(self) -> None:
        self.assertEqual(self.get("/calendar/guess.ics").status_code, 404)
        address = re.search(r"/calendar/[\w-]+\.ics", self.post("/schedule/feed", {}).text)[0]
        self.assertNotIn("/calendar/", self.get("/schedule").text)  # shown once, kept as a hash
        feed = self.get(address)
        self.assertEqual(feed.headers["content-type"], "text/calendar; charset=utf-8")
        self.assertIn("BEGIN:VEVENT", feed.text)
        self.assertRegex(feed.text.replace("\r\n ", ""), r"URL:http://testserver/tanks/[a-z0-9-]+")
        self.assertEqual(self.post("/schedule/feed/end", {}).status_code, 303)
        self.assertEqual(self.get(address).status_code, 404)
        self.assertEqual(self.post("/schedule/tanks", {"tank": "hall-96"}).status_code, 303)
        self.assertNotIn("Sunroom 112", self.get("/schedule/jobs.ics").text)
        self.post("/schedule/tanks", {"tank": ["hall-96", "sunroom-112", "desk-28", "landing-60"]})
        self.refused(
            "/schedule/mail", {"mail_on": "on", "mail_host": "", "mail_user": "me"}, "mail_host", "Which server", "me"
        )

    def test_waters_and_instruments(self) -> None:
        good = fields(self.get("/waters/1").text)
        self.refused("/waters/1", good | {"ph": "x"}, "ph", "not a number", "x")
        self.refused("/waters/0", good, "name", "already")
        self.assertEqual(self.post("/waters/0", good | {"name": "Well"}).status_code, 303)
        self.refused("/instruments/0", {"name": "", "calibrated_at_c": "25"}, "name", "is needed")
        self.assertEqual(self.post("/instruments/4/calibrated", {}).status_code, 303)
        self.assertIn("calibrated today", self.get("/waters").text)
        self.assertEqual(self.post("/house/1/remove", {}).status_code, 303)
        self.assertIn("put back", self.said("/waters"))
        self.post("/house/1/restore", {})
        self.assertEqual(self.post("/house/1/burn", {}).status_code, 404)
        for path in ("/waters/99", "/instruments/99"):
            self.assertEqual(self.get(path).status_code, 404)
        self.assertIn("36.2\u00a0g/kg", self.get("/waters?s=1.0264+sg&t=28").text)
        self.assertEqual(self.get("/waters?s=1.025").status_code, 422)

    def test_two_instruments_in_one_bucket(self) -> None:
        ask = "/waters?first=Refractometer&second=Glass+hydrometer"
        good = self.get(f"{ask}&first_reading=35&second_reading=1.0264+sg&at=25").text
        self.assertIn("They agree", good)
        self.assertIn("calibrated 95 days ago", good)
        # the same figure in warmer water is more salt: the float is corrected to its own temperature
        self.assertIn("They disagree", self.get(f"{ask}&first_reading=35&second_reading=1.0264+sg&at=29").text)
        self.assertIn("Doubt Glass hydrometer", self.get(f"{ask}&first_reading=35&second_reading=31").text)
        for more, said in (
            ("&first_reading=35&second_reading=", "What does it say"),
            ("&first_reading=1.02", "looks like"),
        ):
            with self.subTest(more=more):
                self.assertIn(said, self.get(ask + more).text)

    def test_the_salt_factor_is_learnt_from_a_mix(self) -> None:
        page = "/tanks/landing-60/setup/water"
        good = {"mixed_g": "383", "mixed_l": "10", "reached": "35"}
        self.assertEqual(self.post(f"{page}/factor", good).status_code, 303)
        self.assertIn("1.07 g for a gram dissolved", self.get(page).text)
        for change, field, said in (
            ({"mixed_l": "100"}, "mixed_g", "between 0.9 and 1.3"), ({"reached": "1.02"}, "reached", "looks like"),
            ({"mixed_g": ""}, "mixed_g", "is needed"),
        ):  # fmt: skip
            with self.subTest(change=change):
                self.refused(f"{page}/factor", good | change, field, said)

    def test_the_probes_hours_come_as_csv(self) -> None:
        rows = list(csv.DictReader(io.StringIO(self.get("/tanks/landing-60/setup/probe/trace.csv").text)))
        self.assertGreater(len(rows), 500)
        self.assertEqual({r["quantity"] for r in rows}, {"temp", "ph", "salinity", "ammonia"})
        self.assertTrue(all(float(r["low"]) <= float(r["mean"]) <= float(r["high"]) for r in rows))
        self.assertEqual(len(self.get("/tanks/hall-96/setup/probe/trace.csv").text.splitlines()), 1)

    def test_entries_of_setting_up_are_logged_by_form_and_corrected(self) -> None:
        tank = "/tanks/landing-60/log"
        rows = (
            ("rock", {"kg": "2", "condition": "fresh"}, {"kg": "3"}, "3\u00a0kg"),
            ("off", {"device": "ozone", "until": "2026-12-02"}, {"until": "2026-12-05"}, "until 5 Dec"),
            ("on", {"device": "ozone"}, {"device": "carbon"}, "carbon"),
            ("bacteria", {"source": "borrowed", "donor": "sick", "donor_salinity": "30"}, {"donor": "healthy"},
             "donor healthy for months"),
        )  # fmt: skip
        for kind, typed, change, said in rows:
            with self.subTest(kind=kind):
                self.assertEqual(self.post(f"{tank}/new/{kind}", typed).status_code, 303)
                book = self.get(tank).text
                address = re.findall(rf"{tank}/(\d+)", book)
                newest = max(int(a) for a in address)
                form = fields(self.get(f"{tank}/{newest}").text)
                self.assertEqual(self.post(f"{tank}/{newest}", form | typed | change).status_code, 303)
                self.assertIn(said, self.get(tank).text)
        bad = self.post(f"{tank}/new/off", {"device": "uv", "until": "some day"})
        self.assertEqual(bad.status_code, 422)
        self.assertIn("not a date", bad.text)
        self.assertEqual(self.post(f"{tank}/new/rock", {"kg": "-1"}).status_code, 422)

    def test_no_such_page_of_setting_up(self) -> None:
        for path in (f"{TANK}/nothing", "/tanks/none/setup/volume", "/tanks/none/setup/school"):
            self.assertEqual(self.get(path).status_code, 404)
        self.assertEqual(self.post(f"{TANK}/nothing", {}).status_code, 404)
        self.assertEqual(self.post(f"{TANK}/water/look", {}).status_code, 404)


class UsualValues(Web):
    """What a choice brings along, as long as nothing was typed against it."""

    def test_another_kind_of_kit_brings_its_own_steps_and_misread_rate(self) -> None:
        here = "/tanks/landing-60/settings"
        before = records.tank(self.desk(), "landing-60")
        form = typed_of(before, self.desk()) | {"kit_kind": "strip"}
        self.assertEqual(self.post(here, form).status_code, 303)
        kit = records.tank(self.desk(), "landing-60").kit
        self.assertEqual((kit.kind, kit.misread), ("strip", USUAL_KITS["strip"].misread))
        self.assertEqual(kit.ammonia.steps, USUAL_KITS["strip"].ammonia.steps)
        own = typed_of(records.tank(self.desk(), "landing-60"), self.desk())
        own |= {"kit_kind": "liquid", "ammonia_steps": "0 0.4 0.8"}
        self.assertEqual(self.post(here, own).status_code, 303)
        self.assertEqual(records.tank(self.desk(), "landing-60").kit.ammonia.steps, (0.0, 0.4, 0.8))

    def test_reverse_osmosis_brings_its_own_water(self) -> None:
        form = {"name": "Membrane", "kind": "ro", "ph": "7.6", "kh_dkh": "6", "ammonia_mg_n_l": "0",
                "nitrate_mg_n_l": "1", "chlorine": "unknown"}  # fmt: skip
        self.assertEqual(self.post("/waters/0", form).status_code, 303)
        made = next(w for w in records.waters(self.desk()) if w.name == "Membrane")
        self.assertEqual((made.source.ph, made.source.kh_dkh, made.source.nitrate_mg_n_l), (6.5, 0.3, 0.0))

    def test_an_address_that_no_device_can_have_is_refused_at_its_field(self) -> None:
        for url in ("http://not a host/x", "http://-bad-.local/", "http://exa_mple!/", "ftp://10.0.0.2/"):
            with self.subTest(url=url):
                answer = self.post("/tanks/sunroom-112/setup/probe", {"url": url, "on": "on"})
                self.assertEqual(answer.status_code, 422)
                self.assertIn('id="e-url"', answer.text)

    def desk(self) -> Desk:
        conn = connect(self.app.state.settings.data / FILE_NAME)
        self.addCleanup(conn.close)
        return Desk(conn, NOW, preferences.load(conn, ZONE), REFERENCE)
