"""What those who live in a tank weigh, eat and put out on a day: asked by many rules of a look, worked out once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from jarbloom.core.animals.bioload import load_of, mass_g, usual_feed_g_day
from jarbloom.core.animals.growth import length_on
from jarbloom.core.model.species import Animals, Species
from jarbloom.kept import Kept


@dataclass(frozen=True)
class Upkeep:
    """mg N a day, g of dry feed a day by the usual ration, and g of those that move and so breathe hardest, at the
    lengths of that day. `of`: who, and by which rows: held as long as this is kept, so that no other is taken for
    them."""

    load: float
    feed_g: float
    moving_g: float
    of: tuple[tuple[Animals, ...], Mapping[str, Species]]


_kept: Kept[Upkeep] = Kept(64)


def upkeep(living: tuple[Animals, ...], species: Mapping[str, Species], temp_c: float, day: date) -> Upkeep:
    """Of the very same animals by the very same rows it is known already."""

    def work_out() -> Upkeep:
        kinds = ((a, species.get(a.species, species["unknown"])) for a in living)
        moving_g = sum(a.count * mass_g(k, length_on(a, k, day)) for a, k in kinds if k.moves)
        load, feed_g = load_of(living, species, temp_c, day).total, usual_feed_g_day(living, species, temp_c, day)
        return Upkeep(load, feed_g, moving_g, (living, species))

    return _kept.once((id(living), id(species), temp_c, day), work_out)
