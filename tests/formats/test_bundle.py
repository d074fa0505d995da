"""Bundles: hand-written ones are read, damaged ones are told apart, machine answers keep their shape."""

import json
import tempfile
import unittest
from pathlib import Path

from jarbloom.core.tank_spec import to_spec
from jarbloom.deeds import exchange
from jarbloom.errors import BadBundle
from jarbloom.formats import advice_json
from jarbloom.formats.bundle import COLUMNS, read_bundle
from tests.make import NOW, REFERENCE, tank

HAND = """when,kind,ammonia,nitrite,ph,amount,unit,species,count,how,text
2026-11-10T18:00+01:00,dose,,,,2,mg/L,,,,
2026-11-12T18:00+01:00,test,1,0.25,7.4,,,,,,
2026-11-13T18:00+01:00,change,,,,30,%,,,,
2026-11-14T18:00+01:00,media,,,,,,,,tap,
2026-11-15T18:00+01:00,arrival,,,,,,guppy,5,,
2026-11-16T18:00+01:00,note,,,,,,,,,all well
"""


def bundle(folder: Path, log: str = HAND, **changes) -> Path:
    told = {"format": "jarbloom-bundle", "version": 1, "tank": to_spec(tank()), "batches": []} | changes
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "tank.json").write_text(json.dumps(told), "utf-8")
    (folder / "log.csv").write_text(log, "utf-8")
    return folder


class Bundles(unittest.TestCase):
    def setUp(self) -> None:
        self.holder = tempfile.TemporaryDirectory()
        self.addCleanup(self.holder.cleanup)
        self.folder = Path(self.holder.name) / "b"

    def test_a_hand_written_log_is_read(self) -> None:
        found = read_bundle(bundle(self.folder), REFERENCE.species)
        self.assertEqual([e.kind for e in found.entries], ["dose", "test", "change", "media", "arrival", "note"])
        self.assertAlmostEqual(found.entries[0].body["mg_n"], 216.16)
        self.assertAlmostEqual(found.entries[2].body["fraction"], 0.3)
        self.assertEqual(found.entries[1].readings[0].low, 0.75)

    def test_damaged_bundles_name_the_place(self) -> None:
        rows = (
            (HAND.replace("dose", "dosage"), {}, "row 2, kind"),
            (HAND.replace("2026-11-10T18:00+01:00", "yesterday"), {}, "row 2"),
            (HAND.replace(",1,0.25,7.4", ",1,0.25,74"), {}, "row 3, ph"),
            (HAND.replace("guppy", "dragon"), {}, "row 6, species"),
            (HAND.replace("tap", "boiled"), {}, "row 5, how"),
            (HAND.replace("when,", "then,"), {}, "‘when’"),
            (HAND.replace("text\n", "colour\n", 1), {}, "colour"),
            (HAND, {"version": 9}, "version"),
            (HAND, {"format": "other"}, "format"),
            (HAND, {"tank": {"name": "x"}}, "tank.json"),
            (HAND, {"tank": to_spec(tank()) | {"colour": "red"}}, "colour"),
            (HAND, {"batches": [{"name": "one", "planned": "soon"}]}, "planned"),
            (HAND, {"batches": [{"name": "one", "planned": "2026-12-01", "items": [{"species": "guppy", "count": 0}]}]},
             "count"),
        )  # fmt: skip
        for k, (log, changes, named) in enumerate(rows):
            with self.subTest(named=named), self.assertRaises(BadBundle) as told:
                read_bundle(bundle(self.folder / str(k), log, **changes), REFERENCE.species)
            self.assertIn(named, told.exception.sentence)

    def test_what_is_no_bundle(self) -> None:
        junk = Path(self.holder.name) / "junk.zip"
        junk.write_bytes(b"not a zip")
        empty = Path(self.holder.name) / "empty"
        empty.mkdir()
        for path in (junk, empty, Path(self.holder.name) / "nowhere"):
            with self.subTest(path=path.name), self.assertRaises(BadBundle):
                read_bundle(path, REFERENCE.species)

    def test_machine_answers(self) -> None:
        seen = exchange.advise_bundle(bundle(self.folder), REFERENCE, NOW)
        told = json.loads(advice_json.to_text(advice_json.advice(seen)))
        self.assertEqual(set(told), {"as_of", "tank", "verdict", "headroom", "readiness", "next_batch", "jobs"})
        self.assertIn(told["verdict"]["state"], ("hold", "test", "add", "act"))
        capacity = told["headroom"]["capacity_mg_n_day"]
        self.assertLessEqual(capacity["p10"], capacity["p90"])
        days = json.loads(advice_json.to_text(advice_json.forecast(seen.situation.forecast)))["days"]
        self.assertEqual(set(days[0]["tan_mg_n_l"]), {"p5", "p10", "p25", "p50", "p75", "p90", "p95"})

    def test_columns_are_documented(self) -> None:
        text = (Path(__file__).parents[2] / "docs" / "formats.md").read_text("utf-8")
        for column in COLUMNS:
            self.assertIn(f"`{column}`", text)
