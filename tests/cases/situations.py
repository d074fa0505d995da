"""Situations: a tank, a log as it was typed, a moment, and what must and must never be said then (situations.json).

Written from practice, apart from the code. The page is asked five minutes after the last line. What the log does not
mention is ordinary: in a tank that is cycled the tests before the first line were clean. A line that the log line asks
about is kept in words, as a keeper would keep it.
"""

from __future__ import annotations

import json
import re
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from jarbloom.core.advice.food import ration
from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.said import Job, Verdict
from jarbloom.core.advice.situation import Situation, situation, standing_gate
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.animals.names import match_species
from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.bloom.forecast import Forecast, forecast
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.line.parsed import Parsed
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.readings import read
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.findings import Feeding
from jarbloom.core.model.kit import Kit
from jarbloom.core.model.tank import Filter, Heater, Source, Tank
from jarbloom.units import Units
from tests.make import REFERENCE, ZONE

CASES = json.loads((Path(__file__).parent / "situations.json").read_text("utf-8"))
# Few members and long steps: what is said here hangs on the findings, and the forecast is tested elsewhere
QUICK = Forecasting(members=16, horizon_days=6, sampler_h=24.0, publish_h=12.0, most_moves=1, doubts=False)
DAY_0 = datetime(2026, 11, 24, tzinfo=ZoneInfo(ZONE))
SCHOOL = {"fish_in_light": "fish_in_watched", "rock": "living_rock"}
LIVED_DAYS = 60  # animals of a cycled tank have been in at least so long before the log
CLEAN_BEFORE = (15, 8, 1.2)  # days before the first line on which a cycled tank was tested

FACTS = {
    "binder_wears_off": "wears off", "chlorine": "chlorine", "co2": "co2", "cold": r"\bcold",
    "contradiction": "contradict", "copper": "copper", "doctor": "doctor", "doubtful": "doubtful",
    "electric": "electric", "heat": r"\bheat", "hidden_body": "hidden body|body lay", "kh_spent": "kh is spent",
    "kh_step": "kh step", "load_up": "load is|more load", "masked": "mask", "media_lost": "media lost",
    "medicine_colony": "slow the bloom", "nh3_rises": "nh3 rises", "nitrite": "nitrite", "not_cycled": "not cycled",
    "not_fed": "never loaded|nothing was put in", "over_range": "over range|this or more",
    "overfed": "overfed|more food than", "oxygen": "oxygen", "ph_stops_bacteria": "low ph stops",
    "power_filter": "filter that stood|filter stood", "salinity_drift": "salinity drift",
    "salinity_step": "salinity step", "topup_fresh": "fresh water only|fresh top-off", "toxin": "toxin|poison",
    "vet": r"\bvet\b|veterinar", "zero_is_not_all": "not all|do not exclude|cannot see",
}  # fmt: skip
ACTS = {"check flow": "check_flow", "count heads": "count", "find body": "find_body", "gas off": "gas_off",
        "move out": "move_out", "off at the board": "board_off", "remove body": "remove_body",
        "rinse filter": "rinse_filter", "second instrument": "second_instrument",
        "second thermometer": "second_thermometer", "top up fresh": "topup_fresh",
        "water change": "water_change"}  # fmt: skip


def moment(text: str) -> datetime:
    """'-2d 18:00' against day 0."""
    days, clock = text.split()
    hour, minute = clock.split(":")
    return DAY_0 + timedelta(days=int(days[:-1]), hours=int(hour), minutes=int(minute))


def species_of(name: str) -> str:
    return match_species(name, REFERENCE.species) or "unknown"


@dataclass(frozen=True)
class Asked:
    """A case as the page answers it."""

    tank: Tank
    situation: Situation
    verdict: Verdict
    jobs: tuple[Job, ...]

    @cached_property
    def text(self) -> str:
        s, v = self.situation, self.verdict
        parts = [v.sentence, *v.reasons, v.milestone, *(f"{j.title} {j.why}" for j in self.jobs)]
        parts += [f"{f.sentence} {f.row.why}" for f in s.findings]
        return " ".join(parts).replace("\u00a0", " ").lower()

    @cached_property
    def kinds(self) -> set[str]:
        return {j.kind for j in self.jobs}

    @property
    def shut(self) -> list[str]:
        return [c.key for c in standing_gate(self.situation) if not c.passed and c.hardness != "taste"]

    @property
    def food(self) -> Feeding | None:
        return ration(self.situation).level if self.situation.living else None

    @property
    def test_wait(self) -> timedelta:
        return next(j.due for j in self.jobs if j.kind == "test") - self.situation.now

    def holds(self, item: str) -> bool:
        """Whether an item of the cases' vocabulary is said (see the cases' own list of words)."""
        if "|" in item:
            return any(self.holds(part) for part in item.split("|"))
        kind, _, what = item.partition(":")
        match kind:
            case "act":
                return self.verdict.state == "act"
            case "watch":
                return self.verdict.state in ("watch", "test")
            case "quiet":
                return self.verdict.state in ("hold", "add") and not any(j.urgent for j in self.jobs)
            case "test_today":
                seen = [self.situation.entries.latest(q) for q in ("ammonia", "nitrite")]
                fresh = any(x and self.situation.now - x.at < timedelta(hours=12) for x in seen)
                due = self.situation.now + self.test_wait
                return due.date() <= self.situation.now.date() or (fresh and self.test_wait <= timedelta(days=1.5))
            case "gate_closed":
                return bool(self.shut)
            case "gate_open":
                return not self.shut
            case "no_feeding":
                return self.food == Feeding.NONE
            case "small_feeding":
                return self.food in (Feeding.PINCH, Feeding.HALF)
            case "normal_feeding":
                return self.food == Feeding.USUAL
            case "no_change":
                return "water_change" not in self.kinds
            case "change_at_most":
                litres = [j.amount or 0.0 for j in self.jobs if j.kind == "water_change"]
                return all(100 * x / (self.tank.measured_l or 1.0) <= float(what) + 0.5 for x in litres)
            case "say":
                return re.search(FACTS[what], self.text) is not None
        if what == "retest":
            return self.test_wait <= timedelta(days=1.5)
        if what == "test salinity":
            return "test_salinity" in self.kinds or any("salinity" in j.title for j in self.jobs if j.kind == "test")
        if what == "air":
            return not self.kinds.isdisjoint({"air", "air_no_hand"})
        return ACTS.get(what, what.replace(" ", "_")) in self.kinds


def wrong(case: dict[str, Any], asked: Asked) -> list[str]:
    """What of a case does not hold."""
    missing = [f"must {m}" for m in case["must"] if not asked.holds(m)]
    return missing + [f"never {n}" for n in case["never"] if asked.holds(n)]


def tank_of(told: dict[str, Any], now: datetime) -> Tank:
    kit = told["filter"]
    kinds = (("canister", "canister"), ("sponge filter", "sponge"), ("sump", "sump"))
    kind = next((k for word, k in kinds if word in kit), "internal")
    litres = float(told["litres"])
    return Tank(
        "Case", (now - timedelta(days=told["age_days"])).date(), 80, 35, 45, measured_l=litres, temp_c=told["temp"],
        ph=told["ph"], kh_dkh=told["kh"], salinity_g_kg=float(told.get("sal") or 0.0),
        filters=(Filter(kind=kind, media_l=max(1.0, litres / 60)),), heaters=(Heater(told["heater_w"]),),
        source=Source(ph=told["tap_ph"], kh_dkh=told["tap_kh"]), school=SCHOOL.get(told["school"], told["school"]),
        planted="plant" in kit,
    )  # fmt: skip


def _before(told: dict[str, Any], tank: Tank, first: datetime, now: datetime) -> tuple[Tank, list[Entry]]:
    """What stands in the log before the first line: who lives there, and clean tests of a cycled tank."""
    cycled, entries = told["state"] == "cycled", []
    since = now - timedelta(days=told["age_days"])
    if cycled:
        since = min(max(since, now - timedelta(days=LIVED_DAYS)), first - timedelta(days=16))
        tank = replace(tank, started=min(tank.started, since.date()))
    opened = datetime.combine(tank.started, datetime.min.time(), first.tzinfo) + timedelta(hours=10)
    since = since if cycled else max(since, opened)
    since = min(since, first - timedelta(minutes=1))
    for r in told["residents"]:
        raw: dict[str, Any] = {"species": species_of(r["kind"]), "count": r["n"]}
        if r.get("cm"):
            raw["length_cm"] = min(float(r["cm"]), 1.2 * REFERENCE.species[raw["species"]].adult_cm)
        if told["state"] != "cycling":
            raw["already_in"] = True
        entries.append(_entry(KINDS["arrival"].from_raw(raw), since))
    for days in CLEAN_BEFORE if cycled else ():
        typed = {"ammonia": "0", "nitrite": "0", "nitrate": "10", "ph": str(told["ph"])}
        typed |= {"salinity": str(told["sal"])} if told.get("sal") else {}
        seen = tuple(read(q, text, tank.kit) for q, text in typed.items())
        entries.append(_entry(Tested(readings=seen), first - timedelta(days=days)))
    return tank, entries


@lru_cache(maxsize=5_000)
def _parsed(line: str, at: datetime, litres: float, living: tuple[tuple[str, int], ...]) -> Parsed:
    return parse(line, at, Setting(litres, Kit(), Units(), REFERENCE.species, dict(living), 9.5))


def written(lines: list[tuple[datetime, str]], tank: Tank, before: list[Entry]) -> list[Entry]:
    """Entries behind those of before, of lines that name no time of their own: each line is read once for all logs."""
    living = tuple(sorted((a.species, a.count) for a in stock(before)))
    entries = list(before)
    for at, line in lines:
        parsed = _parsed(line, DAY_0, tank.measured_l or 100.0, living)
        bodies = parsed.bodies or (Note(text=line.removeprefix("note ")),)
        entries += [_entry(b, at, "" if k else parsed.note) for k, b in enumerate(bodies)]
    return [replace(e, id=k + 1) for k, e in enumerate(entries)]


def _entry(body: Body, at: datetime, note: str = "") -> Entry:
    return Entry(body, at, note, zone=ZONE)


def log_of(case: dict[str, Any]) -> tuple[Tank, list[Entry], datetime]:
    times = [moment(line["at"]) for line in case["log"]]
    now = times[-1] + timedelta(minutes=5)
    tank, entries = _before(case["tank"], tank_of(case["tank"], now), times[0], now)
    for line, at in zip(case["log"], times, strict=True):
        living: dict[str, int] = {}
        for a in stock(sorted(entries, key=lambda e: e.at), at.date()):
            living[a.species] = living.get(a.species, 0) + a.count
        parsed = _parsed(line["line"], at, tank.measured_l or 100.0, tuple(sorted(living.items())))
        if not parsed.bodies:
            entries.append(_entry(Note(text=line["line"].removeprefix("note ")), at))
        entries += [_entry(b, parsed.at, "" if k else parsed.note) for k, b in enumerate(parsed.bodies)]
    ordered = sorted(entries, key=lambda e: e.at)
    return tank, [replace(e, id=k + 1) for k, e in enumerate(ordered)], now


_made: dict[object, Forecast] = {}


def _forecast(tank: Tank, entries: tuple[Entry, ...], now: datetime) -> Forecast:
    """As the program keeps it: logs that differ in words alone have one forecast."""
    key = tank, Log.of(entries).digest, now, QUICK
    if key not in _made:
        _made[key] = forecast(tank, entries, now, REFERENCE, (), QUICK)
    return _made[key]


def ask(tank: Tank, entries: list[Entry], now: datetime) -> Asked:
    made = _forecast(tank, tuple(entries), now)
    s = situation(tank, entries, (), made, REFERENCE, Units(), now)
    return Asked(tank, s, verdict(s), jobs(s))
