"""What is measured now and then beside the usual tests: hardness, oxygen, chlorine, copper, what corals use."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import number_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.errors import Refused
from jarbloom.units import NBSP, Units, figure

DGH_PER_PPM = 1 / 17.848  # as CaCO3 (docs/science.md, units)
SAID: Mapping[str, str] = {
    "gh": "gh", "dgh": "gh", "po4": "phosphate", "phosphate": "phosphate", "calcium": "calcium", "ca": "calcium",
    "magnesium": "magnesium", "mg": "magnesium", "tds": "tds", "chlorine": "chlorine", "cl2": "chlorine",
    "copper": "copper", "cu": "copper", "o2": "oxygen", "oxygen": "oxygen",
}  # fmt: skip
USUAL = {
    "gh": 40,
    "phosphate": 5,
    "calcium": 600,
    "magnesium": 1800,
    "tds": 5000,
    "chlorine": 5,
    "copper": 2,
    "oxygen": 15,
}


@kind
class Measured(Kind):
    """mg/L each, GH in dGH; at least one of them."""

    key: ClassVar[str] = "measured"
    label: ClassVar[str] = "Other readings"
    lane: ClassVar[str] = "readings"
    example: ClassVar[str] = "o2 7.5 gh 8"
    place: ClassVar[int] = 2
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = tuple(w for w in SAID if w not in ("ca", "mg", "cl2", "cu"))
    gh: float | None = number_field("GH", unit="dGH", high=100)
    oxygen: float | None = number_field("oxygen", unit="mg/L", high=25)
    chlorine: float | None = number_field("chlorine, total", unit="mg/L", high=10)
    copper: float | None = number_field("copper", unit="mg/L", high=10)
    phosphate: float | None = number_field("phosphate", unit="mg/L", high=50)
    calcium: float | None = number_field("calcium", unit="mg/L", high=2000)
    magnesium: float | None = number_field("magnesium", unit="mg/L", high=5000)
    tds: float | None = number_field("TDS", unit="mg/L", high=60000)

    def __post_init__(self) -> None:
        super().__post_init__()
        if not self.told:
            raise Refused("Give at least one reading.", "gh")

    @property
    def told(self) -> dict[str, float]:
        """What was measured, by quantity."""
        return {s.name: v for s in self.specs if (v := getattr(self, s.name)) is not None}

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        fields = {s.name: s for s in self.specs}
        return ", ".join(f"{fields[q].label} {figure(v, 3)}{NBSP}{fields[q].unit}" for q, v in self.told.items())

    def repeats(self, other: Body) -> bool:
        return isinstance(other, Measured) and not self.told.keys().isdisjoint(other.told)

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        found: dict[str, float] = {}
        word = line.word
        while word:
            quantity = SAID[word]
            if quantity in found:
                raise Ask(f"{word} stands twice in this line")
            if quantity == "copper" and not line.take("test", "reads"):
                told = line.number("copper", units=("mg/l", "ppm"))
                raise Ask("Copper measured, or copper medicine given?", Tap("measured", line.rewritten("copper "
                                                                                                       "test "
                                                                                                       f"{told.typed}")),
                          Tap("medicine", line.rewritten(f"medicine copper {told.typed}")))  # fmt: skip
            told = line.number(word, units=("mg/l", "ppm", "dgh"))
            value = told.value * (DGH_PER_PPM if quantity == "gh" and told.unit in ("ppm", "mg/l") else 1.0)
            if told.unit == "dgh" and quantity != "gh":
                raise Ask(f"{word} in dGH? Use mg/L.")
            line.doubt(value > USUAL[quantity], f"{word} {told.typed}: is that right?")
            found[quantity] = value
            word = line.take(*SAID)
        made = cls.from_raw(found)
        return Heard(made, "other readings", ", ".join(f"{q} {figure(v, 3)}" for q, v in found.items()))
