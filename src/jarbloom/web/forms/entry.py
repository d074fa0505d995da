"""Entry forms by kind: to a Filled form and back, for new entries and corrections."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import QUANTITIES
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import FilledForm
from jarbloom.errors import NotFound, Refused
from jarbloom.web.deps import Form
from jarbloom.web.forms.fields import Errors, parse_moment, shown_number, value_of


def known_kind(kind: str) -> str:
    if kind not in KINDS or not KINDS[kind].fields:
        raise NotFound(f"“{kind[:40]}” is no kind of entry that can be written.")
    return kind


def read_entry(kind: str, typed: Form, desk: Desk) -> tuple[FilledForm | None, Errors]:
    """A filled form, or None with errors at the fields."""
    errors, raw, readings = Errors(), {}, {}
    at = desk.now
    try:
        at = parse_moment(typed.text("at"), desk.preferences.tz, desk.now)
    except Refused as problem:
        errors.add(problem, "at")
    for spec in KINDS[kind].fields:
        if kind == "test":
            readings[spec.name] = typed.text(spec.name)
            continue
        if spec.type == "signs":
            raw[spec.name] = typed.all(spec.name)
            continue
        try:
            raw[spec.name] = value_of(spec, typed.get(spec.name, ""), desk.preferences.units)
        except Refused as problem:
            errors.add(problem, spec.name)
    if errors:
        return None, errors
    return FilledForm(kind, at, raw, readings, typed.get("note", ""), typed.text("who")), errors


def typed_of(entry: Entry, desk: Desk) -> dict[str, Any]:
    """What the correction form shows for an entry."""
    units = desk.preferences.units
    shown: dict[str, Any] = {
        "at": f"{entry.at.astimezone(desk.preferences.tz):%Y-%m-%dT%H:%M}",
        "note": entry.note,
        "who": entry.who,
    }
    by_quantity = {r.quantity: r.typed for r in entry.readings}
    for spec in KINDS[entry.kind].fields:
        value = None if entry.kind == "test" else getattr(entry.body, spec.name)
        if entry.kind == "test":
            shown[spec.name] = by_quantity.get(spec.name, "")
        elif value is None:
            shown[spec.name] = [] if spec.type == "signs" else ""
        elif spec.type == "number":
            shown[spec.name] = shown_number(float(value), spec, units)
        elif spec.type == "flag":
            shown[spec.name] = "on" if value else ""
        else:
            shown[spec.name] = value
    return shown


def blank(kind: str, desk: Desk, given: Mapping[str, str]) -> dict[str, Any]:
    shown: dict[str, Any] = {f.name: given.get(f.name, "") for f in KINDS[kind].fields}
    if kind == "observation":
        shown["signs"] = []
    if kind == "test":
        shown |= {q: given.get(q, "") for q in QUANTITIES}
    return shown | {"at": given.get("at") or f"{desk.now:%Y-%m-%dT%H:%M}", "note": "", "who": desk.preferences.who}
