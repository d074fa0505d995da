"""The tank forms: parts of fields, to a Tank and back. A page shows some parts; what it does not show stays."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from jarbloom.core.journal.kinds.choices import DEVICES
from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.model.choices import CHLORINE, FILTER_KINDS, KIT_KINDS, SURFACES
from jarbloom.core.model.hours import hours_from
from jarbloom.core.model.kit import USUAL_KITS, Kit, Scale
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Decor, Filter, Heater, Source, Tank
from jarbloom.core.vessel.shapes import SHAPES
from jarbloom.core.vessel.volume import DECOR_NAMES
from jarbloom.deeds import records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.units import Units, figure, number
from jarbloom.web.deps import Form
from jarbloom.web.forms.fields import Errors, outdated, read_fields, shown_number

SUBSTRATES = (("none", "none, bare"), ("sand", "sand"), ("gravel", "gravel"), ("soil", "plant soil"))
FORMS = {
    "ammonia": (("N", "as N"), ("NH4", "as NH4"), ("NH3", "as NH3")),
    "nitrite": (("N", "as N"), ("NO2", "as NO2")),
    "nitrate": (("N", "as N"), ("NO3", "as NO3")),
}
INSIDE = (("inside", "inside the glass"), ("outside", "outside, over the glass"))
ROWS = 3  # filters and heaters that can be typed at once; more appear when these are used


@dataclass(frozen=True)
class FormPart:
    """A group of fields under one heading, with the caution that belongs beside it."""

    key: str
    heading: str
    caution: str
    fields: tuple[Field, ...]


def _names(rows: Mapping[str, Any]) -> tuple[tuple[str, str], ...]:
    return tuple((k, row.name) for k, row in rows.items())


def parts(reference: Reference, tank: Tank | None = None) -> tuple[FormPart, ...]:
    """All parts, with a free row behind the filters and heaters that `tank` has."""
    schools = reference.schools
    return (
        FormPart("name", "Tank", "", (
            Field("name", "name", required=True, hint="as you call it"),
            Field("started", "first day with water", "date", required=True, hint="today for a new one"),
            Field("filled", "filled with water", "flag"),
            Field("planted", "planted", "flag"),
        )),
        FormPart("volume", "Volume", "floor", _volume_fields()),
        FormPart("water", "Water", "", (
            Field("temp_c", "temperature", "number", "temp", low=4, high=40, required=True),
            Field("ph", "pH", "number", low=4, high=10, required=True),
            Field("kh_dkh", "carbonate hardness", "number", "hardness", low=0, high=40, required=True),
            Field("salinity_g_kg", "salinity", "salinity", hint="0 for fresh water; 35 (g/kg) or 1.026 sg for the sea"),
        )),
        FormPart("filters", "Filters", "mains", _filter_fields(reference, tank)),
        FormPart("heaters", "Heaters, air and room", "", _heater_fields(tank)),
        FormPart("school", "Cycling", "ammonia", (
            Field("school", "school", "choice", choices=_names(schools.cycling)),
            Field("target_mg_n_l", "target of a dose", "number", unit="mg/L as N", low=0.1, high=5, required=True,
                  hint="1 to 2; above 5 the nitrite half stalls"),
            Field("dose_from", "dosed from", "choice", choices=(
                ("chloride", "ammonium chloride, by the gram"), ("solution", "ammonia solution, by the mL"))),
            Field("solution_percent", "strength of the solution", "number", unit="% NH3 by mass", low=0.1, high=30,
                  required=True),
        )),
        FormPart("pace", "Corrections and pace", "", (
            Field("corrective", "corrective change", "choice", choices=_names(schools.corrective)),
            Field("pace", "pace between batches", "choice", choices=_names(schools.pace)),
            Field("minimum", "minimum sizes", "choice", choices=_names(schools.minimum)),
            Field("quarantine", "quarantine", "choice", choices=_names(schools.quarantine)),
            Field("quarantine_days", "days of it", "number", unit="days", low=0, high=90, whole=True,
                  hint="the school’s when left empty"),
            Field("acclimatising", "acclimatising", "choice",
                  choices=(("", "as each bag asks"), *_names(schools.acclimatising_picks))),
            Field("bag_water", "water of the bag", "choice", choices=_names(schools.bag_water)),
            Field("marine_nitrite", "nitrite in sea water", "choice", choices=_names(schools.marine_nitrite)),
        )),
        FormPart("changes", "Changing water", "", (
            Field("home_hours", "at home and awake", hint="like 06:30-08:00, 17:00-22:30; when left empty 07:30-22:00"),
            Field("ready_l", "new water ready at a time", "number", "volume", low=1, high=50000,
                  hint="where it is bought, mixed or filtered; as much as is wanted when left empty"),
            Field("ready_every_h", "until as much is ready again", "number", unit="hours", low=1, high=240,
                  required=True),
        )),
        FormPart("kit", "Test kit", "", (
            Field("kit_kind", "kind", "choice", choices=KIT_KINDS),
            Field("kit_misread", "misread by one step", "number", unit="% of the time", low=0, high=60, required=True),
            *(f for q in ("ammonia", "nitrite", "nitrate") for f in (
                Field(f"{q}_steps", f"{q} steps", required=True, hint="mg/L, as printed on the card"),
                Field(f"{q}_form", f"{q} is given", "choice", choices=FORMS[q]))),
        )),
        FormPart("source", "New water", "hot_tap", _source_fields()),
    )  # fmt: skip


def _volume_fields() -> tuple[Field, ...]:
    decor = tuple(
        f
        for kind, name in DECOR_NAMES.items()
        for f in (
            Field(kind, name, "number", low=0, high=5000),
            Field(f"{kind}_unit", f"{name}, given", "choice", choices=(("kg", "by weight, kg"), ("L", "by volume, L"))),
        )
    )
    return (
        Field("shape", "shape", "choice", choices=tuple((k, s.name) for k, s in SHAPES.items())),
        Field("measured_at", "sizes taken", "choice", choices=INSIDE),
        Field("length_cm", "length", "number", "length", low=5, high=1000),
        Field("width_cm", "width, front to back", "number", "length", low=5, high=500),
        Field("height_cm", "height", "number", "length", low=5, high=300),
        Field("bow_cm", "bow beyond the sides", "number", "length", low=0, high=200),
        Field("glass_mm", "glass thickness", "number", unit="mm", low=0, high=60),
        Field("waterline_cm", "water line below the rim", "number", "length", low=0, high=200),
        Field("substrate", "substrate", "choice", choices=SUBSTRATES),
        Field("substrate_cm", "its depth in front", "number", "length", low=0, high=100),
        Field("substrate_back_cm", "its depth at the back", "number", "length", low=0, high=100,
              hint="empty where it is level"),
        *decor,
        Field("sump_l", "water in the sump", "number", "volume", low=0, high=50000),
        Field("measured_l", "counted fill", "number", "volume", low=1, high=50000,
              hint="of all that holds water; beats the geometry, and is needed when the sizes are not known"),
    )  # fmt: skip


def _filter_fields(reference: Reference, tank: Tank | None) -> tuple[Field, ...]:
    media = tuple((k, m.name) for k, m in reference.media.items())
    n = max(ROWS, len(tank.filters) + 1 if tank else 0)
    rows = tuple(
        f
        for k in range(1, n + 1)
        for f in (
            Field(f"filter{k}_name", f"filter {k}", hint="as you call it; empty for none" if k == 1 else ""),
            Field(f"filter{k}_kind", "where", "choice", choices=FILTER_KINDS),
            Field(f"filter{k}_flow", "flow on the box", "number", "flow", low=0, high=100000),
            Field(f"filter{k}_share", "of that, real", "number", unit="%", low=10, high=100,
                  hint="half to two thirds once media and head are in" if k == 1 else ""),
            Field(f"filter{k}_media", "media", "choice", choices=media),
            Field(f"filter{k}_media_l", "how much", "number", "volume", low=0, high=2000),
            Field(f"filter{k}_water_l", "water it holds", "number", "volume", low=0, high=1000),
        )
    )  # fmt: skip
    return (*rows, Field("turnover", "turnover wanted", "choice", choices=_names(reference.schools.turnover)))


def _heater_fields(tank: Tank | None) -> tuple[Field, ...]:
    n = max(ROWS, len(tank.heaters) + 1 if tank else 0)
    rows = tuple(
        f
        for k in range(1, n + 1)
        for f in (
            Field(f"heater{k}_w", f"heater {k}", "number", unit="W", low=0, high=10000),
            Field(f"heater{k}_set", "set to", "number", "temp", low=10, high=40),
        )
    )
    return (
        *rows,
        Field("room_c", "room in its coldest hours", "number", "temp", low=-10, high=40, required=True),
        Field(
            "room_warm_c",
            "and in its warmest days",
            "number",
            "temp",
            low=-10,
            high=50,
            required=True,
            hint="a tank without a heater follows it",
        ),
        Field("room_rh", "humidity of the room", "number", unit="%", low=5, high=100, required=True),
        Field("surface", "surface of the water", "choice", choices=SURFACES),
        Field("lid", "has a lid", "flag"),
        *(Field(f"has_{key}", name, "flag") for key, name in DEVICES if key != "filter"),
    )


def _source_fields() -> tuple[Field, ...]:
    return (
        Field("tap_ph", "its pH", "number", low=4, high=10, required=True),
        Field("tap_kh", "its carbonate hardness", "number", "hardness", low=0, high=40, required=True),
        Field("tap_gh", "its general hardness", "number", unit="dGH", low=0, high=60),
        Field("tap_tds", "its dissolved solids", "number", unit="mg/L", low=0, high=60000),
        Field("tap_ammonia", "its ammonia", "number", unit="mg/L as N", low=0, high=10, required=True,
              hint="chloramine leaves some"),
        Field("tap_nitrate", "its nitrate", "number", unit="mg/L as N", low=0, high=50, required=True),
        Field("tap_phosphate", "its phosphate", "number", unit="mg/L as PO4", low=0, high=20),
        Field("tap_chlorine", "it holds", "choice", choices=CHLORINE),
        Field("tap_chlorine_mg", "of that", "number", unit="mg/L as Cl2", low=0, high=10),
        Field("cold_c", "cold tap", "number", "temp", low=0, high=35, required=True),
        Field("hot_c", "hot tap", "number", "temp", low=20, high=90, required=True),
        Field("conditioner_ml_per_100l", "conditioner", "number", "dosage", low=0, high=1000,
              hint="by its label; leave empty when not known"),
        Field("conditioner_whole_tank", "label doses the whole tank", "flag"),
        Field("salt_factor", "salt for a gram dissolved", "number", unit="g", low=0.9, high=1.3,
              hint="1.0 to 1.1; worked out beside, from your last mix"),
    )  # fmt: skip


def part_fields(chosen: Sequence[FormPart]) -> tuple[Field, ...]:
    return tuple(f for part in chosen for f in part.fields)


SOURCE = {
    "tap_ph": "ph", "tap_kh": "kh_dkh", "tap_gh": "gh_dgh", "tap_tds": "tds_mg_l", "tap_ammonia": "ammonia_mg_n_l",
    "tap_nitrate": "nitrate_mg_n_l", "tap_phosphate": "phosphate_mg_l", "tap_chlorine": "chlorine",
    "tap_chlorine_mg": "chlorine_mg_l", "cold_c": "cold_c", "hot_c": "hot_c",
}  # fmt: skip


def _flat(tank: Tank) -> dict[str, Any]:
    """Every field's canonical value for a tank."""
    flat: dict[str, Any] = {k: v for k, v in vars(tank).items() if k not in ("kit", "source", "typed")}
    flat |= {name: getattr(tank.source, field) for name, field in SOURCE.items()}
    flat |= {
        "kit_kind": tank.kit.kind,
        "kit_misread": tank.kit.misread * 100,
        "measured_at": "outside" if tank.outside else "inside",
        "salinity_g_kg": figure(tank.salinity_g_kg),
    }
    for q in ("ammonia", "nitrite", "nitrate"):
        scale = tank.kit.scale(q)
        flat |= {f"{q}_steps": " ".join(figure(s) for s in scale.steps), f"{q}_form": scale.form}
    for item in tank.decor:
        flat |= {item.kind: item.amount, f"{item.kind}_unit": item.unit}
    for k, f in enumerate(tank.filters, 1):
        flat |= {
            f"filter{k}_name": f.name, f"filter{k}_kind": f.kind, f"filter{k}_flow": f.nominal_l_h,
            f"filter{k}_share": f.real_share * 100, f"filter{k}_media": f.media, f"filter{k}_media_l": f.media_l,
            f"filter{k}_water_l": f.water_l or None,
        }  # fmt: skip
    for k, h in enumerate(tank.heaters, 1):
        flat |= {f"heater{k}_w": h.watts, f"heater{k}_set": h.set_c}
    return flat | {f"has_{d}": True for d in tank.devices}


def typed_of(tank: Tank, desk: Desk) -> dict[str, str]:
    """What the forms show for a tank: the text as once typed where its unit is still the one in use."""
    units, flat, shown = desk.preferences.units, _flat(tank), {}
    for spec in part_fields(parts(desk.reference, tank)):
        value = flat.get(spec.name)
        if spec.type == "flag":
            shown[spec.name] = "on" if value else ""
        elif value is None:
            shown[spec.name] = ""
        elif spec.type == "number":
            text, _, unit = tank.typed.get(spec.name, "").partition(" ")
            kept = bool(text) and unit == _unit(spec, units)
            shown[spec.name] = text if kept else shown_number(float(value), spec, units)
        else:
            shown[spec.name] = value.isoformat() if spec.type == "date" else str(value)
    return shown


def changed_meanwhile(typed: Form, desk: Desk, tank: Tank, only: Sequence[str]) -> dict[str, str]:
    """Sentences at the fields of a form that somebody changed since it was made, and that it would change otherwise."""
    before = records.at_revision(desk, tank, typed.revision) if typed.revision is not None else None
    if before is None:
        return {}
    shown = [f.name for p in parts(desk.reference, tank) if p.key in only for f in p.fields]
    return outdated(typed, typed_of(before, desk), typed_of(tank, desk), shown)


def _unit(spec: Field, units: Units) -> str:
    return units.unit(spec.dimension) if spec.dimension else spec.unit


def _steps(text: str, name: str) -> tuple[float, ...]:
    steps = tuple(number(part, name, low=0, high=1000) for part in text.replace(";", " ").split())
    if len(steps) < 3:
        raise Refused("Give at least three steps, for example 0 0.25 0.5 1 2 5.", name)
    if steps[0] != 0 or any(a >= b for a, b in zip(steps, steps[1:], strict=False)):
        raise Refused("The steps begin with 0 and rise.", name)
    return steps


def read_tank(
    typed: Mapping[str, str], desk: Desk, base: Tank | None = None, only: Sequence[str] = ()
) -> tuple[Tank | None, Errors]:
    """`base` (a new tank when None) with the typed parts, or None with errors at the fields. `only` names the parts
    that the form showed; all when empty."""
    units, errors = desk.preferences.units, Errors()
    start = base or Tank("", desk.now.date())
    chosen = [p for p in parts(desk.reference, start) if not only or p.key in only]
    specs = part_fields(chosen)
    v = read_fields(specs, typed, units, errors)
    changes: dict[str, Any] = {}
    for part in chosen:
        try:
            changes |= _BUILD.get(part.key, _plain)(v, part, start, errors)
        except Refused as problem:
            errors.add(problem)
    if errors:
        return None, errors
    kept = {
        s.name: f"{typed[s.name].strip()} {_unit(s, units)}"
        for s in specs
        if s.type == "number" and typed.get(s.name, "").strip()
    }
    gone = {s.name for s in specs}
    return replace(start, **changes, typed={k: t for k, t in start.typed.items() if k not in gone} | kept), errors


def _plain(v: dict[str, Any], part: FormPart, base: Tank, errors: Errors) -> dict[str, Any]:
    return {f.name: v[f.name] for f in part.fields if f.name in v}


def _volume(v: dict[str, Any], part: FormPart, base: Tank, errors: Errors) -> dict[str, Any]:
    found = {
        name: v.get(name)
        for name in ("length_cm", "width_cm", "height_cm", "bow_cm", "substrate_back_cm", "measured_l")
    }
    shape = v.get("shape") or "box"
    needs = SHAPES[shape].needs
    given = [n for n in needs if found[n] is not None]
    missing = [n for n in needs if found[n] is None]
    if given and missing and not set(missing) & set(errors.by_field):
        label = next(f.label for f in part.fields if f.name == missing[0])
        raise Refused(
            f"A {SHAPES[shape].name} needs its {label.split(',')[0]} too; or give no sizes and the counted fill.",
            missing[0],
        )
    decor = tuple(Decor(kind, v[kind], v.get(f"{kind}_unit") or "kg") for kind in DECOR_NAMES if v.get(kind))
    return found | {
        "shape": shape,
        "outside": v.get("measured_at") == "outside",
        "glass_mm": base.glass_mm if v.get("glass_mm") is None else v["glass_mm"],
        "waterline_cm": v.get("waterline_cm") or 0.0,
        "substrate": v.get("substrate") or "none",
        "substrate_cm": v.get("substrate_cm") or 0.0,
        "sump_l": v.get("sump_l") or 0.0,
        "decor": decor,
    }


def _water(v: dict[str, Any], part: FormPart, base: Tank, errors: Errors) -> dict[str, Any]:
    return _plain(v, part, base, errors) | {"salinity_g_kg": v.get("salinity_g_kg") or 0.0}


def _filters(v: dict[str, Any], part: FormPart, base: Tank, errors: Errors) -> dict[str, Any]:
    found: list[Filter] = []
    names: dict[str, str] = {}
    for k in range(1, sum(f.name.endswith("_kind") for f in part.fields) + 1):
        keys = ("name", "kind", "flow", "share", "media", "media_l", "water_l")
        row = {key: v.get(f"filter{k}_{key}") for key in keys}
        if not row["name"] and row["flow"] is None and row["media_l"] is None:
            continue
        name = (row["name"] or f"filter {k}").strip()
        if name.lower() in names:
            errors.add(Refused(f"Two filters are called “{name}”: give one another name.", f"filter{k}_name"))
        names[name.lower()] = name
        share = 100.0 if row["share"] is None else row["share"]
        kind, media = row["kind"] or "internal", row["media"] or "foam"
        found.append(
            Filter(name, kind, row["flow"] or 0.0, share / 100, media, row["media_l"] or 0.0, row["water_l"] or 0.0)
        )
    return {"filters": tuple(found), "turnover": v.get("turnover") or base.turnover}


def _heaters(v: dict[str, Any], part: FormPart, base: Tank, errors: Errors) -> dict[str, Any]:
    n = sum(f.name.startswith("heater") and f.name.endswith("_w") for f in part.fields)
    given = [k for k in range(1, n + 1) if v.get(f"heater{k}_w")]
    heaters = tuple(Heater(v[f"heater{k}_w"], v.get(f"heater{k}_set")) for k in given)
    return {
        "heaters": heaters,
        "room_c": v.get("room_c"),
        "room_warm_c": v.get("room_warm_c"),
        "room_rh": v.get("room_rh"),
        "surface": v.get("surface") or base.surface,
        "lid": v["lid"],
        "devices": tuple(key for key, _ in DEVICES if v.get(f"has_{key}")),
    }


def _changes(v: dict[str, Any], part: FormPart, base: Tank, errors: Errors) -> dict[str, Any]:
    hours_from(v.get("home_hours") or "")
    return {
        "home_hours": (v.get("home_hours") or "").strip(),
        "ready_l": v.get("ready_l"),
        "ready_every_h": base.ready_every_h if v.get("ready_every_h") is None else v["ready_every_h"],
    }


def _kit(v: dict[str, Any], part: FormPart, base: Tank, errors: Errors) -> dict[str, Any]:
    scales = {}
    for q in ("ammonia", "nitrite", "nitrate"):
        try:
            scales[q] = Scale(_steps(v.get(f"{q}_steps") or "", f"{q}_steps"), v.get(f"{q}_form") or "N")
        except Refused as problem:
            errors.add(problem, f"{q}_steps")
    if errors:
        return {}
    kit = Kit(v["kit_kind"], scales["ammonia"], scales["nitrite"], scales["nitrate"], v["kit_misread"] / 100)
    untouched = replace(kit, kind=base.kit.kind) == replace(base.kit, misread=kit.misread)
    if kit.kind != base.kit.kind and untouched and abs(kit.misread - base.kit.misread) < 1e-6:
        kit = USUAL_KITS[kit.kind]  # another kind was chosen and nothing else: its own steps and misread rate
    return {"kit": kit}


def _source(v: dict[str, Any], part: FormPart, base: Tank, errors: Errors) -> dict[str, Any]:
    told: dict[str, Any] = {field: v.get(name) for name, field in SOURCE.items()}
    told["chlorine"] = told["chlorine"] or "unknown"
    same = all(getattr(base.source, f) == value for f, value in told.items())
    return {
        "source": Source(**told, name=base.source.name if same else ""),
        "conditioner_ml_per_100l": v.get("conditioner_ml_per_100l"),
        "conditioner_whole_tank": v["conditioner_whole_tank"],
        "salt_factor": base.salt_factor if v.get("salt_factor") is None else v["salt_factor"],
    }


_BUILD = {
    "volume": _volume, "water": _water, "filters": _filters, "heaters": _heaters, "kit": _kit, "source": _source,
    "changes": _changes,
}  # fmt: skip
