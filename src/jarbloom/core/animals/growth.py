"""Length over time: von Bertalanffy from the length on arrival to the adult length."""

from __future__ import annotations

import math
from datetime import date, timedelta

from jarbloom.core.model.species import Animals, Species


def length_on(animals: Animals, species: Species, on: date | None) -> float:
    """Length (cm) on a date: L = Linf - (Linf - L0) exp(-K t), t in years (von Bertalanffy 1938).

    Without a date, or before arrival, the length on arrival (shop length when it was not noted).
    """
    start = animals.length_cm if animals.length_cm is not None else species.shop_cm
    if on is None or animals.since is None or on <= animals.since:
        return start
    years = (on - animals.since).days / 365.25
    adult = max(species.adult_cm, start)
    return adult - (adult - start) * math.exp(-species.growth_k * years)


def reaches(animals: Animals, species: Species, cm: float, today: date) -> date | None:
    """The day on which it is so long, today or later by the same curve; None: never."""
    now = length_on(animals, species, today)
    if now >= cm:
        return today
    if cm >= species.adult_cm or species.growth_k <= 0:
        return None
    years = math.log((species.adult_cm - now) / (species.adult_cm - cm)) / species.growth_k
    return today + timedelta(days=math.ceil(365.25 * years))
