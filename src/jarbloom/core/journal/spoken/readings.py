"""Readings as people say them, in the words of the log line: 'ammonia is down to .25', '0.5 to 1 nitrite', '78 f'."""

from __future__ import annotations

import re
from collections.abc import Callable

from jarbloom.core.journal.kinds.measured import DGH_PER_PPM
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.patterns import regex

Said = str | None
NUM = r"(?:\d+(?:[.,]\d+)?|\.\d+)"
ABOUT = r"(?:about|around|roughly|approximately|approx\.?|some|~|circa|ca\.?|maybe about) ?"
QUANTITY = {
    "ammonia": "am", "am": "am", "nh3": "am", "nh4": "am", "tan": "am", "ammo": "am", "amm": "am", "nitrite": "ni",
    "nitrites": "ni", "ni": "ni", "no2": "ni", "trites": "ni", "nitrate": "na", "nitrates": "na", "na": "na",
    "no3": "na", "trates": "na", "ph": "ph", "kh": "kh", "dkh": "kh", "alk": "kh", "alkalinity": "kh", "temp": "t",
    "temperature": "t", "t": "t", "gh": "gh",
}  # fmt: skip
_Q = "|".join(sorted(QUANTITY, key=len, reverse=True))
_UNIT = (
    r"(?: ?(?:mg/l caco3|meq(?:/l)?|ppm|mg/l|mg per l(?:itre|iter)?|milligrams? per lit(?:re|er)|degrees? ?[cf]\b"
    r"|degrees?|°c|°f|°|c|f|(?:dkh|d?gh)(?! [\d.])))?"
)
_NIL = r"zero|nil|none(?! detected)|none detected|undetectable|naught|nought|clear"
_MOVED = (
    "came|come|comes|gone|went|dropped|drops|fell|falls|rose|climbed|crept|jumped|crashed|spiked|shot|sank|plunged|"
    "slid|crawled|down|up|back|out"
)
# 'up to 2' and 'dropped to 2' tell where it is; 'up 2' and 'dropped 2' by how much, which is no reading
_MOVES = (
    rf"(?:(?:has|have|just|finally|already|all the way|{_MOVED}) )*(?:{_MOVED}) (?:to|at|from(?= \S+ to )"
    r"|(?=\S+ from ))"
)
_IS = (
    rf"(?:(?:level|reading|result|is|was|are|now|at|still|reads?|reading|showed|shows|of|has|have|measured|about"
    rf"|now|finally|already|(?:an? )?{_MOVES}) ?)*"
)
_VALUE = (
    rf"(?:(?P<new>{NUM}) from {NUM}|(?:from )?(?P<was>{NUM}) ?(?:->|=>|→|down to|up to) ?(?P<became>{NUM})"
    rf"|(?:over|more than|above|at least|>) ?(?P<low>{NUM})|(?:under|less than|below|<|not above) ?(?P<high>{NUM})"
    rf"|(?P<more>{NUM})\+|(?:(?:somewhere )?(?:between |from ))?(?P<a>{NUM}) and (?P<b>{NUM})"
    rf"|(?:(?:somewhere )?(?:from |between ))?(?P<c>{NUM}) ?(?:to|-|–|/|or|,? ?maybe) ?(?P<d>{NUM})"
    rf"|(?P<nil>{_NIL})|(?:{ABOUT})?(?P<plain>{NUM})(?: or so| ish|ish)?)"
)
# What can stand behind a reading; hardness in mg/L is of calcium carbonate (docs/science.md, units)
UNITS_OF = {"am": ("ppm", "mg/l"), "ni": ("ppm", "mg/l"), "na": ("ppm", "mg/l"), "ph": (),
             "t": ("c", "f", "degree", "degrees", "degreec", "degreef", "degreesc", "degreesf"),
             "kh": ("dkh", "degree", "degrees", "ppm", "mg/l", "mg/lcaco", "meq/l", "meq"),
             "gh": ("dgh", "gh", "ppm", "mg/l")}  # fmt: skip
_LONG_Q = "|".join(q for q in sorted(QUANTITY, key=len, reverse=True) if len(q) > 3 or q in ("ph", "kh", "gh"))
_ENDS = r"(?=[ ,]|$)"
_READING = regex(
    rf"(?:the |and |an? |my )?(?P<q>{_Q})(?:'s)?"
    rf"(?: level| reading| test(?! at)| is on)?(?:[ :=]+|(?=[.\d])|\s-\s)*{_IS}"
    rf"{_VALUE}(?P<unit>{_UNIT}){_ENDS}"
)
_TURNED = regex(rf"(?:and |still )?{_VALUE}(?P<unit>{_UNIT})(?: of)? (?P<q>{_LONG_Q}){_ENDS}")
_SHORT_TURNED = regex(rf"(?:and )?{_VALUE}(?P<unit>)() (?P<q>{_Q}){_ENDS}")
NONE_OF = regex(r"(?:and )?no (ammonia|nitrites?|nitrates?)(?=[ ,]|$)")
_FROM_TO = regex(r"\b(?:came|gone|went|dropped|fell|rose|climbed|crept|jumped|down|up)\b.* from \S+ to ")
_IN_QUARTERS = regex(
    rf"(?:ammonia|nitrite|am|ni) {_IS}(?:(?:under|over|below|above|about) )*(?:an? |3 )?(?:quarters?|half)\b(?! of| "
    r"the)"
)
_PAIRED = regex(
    rf"((?:{_Q})(?:(?:,? (?:and |& )?| ?/ ?)(?:{_Q}))+)(?: (?:is|are|at|were))?[:= ]+({NUM}(?:(?:,? (?:and |& )?"
    rf"| ?/ ?){NUM})+)"
)
_BOTH = regex(
    rf"(?:tested |both )?(?P<q>{_Q}),? (?:and|&) (?P<r>{_Q})(?: (?:are|were|is|both|at|all|still|now|finally|"
    rf"back))* {_VALUE}(?P<unit>{_UNIT})"
)
_ZEROS = regex(
    rf"all (?:zeros?|0s?|clear)(?:,? (?:except|but|only|and) (?:for )?(?:the )?(?:no3|nitrates?) (?:at |is )?({NUM}))"
)
# Behind a reading these turn nothing
_TAIL = regex(
    r"(?: (?:in there|now|again|today|still|already|overnight|too|as well|this time|at last|for the (?:second|2nd"
    r"|third|3rd) "
    r"(?:day|time)(?: running| in a row)?|hard to tell|when i got home|"
    r"(?:an hour |\d+ ?(?:h|hours?|min(?:utes?)?) )?after (?:the )?(?:feeding|water change|change|dose|dosing)|"
    r"with the heater set (?:at|to) \d+|"
    r"(?:in|of) (?:the |my )?(?:tank|aquarium)(?: water)?))+$"
)
_LEAD = regex(
    r"^(?:(?:checked|water|re-?tested|tested|tests?|readings?|results?|measured|everything|in the tank|the tank|tank|"
    r"sump|hardness|reads|the tank is|tank is|"
    r"tank'?s at|it'?s|it is|guess what|come on|looks like|shows)[ :,]+)+"
)


def quarters(text: str) -> str:
    """Quarters and halves of a reading in figures: 'nitrite is a quarter'."""
    if not _IN_QUARTERS.match(text):
        return text
    return re.sub(r"\b(?:an? )?(half|quarter)\b", lambda m: {"half": "0.5", "quarter": "0.25"}[m[1]],
                  text.replace("3 quarters", "0.75"))  # fmt: skip


def _reading(m: re.Match[str]) -> Said:
    q = QUANTITY[m["q"]]
    unit = re.sub(r"m(?:illi)?g(?:ram)?s?perl.*", "mg/l", re.sub(r"[^a-z/]", "", m["unit"] or ""))
    value = _value(m)
    if _FROM_TO.search(m[0]) and m["d"]:
        value = m["d"]  # it has moved, and is there now
    if value is None or (unit and unit not in UNITS_OF[q]):
        return None
    if q in ("kh", "gh") and unit in ("ppm", "mg/l", "mg/lcaco", "meq/l", "meq"):
        if not re.fullmatch(NUM, value) or "," in value:
            return None
        return f"{q} {float(value) * (1 / MEQ_PER_DKH if unit.startswith('meq') else DGH_PER_PPM):.2f}"
    unit = unit.removeprefix("degrees").removeprefix("degree")
    return f"{q} {value}{f' {unit}' if q == 't' and unit in ('c', 'f') else ''}"


def none_read(hit: re.Match[str]) -> str:
    """'no nitrite' of NONE_OF as a zero; it is one only beside other readings."""
    return f"{QUANTITY[hit[1]]} 0"


def _row(piece: str) -> Said:
    """Several readings without a comma between them: 'ammonia 0.5 nitrite 1', '0.25 ammonia 1 nitrite'."""
    for one in (_READING, _TURNED, _SHORT_TURNED):
        told, rest, nils = [], piece, 0
        while rest:
            hit = one.match(rest)
            said = _reading(hit) if hit is not None else None
            if hit is None and (hit := NONE_OF.match(rest)) is not None:  # 'no ammonia no nitrite nitrate 15'
                said = none_read(hit)
                nils += 1
            if hit is None or said is None:
                break
            told.append(said)
            rest = re.sub(r"^(?:and|but|while)(?= )", "", rest[hit.end() :].lstrip(" ,")).lstrip()
        if told and not rest and (len(told) > 1 or (one is not _SHORT_TURNED and not nils)):
            return " ".join(told)
    return None


def _value(m: re.Match[str]) -> Said:
    told = m.groupdict()
    if told.get("became") or told.get("new"):
        return str(told["became"] or told["new"])
    if told.get("nil"):
        return "0"
    if told.get("low"):
        return f">{told['low']}"
    if told.get("more"):
        return f">{told['more']}"
    if told.get("high"):
        return f"<{told['high']}"
    for a, b in (("a", "b"), ("c", "d")):
        if told.get(a):
            return _between(told[a], told[b]) if told[a] != told[b] else str(told[a])
    return str(told["plain"])


def _between(a: str, b: str) -> str:
    low, high = sorted((a, b), key=lambda t: float(t.replace(",", ".")))
    return f"{low}-{high}"


def _both(m: re.Match[str]) -> Said:
    value = _value(m)
    return None if value is None else f"{QUANTITY[m['q']]} {value} {QUANTITY[m['r']]} {value}"


def _degrees(m: re.Match[str]) -> str:
    unit = re.sub(r"[^cf]", "", (m[2] or "").replace("degrees", "").replace("degree", ""))
    return f"t {m[1]} {unit}".strip()


_TABLE: tuple[tuple[re.Pattern[str], Callable[[re.Match[str]], Said]], ...] = tuple(
    (regex(pattern), plain)
    for pattern, plain in (
        (r"(?:sg|specific gravity|sal|salinity)[ :]*(?:is |of |at )?(1\.0\d{1,2})(?: sg)?", lambda m: f"sal {m[1]} sg"),
        (r"(?:sg|specific gravity) (?:is )?1 ?0(\d\d)", lambda m: f"sal 1.0{m[1]} sg"),
        (r"(?:sg|specific gravity) (?:is )?10 (2\d)", lambda m: f"sal 1.0{m[1]} sg"),
        (r"(?:is |at )?(1\.0[12]\d)", lambda m: f"sal {m[1]} sg"),
        (rf"(?:sal|salinity)[ :]*(?:is |of |at )?({NUM}) ?(?:ppt|psu|g/kg|parts per thousand)",
         lambda m: f"sal {m[1]}"),
        (rf"({NUM}) ?(?:ppt|psu|g/kg|parts per thousand)", lambda m: f"sal {m[1]}"),
        (rf"(?:temp(?:erature)?(?: was| is| of| at)? |water (?:at |is )?)?({NUM}) ?"
         rf"(degrees?(?: ?[cf]\b)?|°c|°f|°|c|f)(?: in (?:the )?tank)?", _degrees),
        (rf"(?P<q>am|ni|na|ammonia|nitrite|nitrate) (?:is |looks |was )?(?:a bit |rather )?closer to ({NUM}) than "
         rf"(?:to )?({NUM})", lambda m: f"{QUANTITY[m['q']]} {_between(m[2], m[3])}"),
        (rf"room (?:is |at )?{NUM}(?: ?c)?,? (?:the )?tank (?:is |at )?({NUM})(?: ?c)?", lambda m: f"t {m[1]}"),
        (r"ph (?:is |was |at )?([5-9]) (\d)", lambda m: f"ph {m[1]}.{m[2]}"),
        (r"(?:the )?water(?:'s| is| was)(?: at)? (1[5-9](?:\.\d)?|2\d(?:\.\d)?|3[0-5](?:\.\d)?)(?: ?(degrees?"
         r"|c))?", _degrees),
        (rf"(?:temp(?:erature)?|t|tank'?s) (?:was |is |at )*({NUM})(?: ?(degrees?|f|c))?", _degrees),
    )
)  # fmt: skip


def paired(text: str) -> Said:
    """'ammonia, nitrite, nitrate: 0, 0.5, 20': as many values as names, in their order."""
    hit = _PAIRED.fullmatch(text)
    if hit is None:
        return None
    names, values = re.findall(rf"\b(?:{_Q})\b", hit[1]), re.findall(NUM, hit[2])
    if len(names) != len(values):
        return None
    return " ".join(f"{QUANTITY[q]} {v}" for q, v in zip(names, values, strict=True))


def readings(piece: str) -> Said:
    """The piece in the shorthand where it is one or several readings and nothing else."""
    for text in dict.fromkeys((piece, _TAIL.sub("", _LEAD.sub("", piece)))):
        text = text.strip(" ,")
        row = _row(quarters(text))
        if row is not None:
            return row
        if (both := _BOTH.fullmatch(text)) is not None:
            return _both(both)
        if (zeros := _ZEROS.fullmatch(text)) is not None:
            return f"am 0 ni 0 na {zeros[1]}"
        for pattern, plain in _TABLE:
            hit = pattern.fullmatch(text)
            if hit is not None:
                return plain(hit)
    return None
