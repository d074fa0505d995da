"""A forecast as a table: one row a day, all quantities with their quantiles."""

from __future__ import annotations

import csv
import io

from jarbloom.core.bloom.capacity import QUANTILES
from jarbloom.core.bloom.forecast import Forecast

COLUMNS = {
    "tan": "tan_mg_n_l",
    "nh3": "nh3_mg_n_l",
    "no2": "no2_mg_n_l",
    "no3": "no3_mg_n_l",
    "capacity": "capacity_mg_n_day",
    "capacity_a": "capacity_ammonia_mg_n_day",
    "capacity_b": "capacity_nitrite_mg_n_day",
}  # bands of a forecast, and what they are called outside


def forecast_csv(f: Forecast) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["date", *(f"{name}_p{100 * q:.0f}" for name in COLUMNS.values() for q in QUANTILES)])
    for k, day in enumerate(f.days):
        values = (float(f.bands[band][i, k]) for band in COLUMNS for i in range(len(QUANTILES)))
        writer.writerow([day.isoformat(), *(f"{v:.6g}" for v in values)])
    return out.getvalue()
