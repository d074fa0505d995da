"""Words that nothing here understands: neither a sign, an event or a number of data/heard.toml, nor talk of no
consequence. What is not understood may be anything, and is never taken for good news."""

from __future__ import annotations

import re
from collections.abc import Iterable

from jarbloom.core.journal.hearing import CLAUSE, words_of
from jarbloom.core.journal.spoken.asides import REPORTED, denied, of_no_consequence, planned, small_talk
from jarbloom.core.journal.spoken.cleaned import plain_text
from jarbloom.core.model.words import Lexicon

LEAST_WORDS = 2
_ALL = r"(?:the |all |other |my )*"
_SOME = r"(?:the |my |a |an |some |few |new |old |another |more )*"
_FURNITURE = (
    r"(?:lamps?|lights?|bulbs?|timers?|backgrounds?|outlet|inlet|intake|decor|decorations?|stones?|rocks?|wood|roots?|plants?|"
    r"moss|feeder|thermometer|lid|cabinet|stand|hoses?|cables?|camera|chair|nets?|tools?|labels?|curtains?|blinds?)"
)
_NEWS = re.compile(  # ordinary news that is none of the above
    rf"^(?:{_ALL}(?:water|tank|glass)(?: is| looks| stays)?(?: all| crystal)* (?:clear|clean)"
    rf"|{_ALL}(?:corals?|polyps|anemones?|zoas)(?: are| is)?(?: all| fully| wide)* (?:open|out)"
    r"|(?:the )?(?:water|temperature|temp|salinity)? ?(?:was )?matched(?: to [\d.]+\w*)?|salted to [\d.]+"
    r"|(?:i )?(?:cleaned|wiped|scrubbed|trimmed|rinsed|vacuumed) (?:it|them|all)?(?: ?well| off| out)*"
    r"|(?:\d+ |all )?[a-z ]+ (?:counted|there|present)|counted \d+ [a-z ]+"
    rf"|(?:everything|{_ALL}(?:filter|powerhead|pump|heater|lamp)) (?:still )?(?:runs?|works?)(?: again)?"
    r"|fed [a-z ]+|(?:they |all |it )*(?:gone|eaten|cleared) (?:in|within) .*|(?:day of )?fasting|fasting days?"
    r"|(?:planted )?(?:tank|plants?|moss)(?: is| are)? (?:pearls?|pearling)|(?:\d+ )?(?:are |is )?berried(?: [a-z]+)?"
    rf"|(?:moved|hung|raised|lowered|dimmed|turned|shifted|swapped|changed|replaced|dusted|installed|mounted) {_SOME}"
    rf"{_FURNITURE}(?: [a-z ]+)?|(?:bought|ordered|borrowed|returned) {_SOME}[a-z -]+"
    rf"|(?:trimmed|pruned|cut back|planted|replanted|thinned|fertili[sz]ed) {_SOME}[a-z ]+"
    rf"|(?:added|put in|gave) {_SOME}(?:root tabs?|fertili[sz]er|plant food)(?: [a-z ]+)?"
    rf"|(?:took|made) {_SOME}(?:photos?|pictures?|videos?)(?: [a-z ]+)?"
    r"|(?:no|nothing) (?:animals?|fish|lives?)\b.*|(?:big |some )?plant trimming|plants? (?:grow|grew|growing)\b.*)$"
)
_OF_A_DEED = re.compile(r"\d|^(?:fed|wc|change[ds]?|top|topped|dosed?|added|tested|in|dead|counted)\b")


def not_understood(text: str, lexicon: Lexicon, names: Iterable[str], beside_deed: bool = False) -> tuple[str, ...]:
    """The clauses of a text that say nothing known here; `names`: of who lives there. `beside_deed`: it stands with an
    entry of another kind, whose own words it may repeat.

    A question and a single word are passed over: they are answered, or too little to go by.
    """
    plain, here = plain_text(text), tuple(names)
    if REPORTED.match(plain):
        return ()
    clauses = (c.strip(" ,:") for c in CLAUSE.split(plain))
    return tuple(c for c in clauses if not _understood(c, lexicon, here) and not (beside_deed and _OF_A_DEED.search(c)))


def _understood(clause: str, lexicon: Lexicon, names: tuple[str, ...]) -> bool:
    if len(clause.split()) < LEAST_WORDS or "?" in clause:
        return True
    words = words_of(clause, lexicon)
    if words.keys or words.numbers:
        return True
    talk = of_no_consequence(clause) or small_talk(clause, names) or _NEWS.match(clause) is not None
    return talk or denied(clause, []) or planned(clause, True)
