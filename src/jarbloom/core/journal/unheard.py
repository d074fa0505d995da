"""Words that nothing here understands: neither a sign, an event or a number of data/heard.toml, nor talk of no
consequence. What is not understood may be anything, and is never taken for good news."""

from __future__ import annotations

import re
from collections.abc import Iterable

from jarbloom.core.journal.asking import ALL_IS_WELL
from jarbloom.core.journal.hearing import CLAUSE, without_numbers, words_of
from jarbloom.core.journal.spoken.asides import REPORTED, denied, of_no_consequence, planned
from jarbloom.core.journal.spoken.cleaned import plain_text
from jarbloom.core.journal.spoken.deeds import deed, switches
from jarbloom.core.model.words import Lexicon
from jarbloom.patterns import regex

LEAST_WORDS = 2
NONE_OF = regex(r"^(?:and |but |with )?(?:no|without|never)(?: any| more)? ")
READ = regex(
    r"\b(?:ph|kh|gh|tds|ammonia|nitrite|nitrate|salinity|oxygen|copper|chlorine|"
    r"display|thermometer|controller|probe|meter|pen|heater)\b"
)
EASED = frozenset({"calm", "habit", "moult", "breeding"})
_OF_A_DEED = regex(r"\d|^(?:fed|wc|change[ds]?|top|topped|dosed?|added|tested|in|dead|counted)\b")


def not_understood(text: str, lexicon: Lexicon, names: Iterable[str], beside_deed: bool = False) -> tuple[str, ...]:
    """The clauses of a text that say nothing known here, or something that only a finding can answer; `names`: of who
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
    if len(clause.split()) < LEAST_WORDS or "?" in clause or lexicon.sayings.fullmatch(clause):
        return True
    words = words_of(clause, lexicon)
    if words.keys & EASED:
        return True
    if words.keys - lexicon.by_the_way:
        return False  # heard, but only a finding answers it: where none rests on it, it is told of
    if words.keys or words.numbers:
        clause = without_numbers(lexicon.rest_of(clause, words.keys))
        if not re.search(r"[a-z]", clause):
            return True
    if deed(clause, 0, False) or switches(clause, 0) or denied(clause, []) or planned(clause, True):
        return True
    if of_no_consequence(clause):
        return True
    if NONE_OF.match(clause) and words_of(NONE_OF.sub("", clause), lexicon).keys:
        return True  # 'no spray', 'without any smell': of what would have been heard
    if not words.numbers and READ.search(clause) and re.search(r"\d", clause):
        return False  # a reading in words that none was made of
    known = lexicon.ordinary.union(*(n.lower().split() for n in names))
    if known.issuperset(re.findall(r"[a-z']+", clause)):
        return True
    parts = clause.split(" and ")
    return len(parts) > 1 and all(_understood(part, lexicon, names) for part in parts if len(part.split()) > 1)
