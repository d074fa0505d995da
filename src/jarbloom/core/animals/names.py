"""From what a keeper calls an animal to its row in the catalogue."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

from jarbloom.core.model.species import Animals, Species


def _stem(word: str) -> str:
    """Singular of a name, roughly: 'guppies', 'loaches', 'rasboras'."""
    if len(word) <= 3 or word.endswith(("ss", "us")):
        return word
    if word.endswith("ies"):
        return word[:-3] + "y"
    if word.endswith(("ches", "shes", "xes")):
        return word[:-2]
    return word.removesuffix("s")


A_FAMILY = 3  # animals beside the one meant that are called something and this: then it is a word for a family


def names_of(kind: Species) -> list[str]:
    return [n.lower() for n in (kind.name, kind.scientific, kind.key.replace("_", " "), *kind.synonyms)]


@dataclass(frozen=True)
class Called:
    """The species that a name may mean: `exact` those that are called so, `part` those in whose names it stands,
    `here` those of either who live in the tank; `own` those whose own name it is, and no by-name."""

    exact: tuple[str, ...]
    part: tuple[str, ...]
    here: tuple[str, ...]
    own: tuple[str, ...]
    family: bool = False  # others are called something and this: 'shrimp', 'pleco', 'rasbora'

    @property
    def keys(self) -> tuple[str, ...]:
        """All that may be meant, those who live here first."""
        return tuple(dict.fromkeys((*self.here, *self.exact, *self.part)))

    def surely(self, new: bool = False) -> str | None:
        """The one that is meant without doubt, or None. Of those who live here a part of the name is enough. New ones
        have to be called by their own name, by one that is no word for a family, or by what those who live here are
        called alone."""
        if not new:
            among = [k for k in self.here if k in self.exact] or list(self.here)
            return among[0] if len(among) == 1 else None
        if len(self.own) == 1:
            return self.own[0]
        if len(self.exact) == 1 and not self.family:
            return self.exact[0]
        return self.here[0] if len(self.here) == 1 and (not self.family or self.here[0] in self.exact) else None


class _Names:
    """Every name of a catalogue in the singular, and what was looked up among them."""

    def __init__(self, species: Mapping[str, Species]) -> None:
        self.species = species
        self.names = {k: [singular(n) for n in names_of(s)] for k, s in species.items()}
        self.holding: dict[str, list[str]] = {}  # rows in whose names these words stand, one behind the other
        for key, so in self.names.items():
            for span in {" ".join(w[a:b]) for w in map(str.split, so) for a, b in combinations(range(len(w) + 1), 2)}:
                self.holding.setdefault(span, []).append(key)
        self.name_of = {n: s.name for s in species.values() for n in names_of(s)}
        self.rows_of = lru_cache(4096)(self._rows_of)
        self.nearest = lru_cache(4096)(self._nearest)

    def _rows_of(self, wanted: str) -> tuple[tuple[str, ...], tuple[str, ...], bool]:
        """(rows that are called so, rows in whose names it stands as whole words, whether others are called something
        and this)."""
        exact = tuple(k for k in self.holding.get(wanted, ()) if wanted in self.names[k])
        part = tuple(self.holding.get(wanted, ()))
        kin = [k for k in part if k not in exact and any(n.split()[-1] == wanted for n in self.names[k])]
        return exact, part, len(kin) >= A_FAMILY

    def _nearest(self, stem: str) -> str:
        near = difflib.get_close_matches(stem, self.name_of, n=1, cutoff=0.6)
        return self.name_of[near[0]] if near else ""


_of_lists: list[_Names] = []  # the last few catalogues that were asked
_LISTS = 4


def _names_in(species: Mapping[str, Species]) -> _Names:
    for known in _of_lists:
        if known.species is species:
            return known
    made = _Names(species)
    _of_lists.insert(0, made)
    del _of_lists[_LISTS:]
    return made


def called(text: str, species: Mapping[str, Species], living: Iterable[str] = ()) -> Called:
    """Rows whose name or synonym this is, and those in whose names it stands as whole words."""
    wanted = singular(text)
    if len(wanted) < 2:
        return Called((), (), (), ())
    names = _names_in(species)
    exact, part, family = names.rows_of(wanted)
    own = tuple(k for k in exact if wanted in (singular(species[k].name), singular(species[k].scientific)))
    alive = set(living)
    here = tuple(k for k in names.names if k in alive and (k in exact or k in part)) if alive else ()
    return Called(exact, part, here, own, family)


def match_species(text: str, species: Mapping[str, Species], living: Iterable[str] = ()) -> str | None:
    """The species that a name means where a wrong guess costs nothing, as on a plan; None where several may be."""
    found = called(text, species, living)
    if (key := found.surely()) is not None:
        return key
    return (*found.own, *found.exact)[0] if found.exact else (found.keys[0] if len(found.keys) == 1 else None)


@lru_cache(8192)
def singular(text: str) -> str:
    """A name in small letters with its last word in the singular."""
    words = text.lower().replace("-", " ").split()
    return " ".join([*words[:-1], _stem(words[-1])]) if words else ""


def is_plural(text: str, name: str) -> bool:
    """Whether a name was typed for several: 'neons', and names that are the same for one and for many."""
    last = text.lower().split()[-1]
    return _stem(last) != last or plural(name, 2) == name


def nearest_species(text: str, species: Mapping[str, Species]) -> str:
    """The name of the row whose names are most like this, '' where none is."""
    return _names_in(species).nearest(_stem(text.lower()))


def listed(animals: Iterable[Animals], species: Mapping[str, Species]) -> str:
    """'8 harlequin rasboras, 3 nerite snails'."""
    return ", ".join(
        f"{a.count} {plural(species[a.species].name if a.species in species else a.species, a.count)}" for a in animals
    )


def animal_name(key: str, species: Mapping[str, Species]) -> str:
    return species[key].name if key in species else key


def plural(name: str, count: int) -> str:
    """English plural of a species name that is good enough for fish: 'loach' -> 'loaches', 'tetra' -> 'tetras'."""
    unchanged = (
        "shrimp",
        "fish",
        "danios",
        "corydoras",
        "otocinclus",
        "bristlenose",
        "platys",
        "kribensis",
        "discus",
        "polyps",
    )
    if count == 1 or name.endswith(unchanged):
        return name
    if name.endswith("y") and name[-2] not in "aeiou":
        return name[:-1] + "ies"
    if name.endswith(("ch", "sh", "s", "x")):
        return name + "es"
    return name + "s"
