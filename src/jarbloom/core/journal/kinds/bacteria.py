"""A culture: from a bottle, or media borrowed from a running tank."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import DERIVED, choice_field, date_field, number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.journal.volumes import millilitres
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, Units, figure

CULTURE = (
    ("bottle", "bottle, condition unknown"),
    ("bottle_cool", "bottle kept cool and in date"),
    ("bottle_warm", "bottle that came warm, or is old"),
    ("bottle_frozen", "bottle that was frozen"),
    ("borrowed", "media from a running tank"),
)
DONOR = (("healthy", "healthy for months"), ("sick", "illness or losses lately"), ("unknown", "not known"))
UNUSUAL_ML_PER_L = 5.0


@kind
class Bacteria(Kind):
    key: ClassVar[str] = "bacteria"
    label: ClassVar[str] = "Bacteria"
    example: ClassVar[str] = "bacteria 100 ml"
    place: ClassVar[int] = 7
    said: ClassVar[tuple[str, ...]] = ("bac", "bacteria", "culture", "borrowed")
    source: str = choice_field("what", CULTURE, default="bottle")
    ml: float | None = number_field("amount", unit="mL", high=100000, column="amount", csv_unit="mL")
    share: float | None = number_field("share of the filter, %", high=100, hint="for borrowed media")
    use_by: date | None = date_field("use by", hint="as printed on the bottle")
    donor: str = choice_field("health of the donor tank", DONOR)
    donor_salinity: float | None = number_field("salinity of the donor tank", unit="g/kg", high=60)
    typed: str = text_field("as typed", role=DERIVED)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        parts = [dict(CULTURE)[self.source]]
        parts += [f"{figure(self.ml)}{NBSP}mL"] if self.ml is not None else []
        parts += [f"{figure(self.share)}{NBSP}% of the filter"] if self.share is not None else []
        parts += [f"use by {self.use_by}"] if self.use_by else []
        parts += [f"donor {dict(DONOR)[self.donor]}"] if self.donor else []
        return ", ".join(parts)

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        if line.word == "borrowed":
            line.take("media", "filter", "sponge", "foam")
            told = line.amount("borrowed media", units=("%",), optional=True)
            if told is not None and not told.unit:
                raise Ask(
                    f"Borrowed {told.typed} of what?", Tap("% of the filter", line.rewritten(f"borrowed {told.typed}%"))
                )
            made = cls.from_raw({"source": "borrowed", "share": told.value if told else None})
            share = f"{figure(made.share)}{NBSP}% of the filter" if made.share is not None else "how much was not said"
            return Heard(made, "borrowed media", share, "from a running tank; ask about the donor’s health")
        state = line.take(*(k.removeprefix("bottle_") for k, _ in CULTURE if k.startswith("bottle_")))
        source = f"bottle_{state}" if state else "bottle"
        made = cls.from_raw({"source": source} | millilitres(line, "bacteria", UNUSUAL_ML_PER_L))
        value = f"{figure(made.ml)}{NBSP}mL" if made.ml is not None else "a bottle"
        return Heard(made, "bacteria", value, dict(CULTURE)[source] if state else "alive or not is unknown")
