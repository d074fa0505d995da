"""Length over time: von Bertalanffy from the length on arrival to the adult length."""

from __future__ import annotations

import math
from datetime import date

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
