"""Reads the shipped data files into core dataclasses and refuses rows that are wrong, naming row and field."""

from __future__ import annotations

import csv
import tomllib
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from typing import Any

from jarbloom.core.animals.styles import Role, Style
from jarbloom.core.journal.kinds.planted import PLANTS
from jarbloom.core.journal.kinds.uninvited import UNINVITED
from jarbloom.core.model.causes import Aid, Answer, CauseGroup, CauseRow, Causes, DeskCheck
from jarbloom.core.model.courses import CourseRow
from jarbloom.core.model.findings import ActRow, Feeding, FindingRow, Severity
from jarbloom.core.model.plant import Plant
from jarbloom.core.model.reference import EquipmentCheck, Media, Note, Term, Uninvited
from jarbloom.core.model.schools import (
    Acclimatising,
    BagWater,
    Corrective,
    Cycling,
    MarineNitrite,
    Minimum,
    Pace,
    Quarantine,
    Requirement,
    Rule,
    Schools,
    Turnover,
)
from jarbloom.core.model.species import Species
from jarbloom.core.model.words import HeardWord, Lexicon
from jarbloom.core.setup.choose import QUESTIONS
from jarbloom.data.species_rows import read_species
from jarbloom.errors import BadData

_FOLDER = files("jarbloom.data")


@cache
def species() -> Mapping[str, Species]:
    return read_species((_FOLDER / "species.csv").read_text("utf-8"))


def _toml(name: str) -> dict[str, Any]:
    return tomllib.loads((_FOLDER / name).read_text("utf-8"))


def _rows(kind: type, rows: list[dict[str, Any]], source: str) -> dict[str, Any]:
    found = {}
    for row in rows:
        try:
            found[row["key"]] = kind(**row)
        except (TypeError, KeyError) as problem:
            raise BadData(f"{source}, {row.get('key', 'a row without a key')}: {problem}.") from None
    return found


@cache
def schools() -> Schools:
    raw = _toml("schools.toml")
    for row in raw["cycling"]:
        row["gate"] = tuple(Requirement(**ask) for ask in row["gate"])
        row["rules"] = tuple(_rule(rule, row["key"]) for rule in row.get("rules", ()))
    return Schools(
        _rows(Cycling, raw["cycling"], "schools.toml cycling"),
        _rows(Corrective, raw["corrective"], "schools.toml corrective"),
        _rows(Pace, raw["pace"], "schools.toml pace"),
        _rows(Turnover, raw["turnover"], "schools.toml turnover"),
        _rows(MarineNitrite, raw["marine_nitrite"], "schools.toml marine_nitrite"),
        _rows(Minimum, raw["minimum"], "schools.toml minimum"),
        _rows(Quarantine, raw["quarantine"], "schools.toml quarantine"),
        _rows(Acclimatising, raw["acclimatising"], "schools.toml acclimatising"),
        _rows(BagWater, raw["bag_water"], "schools.toml bag_water"),
    )


def _rule(raw: dict[str, Any], school: str) -> Rule:
    """A rule of the chooser; unknown questions and answers are refused, so that no rule is dead by a slip."""
    for name, values in raw["when"].items():
        known = {key for key, _ in QUESTIONS.get(name, ("", ()))[1]}
        if not values or set(values) - known:
            raise BadData(f"schools.toml cycling, {school}: the rule asks {name} = {values}, which nobody can answer.")
    return Rule(**raw | {"when": {k: tuple(v) for k, v in raw["when"].items()}})


def _tuples(value: Any) -> Any:
    return tuple(value) if isinstance(value, list) else value


@cache
def styles() -> Mapping[str, Style]:
    """Every species that a role names is in the catalogue, so that no role is dead by a slip."""
    raw = _toml("styles.toml")["style"]
    for row in raw:
        for role in row["roles"]:
            odd = set(role.get("keys", ())) - set(species())
            if odd:
                raise BadData(f"styles.toml, {row['key']}, {role['name']}: {', '.join(sorted(odd))} is not a key.")
        row["roles"] = tuple(Role(**{k: _tuples(v) for k, v in role.items()}) for role in row["roles"])
    return _rows(Style, raw, "styles.toml")


@cache
def checks() -> Mapping[str, EquipmentCheck]:
    return _rows(EquipmentCheck, _toml("checks.toml")["check"], "checks.toml")


@cache
def notes() -> Mapping[str, Note]:
    return _rows(Note, _toml("notes.toml")["note"], "notes.toml")


@cache
def plants() -> Mapping[str, Plant]:
    """Every one can be chosen in its entry, and every choice but 'another plant' has its row."""
    rows = csv.DictReader((_FOLDER / "plants.csv").read_text("utf-8").splitlines())
    found = {}
    for row in rows:
        try:
            found[row["key"]] = _plant(row)
        except (TypeError, KeyError, ValueError) as problem:
            raise BadData(f"plants.csv, {row.get('key', 'a row without a key')}: {problem}.") from None
    odd = set(found) ^ (set(PLANTS) - {"other"})
    if odd:
        raise BadData(f"plants.csv: {', '.join(sorted(odd))} is no choice of its entry.")
    return found


_OF_PLANTS = {"light": ("low", "medium", "high"), "growth": ("slow", "medium", "fast"),
              "uptake": ("low", "medium", "high"),
              "eaten": ("hardly", "some", "gladly"),
              "position": ("foreground", "midground", "background", "wood or rock", "floating")}  # fmt: skip


def _plant(row: Mapping[str, str]) -> Plant:
    for name, words in _OF_PLANTS.items():
        if row[name] not in words:
            raise ValueError(f"{name} “{row[name]}” is none of {', '.join(words)}")
    numbers = {n: float(row[n]) for n in ("temp_low", "temp_high", "ph_low", "ph_high", "salt_high", "height_cm")}
    if not (numbers["temp_low"] < numbers["temp_high"] and numbers["ph_low"] < numbers["ph_high"]):
        raise ValueError("a range is empty")
    told = {n: row[n] for n in ("key", "name", "scientific", "eaten_by", "caution", *_OF_PLANTS)}
    return Plant(**told, **numbers, floating=row["floating"] == "yes")  # type: ignore[arg-type]


@cache
def uninvited() -> Mapping[str, Uninvited]:
    """Every one can be chosen in its entry, and every choice has its row."""
    rows = _toml("uninvited.toml")["uninvited"]
    odd = {r["key"] for r in rows} ^ set(UNINVITED) | ({r.get("caution", "") for r in rows} - {"", *cautions()})
    if odd:
        raise BadData(f"uninvited.toml: {', '.join(sorted(odd))} is no choice of its entry, or no caution.")
    return _rows(Uninvited, rows, "uninvited.toml")


@cache
def terms() -> Mapping[str, Term]:
    """Words of this house by key, in the order of the page of terms."""
    return _rows(Term, _toml("terms.toml")["term"], "terms.toml")


@cache
def hints() -> Mapping[str, str]:
    """What a page says to somebody who is new to it, by page."""
    return {row["key"]: row["text"] for row in _toml("hints.toml")["hint"]}


@cache
def words() -> Lexicon:
    rows = [{k: _tuples(v) for k, v in row.items()} for row in _toml("heard.toml")["heard"]]
    ordinary = _toml("ordinary.toml")
    sayings = ordinary.pop("sayings")
    words = frozenset(" ".join(ordinary.values()).split())
    return Lexicon(list(_rows(HeardWord, rows, "heard.toml").values()), words, sayings)


@cache
def acts() -> Mapping[str, ActRow]:
    return _rows(ActRow, _toml("acts.toml")["act"], "acts.toml")


@cache
def findings() -> Mapping[str, FindingRow]:
    """Every act, severity and ration that a row names is known, so that no rule is dead by a slip."""
    rows = [{k: _tuples(v) for k, v in row.items()} for row in _toml("findings.toml")["finding"]]
    for row in rows:
        odd = set(row.get("acts", ())) - set(acts())
        if odd:
            raise BadData(f"findings.toml, {row['key']}: {', '.join(sorted(odd))} is no act.")
        if (
            row["severity"].upper() not in Severity.__members__
            or row.get("feeding", "usual").upper() not in Feeding.__members__
        ):
            raise BadData(f"findings.toml, {row['key']}: severity or feeding is not known.")
    return _rows(FindingRow, rows, "findings.toml")


def _with_acts(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    for row in rows:
        if odd := set(row.get("acts", ())) - set(acts()):
            raise BadData(f"causes.toml, {row['key']}: {', '.join(sorted(odd))} is no act.")
    return [{k: _tuples(v) for k, v in row.items()} for row in rows]


@cache
def causes() -> Causes:
    """Every check, act, group and trigger that a row names is known; what an answer says, some cause asks for."""
    told = _toml("causes.toml")
    groups = _rows(CauseGroup, _with_acts(told["group"]), "causes.toml group")
    rows = _rows(CauseRow, _with_acts(told["cause"]), "causes.toml cause")
    raw = [
        {**r, "answers": tuple(Answer(label, token) for label, token in r["answers"])}
        for r in _toml("desk_checks.toml")["check"]
    ]
    checks = _rows(DeskCheck, raw, "desk_checks.toml")
    aid = _rows(
        Aid,
        [{**_each_tuple(r), "key": r["act"], "harms": tuple(tuple(h) for h in r["harms"])}
         for r in _toml("first_aid.toml")["aid"]],
        "first_aid.toml",
    )  # fmt: skip
    for row in rows.values():
        if odd := (set(row.checks) - set(checks)) | ({row.group} - set(groups)):
            raise BadData(f"causes.toml, {row.key}: {', '.join(sorted(odd))} is not known.")
        if row.caution and row.caution not in cautions():
            raise BadData(f"causes.toml, {row.key}: {row.caution} is no caution.")
    known = set(rows) | set(groups)
    for one in aid.values():
        if odd := (set(one.helps) - known) | ({one.act} - set(acts())):
            raise BadData(f"first_aid.toml, {one.act}: {', '.join(sorted(odd))} is not known.")
    return Causes(rows, groups, checks, aid)


@cache
def courses() -> Mapping[str, CourseRow]:
    """Every finding, cause and caution that a course names is known."""
    raw = [
        {**r, "steps": tuple((float(hours), text) for hours, text in r["steps"])}
        for r in _toml("courses.toml")["course"]
    ]
    rows = _rows(CourseRow, raw, "courses.toml")
    for row in rows.values():
        odd = (set(row.findings) - set(findings())) | (set(row.causes) - set(causes().rows))
        odd |= ({row.caution} - {""}) - set(cautions())
        if odd:
            raise BadData(f"courses.toml, {row.key}: {', '.join(sorted(odd))} is not known.")
    return rows


def _each_tuple(row: dict[str, Any]) -> dict[str, Any]:
    return {k: _tuples(v) for k, v in row.items()}


@cache
def media() -> Mapping[str, Media]:
    return _rows(Media, _toml("media.toml")["media"], "media.toml")


@cache
def cautions() -> Mapping[str, str]:
    return {key: row["text"] for key, row in _toml("cautions.toml")["caution"].items()}
