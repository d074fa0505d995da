"""Reads the shipped data files into core dataclasses and refuses rows that are wrong, naming row and field."""

from __future__ import annotations

import csv
import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import fields
from functools import cache
from importlib.resources import files
from typing import Any, get_type_hints

from jarbloom.core.model import Species
from jarbloom.core.notes import Note
from jarbloom.core.schools import (
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
from jarbloom.core.setup.checks import Check
from jarbloom.core.setup.choose import QUESTIONS
from jarbloom.core.vessel.media import Media
from jarbloom.errors import BadData

_FOLDER = files("jarbloom.data")
_TYPES = get_type_hints(Species)
_CHOICES = {
    "group": {"fish", "shrimp", "snail", "crab", "other", "coral", "anemone"},
    "body": {"eel", "elongated", "torpedo", "deep", "shell", "crab", "star", "coral"},
    "zone": {"top", "middle", "bottom", "glass", "rock", "sand", "open"},
    "swims": {"active", "moderate", "sedentary"},
    "temperament": {"peaceful", "active", "semi-peaceful", "territorial", "aggressive", "unknown"},
    "territory": {"none", "mild", "strong", "unknown"},
    "refusal": {"low", "medium", "high", "unknown"},
    "hardiness": {"hardy", "usual", "delicate"},
    "reef": {"", "yes", "caution", "no"},
    "tank_bred": {"common", "partly", "wild mostly", "unknown"},
    "care": {"easy", "moderate", "demanding", "unknown"},
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
    "salt_low": (0, 45),
    "salt_high": (0, 45),
    "min_length_cm": (10, 1000),
    "min_length_experienced_cm": (8, 1000),
    "maturity_months": (0, 36),
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
    if name in ("eats_invertebrates", "eats_corals"):
        return "" if text == "no" else text
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
            ("min_length_experienced_cm", "min_length_cm"),
            ("salt_low", "salt_high"),
        ):
            if getattr(species, low) > getattr(species, high):
                raise BadData(f"{where}, {low}: {getattr(species, low)} is above {high}.")
        for field, wrong in _contradictions(species):
            raise BadData(f"{where}, {field}: {wrong}.")
        if species.key in found:
            raise BadData(f"{where}, key: this key stands twice.")
        found[species.key] = species
    return found


SWIMMING_LENGTHS = 5  # of the adult, that an active swimmer's footprint has at least, or the row says why not


def _contradictions(s: Species) -> Iterator[tuple[str, str]]:
    """(field, what is wrong) of a row whose cells are each possible but do not go together."""
    if s.swims == "active" and s.min_length_cm < SWIMMING_LENGTHS * s.adult_cm and not s.footprint_reason:
        yield "min_length_cm", f"an active swimmer of {s.adult_cm:g} cm wants five lengths, or a footprint_reason"
    if s.min_length_experienced_cm < 1.3 * s.adult_cm:
        yield "min_length_experienced_cm", f"an animal of {s.adult_cm:g} cm cannot turn in it"
    if s.water == "marine" and (s.reef == "" or s.ph_low < 7.5):
        yield "reef", "a marine row says whether it goes with corals, and lives above pH 7.5"
    if s.water != "marine" and s.reef:
        yield "reef", "only a marine row has one"
    if s.group in ("coral", "anemone") and (s.water != "marine" or s.maturity_months <= 0):
        yield "maturity_months", "a coral or anemone is marine and needs a tank of some age"
    if s.temp_high - s.temp_low < 2 or s.salt_high - s.salt_low > 36:
        yield "temp_high", "a range that no keeper can hold, or none at all"
    if s.spines and s.caution == "" and s.group == "fish":
        yield "caution", "spines without a word about them"
    if (s.diet == "herbivore" and "meaty" in s.feeding) or (s.diet == "carnivore" and s.feeding.startswith("veget")):
        yield "feeding", f"a {s.diet} is not fed {s.feeding}"
    if s.refusal == "high" and not s.feeding:
        yield "feeding", "one that refuses food needs a word on what it takes"


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
