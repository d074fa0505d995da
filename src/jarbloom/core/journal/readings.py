"""From what was seen on a kit to an interval: readings are colour steps, not numbers."""

from __future__ import annotations

import re
from dataclasses import replace

from jarbloom.core.model.kit import MG_PER_MG_N, NITROGEN, QUANTITIES, Kit, Reading, Scale
from jarbloom.core.vessel.limits import MOST_STEPS
from jarbloom.core.water.salinity import read_salinity
from jarbloom.errors import Refused
from jarbloom.patterns import regex
from jarbloom.units import NBSP, Units, canonical, figure, is_number, number

# What a reading may be at all, in canonical units; wider than any tank, to catch slips of the finger.
RANGES = {
    "ammonia": (0, 100), "nitrite": (0, 100), "nitrate": (0, 1000), "ph": (3, 11), "kh": (0, 60), "temp": (0, 45),
    "salinity": (0, 60),
}  # fmt: skip
LABELS = {
    "ammonia": "ammonia",
    "nitrite": "nitrite",
    "nitrate": "nitrate",
    "ph": "pH",
    "kh": "KH",
    "temp": "temperature",
    "salinity": "salinity",
}
_HALF_WIDTH = {"ph": 0.2, "kh": 0.5, "temp": 0.3, "salinity": 0.5}  # salinity in g/kg
MASKED = "masked"
_MASKED = regex(rf"\s+{MASKED}$", re.IGNORECASE)
_SPAN = regex(r"^\s*([<>]?)\s*([0-9.,]+)\s*(?:(?:-|–|to|\.\.)\s*([0-9.,]+))?\s*$")


def _edges(steps: tuple[float, ...]) -> list[float]:
    """Borders between neighbouring steps: 0, the midpoints, infinity."""
    mids = [(a + b) / 2 for a, b in zip(steps, steps[1:], strict=False)]
    return [0.0, *mids, float("inf")]


def lowest_edge(scale: Scale) -> float:
    """Upper edge of the lowest colour step, in the kit's units: half way to the next."""
    steps = scale.steps
    return (steps[0] + steps[1]) / 2 if len(steps) > 1 else float("inf")


def _colour_interval(low_seen: float, high_seen: float, scale: Scale) -> tuple[float, float, float, float]:
    """Interval and outer interval, in kit units. A value on a step spans to the midpoints around it; a
    span or a value between two steps spans from step to step; the last step is open above."""
    steps, edges = scale.steps, _edges(scale.steps)
    if low_seen == high_seen and low_seen in steps:
        k = steps.index(low_seen)
        return (edges[k], edges[k + 1], edges[max(k - 1, 0)], edges[min(k + 2, len(steps))])
    below = max((k for k, s in enumerate(steps) if s <= low_seen), default=0)
    above = min((k for k, s in enumerate(steps) if s >= high_seen), default=len(steps))
    low = min(steps[below], low_seen)
    high = max(steps[above], high_seen) if above < len(steps) else float("inf")
    return (low, high, edges[below], edges[min(above + 1, len(steps))])


def _around(quantity: str, sign: str, low: float, high: float) -> tuple[float, float, float, float]:
    """Interval and outer interval of a reading that is no colour step; '<6' and '>8.8' stay open to their side."""
    half, (least, most) = _HALF_WIDTH[quantity], RANGES[quantity]
    if sign == "<":
        return float(least), high, float(least), high + half
    if sign == ">":
        return low, float(most), low - half, float(most)
    return low - half, high + half, low - 2 * half, high + 2 * half


def _finite(value: float) -> float | None:
    return None if value == float("inf") else value


def _span(quantity: str, typed: str) -> tuple[str, float, float]:
    found = _SPAN.match(typed)
    if not found:
        raise Refused(f"“{typed[:40]}” is no {LABELS[quantity]} reading.", quantity)
    sign, first, second = found.groups()
    low = number(first, quantity)
    high = number(second, quantity) if second else low
    if high < low:
        raise Refused(f"{LABELS[quantity]}: {figure(low)} to {figure(high)} runs backwards.", quantity)
    return sign, low, high


def read(quantity: str, typed: str, kit: Kit, temp_unit: str = "°C") -> Reading:
    """A typed reading ('.25', '.25-.5', '<.25', '>8', '7.6', '25.4') as an interval of the kit.

    'masked' behind it ('2 masked') says that something in the water upsets this test (a detoxifier, a medicine): the
    reading is kept and shown, but nothing is concluded from it.
    Raises Refused, naming the quantity, for text that is no number or a value no tank can have.
    """
    typed = typed.strip()
    if _MASKED.search(typed):
        found = read(quantity, _MASKED.sub("", typed), kit, temp_unit)
        return replace(found, typed=f"{found.typed} {MASKED}", masked=True)
    if quantity == "temp" and (unit := re.search(r"\s*°?([CcFf])$", typed)):
        temp_unit, typed = f"°{unit[1].upper()}", typed[: unit.start()]
    if quantity == "salinity":
        value = read_salinity(typed, quantity).g_kg
        half = _HALF_WIDTH[quantity]
        box = (value - half, value + half, value - 2 * half, value + 2 * half)
        return Reading(quantity, typed, value, *box, form="", misread=0.0, n_steps=1)
    sign, low, high = _span(quantity, typed)
    if quantity == "temp":
        typed = f"{typed} {temp_unit}"
        low, high = canonical(low, temp_unit, "temp"), canonical(high, temp_unit, "temp")
    least, most = RANGES[quantity]
    for value in (low, high):
        if quantity == "temp" and temp_unit == "°C" and most < value <= 110:
            raise Refused(f"{figure(value)} °C cannot be a tank. If °F is meant, write {figure(value)} °F.", quantity)
        if not least <= value <= most:
            raise Refused(f"{LABELS[quantity]} {figure(value)} is not within {least} to {most}.", quantity)
    if quantity not in NITROGEN:
        return Reading(quantity, typed, (low + high) / 2, *_around(quantity, sign, low, high), "", 0.0, 1)
    scale = kit.scale(quantity)
    if kit.kind == "photometer" and not sign:
        spread = 0.05 + 0.08 * (low + high) / 2
        box = (max(0.0, low - spread), high + spread, max(0.0, low - 2 * spread), high + 2 * spread)
    elif sign == "<":
        box = (0.0, high, 0.0, high * 1.5)
    elif sign == ">":
        box = (low, float("inf"), low * 0.7, float("inf"))
    else:
        box = _colour_interval(low, high, scale)
    seen = high / 2 if sign == "<" else (low + high) / 2
    per_n = scale.per_n
    return Reading(
        quantity,
        typed,
        seen / per_n,
        box[0] / per_n,
        _finite(box[1] / per_n),
        box[2] / per_n,
        _finite(box[3] / per_n),
        scale.form,
        kit.misread,
        len(scale.steps),
    )


def interval_text(reading: Reading) -> str:
    """The interval in the kit's own units, as chips show it: '0.13 to 0.38', 'over 6'; a specific gravity in g/kg."""
    if reading.quantity == "salinity" and "sg" in reading.typed:
        return f"{figure(reading.seen)}{NBSP}g/kg"
    per_n = MG_PER_MG_N.get(reading.form, 1.0)
    if reading.quantity not in NITROGEN:
        return ""
    if reading.high is None:
        return f"over {figure(reading.low * per_n, 2)}"
    if reading.low == 0:
        return f"below {figure(reading.high * per_n, 2)}"
    return f"{figure(reading.low * per_n, 2)} to {figure(reading.high * per_n, 2)}"


def reading_words(reading: Reading, units: Units) -> str:
    """'ammonia 0.25', 'temperature 77 °F', as the log book writes it."""
    label = LABELS[reading.quantity]
    if reading.quantity == "temp" and reading.typed[:1] not in "<>":
        return f"{label} {units.temp(reading.seen)}"
    if reading.quantity == "salinity":
        if reading.typed[-1:].isdigit():
            return f"{label} {reading.typed}{NBSP}g/kg"
        return f"{label} {reading.typed} ({figure(reading.seen)}{NBSP}g/kg)"
    if reading.quantity == "kh":
        return f"KH {reading.typed}{NBSP}dKH"
    return f"{label} {reading.typed}"


MOST_TYPED = 80  # characters


def check_reading(reading: Reading) -> None:
    """Raises Refused, naming the quantity, for a reading that `read` could not have made: an import or a damaged file
    may hold anything."""
    q = reading.quantity
    if not isinstance(q, str) or q not in QUANTITIES:
        raise Refused(f"“{str(q)[:40]}” is not a quantity that is read.", "readings")
    if not isinstance(reading.form, str) or (q in NITROGEN and reading.form not in MG_PER_MG_N):
        raise Refused(f"“{str(reading.form)[:40]}” is not a form of {LABELS[q]}.", q)
    if not isinstance(reading.typed, str) or len(reading.typed) > MOST_TYPED:
        raise Refused(f"{LABELS[q]}: what was typed is not text.", q)
    edges = [reading.outer_low, reading.low, reading.seen, reading.high, reading.outer_high]
    told = [e for e in edges if e is not None]
    if not all(map(is_number, told)) or None in edges[:3]:
        raise Refused(f"{LABELS[q]}: an edge of the reading is not a number.", q)
    least, most = RANGES[q]
    if not least <= reading.seen <= most:
        raise Refused(f"{LABELS[q]} {figure(reading.seen)} is not within {least} to {most}.", q)
    if any(a > b + 1e-6 for a, b in zip(told, told[1:], strict=False)) or (q in NITROGEN and reading.low < 0):
        raise Refused(f"{LABELS[q]}: the reading’s edges do not lie around it.", q)
    if not _whole(reading.n_steps) or not 1 <= reading.n_steps <= MOST_STEPS:
        raise Refused(f"{LABELS[q]}: a kit has between 1 and {MOST_STEPS} steps.", q)
    if not is_number(reading.misread) or not 0 <= reading.misread < 1:
        raise Refused(f"{LABELS[q]}: the chance of a misread step lies between 0 and 1.", q)
    if not isinstance(reading.masked, bool):
        raise Refused(f"{LABELS[q]}: masked is yes or no.", q)


def _whole(value: object) -> bool:
    return isinstance(value, int) and not isinstance(value, bool)
