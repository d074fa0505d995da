"""The form of something in store."""

from __future__ import annotations

from collections.abc import Mapping

from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.journal.readings import LABELS
from jarbloom.core.model.supply import KINDS, UNITS, Supply
from jarbloom.deeds.desk import Desk
from jarbloom.web.forms.fields import Errors, read_fields

FIELDS = (
    Field("name", "name", required=True, hint="as you call it"),
    Field("kind", "kind", "choice", choices=KINDS),
    Field("left", "how much is left", "number", low=0, high=100_000),
    Field("unit", "counted in", "choice", choices=UNITS),
    Field("tests", "a kit for", "choice", choices=(("", "no kit"), *((q, label) for q, label in LABELS.items()))),
    Field("opened_on", "opened on", "date"),
    Field("keeps_days", "good for so long after opening", "number", unit="days", low=1, high=4000),
    Field("best_before", "best before", "date"),
    Field("per_day", "used a day", "number", low=0, high=10_000, hint="empty: reckoned from your log"),
    Field("price", "paid", "number", low=0, high=100_000),
    Field("bought_on", "bought on", "date"),
)  # fmt: skip
_NUMBERS = ("left", "keeps_days", "per_day", "price")
_DATES = ("opened_on", "best_before", "bought_on")


def typed_supply(one: Supply | None) -> dict[str, str]:
    if one is None:
        return {"kind": "conditioner", "unit": "mL"}
    shown = {"name": one.name, "kind": one.kind, "unit": one.unit, "tests": one.tests}
    for name in _NUMBERS:
        value = getattr(one, name)
        shown[name] = "" if value is None else f"{value:g}"
    for name in _DATES:
        day = getattr(one, name)
        shown[name] = day.isoformat() if day else ""
    return shown


def read_supply(typed: Mapping[str, str], desk: Desk, supply_id: int) -> tuple[Supply | None, Errors]:
    errors = Errors()
    v = read_fields(FIELDS, typed, desk.preferences.units, errors)
    if errors:
        return None, errors
    v |= {"kind": v["kind"] or "other", "unit": v["unit"] or "pieces", "tests": v["tests"] or ""}
    return Supply(counted_on=desk.now.date(), id=supply_id, **v), errors
