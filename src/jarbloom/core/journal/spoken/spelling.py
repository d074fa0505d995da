"""Slips of the finger in the words of the log: 'amonia', 'wtaer chnage'. Only where one word is near, and what was
typed is no other word. Nitrite and nitrate are told apart by one letter: only where that one stands."""

from __future__ import annotations

import re
from collections.abc import Container, Iterable
from functools import lru_cache

from jarbloom.patterns import regex


def words(text: str) -> frozenset[str]:
    """A list of words, written as a text."""
    return frozenset(text.split())


_WORDS = words(
    "ammonia salinity temperature alkalinity water change changed litres "
    "gallons percent yesterday morning evening afternoon monday tuesday wednesday thursday friday saturday sunday "
    "conditioner dechlorinator bacteria detoxifier counted dead died lost added arrived fed skimmer carbon filter "
    "sponge "
    "rinsed cleaned replaced topped gasping clamped flashing hiding cloudy milky scratching power outage heater "
    "stirred siphoned pellets flakes frozen sold rehomed"
)
# Near those and words of their own; what they mean is for the keeper to say
_OWN = words(
    "charge chance changes changing charged chanced waters wader watery later wafer waiter dear deed deal deaf bead "
    "head "
    "lead read dread dyed tied lied diet dies dive list lose loss lots cost most post host last lust lot lots aided "
    "address aired fee feed feel few fad led red bed fled fen fewer mounted sounded counter country count county "
    "mining "
    "warning mourning moaning warming evenings ironing filters falter sponges hider riding biding hidden hiding power "
    "tower lower powder heated eater neater hearer header replace replaces placed told hold cold gold bold soil rinse "
    "rinses cleaner cleaned leaned frozen dosed nosed posed hosed mopped popped stopped dropped hopped topper clampet "
    "lashing slashing clashing flushing fleshing passing scotching flake fakes shakes pellet silky cloud clouds "
    "heaters "
    "sunny sundays percents liter liters litre gallon gallant solid bolt bald hole salt sole stir stirs stared "
    "starred sty "
    "back lack rack pack stack slack blank bleak dried fried tried cried dries tries fired aired ideas "
    "conditioned tipped ripped nitride wading gassing passing dad died bid did lid rid deadly deal dean"
)
_FORMS = ("nitrite", "nitrate")
_TOLD_APART = regex(r"n\w*[ia]tes?|nitr[ia]\w*")  # the letter that tells them apart stands in its place
_SAME = {"died": "dead"}
_LEAST = 3


def spelled(text: str, also: Iterable[str] = (), words_of_days: Container[str] = ()) -> str:
    """The same words with slips put right; `also`: the names of those who live here; `words_of_days`: what is a word of
    its own however near it is to one of them ('tank' where tangs live, 'noon' where neons do).

    >>> spelled("amonia .5, wtaer chnage 25%"), spelled("nitrit 1, ntrate 5, nitrte 2"), spelled("head count, red bed")
    ('ammonia .5, water change 25%', 'nitrite 1, nitrate 5, nitrte 2', 'head count, red bed')
    """
    here = frozenset(w for name in also for w in name.split() if len(w) > _LEAST)

    def right(m: re.Match[str]) -> str:
        return m[0] if m[0] in words_of_days else _put_right(m[0], here)

    return re.sub(r"(?<![\w'.])[a-z]{3,}(?![\w'.])", right, text)


@lru_cache(4096)
def _put_right(word: str, here: frozenset[str]) -> str:
    form = _TOLD_APART.fullmatch(word)
    forms = [w for w in _FORMS if form and word.rstrip("s") not in _FORMS and _one_slip(word, w)]
    if len(forms) == 1 and word not in _OWN:
        return forms[0]
    known = _WORDS | here
    if word in known or word in _OWN or word.rstrip("s") in known or f"{word}s" in known:
        return word
    near = [w for w in known if abs(len(w) - len(word)) <= 1 and w[0] == word[0] and _one_slip(word, w)]
    if not near and len(word) >= 5:
        near = [w for w in known if len(w) == len(word) and _swapped(word, w)]
    if not near and len(word) >= 7:
        near = [w for w in known if abs(len(w) - len(word)) <= 1 and w[:2] == word[:2] and _swaps_and_slip(word, w)]
    stems = {_SAME.get(w, w).rstrip("s") for w in near}
    return (
        near[0]
        if len(stems) == 1 and len(word) > _LEAST - (_SAME.get(near[0]) == "dead" or near[0] == "dead")
        else word
    )


def _one_slip(a: str, b: str) -> bool:
    """One letter too many, too few or wrong, or two neighbours swapped."""
    if len(a) == len(b):
        wrong = [k for k in range(len(a)) if a[k] != b[k]]
        return len(wrong) == 1 or _swapped(a, b)
    short, long = sorted((a, b), key=len)
    return any(short == long[:k] + long[k + 1 :] for k in range(len(long)))


def _swapped(a: str, b: str) -> bool:
    wrong = [k for k in range(len(a)) if len(a) == len(b) and a[k] != b[k]]
    return len(wrong) == 2 and wrong[1] == wrong[0] + 1 and a[wrong[0]] == b[wrong[1]] and a[wrong[1]] == b[wrong[0]]


def _swaps_and_slip(a: str, b: str) -> bool:
    return any(_one_slip(a[:k] + a[k + 1] + a[k] + a[k + 2 :], b) for k in range(len(a) - 1))
