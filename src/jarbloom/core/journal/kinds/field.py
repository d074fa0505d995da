"""Fields of a kind of entry: what each may hold, and how typed text, stored JSON and CSV cells become it."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Mapping
from datetime import date
from typing import Any

from jarbloom.errors import Refused
from jarbloom.units import figure, is_number, number

NOTE_MAX = 20_000  # characters
MOST_ID = 2**53  # of an entry or a batch: exact in every program that reads JSON
NAME_MAX = 80  # of a key of the catalogue
TYPED, CARRIED, DERIVED = "typed", "carried", "derived"


@dataclasses.dataclass(frozen=True)
class Field:
    """One field of a kind. `type` is number, text, choice, flag, date, species or signs.

    `role`: typed by the keeper in a form, carried (a correction keeps it), or derived from what was typed.
    A derived field that is `required` has to stand in what is stored; nobody types it.
    `column` is its cell in a bundle's log.csv, `csv_unit` what stands in the cell `unit` beside it.
    """

    name: str
    label: str
    type: str = "text"
    dimension: str = ""
    unit: str = ""
    low: float = 0.0
    high: float = 1e6
    required: bool = False
    choices: tuple[tuple[str, str], ...] = ()
    hint: str = ""
    whole: bool = False
    role: str = TYPED
    column: str = ""
    csv_unit: str = ""

    def cleaned(self, value: Any) -> Any:
        """Typed text, or a value already canonical, as this field holds it. Raises Refused naming the field."""
        if self.type == "number" and isinstance(value, str):
            value = number(value, self.name, low=self.low, high=self.high)
            value = int(value) if self.whole and value == int(value) else value
        elif self.type == "number" and self.whole and isinstance(value, float) and value == math.floor(value):
            value = int(value)
        elif self.type == "flag":
            value = value in (True, "on", "true", "yes", "1")
        elif self.type == "date" and isinstance(value, str):
            value = self._date(value)
        elif self.type == "signs":
            value = (value,) if isinstance(value, str) else tuple(value)
        elif self.type in ("text", "species") and isinstance(value, str):
            value = value.strip()
        self.check(value)
        return value

    def from_json(self, value: Any) -> Any:
        """A stored value. Raises Refused naming the field for any other type than the field's own."""
        if self.type == "date" and isinstance(value, str):
            return self._date(value)
        if self.type == "signs" and isinstance(value, list):
            return tuple(value)
        return value

    def to_json(self, value: Any) -> Any:
        if isinstance(value, date):
            return value.isoformat()
        return list(value) if isinstance(value, tuple) else value

    def check(self, value: Any) -> None:
        """Raises Refused for a value of the wrong type or beyond the field's limits."""
        match self.type:
            case "number":
                self._check_number(value)
            case "choice":
                if not isinstance(value, str) or value not in dict(self.choices):
                    raise Refused(f"“{str(value)[:40]}” is not a choice here.", self.name)
            case "flag":
                if not isinstance(value, bool):
                    raise Refused(f"“{str(value)[:40]}” is neither yes nor no.", self.name)
            case "date":
                if not isinstance(value, date):
                    raise Refused(f"“{str(value)[:40]}” is not a date.", self.name)
            case "signs":
                known = dict(self.choices)
                for sign in value if isinstance(value, tuple) else ((),):
                    if not isinstance(sign, str) or sign not in known:
                        raise Refused(f"“{str(sign)[:40]}” is not a sign on the list.", self.name)
            case _:
                self._check_text(value)

    def _check_number(self, value: Any) -> None:
        if not is_number(value):
            raise Refused(f"“{str(value)[:40]}” is not a number.", self.name)
        if self.whole and not isinstance(value, int):
            raise Refused(f"{figure(value)} is not a whole number.", self.name)
        if value < self.low:
            raise Refused(f"{figure(value)} is too low; the least is {figure(self.low)}.", self.name)
        if value > self.high:
            raise Refused(f"{figure(value)} is too high; the most is {figure(self.high)}.", self.name)

    def _check_text(self, value: Any) -> None:
        if not isinstance(value, str):
            raise Refused(f"“{str(value)[:40]}” is not text.", self.name)
        most = NAME_MAX if self.type == "species" else NOTE_MAX
        if len(value) > most:
            raise Refused(f"This is {len(value):,} characters long; at most {most:,} can be kept.", self.name)

    def _date(self, text: str) -> date:
        try:
            return date.fromisoformat(text)
        except ValueError:
            raise Refused(f"“{text[:40]}” is not a date.", self.name) from None

    @property
    def empty(self) -> Any:
        """What the field holds when nothing was said."""
        return {"text": "", "choice": "", "flag": False, "signs": ()}.get(self.type)


def _field(type_: str, label: str, default: Any, spec: Mapping[str, Any]) -> Any:
    meta = {"type": type_, "label": label, **spec}
    if spec.get("required") and spec.get("role") != DERIVED:
        return dataclasses.field(metadata=meta)
    return dataclasses.field(default=default, metadata=meta)


def number_field(label: str, *, default: float | None = None, **spec: Any) -> Any:
    return _field("number", label, default, spec)


def text_field(label: str, *, default: str = "", **spec: Any) -> Any:
    return _field("text", label, default, spec)


def species_field(label: str = "what", *, default: str = "", **spec: Any) -> Any:
    return _field("species", label, default, {"required": True, **spec})


def choice_field(label: str, choices: tuple[tuple[str, str], ...], *, default: str = "", **spec: Any) -> Any:
    return _field("choice", label, default, {"choices": choices, **spec})


def flag_field(label: str, *, default: bool = False, **spec: Any) -> Any:
    return _field("flag", label, default, {"column": "flag", **spec})


def date_field(label: str, *, default: date | None = None, **spec: Any) -> Any:
    return _field("date", label, default, spec)


def signs_field(label: str, choices: tuple[tuple[str, str], ...], *, default: tuple[str, ...] = (), **spec: Any) -> Any:
    return _field("signs", label, default, {"choices": choices, **spec})


def spec_of(one: dataclasses.Field[Any]) -> Field:
    meta = dict(one.metadata)
    meta.setdefault("column", one.name if meta.get("role", TYPED) != DERIVED else "")
    return Field(one.name, **meta)
