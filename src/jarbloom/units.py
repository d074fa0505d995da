"""Units: the one place where typed values become canonical ones and canonical ones become text.

Canonical: litres, cm, degrees Celsius, litres an hour, g, dKH, mg N/L, mg N a day.
1 US gal = 3.785411784 L and 1 in = 2.54 cm exactly (NIST SP 811, appendix B).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from jarbloom.errors import Refused

NBSP = "\u00a0"
US_GAL_L = 3.785411784
INCH_CM = 2.54
LARGEST = 1e300
MOST_HEADS = 5000  # of one kind at once
OUNCE_G = 28.349523125
KG_PER_LB = 0.45359237
KG_M2_PER_LB_FT2 = KG_PER_LB / 0.09290304
CACO3_PER_DKH = 17.848  # mg/L as CaCO3 in one degree of carbonate hardness

# dimension -> unit -> (factor, offset): canonical = typed * factor + offset
_LINEAR: dict[str, dict[str, tuple[float, float]]] = {
    "volume": {"L": (1.0, 0.0), "gal": (US_GAL_L, 0.0), "mL": (0.001, 0.0)},
    "length": {"cm": (1.0, 0.0), "in": (INCH_CM, 0.0), "mm": (0.1, 0.0)},
    "temp": {"°C": (1.0, 0.0), "°F": (5 / 9, -160 / 9)},
    "flow": {"L/h": (1.0, 0.0), "gal/h": (US_GAL_L, 0.0)},
    "mass": {"g": (1.0, 0.0), "oz": (OUNCE_G, 0.0), "mg": (0.001, 0.0)},
    "weight": {"kg": (1.0, 0.0), "lb": (KG_PER_LB, 0.0)},
    "dosage": {"mL per 100 L": (1.0, 0.0), "mL per 10 gal": (10 / US_GAL_L, 0.0)},
    "hardness": {"dKH": (1.0, 0.0), "ppm": (1 / CACO3_PER_DKH, 0.0)},
}
_CHOSEN = {
    "metric": {
        "volume": "L",
        "length": "cm",
        "temp": "°C",
        "flow": "L/h",
        "mass": "g",
        "weight": "kg",
        "dosage": "mL per 100 L",
        "hardness": "dKH",
    },
    "us": {
        "volume": "gal",
        "length": "in",
        "temp": "°F",
        "flow": "gal/h",
        "mass": "g",
        "weight": "lb",
        "dosage": "mL per 10 gal",
        "hardness": "dKH",
    },
}
SYSTEMS = tuple(_CHOSEN)
NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def figure(value: float, digits: int = 3) -> str:
    """A figure with at most `digits` significant ones, no trailing zeros, a true minus sign.

    >>> figure(84.27), figure(0.0691), figure(-2.0), figure(1234.5)
    ('84.3', '0.0691', '−2', '1234')
    """
    if not math.isfinite(value):
        return "more" if value > 0 else "none"
    if abs(value) >= 10 ** (digits - 1):
        text = f"{value:.0f}"
    else:
        text = f"{value:.{digits}g}"
        if "e" in text:
            text = f"{value:.6f}"
        if "." in text:
            text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text.replace("-", "−")


def number(text: str, field: str = "", *, low: float = -math.inf, high: float = math.inf) -> float:
    """Turn typed text into a finite number within [low, high]; a decimal comma is read as a point.

    Raises Refused with the value in the sentence.
    """
    cleaned = text.strip().replace("−", "-").replace(NBSP, "")
    if cleaned.count(",") == 1 and "." not in cleaned:
        cleaned = cleaned.replace(",", ".")
    try:
        value = float(cleaned)
    except ValueError:
        raise Refused(f"“{text.strip()[:40]}” is not a number.", field) from None
    if not math.isfinite(value):
        raise Refused(f"“{text.strip()[:40]}” is not a number that can be used.", field)
    if value < low:
        raise Refused(f"{figure(value)} is too low; the least is {figure(low)}.", field)
    if value > high:
        raise Refused(f"{figure(value)} is too high; the most is {figure(high)}.", field)
    return value


def is_number(value: object) -> bool:
    """A finite number of a size that can be reckoned with, of whatever came from outside; yes and no are none.

    >>> [is_number(x) for x in (1, 2.5, True, "1", float("nan"), 10**400)]
    [True, True, False, False, False, False]
    """
    return not isinstance(value, bool) and isinstance(value, int | float) and abs(value) < LARGEST  # NaN is not less


def head_count(text: str, field: str = "", *, low: int = 0, high: int = MOST_HEADS) -> int:
    """Typed text as so many animals. Raises Refused as `number` does, and for parts of an animal."""
    wanted = number(text, field, low=low, high=high)
    if wanted != int(wanted):
        raise Refused("Animals come whole.", field)
    return int(wanted)


def canonical(value: float, unit: str, dimension: str) -> float:
    """Canonical value of a typed one. Raises Refused for a unit that the dimension does not have."""
    try:
        factor, offset = _LINEAR[dimension][unit]
    except KeyError:
        known = ", ".join(_LINEAR[dimension])
        raise Refused(f"“{unit}” is not a unit for this; use {known}.") from None
    return value * factor + offset


def shown(value: float, unit: str, dimension: str) -> float:
    """Canonical value in the wanted unit."""
    factor, offset = _LINEAR[dimension][unit]
    return (value - offset) / factor


@dataclass(frozen=True)
class Units:
    """How this keeper wants quantities written. `system` is 'metric' or 'us'."""

    system: str = "metric"

    def unit(self, dimension: str) -> str:
        return _CHOSEN[self.system][dimension]

    def value(self, canonical_value: float, dimension: str) -> float:
        return shown(canonical_value, self.unit(dimension), dimension)

    def text(self, canonical_value: float, dimension: str, digits: int = 3) -> str:
        return f"{figure(self.value(canonical_value, dimension), digits)}{NBSP}{self.unit(dimension)}"

    def volume(self, litres: float) -> str:
        value = self.value(litres, "volume")
        text = figure(value, 3 if self.system == "metric" else 2) if value < 10 else f"{value:.0f}"
        return f"{text}{NBSP}{self.unit('volume')}"

    def mass(self, grams: float) -> str:
        """Grams as a kitchen scale shows them; from a kilogram on the heavier unit."""
        return f"{grams:.0f}{NBSP}g" if grams < 1000 else self.text(grams / 1000, "weight")

    def pressure(self, kg_m2: float) -> str:
        """What a floor bears: kg/m2, or pounds on the square foot."""
        return f"{kg_m2:.0f}{NBSP}kg/m²" if self.system == "metric" else f"{kg_m2 / KG_M2_PER_LB_FT2:.0f}{NBSP}lb/ft²"

    def length(self, cm: float) -> str:
        return self.text(cm, "length")

    def temp_step(self, celsius: float) -> str:
        """A difference of temperature: the scale's factor without its offset."""
        unit = self.unit("temp")
        return f"{figure(celsius / _LINEAR['temp'][unit][0], 2)}{NBSP}{unit}"

    def temp(self, celsius: float) -> str:
        return f"{figure(round(self.value(celsius, 'temp'), 1), 4)}{NBSP}{self.unit('temp')}"


def load_text(mg_n_day: float) -> str:
    """mg N a day, as words use it: two figures below ten, whole above, and never a tenth that nobody can know."""
    if 0 < mg_n_day < 0.1:
        return f"under 0.1{NBSP}mg{NBSP}N"
    return f"{figure(mg_n_day, 2)}{NBSP}mg{NBSP}N" if mg_n_day < 10 else f"{mg_n_day:.0f}{NBSP}mg{NBSP}N"


LEAST_FOOD_G = 0.05  # of dry food: about what two fingers or a cheap scale can tell (judgement)


def food_text(grams: float) -> str:
    """Dry food as one can measure it.

    >>> food_text(0.123), food_text(0.0091)
    ('0.12\xa0g', 'a few crumbs (less than 0.05\xa0g)')
    """
    if grams < LEAST_FOOD_G:
        return f"a few crumbs (less than {LEAST_FOOD_G}{NBSP}g)"
    return f"{figure(grams, 2)}{NBSP}g"


def mg_text(mg_l: float) -> str:
    return f"{figure(mg_l, 2)}{NBSP}mg/L"


def percent(share: float) -> str:
    r"""A probability or share; never 0 or 100 % when it is not exactly so.

    >>> percent(0.9994), percent(0.5), percent(0.0)
    ('over 99\xa0%', '50\xa0%', '0\xa0%')
    """
    if 0.99 < share < 1.0:
        return f"over 99{NBSP}%"
    if 0.0 < share < 0.01:
        return f"under 1{NBSP}%"
    return f"{100 * share:.0f}{NBSP}%"


def number_word(n: int) -> str:
    return NUMBERS[n] if n < len(NUMBERS) else str(n)


def lasting(days: float) -> str:
    """So many days in the words of a keeper.

    >>> lasting(1.2), lasting(9), lasting(70), lasting(400), lasting(910)
    ('a day', '9 days', 'ten weeks', '13 months', 'two and a half years')
    """
    if days < 14:
        return "a day" if days < 1.5 else f"{days:.0f} days"
    if days < 88:
        return f"{number_word(round(days / 7))} weeks"
    months = days / (365.25 / 12)
    if months < 20:
        return "a year" if 11.5 < months < 12.5 else f"{number_word(round(months))} months"
    halves = round(months / 6)
    whole = number_word(halves // 2)
    return f"{whole} and a half years" if halves % 2 else f"{whole} years"
