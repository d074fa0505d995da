"""Words of the log line: what each may be called, its units, and what a piece of a line is taken for."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from jarbloom.core.model.kit import Reading

WORDS: Mapping[str, tuple[str, ...]] = {
    "ammonia": ("am", "ammonia", "nh3", "nh4", "tan"),
    "nitrite": ("ni", "nitrite", "no2"),
    "nitrate": ("na", "nitrate", "no3"),
    "ph": ("ph",),
    "kh": ("kh", "dkh"),
    "temp": ("t", "temp", "temperature"),
    "salinity": ("sal", "salinity"),
    "change": ("wc", "change", "changed"),
    "dose": ("dose", "dosed"),
    "feed": ("fed", "feed", "food"),
    "topoff": ("top", "topoff", "top-off", "topup"),
    "conditioner": ("cond", "conditioner", "dechlorinator", "detox", "detoxifier"),
    "bacteria": ("bac", "bacteria", "bottle", "culture"),
    "media": ("media", "filter", "rinse", "rinsed"),
    "bed": ("bed", "stirred", "gravel"),
    "power": ("power", "outage", "blackout"),
    "rock": ("rock", "liverock"),
    "off": ("off",),
    "on": ("on",),
    "arrival": ("in", "arrived", "added"),
    "death": ("dead", "died", "death"),
    "birth": ("born", "fry"),
    "given": ("gave", "given", "rehomed"),
    "count": ("counted", "heads"),
    "observation": ("saw", "seen", "obs"),
    "note": ("note",),
}
KEYWORDS = {word: kind for kind, words in WORDS.items() for word in words}
GLYPHS = {
    "change": "water",
    "topoff": "water",
    "dose": "drop",
    "arrival": "fish",
    "death": "fish_struck",
    "birth": "fish",
    "given": "fish",
    "count": "fish",
}
AMOUNT = re.compile(r"^([<>]?[\d.,]*\d[\d.,]*(?:(?:-|–)[\d.,]*\d)?)(%|[a-zA-Z°µ/]+)?$")
UNIT_WORDS = {
    "l": ("volume", "L"),
    "litre": ("volume", "L"),
    "litres": ("volume", "L"),
    "liter": ("volume", "L"),
    "liters": ("volume", "L"),
    "gal": ("volume", "gal"),
    "gallon": ("volume", "gal"),
    "gallons": ("volume", "gal"),
    "ml": ("volume", "mL"),
    "c": ("temp", "°C"),
    "°c": ("temp", "°C"),
    "f": ("temp", "°F"),
    "°f": ("temp", "°F"),
    "g": ("mass", "g"),
    "mg": ("mass", "mg"),
    "oz": ("mass", "oz"),
    "kg": ("weight", "kg"),
    "lb": ("weight", "lb"),
    "sg": ("salinity", "sg"),
    "g/kg": ("salinity", "g/kg"),
    "ppt": ("salinity", "g/kg"),
    "psu": ("salinity", "g/kg"),
    "d": ("days", "d"),
    "cm": ("length", "cm"),
    "in": ("length", "in"),
    "mm": ("length", "mm"),
    "%": ("share", "%"),
    "mg/l": ("dose", "mg/L"),
    "ppm": ("dose", "mg/L"),
}
LOOKALIKE = str.maketrans({"o": "0", "O": "0", "l": "1", "I": "1", "i": "1", "S": "5", "s": "5", "B": "8"})


@dataclass(frozen=True)
class Draft:
    """An entry about to be saved."""

    kind: str
    body: dict[str, Any] = field(default_factory=dict)
    readings: tuple[Reading, ...] = ()


@dataclass(frozen=True)
class Chip:
    """What one piece of the line was taken for, or a question about it. `fix` is the line corrected."""

    ok: bool
    glyph: str
    label: str
    value: str = ""
    detail: str = ""
    fix: str = ""


@dataclass(frozen=True)
class Parsed:
    at: datetime
    drafts: tuple[Draft, ...]
    chips: tuple[Chip, ...]
    leftover: str


class Ask(Exception):
    """A question to the keeper about the piece being read."""

    def __init__(self, label: str, fix: str = "") -> None:
        super().__init__(label)
        self.label, self.fix = label, fix
