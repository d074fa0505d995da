"""The tank form: one table of fields, to a Tank and back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from jarbloom.core.log.kinds import Field
from jarbloom.core.model import Kit, Scale, Source, Tank
from jarbloom.core.reference import Reference
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.units import figure, number
from jarbloom.web.forms.fields import Errors, read_fields, shown_number

SUBSTRATES = (("none", "none, bare"), ("sand", "sand"), ("gravel", "gravel"), ("soil", "plant soil"))
KIT_KINDS = (("liquid", "liquid drops"), ("strip", "strips"), ("photometer", "photometer"))
MISREAD = {"liquid": 17, "strip": 28, "photometer": 5}
FORMS = {
    "ammonia": (("N", "as N"), ("NH4", "as NH4"), ("NH3", "as NH3")),
    "nitrite": (("N", "as N"), ("NO2", "as NO2")),
    "nitrate": (("N", "as N"), ("NO3", "as NO3")),
}


def groups(reference: Reference) -> tuple[tuple[str, str, tuple[Field, ...]], ...]:
    """(heading, key of a caution or '', fields)."""
    schools, media = reference.schools, reference.media
    cycling = tuple((k, s.name) for k, s in schools.cycling.items() if k != "living_rock")
    return (
        ("Tank", "floor", (
            Field("name", "name", required=True, hint="as you call it"),
            Field("started", "first day with water", "date", required=True, hint="today for a new one"),
            Field("length_cm", "inside length", "number", "length", low=5, high=1000),
            Field("width_cm", "inside width, front to back", "number", "length", low=5, high=500),
            Field("height_cm", "inside height", "number", "length", low=5, high=300),
            Field("waterline_cm", "water line below the rim", "number", "length", low=0, high=200),
            Field("substrate", "substrate", "choice", choices=SUBSTRATES),
            Field("substrate_cm", "its mean depth", "number", "length", low=0, high=100),
            Field("measured_l", "counted fill", "number", "volume", low=1, high=50000,
                  hint="beats the geometry; needed when the sizes are not known"),
            Field("filled", "filled with water", "flag"),
            Field("lid", "has a lid", "flag"),
            Field("planted", "planted", "flag"),
        )),
        ("Water", "", (
            Field("temp_c", "temperature", "number", "temp", low=4, high=40, required=True),
            Field("ph", "pH", "number", low=4, high=10, required=True),
            Field("kh_dkh", "carbonate hardness", "number", "hardness", low=0, high=40, required=True),
        )),
        ("Filter and heater", "mains", (
            Field("media", "filter media", "choice", choices=tuple((k, m.name) for k, m in media.items())),
            Field("media_l", "how much of it", "number", "volume", low=0, high=2000, required=True),
            Field("flow_l_h", "real flow", "number", "flow", low=0, high=100000, required=True,
                  hint="half to two thirds of what the box says"),
            Field("heater_w", "heater", "number", unit="W", low=0, high=10000, required=True),
        )),
        ("Cycling", "ammonia", (
            Field("school", "school", "choice", choices=cycling),
            Field("target_mg_n_l", "target of a dose", "number", unit="mg/L as N", low=0.1, high=5, required=True,
                  hint="1 to 2; above 5 the nitrite half stalls"),
            Field("dose_from", "dosed from", "choice", choices=(
                ("chloride", "ammonium chloride, by the gram"), ("solution", "ammonia solution, by the mL"))),
            Field("solution_percent", "strength of the solution", "number", unit="% NH3 by mass", low=0.1, high=30,
                  required=True),
        )),
        ("Corrections and pace", "", (
            Field("corrective", "corrective change", "choice",
                  choices=tuple((k, s.name) for k, s in schools.corrective.items())),
            Field("pace", "pace between batches", "choice",
                  choices=tuple((k, s.name) for k, s in schools.pace.items())),
        )),
        ("Test kit", "", (
            Field("kit_kind", "kind", "choice", choices=KIT_KINDS),
            Field("kit_misread", "misread by one step", "number", unit="% of the time", low=0, high=60, required=True),
            *(f for q in ("ammonia", "nitrite", "nitrate") for f in (
                Field(f"{q}_steps", f"{q} steps", required=True, hint="mg/L, as printed on the card"),
                Field(f"{q}_form", f"{q} is given", "choice", choices=FORMS[q]))),
        )),
        ("New water", "hot_tap", (
            Field("tap_ph", "its pH", "number", low=4, high=10, required=True),
            Field("tap_kh", "its carbonate hardness", "number", "hardness", low=0, high=40, required=True),
            Field("tap_ammonia", "its ammonia", "number", unit="mg/L as N", low=0, high=10, required=True,
                  hint="chloramine leaves some"),
            Field("tap_nitrate", "its nitrate", "number", unit="mg/L as N", low=0, high=50, required=True),
            Field("cold_c", "cold tap", "number", "temp", low=0, high=35, required=True),
            Field("hot_c", "hot tap", "number", "temp", low=20, high=90, required=True),
            Field("conditioner_ml_per_100l", "conditioner", "number", "dosage", low=0, high=1000,
                  hint="by its label; leave empty when not known"),
            Field("conditioner_whole_tank", "label doses the whole tank", "flag"),
        )),
    )  # fmt: skip


def all_fields(reference: Reference) -> tuple[Field, ...]:
    return tuple(f for _, _, fields in groups(reference) for f in fields)


def _flat(tank: Tank) -> dict[str, Any]:
    flat = {k: v for k, v in vars(tank).items() if k not in ("kit", "source", "typed")}
    flat |= {
        "kit_kind": tank.kit.kind,
        "kit_misread": tank.kit.misread * 100,
        "tap_ph": tank.source.ph,
        "tap_kh": tank.source.kh_dkh,
        "tap_ammonia": tank.source.ammonia_mg_n_l,
        "tap_nitrate": tank.source.nitrate_mg_n_l,
        "cold_c": tank.source.cold_c,
        "hot_c": tank.source.hot_c,
    }
    for q in ("ammonia", "nitrite", "nitrate"):
        scale = tank.kit.scale(q)
        flat |= {f"{q}_steps": " ".join(figure(s) for s in scale.steps), f"{q}_form": scale.form}
    return flat


def typed_of(tank: Tank, desk: Desk) -> dict[str, str]:
    """What the form shows for a tank: the text as once typed where its unit is still the one in use."""
    units, flat, shown = desk.preferences.units, _flat(tank), {}
    for spec in all_fields(desk.reference):
        value = flat[spec.name]
        if spec.type == "flag":
            shown[spec.name] = "on" if value else ""
        elif value is None:
            shown[spec.name] = ""
        elif spec.type == "number":
            text, _, unit = tank.typed.get(spec.name, "").partition(" ")
            kept = bool(text) and unit == (units.unit(spec.dimension) if spec.dimension else spec.unit)
            shown[spec.name] = text if kept else shown_number(float(value), spec, units)
        else:
            shown[spec.name] = value.isoformat() if spec.type == "date" else str(value)
    return shown


def _steps(text: str, name: str) -> tuple[float, ...]:
    steps = tuple(number(part, name, low=0, high=1000) for part in text.replace(";", " ").split())
    if len(steps) < 3:
        raise Refused("Give at least three steps, for example 0 0.25 0.5 1 2 5.", name)
    if steps[0] != 0 or any(a >= b for a, b in zip(steps, steps[1:], strict=False)):
        raise Refused("The steps begin with 0 and rise.", name)
    return steps


def read_tank(typed: Mapping[str, str], desk: Desk, base: Tank | None = None) -> tuple[Tank | None, Errors]:
    """A Tank from the typed form, or None with errors at the fields. `base` keeps its id and address."""
    units, errors = desk.preferences.units, Errors()
    specs = all_fields(desk.reference)
    v = read_fields(specs, typed, units, errors)
    scales = {}
    for q in ("ammonia", "nitrite", "nitrate"):
        try:
            scales[q] = Scale(_steps(v.get(f"{q}_steps") or "", f"{q}_steps"), v.get(f"{q}_form") or "N")
        except Refused as problem:
            errors.add(problem, f"{q}_steps")
    if errors:
        return None, errors
    given = [v["length_cm"], v["width_cm"], v["height_cm"]]
    if any(given) and not all(given):
        missing = next(n for n, x in zip(("length_cm", "width_cm", "height_cm"), given, strict=True) if x is None)
        errors.add(Refused("Give all three inside sizes, or none and the counted fill.", missing))
        return None, errors
    plain = {
        k: v[k]
        for k in (
            "name",
            "started",
            "length_cm",
            "width_cm",
            "height_cm",
            "substrate",
            "measured_l",
            "filled",
            "lid",
            "planted",
            "temp_c",
            "ph",
            "kh_dkh",
            "media",
            "media_l",
            "flow_l_h",
            "heater_w",
            "school",
            "target_mg_n_l",
            "dose_from",
            "solution_percent",
            "corrective",
            "pace",
            "conditioner_ml_per_100l",
            "conditioner_whole_tank",
        )
    }
    kept = {
        s.name: f"{typed[s.name].strip()} {units.unit(s.dimension) if s.dimension else s.unit}"
        for s in specs
        if s.type == "number" and typed.get(s.name, "").strip()
    }
    tank = Tank(
        **plain, waterline_cm=v["waterline_cm"] or 0.0, substrate_cm=v["substrate_cm"] or 0.0,
        kit=Kit(v["kit_kind"], scales["ammonia"], scales["nitrite"], scales["nitrate"], v["kit_misread"] / 100),
        source=Source(v["tap_ph"], v["tap_kh"], v["tap_ammonia"], v["tap_nitrate"], v["cold_c"], v["hot_c"]),
        typed=kept,
    )  # fmt: skip
    return (replace(tank, id=base.id, slug=base.slug) if base else tank), errors
