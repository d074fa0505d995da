"""Reads the shipped data files into core dataclasses and refuses rows that are wrong, naming row and field."""

from __future__ import annotations

import csv
import tomllib
from collections.abc import Mapping
from dataclasses import fields
from functools import cache
from importlib.resources import files
from typing import Any, get_type_hints

from jarbloom.core.model import Species
from jarbloom.core.notes import Note
from jarbloom.core.schools import Corrective, Cycling, MarineNitrite, Pace, Requirement, Rule, Schools, Turnover
from jarbloom.core.setup.checks import Check
from jarbloom.core.setup.choose import QUESTIONS
from jarbloom.core.vessel.media import Media
from jarbloom.errors import BadData

_FOLDER = files("jarbloom.data")
_TYPES = get_type_hints(Species)
_CHOICES = {
    "group": {"fish", "shrimp", "snail"},
    "body": {"eel", "elongated", "torpedo", "deep", "shell"},
    "zone": {"top", "middle", "bottom", "glass"},
    "diet": {"carnivore", "omnivore", "herbivore", "detritivore"},
    "order": {"first", "middle", "last"},
    "ammonia_sensitivity": {"hardy", "usual", "sensitive"},
    "nitrite_sensitivity": {"hardy", "usual", "sensitive"},
    "flow": {"still", "gentle", "general", "brisk"},
    "confidence": {"low", "medium", "high"},
}
_RANGES = {
    "adult_cm": (0.5, 200),
    "shop_cm": (0.3, 100),
    "growth_k": (0.05, 5),
    "lifespan_y": (0.5, 80),
    "temp_low": (0, 40),
    "temp_high": (0, 40),
    "ph_low": (3, 11),
    "ph_high": (3, 11),
    "gh_low": (0, 60),
    "gh_high": (0, 60),
    "min_l_cautious": (1, 20000),
    "min_l_experienced": (1, 20000),
    "min_length_cm": (10, 1000),
    "group_min": (1, 100),
    "mouth_ratio": (0, 0.5),
    "a": (1e-4, 1),
    "b": (2, 4),
}


def _cell(name: str, text: str, where: str) -> Any:
    kind = _TYPES[name]
    text = text.strip()
    if name in _CHOICES and text not in _CHOICES[name]:
        raise BadData(f"{where}, {name}: “{text}” is none of {', '.join(sorted(_CHOICES[name]))}.")
    if kind is bool:
        return text not in ("no", "")
    if kind == tuple[str, ...]:
        return tuple(part.strip() for part in text.split(";") if part.strip())
    if kind is str:
        return text
    if text == "" and name in ("a", "b"):
        return None
    try:
        value = float(text)
    except ValueError:
        raise BadData(f"{where}, {name}: “{text}” is not a number.") from None
    low, high = _RANGES[name]
    if not low <= value <= high:
        raise BadData(f"{where}, {name}: {text} is not within {low} to {high}.")
    return int(value) if kind is int else value


def read_species(text: str, source: str = "species.csv") -> Mapping[str, Species]:
    """Species by key from CSV text. Raises BadData naming the row and field."""
    reader = csv.DictReader(text.splitlines())
    wanted = [f.name for f in fields(Species)]
    if reader.fieldnames is None or set(wanted) != set(reader.fieldnames):
        odd = set(wanted) ^ set(reader.fieldnames or ())
        raise BadData(f"{source}: these columns are missing or not known: {', '.join(sorted(odd))}.")
    found: dict[str, Species] = {}
    for row in reader:
        where = f"{source} row {reader.line_num} ({row['key']})"
        if None in row or None in row.values():
            raise BadData(f"{where}: the row has the wrong number of fields.")
        species = Species(**{name: _cell(name, row[name], where) for name in wanted})
        for low, high in (
            ("temp_low", "temp_high"),
            ("ph_low", "ph_high"),
            ("gh_low", "gh_high"),
            ("shop_cm", "adult_cm"),
            ("min_l_experienced", "min_l_cautious"),
        ):
            if getattr(species, low) > getattr(species, high):
                raise BadData(f"{where}, {low}: {getattr(species, low)} is above {high}.")
        if species.key in found:
            raise BadData(f"{where}, key: this key stands twice.")
        found[species.key] = species
    return found


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
    )


def _rule(raw: dict[str, Any], school: str) -> Rule:
    """A rule of the chooser; unknown questions and answers are refused, so that no rule is dead by a slip."""
    for name, values in raw["when"].items():
        known = {key for key, _ in QUESTIONS.get(name, ("", ()))[1]}
        if not values or set(values) - known:
            raise BadData(f"schools.toml cycling, {school}: the rule asks {name} = {values}, which nobody can answer.")
    return Rule(**raw | {"when": {k: tuple(v) for k, v in raw["when"].items()}})


@cache
def checks() -> Mapping[str, Check]:
    return _rows(Check, _toml("checks.toml")["check"], "checks.toml")


@cache
def notes() -> Mapping[str, Note]:
    return _rows(Note, _toml("notes.toml")["note"], "notes.toml")


@cache
def media() -> Mapping[str, Media]:
    return _rows(Media, _toml("media.toml")["media"], "media.toml")


@cache
def cautions() -> Mapping[str, str]:
    return {key: row["text"] for key, row in _toml("cautions.toml")["caution"].items()}
