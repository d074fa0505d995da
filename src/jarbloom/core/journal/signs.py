"""Signs of trouble in the keeper's own words: only what is plainly said counts, and a 'no' in it counts for nothing."""

from __future__ import annotations

import difflib
import re
from collections.abc import Mapping

from jarbloom.core.journal.kinds.choices import SIGNS
from jarbloom.patterns import NOTHING, regex

SAID: Mapping[str, tuple[str, ...]] = {
    "gasping": ("gasping", "gasps", "gasp", "hanging at the surface", "hang at the surface", "gulping air", "piping"),
    "dawn": ("surface at dawn", "surface in the morning", "surface every morning", "surface at first light"),
    "fast_gills": (
        "breathing fast",
        "breathing hard",
        "breathe fast",
        "breathing heavily",
        "breathing rapidly",
        "rapid breathing",
        "gills going",
        "gills pumping",
    ),
    "lying": ("lying on the bottom", "lying on its side", "lying on their side", "on its side", "on their side"),
    "listing": ("upside down", "head down", "swimming sideways"),
    "clamped": ("clamped", "clamping"),
    "flashing": ("flashing", "rubbing", "scratching"),
    "torn": ("torn fins", "fins torn", "ragged fins"),
    "darting": ("darting",),
    "hiding": ("hiding",),
    "not_eating": ("not eating", "refuse food", "refuses food", "will not eat", "eatless"),
    "red_gills": (
        "red gills",
        "brown gills",
        "gills red",
        "gills brown",
        "gills look red",
        "gills look brown",
        "gills are red",
        "gills are brown",
    ),
    "spots": ("white spots", "white spot", "velvet", "white dots", "white grains"),
    "milky": ("milky", "cloudy"),
    "green": ("green water", "water green"),
    "film": ("oily film", "film on the surface", "surface film"),
    "foam": ("foam on the water", "foam on the surface", "foam that stays"),
    "smell": ("smell", "smells", "smelly"),
    "deaths": (),
}
_EATLESS = regex(r"\b(?:not eating|will not eat|wo ?n'?t eat|refus(?:es|ing) to eat|off (?:its|their) food)\b")
_OF_OTHER_THINGS = regex(
    r"\bhiding (?:spots?|places?|holes?)\b|\bmilky (?:way|glass)\b|\bon the (?:rocks?|glass|wood|decor|heater|stones?"
    r"|pots?|walls?)\b"
    r"|\bat the (?:price|bill|cost)\b|\bsmells? of (?:spring|food|coffee|paint|lemon)\b|\bflashing (?:lights?|led)\b"
)
_DEGREE = regex(r"\b(?:really|very|so|quite|pretty|rather|slightly|a bit|extremely) ")
_LABELS = {label.lower(): key for key, label in SIGNS.items()}
# The boxes' own words too, where they are more than a word that may mean anything
_SAID = {key: (*SAID.get(key, ()), *((label.lower(),) if " " in label else ())) for key, label in SIGNS.items()}
_PATTERNS = {
    key: regex(rf"\b(?:{'|'.join(map(re.escape, said))})\b" if said else NOTHING) for key, said in _SAID.items()
}
_DOUBT = (
    "no|not|never|none|nobody|nothing|without|isn.?t|aren.?t|don.?t|didn.?t|doesn.?t|wasn.?t|weren.?t|"
    "stopped|any ?more|"
    "no longer|gone|almost|nearly|maybe|perhaps|might|looks? like|as always|as usual|normal|normally|fine|lights?|"
    "used to|if|was|were|better"
)
DOUBT = regex(rf"\b({_DOUBT})\b|\?")


def signs_in(text: str) -> tuple[str, ...]:
    """Keys of the signs that the words say plainly. Where they deny, doubt or look back, none: the words are kept. A
    sign in the very words of our own boxes is that sign."""
    low = " ".join(text.lower().split()).strip(" .!")
    if low in _LABELS:
        return (_LABELS[low],)
    if _OF_OTHER_THINGS.search(low):
        return ()
    low = _DEGREE.sub("", _EATLESS.sub("eatless", low))
    if DOUBT.search(low.replace("gone cloudy", "").replace("gone milky", "")):
        return ()
    return tuple(key for key, said in _PATTERNS.items() if said.search(low))


def of_other_things(text: str) -> bool:
    """Whether the words look like a sign and are of another thing, or are doubted, denied or usual."""
    return bool(_OF_OTHER_THINGS.search(text) or DOUBT.search(text))


_WORDS = {word for said in SAID.values() for words in said for word in words.split() if len(word) > 4}


def nearly(text: str) -> tuple[str, str] | None:
    """(the word as typed, the word of a sign that it nearly is), or None: a slip must not hide a sign."""
    for word in re.findall(r"[a-z]{5,}", text.lower()):
        if word not in _WORDS and (near := difflib.get_close_matches(word, _WORDS, n=1, cutoff=0.82)):
            return word, near[0]
    return None
