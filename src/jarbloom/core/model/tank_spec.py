"""A tank's settings as plain data and back: one spelling for the store and for bundles."""

from __future__ import annotations

from dataclasses import asdict, fields
from datetime import date
from typing import Any

from jarbloom.core.model.kit import Kit, Scale
from jarbloom.core.model.tank import Decor, Filter, Heater, Source, Tank
from jarbloom.errors import Refused

_OUTSIDE = ("id", "slug")  # not settings: where it is kept


def to_spec(tank: Tank) -> dict[str, Any]:
    """JSON-ready settings of a tank."""
    spec = {k: v for k, v in asdict(tank).items() if k not in _OUTSIDE}
    spec["started"] = tank.started.isoformat()
    return spec


def _scale(raw: dict[str, Any]) -> Scale:
    return Scale(tuple(float(s) for s in raw["steps"]), str(raw["form"]))


def kit_from(raw: dict[str, Any]) -> Kit:
    return Kit(
        str(raw["kind"]), _scale(raw["ammonia"]), _scale(raw["nitrite"]), _scale(raw["nitrate"]), float(raw["misread"])
    )


# What a tank's settings were called before it could have several filters and heaters.
_ONCE = ("media", "media_l", "flow_l_h", "heater_w")


def _modern(spec: dict[str, Any]) -> dict[str, Any]:
    """Settings as they are spelled today: the one filter and the one heater of earlier versions become lists."""
    values = {k: v for k, v in spec.items() if k not in _ONCE}
    old = {k: spec[k] for k in _ONCE if k in spec}
    if "filters" not in values and {"media", "media_l", "flow_l_h"} & set(old):
        names = {"media": "media", "media_l": "media_l", "flow_l_h": "nominal_l_h"}
        values["filters"] = [{names[k]: v for k, v in old.items() if k in names}]
    if "heaters" not in values and "heater_w" in old:
        values["heaters"] = [{"watts": old["heater_w"]}] if old["heater_w"] else []
    return values


def from_spec(spec: dict[str, Any], *, id: int = 0, slug: str = "") -> Tank:
    """Tank from its settings; unknown keys are refused, missing ones take the defaults."""
    known = {f.name for f in fields(Tank)} - set(_OUTSIDE)
    odd = set(spec) - known - set(_ONCE)
    if odd:
        raise Refused(f"{', '.join(sorted(odd))}: not a setting of a tank.", sorted(odd)[0])
    values = _modern(spec)
    try:
        values["started"] = date.fromisoformat(values["started"])
        if "kit" in values:
            values["kit"] = kit_from(values["kit"])
        if "source" in values:
            values["source"] = Source(**values["source"])
        for name, kind in (("filters", Filter), ("heaters", Heater), ("decor", Decor)):
            if name in values:
                values[name] = tuple(kind(**row) for row in values[name])
        if "devices" in values:
            values["devices"] = tuple(str(d) for d in values["devices"])
        return Tank(**values, id=id, slug=slug)
    except (KeyError, TypeError, OverflowError, ValueError) as problem:
        raise Refused(f"The tank's settings cannot be read: {problem}.") from None
