"""Who refuses food, and since when."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds.feeding_trial import FeedingTrial
from jarbloom.core.journal.log import Log
from jarbloom.core.model.species import Species

SMALL_CM = 6.0
DAYS_BORNE = (5, 10)  # without food until a small and a larger fish loses flesh (practice; newcomers fast a day or two)
HARD_DAYS = 4  # for those that often starve in tanks: their row says refusal high


@dataclass(frozen=True)
class Refuser:
    """`since`: the first refusal after it last ate. `pressing`: so long that it loses flesh."""

    species: str
    since: datetime
    days: int
    foods: tuple[str, ...]
    last_ate: datetime | None
    pressing: bool


def refusers(log: Log, species: Mapping[str, Species], now: datetime) -> tuple[Refuser, ...]:
    """Kinds living here whose last trial was a refusal, the longest first. 'A little' neither begins nor ends it."""
    living = {a.species for a in stock(log, now.date())}
    found: list[Refuser] = []
    for key in dict.fromkeys(e.body.species for e in log.kinds(FeedingTrial)):
        trials = [e for e in log.kinds(FeedingTrial) if e.body.species == key]
        ate = [e for e in trials if e.body.taken == "eaten"]
        after = [e for e in trials if e.body.taken == "refused" and (not ate or e.order > ate[-1].order)]
        kind = species.get(key)
        if key not in living or not after or kind is None or not kind.moves:
            continue
        days = (now - after[0].at).days
        borne = HARD_DAYS if kind.refusal == "high" else DAYS_BORNE[kind.adult_cm > SMALL_CM]
        foods = tuple(dict.fromkeys(e.body.food for e in after if e.body.food))
        found.append(Refuser(key, after[0].at, days, foods, ate[-1].at if ate else None, days >= borne))
    return tuple(sorted(found, key=lambda r: -r.days))
