"""What is said behind a clause and goes on from it: 'took it out', '3 cm', 'as the vet said', 'on again today'."""

from __future__ import annotations

import re

from jarbloom.core.journal.spoken.creatures import BRED, LENGTH, more_said
from jarbloom.core.journal.spoken.deeds import amount_of
from jarbloom.core.journal.spoken.readings import ABOUT, NUM, Said
from jarbloom.patterns import regex

_OF_BODY = regex(
    r"(?:and )?(?:i )?(?:took|got|removed|fished|netted|scooped)(?: (?:it|him|her|them|the body|the bodies|both))?"
    r"(?: out)?"
)
_NO_BODY = regex(r"(?:the )?(?:body |bodies )?(?:was |were )?not found|no (?:body|bodies)(?: found)?")
_JUMPED = regex(
    r"(?:it |she |he |they )?(?:must have |had |probably |has )?jumped(?: out)?|found (?:it|him"
    r"|her) on the (?:floor|carpet|rug)"
)
_OF_NEW = tuple(
    regex(p)
    for p in (
        LENGTH,
        BRED,
        r"(?:paid|for|cost) [$£€]?(?P<paid>\d{1,4}(?:\.\d\d)?)[$£€]?",
        r"from (?P<seller>(?:the|a|my) \w+)",
    )
)
_PRODUCT = regex(
    rf"(?:used |about )?{NUM} ?(?:ml|drops?|g|grams?|tablets?|caps?|capfuls?)|day \d+ of \d+|as "
    r"(?:the |my )?vet (?:said|ordered|told)"
)
_PART = regex(
    r"(?:only |just |but only |did )*(?:about )?(all|both|half|a third|a quarter)(?: of (?:them|it|the \w+))?"
)
_ON_ARRIVAL = regex(
    r"(\d{1,3}) (?:were |was |of them )*(?:doa|dead on arrival|dead in the bag|came dead"
    r"|arrived dead)"
)
_MILLILITRES = regex(rf"(?:used )?({NUM}) ?ml")
_AGAIN = regex(r"(?:and )?(on|off)(?: again)?|back (on)")
_HOURS = regex(rf"(?:off|out|down)(?: for)?(?: {ABOUT[:-2]})? ?({NUM}) ?(?:h|hrs?|hours?)")
_MEASURE = regex(
    r"(?:a |the )?(?:full|half|double|single|normal|usual|whole|rest of the|another) (?:dose|bottle|capful|cap)s?|"
    r"(?:a|\d) (?:capfuls?|caps?|bottles?|doses?)"
)
_NEW_ONE = regex(r"(?:put )?(?:an? |the )?new (?:ones?|1|floss|sponge|pads?|cartridge)(?: put)?(?: in)?")
_READS = regex(r"(?:am|ni|na|ph|kh|gh|t) \S+$")
_WAS = regex(
    rf"(?:it )?(?:was|down from|up from|before) (?:it was )?{NUM}(?: (?:yesterday|before|last week|last time))?"
)
_NOISE = regex(
    r"(?:very |a bit |really )?(?:noisy|loud|hot|quiet)|lights? on all night|took it out|unplugged it"
    r"|took (?:it|that) out"
)


def more_of(piece: str, before: str) -> Said:
    """`before`, a clause in the shorthand, with what this piece adds; None where it adds nothing that is known."""
    kind = before.split(" ")[0]
    if kind == "dead":
        return _dead(piece, before)
    if kind == "in":
        return _came(piece, before)
    if before == "media replaced" and _NEW_ONE.fullmatch(piece):
        return before
    if before in ("media tank", "media tap", "media replaced", "bed") and (part := _PART.fullmatch(piece)) is not None:
        return f"{before} {amount_of(part[1])}"
    if before in ("bac", "bac frozen", "cond", "detox") and (hit := _MILLILITRES.fullmatch(piece)) is not None:
        return f"{before} {hit[1]} ml"
    if kind in ("bac", "cond", "detox") and _MEASURE.fullmatch(piece):
        return before
    if kind == "fed" and piece in ("thawed", "defrosted", "thawed first"):
        return before
    if _READS.match(before) and _WAS.fullmatch(piece):
        return before
    if kind in ("medicine", "new") and _PRODUCT.fullmatch(piece):
        return f"{before}, {piece}"
    if kind == "fault":
        if _NOISE.fullmatch(piece):
            return f"{before}, {piece}"
        if before.startswith("fault tingle breaker") and (hours := _HOURS.fullmatch(piece)):
            return f"power {hours[1]} h"
    return None


def again(piece: str, before: str) -> Said:
    """'on again' behind 'off uv', 'again' behind what can be done twice."""
    if piece in ("again", "and again") and re.match(r"(?:fed|wc|dose|top)\b", before):
        return before
    hit = _AGAIN.fullmatch(piece)
    device = re.match(r"(on|off) (\w+)", before)
    return f"{hit[1] or hit[2]} {device[2]}" if hit and device else None


def _dead(piece: str, before: str) -> Said:
    if _OF_BODY.fullmatch(piece):
        return before if " found" in before else f"{before} found"
    if _NO_BODY.fullmatch(piece) and "found" not in before:
        return f"{before} notfound"
    if _JUMPED.fullmatch(piece):
        found = "" if " found" in before or not piece.startswith("found") else " found"
        return before if "jumped" in before else f"{before}{found} jumped"
    return None


def _came(piece: str, before: str) -> Said:
    came = re.match(r"in (\d+) ", before)
    if came is not None and (hit := _ON_ARRIVAL.fullmatch(piece)) is not None:
        return f"in {int(came[1]) - int(hit[1])} {before[came.end() :]}" if int(hit[1]) < int(came[1]) else None
    hits = (pattern.fullmatch(piece) for pattern in _OF_NEW)
    return next((f"{before}{more_said(hit)}" for hit in hits if hit is not None), None)
