"""The form of a keeper's own species: the catalogue's columns as fields in the keeper's units, and back to cells."""

from __future__ import annotations

from collections.abc import Mapping

from jarbloom.core.journal.kinds.field import Field
from jarbloom.data.species_rows import CHOICES, RANGES, TYPES
from jarbloom.errors import Refused
from jarbloom.units import Units
from jarbloom.web.forms.fields import shown_number, value_of

# (title, columns) in the order of the form
PARTS = (
    ("Names", ("name", "scientific", "synonyms", "group", "body")),
    ("Size and growth", ("adult_cm", "shop_cm", "growth_k", "lifespan_y", "a", "b", "mouth_ratio")),
    ("Water", ("temp_low", "temp_high", "ph_low", "ph_high", "gh_low", "gh_high", "salt_low", "salt_high", "flow")),
    ("Room", ("min_l_cautious", "min_l_experienced", "min_length_cm", "min_length_experienced_cm", "swims",
              "footprint_reason", "zone", "maturity_months", "reef")),
    ("Company", ("group_min", "sex_ratio", "temperament", "territory", "alike", "order", "nips_fins", "long_fins",
                 "jumps", "nocturnal", "spines", "digs")),
    ("Food", ("diet", "feeding", "refusal", "eats_plants", "eats_invertebrates", "eats_corals")),
    ("Care", ("hardiness", "ammonia_sensitivity", "nitrite_sensitivity", "care", "tank_bred", "confidence", "caution")),
)  # fmt: skip
LABELS = {
    "name": "name", "scientific": "scientific name", "synonyms": "other names, split by ;", "group": "kind",
    "body": "body form", "adult_cm": "adult length", "shop_cm": "length when sold", "growth_k": "growth K a year",
    "lifespan_y": "lifespan, years", "a": "a of W = a L^b", "b": "b", "mouth_ratio": "gape as a share of length",
    "temp_low": "coolest", "temp_high": "warmest", "ph_low": "lowest pH", "ph_high": "highest pH",
    "gh_low": "softest, dGH", "gh_high": "hardest, dGH", "salt_low": "least salt, g/kg", "salt_high": "most salt, g/kg",
    "flow": "current it likes", "min_l_cautious": "smallest tank, cautious",
    "min_l_experienced": "smallest, experienced",
    "min_length_cm": "tank length, cautious",
    "min_length_experienced_cm": "tank length, experienced", "swims": "swims",
    "footprint_reason": "why a shorter tank will do", "zone": "lives", "maturity_months": "tank age it needs, months",
    "reef": "with corals", "group_min": "smallest group", "sex_ratio": "sexes", "temperament": "temperament",
    "territory": "holds ground", "alike": "rivals are called", "order": "goes in", "nips_fins": "nips fins",
    "long_fins": "has long fins", "jumps": "jumps", "nocturnal": "active by night", "spines": "has spines",
    "digs": "digs", "diet": "diet", "feeding": "takes", "refusal": "refuses food", "eats_plants": "eats plants",
    "eats_invertebrates": "eats invertebrates: which", "eats_corals": "eats corals: which", "hardiness": "hardiness",
    "ammonia_sensitivity": "to ammonia", "nitrite_sensitivity": "to nitrite", "care": "care", "tank_bred": "tank-bred",
    "confidence": "how sure you are", "caution": "caution",
}  # fmt: skip
_LENGTH, _VOLUME, _TEMP = "length", "volume", "temp"


def _dimension(name: str) -> str:
    if name.endswith("_cm"):
        return _LENGTH
    return _VOLUME if name.startswith("min_l_") else _TEMP if name.startswith("temp_") else ""


def _field(name: str) -> Field:
    label = LABELS[name]
    if name in CHOICES:
        words = sorted(CHOICES[name] - {""})
        return Field(name, label, "choice", choices=tuple((w, w) for w in words), required="" not in CHOICES[name])
    if TYPES[name] is bool:
        return Field(name, label, "flag")
    if name in RANGES:
        low, high = RANGES[name]
        return Field(name, label, "number", _dimension(name), low=low, high=high, required=name not in ("a", "b"))
    return Field(name, label, required=name == "name")


FIELDS = tuple((title, tuple(_field(c) for c in columns)) for title, columns in PARTS)


def typed_of(cells: Mapping[str, str], units: Units) -> dict[str, str]:
    """Cells as the keeper would type them."""
    shown = {}
    for _, part in FIELDS:
        for f in part:
            text = cells.get(f.name, "")
            if f.type == "flag":
                shown[f.name] = "on" if text not in ("no", "") else ""
            elif f.type == "number" and f.dimension and text:
                shown[f.name] = shown_number(float(text), f, units)
            else:
                shown[f.name] = "" if text == "no" and f.name.startswith("eats_") else text
    return shown


def cells_from(typed: Mapping[str, str], units: Units) -> tuple[dict[str, str], dict[str, str]]:
    """(cells, what cannot be read by field)."""
    cells, wrong = {}, {}
    for _, part in FIELDS:
        for f in part:
            try:
                value = value_of(f, typed.get(f.name, ""), units)
            except Refused as problem:
                wrong[f.name], value = problem.sentence, typed.get(f.name, "")
            if f.type == "flag":
                cells[f.name] = "yes" if value else "no"
            else:
                cells[f.name] = f"{value:.6g}" if isinstance(value, float) else str(value or "")
    return cells, wrong
