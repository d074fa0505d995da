"""The tank forms: what is typed, to a Tank and back. What a page does not show stays."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from jarbloom.core.journal.kinds.choices import DEVICES
from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.model.hours import hours_from
from jarbloom.core.model.kit import USUAL_KITS, Kit, Scale
from jarbloom.core.model.tank import Decor, Filter, Heater, Source, Tank
from jarbloom.core.vessel.shapes import SHAPES
from jarbloom.core.vessel.volume import DECOR_NAMES
from jarbloom.deeds import records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.units import Units, figure, number
from jarbloom.web.deps import Form
from jarbloom.web.forms.fields import Errors, outdated, read_fields, shown_number
from jarbloom.web.forms.tank_parts import FormPart, part_fields, parts

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
