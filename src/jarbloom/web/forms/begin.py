"""The few fields of the first steps, and what stands in for all others."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import date

from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.model.choices import FILTER_KINDS, USUAL_WATERS
from jarbloom.core.model.tank import Filter, Heater, Tank
from jarbloom.deeds.desk import Desk
from jarbloom.units import INCH_CM
from jarbloom.web.deps import Form
from jarbloom.web.forms.fields import Errors, read_fields, shown_number
from jarbloom.web.forms.tank import read_tank

GLASS = {f.name: f for f in (
    Field("length_cm", "long", "number", "length", low=5, high=1000),
    Field("width_cm", "front to back", "number", "length", low=5, high=500),
    Field("height_cm", "high", "number", "length", low=5, high=300),
    Field("substrate_cm", "of sand or gravel", "number", "length", low=0, high=100),
    Field("measured_l", "or only its litres", "number", "volume", low=1, high=50000),
    Field("name", "its name", hint="as you call it"),
    Field("started", "first day with water", "date"),
)}  # fmt: skip
WATERS = {key: words for key, (words, *_) in USUAL_WATERS.items()}
EQUIPMENT = {f.name: f for f in (
    Field("filter_kind", "filter", "choice", choices=FILTER_KINDS),
    Field("media_l", "of media", "number", "volume", low=0, high=2000, required=True),
    Field("flow", "flow on its box", "number", "flow", low=0, high=100000, required=True),
    Field("heater_w", "heater", "number", unit="W", low=0, high=10000),
    Field("temp_c", "set to", "number", "temp", low=4, high=40, required=True),
    Field("tap_kh", "carbonate hardness of the tap", "number", "hardness", low=0, high=40),
    Field("tap_nitrate", "its nitrate", "number", unit="mg/L as N", low=0, high=50),
)}  # fmt: skip


# Stands in the drawing, and pale in the fields, until something is typed
SIZES = ("length_cm", "width_cm", "height_cm", "substrate_cm")
_EXAMPLES = {
    "metric": Tank("", date.min, length_cm=80.0, width_cm=35.0, height_cm=45.0, substrate_cm=4.0),
    "us": Tank("", date.min, length_cm=30 * INCH_CM, width_cm=12 * INCH_CM, height_cm=18 * INCH_CM,
               substrate_cm=1.5 * INCH_CM, waterline_cm=INCH_CM),
}  # fmt: skip


def example_glass(desk: Desk) -> Tank:
    """Round in the keeper's own units."""
    return _EXAMPLES[desk.preferences.units.system]


def pale(desk: Desk) -> dict[str, str]:
    """The example's sizes as the keeper would type them."""
    return {
        name: shown_number(getattr(example_glass(desk), name), GLASS[name], desk.preferences.units) for name in SIZES
    }


def sent_along(desk: Desk) -> dict[str, str]:
    """What the drawing and the first step take for granted of a glass."""
    units = desk.preferences.units
    waterline = shown_number(example_glass(desk).waterline_cm, GLASS["height_cm"], units)
    return {"shape": "box", "substrate": "sand", "waterline_cm": waterline}


def read_glass(typed: Form, desk: Desk, filled: bool) -> tuple[Tank | None, Errors]:
    """A tank of its glass alone. The name may be empty: the house finds one."""
    started = typed.text("started") or desk.now.date().isoformat()
    more = sent_along(desk) | {"started": started, "name": typed.text("name") or "a tank",
                               "filled": "on" if filled else ""}  # fmt: skip
    whole = Form([*((k, v) for k, v in typed.pairs if k not in more), *more.items()])
    if not any(typed.text(n) for n in ("length_cm", "width_cm", "height_cm", "measured_l")):
        errors = Errors()
        errors.by_field["length_cm"] = "Say its sizes, or only its litres."
        return None, errors
    tank, errors = read_tank(whole, desk, None, ("name", "volume"))
    return (replace(tank, name=typed.text("name")) if tank is not None else None), errors


def typed_equipment(tank: Tank, desk: Desk) -> dict[str, str]:
    f = tank.filters[0] if tank.filters else Filter()
    units = desk.preferences.units
    values = {"media_l": f.media_l, "flow": f.nominal_l_h, "heater_w": tank.heater_w, "temp_c": tank.temp_c}
    shown = {k: shown_number(v, EQUIPMENT[k], units) for k, v in values.items()}
    return shown | {"filter_kind": f.kind, "tap_kh": "", "tap_nitrate": "", "donor": "no"}


def read_equipment(typed: Mapping[str, str], desk: Desk, old: Tank) -> tuple[Tank | None, Errors]:
    """The tank with its first filter, heater and tap as said; what is left empty stays as it was assumed."""
    errors = Errors()
    v = read_fields(tuple(EQUIPMENT.values()), typed, desk.preferences.units, errors)
    if errors:
        return None, errors
    before = old.filters[0] if old.filters else Filter()
    first = replace(before, kind=v["filter_kind"] or before.kind, media_l=v["media_l"], nominal_l_h=v["flow"])
    heaters = (Heater(v["heater_w"], v["temp_c"]), *old.heaters[1:]) if v["heater_w"] else ()
    source = old.source
    if v["tap_kh"] is not None:
        source = replace(source, kh_dkh=v["tap_kh"], name="")
    if v["tap_nitrate"] is not None:
        source = replace(source, nitrate_mg_n_l=v["tap_nitrate"], name="")
    fresh_kh = {"kh_dkh": v["tap_kh"]} if v["tap_kh"] is not None and not old.filled and not old.salinity_g_kg else {}
    return replace(old, filters=(first, *old.filters[1:]), heaters=heaters, temp_c=v["temp_c"], source=source,
                   **fresh_kh), errors  # fmt: skip
