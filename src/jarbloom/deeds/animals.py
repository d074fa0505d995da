"""Who lives in a tank and is planned for it, put together for compatibility and the finder."""

from __future__ import annotations

from collections.abc import Sequence

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.company import Case
from jarbloom.core.animals.compatibility import case_of
from jarbloom.core.animals.home import home_of
from jarbloom.core.model.species import Animals

MOST_TRIED = 15


def case_here(s: Situation, tried: Sequence[str] = (), alone: bool = False, planned: bool = True) -> Case:
    """The living, the planned, and smallest groups of the species that are tried out; `alone`: only these."""
    species = s.reference.species
    coming = [a for b in s.waiting for a in b.items] if planned else []
    here = [] if alone else [*s.living, *coming]
    keys = {a.species for a in here}
    more = [Animals(k, species[k].group_min, species[k].shop_cm) for k in tried if k in species and k not in keys]
    return case_of(home_of(s.tank), [*here, *more], species, s.now.date(), s.units)


def room_mg_n_day(s: Situation) -> float:
    """What the bloom is sure of beyond those who live here, and the filter beyond what they grow up to. The plan is not
    counted."""
    f = s.forecast
    return max(0.0, min(f.sure - f.load_now, f.ceiling - f.load_adult))
