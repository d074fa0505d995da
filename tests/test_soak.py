"""A short form of `make soak`."""

import tempfile
import unittest
from pathlib import Path

from scripts.soak.forms import fuzz
from scripts.soak.kills import kill_writers
from scripts.soak.mutants import empty_desk, mutate_answers, mutate_bundles
from scripts.soak.writers import many_at_once, twice_at_once
from starlette.testclient import TestClient

from jarbloom.deeds import api_tokens, exchange, keep_tank, log
from jarbloom.settings import Settings
from jarbloom.web.app import create_app
from tests.make import DEMO_PAGES, FEW, NOW, demo_folder, read_all, tank


class Soak(unittest.TestCase):
    def test_kills_lose_nothing_and_double_nothing(self) -> None:
        worn = kill_writers(6, seed=3)
        self.assertTrue(worn.clean, worn)
        self.assertEqual(worn.kills, 6)
        self.assertGreater(worn.acknowledged, 0)

    def test_damaged_files_get_a_sentence_and_leave_nothing(self) -> None:
        with tempfile.TemporaryDirectory() as one, tempfile.TemporaryDirectory() as two:
            source, desk = empty_desk(Path(one)), empty_desk(Path(two))
            here = keep_tank.set_up(source, tank())
            for line in ("dose 2 mg/l", "am 0.5 ni 1 ph 7.6", "wc 30%", "note by hand"):
                log.log_line(source, here.slug, line)
            told = mutate_bundles(desk, read_all(exchange.export_house(source)), 150)
            answers = mutate_answers(500)
            for kept in (source, desk):
                kept.conn.close()
        self.assertEqual((told.fell, told.half, answers.fell), ([], 0, []))
        self.assertGreater(told.refused, 50)

    def test_odd_forms_and_addresses_are_answered(self) -> None:
        with demo_folder() as folder:
            app = create_app(Settings(folder, NOW, FEW, demo=True))
            with TestClient(app, raise_server_exceptions=False, headers={"Origin": "http://testserver"}) as http:
                told = fuzz(http, DEMO_PAGES, 30, seed=5)
                self.assertEqual((told.fell, http.get("/").status_code), ([], 200))
                odd = http.get("/tanks/hall-96/animals", params={"zone": "NaN", "group": "x" * 5000})
                self.assertEqual(odd.status_code, 200)
        self.assertTrue({200, 303, 404, 422} <= set(told.by_status), told.by_status)

    def test_writers_at_once_and_pairs(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            desk = empty_desk(Path(folder))
            here = keep_tank.set_up(desk, tank())
            token = api_tokens.make(desk.conn, "soak", ["read", "write"])
            desk.conn.close()
            with TestClient(create_app(Settings(Path(folder), NOW, FEW)), raise_server_exceptions=False) as http:
                self.assertEqual(twice_at_once(http, token, here.slug, 8), 8)
                crowd = many_at_once(http, token, here.slug, writers=12, seconds=1.5)
        self.assertEqual((crowd.sent, set(crowd.answers)), (crowd.kept, {201}))
        self.assertGreater(crowd.read, 0)


if __name__ == "__main__":
    unittest.main()
