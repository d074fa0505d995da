"""Live rock."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import choice_field, number_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import KG_PER_LB, Units, figure

ROCK = (
    ("fresh", "from a running tank, kept under water"),
    ("shipped", "a day or two in wet paper"),
    ("long", "longer on the way, or it smells"),
)
UNUSUAL_KG_PER_L = 1.0


@kind
class Rock(Kind):
    """Wet weight in kg; `condition` '' counts as shipped."""

    key: ClassVar[str] = "rock"
    label: ClassVar[str] = "Live rock"
    example: ClassVar[str] = "rock 8 kg"
    place: ClassVar[int] = 8
    said: ClassVar[tuple[str, ...]] = ("rock", "liverock")
    kg: float = number_field(
        "wet weight", unit="kg", low=0.05, high=5000, required=True, column="amount", csv_unit="kg"
    )
    condition: str = choice_field("how it came", ROCK, column="how")

    @property
    def came(self) -> str:
        return self.condition or "shipped"

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{units.text(self.kg, 'weight')}, {dict(ROCK)[self.came]}"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        told = line.number("live rock", units=("kg", "lb"))
        if not told.unit:
            unit = "lb" if line.setting.units.system == "us" else "kg"
            amount = f"{told.typed} {unit}"
            raise Ask(f"Live rock: {figure(told.value)} of what?", Tap(amount, line.rewritten(f"rock {amount}")))
        kg = told.value * (KG_PER_LB if told.unit == "lb" else 1.0)
        line.doubt(kg > UNUSUAL_KG_PER_L * line.setting.net_l, f"{figure(kg)} kg of rock: is that right?")
        made = cls.from_raw({"kg": kg, "condition": line.take(*dict(ROCK))})
        return Heard(made, "live rock", line.setting.units.text(kg, "weight"))
