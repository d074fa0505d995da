"""The keeper's preferences: one row each, with a default and what it is for."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, fields
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from jarbloom.errors import Refused
from jarbloom.manner import Manner, manner_of
from jarbloom.units import SYSTEMS, Units

HELP = {
    "system": "metric or us: how volumes, lengths and temperatures are written",
    "dates": "day or month: which comes first in a date; empty: as usual with the units",
    "clock": "24 or 12 hours; empty: as the device's language usually has it",
    "decimals": "point or comma, as in 0.25; empty: as the device's language usually has it",
    "zone": "time zone of the log, as in 'Europe/Berlin'",
    "who": "the name written beside entries; may stay empty",
    "keys": "single-key shortcuts: on or off",
    "backup_to": "a second folder for the daily copies, as on another disk; empty: none",
    "hints": "hints that were put away, by page",
    "free_days": "days of the week on which there is time for new animals, Monday is 0, as in '5 6'; empty: any",
}


@dataclass(frozen=True)
class Preferences:
    system: str = ""  # not chosen yet
    dates: str = ""
    clock: str = ""
    decimals: str = ""
    zone: str = "UTC"
    who: str = ""
    keys: str = "on"
    free_days: str = ""
    backup_to: str = ""
    hints: str = ""
    language: str = ""  # of the device that asks (Accept-Language); not kept

    @property
    def units(self) -> Units:
        return Units(self.system or "metric")

    @property
    def manner(self) -> Manner:
        return manner_of(self.clock, self.dates, self.decimals, self.units.system == "us", self.language)

    @property
    def tz(self) -> ZoneInfo:
        return ZoneInfo(self.zone)


_CHOICES = {"system": SYSTEMS, "keys": ("on", "off"), "dates": ("", "day", "month"),
            "clock": ("", "12", "24"), "decimals": ("", "point", "comma")}  # fmt: skip


def load(conn: sqlite3.Connection, zone: str = "UTC") -> Preferences:
    """`zone` stands in until the keeper has chosen one."""
    kept = {row["key"]: row["value"] for row in conn.execute("SELECT key, value FROM preference")}
    known = {f.name for f in fields(Preferences)}
    found = {"zone": zone} | {k: v for k, v in kept.items() if k in known}
    if not _is_zone(found["zone"]):  # chosen on a machine that knows more zones than this one
        found["zone"] = zone if _is_zone(zone) else "UTC"
    return Preferences(**found)


def _is_zone(name: str) -> bool:
    try:
        ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return False
    return True


def save(conn: sqlite3.Connection, key: str, value: str) -> None:
    """Raises Refused for a value that the preference cannot have."""
    if key not in HELP:
        raise Refused(f"“{key}” is not a preference.", key)
    if key in _CHOICES and value not in _CHOICES[key]:
        raise Refused(f"“{value}” is not one of {', '.join(_CHOICES[key])}.", key)
    if key == "who" and len(value) > 80:
        raise Refused("A name of at most 80 characters.", key)
    if key == "free_days" and not set(value.split()) <= set("0123456"):
        raise Refused("Days of the week are numbers from 0 to 6.", key)
    if key == "zone" and not _is_zone(value):
        raise Refused(f"“{value[:60]}” is not a time zone that is known here.", key)
    conn.execute(
        """INSERT INTO preference (key, value) VALUES (:key, :value)
           ON CONFLICT (key) DO UPDATE SET value = excluded.value""",
        {"key": key, "value": value},
    )
