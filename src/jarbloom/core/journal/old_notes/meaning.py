"""What a column of old notes can mean, and what its heading and its cells make of it."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from jarbloom.core.journal.old_notes.days import reads_as_day, reads_as_time
from jarbloom.core.model.kit import Kit


@dataclass(frozen=True)
class Meaning:
    """`key`: as the form sends it; `unit`: what its numbers count, '' where they have none."""

    key: str
    label: str
    what: str  # day, time, quantity, measured, amount, words, skip
    unit: str = ""


def _forms(quantity: str, label: str, forms: Sequence[str]) -> list[Meaning]:
    return [Meaning(f"{quantity}:{f}", f"{label}, mg/L as {f}", "quantity", f) for f in forms]


MEANINGS: Mapping[str, Meaning] = {
    m.key: m
    for m in (
        Meaning("skip", "leave out", "skip"), Meaning("day", "day", "day"), Meaning("time", "time of day", "time"),
        *_forms("ammonia", "ammonia", ("N", "NH3", "NH4")), *_forms("nitrite", "nitrite", ("N", "NO2")),
        *_forms("nitrate", "nitrate", ("N", "NO3")), Meaning("ph", "pH", "quantity"),
        Meaning("kh:dKH", "KH, dKH", "quantity", "dKH"), Meaning("kh:ppm", "KH, ppm", "quantity", "ppm"),
        Meaning("temp:°C", "temperature, °C", "quantity", "°C"),
        Meaning("temp:°F", "temperature, °F", "quantity", "°F"),
        Meaning("salinity:g/kg", "salinity, g/kg", "quantity", "g/kg"),
        Meaning("salinity:sg", "salinity, specific gravity", "quantity", "sg"),
        Meaning("gh", "GH, dGH", "measured"), Meaning("phosphate", "phosphate, mg/L", "measured"),
        Meaning("calcium", "calcium, mg/L", "measured"), Meaning("magnesium", "magnesium, mg/L", "measured"),
        Meaning("tds", "TDS, mg/L", "measured"), Meaning("oxygen", "oxygen, mg/L", "measured"),
        Meaning("copper", "copper, mg/L", "measured"),
        Meaning("change:L", "water changed, L", "amount", "L"),
        Meaning("change:gal", "water changed, gal", "amount", "gal"),
        Meaning("change:%", "water changed, %", "amount", "%"), Meaning("topoff:L", "topped up, L", "amount", "L"),
        Meaning("feed:g", "food, g", "amount", "g"), Meaning("words", "what was done, in own words", "words"),
        Meaning("note", "a note", "words"),
    )
}  # fmt: skip

# Words of a heading, in the order in which they are looked for
_HEADS: Sequence[tuple[str, str]] = (
    (r"\b(date|day|datum|when)\b", "day"), (r"\b(time|uhr|zeit|hour)\b", "time"),
    (r"nitrite|\bno2\b|nitrit\b", "nitrite"), (r"nitrate|\bno3\b|nitrat\b", "nitrate"),
    (r"ammoni|\bnh[34]\b|\btan\b", "ammonia"), (r"\bph\b", "ph"), (r"\b(kh|dkh|alk|alkalinity)\b", "kh"),
    (r"\b(gh|dgh)\b", "gh"), (r"temp|°[cf]|\bdeg", "temp"), (r"salin|\bsg\b|gravity|\bppt\b", "salinity"),
    (r"phosphat|\bpo4\b", "phosphate"), (r"calcium|\bca\b", "calcium"), (r"magnesium|\bmg\b(?!/)", "magnesium"),
    (r"\btds\b", "tds"), (r"oxygen|\bo2\b", "oxygen"), (r"copper|\bcu\b", "copper"),
    (r"\bwc\b|water ?change|changed|\bchange\b|wasserwechsel", "change"), (r"top ?(off|up)|topped", "topoff"),
    (r"\b(fed|food|feed)", "feed"), (r"did|done|action|event|activity|maintenance|what", "words"),
    (r"note|comment|remark|bemerk|notiz", "note"),
)  # fmt: skip


def guess(head: str, cells: Sequence[str], kit: Kit) -> str:
    """The key of the meaning that a heading and its cells suggest; 'skip' where nothing does."""
    told, filled = head.lower(), [c for c in cells if c]
    kind = next((kind for pattern, kind in _HEADS if re.search(pattern, told)), "")
    if not kind and filled:
        days = sum(reads_as_day(c) for c in filled[:50])
        if days >= 0.8 * min(len(filled), 50):
            kind = "day"
        elif sum(reads_as_time(c) for c in filled[:50]) >= 0.8 * min(len(filled), 50):
            kind = "time"
        elif sum(len(c) > 6 and not c[0].isdigit() for c in filled[:50]) >= 0.5 * min(len(filled), 50):
            kind = "note"
    return _with_unit(kind, told, filled, kit) if kind else "skip"


def _with_unit(kind: str, head: str, cells: Sequence[str], kit: Kit) -> str:
    numbers = [float(m[0].replace(",", ".")) for c in cells if (m := re.search(r"\d+(?:[.,]\d+)?", c))]
    middle = sorted(numbers)[len(numbers) // 2] if numbers else 0.0
    if kind in ("ammonia", "nitrite", "nitrate"):
        if re.search(r"-n\b|as n\b|\bn\)|no3n|no2n|nh3n", head):
            return f"{kind}:N"
        form = re.search(r"nh4|nh3|no2|no3", head)
        stated = form[0].upper() if form else kit.scale(kind).form
        return f"{kind}:{stated}" if f"{kind}:{stated}" in MEANINGS else f"{kind}:{kit.scale(kind).form}"
    if kind == "temp":
        return "temp:°F" if re.search(r"°?f\b|fahrenheit", head.replace("of", "")) or middle > 50 else "temp:°C"
    if kind == "kh":
        return "kh:ppm" if "ppm" in head or "mg" in head or middle > 40 else "kh:dKH"
    if kind == "salinity":
        return "salinity:sg" if 0.99 < middle < 1.2 else "salinity:g/kg"
    if kind == "change":
        if "%" in head or "percent" in head or any("%" in c for c in cells):
            return "change:%"
        if not numbers:
            return "words"
        return "change:gal" if "gal" in head or any("gal" in c.lower() for c in cells) else "change:L"
    if kind in ("topoff", "feed"):
        return ("topoff:L" if kind == "topoff" else "feed:g") if numbers else "words"
    return kind
