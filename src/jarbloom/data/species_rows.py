"""A row of the catalogue, shipped or a keeper's own: from cells of text to a species and back, with what is wrong."""

from __future__ import annotations

import csv
from collections.abc import Iterator, Mapping
from dataclasses import fields
from typing import Any, get_type_hints

from jarbloom.core.model.species import Species
from jarbloom.errors import BadData

COLUMNS = tuple(f.name for f in fields(Species))
TYPES = get_type_hints(Species)
CHOICES = {
    "group": {"fish", "shrimp", "snail", "crab", "other", "coral", "anemone"},
    "body": {"eel", "elongated", "torpedo", "deep", "shell", "crab", "star", "coral"},
    "zone": {"top", "middle", "bottom", "glass", "rock", "sand", "open", "land"},
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
    "nips_fins": {"no", "mild", "yes"},
    "flow": {"still", "gentle", "general", "brisk"},
    "confidence": {"low", "medium", "high"},
    "checked": {"", "again", "blind"},
}
RANGES = {
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


# The first of each may not be above the second.
_ORDERED = (
    ("temp_low", "temp_high"), ("ph_low", "ph_high"), ("gh_low", "gh_high"), ("shop_cm", "adult_cm"),
    ("min_l_experienced", "min_l_cautious"), ("min_length_experienced_cm", "min_length_cm"), ("salt_low", "salt_high"),
)  # fmt: skip


def _value(name: str, text: str) -> Any:
    """A cell's value. Raises ValueError with the sentence."""
    kind, text = TYPES[name], text.strip()
    if name == "nips_fins":
        text = text or "no"
    if name in CHOICES and text not in CHOICES[name]:
        raise ValueError(f"“{text}” is none of {', '.join(sorted(CHOICES[name]))}.")
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
        raise ValueError(f"“{text}” is not a number.") from None
    low, high = RANGES[name]
    if not low <= value <= high:
        raise ValueError(f"{text} is not within {low} to {high}.")
    return int(value) if kind is int else value


def check_cells(cells: Mapping[str, str]) -> tuple[Species | None, dict[str, str]]:
    """The species of a row, or None and what is wrong by field."""
    values, wrong = {}, {}
    for name in COLUMNS:
        try:
            values[name] = _value(name, cells.get(name, ""))
        except ValueError as problem:
            wrong[name] = str(problem)
    if wrong:
        return None, wrong
    species = Species(**values)
    for low, high in _ORDERED:
        if getattr(species, low) > getattr(species, high):
            wrong.setdefault(low, f"{getattr(species, low)} is above {high}.")
    for name, text in _contradictions(species):
        wrong.setdefault(name, f"{text}.")
    return (None if wrong else species), wrong


def species_from(cells: Mapping[str, str], where: str) -> Species:
    """Raises BadData naming row and field."""
    species, wrong = check_cells(cells)
    if species is None:
        name, text = next(iter(wrong.items()))
        raise BadData(f"{where}, {name}: {text}", name)
    return species


def cells_of(species: Species) -> dict[str, str]:
    """A species as cells of text, so that it reads back equal."""
    return {name: _text(getattr(species, name)) for name in COLUMNS}


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return "; ".join(value)
    return f"{value:g}" if isinstance(value, float) else str(value)


def read_species(text: str, source: str = "species.csv") -> Mapping[str, Species]:
    """Species by key from CSV text. Raises BadData naming the row and field."""
    reader = csv.DictReader(text.splitlines())
    if reader.fieldnames is None or set(COLUMNS) != set(reader.fieldnames):
        odd = set(COLUMNS) ^ set(reader.fieldnames or ())
        raise BadData(f"{source}: these columns are missing or not known: {', '.join(sorted(odd))}.")
    found: dict[str, Species] = {}
    for row in reader:
        where = f"{source} row {reader.line_num} ({row['key']})"
        if None in row or None in row.values():
            raise BadData(f"{where}: the row has the wrong number of fields.")
        species = species_from(row, where)
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
    if s.group == "fish" and s.temperament == "aggressive" and s.order != "last":
        yield "order", "an aggressive fish goes in last"
    if s.spines and s.caution == "" and s.group == "fish":
        yield "caution", "spines without a word about them"
    if (s.diet == "herbivore" and "meaty" in s.feeding) or (s.diet == "carnivore" and s.feeding.startswith("veget")):
        yield "feeding", f"a {s.diet} is not fed {s.feeding}"
    if s.refusal == "high" and not s.feeding:
        yield "feeding", "one that refuses food needs a word on what it takes"
