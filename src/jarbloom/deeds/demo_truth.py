"""What the demo's tanks are truly like, and the stand-ins that measure it and take its mail."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, time, timedelta

from jarbloom.core.bloom.stepper import Trajectory
from jarbloom.core.bloom.truth import run_truth
from jarbloom.core.journal.log import Log, latest
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Tank
from jarbloom.deeds.desk import Desk
from jarbloom.devices.stand_in_probe import StandIn
from jarbloom.store import probes, reminders, tanks
from jarbloom.store.db import transaction

# In standard deviations of the priors: the log is read from it, and the
# stand-in probe measures it.
TRUTHS: dict[str, tuple[dict[str, float], list[tuple[float, float]]]] = {
    "sunroom-112": (
        {"mu_a": 0.4, "mu_b": 0.2, "a_0": 0.6, "b_0": 0.7, "lag_a": -0.6, "lag_b": -0.5, "ki_b": 0.6, "k_a": -0.4,
         "k_b": -0.4},
        [],
    ),
    "hall-96": (
        {"mu_a": 0.3, "mu_b": 0.3, "lag_a": -0.5, "plants": -1.0, "k_a": -0.3, "k_b": -0.2},
        [(0.3, 0.0), (1.1, 0.0)],
    ),
    "landing-60": ({"mu_a": 0.2, "mu_b": 0.1, "die_off": 0.9, "k_min": 0.8}, [(-1.3, 0.0)]),
}  # fmt: skip


def truth_of(desk: Desk, slug: str) -> dict[str, float] | None:
    """What a demo tank is truly like now, for the stand-in probe: temp, ph, ammonia, and salinity in salt water. None
    for a tank without a known truth."""
    if slug not in TRUTHS:
        return None
    tank = tanks.tank(desk.conn, slug)
    entries = desk.log(tank.id)
    z, events = TRUTHS[slug]
    start = datetime.combine(tank.started, time(0), tzinfo=desk.now.tzinfo)
    path = run_truth(tank, entries, start, desk.now, desk.reference, z, events)
    return _probed(tank, entries, path, int((desk.now - start).total_seconds() / 3600))


def _probed(tank: Tank, entries: Log, path: Trajectory, hour: int) -> dict[str, float]:
    found = {"temp": tank.temp_c, "ph": float(path.ph[hour, 0]), "ammonia": float(path.tan[hour, 0])}
    if tank.salinity_g_kg:
        salt = latest(entries, "salinity")
        found["salinity"] = salt.value if salt else tank.salinity_g_kg
    return found


def heard_before(desk: Desk, tank: Tank, log: Sequence[Entry]) -> None:
    """What the stand-in probe would have been heard to say since the tank was filled, hour by hour."""
    z, events = TRUTHS[tank.slug]
    start = datetime.combine(tank.started, time(0), tzinfo=desk.now.tzinfo)
    path = run_truth(tank, log, start, desk.now, desk.reference, z, events)
    stand_in = StandIn(tank.id, start + timedelta(hours=HEARD_FROM_H))
    for hour in range(HEARD_FROM_H, int((desk.now - start).total_seconds() / 3600)):
        at = start + timedelta(hours=hour)
        known = Log.of(log).until(at)
        for minute in (5, 35):
            moment = at + timedelta(minutes=minute)
            if moment <= desk.now:
                values = stand_in.measure(_probed(tank, known, path, hour), moment)
                probes.heard(desk.conn, tank.id, moment, values)


HEARD_FROM_H = 50


def connect_stand_ins(desk: Desk, probe_port: int, smtp_port: int) -> None:
    """Let the demo listen to the stand-in probe and send its reminders to the stand-in mail server."""
    mail = {
        "mail_on": "on", "mail_host": "127.0.0.1", "mail_port": str(smtp_port), "mail_hour": "0",
        "mail_from": "jarbloom@sunroom.invalid", "mail_to": "keeper@sunroom.invalid",
    }  # fmt: skip
    with transaction(desk.conn):
        reminders.save_mail_settings(desk.conn, mail)
        for tank in tanks.all_tanks(desk.conn):
            if tank.slug in PROBED_TANKS:
                url = f"http://127.0.0.1:{probe_port}/v1/{tank.slug}/reading"
                probes.connect_probe(desk.conn, tank.id, url, True)


PROBED_TANKS = ("landing-60", "sunroom-112")
