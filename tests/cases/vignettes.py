"""Upsets as a keeper would tell them: tank, what happened, readings, signs, and which cause is the right one.

vignettes.json: ours, written before the strengths were tuned; `held` ones were never looked at while tuning. A case's
events are kept as notes unless the log line reads them; its signs are boxes of the observation form.
"""

from __future__ import annotations

import json
import re
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from jarbloom.core.advice.situation import Situation, situation
from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.choices import SIGNS
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.readings import read
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.kit import Kit
from jarbloom.core.model.tank import Filter, Source, Tank
from jarbloom.units import Units
from tests.cases.situations import species_of
from tests.make import NOW, REFERENCE, ZONE

CASES = json.loads((Path(__file__).parent / "vignettes.json").read_text("utf-8"))
# The ranking asks the forecast for the load and what the bloom carries now: few members, few days
QUICK = Forecasting(members=12, horizon_days=2, sampler_h=24.0, publish_h=12.0, most_moves=1, doubts=False)
SALT = {"fresh": 0.0, "brackish": 8.0, "marine": 35.0}
BOX = {"gasp": "gasping", "breath": "fast_gills", "bottom": "lying", "clamp": "clamped", "flash": "flashing",
       "hide": "hiding", "refuse": "not_eating", "redgill": "red_gills", "grains": "spots", "dart": "darting",
       "list": "listing", "post": "after_water", "inv_first": "invert_first", "quiet": "weak_flow", "shell": "moult",
       "coral_pale": "bleached", "dead_one": "deaths", "dead_many": "deaths"}  # fmt: skip
PART = re.compile(r"(\d+) ([^,;]+)")
AGO = {"d": 24.0, "h": 1.0}


def ago(text: str) -> datetime:
    """'-2d', '-0.5h' before the question."""
    return NOW - timedelta(hours=AGO[text[-1]] * float(text[1:-1]))


def _entries(bodies: list[tuple[datetime, Body]]) -> list[Entry]:
    ordered = sorted(bodies, key=lambda b: b[0])
    return [Entry(body, at, zone=ZONE, id=n) for n, (at, body) in enumerate(ordered, 1)]


def _kept(line: str, at: datetime, tank: Tank, living: dict[str, int]) -> list[tuple[datetime, Body]]:
    """What the log line makes of it; what it asks about is kept in words."""
    parsed = parse(line, at, Setting(tank.measured_l or 100.0, tank.kit, Units(), REFERENCE.species, living, 9.5))
    bodies = [(parsed.at if parsed.at != at else at, b) for b in parsed.bodies]
    return [*bodies, *([(at, Note(text=parsed.note))] if parsed.note else [])] or [(at, Note(text=line))]


def told(case: dict[str, Any]) -> Situation:
    """The case as the program sees it."""
    raw = case["tank"]
    tank = Tank(
        "Case", (NOW - timedelta(days=raw["age_days"])).date(), 80, 35, 45, measured_l=float(raw["litres"]),
        temp_c=raw["temp"], ph=raw["ph"], kh_dkh=raw["kh"], salinity_g_kg=float(raw.get("sal", SALT[raw["water"]])),
        filters=(Filter(kind="canister", media_l=max(1.0, raw["litres"] / 60)),), source=Source(ph=raw["ph"]),
    )  # fmt: skip
    bodies: list[tuple[datetime, Body]] = []
    living: dict[str, int] = {}
    if "no fish" not in raw["residents"]:
        since = NOW - timedelta(days=raw["age_days"], hours=-1)
        for n, name in PART.findall(raw["residents"].replace("leather coral", "1 leather coral")):
            key = species_of(re.sub(r"\b(?:new|young|small|fancy|\d+ (?:cm|years)|of \d+)\b", "", name).strip())
            living[key] = int(n)
            bodies.append((since, KINDS["arrival"].from_raw({"species": key, "count": int(n), "already_in": True})))
    if raw["age_days"] >= 60:
        typed = {"ammonia": "0", "nitrite": "0", "ph": str(raw["ph"]), "kh": str(raw["kh"])}
        typed |= {"salinity": f"{tank.salinity_g_kg:g}"} if tank.salinity_g_kg else {}
        bodies += [(NOW - timedelta(days=d), Tested(readings=tuple(read(q, x, Kit()) for q, x in typed.items())))
                   for d in (24, 17, 10)]  # fmt: skip
    for event in case["events"]:
        bodies += _kept(event["what"], ago(event["at"]), tank, living)
    for test in case["tests"]:
        bodies += _kept(test["line"], ago(test["at"]), tank, living)
    boxes = [BOX.get(s, s) for s in case["signs"]]
    assert all(b in SIGNS for b in boxes), boxes
    bodies.append((NOW - timedelta(minutes=20), Observation(signs=tuple(boxes), text=case.get("words", ""))))
    entries = _entries(bodies)
    made = forecast(tank, entries, NOW, REFERENCE, (), QUICK)
    return situation(tank, entries, (), made, REFERENCE, Units(), NOW)
