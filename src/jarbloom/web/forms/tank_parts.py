"""The fields of the tank forms, in parts; a page shows some of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from jarbloom.core.journal.kinds.choices import DEVICES
from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.model.choices import CHLORINE, FILTER_KINDS, KIT_KINDS, SURFACES
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.shapes import SHAPES
from jarbloom.core.vessel.volume import DECOR_NAMES

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
