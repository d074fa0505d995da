"""Animals that came."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Tap
from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field, length_field
from jarbloom.core.journal.kinds.choices import BRED
from jarbloom.core.journal.kinds.field import (
    CARRIED,
    MOST_ID,
    choice_field,
    date_field,
    flag_field,
    number_field,
    species_field,
    text_field,
)
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.journal.kinds.length import LENGTHS, cm_of
from jarbloom.core.model.species import Species
from jarbloom.units import Units

_MORE = ("wild", "bred", "paid", "from")


@kind
class Arrival(AboutAnimals):
    """`already_in`: they lived here before the log began; `override`: the reason for letting them in against the gate;
    `first`: the entry by which this group was first logged."""

    key: ClassVar[str] = "arrival"
    label: ClassVar[str] = "Arrival"
    example: ClassVar[str] = "in 8 harlequin rasbora"
    place: ClassVar[int] = 14
    said: ClassVar[tuple[str, ...]] = ("in", "arrived", "added")
    new: ClassVar[bool] = True
    species: str = species_field()
    count: int = heads_field()
    length_cm: float | None = length_field()
    seller: str = text_field("from", hint="shop, keeper or tank, as you call it")
    price: float | None = number_field("paid for all of them", high=100000)
    tank_bred: str = choice_field("tank-bred", BRED)
    until: date | None = date_field("here for now, until", hint="it stays on the job list until it has moved")
    batch: int | None = number_field("batch", whole=True, high=MOST_ID, role=CARRIED)
    override: str = text_field("let in because", role=CARRIED, column="")
    already_in: bool = flag_field("lived here before the log", role=CARRIED)
    group: int | None = number_field("group", whole=True, high=MOST_ID, role=CARRIED)
    first: int | None = number_field("first logged as", whole=True, high=MOST_ID, role=CARRIED, column="")

    @classmethod
    def more(cls, line: Clause) -> dict[str, object]:
        """'3 cm', 'wild' or 'bred', 'paid 24', 'from the club', in any order."""
        found: dict[str, object] = {}
        while True:
            if (word := line.take(*_MORE)) in ("wild", "bred"):
                found["tank_bred"] = "no" if word == "wild" else "yes"
            elif word == "paid":
                found["price"] = line.number("paid", units=()).value
            elif word == "from":
                found["seller"] = line.phrase(*_MORE)
            elif (told := line.amount("length", units=LENGTHS, optional=True)) is not None:
                if not told.unit:
                    raise Ask(
                        f"{told.typed} behind the animals: of what?",
                        Tap(f"{told.typed} cm each", f"{line.before()}{told.typed} cm"),
                    )
                found["length_cm"] = cm_of(told, line.setting.units)
            else:
                return found

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        parts = [self.who(species) + (" (already in)" if self.already_in else "")]
        parts += [units.length(self.length_cm)] if self.length_cm is not None else []
        parts += [f"from {self.seller}"] if self.seller else []
        parts += [f"for now, until {self.until:%-d %b}"] if self.until else []
        return ", ".join(parts)
