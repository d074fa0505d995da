"""Water that was changed or filled up, and what was poured into it."""

from __future__ import annotations

import re

from jarbloom.core.journal.spoken.deeds import AMOUNT, LITRES, amount_of
from jarbloom.core.journal.spoken.frames.frame import PASSIVE, Frame, Parts
from jarbloom.core.journal.spoken.readings import NUM, Said

# Who acts for a keeper in this house; a neighbour or a brother may have changed the water of his own tank
HOUSE = (
    r"(?:by )?(?:(?:my|the|our) )?(?:wife|husband|partner|son|daughter|kids?|children|sitter|girlfriend|boyfriend|"
    r"flatmate|room ?mate)"
)
_FRESH = r"(?:fresh|new|clean|conditioned|treated|dechlorinated|aged|warm|lukewarm|matched|prepared|conditioner)"
_ANY_SIZE = r"(?:big|small|large|little|quick|short|weekly|usual|regular|normal|routine|emergency|partial|monthly|tiny)"
_WATER = r"(?:of )?(?:(?:the|my|its|our|tank|aquarium|tank's|old|dirty) )*water|of (?:the|my|our) (?:tank|aquarium)"
_PUT_IN = (
    r"added|put in|put|gave(?: (?:it|the tank|the filter))?|emptied|poured in|poured|tipped in|tipped|squirted in|"
    r"squirted|dosed|used|dripped in|mixed in|went in|into"
)


def _changed(told: Parts) -> Said:
    said = told.get("amount", "").removeprefix("of ")
    amount = amount_of(said) if said else ""
    verb, water = told.get("verb", ""), "water" in told or "fresh" in told
    if not amount or (re.match(r"\d/\d", said) and not (water or "noun" in told)):
        return None  # '1/2' may be one of two
    noun = "noun" in told or ("change" in told and {"size", "did"} & set(told))
    done = (
        noun
        or (verb and (verb.startswith("changed") or water or re.search(LITRES, amount)))
        or ({"out", "off"} & set(told) and "back" in told)
    )
    return f"wc {amount}" if done or ("did" in told and "%" in amount and not verb) else None


_WHY = (
    r"(?:after|because of|due to|against) the (?:spike|ammonia|nitrite|nitrate|algae)"  # nothing that is news by itself
)
CHANGED = Frame(
    r"changed?|wc|swapped|exchanged|replaced|renewed|switched|refilled|filled|topped|back|out|did|done|performed",
    _changed,
    {
        "amount": rf"(?:of )?{AMOUNT}",
        "noun": rf"(?:{_ANY_SIZE} )*(?:water ?changes?|wc|change of (?:the )?water)|(?:{_ANY_SIZE} )+change|change of",
        "verb": r"(?:changed|swapped|exchanged|replaced|renewed|switched)(?: out)?",
        "out": r"(?:siphoned|syphoned|drained|took|taken|removed|pumped|pulled|drew|sucked|let|emptied|scooped|"
        r"got rid of|carried)(?: off| out)?",
        "off": r"out|off",
        "back": r"(?:refilled|filled|topped|put|poured|filling)(?: it| the tank| the same| that much| them)?"
        rf"(?: {NUM} ?{LITRES})?(?: of)?(?: {_FRESH})*(?: water)?(?: back)?(?: up| in| on)?(?: again)?|"
        r"back in(?: again)?|replaced (?:it|them)",
        "fresh": rf"(?:with|by|for|in) (?:(?:the|some|same|amount|of|{_FRESH}) )*(?:{_FRESH} )+water|(?:with|for) new",
        "water": _WATER,
        "did": r"did|done|performed|carried out|gave (?:it|the tank|them)|finished|completed",
        "house": HOUSE,
        "size": _ANY_SIZE,
        "change": "change",
        "from": r"from the (?:gravel|sand|bottom|substrate)|by",
    },
    more=rf"{PASSIVE}|{_WHY}|now|another|a good|while (?:vacuuming|cleaning)(?: the (?:gravel|sand))?",
)  # fmt: skip


def _topped_up(told: Parts) -> Said:
    amount = told.get("amount")
    if told.get("evaporation") == "evaporated":
        return None  # 'evaporated 2 l, topped up': with how much?
    pure = re.search(r"\bro(?:di)?\b|osmo", told.get("kind", ""))
    if amount is None or not ("top" in told or (("evaporation" in told or pure) and "in" in told)):
        return None
    return f"top {amount}{' salt' if told.get('kind', '').startswith('salt') else ''}"


TOPPED_UP = Frame(
    r"top(?:ped|ping|s)?|evaporat\w+|ro|rodi|osmosis",
    _topped_up,
    {
        "amount": rf"{NUM} ?{LITRES}",
        "top": r"(?:in )?(?:to )?(?:topped|topping|top)[ -]?(?:(?:it|the tank|the water|water level|the water level|"
        r"my tank) )?(?:back )?(?:up|off)",
        "in": r"added|put in|put|filled(?: up| in)?|refilled|replaced|replenished|made up|poured in|in",
        "evaporation": r"(?:for |from |to make up (?:for )?|against |made up (?:for )?|to replace |"
        r"replacing )?(?:the )?(?:evaporat(?:ion|ed)(?: water| losses| loss)?|"
        r"what (?:had |has |was )?(?:evaporated|lost))",
        "kind": r"(?:with |of )?(?:some )?(?:ro|rodi|osmosis|osmotic|fresh|distilled|demineralised|deionised|salt|soft)"
        r"(?: ?water)?",
        "water": r"water level|the level|(?:of )?water",
        "by": r"by|with|the tank with",
        "house": HOUSE,
    },
)  # fmt: skip


def _dosed(told: Parts) -> Said:
    poured = {"verb", "purpose"} & set(told) or told.get("where", "").startswith("into")
    if "amount" not in told or "ammonia" not in told or not poured:
        return None
    number, unit = re.fullmatch(rf"({NUM}) ?(\S.*)", told["amount"]).groups()  # type: ignore[union-attr]
    salt = "chlor" in told["ammonia"] or "nh4cl" in told["ammonia"]
    if unit.startswith("g"):
        return f"dose nh4cl {number} g" if salt else None
    if unit == "ml":
        before = list(told).index("amount") < list(told).index("ammonia")
        return f"dose {number} ml ammonia" if before and not salt else None
    return None if salt else f"dose {number} mg/l"  # of the salt, or of its nitrogen?


DOSED = Frame(
    r"ammonia|nh4cl|ammonium",
    _dosed,
    {
        "amount": rf"{NUM} ?(?:ppm|mg/l|mg per lit(?:re|er)|ml|g|grams?)",
        "ammonia": r"(?:of )?(?:ammoni(?:um|a) chloride|ammonia(?: solution)?|nh4cl)",
        "verb": r"dosed|added|put in|put|gave(?: it| the tank| the bacteria)?|squirted in|dripped in|poured in|"
        r"fed the bacteria|(?:another|1 more) dose of|another",
        "dose": r"(?:ammonia )?dose",
        "purpose": r"(?:to feed|for|as food for|to keep) (?:(?:the )?(?:bacteria|bloom|filter|colony|cycle)|"
        r"them)(?: alive| fed)?",
        "where": r"(?:in|into|to) (?:the|my) (?:tank|water)",
        "house": HOUSE,
    },
)  # fmt: skip
_VESSEL = (
    r"(?:(?:a|an|1|another|second|2nd|third|half a|half|0\.5|double|full|whole|the|my|rest of the|last|first|new|"
    r"normal|usual|\d) )+(?:bottle|capful|cap|dose|shot|glug|ampoule|vial|sachet|splash)s?(?: of)?|"
    r"(?:capful|shot|glug|splash) of"
)


def _poured(what: str, of: str, word: str) -> Frame:
    """What is poured in from a bottle; `of`: what may stand before its name."""

    def says(told: Parts) -> Said:
        if "what" not in told or not (
            {"verb", "in", "new water"} & set(told)
            or {"vessel", "for"} <= set(told)
            or "dose" in told.get("vessel", "")
            or ("amount" in told and "new" not in told["what"])
        ):
            return None
        millilitres = re.match(NUM, told.get("amount", ""))
        return f"{word} {millilitres[0]} ml" if millilitres else word

    return Frame(
        what,
        says,
        {
            "amount": rf"{NUM} ?ml(?: of)?",
            "vessel": _VESSEL,
            "what": rf"(?:of )?(?:(?:the|my|some|more|new|fresh|{of}) )*(?:{what})",
            "verb": _PUT_IN,
            "in": r"in",
            "new water": r"(?:treated|conditioned) (?:the )?(?:new|fresh|tap|change) water(?: with)?",
            "where": r"(?:in|into|onto|on|over|to) (?:the |my )?(?:filter|tank|media|sponges?|water|canister|sump)",
            "for": rf"(?:for|to) (?:(?:the|my|a|{_FRESH}) )*(?:{NUM} ?{LITRES}(?: of)?(?: {_FRESH})*(?: water)?|water"
            r"(?: change)?|change|whole tank|tank)",
            "house": HOUSE,
        },
    )


BACTERIA = _poured(
    r"bacteria(?: from the bottle| starter| culture| in a bottle)?|starter(?: culture| bacteria)?",
    r"live|liquid|bottled|starter|nitrifying|filter|beneficial", "bac",
)  # fmt: skip
CONDITIONER = _poured(r"conditioner|dechlorinator|dechlor", "water|tap", "cond")
TREATED = Frame(
    r"dechlorinated|conditioned",
    lambda told: "cond" if len(told) > 1 else None,
    {
        "verb": r"dechlorinated|conditioned",
        "water": r"the (?:new |fresh |tap |change )*water|it all",
        "first": r"first|beforehand",
        "house": HOUSE,
    },
)
BINDER = _poured(r"binder|detoxifier|detox", "ammonia", "detox")
