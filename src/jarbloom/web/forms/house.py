"""Forms of the house: a source water, an instrument, a mix."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.model.choices import CHLORINE
from jarbloom.core.model.tank import Instrument, Source, Tank, Water
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.dilution import USUAL_CHANGE
from jarbloom.core.water.mixing import Wish
from jarbloom.core.water.salinity import INSTRUMENTS
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.units import Units, figure
from jarbloom.views.house.water import KINDS
from jarbloom.web.forms.fields import Errors, read_fields, shown_number

WATER_FIELDS = (
    Field("name", "name", required=True, hint="as you call it: tap, osmosis"),
    Field("kind", "kind", "choice", choices=KINDS),
    Field("ph", "pH", "number", low=3, high=11, required=True),
    Field("kh_dkh", "carbonate hardness (KH)", "number", "hardness", low=0, high=60, required=True),
    Field("gh_dgh", "general hardness (GH)", "number", unit="dGH", low=0, high=100),
    Field("tds_mg_l", "dissolved solids (TDS)", "number", unit="mg/L", low=0, high=60000),
    Field("ammonia_mg_n_l", "ammonia", "number", unit="mg/L as N", low=0, high=20, required=True),
    Field("nitrate_mg_n_l", "nitrate", "number", unit="mg/L as N", low=0, high=100, required=True),
    Field("phosphate_mg_l", "phosphate", "number", unit="mg/L as PO4", low=0, high=50),
    Field("chlorine", "it holds", "choice", choices=CHLORINE),
    Field("chlorine_mg_l", "of that", "number", unit="mg/L as Cl2", low=0, high=20,
          hint="chloramine leaves a fifth of it as ammonia"),
    Field("measured_on", "measured on", "date"),
    Field("note", "note"),
)  # fmt: skip
INSTRUMENT_FIELDS = (
    Field("name", "name", required=True),
    Field("kind", "kind", "choice", choices=tuple(INSTRUMENTS.items())),
    Field("calibrated_on", "last calibrated on", "date"),
    Field("calibrated_at_c", "its scale is true at", "number", "temp", low=10, high=35, required=True),
)
MIX_FIELDS = (
    Field("litres", "how much", "number", "volume", low=0.1, high=50000, required=True),
    Field("target_kh", "KH wanted", "number", "hardness", low=0, high=40, hint="mixed to it, or buffered up to it"),
    Field("share_second", "of the second", "number", unit="%", low=0, high=100, hint="when no KH is wanted"),
    Field("salinity", "salinity wanted", "salinity", hint="0, 35 (g/kg) or 1.026 sg"),
)
FACTOR_FIELDS = (
    Field("mixed_g", "salt put in", "number", "mass", low=1, high=1e6, required=True),
    Field("mixed_l", "for", "number", "volume", low=0.1, high=50000, required=True),
    Field("reached", "it came to", "salinity", required=True, hint="35 (g/kg) or 1.026 sg"),
)
_OF_SOURCE = ("ph", "kh_dkh", "gh_dgh", "tds_mg_l", "ammonia_mg_n_l", "nitrate_mg_n_l", "phosphate_mg_l",
              "chlorine", "chlorine_mg_l")  # fmt: skip
OF_OSMOSIS = {"ph": 6.5, "kh_dkh": 0.3, "nitrate_mg_n_l": 0.0}  # a membrane in order (practice)
BLANK_WATER = Water("", "tap", Source())


def typed_water(w: Water, units: Units) -> dict[str, str]:
    shown = {"name": w.name, "kind": w.kind, "note": w.note}
    shown["measured_on"] = w.measured_on.isoformat() if w.measured_on else ""
    for spec in WATER_FIELDS:
        if spec.name in _OF_SOURCE:
            value = getattr(w.source, spec.name)
            if value is None:
                shown[spec.name] = ""
            else:
                shown[spec.name] = shown_number(value, spec, units) if spec.type == "number" else str(value)
    return shown


def read_water(typed: Mapping[str, str], desk: Desk, base: Water = BLANK_WATER) -> tuple[Water | None, Errors]:
    errors = Errors()
    v = read_fields(WATER_FIELDS, typed, desk.preferences.units, errors)
    if errors:
        return None, errors
    source = replace(base.source, **{name: v[name] for name in _OF_SOURCE if name != "chlorine"})
    source = replace(source, chlorine=v["chlorine"] or "unknown")
    if (
        v["kind"] == "ro"
        and base.kind != "ro"
        and all(getattr(source, n) == getattr(base.source, n) for n in OF_OSMOSIS)
    ):
        source = replace(source, **OF_OSMOSIS)  # type: ignore[arg-type]  # chosen, and the usual tap's values left standing: its own
    return Water(v["name"], v["kind"] or "tap", source, v["measured_on"], v["note"] or "", base.id), errors


def typed_instrument(one: Instrument | None, units: Units) -> dict[str, str]:
    spec = INSTRUMENT_FIELDS[-1]
    if one is None:
        return {"kind": "refractometer", "calibrated_at_c": shown_number(25.0, spec, units)}
    return {
        "name": one.name,
        "kind": one.kind,
        "calibrated_on": one.calibrated_on.isoformat() if one.calibrated_on else "",
        "calibrated_at_c": shown_number(one.calibrated_at_c, spec, units),
    }


def read_instrument(typed: Mapping[str, str], desk: Desk, thing_id: int = 0) -> tuple[Instrument | None, Errors]:
    errors = Errors()
    v = read_fields(INSTRUMENT_FIELDS, typed, desk.preferences.units, errors)
    if errors:
        return None, errors
    kind = v["kind"] or "refractometer"
    return Instrument(v["name"], kind, v["calibrated_on"], v["calibrated_at_c"], thing_id), errors


def blank_mix(tank: Tank, waters: Sequence[Water], units: Units) -> dict[str, str]:
    """A change of a third at the tank's own salinity, from the water it takes now; in fresh water to its KH."""
    third = net_l(tank) * USUAL_CHANGE
    ids = [str(w.id) for w in sorted(waters, key=lambda w: w.name != tank.source.name)]
    salt = tank.salinity_g_kg > 0
    return {
        "litres": shown_number(float(round(third)) if third >= 3 else third, MIX_FIELDS[0], units),
        "first": ids[0] if ids else "",
        "second": ids[1] if len(ids) > 1 and not salt else "",
        "target_kh": "" if salt else shown_number(tank.kh_dkh, MIX_FIELDS[1], units),
        "share_second": "",
        "salinity": figure(tank.salinity_g_kg),
    }


def read_mix(typed: Mapping[str, str], desk: Desk) -> tuple[Wish | None, Errors]:
    errors = Errors()
    v = read_fields(MIX_FIELDS, typed, desk.preferences.units, errors)
    ids = {}
    for name in ("first", "second"):
        text = typed.get(name, "").strip()
        if text and not text.isdigit():
            errors.add(Refused("Choose a water.", name))
        ids[name] = int(text) if text.isdigit() else None
    if ids["first"] is None:
        errors.add(Refused("Choose a water.", "first"))
    if errors:
        return None, errors
    share = None if v["share_second"] is None else v["share_second"] / 100
    assert ids["first"] is not None
    return Wish(v["litres"], ids["first"], ids["second"], share, v["target_kh"], v["salinity"] or 0.0), errors
