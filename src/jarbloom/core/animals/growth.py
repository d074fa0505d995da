"""Length over time: von Bertalanffy from the length on arrival to the adult length, put right by what was measured."""

from __future__ import annotations

import math
from datetime import date, timedelta
from itertools import pairwise

from jarbloom.core.model.species import Animals, Species

YEAR_DAYS = 365.25
TELLS_AFTER_DAYS = 60  # a tape in moving water errs by millimetres: a pace is read off two months or more (judgement)
# Of the pace of its row: no individual is believed to grow slower or faster (judgement). Slower is believed less far:
# what is large too soon harms, what stays small does not.
PACE = (0.5, 3.0)


def adult_cm(animals: Animals, species: Species) -> float:
    """What it grows to: its row's adult length, or what was measured where that is more."""
    return max([species.adult_cm, *(cm for _, cm in animals.measured[-1:])])


def pace(animals: Animals, species: Species) -> float:
    """How many times as fast as its row it grew up to the last measuring; 1 where that cannot be told."""
    start, adult = _start(animals, species), adult_cm(animals, species)
    if not animals.measured or animals.since is None:
        return 1.0
    day, cm = animals.measured[-1]
    days = (day - animals.since).days
    if days < TELLS_AFTER_DAYS or not start < adult or cm >= adult or species.growth_k <= 0:
        return 1.0
    k = math.log((adult - start) / (adult - max(cm, start))) * YEAR_DAYS / days
    return min(max(k / species.growth_k, PACE[0]), PACE[1])


def length_on(animals: Animals, species: Species, on: date | None) -> float:
    """Length (cm) on a date: L = adult - (adult - L0) exp(-K t), t in years (von Bertalanffy 1938), from arrival, or
    from the last measuring at the pace that this animal was measured at; between the two in proportion to the days.
    Without a date, or before arrival, the length on arrival (shop length when it was not noted)."""
    start = _start(animals, species)
    if on is None or animals.since is None or on <= animals.since:
        return start
    if not animals.measured:
        adult = max(species.adult_cm, start)
        return adult - (adult - start) * math.exp(-species.growth_k * (on - animals.since).days / YEAR_DAYS)
    for (day, cm), (then, later) in pairwise([(animals.since, start), *animals.measured]):
        if on < then:
            return cm + (later - cm) * (on - day).days / max((then - day).days, 1)
    day, cm = animals.measured[-1]
    adult, k = adult_cm(animals, species), species.growth_k * pace(animals, species)
    return adult - (adult - cm) * math.exp(-k * (on - day).days / YEAR_DAYS)


def reaches(animals: Animals, species: Species, cm: float, today: date) -> date | None:
    """The day on which it is so long, today or later by the same curve; None: never."""
    now = length_on(animals, species, today)
    if now >= cm:
        return today
    adult, k = adult_cm(animals, species), species.growth_k * pace(animals, species)
    if cm >= adult or k <= 0:
        return None
    years = math.log((adult - now) / (adult - cm)) / k
    return today + timedelta(days=math.ceil(YEAR_DAYS * years))


def _start(animals: Animals, species: Species) -> float:
    return animals.length_cm if animals.length_cm is not None else species.shop_cm
