"""Bundles: hand-written ones are read, damaged ones are told apart, machine answers keep their shape."""

import csv
import io
import json
import tempfile
import unittest
from datetime import datetime, timedelta
from pathlib import Path
from typing import ClassVar
from zoneinfo import ZoneInfo

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import TankSeen
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.journal.kinds.bed import BedStirred
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.model.tank import Decor, Filter, Heater
from jarbloom.core.model.tank_spec import from_spec, to_spec
from jarbloom.deeds import exchange
from jarbloom.errors import BadBundle, Refused
from jarbloom.formats import advice_json
from jarbloom.formats.bundle import read_bundle, write
from jarbloom.formats.causes_md import upsets_page
from jarbloom.formats.findings_md import advice_page
from jarbloom.formats.forecast_csv import forecast_csv
from jarbloom.formats.log_rows import COLUMNS
from jarbloom.formats.schema import schema
from jarbloom.formats.what_if import read_what_ifs
from tests.core.test_jobs import CLEAN_WEEK, GROWN, look
from tests.make import NOW, REFERENCE, entry, tank

DOCS = Path(__file__).parents[2] / "docs"
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
        found = read_bundle(bundle(self.folder), REFERENCE)
        self.assertEqual([e.kind for e in found.entries], ["dose", "test", "change", "media", "arrival", "note"])
        self.assertAlmostEqual(found.entries[0].body.mg_n, 216.16)
        self.assertAlmostEqual(found.entries[2].body.fraction, 0.3)
        self.assertEqual(found.entries[1].readings[0].low, 0.75)

    def test_damaged_bundles_name_the_place(self) -> None:
        rows = (
            (HAND.replace("dose", "dosage"), {}, "row 2, kind"),
            (HAND.replace("2026-11-10T18:00+01:00", "yesterday"), {}, "row 2"),
            (HAND.replace(",1,0.25,7.4", ",1,0.25,74"), {}, "row 3, ph"),
            (HAND.replace("guppy", "wyvern"), {}, "row 6, species"),
            (HAND.replace("tap", "boiled"), {}, "row 5, how"),
            (HAND.replace("when,", "then,"), {}, "‘when’"),
            (HAND.replace("text\n", "colour\n", 1), {}, "colour"),
            (HAND + HAND.splitlines()[2] + "\n", {}, "repeats row 3"),
            ("id," + HAND.replace("\n2026", "\n4,2026"), {}, "row 3, id"),
            (HAND + "2026-11-17T18:00+01:00,note,,,,,,,,," + "x" * 140_000 + "\n", {}, "row 8"),
            (HAND + "2026-11-17T18:00+01:00,dose,,,,nan,mg/L,,,,\n", {}, "row 8, amount"),
            (HAND + "2026-11-17T18:00+01:00,dose,,,,9000,mg/L,,,,\n", {}, "row 8, amount"),
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
                read_bundle(bundle(self.folder / str(k), log, **changes), REFERENCE)
            self.assertIn(named, told.exception.sentence)

    def test_a_stored_detail_passes_the_limits_of_the_forms(self) -> None:
        def row(kind: str, detail: object, cells: str = ",,") -> str:
            told = json.dumps(detail).replace('"', '""')
            return f'when,kind,ammonia,ph,species,detail\n2026-11-16T18:00+01:00,{kind},{cells},"{told}"\n'

        reading = {"quantity": "ammonia", "typed": "1", "seen": 1.0, "low": 0.75, "high": 1.5, "outer_low": 0.4,
                   "outer_high": 3.0, "form": "N", "misread": 0.17, "n_steps": 7, "masked": False}  # fmt: skip

        def read_as(**change: object) -> dict[str, object]:
            return {"body": {}, "readings": [reading | change]}

        dose = {"typed": "60 mg", "amount": 60.0, "unit": "mg"}
        rows = (
            (row("test", read_as(form="XX")), "row 2, ammonia"),
            (row("test", read_as(n_steps=0)), "row 2, ammonia"),
            (row("test", read_as(seen=-1.0)), "row 2, ammonia"),
            (row("test", read_as(seen=1e300, high=1e301)), "row 2, ammonia"),
            (row("test", read_as(quantity="iron")), "row 2, readings"),
            (row("dose", {"body": dose | {"mg_n": "60"}}), "row 2, mg_n"),
            (row("dose", {"body": dose}), "row 2, mg_n"),
            (row("dose", {"body": dose | {"mg_n": 1e300}}), "row 2, mg_n"),
            (row("arrival", {"body": {"species": "wyvern", "count": 2}}), "row 2, species"),
            (row("arrival", {"body": {"species": "guppy", "count": 2}}, ",,bristlenose_pleco"), "row 2, species"),
            (row("test", read_as(), "2,,"), "row 2, ammonia"),  # the cells were changed, the detail was not
            (row("test", read_as(), "7.4,1,"), "row 2, ammonia"),  # two columns of an exported log swapped
            (row("test", read_as(), "1,7.4,"), "row 2, ph"),
            (row("damaged", {"body": {"was": "test", "held": "x", "problem": "y"}}), "row 2, kind"),
            (row("test", 3), "row 2, detail"),
        )
        for k, (log, named) in enumerate(rows):
            with self.subTest(named=named, log=log), self.assertRaises(BadBundle) as told:
                read_bundle(bundle(self.folder / f"d{k}", log), REFERENCE)
            self.assertIn(named, told.exception.sentence)
        good = read_bundle(bundle(self.folder / "good", row("test", read_as(), "1,,")), REFERENCE)
        self.assertEqual(good.entries[0].readings[0].seen, 1.0)

    def test_swapped_columns_of_a_hand_written_log_are_told(self) -> None:
        header, rows = HAND.split("\n", 1)
        pairs = (("when", "kind", "row 2, kind"), ("amount", "unit", "row 2, amount"), ("ammonia", "ph", "row 3, ph"),
                 ("species", "count", "row 6, count"), ("how", "text", "row 5, text"))  # fmt: skip
        for one, other, named in pairs:
            swap = {one: other, other: one}
            names = ",".join(swap.get(name, name) for name in header.split(","))
            with self.subTest(one=one, other=other), self.assertRaises(BadBundle) as told:
                read_bundle(bundle(self.folder / one, f"{names}\n{rows}"), REFERENCE)
            self.assertIn(named, told.exception.sentence)

    def test_a_bundle_in_utc_and_in_the_keepers_zone_give_one_answer(self) -> None:
        """Animals half an hour past midnight, a test late in the evening: the days are the keeper's."""
        told = (
            ("2026-11-10T18:00", "dose", "2", "mg/L"), ("2026-11-12T00:30", "arrival", "", ""),
            ("2026-11-14T23:40", "test", "", ""), ("2026-11-16T00:10", "test", "", ""),
        )  # fmt: skip
        cells = {"dose": ",,2,mg/L,,,", "arrival": ",,,,guppy,6,", "test": "0.25,1,,,,,"}

        def rows(zone: str) -> str:
            lines = ["when,kind,ammonia,nitrite,amount,unit,species,count,device"]
            for when, kind, *_ in told:
                moment = datetime.fromisoformat(when).replace(tzinfo=ZoneInfo("Europe/Berlin"))
                lines.append(f"{moment.astimezone(ZoneInfo(zone)).isoformat()},{kind},{cells[kind]}")
            return "\n".join(lines) + "\n"

        answers = []
        for zone in ("UTC", "Europe/Berlin", "Pacific/Auckland"):
            made = bundle(self.folder / zone, rows(zone), zone="Europe/Berlin")
            seen = exchange.advise_bundle(made, REFERENCE, NOW.astimezone(ZoneInfo(zone)))
            self.assertEqual(str(seen.situation.forecast.as_of.tzinfo), "Europe/Berlin")
            answers.append(json.loads(advice_json.to_text(advice_json.advice(seen))))
            self.assertEqual([e.day.day for e in seen.situation.entries], [10, 12, 14, 16])
        self.assertEqual(answers[0], answers[1])
        self.assertEqual(answers[0], answers[2])
        left_out = rows("UTC").replace("arrival,,,,,guppy,6,", "off,,,,,,,uv")
        without = exchange.advise_bundle(
            bundle(self.folder / "none", left_out, zone="Europe/Berlin"), REFERENCE, NOW
        )  # the six are heard by the forecast
        self.assertNotEqual(json.loads(advice_json.to_text(advice_json.advice(without)))["headroom"],
                            answers[0]["headroom"])  # fmt: skip

    def test_twenty_thousand_rows_are_read_to_the_last(self) -> None:
        lines = [f"2026-11-16T18:00+01:00,note,row {k}" for k in range(20_000)]
        log = "when,kind,text\n" + "\n".join(lines) + "\n2026-11-16T18:00+01:00,dance,x\n"
        with self.assertRaisesRegex(BadBundle, "row 20002, kind"):
            read_bundle(bundle(self.folder / "bad", log), REFERENCE)

    def test_a_tank_that_no_form_would_have_let_in(self) -> None:
        whole = to_spec(tank())
        rows = (
            ({"shape": "XX"}, "shape"), ({"shape": ["box"]}, "shape"), ({"substrate": 2.5}, "substrate"),
            ({"lid": "yes"}, "lid"), ({"name": 7}, "name"), ({"name": " "}, "name"), ({"temp_c": 90}, "temp_c"),
            ({"temp_c": True}, "temp_c"), ({"ph": 10**400}, "ph"), ({"school": "none"}, "school"),
            ({"source": whole["source"] | {"chlorine": "much"}}, "source.chlorine"),
            ({"filters": [{"media": "gold"}]}, "filters.media"), ({"filters": [{"media_l": None}]}, "filters.media_l"),
            ({"decor": [{"kind": "lead", "amount": 2}]}, "decor.kind"), ({"typed": {"length_cm": 80}}, "typed"),
            ({"started": "soon"}, "tank"),
        )  # fmt: skip
        for k, (change, named) in enumerate(rows):
            with self.subTest(change=change), self.assertRaises(BadBundle) as told:
                read_bundle(bundle(self.folder / f"t{k}", tank=whole | change), REFERENCE)
            self.assertIn(f"tank.json, {named}:", told.exception.sentence)

    def test_what_is_no_bundle(self) -> None:
        junk = Path(self.holder.name) / "junk.zip"
        junk.write_bytes(b"not a zip")
        empty = Path(self.holder.name) / "empty"
        empty.mkdir()
        for path in (junk, empty, Path(self.holder.name) / "nowhere"):
            with self.subTest(path=path.name), self.assertRaises(BadBundle):
                read_bundle(path, REFERENCE)

    def test_machine_answers(self) -> None:
        seen = exchange.advise_bundle(bundle(self.folder), REFERENCE, NOW)
        told = json.loads(advice_json.to_text(advice_json.advice(seen)))
        self.assertEqual(set(told), {"as_of", "tank", "verdict", "findings", "tank_gate", "feeding", "next_test",
                                     "headroom", "readiness", "next_batch", "jobs", "upset"})  # fmt: skip
        self.assertIn(told["verdict"]["state"], ("hold", "watch", "test", "add", "act"))
        self.assertEqual(told["feeding"] is None, not seen.situation.living)
        self.assertEqual(told["tank_gate"]["open"], not told["tank_gate"]["held_by"])
        capacity = told["headroom"]["capacity_mg_n_day"]
        self.assertLessEqual(capacity["p10"], capacity["p90"])
        days = json.loads(advice_json.to_text(advice_json.forecast(seen.situation.forecast)))["days"]
        self.assertEqual(set(days[0]["tan_mg_n_l"]), {"p5", "p10", "p25", "p50", "p75", "p90", "p95"})

    def test_machine_answers_of_an_upset(self) -> None:
        """A program that does what it reads finds first aid, checks with their answers, and the hours to come."""
        s = look(GROWN, *CLEAN_WEEK, entry("power", 0.1, hours=9), entry("observation", 0.05, signs=["gasping"]))
        told = json.loads(advice_json.to_text(advice_json.advice(TankSeen(s, verdict(s), jobs(s)))))["upset"]
        self.assertIn("air", {a["key"] for a in told["first_aid"]})
        course = next(c for c in told["courses"] if c["key"] == "stood_filter")
        at = [datetime.fromisoformat(step["at"]) for step in course["steps"]]
        self.assertEqual((at, at[0]), (sorted(at), NOW))
        self.assertIn("After 9", course["steps"][-1]["text"])
        self.assertTrue(all(c["answers"] and c["minutes"] > 0 for c in told["next_checks"]))
        self.assertEqual(told["causes"][0]["key"], "colony_power")
        calm = look(GROWN, *CLEAN_WEEK)
        self.assertIsNone(advice_json.advice(TankSeen(calm, verdict(calm), jobs(calm)))["upset"])

    def test_every_column_of_a_forecast_holds_what_it_is_called(self) -> None:
        f = exchange.advise_bundle(bundle(self.folder), REFERENCE, NOW).situation.forecast
        table = list(csv.DictReader(io.StringIO(forecast_csv(f))))
        told = json.loads(advice_json.to_text(advice_json.forecast(f)))["days"]
        k = len(table) // 2
        rows = (("tan_mg_n_l", "tan"), ("nh3_mg_n_l", "nh3"), ("no2_mg_n_l", "no2"), ("no3_mg_n_l", "no3"),
                ("capacity_mg_n_day", "capacity"), ("capacity_ammonia_mg_n_day", "capacity_a"),
                ("capacity_nitrite_mg_n_day", "capacity_b"))  # fmt: skip
        for column, band in rows:
            for i, q in enumerate((5, 10, 25, 50, 75, 90, 95)):
                with self.subTest(column=column, quantile=q):
                    self.assertAlmostEqual(float(table[k][f"{column}_p{q}"]), f.bands[band][i, k], delta=1e-4)
                    self.assertAlmostEqual(told[k][column][f"p{q}"], f.bands[band][i, k], delta=1e-2)
        for row in table:  # free ammonia is a small part of all ammonia, at pH 7.4 in the warm under 2 %
            self.assertLess(float(row["nh3_mg_n_l_p50"]), 0.05 * float(row["tan_mg_n_l_p50"]) + 1e-9)
        self.assertEqual([r["date"] for r in table], [d.isoformat() for d in f.days])

    def test_columns_are_documented(self) -> None:
        text = (Path(__file__).parents[2] / "docs" / "formats.md").read_text("utf-8")
        for column in COLUMNS:
            self.assertIn(f"`{column}`", text)


class NewKinds(unittest.TestCase):
    """What the model is driven by can be written by hand, and comes back from a whole round."""

    ROWS = """when,kind,ammonia,salinity,amount,unit,share,where,source_kh,source_ammonia,species,count,length_cm,batch
2026-11-10T18:00+01:00,test,2 masked,12,,,,,,,,,,
2026-11-11T18:00+01:00,power,,,6.5,h,,open,,,,,,
2026-11-12T18:00+01:00,bed,,,,,40,,,,,,,
2026-11-13T18:00+01:00,change,,,30,%,,,12,0.5,,,,
2026-11-14T18:00+01:00,arrival,,,,,,,,,guppy,5,2.5,7
"""

    def test_by_hand_and_round(self) -> None:
        with tempfile.TemporaryDirectory() as holder:
            planned = [{"id": 7, "name": "one", "planned": "2026-11-14", "items": [{"species": "guppy", "count": 5}]}]
            found = read_bundle(bundle(Path(holder) / "a", self.ROWS, batches=planned), REFERENCE)
            masked, salt = found.entries[0].readings
            self.assertTrue(masked.masked and not salt.masked)
            self.assertEqual((salt.quantity, salt.seen), ("salinity", 12.0))
            self.assertEqual(found.entries[1].body, PowerCut(hours=6.5, where="open"))
            self.assertEqual(found.entries[2].body, BedStirred(share=40.0))
            self.assertEqual(found.entries[3].body.source_kh, 12.0)
            self.assertEqual(found.entries[4].body.length_cm, 2.5)
            self.assertIsNotNone(found.batches[0].arrived)
            write(found, Path(holder) / "b")
            again = read_bundle(Path(holder) / "b", REFERENCE)
            self.assertEqual(again.entries, found.entries)
            self.assertEqual(again.batches, found.batches)

    def test_the_schema_on_the_shelf_is_the_one_that_is_read(self) -> None:
        kept = json.loads((DOCS / "bundle.schema.json").read_text("utf-8"))
        self.assertEqual(kept, json.loads(json.dumps(schema())))
        self.assertEqual(set(kept["properties"]["tank"]["properties"]), set(to_spec(tank())))
        self.assertEqual(set(kept["$defs"]["log_row"]["properties"]), set(COLUMNS))


class Advice(unittest.TestCase):
    def test_the_page_of_findings_is_the_one_that_the_table_gives(self) -> None:
        kept = (DOCS / "advice.md").read_text("utf-8")
        self.assertTrue(
            kept == advice_page(REFERENCE.findings, REFERENCE.acts), "run: jarbloom findings > docs/advice.md"
        )
        self.assertEqual(kept.count("\n### "), len(REFERENCE.findings))


class Upsets(unittest.TestCase):
    def test_the_page_of_causes_is_the_one_that_the_tables_give(self) -> None:
        kept = (DOCS / "upsets.md").read_text("utf-8")
        made = upsets_page(REFERENCE.causes, REFERENCE.courses, REFERENCE.acts, REFERENCE.words.says)
        self.assertTrue(kept == made, "run: jarbloom causes > docs/upsets.md")
        self.assertEqual(kept.count("\n### "), len(REFERENCE.causes.rows))


class WhatIfs(unittest.TestCase):
    GOOD: ClassVar = {"when": "2026-11-20T18:00+01:00", "kind": "change", "amount": 30, "unit": "%"}

    def read(self, told: object):
        with tempfile.TemporaryDirectory() as holder:
            path = Path(holder) / "w.json"
            path.write_text(told if isinstance(told, str) else json.dumps(told), "utf-8")
            return read_what_ifs(path, tank(), dict(REFERENCE.species), NOW - timedelta(days=6))

    def test_good_ones_are_read(self) -> None:
        batch = {"name": "one", "planned": "2026-11-28", "items": [{"species": "kuhli_loach", "count": 6}]}
        one, two = self.read({"what_ifs": [{"name": "a", "entries": [self.GOOD]}, {"name": "b", "batches": [batch]}]})
        self.assertAlmostEqual(one.entries[0].body.fraction, 0.3)
        self.assertEqual(two.batches[0].items[0].count, 6)

    def test_wrong_ones_name_the_place(self) -> None:
        rows = (
            ("{", "cannot be read"),
            ({"what_ifs": []}, "what_ifs"),
            ({"what_if": []}, "what_if"),
            ([self.GOOD | {"kind": "teleport"}], "entry 1, kind"),
            ([self.GOOD | {"colour": "red"}], "colour"),
            ([self.GOOD | {"when": "soon"}], "entry 1"),
            ([self.GOOD, self.GOOD | {"amount": -4}], "entry 2, litres"),
            ([self.GOOD | {"when": "2026-11-01T18:00+01:00"}], "does not lie after"),
            ([{"when": "2026-11-20T18:00+01:00", "kind": "test", "ammonia": "1"}], "foretold"),
        )
        for told, where in rows:
            whole = {"what_ifs": [{"name": "x", "entries": told}]} if isinstance(told, list) else told
            with self.subTest(where), self.assertRaises(BadBundle) as found:
                self.read(whole)
            self.assertIn(where, found.exception.sentence)
        with self.assertRaises(BadBundle):
            read_what_ifs(Path("nowhere.json"), tank(), dict(REFERENCE.species), NOW)


class Earlier(unittest.TestCase):
    """Settings as earlier versions wrote them are still read, from the store and from bundles."""

    OLD: ClassVar = {"name": "Old 60", "started": "2026-10-01", "length_cm": 60.0, "width_cm": 30.0, "height_cm": 36.0,
           "media": "ceramic", "media_l": 2.0, "flow_l_h": 350.0, "heater_w": 75.0}  # fmt: skip

    def test_one_filter_and_one_heater(self) -> None:
        kept = from_spec(self.OLD)
        self.assertEqual([(f.media, f.media_l, f.flow_l_h) for f in kept.filters], [("ceramic", 2.0, 350.0)])
        self.assertEqual([h.watts for h in kept.heaters], [75.0])
        self.assertEqual(from_spec(to_spec(kept)), kept)
        self.assertEqual(from_spec(self.OLD | {"heater_w": 0.0}).heaters, ())

    def test_a_new_one_comes_back_whole(self) -> None:
        whole = tank(
            shape="bow_front", bow_cm=6.0, decor=(Decor("wood", 2.0, "L"),), devices=("uv",), salinity_g_kg=35.0,
            filters=(Filter("a", "canister", 600, 0.6, "foam", 2.0, 3.0), Filter("b")), heaters=(Heater(50, 25.0),),
        )  # fmt: skip
        self.assertEqual(from_spec(json.loads(json.dumps(to_spec(whole)))), whole)

    def test_unknown_settings_are_refused(self) -> None:
        for odd in ({"colour": "blue"}, {"filters": [{"speed": 5}]}, {"decor": [{"kind": "stone"}]}):
            with self.subTest(odd=odd), self.assertRaises(Refused):
                from_spec(self.OLD | odd)
