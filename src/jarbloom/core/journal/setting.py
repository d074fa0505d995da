"""What the log needs to know of a tank and its keeper before something is taken down."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from jarbloom.core.model.kit import Kit
from jarbloom.core.model.species import Species
from jarbloom.core.model.words import Lexicon
from jarbloom.units import Units


@dataclass(frozen=True)
class Setting:
    """Net litres, kit, catalogue, who lives there (heads by species), how the keeper counts, and the species of those
    with a name of their own (by the name in small letters)."""

    net_l: float
    kit: Kit
    units: Units
    species: Mapping[str, Species]
    living: Mapping[str, int] = field(default_factory=dict)
    solution_percent: float = 9.5
    names: Mapping[str, str] = field(default_factory=dict)
    lexicon: Lexicon = field(default_factory=Lexicon)  # how what is seen is said
    dates: str = ""  # in a date typed in figures 'day' or 'month' comes first; empty: as usual with the units

    @property
    def day_first(self) -> bool:
        return self.dates == "day" or (self.dates == "" and self.units.system == "metric")
