"""A probe's hourly trace as CSV: one line an hour and quantity."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence

from jarbloom.core.setup.probe import Hour

COLUMNS = ("hour", "quantity", "n", "mean", "low", "high")


def probe_csv(traces: Mapping[str, Sequence[Hour]]) -> str:
    """`hour` is ISO 8601 with offset, the hour's beginning; temp °C, ph, salinity g/kg, ammonia mg N/L."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for quantity, hours in traces.items():
        for h in hours:
            writer.writerow([h.at.isoformat(), quantity, h.n, f"{h.mean:.4g}", f"{h.low:.4g}", f"{h.high:.4g}"])
    return out.getvalue()
