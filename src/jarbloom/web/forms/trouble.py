"""The short form for 'fish are in and something is wrong'."""

from __future__ import annotations

import re

from jarbloom.core.animals.names import called, match_species, nearest_species
from jarbloom.core.model.choices import USUAL_WATERS
from jarbloom.core.model.kit import QUANTITIES
from jarbloom.core.model.species import Animals
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.keep_tank import Trouble
from jarbloom.errors import Refused
from jarbloom.units import canonical, number
from jarbloom.web.deps import Form
from jarbloom.web.forms.fields import Errors

_COUNTED = re.compile(r"^\s*(\d{1,4}|some|a few|several|many)?\s*x?\s*(.+?)\s*$", re.IGNORECASE)
SOME = {"some": 6, "several": 6, "a few": 4, "many": 12}  # plain words for a number, taken as a usual one
PLAIN = {"fish", "fishes", "small fish", "big fish", "animals"}
MOST_DAYS = 7300
WATERS = {key: salt for key, (*_, salt) in USUAL_WATERS.items()}
FORMS = {"ammonia": ("N", "NH3", "NH4"), "nitrite": ("N", "NO2")}


def animals_of(text: str, desk: Desk) -> tuple[Animals, ...]:
    """'6 neon tetra, 2 corys' to groups. Raises Refused naming what is not known, with the nearest name."""
    found = []
    for part in re.split(r"[,;\n]+|\band\b", text):
        if not part.strip():
            continue
        match = _COUNTED.match(part)
        assert match is not None
        told, name = (match[1] or "1").lower(), match[2]
        count = SOME[told] if told in SOME else int(told)
        if count < 1:
            raise Refused(f"“{part.strip()[:40]}”: how many?", "animals")
        key = "unknown" if name.lower() in PLAIN else _meant(name, desk)
        if key is None:
            near = nearest_species(name, desk.reference.species)
            hint = f"did you mean {near}?" if near else "write unknown for an animal that is not listed."
            raise Refused(f"“{name[:40]}” is not in the catalogue: {hint}", "animals")
        found.append(Animals(key, count))
    if not found:
        raise Refused("Say what lives in it; 6 unknown will do.", "animals")
    return tuple(found)


def _meant(name: str, desk: Desk) -> str | None:
    """The species; of several that a plain word may mean ('tetras') the unknown animal, or one of the same group."""
    species = desk.reference.species
    key = match_species(name, species)
    if key is not None:
        return key
    could = called(name, species).keys
    groups = {species[k].group for k in could}
    if not could:
        return None
    return could[0] if len(groups) == 1 and groups != {"fish"} else "unknown"


def read_trouble(typed: Form, desk: Desk) -> tuple[Trouble | None, Errors]:
    errors, units = Errors(), desk.preferences.units
    litres, days = 0.0, 3
    animals: tuple[Animals, ...] = ()
    try:
        litres = canonical(number(typed.text("litres"), "litres"), units.unit("volume"), "volume")
        if not 1 <= litres <= 50000:
            raise Refused(f"{typed.text('litres')} is not the water of a tank.", "litres")
    except Refused as problem:
        errors.add(problem, "litres")
    try:
        animals = animals_of(typed.text("animals"), desk)
    except Refused as problem:
        errors.add(problem, "animals")
    try:
        days = int(number(typed.text("days_in") or "3", "days_in", low=0, high=MOST_DAYS))
    except Refused as problem:
        errors.add(problem, "days_in")
    tap: dict[str, float | None] = {"tap_ph": None, "tap_kh": None}
    for name, low, high in (("tap_ph", 3.0, 11.0), ("tap_kh", 0.0, 60.0)):
        try:
            tap[name] = number(typed.text(name), name, low=low, high=high) if typed.text(name) else None
        except Refused as problem:
            errors.add(problem, name)
    if errors:
        return None, errors
    forms = {q: typed.text(f"{q}_form") for q, known in FORMS.items() if typed.text(f"{q}_form") in known}
    readings = {q: typed.text(q) for q in QUANTITIES}
    name = typed.text("name") or "My tank"
    return Trouble(
        name[:80], litres, animals, days, 25.0, readings, tuple(typed.all("signs")), typed.text("words")[:2000],
        WATERS.get(typed.text("water"), 0.0), forms, tap["tap_ph"], tap["tap_kh"], tuple(typed.all("changed")),
    ), errors  # fmt: skip
