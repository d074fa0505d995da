"""Test readings."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar, Self

from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.journal.readings import LABELS, check_reading, read, reading_words
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Body
from jarbloom.core.model.kit import QUANTITIES, Kit, Reading
from jarbloom.core.model.species import Species
from jarbloom.errors import Refused
from jarbloom.units import Units


@kind
class Tested(Kind):
    """What was read on one occasion, one reading for each quantity at the most."""

    key: ClassVar[str] = "test"
    label: ClassVar[str] = "Test readings"
    lane: ClassVar[str] = "readings"
    example: ClassVar[str] = "am .25 ni 1 na 10 ph 7.6 t 25.4"
    place: ClassVar[int] = 1
    readings: tuple[Reading, ...] = ()

    def __post_init__(self) -> None:
        if not self.readings:
            raise Refused("A test without a reading.", "ammonia")
        for reading in self.readings:
            check_reading(reading)
        names = [r.quantity for r in self.readings]
        twice = next((q for q in names if names.count(q) > 1), None)
        if twice:
            raise Refused(f"{LABELS[twice]} stands twice in one test.", twice)

    @property
    def seen(self) -> tuple[Reading, ...]:
        return self.readings

    @classmethod
    def typed(cls, typed: Mapping[str, str], kit: Kit, temp_unit: str = "°C") -> Self:
        """From what the keeper wrote for each quantity. Raises Refused naming the quantity."""
        found = tuple(read(q, typed[q], kit, temp_unit) for q in QUANTITIES if typed.get(q))
        if not found:
            raise Refused("Give at least one reading.", "ammonia")
        return cls(readings=found)

    @classmethod
    def from_raw(cls, raw: Mapping[str, Any]) -> Self:
        raise Refused("Readings are read with a kit.", "ammonia")

    @classmethod
    def from_json(cls, raw: object) -> Self:
        """The readings of a stored test lie beside its body; see `Tested.stored`."""
        return cls.stored(raw.get("readings", ()) if isinstance(raw, Mapping) else ())

    @classmethod
    def stored(cls, rows: object) -> Self:
        """From readings as they are kept: mappings with the fields of Reading. Raises Refused naming the quantity."""
        found = []
        for row in rows if isinstance(rows, list | tuple) else ():
            if not isinstance(row, Mapping):
                raise Refused("A reading is no set of fields.", "readings")
            try:
                found.append(Reading(**row))
            except TypeError:
                raise Refused("A reading lacks a field, or has one that is not known.", "readings") from None
        order = {q: k for k, q in enumerate(QUANTITIES)}
        return cls(readings=tuple(sorted(found, key=lambda r: order.get(str(r.quantity), 0))))

    def to_json(self) -> dict[str, Any]:
        return {}  # the readings are kept beside it, a row each

    def plain(self) -> dict[str, str]:
        return {r.quantity: r.typed for r in self.readings}

    @classmethod
    def from_plain(cls, cells: Mapping[str, str], setting: Setting) -> Self:
        return cls.typed(cells, setting.kit)

    @classmethod
    def columns(cls) -> set[str]:
        return set(QUANTITIES)

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return ", ".join(reading_words(r, units) for r in self.readings)

    def repeats(self, other: Body) -> bool:
        return bool(self.both(other))

    def both(self, other: Body) -> tuple[str, ...]:
        """The quantities that both have read."""
        return tuple(q for q in QUANTITIES if all(q in {r.quantity for r in t.seen} for t in (self, other)))


Tested.fields = tuple(Field(q, LABELS[q], "text") for q in QUANTITIES)
