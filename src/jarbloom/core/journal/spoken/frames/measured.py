"""What was read on a kit or a thermometer."""

from __future__ import annotations

import re

from jarbloom.core.journal.spoken.frames.frame import PASSIVE, Frame, Parts
from jarbloom.core.journal.spoken.readings import NUM, QUANTITY, UNITS_OF, Said

_LONG = r"ammonia|nitrites?|nitrates?|ph|kh|gh|alkalinity"
_VALUE = rf"(?:(?:somewhere )?(?:about|around|roughly) |(?:under|below|less than|<) ?)?{NUM}|zero|nil|undetectable"
_SHOWS = (
    r"of|still|reads|reading of|shows|showed|says|said|tests|tested|measures|measured|checks in at|"
    r"came (?:back|out|in)(?: as| at)?|comes (?:back|out|in)(?: as| at)?|level|result|value|spike(?: of)?|peak of|"
    r"i get|i got|got|get|"
    r"back (?:to|at)|stable|steady|unchanged|both"
)
_MOVED = (
    r"(?:(?:has|have|is|are|slightly|a bit|a little) )*(?:risen|climbed|dropped|fallen|fell|gone|went|rose|crept|"
    r"come|came|moved|up|down|"
    r"sunk|sank)"
    r"(?: back)?(?: up| down)?(?: again)? to"
)


def _value(text: str) -> str:
    text = re.sub(r"^(?:somewhere )?(?:about|around|roughly) ", "", text)
    low = text.replace("under", "<").replace("below", "<").replace("less than", "<").replace(" ", "")
    return "0" if low in ("zero", "nil", "undetectable") else low


def _read(told: Parts) -> Said:
    if "quantity" not in told or "value" not in told:
        return None
    if "for" in told and list(told).index("value") > list(told).index("quantity"):
        return None  # 'ammonia for 2 ppm' is a bottle
    quantity = QUANTITY[told["quantity"]]
    if "trend" in told and not {"now", "at"} & set(told):
        return None  # 'nitrite dropping 0.5': by how much, or to what?
    if {"at", "test"} <= set(told) or told.get("unit") not in (None, *UNITS_OF[quantity]):
        return None  # 'ammonia test at 8' is an hour
    return f"{quantity} {_value(told['value'])}"


READ = Frame(
    _LONG,
    _read,
    {
        "quantity": _LONG,
        "value": _VALUE,
        "unit": r"(?:ppm|mg/l|dkh|degrees)",
        "moved": _MOVED,
        "from": rf"from {NUM}",
        "for": "for|on",
        "at": "at|as",
        "test": "test",
        "now": "now",
        "trend": r"(?:going|gone|heading) (?:up|down)|climbing|rising|falling|holding|dropping",
        "where": r"in (?:the|my) tank",
    },
    more=rf"{PASSIVE}|{_SHOWS}",
)


def _neither(told: Parts) -> Said:
    return (
        f"{QUANTITY[told['one']]} 0 {QUANTITY[told['other'].split()[-1]]} 0"
        if {"one", "other", "no"} <= set(told)
        else None
    )


_N = r"ammonia|nitrites?|nitrates?"
NEITHER = Frame(
    r"no|neither",
    _neither,
    {"no": r"no|neither", "one": rf"(?:{_N})", "other": rf"(?:and no|or|nor|and) (?:{_N})"},
    more=rf"{PASSIVE}|detected|detectable",
)


def _warm(told: Parts) -> Said:
    if not {"value", "of"} <= set(told) or not ("unit" in told or re.search(r"therm|temp", told["of"])):
        return None
    unit = told.get("unit", "").replace("degrees", "").replace("degree", "").replace("°", "").strip()[:1]
    return f"t {told['value']} {unit}".strip()


WARM = Frame(
    r"tank|water|temp|temperature|thermometer|it's|degrees|aquarium",
    _warm,
    {
        "of": r"(?:the )?temperature of the (?:water|tank)|(?:the |my |tank |water )*(?:temp(?:erature)?|thermometer|"
        r"tank|aquarium|water)|it's|it is",
        "value": NUM,
        "unit": r"degrees?(?: ?[cf]| celsius| fahrenheit)?|°[cf]?|[cf]",
        "shows": r"at|reads|reading|shows|showed|says|said|still|in|steady|stable",
        "where": r"in (?:the|my) (?:tank|aquarium|water)",
    },
)
SALT = Frame(
    r"salinity|specific gravity|sg",
    lambda told: f"sal {told['value']}" if "value" in told and "of" in told else None,
    {"of": r"salinity|specific gravity|sg", "value": r"1\.0\d{1,2}|[23]\d(?:\.\d)?", "moved": _MOVED,
     "unit": r"ppt|psu|g/kg"},
    more=rf"{PASSIVE}|at|{_SHOWS}",
)  # fmt: skip
