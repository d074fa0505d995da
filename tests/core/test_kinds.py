"""Kinds of entry: checked by construction, whatever they are made from."""

import unittest
from typing import Any

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.kind import OF_OLD
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.kit import Kit
from jarbloom.errors import Refused
from jarbloom.units import Units
from tests.make import REFERENCE, entry, test_entry

SETTING = Setting(112, Kit(), Units(), REFERENCE.species)
READING = {"quantity": "ammonia", "typed": "1", "seen": 1.0, "low": 0.75, "high": 1.5, "outer_low": 0.4,
           "outer_high": 3.0, "form": "N", "misread": 0.17, "n_steps": 7, "masked": False}  # fmt: skip
SAMPLES = (
    test_entry(ammonia="0", ph="7.4", temp="25", kh="5", salinity="12"),
    entry("dose", mg_n=60.0, typed="60 mg"),
    entry("feed", grams=0.2),
    entry("feed"),
    entry("lesson", cause="overfed", title="Too much food", text="a week of it", prevent="portions", ask=True),
    entry("answered", check="count", answer="heads_short", title="Count the animals", text="one or more short"),
    entry("change", litres=30.0, fraction=0.27),
    entry("topoff", litres=2.0),
    entry("conditioner", ml=5.0, detoxifies=True),
    entry("bacteria", source="borrowed", share=20),
    entry("media", how="tap", share=50),
    entry("bed", share=40),
    entry("buffer", grams=5.0),
    entry("power", hours=6.0, where="open"),
    entry("arrival", species="kuhli_loach", count=6),
    entry("death", species="guppy", count=1, body="found"),
    entry("birth", species="guppy", count=12),
    entry("given", species="guppy", count=4, to="a neighbour"),
    entry("moved", species="guppy", count=4, to="Hall 96"),
    entry("count", species="guppy", count=7),
    entry("quarantine", species="guppy", count=7, until="2026-12-01"),
    entry("observation", signs=["gasping"], text="at dawn"),
    entry("note", text="hello"),
    entry("rock", kg=8.0, condition="shipped"),
    entry("off", device="uv", until="2026-12-01"),
    entry("on", device="uv"),
    entry("check", check="lid", title="Lid", fault=True, text="a gap"),
    entry("step", step="fill", title="Fill", amount="100 L"),
    entry("job", job="feed", how="snoozed", title="Feed", until="2026-12-01", text="away"),
    entry("measured", oxygen=6.5, gh=8.0),
    entry("medicine", what="day 1", against="spots", dose="by the vet", days=5.0),
    entry("new_thing", what="driftwood"),
    entry("exposure", what="spray", text="roses"),
    entry("fault", device="heater_dead", text="lamp dark"),
    entry("escape", species="firefish", count=1, fate="back"),
    entry("length", species="betta", count=1, length_cm=5.5, text="the red one"),
    entry("uninvited", what="snails", count=12, text="on the glass"),
    entry("planted", plant="java_fern", count=5, went="in", text="on the wood"),
    entry("placed", species="torch_coral", count=1, how="placed", heads=3, text="top left"),
    entry("named", species="betta", called="Pebble"),
    entry("trial", species="betta", count=1, taken="refused", food="flakes"),
    entry("photo", of="the old snail", text="on the glass", file="ab" * 32, width=640, height=480),
    entry("damaged", was="test", held="{}", problem="A test without a reading."),
)


class FromForms(unittest.TestCase):
    def test_bodies_are_checked_by_field(self) -> None:
        for kind, raw, field in (
            ("change", {}, "litres"),
            ("change", {"litres": "x"}, "litres"),
            ("arrival", {"species": "guppy", "count": "2.5"}, "count"),
            ("media", {"how": "boiled"}, "how"),
            ("note", {"text": " "}, "text"),
            ("feed", {"grams": "1", "colour": "red"}, "colour"),
            ("observation", {"signs": ["levitating"]}, "signs"),
            ("observation", {}, "text"),
            ("quarantine", {"species": "guppy", "count": "2", "until": "soon"}, "until"),
            ("power", {"hours": "inf"}, "hours"),
        ):
            with self.subTest(kind=kind, raw=raw), self.assertRaises(Refused) as told:
                KINDS[kind].from_raw(raw)
            self.assertEqual(told.exception.field, field)

    def test_a_tank_refuses_what_it_cannot_take(self) -> None:
        rows: tuple[tuple[str, dict[str, Any], str], ...] = (
            ("change", {"litres": "113"}, "litres"),
            ("topoff", {"litres": "200"}, "litres"),
            ("dose", {"amount": "60", "unit": "mg/L"}, "amount"),
            ("arrival", {"species": "unicorn", "count": "1"}, "species"),
            ("birth", {"species": "guppy", "count": "1", "length_cm": "40"}, "length_cm"),
        )
        for kind, raw, field in rows:
            with self.subTest(kind=kind), self.assertRaises(Refused) as told:
                KINDS[kind].from_raw(raw).completed(SETTING)
            self.assertEqual(told.exception.field, field)


class FromStore(unittest.TestCase):
    def test_what_no_form_would_let_in_is_refused(self) -> None:
        rows: tuple[tuple[str, object, str], ...] = (
            ("dose", {"amount": 1.0, "unit": "mg", "mg_n": "60"}, "mg_n"),
            ("dose", {"unit": "mg", "mg_n": 60.0}, "amount"),
            ("dose", {"amount": 60.0, "unit": "mg"}, "mg_n"),
            ("dose", {"amount": 1.0, "mg_n": 1e300}, "mg_n"),
            ("dose", {"amount": 1.0, "mg_n": float("nan")}, "mg_n"),
            ("change", {"litres": -3.0}, "litres"),
            ("change", {"litres": True}, "litres"),
            ("arrival", {"species": "guppy", "count": 2.5}, "count"),
            ("arrival", {"species": 7, "count": 2}, "species"),
            ("arrival", {"species": "guppy", "count": 1, "colour": "red"}, "colour"),
            ("off", {"device": "uv", "until": "never"}, "until"),
            ("note", ["text"], "body"),
            ("media", {"how": []}, "how"),
            ("dose", {"amount": 1.0, "unit": {"mg": 1}, "mg_n": 60.0}, "unit"),
            ("dose", {"amount": 10**400, "unit": "mg", "mg_n": 60.0}, "amount"),
            ("observation", {"signs": "gasping"}, "signs"),
            ("observation", {"signs": [["gasping"]]}, "signs"),
            ("note", {"text": {"a": 1}}, "text"),
        )
        for kind, stored, field in rows:
            with self.subTest(kind=kind, stored=stored), self.assertRaises(Refused) as told:
                KINDS[kind].from_json(stored)
            self.assertEqual(told.exception.field, field)

    def test_readings_that_no_kit_shows_are_refused(self) -> None:
        rows: tuple[tuple[dict[str, Any], str], ...] = (
            ({"form": "XX"}, "ammonia"),
            ({"form": ["N"]}, "ammonia"),
            ({"quantity": ["ammonia"]}, "readings"),
            ({"seen": 10**400}, "ammonia"),
            ({"n_steps": 0}, "ammonia"),
            ({"n_steps": 2.5}, "ammonia"),
            ({"seen": -1.0}, "ammonia"),
            ({"seen": 1e300, "high": None}, "ammonia"),
            ({"seen": "1"}, "ammonia"),
            ({"low": None}, "ammonia"),
            ({"low": 2.0}, "ammonia"),
            ({"quantity": "iron"}, "readings"),
            ({"misread": 1.5}, "ammonia"),
            ({"masked": 1}, "ammonia"),
            ({"typed": None}, "ammonia"),
            ({"colour": "red"}, "readings"),
        )
        self.assertEqual(Tested.stored([READING]).readings[0].seen, 1.0)
        for change, field in rows:
            with self.subTest(change=change), self.assertRaises(Refused) as told:
                Tested.stored([READING | change])
            self.assertEqual(told.exception.field, field)
        for rows_of_none in ([], None, [READING, READING], ["x"]):
            with self.subTest(rows=rows_of_none), self.assertRaises(Refused):
                Tested.stored(rows_of_none)

    def test_fields_that_an_older_version_let_stand_are_passed_over(self) -> None:
        old = dict.fromkeys(OF_OLD, 1)
        self.assertEqual(KINDS["note"].from_json({"text": "hello", **old}), KINDS["note"](text="hello"))


class Everywhere(unittest.TestCase):
    def test_every_kind_has_words_of_its_own(self) -> None:
        told = {e.body.words(REFERENCE.species, Units()) for e in SAMPLES}
        self.assertEqual(len(told), len(SAMPLES))
        self.assertIn("6 kuhli loaches", told)
        self.assertEqual({e.kind for e in SAMPLES}, set(KINDS))

    def test_what_is_stored_and_what_is_told_in_cells_mean_the_same(self) -> None:
        for e in SAMPLES:
            if e.kind in ("test", "damaged"):
                continue
            with self.subTest(kind=e.kind):
                self.assertEqual(KINDS[e.kind].from_json(e.body.to_json()), e.body)
                self.assertLessEqual(set(e.body.plain()), KINDS[e.kind].columns())
        dose = KINDS["dose"].from_plain({"amount": "2", "unit": "mg/L"}, SETTING)
        self.assertAlmostEqual(dose.mg_n, 224.0)
        change = KINDS["change"].from_plain({"amount": "10", "unit": "gal"}, SETTING)
        self.assertAlmostEqual(change.litres, 37.854, places=3)
        self.assertAlmostEqual(KINDS["change"].from_plain({"amount": "25", "unit": "%"}, SETTING).litres, 28.0)

    def test_which_kinds_move_a_forecast(self) -> None:
        quiet = {k for k, kind in KINDS.items() if not kind.moves_forecast}
        self.assertEqual(quiet, {"off", "on", "check", "step", "job", "count", "quarantine", "observation", "note",
                                 "damaged", "measured", "medicine", "new_thing", "exposure", "fault",
                                 "escape", "answered", "lesson", "photo", "trial", "uninvited", "placed", "planted",
                                 "named"})  # fmt: skip
