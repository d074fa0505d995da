"""The short form for 'fish are in and something is wrong'."""

from __future__ import annotations

import re

from jarbloom.core.animals.names import match_species, nearest_species
from jarbloom.core.model.kit import QUANTITIES
from jarbloom.core.model.species import Animals
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.keep_tank import Trouble
from jarbloom.errors import Refused
from jarbloom.units import canonical, number
from jarbloom.web.deps import Form
from jarbloom.web.forms.fields import Errors

_COUNTED = re.compile(r"^\s*(\d{1,4})?\s*x?\s*(.+?)\s*$")


def animals_of(text: str, desk: Desk) -> tuple[Animals, ...]:
    """'6 neon tetra, 2 corys' to groups. Raises Refused naming what is not known, with the nearest name."""
    found = []
    for part in re.split(r"[,;\n]+|\band\b", text):
        if not part.strip():
            continue
        match = _COUNTED.match(part)
        assert match is not None
        name, count = match[2], int(match[1] or 1)
        if count < 1:
            raise Refused(f"“{part.strip()[:40]}”: how many?", "animals")
        key = match_species(name, desk.reference.species)
        if key is None:
            near = nearest_species(name, desk.reference.species)
            hint = f"did you mean {near}?" if near else "write unknown for an animal that is not listed."
            raise Refused(f"“{name[:40]}” is not in the catalogue: {hint}", "animals")
        found.append(Animals(key, count))
    if not found:
        raise Refused("Say what lives in it; 6 unknown will do.", "animals")
    return tuple(found)


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
        days = int(number(typed.text("days_in") or "3", "days_in", low=0, high=70))
    except Refused as problem:
        errors.add(problem, "days_in")
    if errors:
        return None, errors
    readings = {q: typed.text(q) for q in QUANTITIES}
    name = typed.text("name") or "My tank"
    return Trouble(
        name[:80], litres, animals, days, 25.0, readings, tuple(typed.all("signs")), typed.text("words")[:2000]
    ), errors
