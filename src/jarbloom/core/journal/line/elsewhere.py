"""What a note read in another water, in figures: quantities of a test kit in canonical units."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from jarbloom.core.journal.kinds.measured import Measured
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.setting import Setting
from jarbloom.core.journal.spoken.elsewhere import read_elsewhere


def figures_elsewhere(text: str, at: datetime, setting: Setting) -> Mapping[str, Mapping[str, float]]:
    """By water (tap, bag, ro, rain, well): ammonia, nitrite and nitrate in mg N/L, KH in dKH, temp in deg C, salinity
    in g/kg, GH in dGH, the rest in mg/L. `at`: when it was written. Empty for a note of anything else, and for a
    reading that the log line would ask about."""
    found: dict[str, dict[str, float]] = {}
    for told in read_elsewhere(text, at, setting.day_first):
        values: dict[str, float] = {}
        for body in parse(told.plain, at, setting).bodies:
            if isinstance(body, Tested):
                values |= {r.quantity: r.seen for r in body.readings if not r.masked}
            elif isinstance(body, Measured):
                values |= body.told
        if values:
            found[told.water] = values
    return found
