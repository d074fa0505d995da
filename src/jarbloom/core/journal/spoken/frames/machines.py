"""Filter, bed, machines and the mains."""

from __future__ import annotations

import re

from jarbloom.core.journal.spoken.deeds import DEVICE, MEDIA, PART, TANK_WATER, TAP_WATER, amount_of
from jarbloom.core.journal.spoken.frames.frame import PASSIVE, Frame, Parts
from jarbloom.core.journal.spoken.frames.water import HOUSE
from jarbloom.core.journal.spoken.readings import NUM, Said


def _share(told: Parts) -> str:
    if "half" in told.get("part", ""):
        return " 50%"
    return f" {amount_of(re.sub(r'^of | of$', '', told['part']))}" if "part" in told else ""


_SOME = (
    rf"(?:of )?(?:{PART.replace('?P<part>', '?:')}|1 of (?:the |my )?2|(?:front|back|rear|left|right|1) half)(?: of)?"
)


def _rinsed(told: Parts) -> Said:
    if "what" not in told or "verb" not in told or (told["verb"] == "gave") != ("act" in told):
        return None
    where = "media tank" if "tank" in told else "media tap" if "tap" in told else "media"
    return f"{where}{_share(told)}" if where != "media" else where


RINSED = Frame(
    r"sponges?|media|foams?|floss|pads?|cartridges?|wool|mats?|filter|canister|rings",
    _rinsed,
    {
        "verb": r"(?:rinsed|cleaned|squeezed|washed|swished|shaken|shook|gave)(?: out| off)?",
        "act": r"(?:good |quick |gentle )*(?:rinse|squeeze|wash|clean|swish)",
        "what": rf"{MEDIA}|(?:filter )?(?:rings|balls|material)|filter|canister",
        "part": _SOME,
        "tank": rf"{TANK_WATER}|in (?:water from the tank|(?:(?:a|the) bucket of |the )?(?:old|changed|siphoned|"
        r"drained|removed) water|a bucket of (?:old )?tank water|the water (?:i |we )?(?:took|siphoned) out)",
        "tap": rf"{TAP_WATER}|under running (?:tap )?water|under the faucet|with the hose|under (?:the )?(?:cold |"
        rf"hot |warm )?tap(?: water)?",
        "house": HOUSE,
    },
    more=rf"{PASSIVE}|out|(?:filter )?maintenance|gently|lightly|well|thoroughly|carefully|good",
)


def _renewed(told: Parts) -> Said:
    new = "new" in told and ({"in", "put", "out"} & set(told) or told.get("where", "").startswith("in"))
    if "what" not in told or not ({"verb", "away"} & set(told) or new):
        return None
    if not {"verb", "away", "out"} & set(told) and not re.search(r"cartridge|floss|wool|pad", told["what"]):
        return None  # a new sponge may lie beside the old ones
    return f"media replaced{_share(told)}"


RENEWED = Frame(
    r"replaced|swapped|exchanged|renewed|changed|new|fresh|away|out|binned",
    _renewed,
    {
        "verb": r"(?:replaced|swapped|exchanged|renewed|changed)(?: out)?",
        "what": rf"(?:old )?{MEDIA}",
        "new": r"(?:with |for )?(?:a )?(?:new|fresh)(?: ones?| 1)?",
        "in": r"in|installed|went in",
        "put": r"(?:and )?put(?: in)?",
        "away": r"(?:threw|tossed|thrown)(?: out| away)|binned|got rid of",
        "out": r"took out|took",
        "part": _SOME,
        "where": r"(?:in|of) (?:the |my )?(?:filter|canister)",
        "house": HOUSE,
    },
)
BED = Frame(
    r"gravel|sand|substrate|bed|bottom",
    lambda told: (
        f"bed{_share(told)}" if "verb" in told and ("what" in told or re.search("gave|gravel", told["verb"])) else None
    ),
    {
        "verb": r"(?:(?:vacuumed|siphoned|syphoned|cleaned|hoovered|stirred|raked|gravel ?vac(?:ked|uumed|ed)?)"
        r"(?: and )?)+(?: up| through)?|gave (?:the |my )?(?:gravel|sand|substrate|bed) (?:a )?"
        r"(?:(?:good|quick|deep|gentle|thorough) )*(?:vacuum|vac|clean|rake|stir|hoover)",
        "what": r"(?:gravel|sand|substrate|bed|bottom)(?: bed)?",
        "part": _SOME,
        "house": HOUSE,
    },
    more=rf"{PASSIVE}|(?:during|with) the (?:water )?change|with the (?:vacuum|siphon|gravel cleaner)|done|"
    rf"while (?:planting|cleaning|rescaping)|by accident|"
    rf"lightly|deeply|thoroughly|well|gently|a bit|a little",
)


_OTHER = (
    r"(?:(?:the|a|an|my|our|his|her) )?(?:(?:old|other|second|big|established|mature|running|healthy|cycled|friend's|"
    r"neighbou?r's|brother's|sister's) )+(?:tank|filter|aquarium)"
)


def _borrowed(told: Parts) -> Said:
    return f"borrowed{_share(told)}" if {"verb", "what", "from"} <= set(told) else None


BORROWED = Frame(
    r"sponges?|media|foams?|floss|pads?|wool|mats?|rings|material",
    _borrowed,
    {
        "verb": r"added|put(?: it)?(?: in)?|borrowed|transferred|hung in|moved",
        "got": r"got|took|a used|used|and",
        "what": rf"(?:(?:seeded|mature|used|cycled|old|established|dirty|squeezed) )*(?:{MEDIA}|(?:filter )?(?:rings|"
        rf"material))",
        "from": rf"(?:from|of|out of) {_OTHER}",
        "into": r"(?:in|into|to) (?:the|my|this) (?:new )?(?:tank|filter)|in|over",
        "part": _SOME,
        "house": HOUSE,
    },
)


def _without_power(told: Parts) -> Said:
    if "hours" not in told or ("off" in told) == ("cut" in told) or ("off" in told and "what" not in told):
        return None
    found = re.search(rf"({NUM}|half an|an) ?(h|m)", told["hours"])
    if found is None:
        return None
    long = {"half an": 0.5, "an": 1.0}.get(found[1]) or float(found[1].replace(",", "."))
    return f"power {long / 60 if found[2] == 'm' else long:.4g} h"


POWER = Frame(
    r"power|electricity|blackout|outage|mains|current",
    _without_power,
    {
        "what": r"power|electricity|mains(?: power)?|current",
        "off": r"(?:went |gone )?(?:out|off|down|gone|away)|failed|cut(?: out)?",
        "cut": r"(?:power |electricity )?(?:outage|blackout|cut|failure)|(?:without|no|lost) (?:power|electricity|"
        r"current)|(?:power |electricity )cuts?",
        "hours": rf"(?:for |lasted |lasting |of )*(?:(?:about|around|roughly|nearly) )?(?:{NUM}|half an|an)[ -]?"
        r"(?:h|hrs?|hours?|min|mins|minutes?)(?: long)?",
    },
    more=rf"{PASSIVE}|there|had",
)


def _device(told: Parts) -> str:
    name = re.sub(r" (?:lamp|sterili[sz]er)$", "", told["device"])
    return {"skim": "skimmer"}.get(name, name.replace(" ", ""))


def _switched(told: Parts) -> Said:
    if "device" not in told or ("on" in told) == ("off" in told):
        return None
    device = _device(told)
    way = "on" if "on" in told else "off"
    days = re.search(r"(\d+|a) ?([dw])", told.get("days", ""))
    if days and way == "on":
        return None
    last = (1 if days[1] == "a" else int(days[1])) * (7 if days[2] == "w" else 1) if days else 0
    return f"{way} {device}{f' {last}d' if last else ''}"


SWITCHED = Frame(
    r"skimmer|skim|uv|u v|ozone",
    _switched,
    {
        "device": DEVICE,
        "verb": r"turned|switched|put|shut",
        "on": r"(?:back )?on|(?:running|runs|works|working) again|back in operation",
        "off": r"(?:back )?off",
        "days": r"for (?:\d{1,2}|a) ?(?:d|days?|weeks?)",
        "house": HOUSE,
    },
    more="is|now",  # 'has been off for 5 days' lies behind
)


def _carbon(told: Parts) -> Said:
    new = re.search(r"new|fresh", told.get("what", "")) and told.get("where", "").startswith("in")
    inside = "in" in told or bool(new)
    if "what" not in told or inside == ("out" in told):
        return None
    return "on carbon" if inside else "off carbon"


CARBON = Frame(
    r"carbon",
    _carbon,
    {
        "what": r"(?:(?:new|fresh|activated|more|bag of|old) )*carbon(?: bag| pad)?",
        "in": r"put in|put|added|in|went in|installed",
        "out": r"removed|took out|took|taken out|out",
        "where": r"(?:in|into|to|from|out of) (?:the |my )?(?:filter|canister|sump)",
        "house": HOUSE,
    },
)
_BROKEN = (
    r"(?:stopped|quit)(?: working| running| completely)?|died|dead|failed|broke(?:n)?(?: down)?|kaput|defective|"
    r"not (?:working|running)(?: any ?more)?|(?:does not|doesn't|won't) (?:work|run|start|turn on)(?: any ?more)?|"
    r"given up|gave up|no longer (?:works|runs|heats|working|running)"
)


def _fault(word: str, device: str, broken: str) -> Frame:
    def says(told: Parts) -> Said:
        return f"fault {word} {told['device']} {told['broken']}" if {"device", "broken"} <= set(told) else None

    return Frame(
        device,
        says,
        {"device": device, "broken": broken},
        more=rf"{PASSIVE}|had|now|overnight|seems|completely|totally|simply|to have|apparently",
    )


FAULTS = (
    _fault("heater dead", r"heater|thermostat",
           rf"(?:stopped|not) heating(?: any ?more)?|(?:does not|doesn't|won't) heat(?: any ?more)?|{_BROKEN}"),
    _fault("heater stuck", r"heater|thermostat",
           r"stays on|stuck on|won't (?:switch|turn) off|(?:does not|doesn't) (?:switch|turn|shut) off|"
           r"(?:keeps|kept) (?:heating|running)|always on"),
    _fault("filter", r"(?:canister |internal |external |hang on back )?(?:filter|canister)(?: pump| motor| impeller)?",
           rf"{_BROKEN}|clogged(?: up)?|blocked|(?:makes |gives |has )?no flow|hardly (?:flows|runs)"),
    _fault("pump", r"air ?pump|powerhead|return pump|circulation pump|wave ?maker|pump|air stone", _BROKEN),
)  # fmt: skip
