"""How a line that is being typed may go on: words of the log, and animals where a clause asks for one."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from jarbloom.core.animals.names import names_of, plural
from jarbloom.core.journal.asking import Tap
from jarbloom.core.journal.kinds.choices import DEVICES
from jarbloom.core.journal.kinds.planted import PLANTS
from jarbloom.core.journal.setting import Setting
from jarbloom.patterns import regex

MOST = 5
_LEAST = 2  # letters of a word before it is guessed
_COMING = ("in", "added", "arrived", "introduced", "got", "bought", "released", "put")
_THERE = (
    "dead", "died", "lost", "counted", "gave", "rehomed", "sold", "moved", "length", "ate", "refused", "escaped",
    "jumped", "name", "saw", "found",
)  # fmt: skip
_OTHERS = {"media": ("tank", "tap", "replaced", "dried"), "off": tuple(dict(DEVICES)), "on": tuple(dict(DEVICES)),
           "planted": tuple(name for name, _ in PLANTS.values()),
           "uprooted": tuple(name for name, _ in PLANTS.values())}  # fmt: skip
_WORDS = (
    "ammonia", "nitrite", "nitrate", "ph", "kh", "temp", "salinity", "wc", "changed", "fed", "dose", "conditioner",
    "detoxifier", "bacteria", "media", "top", "dead", "counted", "added", "gave", "born", "power", "medicine",
    "planted", "fault", "note", "saw", "length", "uninvited", "yesterday", "this morning", "last night",
)  # fmt: skip
_OPEN = regex(r"^(?P<before>.*?)(?P<word>[A-Za-z][A-Za-z' -]*)$", re.S)


def suggestions(line: str, setting: Setting) -> tuple[Tap, ...]:
    """The likeliest ways on from the word that is being typed, each as the whole line; none after a blank that ends a
    clause, and none where there is nothing to guess."""
    if not line or len(line) > 200 or not line[-1].isalpha():
        return ()
    tokens = line.split()
    for size in range(min(3, len(tokens)), 0, -1):  # of a name of several words the longest that begins one
        word = " ".join(tokens[-size:])
        before = line[: len(line) - len(word)] if line.endswith(word) else None
        if before is None:
            continue
        found = list(_goes_on(word.lower(), before, setting))
        if found:
            return tuple(Tap(w, f"{before}{w} ") for w in found[:MOST])
    return ()


def _goes_on(word: str, before: str, setting: Setting) -> Iterator[str]:
    """The words that `word` may become behind what stands before it."""
    verb, count = _verb(before)
    if verb in _OTHERS:
        yield from (w for w in _OTHERS[verb] if w.lower().startswith(word) and w.lower() != word)
        return
    if verb in _COMING or verb in _THERE:
        yield from _animals(word, verb in _COMING, count, setting)
        return
    if len(word) >= _LEAST and (not before or before[-1] in " ,;"):
        yield from (w for w in _WORDS if w.startswith(word) and w != word)


def _verb(before: str) -> tuple[str, int]:
    """The verb of the clause that is open, and the count behind it (1: none)."""
    found = re.search(r"([A-Za-z]+)(?: of)?(?: (\d{1,3}))? (?:more |new |the |my )?$", f" {before}")
    if found is None:
        return "", 1
    return found[1].lower(), int(found[2]) if found[2] else 1


def _animals(word: str, new: bool, count: int, setting: Setting) -> Iterator[str]:
    living = [k for k, n in setting.living.items() if n and k in setting.species]
    yield from dict.fromkeys(_called(word, living, count, setting))
    if new:
        rest = [k for k in setting.species if k not in living and k != "unknown"]
        if len(word) >= _LEAST:
            yield from dict.fromkeys(_called(word, rest, count, setting))


def _called(word: str, keys: Iterable[str], count: int, setting: Setting) -> Iterator[str]:
    """Names that begin so first, then those in which a later word does."""
    later = []
    for key in keys:
        kind = setting.species[key]
        names = names_of(kind)
        said = plural(kind.name, count)
        if any(n.startswith(word) for n in names):
            if said.lower() != word:
                yield said
        elif any(f" {word}" in f" {n}" for n in names):
            later.append(said)
    yield from later
