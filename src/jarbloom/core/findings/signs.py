"""Signs in the animals as they are meant: an air breather at the surface is at home there."""

from __future__ import annotations

from datetime import datetime, timedelta

from jarbloom.core.findings.facts import Facts
from jarbloom.core.journal.hearing import Heard

# Fish that breathe air beside water, by a part of their names (practice)
AIR_BREATHERS = (
    "gourami", "betta", "fighting fish", "paradise", "cory", "loach", "bichir", "ropefish", "lungfish", "snakehead",
    "callichthy", "hoplo", "climbing perch", "walking", "pleco", "bristlenose", "mudskipper",
)  # fmt: skip
GILLS = ("gasp", "breath", "inflow", "redgill", "browngill", "palegill", "onegill")
TRACE_H = 48
SURE_GILLS = ("breath", "redgill", "browngill", "palegill")


def breathes_air(name: str) -> bool:
    return any(word in name.lower() for word in AIR_BREATHERS)


def gill_signs(facts: Facts, heard: Heard) -> bool:
    """Whether words tell of gills in trouble. A gulp of air by an air breather alone, or a moult, is life as usual."""
    if not heard.any(*GILLS):
        return False
    if heard.any(*SURE_GILLS):
        return True
    named = [facts.reference.species[k] for k in heard.species if k in facts.reference.species]
    alone = bool(named) and all(breathes_air(k.name) or breathes_air(k.scientific) for k in named)
    many = any(w in heard.text.lower() for w in ("all ", "every", "both", "they all", "rest"))
    return not (alone and not many and heard.any("gasp") and not heard.any("inflow"))


def gill_words(facts: Facts, hours: float) -> tuple[Heard, ...]:
    return tuple(h for h in facts.said(*GILLS, hours=hours) if gill_signs(facts, h))


def newcomer_only(facts: Facts, heard: Heard) -> bool:
    """The words are about newcomers of the last two days and nobody else."""
    came = {getattr(e.body, "species", "") for e in facts.newcomers(50)}
    return bool(came) and (bool(heard.species) and heard.species <= came)


def first_evening(facts: Facts, heard: Heard) -> bool:
    """Within a day and a half after arrivals, about them or about nobody by name."""
    came = facts.newcomers(24 * 3)
    return any(timedelta(0) <= heard.at - e.at <= timedelta(hours=36) for e in came) and (
        not heard.species or newcomer_only(facts, heard)
    )


def hours_between(a: datetime, b: datetime) -> float:
    return abs((a - b).total_seconds()) / 3600


def waste_read(facts: Facts, hours: float = TRACE_H) -> bool:
    """Ammonia or nitrite above the kit's lowest step within so many hours."""
    return any(
        c.reading is not None and c.reading.reading.low > 0 and c.reading.at >= facts.since(hours)
        for c in facts.credible.values()
    )
