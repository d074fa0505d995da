"""The die-off record: who lives here, who was found, and what the log tells of the days before."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.advice.situation import TankSeen
from jarbloom.core.animals.names import plural
from jarbloom.core.journal.kinds.death import BODY, Death
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.job import JobAnswered

STATES = ("fresh", "swollen", "half eaten", "only a part found")
WHERE = ("on the floor of the tank", "at the surface", "at the filter", "behind something", "outside the tank")
BEFORE = timedelta(days=3)


@dataclass(frozen=True)
class LivingRow:
    species: str
    name: str
    count: int


@dataclass(frozen=True)
class DeathsPage:
    """`before`: what the log holds of the last three days, the latest first; `lost`: found dead since then."""

    rows: tuple[LivingRow, ...]
    states: tuple[str, ...]
    places: tuple[str, ...]
    bodies: tuple[tuple[str, str], ...]
    before: tuple[str, ...]
    lost: tuple[str, ...]


def deaths_page(seen: TankSeen) -> DeathsPage:
    s = seen.situation
    living: dict[str, int] = {}
    for a in s.living:
        living[a.species] = living.get(a.species, 0) + a.count
    species = s.reference.species
    lately = [e for e in s.entries.since((s.now - BEFORE).date()) if e.at >= s.now - BEFORE]
    told = [e for e in lately if not isinstance(e.body, Feed | JobAnswered)]
    return DeathsPage(
        tuple(LivingRow(k, plural(species[k].name if k in species else "animal", 2), n) for k, n in living.items()),
        STATES, WHERE, BODY,
        tuple(f"{e.at:%a %H:%M}: {e.body.label.lower()}, {e.body.words(species, s.units)}" for e in told[-12:][::-1]),
        tuple(e.body.words(species, s.units) for e in lately if isinstance(e.body, Death)),
    )  # fmt: skip
