"""Typed log lines with what a careful reader makes of each (typed_lines.json), and the comparison with what is saved.

A case says exactly one of `means` (entries), `ask` and `refuse`; `also_ok` names other right outcomes, `never` what no
saved entry may say. Asking is never wrong here: breadth of speech is not what is judged, only what would be saved.
"""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cache
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from jarbloom.core.animals.names import match_species
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.kit import MG_PER_MG_N, NITROGEN, Kit
from jarbloom.units import Units
from tests.make import REFERENCE, ZONE

CASES = json.loads((Path(__file__).parent / "typed_lines.json").read_text("utf-8"))
KINDS = {"given": "gave", "measured": "note"}  # as the cases call them
WORDS_ONLY = ("of", "plan", "question", "times", "corrects", "target", "cause", "to", "seller", "tank_bred", "price")


@dataclass(frozen=True)
class Outcome:
    saved: list[dict[str, Any]]
    forbidden: bool
    right: bool
    exact: bool  # as the case means it


def outcome(case: dict[str, Any]) -> Outcome:
    now = datetime.fromisoformat(case["now"]).replace(tzinfo=ZoneInfo(ZONE))
    parsed = parse(case["line"], now, _setting(case))
    saved = [_plain(body, at.replace(tzinfo=None)) for at, body in parsed.entries]
    clock = now.replace(tzinfo=None)
    forbidden = any(_forbids(n, s, clock) for n in case.get("never", []) for s in saved)
    also = {s["kind"] for s in saved} & set(case.get("also_ok", []))
    wanted = [w for w in case.get("means", []) for _ in range(w.get("times", 1))]
    if parsed.note and any(w["kind"] == "note" for w in wanted):  # words kept with an entry
        saved.append({"kind": "note", "at": saved[0]["at"], "text": parsed.note})
    exact = bool(wanted) and len(wanted) == len(saved) and all(any(_is(w, s, clock) for s in saved) for w in wanted)
    return Outcome(saved, forbidden, not saved or exact or bool(also), exact)


@cache
def as_typed(case_id: str) -> Outcome:
    """Of the line as the case has it; worked out once."""
    return outcome(next(c for c in CASES if c["id"] == case_id))


def _setting(case: dict[str, Any]) -> Setting:
    living: dict[str, int] = {}
    for told in case.get("residents") or []:
        count, name = told.split(" ", 1)
        key = match_species(name.removesuffix(" fry"), REFERENCE.species)
        assert key is not None, name
        living[key] = living.get(key, 0) + int(count)
    units = Units(case["units"])
    return Setting(case.get("tank_litres") or 100.0, Kit(), units, REFERENCE.species, living, lexicon=REFERENCE.words)


def _plain(body: Any, at: datetime) -> dict[str, Any]:
    """A saved entry in the words of the cases."""
    told: dict[str, Any] = {"kind": KINDS.get(body.key, body.key), "at": at}
    for r in body.seen:
        if r.quantity == "salinity" and "sg" in r.typed:
            told["salinity_sg"] = float(re.match(r"[\d.]+", r.typed)[0])
            continue
        told[r.quantity] = r.seen * (MG_PER_MG_N[r.form] if r.quantity in NITROGEN else 1.0)
        if "-" in r.typed:
            told.setdefault("ranges", {})[r.quantity] = [
                float(t.replace(",", ".")) for t in re.findall(r"[\d.,]+", r.typed)
            ]
        if r.typed[0] in "<>":
            told[r.quantity] = (
                {"<": "lt", ">": "gt"}[r.typed[0]],
                float(re.sub(r"[^\d.]", "", r.typed.replace(",", "."))),
            )
    masked = [r.quantity for r in body.seen if r.masked]
    if masked:
        told["masked"] = masked
    told |= body.to_json()
    if told["kind"] == "media":
        told.setdefault("share", 100.0)
    if told["kind"] == "conditioner" and body.detoxifies:
        told["kind"] = "detoxifier"
    if told["kind"] == "change":
        told["percent"] = 100 * body.fraction
        if body.source_nitrate is not None:  # on the scale of the keeper's kit
            told["source_nitrate"] = body.source_nitrate * MG_PER_MG_N[Kit().nitrate.form]
    if "species" in told:
        told["what"] = REFERENCE.species[told["species"]].name
    return told


def _is(wanted: dict[str, Any], saved: dict[str, Any], now: datetime) -> bool:
    readings = {"ammonia", "nitrite", "nitrate", "ph", "kh", "temp", "salinity", "salinity_sg"}
    if wanted["kind"] == "test" and (set(saved) ^ set(wanted)) & readings:
        return False
    if wanted["kind"] == "note":  # of which water its numbers are, its words say
        return _says({k: v for k, v in wanted.items() if k in ("kind", "at")}, saved, now)
    skipped = WORDS_ONLY if wanted["kind"] in ("test", "feed", "change") else (*WORDS_ONLY, "text", "what")
    if wanted["kind"] in ("arrival", "death", "birth", "gave", "count"):
        skipped = WORDS_ONLY
    return _says({k: v for k, v in wanted.items() if k not in skipped}, saved, now)


def _forbids(never: dict[str, Any], saved: dict[str, Any], now: datetime) -> bool:
    """As `_says`; an interval that must not be saved is that interval, not a number within it."""
    spans = {k: v for k, v in never.items() if k != "at" and isinstance(v, list) and not isinstance(v[0], str)}
    if any(saved.get("ranges", {}).get(k) != v for k, v in spans.items()):
        return False
    return _says({k: v for k, v in never.items() if k not in spans}, saved, now)


def _says(wanted: dict[str, Any], saved: dict[str, Any], now: datetime) -> bool:
    """Each field of `wanted` stands so in `saved`; null means that it is absent."""
    for name, value in wanted.items():
        if name == "at":
            if not _when(value, saved["at"], now):
                return False
        elif value is None:
            if name in saved:
                return False
        elif name == "salinity_sg" and isinstance(value, float) and isinstance(saved.get(name), float):
            if round(1000 * value) != round(1000 * saved[name]):  # half a per cent of it is many grams of salt
                return False
        elif not _equal(value, saved.get(name)):
            return False
    return True


def _equal(wanted: Any, got: Any) -> bool:
    if isinstance(wanted, dict):
        ((sign, value),) = wanted.items()
        return got == (sign, value)
    if isinstance(wanted, list) and "deaths" in wanted and isinstance(got, list):  # the death is an entry of its own
        wanted = [w for w in wanted if w != "deaths"]
    if isinstance(wanted, bool | str):
        return wanted == got
    if isinstance(wanted, list):
        if isinstance(wanted[0], str):
            return wanted == got
        return isinstance(got, int | float) and wanted[0] <= got <= wanted[1]
    return isinstance(got, int | float) and abs(wanted - got) <= 0.005 * max(abs(wanted), abs(got)) + 1e-9


def _when(wanted: Any, at: datetime, now: datetime) -> bool:
    minute = timedelta(minutes=1)
    if wanted == "now":
        return abs(at - now) < 2 * minute
    if isinstance(wanted, list):
        return datetime.fromisoformat(wanted[0]) - minute <= at <= datetime.fromisoformat(wanted[1]) + minute
    if len(wanted) <= 10:
        return f"{at:%Y-%m-%d}".startswith(wanted)
    return abs(at - datetime.fromisoformat(wanted)) < minute
