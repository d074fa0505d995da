"""What a view of the record shows, as a table: one reading or sum a row."""

from __future__ import annotations

import csv
import io
from datetime import datetime

import numpy as np

from jarbloom.core.history.record import Record


def history_csv(r: Record) -> str:
    """Columns: at (with offset), quantity, value, low, high, unit. Empty `high`: the kit's card ends there."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["at", "quantity", "value", "low", "high", "unit"])
    zone = r.start.tzinfo
    for curve in (c for strip in r.strips for c in strip):
        s = curve.whole
        for at, *values in zip(s.at, s.seen, s.low, s.high, strict=True):
            told = [f"{v:.6g}" if np.isfinite(v) else "" for v in values]
            moment = datetime.fromtimestamp(float(at), zone).isoformat(timespec="minutes")
            writer.writerow([moment, curve.quantity.key, *told, curve.unit])
    return out.getvalue()
