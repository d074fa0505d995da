"""From what a keeper calls an animal to its row in the catalogue."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Mapping

from jarbloom.core.model.species import Animals, Species


def _stem(word: str) -> str:
    """Singular of a name, roughly: 'guppies', 'loaches', 'rasboras'."""
    if len(word) <= 4 or word.endswith("ss"):
        return word
    if word.endswith("ies"):
        return word[:-3] + "y"
    if word.endswith(("ches", "shes", "xes")):
        return word[:-2]
    return word.removesuffix("s")


def names_of(kind: Species) -> list[str]:
    return [n.lower() for n in (kind.name, kind.scientific, kind.key.replace("_", " "), *kind.synonyms)]


def match_species(text: str, species: Mapping[str, Species], living: tuple[str, ...] = ()) -> str | None:
    """Catalogue key for a name, a synonym or a part of it; those who live in the tank come first.

    A part of a name counts only when it points at one species.
    """
    wanted = _stem(text.lower().strip())
    exact = [k for k, s in species.items() if any(_stem(n) == wanted for n in names_of(s))]
    inside = (
        [
            k
            for k, s in species.items()
            if any(wanted in n.split() or wanted in _stem(n).split() or f" {wanted}" in f" {n}" for n in names_of(s))
        ]
        if len(wanted) > 2
        else []
    )
    for found in (exact, inside):
        here = [k for k in found if k in living]
        if len(here) == 1 or (here and len(found) > 1 and exact):
            return here[0]
        if len(found) == 1:
            return found[0]
    return exact[0] if exact else None


def nearest_species(text: str, species: Mapping[str, Species]) -> str:
    names = {n: s.name for s in species.values() for n in names_of(s)}
    near = difflib.get_close_matches(_stem(text.lower()), names, n=1, cutoff=0.6)
    return names[near[0]] if near else ""


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
