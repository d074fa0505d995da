"""A made-up probe as a pure function of seed, moment and faults: drift, noise, drop-outs, and a value that sticks."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Lock
from urllib.parse import parse_qs, urlsplit

from jarbloom.devices.probe import FIELDS

NOISE = {"temp": 0.04, "ph": 0.015, "salinity": 0.08, "ammonia": 0.04}
DIGITS = {"temp": 2, "ph": 2, "salinity": 2, "ammonia": 3}
DRIFT_A_DAY = {"temp": 0.0, "ph": 0.012, "salinity": 0.0, "ammonia": 0.01}  # since its last calibration
DAY_SWING = {"temp": 0.25, "ph": 0.06}
FAULTS = ("none", "dropout", "stuck", "drift", "noise", "dead", "nonsense")


@dataclass(frozen=True)
class StandIn:
    """`calibrated` is when its drift began. `fault` is what goes wrong with it now, `since` when that began."""

    seed: int
    calibrated: datetime
    fault: str = "none"
    since: datetime | None = None
    quantity: str = "ph"
    held: Mapping[str, float] = field(default_factory=dict)

    def measure(self, truth: Mapping[str, float], now: datetime) -> dict[str, float]:
        """What it shows for a tank that is truly so; quantities it cannot read just now are left out."""
        found = {}
        days = max(0.0, (now - self.calibrated).total_seconds() / 86400)
        for quantity, true in truth.items():
            if self._dropped(quantity, now):
                continue
            swing = DAY_SWING.get(quantity, 0.0) * math.sin(2 * math.pi * (now.hour + now.minute / 60 - 9) / 24)
            noise = NOISE[quantity] * (8.0 if self._faulty("noise", quantity) else 1.0) * self._normal(quantity, now)
            drift = DRIFT_A_DAY[quantity] * days + (1.2 if self._faulty("drift", quantity) else 0.0)
            value = true + swing + noise + drift
            if self._faulty("stuck", quantity):
                value = self.held.get(quantity, true)
            found[quantity] = round(max(value, 0.0), DIGITS[quantity])
        return found

    def _faulty(self, fault: str, quantity: str) -> bool:
        return self.fault == fault and quantity == self.quantity

    def _dropped(self, quantity: str, now: datetime) -> bool:
        """One in forty of its values does not come; all of one quantity's with that fault."""
        return self._faulty("dropout", quantity) or self._uniform(f"drop {quantity}", now) < 0.025

    def _uniform(self, what: str, now: datetime) -> float:
        """A number in [0, 1) that hangs on the seed, the minute and the purpose only."""
        minute = now.replace(second=0, microsecond=0)
        told = hashlib.sha256(f"{self.seed} {what} {minute.timestamp():.0f}".encode()).digest()
        return int.from_bytes(told[:6], "big") / 2**48

    def _normal(self, what: str, now: datetime) -> float:
        """Box and Muller 1958."""
        u, v = self._uniform(f"{what} u", now), self._uniform(f"{what} v", now)
        return math.sqrt(-2 * math.log(1 - u)) * math.cos(2 * math.pi * v)


Truth = Callable[[str, datetime], Mapping[str, float] | None]
Clock = Callable[[], datetime]
_NAMES = {quantity: name for name, quantity in FIELDS.items()}


def serve_probe(port: int, truth: Truth, clock: Clock, seed: int = 112) -> ThreadingHTTPServer:
    """The stand-in over HTTP on loopback, as docs/devices.md describes it; `truth` gives what a tank is truly like,
    None for one that is not there. Faults are switched by POST /v1/<tank>/fault?fault=stuck&quantity=ph."""
    states: dict[str, StandIn] = {}
    lock = Lock()

    def stand_in(tank: str) -> StandIn:
        with lock:
            return states.setdefault(tank, StandIn(seed, clock()))

    class Answer(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            parts = urlsplit(self.path).path.strip("/").split("/")
            if len(parts) != 3 or parts[0] != "v1" or parts[2] != "reading":
                return self._say(404, {"error": "GET /v1/<tank>/reading"})
            now = clock()
            true = truth(parts[1], now)
            if true is None:
                return self._say(404, {"error": "no such tank"})
            state = stand_in(parts[1])
            if state.fault == "dead":
                return self._say(503, {"error": "sensor fault"})
            if state.fault == "nonsense":
                return self._say(200, {"at": now.isoformat(), "ph": 99.0})
            values = {_NAMES[q]: v for q, v in state.measure(true, now).items()}
            return self._say(200, {"at": now.isoformat(), "serial": f"stand-in {state.seed}", **values})

        def do_POST(self) -> None:
            url = urlsplit(self.path)
            parts, asked = url.path.strip("/").split("/"), parse_qs(url.query)
            fault = asked.get("fault", [""])[0]
            if (
                len(parts) != 3
                or parts[2] not in ("fault", "calibrate")
                or (parts[2] == "fault" and fault not in FAULTS)
            ):
                return self._say(404, {"error": f"POST /v1/<tank>/fault?fault={'|'.join(FAULTS)}&quantity=ph"})
            now = clock()
            old = stand_in(parts[1])
            if parts[2] == "calibrate":
                new = StandIn(old.seed, now)
            else:
                held = old.measure(truth(parts[1], now) or {}, now)
                new = StandIn(old.seed, old.calibrated, fault, now, asked.get("quantity", ["ph"])[0], held)
            with lock:
                states[parts[1]] = new
            return self._say(200, {"fault": new.fault, "quantity": new.quantity})

        def _say(self, status: int, told: Mapping[str, object]) -> None:
            body = json.dumps(told).encode()
            self.send_response(status)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *args: object) -> None:
            """Quiet: what it says is what the app shows."""

    return ThreadingHTTPServer(("127.0.0.1", port), Answer)
