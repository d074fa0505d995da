"""A networked probe: HTTP JSON at one address, as docs/devices.md says, so that a real one can stand in its place."""

from __future__ import annotations

import http.client
import json
import re
import time
import urllib.error
import urllib.request
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Protocol
from urllib.parse import urlsplit

from jarbloom.core.setup.probe import PROBE_RANGES
from jarbloom.errors import DeviceError, Refused
from jarbloom.units import is_number

TIMEOUT_S = 4
HOST = re.compile(
    r"(?=.{1,253}$)(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?)(?:\.[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?)*|[0-9a-f:.]+",
    re.I,
)
MOST_BYTES = 20_000
FIELDS = {"temp_c": "temp", "ph": "ph", "salinity_g_kg": "salinity", "ammonia_mg_n_l": "ammonia"}


@dataclass(frozen=True)
class Measured:
    """What a probe said: when (aware), and the values that it has; a value it lacks is left out."""

    at: datetime
    values: Mapping[str, float]


class ProbeClient(Protocol):
    def read(self) -> Measured:
        """The newest values. Raises DeviceError with a sentence."""


def check_url(url: str) -> str:
    """Raises Refused for an address that is none of http on this machine or in the home network's names."""
    url = url.strip() if "://" in url else f"http://{url.strip()}"
    parts = urlsplit(url)
    if parts.scheme != "http" or not parts.hostname:
        raise Refused("An address like http://127.0.0.1:8121/v1/reading.", "url")
    try:
        _ = parts.port
    except ValueError:
        raise Refused("The port of this address is no number.", "url") from None
    if not HOST.fullmatch(parts.hostname) or any(c.isspace() for c in url):
        raise Refused(f"“{parts.hostname[:60]}” is no name of a device: letters, digits, dots and hyphens.", "url")
    if parts.username or parts.password:
        raise Refused("An address without a password in it.", "url")
    return url


def understand(text: str) -> Measured:
    """A probe's answer. Raises DeviceError for anything that cannot be true."""
    try:
        told: Any = json.loads(text)
        at = datetime.fromisoformat(told["at"])
    except (ValueError, TypeError, KeyError, RecursionError):
        raise DeviceError("The probe’s answer is not what the format asks for (see docs/devices.md).") from None
    if at.tzinfo is None:
        raise DeviceError("The probe does not say in which zone its time is.")
    values = {}
    for name, quantity in FIELDS.items():
        value = told.get(name)
        if value is None:
            continue
        low, high = PROBE_RANGES[quantity]
        if not is_number(value):
            raise DeviceError(f"The probe’s {name} is no number.")
        if not low <= value <= high:
            raise DeviceError(f"The probe’s {name} of {value:g} cannot be: {low:g} to {high:g}.")
        values[quantity] = float(value)
    return Measured(at, values)


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *args: Any, **more: Any) -> None:
        return None


@dataclass(frozen=True)
class HttpProbe:
    url: str

    def read(self) -> Measured:
        opener = urllib.request.build_opener(urllib.request.ProxyHandler({}), _NoRedirect)
        try:
            with opener.open(self.url, timeout=TIMEOUT_S) as answer:
                return understand(_read_in_time(answer).decode("utf-8", "replace"))
        except urllib.error.HTTPError as refused:
            raise DeviceError(f"The probe answers with {refused.code}.") from None
        except (urllib.error.URLError, http.client.HTTPException, OSError, ValueError) as problem:
            reason = str(getattr(problem, "reason", problem))[:120] or type(problem).__name__
            raise DeviceError(f"The probe does not answer: {reason}.") from None


def _read_in_time(answer: http.client.HTTPResponse) -> bytes:
    """The whole answer by the deadline: one that drips byte after byte would hold the round up for ever."""
    until, found = time.monotonic() + TIMEOUT_S, b""
    while len(found) < MOST_BYTES:
        piece = answer.read1(MOST_BYTES - len(found))
        if not piece:
            return found
        found += piece
        if time.monotonic() > until:
            raise DeviceError(f"The probe’s answer takes longer than {TIMEOUT_S} seconds.")
    raise DeviceError("The probe’s answer is far too long.")
