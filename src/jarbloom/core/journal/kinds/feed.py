"""A feeding."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import DERIVED, number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, Units, canonical, figure

UNUSUAL_G = 5.0  # of dry food at once


@kind
class Feed(Kind):
    """`grams` of dry food; None: a usual ration."""

    key: ClassVar[str] = "feed"
    label: ClassVar[str] = "Feeding"
    lane: ClassVar[str] = "life"
    example: ClassVar[str] = "fed 0.2 g"
    place: ClassVar[int] = 3
    said: ClassVar[tuple[str, ...]] = ("fed",)
    grams: float | None = number_field(
        "dry food", unit="g", high=1000, hint="leave empty for a usual ration", column="amount", csv_unit="g"
    )
    typed: str = text_field("as typed", role=DERIVED)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{figure(self.grams)}{NBSP}g dry food" if self.grams is not None else "a usual ration"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        told = line.amount("food", units=("g", "mg"), optional=True, span=True)
        if told is None:
            return Heard(cls.from_raw({}), "fed", "a usual ration")
        if not told.unit:
            raise Ask(
                f"Fed {figure(told.value)} of what? Say g or mg.",
                Tap(f"{told.typed} g", line.rewritten(f"fed {told.typed} g")),
            )
        grams = canonical(told.value, told.unit, "mass")
        line.doubt(grams > UNUSUAL_G, f"{figure(grams)} g of dry food at once: is that right?")
        made = cls.from_raw({"grams": grams, "typed": f"{told.typed} {told.unit}"})
        return Heard(made, "fed", f"{figure(grams)}{NBSP}g", "the middle counts" if told.of_two else "")
