"""Open to the house: nobody comes in without the passphrase, a guess is slowed down, a phone is paired once, and who
looks after the tanks changes nothing. And the JSON interface by its tokens."""

import json
import logging
import re
import tempfile
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

from starlette.testclient import TestClient

from jarbloom.deeds import api_tokens, house_network
from jarbloom.deeds.house_network import FREE_TRIES, Patience
from jarbloom.errors import Refused
from jarbloom.settings import Network, Settings
from jarbloom.store import journal, tanks
from jarbloom.store.db import FILE_NAME, connect
from jarbloom.web.app import create_app
from jarbloom.web.guard import COOKIE
from tests.make import DEMO_PAGES, FEW, NOW, demo_folder

WORDS = "three snails on a leaf"
HOUSE = Network("192.168.1.20", frozenset({"192.168.1.20", "tanks.home"}))
HERE = "https://tanks.home"


class InHouse(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = cls.enterClassContext(demo_folder())
        cls.app = create_app(Settings(cls.folder, NOW, FEW, demo=True, network=HOUSE))
        house_network.set_passphrase(cls.folder, WORDS)
        house_network.set_passphrase(cls.folder, "who feeds them in May", "sitter")

    def setUp(self) -> None:
        self.app.state.patience = Patience()
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)

    def client(self, **headers: str) -> TestClient:
        return self.enterContext(TestClient(self.app, base_url=HERE, headers=headers, follow_redirects=False))

    def signed_in(self, passphrase: str = WORDS, who: str = "A keeper") -> TestClient:
        http = self.client()
        told = http.post("/sign-in", data={"who": who, "passphrase": passphrase, "back": "/schedule"})
        self.assertEqual((told.status_code, told.headers["location"]), (303, "/schedule"))
        return http


class SignIn(InHouse):
    def test_without_it_no_page_answers_and_nothing_is_told(self) -> None:
        http = self.client()
        for path in (*DEMO_PAGES, "/data", "/data/house.zip", "/devices", "/tanks/sunroom-112/outlook/forecast.csv"):
            with self.subTest(path=path):
                told = http.get(path)
                self.assertEqual(told.status_code, 303)
                self.assertTrue(told.headers["location"].startswith("/sign-in?back="))
        for path in ("/tanks/sunroom-112/log/line", "/tanks/sunroom-112/shelve", "/data/backup", "/devices/end"):
            self.assertEqual(http.post(path, data={"line": "am 0"}).status_code, 401)
        page = http.get("/sign-in").text
        self.assertNotIn("Sunroom", page)
        self.assertEqual(http.get("/healthz").status_code, 200)
        self.assertEqual(http.get("/static/tokens.css").status_code, 200)

    def test_the_passphrase_opens_names_the_keeper_and_the_way_back(self) -> None:
        http = self.signed_in(who="Aunt  Ida")
        cookie = next(c for c in http.cookies.jar if c.name == COOKIE)
        self.assertTrue(cookie.secure and cookie.has_nonstandard_attr("HttpOnly"))
        self.assertEqual(http.get("/").status_code, 200)
        http.post("/tanks/sunroom-112/log/line", data={"line": "note by the phone"})
        self.assertIn("Aunt Ida", http.get("/tanks/sunroom-112/log").text)
        self.assertEqual(http.post("/sign-out").status_code, 303)
        http.cookies.set(COOKIE, cookie.value or "", domain="tanks.home")
        self.assertEqual(http.get("/").status_code, 303)  # the session is gone, not only the cookie

    def test_wrong_ones_are_told_at_the_field_and_slowed_down(self) -> None:
        clock = [0.0]
        self.app.state.patience = Patience(lambda: clock[0])
        http = self.client()
        for _ in range(FREE_TRIES):
            told = http.post("/sign-in", data={"who": "x", "passphrase": "wrong and long"})
            self.assertEqual(told.status_code, 422)
            self.assertIn("not the passphrase", told.text)
            self.assertIn('value="x"', told.text)
        told = http.post("/sign-in", data={"who": "x", "passphrase": WORDS})
        self.assertEqual(told.status_code, 429)  # also the right one waits
        clock[0] = 16
        self.assertEqual(http.post("/sign-in", data={"who": "x", "passphrase": WORDS}).status_code, 303)

    def test_a_hundred_guesses_get_few_looks(self) -> None:
        clock, looked = [0.0], 0
        patience = Patience(lambda: clock[0])
        for _ in range(100):
            clock[0] += 1
            if patience.wait_s("10.0.0.9") == 0:
                looked += 1
                patience.failed("10.0.0.9")
        self.assertLess(looked, 10)
        for k in range(200):  # nor many from many addresses
            if patience.wait_s(f"10.0.1.{k}") == 0:
                looked += 1
                patience.failed(f"10.0.1.{k}")
        self.assertLess(looked, 60)

    def test_a_cookie_of_another_house_or_a_changed_one_is_worth_nothing(self) -> None:
        with tempfile.TemporaryDirectory() as other:
            foreign = house_network.cookie_for(Path(other), "secret")
        good = self.signed_in().cookies[COOKIE]
        for cookie in (foreign, good[:-2] + "xx", "x", good.split(".")[0], ""):
            http = self.client(Cookie=f"{COOKIE}={cookie}")
            self.assertEqual(http.get("/").status_code, 303)

    def test_names_other_than_the_houses_and_forms_of_other_sites_are_refused(self) -> None:
        http = self.signed_in()
        self.assertEqual(http.get("/", headers={"host": "evil.example"}).status_code, 421)
        told = http.post("/tanks/hall-96/log/line", data={"line": "am 9"}, headers={"origin": "https://evil.example"})
        self.assertEqual(told.status_code, 403)

    def test_where_it_leads_back_to_is_always_here(self) -> None:
        http = self.client()
        for back in ("https://evil.example", "//evil.example", "/\\evil.example"):
            told = http.post("/sign-in", data={"who": "x", "passphrase": WORDS, "back": back})
            self.assertEqual(told.headers["location"], "/")

    def test_who_looks_after_the_tanks_reads_everything_and_changes_nothing(self) -> None:
        http = self.signed_in("who feeds them in May", "A neighbour")
        self.assertEqual(http.get("/tanks/sunroom-112").status_code, 200)
        before = self.entries()
        for path in ("/tanks/sunroom-112/log/line", "/tanks/sunroom-112/shelve", "/data/import", "/devices/token",
                     "/devices/end", "/tanks/sunroom-112/settings"):  # fmt: skip
            self.assertEqual(http.post(path, data={"line": "am 9"}).status_code, 403)
        self.assertEqual(self.entries(), before)

    def entries(self) -> int:
        conn = connect(self.folder / FILE_NAME)
        self.addCleanup(conn.close)
        return len(journal.entries(conn, tanks.tank(conn, "sunroom-112").id))

    def test_a_phone_is_paired_by_a_code_once(self) -> None:
        desk = self.signed_in(who="Ida")
        page = desk.post("/devices/pair").text
        self.assertIn("data:image/svg+xml", page)
        code = re.search(r"https://tanks\.home/pair/([\w-]+)", page)
        assert code is not None
        phone, late = self.client(), self.client()
        self.assertIn("Ida", phone.get(f"/pair/{code[1]}").text)
        self.assertEqual(phone.get("/").status_code, 303)  # looking at it uses nothing up
        self.assertEqual(phone.post(f"/pair/{code[1]}").status_code, 303)
        self.assertEqual(phone.get("/").status_code, 200)
        self.assertEqual(late.post(f"/pair/{code[1]}").status_code, 404)  # a replay
        self.assertEqual(late.get("/pair/nonsense").status_code, 404)
        desk.post("/devices/end")  # everywhere
        self.assertEqual((phone.get("/").status_code, desk.get("/").status_code), (303, 303))

    def test_a_passphrase_is_long_and_kept_as_a_hash(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            with self.assertRaises(Refused):
                house_network.set_passphrase(Path(folder), "short")
            house_network.set_passphrase(Path(folder), WORDS)
            kept = (Path(folder) / "secrets.json").read_text()
            self.assertNotIn(WORDS, kept)
            self.assertIn("$argon2id$", kept)


class Interface(InHouse):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        conn = connect(cls.folder / FILE_NAME)
        cls.addClassCleanup(conn.close)
        cls.conn = conn
        cls.token = {name: api_tokens.make(conn, name, scopes) for name, scopes in (
            ("all", ["read", "write", "probe"]), ("reads", ["read"]), ("probe", ["probe"]))}  # fmt: skip

    def api(self, name: str = "all") -> TestClient:
        return self.client(Authorization=f"Bearer {self.token[name]}")

    HERE = "/api/v1/tanks/sunroom-112"

    def problem(self, told, status: int) -> dict:
        self.assertEqual(told.status_code, status, told.text)
        self.assertEqual(told.headers["content-type"], "application/problem+json")
        self.assertEqual(told.json()["status"], status)
        self.assertTrue(told.json()["detail"])
        return told.json()

    def test_a_token_is_asked_for_and_does_what_it_may(self) -> None:
        self.problem(self.client().get("/api/v1/tanks"), 401)
        self.problem(self.client(Authorization="Bearer jb_guess").get("/api/v1/tanks"), 401)
        self.problem(self.api("probe").get("/api/v1/tanks"), 403)
        self.problem(self.api("reads").post(f"{self.HERE}/entries", json={"line": "am 0"}), 403)
        names = {t["slug"] for t in self.api("reads").get("/api/v1/tanks").json()}
        self.assertTrue({"sunroom-112", "hall-96", "landing-60"} <= names)
        self.assertNotIn(self.token["all"].encode(), (self.folder / FILE_NAME).read_bytes())

    def test_a_revoked_one_ends(self) -> None:
        secret = api_tokens.make(self.conn, "for a day", ["read"])
        http = self.client(Authorization=f"Bearer {secret}")
        self.assertEqual(http.get("/api/v1/tanks").status_code, 200)
        made = next(t for t in api_tokens.listed(self.conn) if t.name == "for a day")
        self.assertIsNotNone(made.used_at)
        api_tokens.revoke(self.conn, str(made.id))
        self.problem(http.get("/api/v1/tanks"), 401)

    def test_read_add_correct_void_and_undo(self) -> None:
        http = self.api()
        added = http.post(f"{self.HERE}/entries", json={"kind": "change", "at": "2026-11-24T12:00:00+01:00",
                                                        "fields": {"litres": 11}, "note": "by a script"})  # fmt: skip
        self.assertEqual(added.status_code, 201, added.text)
        (number,) = added.json()["ids"]
        one = http.get(f"{self.HERE}/entries", params={"after": number - 1}).json()["entries"][0]
        self.assertEqual((one["kind"], one["body"]["litres"], one["note"]), ("change", 11, "by a script"))
        corrected = http.post(f"{self.HERE}/entries/{number}/correct", json={
            "kind": "change", "at": "2026-11-24T12:00:00+01:00", "fields": {"litres": 12}})  # fmt: skip
        (newer,) = corrected.json()["ids"]
        self.problem(http.post(f"{self.HERE}/entries/{number}/void"), 422)  # it has been corrected
        voided = http.post(f"{self.HERE}/entries/{newer}/void").json()
        self.assertEqual(http.post(f"{self.HERE}/acts/{voided['act']}/undo").status_code, 201)
        struck = http.get(f"{self.HERE}/entries", params={"after": number - 1, "struck": True}).json()["entries"]
        self.assertEqual([(e["id"], e["state"]) for e in struck], [(number, "superseded"), (newer, "live")])

    def test_pages_of_entries_come_to_all_of_them(self) -> None:
        http, found, after = self.api(), [], 0
        while after is not None:
            page = http.get(f"{self.HERE}/entries", params={"after": after, "limit": 7}).json()
            found += [e["id"] for e in page["entries"]]
            after = page["after"]
        self.assertEqual(found, sorted(set(found)))
        self.assertEqual(len(found), len(journal.entries(self.conn, tanks.tank(self.conn, "sunroom-112").id)))

    def test_what_cannot_be_is_named_with_its_field(self) -> None:
        http = self.api()
        for told, field in (
            ({"line": "xqz"}, None), ({}, "line"), ({"line": "am 0", "kind": "test"}, "line"),
            ({"kind": "dance"}, "kind"), ({"kind": "change", "fields": {"litres": -2}}, "litres"),
            ({"kind": "test", "readings": {"ammonia": "lots"}}, "ammonia"),
            ({"kind": "note", "at": "2026-11-24T12:00:00"}, "at"), ({"kind": "note", "at": "soon"}, "at"),
            ({"line": "am 0", "more": 1}, "more"), ({"kind": "change", "fields": {"litres": 1e400}}, None),
        ):  # fmt: skip
            with self.subTest(told=told):
                raw = json.dumps(told)
                answer = http.post(f"{self.HERE}/entries", content=raw, headers={"content-type": "application/json"})
                self.assertIn(answer.status_code, (409, 422), answer.text)
                found = self.problem(answer, answer.status_code)
                if field is not None:
                    self.assertEqual(found.get("field"), field)
        self.problem(http.get("/api/v1/tanks/nothing"), 404)
        self.problem(http.post(f"{self.HERE}/entries/{10**30}/void"), 404)

    def test_with_a_key_a_retry_is_done_once_also_at_once(self) -> None:
        http = self.api()
        count = len(journal.entries(self.conn, tanks.tank(self.conn, "hall-96").id))
        send = lambda line: http.post("/api/v1/tanks/hall-96/entries", json={"line": line},  # noqa: E731
                                      headers={"Idempotency-Key": "abc"})  # fmt: skip
        with ThreadPoolExecutor(8) as pool:
            told = list(pool.map(lambda _: send("note once by the key"), range(8)))
        self.assertEqual({t.status_code for t in told}, {200, 201})
        self.assertEqual(len({json.dumps(t.json()) for t in told}), 1)
        self.assertEqual(len(journal.entries(self.conn, tanks.tank(self.conn, "hall-96").id)), count + 1)
        self.assertEqual(send("note another under the same key").status_code, 201)

    def test_a_device_hands_in_its_readings(self) -> None:
        http = self.api("probe")
        at = NOW.isoformat()
        self.assertEqual(http.post(f"{self.HERE}/probe", json={"at": at, "temp_c": 25.5}).status_code, 204)
        self.problem(http.post(f"{self.HERE}/probe", json={"at": at, "temp_c": 400}), 422)
        self.problem(http.post(f"{self.HERE}/probe", json={"at": "2031-01-01T00:00:00+00:00", "ph": 7}), 422)
        self.problem(http.get(f"{self.HERE}/advice"), 403)

    def test_state_forecast_stock_and_bundle_are_those_of_the_pages(self) -> None:
        http = self.api("reads")
        advice = http.get(f"{self.HERE}/advice").json()
        self.assertIn(advice["verdict"]["sentence"].split(".")[0], self.signed_in().get("/tanks/sunroom-112").text)
        self.assertGreater(len(http.get(f"{self.HERE}/forecast").json()["days"]), 30)
        self.assertTrue(all(s["count"] > 0 for s in http.get("/api/v1/tanks/hall-96/stock").json()))
        whole = http.get(f"{self.HERE}/bundle.zip").content
        made = self.api().post("/api/v1/bundles", content=whole)
        self.assertEqual(made.status_code, 201, made.text)
        self.assertEqual(made.json()[0]["name"], "Sunroom 112")
        self.problem(self.api().post("/api/v1/bundles", content=b"no zip"), 400)

    def test_it_describes_itself(self) -> None:
        http = self.client()
        schema = http.get("/api/v1/openapi.json").json()
        self.assertIn("/tanks/{slug}/entries", schema["paths"])
        docs = http.get("/api/v1/docs").text
        self.assertNotRegex(docs, r'(src|href)="https?://')
        for path in schema["paths"]:
            self.assertIn(path, docs.replace("&#39;", "'"))


class OnThisMachine(unittest.TestCase):
    def test_no_sign_in_is_asked_where_only_this_machine_is_answered(self) -> None:
        with demo_folder() as folder:
            app = create_app(replace(Settings(folder, NOW, FEW), demo=True))
            with TestClient(app, follow_redirects=False) as http:
                self.assertEqual(http.get("/").status_code, 200)
                self.assertIn("jarbloom passphrase", http.get("/devices").text)
                self.assertEqual(http.get("/api/v1/tanks").status_code, 401)
                self.assertEqual(http.get("/", headers={"host": "192.168.1.20"}).status_code, 421)


if __name__ == "__main__":
    unittest.main()
