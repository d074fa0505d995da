"""A stretch of time as one types it: 2 h, -1 day, 90 min."""

from __future__ import annotations

import re
from datetime import timedelta

from jarbloom.errors import Refused

_UNITS = {"min": "minutes", "m": "minutes", "minute": "minutes", "minutes": "minutes", "h": "hours", "hour": "hours",
          "hours": "hours", "d": "days", "day": "days", "days": "days", "w": "weeks", "week": "weeks",
          "weeks": "weeks"}  # fmt: skip
_SHIFT = re.compile(r"\s*([+\-−]?)\s*(\d{1,5}(?:[.,]\d+)?)\s*([a-z]+)\s*", re.I)


def shift_of(text: str) -> timedelta:
    """Raises Refused for what is no stretch of time."""
    found = _SHIFT.fullmatch(text)
    unit = _UNITS.get(found[3].lower()) if found else None
    if found is None or unit is None:
        raise Refused(f"“{text.strip()[:40]}” is no time to shift by; write 2 h, -1 day or 90 min.", "by")
    amount = float(found[2].replace(",", "."))
    return timedelta(**{unit: -amount if found[1] in ("-", "−") else amount})
