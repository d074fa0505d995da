"""What a house keeps in store."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

KINDS = (("conditioner", "water conditioner"), ("salt", "salt for sea water"), ("food", "food"), ("kit", "test kit"),
         ("bottle", "bottle of bacteria"), ("other", "something else"))  # fmt: skip
UNITS = (("mL", "mL"), ("L", "L"), ("g", "g"), ("kg", "kg"), ("tests", "tests"), ("pieces", "pieces"))
PER_UNIT = {"mL": 1.0, "L": 1000.0, "g": 1.0, "kg": 1000.0, "tests": 1.0, "pieces": 1.0}
COUNTED_IN = {"conditioner": ("mL", "L"), "salt": ("g", "kg"), "food": ("g", "kg"), "kit": ("tests",)}


@dataclass(frozen=True)
class Supply:
    """`left`: in `unit`, as counted on a day; `per_day`: as the keeper knows it, in the same unit, None: by the log.
    `keeps_days`: how long it is good after it was opened. `tests`: the quantity that a kit reads."""

    name: str
    kind: str
    left: float | None
    unit: str
    counted_on: date
    opened_on: date | None = None
    keeps_days: float | None = None
    best_before: date | None = None
    per_day: float | None = None
    tests: str = ""
    price: float | None = None
    bought_on: date | None = None
    id: int = 0
