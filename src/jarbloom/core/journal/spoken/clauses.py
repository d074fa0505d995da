"""What is said of one thing, in the words of the log line: a reading, a change, animals that came or died, and so on.

Each way of saying it is a pattern that has to hold every word; what is left over is not understood here and is asked
about. A pattern that could mean two things has no place in this table.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from jarbloom.core.journal.kinds.measured import DGH_PER_PPM

NUM = r"(?:\d+(?:[.,]\d+)?|\.\d+)"
NAME = r"[a-z][a-z' -]{2,40}?"
_QUANTITY = {
    "ammonia": "am", "am": "am", "nh3": "am", "nh4": "am", "tan": "am", "nitrite": "ni", "nitrites": "ni", "ni": "ni",
    "no2": "ni", "nitrate": "na", "nitrates": "na", "na": "na", "no3": "na", "ph": "ph", "kh": "kh", "dkh": "kh",
    "alk": "kh", "alkalinity": "kh", "temp": "t", "temperature": "t", "t": "t", "gh": "gh",
}  # fmt: skip
_Q = "|".join(sorted(_QUANTITY, key=len, reverse=True))
_UNIT = r"(?: ?(?:ppm|mg/l|mg per l(?:itre|iter)?|degrees?|°c|°f|°|c|f|dkh|d?gh))?"
_NIL = r"zero|nil|none detected|undetectable|naught|nought|clear"
_ABOUT = r"(?:about|around|roughly|approximately|approx\.?|some|~|circa|ca\.?) ?"
_IS = r"(?:(?:level|reading|is|was|are|now|still|reads?|showed|shows|of|came out|comes out|down to|up to|back to) )*"
_VALUE = (
    rf"(?:(?P<over>over|more than|above|at least|>) ?(?P<low>{NUM})|(?P<under>under|less than|below|<) ?(?P<high>{NUM})"
    rf"|(?P<more>{NUM})\+|between (?P<a>{NUM}) and (?P<b>{NUM})|(?P<c>{NUM}) ?(?:to|-|–|/) ?(?P<d>{NUM})"
    rf"|(?P<nil>{_NIL})|(?:{_ABOUT})?(?P<plain>{NUM})(?: or so| ish|ish)?)"
)
_AMOUNTS = {"half": "50", "a half": "50", "a third": "33.3", "one third": "33.3", "a quarter": "25",
            "quarter": "25", "third": "33.3", "2 thirds": "66.7", "3 quarters": "75", "a fifth": "20",
            "a tenth": "10"}  # fmt: skip
_SHARE = "|".join(re.escape(k) for k in sorted(_AMOUNTS, key=len, reverse=True))
_LITRES = r"(?:l|litres?|liters?|gal|gallons?|ml)"
_OF_WATER = r"(?: of)?(?: the| its| tank| old)*(?: water| tank)?"
_FOOD = (
    r"(?:flakes?|pellets?|granules?|frozen|live|dry|food|bloodworms?|brine shrimp|daphnia|artemia|wafers?|algae|cubes?)"
)
_DEVICE = r"(skimmer|uv|u v|carbon|ozone|pump|filter)(?: lamp| sterili[sz]er)?"

Said = str | None


# What can stand behind a reading; hardness in mg/L is of calcium carbonate (docs/science.md, units)
_UNITS_OF = {"am": ("ppm", "mg/l"), "ni": ("ppm", "mg/l"), "na": ("ppm", "mg/l"), "ph": (),
             "t": ("c", "f", "degree", "degrees"), "kh": ("dkh", "ppm", "mg/l"),
             "gh": ("dgh", "gh", "ppm", "mg/l")}  # fmt: skip


def _reading(m: re.Match[str]) -> Said:
    q = _QUANTITY[m["q"]]
    unit = re.sub(r"mgperl.*", "mg/l", re.sub(r"[^a-z/]", "", m["unit"] or ""))
    value = _value(m)
    if value is None or (unit and unit not in _UNITS_OF[q]):
        return None
    if q in ("kh", "gh") and unit in ("ppm", "mg/l"):
        return f"{q} {float(value) * DGH_PER_PPM:.2f}" if re.fullmatch(NUM, value) and "," not in value else None
    return f"{q} {value}{f' {unit}' if unit in ('c', 'f') else ''}"


def _row(piece: str) -> Said:
    """Several readings without a comma between them: 'ammonia 0.5 nitrite 1', '0.25 ammonia 1 nitrite'."""
    for one in (_READING, _TURNED):
        told, rest = [], piece
        while rest:
            hit = one.match(rest)
            said = _reading(hit) if hit is not None else None
            if hit is None or said is None:
                break
            told.append(said)
            rest = rest[hit.end() :].lstrip(" ,")
        if told and not rest:
            return " ".join(told)
    return None


def _value(m: re.Match[str]) -> Said:
    if m["nil"]:
        return "0"
    if m["over"]:
        return f">{m['low']}"
    if m["more"]:
        return f">{m['more']}"
    if m["under"]:
        return f"<{m['high']}"
    for a, b in (("a", "b"), ("c", "d")):
        if m[a]:
            low, high = sorted((m[a], m[b]), key=lambda t: float(t.replace(",", ".")))
            return f"{low}-{high}" if low != high else low
    return str(m["plain"])


def _both(m: re.Match[str]) -> Said:
    value = _value(m)
    return None if value is None else f"{_QUANTITY[m['q']]} {value} {_QUANTITY[m['r']]} {value}"


def _degrees(m: re.Match[str]) -> str:
    unit = re.sub(r"[^cf]", "", m[2] or "")
    return f"t {m[1]} {unit}".strip()


def _changed(m: re.Match[str]) -> str:
    return f"wc {_amount(m['amount'])}"


def _amount(text: str) -> str:
    if text in _AMOUNTS:
        return f"{_AMOUNTS[text]}%"
    return re.sub(r" ?(?:percent|per cent|pct|%)", "%", text)


def _animals(word: str) -> Callable[[re.Match[str]], Said]:
    def told(m: re.Match[str]) -> Said:
        count = m["n"] if m["n"] and m["n"].isdigit() else ("1" if m["n"] else "")
        if m["n"] in ("a", "an", "the", "my", "another") and m["name"].endswith("s"):
            return None  # 'the rasboras died': how many?
        return f"{word} {count} {m['name']}".replace("  ", " ")

    return told


_AMOUNT = rf"(?:{_ABOUT})?(?P<amount>{NUM} ?(?:%|percent|per cent|pct)|{NUM} ?{_LITRES}|(?:{_SHARE})\b)"
_N = r"(?P<n>\d{1,3}|one of the|a|an|one|the|another|my)"
_WHO = rf"(?P<name>{NAME})"
_DONE = r"(?: (?:done|today|now|again|just now|already))*"
_LONG_Q = "|".join(q for q in sorted(_QUANTITY, key=len, reverse=True) if len(q) > 3 or q in ("ph", "kh", "gh"))
_ENDS = r"(?=[ ,]|$)"
_READING = re.compile(
    rf"(?:the |and )?(?P<q>{_Q})(?: level| reading)?(?:[ :=]+|(?=[.\d]))*{_IS}{_VALUE}(?P<unit>{_UNIT}){_ENDS}"
)
_TURNED = re.compile(rf"(?:and )?{_VALUE}(?P<unit>{_UNIT})(?: of)? (?P<q>{_LONG_Q}){_ENDS}")
_TABLE: tuple[tuple[str, Callable[[re.Match[str]], Said]], ...] = (
    (r"(?:sg|specific gravity)[ :]*(?:is |of |at )?(1\.0\d{1,2})(?: sg)?", lambda m: f"sal {m[1]} sg"),
    (rf"(?:sal|salinity)[ :]*(?:is |of |at )?({NUM}) ?(?:ppt|psu|g/kg|parts per thousand)", lambda m: f"sal {m[1]}"),
    (rf"(?:tested )?(?P<q>{_Q}),? (?:and|&) (?P<r>{_Q})(?: (?:are|were|is|both|at|all))* {_VALUE}{_UNIT}", _both),
    (rf"(?:temp(?:erature)? )?({NUM}) ?(degrees?(?: ?[cf]\b)?|°c|°f|°|c|f)", _degrees),
    (rf"(?:(?:did|made|had|gave it|gave them|gave the tank) )?(?:a )?{_AMOUNT}{_OF_WATER} ?"
     rf"(?:water ?change|wc|changed?|swapped){_DONE}", _changed),
    (rf"(?:did a |did |a )?(?:water ?changed?|wc|changed?|swapped(?: out)?|exchanged){_DONE} ?"
     rf"(?:of |out )?{_AMOUNT}{_OF_WATER}{_DONE}", _changed),
    (r"(\d+) ?(?:l|litres?|liters?) out,? ?(?:and )?(\d+) ?(?:l|litres?|liters?) in",
     lambda m: f"wc {m[1]} l" if m[1] == m[2] else None),
    (rf"(\d{{1,2}}) (?:buckets?|jugs?|cans?) of ({NUM}) ?(?:l|litres?|liters?)(?: of water)? (?:changed|out)",
     lambda m: f"wc {int(m[1]) * float(m[2].replace(',', '.')):g} l"),
    (rf"(?:topped|top)(?: it| them)?[ -]?(?:up|off)(?: it)?(?: with| by)?(?: {_ABOUT[:-2]})? ?({NUM}) ?({_LITRES})"
     r"(?: of)?(?: fresh| ro| water| distilled)*", lambda m: f"top {m[1]} {m[2]}"),
    (rf"(?:found )?{_N} (?:dead )?{_WHO} (?:has |have |is |are |were |was |just )?(?:died|dead|passed away|found dead)",
     _animals("dead")),
    (rf"{_WHO}(?P<n>) (?:has |is |was |just )?(?:died|dead|passed away)", _animals("dead")),
    (rf"(?:found|lost|rip|r\.i\.p\.?)(?: {_N})? dead {_WHO}", _animals("dead")),
    (rf"(?:lost|rip|r\.i\.p\.?|dead|died:?)(?: {_N})? {_WHO}", _animals("dead")),
    (rf"(?:added|put in|introduced|got|in|\+) ?(?P<n>\d{{1,3}}) (?:more |new )?{_WHO}(?: in)?", _animals("in")),
    (rf"(?P<n>\d{{1,3}}) (?:more |new )?{_WHO} (?:in|added|arrived|went in|came in|introduced)(?: the tank)?",
     _animals("in")),
    (rf"(?P<n>\d{{1,3}}) new {_WHO}", _animals("in")),
    (rf"released (?P<n>\d{{1,3}}) {_WHO} into the tank", _animals("in")),
    (rf"(?:counted|saw all|count(?:ed)?:?) (?P<n>\d{{1,3}}) {_WHO}", _animals("counted")),
    (rf"fed (?:the |them |all |my )*({NUM}) ?g(?:rams?)?(?: of)?(?: (?:dry )?(?:flakes?|pellets?|granules?|food))?",
     lambda m: f"fed {m[1]} g"),
    (rf"(?:fed|gave)(?: (?:the fish|fish|them|the tank|everyone|all|their|the|some|a|little|small|usual|normal|"
     rf"ration|pinch|of|as usual|\d{{1,2}} {_FOOD}|{_FOOD}|and|with))*", lambda m: "fed" if _fed(m[0]) else None),
    (rf"(?:turned |switched |put )?(?:the )?{_DEVICE} (?:is |was |turned |switched |back )*(on|off)(?: again)?"
     rf"(?: for (\d{{1,2}}) days?)?", lambda m: _switched(m[1], m[2], m[3])),
    (rf"(?:turned|switched|switch|turn)(?: back)? (on|off) (?:the )?{_DEVICE}(?: again)?(?: for (\d{{1,2}}) days?)?",
     lambda m: _switched(m[2], m[1], m[3])),
    (rf"(?:the )?(?:power|electricity)(?: was| went)? ?(?:out|off|cut|outage|down|failure)(?: for)? ({NUM}) ?"
     r"(?:h|hrs?|hours?)", lambda m: f"power {m[1]} h"),
    (rf"no (?:power|electricity)(?: for)? ({NUM}) ?(?:h|hrs?|hours?)", lambda m: f"power {m[1]} h"),
    (r"(?:rinsed|cleaned|squeezed|washed)(?: out)?(?: the| my| both| all)*(?: filter)?"
     r"(?: sponges?| filter| media| foams?)(?: out)? in (?:a bucket of |some |old |the )*(?:tank|aquarium) water",
     lambda m: "media tank"),
    (r"(?:rinsed|cleaned|washed)(?: out)?(?: the| my| both| all)*(?: filter)?(?: sponges?| filter| media| foams?)"
     r"(?: out)? (?:under the tap|in tap water|with tap water|under tap water)", lambda m: "media tap"),
    (rf"(?:added |dosed |put in )?(?:conditioner|dechlorinator) ({NUM}) ?ml", lambda m: f"cond {m[1]} ml"),
    (rf"(?:added |dosed |put in )?(?:bottled )?bacteria ({NUM}) ?ml", lambda m: f"bac {m[1]} ml"),
    (rf"(?:added |dosed )?({NUM}) ?ml (?:of )?(?:conditioner|dechlorinator)", lambda m: f"cond {m[1]} ml"),
    (rf"(?:added |dosed )?({NUM}) ?ml (?:of )?(?:bottled )?bacteria(?: (?:to|into|in) the (?:filter|tank))?",
     lambda m: f"bac {m[1]} ml"),
    (rf"dosed? ({NUM}) ?(?:mg/l|ppm|milligrams? per lit(?:re|er))(?: of)?(?: ammonia)?", lambda m: f"dose {m[1]} mg/l"),
)  # fmt: skip
_COMPILED = tuple((re.compile(pattern), plain) for pattern, plain in _TABLE)
_QUARTERS = {"a quarter": "0.25", "quarter": "0.25", "a half": "0.5", "half": "0.5", "3 quarters": "0.75"}
_IN_QUARTERS = re.compile(
    r"\b((?:ammonia|nitrite|am|ni)(?: (?:is|was|under|over|below|above))*) (a quarter|quarter|a half|half|3 quarters)$"
)
_LISTED = re.compile(rf"{_N} {_WHO}")
_VERB = re.compile(r"(dead|in|counted) ")


def _fed(text: str) -> bool:
    """'gave' alone is no feeding; with a number it is counted food ('3 pellets'), never grams."""
    return not text.startswith("gave") or bool(re.search(_FOOD, text))


def _switched(device: str, way: str, days: str | None) -> Said:
    if days and way == "on":
        return None
    return f"{way} {device.replace(' ', '')}{f' {days}d' if days else ''}"


_PAIRED = re.compile(rf"((?:{_Q})(?:,? (?:and |& )?(?:{_Q}))+)[: ]+({NUM}(?:,? (?:and |& )?{NUM})+)")
_SEVERAL = re.compile(r"(\d{1,3} .+?) (?:(died|dead|are dead)|(in|added|arrived|went in))")
_SWITCHES = re.compile(rf"{_DEVICE} (on|off)(?: |, |$)")


def paired(text: str) -> Said:
    """'ammonia, nitrite, nitrate: 0, 0.5, 20': as many values as names, in their order."""
    hit = _PAIRED.fullmatch(text)
    if hit is None:
        return None
    names, values = re.findall(rf"\b(?:{_Q})\b", hit[1]), re.findall(r"(?:\d+(?:\.\d+)?|\.\d+)", hit[2])
    if len(names) != len(values):
        return None
    return " ".join(f"{_QUANTITY[q]} {v}" for q, v in zip(names, values, strict=True))


def several(text: str) -> Said:
    """'3 rasboras and 2 pandas dead': each group by the verb behind all of them."""
    hit = _SEVERAL.fullmatch(text)
    groups = [_LISTED.fullmatch(g) for g in re.split(r",? and |, ", hit[1])] if hit is not None else []
    if hit is None or len(groups) < 2 or not all(groups):
        return None
    told = [_animals("dead" if hit[2] else "in")(g) for g in groups if g is not None]
    return " ".join(t for t in told if t) if all(told) else None


def switches(text: str) -> Said:
    """'uv off carbon on'."""
    hits = list(_SWITCHES.finditer(text))
    if len(hits) < 2 or "".join(h[0] for h in hits) != text:
        return None
    return " ".join(f"{h[2]} {h[1].replace(' ', '')}" for h in hits)


def plain_clause(piece: str, before: str = "") -> Said:
    """A piece of a line in the words of the shorthand; `before`: what the piece before it came to, which a list of
    animals goes on from. None where a word of it has no place."""
    row = _row(_IN_QUARTERS.sub(lambda m: f"{m[1]} {_QUARTERS[m[2]]}", piece))
    if row is not None:
        return row
    for pattern, plain in _COMPILED:
        hit = pattern.fullmatch(piece)
        if hit is not None:
            return plain(hit)
    verb, listed = _VERB.match(before), _LISTED.fullmatch(piece)
    return _animals(verb[1])(listed) if verb and listed else None
