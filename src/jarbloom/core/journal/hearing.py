"""What is heard in the keeper's own words: signs, events, doubts and numbers in notes and observations.

A word can raise a finding, never end one. What a clause denies ('no fish gasping') is not heard; what it doubts or asks
is. Numbers in words ('ammonia 2') count as what was said, and are asked for as a test of their own.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

from jarbloom.core.animals.names import names_of
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.species import Species
from jarbloom.core.model.words import HeardWord, Lexicon
from jarbloom.patterns import regex
from jarbloom.units import canonical

CLAUSE = regex(r"[.;,!\n]+(?!\d)|\bbut\b|\bthough\b|\bhowever\b|\bwhile\b")
OTHER_WATER = regex(
    r"\b(?:tap|bag|shop|store|bucket|quarantine|qt|mix|r\.?o|refill|well|neighbou?r\S*|other tank|new water|source|"
    r"hospital|rain)\b[^,;]{0,24}$"
)
NUMBER = regex(
    r"(?<![\w.])(am|ammonia|nh3|nh4|tan|ni|nitrite|no2|na|nitrate|no3|ph|kh|dkh|alk|t|temp|temperature|sal|salinity|o2|"
    r"oxygen|copper|cu|chlorine)\s*(?:is|was|at|reads?|=|:|of)?\s*([<>]?\d*[.,]?\d+)\s*(sg|°?[fc]\b)?"
)
DEGREES = regex(r"(?<![\w.,])(\d{1,2}(?:[.,]\d)?)\s*(?:°\s*|degrees?\s*)([cf])?\b")
# What an instrument or the tank itself stands at, where nothing else is counted behind the number
STANDS_AT = regex(
    r"\b(?:thermometer\b(?! (?:for|cost))[^,;.\d]{0,24}?|"
    r"(?:water|tank|aquarium)(?: \w+){0,3}? (?:at|up to|down to|hit|reads?|shows?|says))"
    r" (\d{2,3}(?:[.,]\d)?)\s*(°?[cf]\b)?(?!\s*(?:%|[x:/]|per ?cent|l\b|lit|gal|cm|mm|kg|m?g\b|ppm|dkh|"
    r"inch|in\b(?! the)|hours?|days?|weeks?|months?|years?|min|fish|[.,]?\d))"
)
OF_ROOM = regex(r"\broom\b[^,;.]{0,10}$")
FOOD = regex(r"\bfed\s+(?:about\s+|them\s+)?(\d+(?:[.,]\d+)?)\s*g\b")
QUANTITY = {
    "am": "ammonia", "ammonia": "ammonia", "nh3": "ammonia", "nh4": "ammonia", "tan": "ammonia", "ni": "nitrite",
    "nitrite": "nitrite", "no2": "nitrite", "na": "nitrate", "nitrate": "nitrate", "no3": "nitrate", "ph": "ph",
    "kh": "kh", "dkh": "kh", "alk": "kh", "t": "temp", "temp": "temp", "temperature": "temp", "sal": "salinity",
    "salinity": "salinity", "o2": "oxygen", "oxygen": "oxygen", "copper": "copper", "cu": "copper",
    "chlorine": "chlorine",
}  # fmt: skip
# What those boxes of the observation form stand for that have another name in data/heard.toml
OF_SIGN: Mapping[str, tuple[str, ...]] = {
    "gasping": ("gasp",), "fast_gills": ("breath",), "lying": ("bottom",), "clamped": ("clamp",),
    "flashing": ("flash",), "hiding": ("hide",), "not_eating": ("refuse",), "red_gills": ("redgill",),
    "spots": ("grains",), "deaths": ("dead",), "dawn": ("gasp", "dawn"), "darting": ("dart",), "listing": ("list",),
    "missing": ("gone",),
}  # fmt: skip


# Keys of data/heard.toml of what is seen on animals and in the water, whose words mean hardly anything else; no deed,
# loss or fault, which have entries of their own
SEEN = frozenset((
    "breath", "inflow", "redgill", "browngill", "palegill", "onegill", "clamp", "grains", "dust", "slime", "tuft",
    "sore", "torn", "swell", "popeye", "blister", "refuse", "list", "milky", "film", "eggs_smell", "bleached",
    "coral_shut", "coral_bare", "snail_shut", "snail_up", "invert_ill", "poison", "poison_strong", "string",
    "one_eye", "worm_seen", "half_eaten", "unmoved", "bottom", "still_surface", "pale", "flash", "hide",
))  # fmt: skip
ELSEWHERE = regex(
    r"\b(?:bought|ordered|arrived|delivered|shop|store|wife|husband|partner's|cat|dog|wall|kitchen|bath\w*|lawn|roses)\b"
)


def is_seen(text: str, lexicon: Lexicon) -> bool:
    """Whether the words tell of something seen in this tank, and of nothing else."""
    return ELSEWHERE.search(text) is None and not words_of(text, lexicon).keys.isdisjoint(SEEN)


@dataclass(frozen=True)
class SaidNumber:
    """A number in words, canonical units (deg C, g/kg; nitrogen as the keeper's kit gives it)."""

    quantity: str
    value: float


@dataclass(frozen=True)
class Words:
    """What one text says: keys of data/heard.toml, and numbers of this tank's own water."""

    keys: frozenset[str]
    numbers: tuple[SaidNumber, ...]
    everybody: bool


EVERYBODY = regex(r"\b(?:all|every\w*|(?<!the )fish|they|whole tank|the fish)\b")


@lru_cache(maxsize=4096)
def words_of(text: str, lexicon: Lexicon) -> Words:
    low = " ".join(text.lower().replace("’", "'").split())
    clauses = [c.strip() for c in CLAUSE.split(low) if c.strip()] or [low]
    keys = {w.key for w in lexicon.rows for c in clauses if w.within(c)}
    # What was written over a comma ('film from edge to edge, surface is still') still belongs together.
    keys |= {w.key for w in lexicon.rows if w.key not in keys and "," in low and _over_comma(w, low, clauses)}
    return Words(frozenset(keys), tuple(_numbers(low)), bool(EVERYBODY.search(low)))


def _over_comma(word: HeardWord, low: str, clauses: Sequence[str]) -> bool:
    flat = low.replace(",", "")
    return not any(word.said.search(c) for c in clauses) and bool(word.said.search(flat)) and word.within(flat)


def _numbers(low: str) -> list[SaidNumber]:
    found = []
    for hit in NUMBER.finditer(low):
        if OTHER_WATER.search(low[: hit.start()]):
            continue
        quantity, text = QUANTITY[hit[1]], hit[2].lstrip("<>").replace(",", ".")
        try:
            value = float(text)
        except ValueError:
            continue
        if quantity == "temp" and (hit[3] or "").endswith("f"):
            value = canonical(value, "°F", "temp")
        if quantity == "salinity" and (hit[3] == "sg" or 0.99 < value < 1.1):
            continue  # a specific gravity is for the test form, with its temperature
        found.append(SaidNumber(quantity, value))
    if not any(n.quantity == "temp" for n in found):
        for hit in DEGREES.finditer(low):
            if not OTHER_WATER.search(low[: hit.start()]) and not OF_ROOM.search(low[: hit.start()]):
                value = float(hit[1].replace(",", "."))
                found.append(SaidNumber("temp", canonical(value, "°F", "temp") if hit[2] == "f" else value))
    if not any(n.quantity == "temp" for n in found):
        found += [n for hit in STANDS_AT.finditer(low) if (n := _warmth(low, hit)) is not None]
    found += [SaidNumber("food", float(hit[1].replace(",", "."))) for hit in FOOD.finditer(low)]
    return found


WARM_AS_WATER = (8.0, 45.0)  # deg C: what a tank can have come to


def _warmth(low: str, hit: re.Match[str]) -> SaidNumber | None:
    if OTHER_WATER.search(low[: hit.start()]) or OTHER_WATER.search(hit[0]) or "room" in hit[0]:
        return None
    value = float(hit[1].replace(",", "."))
    least, most = WARM_AS_WATER
    if (hit[2] or "").endswith("f") or value > most:
        value = canonical(value, "°F", "temp")
    return SaidNumber("temp", value) if least <= value <= most else None


def without_numbers(clause: str) -> str:
    """What is left of a clause beside the readings in it."""
    for pattern in (NUMBER, DEGREES, FOOD, STANDS_AT):
        clause = pattern.sub(" ", clause)
    return " ".join(clause.split())


@dataclass(frozen=True)
class Heard:
    """One entry's words: what they say, about whom, and when. `species`: those named who live here."""

    entry: Entry
    text: str
    keys: frozenset[str]
    numbers: tuple[SaidNumber, ...]
    species: frozenset[str]
    everybody: bool

    @property
    def at(self) -> datetime:
        return self.entry.at

    def any(self, *keys: str) -> bool:
        return not self.keys.isdisjoint(keys)


def hear(
    entries: Iterable[Entry], lexicon: Lexicon, species: Mapping[str, Species], here: frozenset[str]
) -> tuple[Heard, ...]:
    """All words of these entries, in their order; entries without any are left out."""
    one = hearing(lexicon, species, here)
    return tuple(heard for heard in map(one, entries) if heard is not None)


def hearing(lexicon: Lexicon, species: Mapping[str, Species], here: frozenset[str]) -> Callable[[Entry], Heard | None]:
    """What hears the words of one entry, None where it has none; `here`: species that may be named."""
    called = {k: _names(tuple(names_of(species[k]))) for k in here if k in species}

    def heard(entry: Entry) -> Heard | None:
        signs = [k for s in getattr(entry.body, "signs", ()) for k in OF_SIGN.get(s, (s,))]
        text = _text(entry)
        if not text and not signs:
            return None
        words = words_of(text, lexicon) if text else Words(frozenset(), (), False)
        keys = words.keys | frozenset(signs)
        return Heard(entry, text, keys, words.numbers, _named(text, called), words.everybody or bool(signs))

    return heard


def _text(entry: Entry) -> str:
    body, parts = entry.body, [entry.note]
    if isinstance(body, Observation | Note):
        parts.insert(0, body.text)
    elif isinstance(body, Death):
        parts.insert(0, body.cause)
    else:
        parts += [getattr(body, name) for name in ("text", "what") if isinstance(getattr(body, name, None), str)]
    return ". ".join(p.strip() for p in parts if p and p.strip())


NOBODY = regex(r"(?!)")  # of a row without a name


@lru_cache(maxsize=512)
def _names(name: tuple[str, ...]) -> re.Pattern[str]:
    """A species by its whole names or by the last word of one ('neons', 'the gourami', 'rasboras')."""
    whole = [n for n in name if n.strip()]
    parts = {w for n in whole for w in (n, n.split()[-1], *n.split()[:1]) if len(w) > 3} or set(whole)
    longest_first = sorted(parts, key=len, reverse=True)
    return regex(r"\b(?:" + "|".join(map(re.escape, longest_first)) + r")(?:e?s)?\b") if parts else NOBODY


def _named(text: str, called: Mapping[str, re.Pattern[str]]) -> frozenset[str]:
    low = text.lower()
    return frozenset(key for key, names in called.items() if names.search(low))
