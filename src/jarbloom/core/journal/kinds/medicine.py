"""A medicine in the water or the food. Kept, never proposed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import number_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.patterns import regex
from jarbloom.units import Units, figure

_NOT_GIVEN = regex(
    r"(?:cabinet|bottle|chest|box|shelf|kit|for the (?:cat|dog|kids?))\b|(?:is |was )?(?:empty|out|old|finished|over"
    r"|done|"
    r"ended|stopped)\b"
)


@kind
class Medicine(Kind):
    """`what` and `dose` as the keeper writes them; `days` the course from this entry on (None: this once)."""

    key: ClassVar[str] = "medicine"
    label: ClassVar[str] = "Medicine"
    lane: ClassVar[str] = "life"
    example: ClassVar[str] = "medicine day 1 against spots"
    place: ClassVar[int] = 21
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("medicine", "medication", "meds")
    what: str = text_field("what", required=True, column="text")
    against: str = text_field("against what", column="cause")
    dose: str = text_field("dose, as the label or the vet says", column="typed_dose")
    days: float | None = number_field("course, days", low=1, high=120, column="days")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        parts = [self.what, f"against {self.against}" if self.against else "", self.dose]
        parts.append(f"for {figure(self.days)} days" if self.days else "")
        return ", ".join(p for p in parts if p)

    def repeats(self, other: Body) -> bool:
        return isinstance(other, Medicine) and other.what == self.what

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        text = line.rest()
        if not text:
            raise Ask("Medicine: which, and against what?")
        if _NOT_GIVEN.match(text.lower()):
            raise Ask("Was medicine given?", Tap("keep it as a note", f"note {line.word} {text}"))
        return Heard(cls.from_raw({"what": text}), "medicine", text[:60], "kept in words; it may slow the bloom")
