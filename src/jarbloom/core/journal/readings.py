"""From what was seen on a kit to an interval: readings are colour steps, not numbers."""

from __future__ import annotations

import re
from dataclasses import replace

from jarbloom.core.model.kit import MG_PER_MG_N, NITROGEN, Kit, Reading, Scale
from jarbloom.core.water.salinity import read_salinity
from jarbloom.errors import Refused
from jarbloom.units import canonical, figure, number

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
_MASKED = re.compile(rf"\s+{MASKED}$", re.IGNORECASE)
_SPAN = re.compile(r"^\s*([<>]?)\s*([0-9.,]+)\s*(?:(?:-|–|to|\.\.)\s*([0-9.,]+))?\s*$")


def _edges(steps: tuple[float, ...]) -> list[float]:
    """Borders between neighbouring steps: 0, the midpoints, infinity."""
    mids = [(a + b) / 2 for a, b in zip(steps, steps[1:], strict=False)]
    return [0.0, *mids, float("inf")]


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


def _finite(value: float) -> float | None:
    return None if value == float("inf") else value


def _span(quantity: str, typed: str) -> tuple[str, float, float]:
    found = _SPAN.match(typed)
    if not found:
        raise Refused(f"“{typed[:40]}” is not a {LABELS[quantity]} reading.", quantity)
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
        value, _ = read_salinity(typed, quantity)
        half = _HALF_WIDTH[quantity]
        box = (value - half, value + half, value - 2 * half, value + 2 * half)
        return Reading(quantity, typed, value, *box, form="", misread=0.0, n_steps=1)
    sign, low, high = _span(quantity, typed)
    if quantity == "temp":
        typed = f"{typed} {temp_unit}"
        low, high = canonical(low, temp_unit, "temp"), canonical(high, temp_unit, "temp")
    least, most = RANGES[quantity]
    for value in (low, high):
        if not least <= value <= most:
            raise Refused(f"{LABELS[quantity]} {figure(value)} is not within {least} to {most}.", quantity)
    if quantity not in NITROGEN:
        half = _HALF_WIDTH[quantity]
        return Reading(
            quantity,
            typed,
            (low + high) / 2,
            low - half,
            high + half,
            low - 2 * half,
            high + 2 * half,
            form="",
            misread=0.0,
            n_steps=1,
        )
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
    """The interval in the kit's own units, as chips show it: '0.13 to 0.38', 'over 6'."""
    per_n = MG_PER_MG_N.get(reading.form, 1.0)
    if reading.quantity not in NITROGEN:
        return ""
    if reading.high is None:
        return f"over {figure(reading.low * per_n, 2)}"
    if reading.low == 0:
        return f"below {figure(reading.high * per_n, 2)}"
    return f"{figure(reading.low * per_n, 2)} to {figure(reading.high * per_n, 2)}"


def reads_as_zero(reading: Reading) -> bool:
    """True when the lowest colour step was seen: below the kit's resolution, not proof of nothing."""
    return reading.low == 0.0
