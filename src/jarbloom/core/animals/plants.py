"""What speaks for and against a plant in this tank: its water, and who of those in it eats or uproots it."""

from __future__ import annotations

from collections.abc import Iterable

from jarbloom.core.animals.home import Home
from jarbloom.core.animals.names import plural
from jarbloom.core.model.plant import Plant
from jarbloom.core.model.species import Species
from jarbloom.units import Units, figure

TAKES_MUCH = "high"  # uptake of nitrogen


def against(plant: Plant, home: Home, living: Iterable[Species], units: Units) -> tuple[str, ...]:
    """Sentences; none where nothing speaks against it."""
    return (*_water(plant, home, units), *_animals(plant, living))


def _water(plant: Plant, home: Home, units: Units) -> Iterable[str]:
    if home.salinity_g_kg > plant.salt_high:
        yield f"too salty: it bears {figure(plant.salt_high)} g/kg"
        return
    cold, warm = home.seasons_c or (home.temp_c, home.temp_c)
    lives = f"{units.temp(plant.temp_low)} to {units.temp(plant.temp_high)}"
    if warm > plant.temp_high:
        yield f"too warm: {lives}"
    if cold < plant.temp_low:
        yield f"too cold{' in winter' if home.seasons_c else ''}: {lives}"
    if not plant.ph_low <= home.ph <= plant.ph_high:
        yield f"pH {figure(home.ph, 2)}: it lives in {figure(plant.ph_low)} to {figure(plant.ph_high)}"
    if plant.floating and plant.position == "floating" and home.turnover > 8:
        yield "strong flow drives it under"


def _animals(plant: Plant, living: Iterable[Species]) -> Iterable[str]:
    for kind in living:
        if kind.eats_plants and plant.eaten != "hardly":
            yield f"{plural(kind.name, 2)} eat it" if plant.eaten == "gladly" else f"{plural(kind.name, 2)} may eat it"
        elif kind.digs and plant.position in ("foreground", "midground"):
            yield f"{plural(kind.name, 2)} may dig it up"


def takes(plants: Iterable[Plant]) -> str:
    """What those that grow here do to nitrogen, in a sentence; '' where none does much."""
    fast = [p.name for p in plants if p.uptake == TAKES_MUCH]
    if not fast:
        return ""
    return (
        f"Fast growers: {', '.join(fast)}. They take ammonia before the bloom does: less is seen than animals put "
        "out, and a test at zero proves less of the bloom. Cut back or sold, they leave the whole load to it."
    )


def by_night(plants: Iterable[Plant]) -> str:
    """Cover on the surface, and much that breathes by night; '' where neither."""
    cover = [p.name for p in plants if p.position == "floating"]
    if not cover:
        return ""
    return f"On the surface: {', '.join(cover)}. Less light below, less oxygen in: keep a third of the surface open."
