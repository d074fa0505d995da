"""Words of the log line: what begins a clause, and how units are written."""

from __future__ import annotations

from collections.abc import Mapping

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.kind import Kind
from jarbloom.patterns import regex

READ: Mapping[str, str] = {
    word: quantity
    for quantity, words in {
        "ammonia": ("am", "ammonia", "nh3", "nh4", "tan", "nh3-n", "nh4-n"),
        "nitrite": ("ni", "nitrite", "no2", "no2-n"),
        "nitrate": ("na", "nitrate", "no3", "no3-n"),
        "ph": ("ph",),
        "kh": ("kh", "dkh"),
        "temp": ("t", "temp", "temperature"),
        "salinity": ("sal", "salinity"),
    }.items()
    for word in words
}
SAID: Mapping[str, type[Kind]] = {word: kind for kind in KINDS.values() for word in kind.said}
KEYWORDS = (*READ, *SAID)
SURE = "sure"  # at the end of a line: the keeper means what is far from usual
UNITS: Mapping[str, str] = {
    "litre": "l", "litres": "l", "liter": "l", "liters": "l", "l": "l",
    "gal": "gal", "gallon": "gal", "gallons": "gal", "ml": "ml",
    "c": "c", "°c": "c", "f": "f", "°f": "f",
    "g": "g", "gram": "g", "grams": "g", "mg": "mg", "kg": "kg", "lb": "lb", "lbs": "lb",
    "sg": "sg", "g/kg": "g/kg", "ppt": "ppt", "psu": "psu", "dkh": "dkh", "dgh": "dgh", "%": "%",
    "mg/l": "mg/l", "ppm": "ppm", "cm": "cm", "mm": "mm", "in": "in", "inch": "in", "inches": "in",
    "d": "d", "day": "d", "days": "d", "h": "h", "hour": "h", "hours": "h", "min": "min", "minutes": "min",
}  # fmt: skip
# How a nitrogen test counts, as it is said behind the number ('10 as N', '10 NO3-N')
_AS_N = ("n", "nitrogen")
FORMS: Mapping[str, Mapping[str, str]] = {
    "ammonia": {"nh3": "NH3", "nh4": "NH4", **dict.fromkeys((*_AS_N, "nh3-n", "nh4-n"), "N")},
    "nitrite": {"no2": "NO2", **dict.fromkeys((*_AS_N, "no2-n"), "N")},
    "nitrate": {"no3": "NO3", **dict.fromkeys((*_AS_N, "no3-n"), "N")},
}
OF_READINGS: Mapping[str, tuple[str, ...]] = {
    "ammonia": ("mg/l", "ppm"),
    "nitrite": ("mg/l", "ppm"),
    "nitrate": ("mg/l", "ppm"),
    "ph": (),
    "kh": ("dkh",),
    "temp": ("c", "f"),
    "salinity": ("sg", "g/kg", "ppt", "psu"),
}
# Beyond these a reading is asked about: it may be true, and more often it is a slip (canonical units; judgement)
USUAL: Mapping[str, tuple[float, float]] = {
    "ammonia": (0, 8), "nitrite": (0, 12), "nitrate": (0, 60), "ph": (5, 9.3), "kh": (0, 25), "temp": (14, 34),
    "salinity": (0, 42),
}  # fmt: skip
NUMBER = r"(?:0|[1-9]\d*)(?:[.,]\d+)?|[.,]\d+"
NUMBERS = regex(NUMBER)
READING = regex(rf"^([<>]?(?:{NUMBER})(?:[-–](?:{NUMBER}))?)(%|[a-z°µ/]+)?$")
AMOUNT = regex(rf"^({NUMBER})(%|[a-z°µ/]+)?$")
TWO_AMOUNTS = regex(rf"^({NUMBER})[-–]({NUMBER})(%|[a-z°µ/]+)?$")
LOOKALIKE = str.maketrans({"o": "0", "O": "0", "l": "1", "I": "1", "i": "1", "S": "5", "s": "5", "B": "8"})
