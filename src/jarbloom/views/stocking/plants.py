"""The page of plants: those that grow here by the log, and the inventory with what speaks for and against each."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.home import Home, home_of
from jarbloom.core.animals.plants import against, by_night, takes
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds.planted import PLANTS
from jarbloom.core.journal.planting import Growing, growing
from jarbloom.core.model.plant import Plant
from jarbloom.core.model.species import Species
from jarbloom.units import Units
from jarbloom.views.drawn.standing import drawn_once

PLACES = ("foreground", "midground", "background", "wood or rock", "floating")


@dataclass(frozen=True)
class GrowingRow:
    key: str
    name: str
    count: str
    since: str
    against: tuple[str, ...]
    caution: str


@dataclass(frozen=True)
class PlantRow:
    """`wants`: light, growth, height, in words; `water`: the ranges it bears."""

    key: str
    name: str
    scientific: str
    wants: str
    water: str
    eaten_by: str
    against: tuple[str, ...]
    caution: str


@dataclass(frozen=True)
class PlantPage:
    """`unsaid`: plants stand in the log while the set-up says that the tank has none."""

    call: str
    words: str
    here: tuple[GrowingRow, ...]
    takes: str
    by_night: str
    unsaid: bool
    places: tuple[tuple[str, tuple[PlantRow, ...]], ...]


@drawn_once
def plant_page(s: Situation, units: Units) -> PlantPage:
    plants = s.reference.plants
    home = home_of(s.tank)
    alive = dict.fromkeys(a.species for a in stock(s.entries, s.now.date()))
    living = [s.reference.species[k] for k in alive if k in s.reference.species]
    there = growing(s.entries, s.now)
    known = [plants[g.plant] for g in there if g.plant in plants]

    def row(p: Plant) -> PlantRow:
        return PlantRow(
            p.key, p.name, p.scientific, f"{p.light} light, grows {_PACE[p.growth]}, {units.length(p.height_cm)} high",
            f"{units.temp(p.temp_low)} to {units.temp(p.temp_high)}, pH {p.ph_low:g} to {p.ph_high:g}", p.eaten_by,
            against(p, home, living, units), p.caution,
        )  # fmt: skip

    def grows(g: Growing) -> GrowingRow:
        plant = plants.get(g.plant)
        said = against(plant, home, living, units) if plant else ()
        return GrowingRow(
            g.plant, PLANTS[g.plant][0], str(g.count) if g.count else "", f"since {g.since:%-d %b %Y}", said,
            plant.caution if plant else "",
        )  # fmt: skip

    places = tuple(
        (place, tuple(row(p) for p in _best(place, plants.values(), home, living, units))) for place in PLACES
    )
    fitting = sum(not r.against for _, rows in places for r in rows)
    call = f"{len(there)} kind{'s' if len(there) != 1 else ''} of plants." if there else "No plants in the log."
    text = f"{fitting} of the {len(plants)} below suit this water and those who live in it."
    return PlantPage(
        call, text, tuple(grows(g) for g in there), takes(known), by_night(known), bool(there) and not s.tank.planted,
        places,
    )  # fmt: skip


_PACE = {"slow": "slowly", "medium": "steadily", "fast": "fast"}


def _best(place: str, plants: Iterable[Plant], home: Home, living: list[Species], units: Units) -> list[Plant]:
    """Those of a place, the ones that suit first."""
    mine = [p for p in plants if p.position == place]
    return sorted(mine, key=lambda p: (len(against(p, home, living, units)), p.name.lower()))
