"""What every kind of entry has: fields with limits, words, columns, and its clause of the log line."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Mapping
from datetime import date
from typing import Any, ClassVar, Self, TypeVar, dataclass_transform

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.field import (
    CARRIED,
    DERIVED,
    TYPED,
    Field,
    choice_field,
    date_field,
    flag_field,
    number_field,
    signs_field,
    spec_of,
    species_field,
    text_field,
)
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Body
from jarbloom.errors import Refused
from jarbloom.units import canonical, number

# Fields that an older version let stand in entries of any kind. Where a kind has no use for one it said nothing.
OF_OLD = frozenset({"typed", "fraction", "mg_n", "target_mg_n_l", "batch", "override", "already_in", "group", "first"})
T = TypeVar("T", bound=type)


class Kind(Body):
    """One kind of entry: a frozen dataclass of what it says, checked by construction.

    To add one, write its class in a file of its own in this folder, and what it does to the water in
    core/bloom/drivers.py. Forms, the log line, bundles, the schema and the log book follow from the class.
    """

    lane: ClassVar[str] = "care"  # readings | doses | water | life | care
    example: ClassVar[str] = ""
    glyph: ClassVar[str] = "note"
    place: ClassVar[int] = 100  # where it stands in lists
    by_form: ClassVar[bool] = True  # offered as a form; the others are written by ticking a job or a step
    moves_forecast: ClassVar[bool] = True  # False: it says nothing of water, colony or animals
    said: ClassVar[tuple[str, ...]] = ()  # the words that begin its clause in the log line
    specs: ClassVar[tuple[Field, ...]] = ()
    fields: ClassVar[tuple[Field, ...]] = ()  # those that a form shows

    def __post_init__(self) -> None:
        for spec in self.specs:
            value = getattr(self, spec.name)
            if spec.required and value in (None, ""):
                raise Refused(f"“{spec.label}” is needed.", spec.name)
            if value is not None and value != spec.empty:
                spec.check(value)

    @classmethod
    def from_raw(cls, raw: Mapping[str, Any]) -> Self:
        """From typed text or canonical values by field. Raises Refused naming the field; empty ones are left out."""
        known = {s.name: s for s in cls.specs}
        odd = next((name for name in raw if name not in known), None)
        if odd is not None:
            raise Refused(f"“{odd}” is not a field of {cls.label.lower()}.", odd)
        given = {k: v for k, v in raw.items() if v not in (None, "", (), [])}
        cls._refuse_missing(s for s in cls.specs if s.role != DERIVED and s.name not in given)
        return cls(**{name: known[name].cleaned(value) for name, value in given.items()})

    @classmethod
    def from_json(cls, raw: object) -> Self:
        """From a stored body. Raises Refused naming the field for anything that a form would not have let in."""
        if not isinstance(raw, Mapping):
            raise Refused("The body is no set of fields.", "body")
        known = {s.name: s for s in cls.specs}
        odd = next((name for name in raw if name not in known and name not in OF_OLD), None)
        if odd is not None:
            raise Refused(f"“{odd}” is not a field of {cls.label.lower()}.", str(odd))
        given = {k: known[k].from_json(v) for k, v in raw.items() if k in known and v is not None}
        cls._refuse_missing(s for s in cls.specs if s.name not in given)
        return cls(**given)

    @staticmethod
    def _refuse_missing(not_given: Iterable[Field]) -> None:
        missing = next((s for s in not_given if s.required), None)
        if missing is not None:
            raise Refused(f"“{missing.label}” is needed.", missing.name)

    def to_json(self) -> dict[str, Any]:
        """What is stored: the fields that say something."""
        return {s.name: s.to_json(v) for s in self.specs if (v := getattr(self, s.name)) is not None and v != s.empty}

    @property
    def carried(self) -> dict[str, Any]:
        """What a correction of this entry keeps, since no form shows it."""
        return {
            s.name: v
            for s in self.specs
            if s.role == CARRIED and (v := getattr(self, s.name)) is not None and v != s.empty
        }

    def plain(self) -> dict[str, str]:
        """The cells of log.csv that a person reads."""
        row: dict[str, str] = {}
        for spec in self.specs:
            value = getattr(self, spec.name)
            if not spec.column or value is None or value == spec.empty:
                continue
            row[spec.column] = _cell(spec, value)
            if spec.csv_unit:
                row["unit"] = spec.csv_unit
        return row

    @classmethod
    def from_plain(cls, cells: Mapping[str, str], setting: Setting) -> Self:
        """From the cells of a row written by hand. Raises Refused naming the column's field."""
        raw: dict[str, Any] = {}
        for spec in cls.specs:
            text = cells.get(spec.column, "") if spec.column else ""
            if text:
                raw[spec.name] = cls._from_cell(spec, text, cells.get("unit", ""), setting)
        return cls.from_raw(raw).completed(setting)

    @classmethod
    def _from_cell(cls, spec: Field, text: str, unit: str, setting: Setting) -> Any:
        if spec.column == "flag":
            return text == spec.name
        if spec.type == "signs":
            return text.split()
        if spec.dimension and unit and spec.csv_unit:
            return canonical(number(text, spec.name), unit, spec.dimension)
        if spec.csv_unit and unit and unit != spec.csv_unit:
            raise Refused(f"“{unit}” is not a unit for this; use {spec.csv_unit}.", "unit")
        return text

    def changed(self, **fields: Any) -> Self:
        """The same with other fields; they are checked like all others."""
        return dataclasses.replace(self, **fields)  # type: ignore[type-var]  # each is a dataclass, by @kind

    @classmethod
    def columns(cls) -> set[str]:
        """The cells that a row of this kind may fill."""
        used = {s.column for s in cls.specs if s.column}
        return used | ({"unit"} if any(s.csv_unit or s.column == "unit" for s in cls.specs) else set())

    def completed(self, setting: Setting) -> Self:
        """With what follows from the tank. Raises Refused for amounts and animals that it cannot take."""
        return self

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        """What the log line says after one of the words in `said`. Raises Ask when something is open."""
        raise NotImplementedError


def _cell(spec: Field, value: Any) -> str:
    if spec.column == "flag":
        return spec.name
    if spec.type == "signs":
        return " ".join(value)
    return value.isoformat() if isinstance(value, date) else str(value)


@dataclass_transform(
    kw_only_default=True,
    frozen_default=True,
    field_specifiers=(number_field, text_field, species_field, choice_field, flag_field, date_field, signs_field),
)
def kind(cls: T) -> T:
    """Makes a class a kind: a frozen dataclass whose fields are known to forms, CSV and checks."""
    made: Any = dataclasses.dataclass(frozen=True, kw_only=True)(cls)
    made.specs = tuple(spec_of(f) for f in dataclasses.fields(made) if f.metadata)
    made.fields = tuple(s for s in made.specs if s.role == TYPED)
    return made
