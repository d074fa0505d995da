"""Food that was given."""

from __future__ import annotations

import re

from jarbloom.core.journal.spoken.deeds import FEEDERS, FOOD
from jarbloom.core.journal.spoken.frames.frame import PASSIVE, Frame, Parts
from jarbloom.core.journal.spoken.readings import NUM, Said


def _fed(told: Parts) -> Said:
    named = "food" in told or "amount" in told
    whom = {"whom", "who"} & set(told) or told.get("gave", "").startswith(("dropped", "threw", "sprinkled"))
    if not ("fed" in told or ("gave" in told and named and whom) or ("meal" in told and (named or "done" in told))):
        return None
    grams = re.fullmatch(rf"({NUM}) ?g(?:rams?)?(?: of)?", told.get("amount", ""))
    if grams and "frozen" in told.get("food", ""):
        return None  # most of it is water
    return f"fed {grams[1]} g" if grams else "fed"


FED = Frame(
    r"fed|gave|feeding|feed|meal|dropped|threw|sprinkled|breakfast|dinner|lunch|supper|flakes?|pellets?|got",
    _fed,
    {
        "house": rf"(?:by )?(?:(?:my|the|our) )?{FEEDERS}",
        "fed": r"fed|(?:(?:small|light|normal|usual|first|second|regular) )+(?:feed|feeding)",
        "gave": r"gave|got|had|were given|offered|(?:dropped|threw|sprinkled) in",
        "others": r"and the [a-z]+s",
        "meal": r"(?:breakfast|dinner|lunch|supper|evening feed|morning feed|(?:(?:morning|evening|first|"
        r"second) )?feeding):?",
        "done": r"done",
        "whom": r"(?:(?:for|all|all of|the|my|our) )*(?:fish|tank|animals|shrimps?|them|they|everyone|everybody|all|"
        r"crew|gang|lot|little ones|inhabitants|snails|bottom feeders)",
        "amount": rf"{NUM} ?g(?:rams?)?(?: of)?|(?:a|1|2|3|0\.5|half a|small|little|tiny) ?(?:(?:small|little|tiny|"
        r"big) )*(?:pinch(?:es)?|cubes?|scoops?|spoons?|wafers?|tablets?|portion)(?: of)?",
        "food": rf"(?:of )?(?:(?:some|their|a|mix of|mixture of|a few|frozen|dry|live|fresh|"
        rf"\d{{1,2}}) )*{FOOD}(?: (?:and|{FOOD}))*",
        "how": r"lightly|a little|little|a bit|sparingly|normally|usual amount|at (?:noon|"
        r"midday)",
    },
    more=rf"{PASSIVE}|with|some|their|his|her|to|for|once|now",
    who="here",
)
