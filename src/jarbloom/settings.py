"""Settings of a running program: one row each with default and help. Shown by `jarbloom serve --help`."""

from __future__ import annotations

import os
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

if TYPE_CHECKING:
    from jarbloom.core.bloom.ensemble import Forecasting

HELP = {
    "data": "folder that holds the database",
    "now": "fix the clock at this moment (ISO 8601), for tests and pictures",
    "forecasting": "members and steps of a forecast",
    "demo": "the database holds made-up tanks",
    "at_once": "a page whose forecast is not made yet comes without it and follows by itself",
    "rounds": "poll probes and send reminders once a minute",
    "network": "the house network, when the program is open to it",
    "mail_page": "address of the stand-in mail server's page, with the demo",
}
PORT, LOOPBACK_HOST = 8112, "127.0.0.1"
MAX_BODY_BYTES = 12_000_000  # a typed text that is too long is told so at its field; beyond this it is cut off


def _usual() -> Forecasting:
    from jarbloom.core.bloom.ensemble import Forecasting  # loaded where something is forecast, not for a word of help

    return Forecasting()


@dataclass(frozen=True)
class Network:
    """Open to the house: the address listened on, the names that are answered to, and a trusted reverse proxy."""

    host: str
    names: frozenset[str]
    proxy: str = ""


@dataclass(frozen=True)
class Settings:
    data: Path
    now: datetime | None = None
    forecasting: Forecasting = field(default_factory=_usual)
    demo: bool = False
    rounds: bool = False
    at_once: bool = False
    mail_page: str = ""
    network: Network | None = None

    def clock(self, zone: ZoneInfo) -> datetime:
        """The moment, in the keeper's zone; the fixed one stands still."""
        moment = self.now or datetime.now(zone)
        if moment.tzinfo is None:
            return moment.replace(tzinfo=zone)
        return moment.astimezone(zone)


def local_zone() -> str:
    """The machine's own zone by name, UTC when it does not tell."""
    named = os.environ.get("TZ", "").lstrip(":")
    link = Path("/etc/localtime")
    if not named and link.is_symlink():
        named = str(link.resolve()).partition("zoneinfo/")[2]
    if not named and Path("/etc/timezone").is_file():
        named = Path("/etc/timezone").read_text("utf-8").strip()
    try:
        return str(ZoneInfo(named or "UTC"))
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return "UTC"
