"""A forecast as plain data and back, for the store and for machines."""

from __future__ import annotations

import json
from dataclasses import asdict
from datetime import date, datetime
from typing import Any

import numpy as np

from jarbloom.core.bloom.forecast import Forecast, Surprise
from jarbloom.core.bloom.outlook import BatchOutlook
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.bloom.sample import Sample
from jarbloom.core.bloom.steps import Raised, Step
from jarbloom.core.bloom.value import TestValue
from jarbloom.core.bloom.why import Unknown

DIGITS = 6  # significant digits kept; far below what the model can tell


def plain(value: Any) -> Any:
    """Dates as text, arrays as lists, figures to six significant digits."""
    if isinstance(value, np.ndarray):
        return [plain(row) for row in value.tolist()]
    if isinstance(value, datetime | date):
        return value.isoformat()
    if isinstance(value, float):
        return float(f"{value:.{DIGITS}g}")
    if isinstance(value, dict):
        return {k: plain(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [plain(v) for v in value]
    return value


def to_json(forecast: Forecast) -> str:
    return json.dumps(plain(asdict(forecast)), allow_nan=False)


def _day(text: str | None) -> date | None:
    return None if text is None else date.fromisoformat(text)


def from_json(text: str) -> Forecast:
    """The forecast kept by `to_json`; figures are equal to six significant digits."""
    raw = json.loads(text)
    raw["as_of"] = datetime.fromisoformat(raw["as_of"])
    raw["last_reading"] = datetime.fromisoformat(raw["last_reading"]) if raw["last_reading"] else None
    raw["days"] = tuple(date.fromisoformat(d) for d in raw["days"])
    raw["bands"] = {name: np.array(rows) for name, rows in raw["bands"].items()}
    for name in ("readiness", "carries"):
        ready = raw[name]
        raw[name] = Readiness(**(ready | {k: _day(ready[k]) for k in ("p10", "p25", "p50", "p75", "p90")}))
    raw["next_tests"] = tuple(TestValue(**(t | {"day": date.fromisoformat(t["day"])})) for t in raw["next_tests"])
    raw["unknowns"] = tuple(Unknown(**u) for u in raw["unknowns"])
    raw["batches"] = tuple(
        BatchOutlook(**(b | {"planned": date.fromisoformat(b["planned"]), "first_sure": _day(b["first_sure"])}))
        for b in raw["batches"]
    )
    raw["sample"] = Sample(**{name: np.array(values, dtype=float) for name, values in raw["sample"].items()})
    raw["steps"] = tuple(
        Step(**(s | {n: tuple(s[n]) for n in ("opens", "clean", "spent")} | {"early": _moments(s["early"])}))
        for s in raw["steps"]
    )
    raw["raised"] = Raised(**raw["raised"]) if raw["raised"] else None
    raw["surprises"] = tuple(Surprise(**(s | {"at": datetime.fromisoformat(s["at"])})) for s in raw["surprises"])
    return Forecast(**raw)


def _moments(raw: list[list[Any]]) -> tuple[tuple[datetime, float], ...]:
    return tuple((datetime.fromisoformat(at), p) for at, p in raw)
