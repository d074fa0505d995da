"""Form fields with units: typed text to canonical values and back, every error at its field."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any
from zoneinfo import ZoneInfo

from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.water.salinity import read_salinity
from jarbloom.errors import Refused
from jarbloom.units import Units, canonical, figure, number


@dataclass
class Errors:
    """Sentences by field, gathered so that the whole form is told at once."""

    by_field: dict[str, str] = field(default_factory=dict)

    def add(self, problem: Refused, field_name: str = "") -> None:
        self.by_field.setdefault(problem.field or field_name or "form", problem.sentence)

    def __bool__(self) -> bool:
        return bool(self.by_field)

    def get(self, name: str) -> str:
        return self.by_field.get(name, "")


def outdated(
    typed: Mapping[str, str], before: Mapping[str, str], now: Mapping[str, str], fields: Iterable[str]
) -> dict[str, str]:
    """Both values at every field that was changed between the making of a form and its sending, and not to the same."""
    return {
        name: f"On another device this was changed from {before.get(name) or 'empty'} to {now.get(name) or 'empty'} "
        f"meanwhile. You typed {typed.get(name, '').strip() or 'nothing'}: save again to keep yours."
        for name in fields
        if now.get(name) != before.get(name) and typed.get(name, "").strip() != now.get(name)
    }


def unit_of(spec: Field, units: Units) -> str:
    return units.unit(spec.dimension) if spec.dimension else spec.unit


def value_of(spec: Field, text: str, units: Units) -> Any:
    """Canonical value of one typed field, None when empty. Raises Refused naming the field."""
    text = text.strip()
    if spec.type == "flag":
        return text in ("on", "true", "1", "yes")
    if not text:
        if spec.required:
            raise Refused(f"“{spec.label}” is needed.", spec.name)
        return None
    if spec.type == "number":
        value = number(text, spec.name)
        if spec.dimension:
            value = canonical(value, units.unit(spec.dimension), spec.dimension)
        if not spec.low <= value <= spec.high:
            unit = unit_of(spec, units)
            low, high = ((units.value(v, spec.dimension) if spec.dimension else v) for v in (spec.low, spec.high))
            raise Refused(f"{text} {unit} is not within {figure(low)} to {figure(high)}.".replace("  ", " "), spec.name)
        return value
    if spec.type == "salinity":
        return read_salinity(text, spec.name).g_kg
    if spec.type == "choice":
        if text not in dict(spec.choices):
            raise Refused(f"“{text[:40]}” is not a choice here.", spec.name)
        return text
    if spec.type == "date":
        return parse_date(text, spec.name)
    return text


def read_fields(specs: Sequence[Field], typed: Mapping[str, str], units: Units, errors: Errors) -> dict[str, Any]:
    """Canonical values of all fields that could be read; what could not goes to errors."""
    values: dict[str, Any] = {}
    for spec in specs:
        try:
            values[spec.name] = value_of(spec, typed.get(spec.name, ""), units)
        except Refused as problem:
            errors.add(problem, spec.name)
    return values


def shown_number(value: float, spec: Field, units: Units) -> str:
    """Canonical value as the keeper would type it."""
    text = figure(units.value(value, spec.dimension) if spec.dimension else value, 4)
    return text.replace("−", "-")


def parse_date(text: str, name: str) -> date:
    try:
        return date.fromisoformat(text.strip())
    except ValueError:
        raise Refused(f"“{text[:40]}” is not a date.", name) from None


def parse_moment(text: str, zone: ZoneInfo, now: datetime, name: str = "at") -> datetime:
    """A datetime-local field in the keeper's zone; empty means now."""
    if not text.strip():
        return now
    try:
        return datetime.fromisoformat(text.strip()).replace(tzinfo=zone)
    except ValueError:
        raise Refused(f"“{text[:40]}” is not a date and time.", name) from None
