"""Words that nothing here understands: neither a sign, an event or a number of data/heard.toml, nor talk of no
consequence. What is not understood may be anything, and is never taken for good news."""

from __future__ import annotations

import re
from collections.abc import Iterable

from jarbloom.core.journal.asking import ALL_IS_WELL
from jarbloom.core.journal.hearing import CLAUSE, SEEN, words_of
from jarbloom.core.journal.spoken.asides import REPORTED, denied, of_no_consequence, planned, small_talk
from jarbloom.core.journal.spoken.cleaned import plain_text
from jarbloom.core.journal.spoken.deeds import deed, switches
from jarbloom.core.model.words import Lexicon

LEAST_WORDS = 2
SIGNS = SEEN | {"gasp", "dart", "smell"}
EASED = frozenset({"calm", "habit", "moult", "breeding"})
_ALL = r"(?:the |all |other |my )*"
_NEWS = re.compile(  # ordinary news whose words are not ordinary by themselves
    rf"^(?:{_ALL}(?:corals?|polyps|anemones?|zoas)(?: are| is)?(?: all| fully| wide)* (?:open|out)"
    rf"|{_ALL}[a-z]+ (?:come|came|comes|are|is) out(?: [a-z]+)?"
    r"|(?:the )?(?:water|temperature|temp|salinity)? ?(?:was )?matched(?: to [\d.]+\w*)?|salted to [\d.]+"
    r"|(?:i )?(?:cleaned|wiped|scrubbed|trimmed|rinsed|vacuumed) (?:it|them|all)?(?: ?well| off| out)*"
    r"|(?:they |all |it )*(?:gone|eaten|cleared) (?:in|within) .*|(?:day of )?fasting|fasting days?"
    r"|(?:the )?(?:drift)?wood (?:finally |still |now )*(?:sank|sinks?|floats?|floated)\b[a-z ]*|drip loops? [a-z ]+"
    r"|(?:the )?heater (?:up|down) (?:by )?(?:\d|a|one|two) degrees?(?: for [a-z]+)?|no changes?"
    r"|(?:the )?(?:cat|dog) (?:drank|drinks) from the tank"
    r"|(?:no (?:animals?|fish)|nothing lives?)(?: in it| there| in there)? yet|plants? (?:grow|grew|growing)\b.*)$"
)
_OF_A_DEED = re.compile(r"\d|^(?:fed|wc|change[ds]?|top|topped|dosed?|added|tested|in|dead|counted)\b")


def not_understood(text: str, lexicon: Lexicon, names: Iterable[str], beside_deed: bool = False) -> tuple[str, ...]:
    """The clauses of a text that say nothing known here, or a sign, which only a finding can answer; `names`: of who
    lives there. `beside_deed`: it stands with an entry of another kind, whose own words it may repeat.

    A question and a single word are passed over: they are answered, or too little to go by. What ends in 'all is well'
    is explained by whoever wrote it.
    """
    plain, here = plain_text(text), tuple(names)
    clauses = [c.strip(" ,:") for c in CLAUSE.split(plain)]
    if REPORTED.match(plain) or clauses[-1] == ALL_IS_WELL:
        return ()
    return tuple(c for c in clauses if not _understood(c, lexicon, here) and not (beside_deed and _OF_A_DEED.search(c)))


def _understood(clause: str, lexicon: Lexicon, names: tuple[str, ...]) -> bool:
    if len(clause.split()) < LEAST_WORDS or "?" in clause:
        return True
    words = words_of(clause, lexicon)
    if words.keys & SIGNS and not words.keys & EASED:
        return False  # heard, but only a finding answers it: where none rests on it, it is told of
    if words.keys or words.numbers:
        return True
    known = lexicon.ordinary.union(*(n.lower().split() for n in names))
    if known.issuperset(re.findall(r"[a-z']+", clause)):
        return True
    if deed(clause, 0, False) or switches(clause, 0):
        return True
    talk = of_no_consequence(clause) or small_talk(clause, names) or _NEWS.match(clause) is not None
    return talk or denied(clause, []) or planned(clause, True)
