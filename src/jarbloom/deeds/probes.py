"""Probes: connecting one to a tank, polling it, and its trace beside the tests."""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.journal.log import Log
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.probe import Hour, ProbeSays, TestBesideProbe, beside_tests, probe_says
from jarbloom.deeds.desk import Desk
from jarbloom.devices.probe import HttpProbe, Measured, ProbeClient, check_url, understand
from jarbloom.errors import DeviceError, Refused
from jarbloom.store import probes, tanks
from jarbloom.store.db import transaction
from jarbloom.store.probes import Probe

log = logging.getLogger(__name__)
SHOWN = timedelta(days=14)
QUIET = ProbeSays((), "")
AHEAD = timedelta(minutes=10)  # how far a probe's clock may run ahead of ours


@dataclass(frozen=True)
class Listening:
    """A tank's probe with its hours, what is wrong with it, and what it said beside the tests."""

    tank: Tank
    probe: Probe | None
    traces: Mapping[str, list[Hour]]
    says: ProbeSays
    beside: Mapping[str, tuple[TestBesideProbe, ...]]
    entries: Log


def listen(desk: Desk, slug: str) -> Listening:
    tank = tanks.tank(desk.conn, slug)
    entries = desk.log(tank.id)
    probe = probes.probe(desk.conn, tank.id)
    if probe is None:
        return Listening(tank, None, {}, QUIET, {}, entries)
    found = probes.traces(desk.conn, tank.id, desk.now - SHOWN, desk.preferences.tz)
    says = probe_says(found, entries, probe.last_ok, desk.now) if probe.listening else QUIET
    beside = {q: beside_tests(q, hours, entries) for q, hours in found.items()}
    return Listening(tank, probe, found, says, beside, entries)


def connect(desk: Desk, slug: str, url: str, on: bool) -> None:
    """Raises Refused for an address that cannot be one."""
    tank = tanks.tank(desk.conn, slug)
    with transaction(desk.conn):
        probes.connect_probe(desk.conn, tank.id, check_url(url), on)


def poll(desk: Desk, client: Callable[[str], ProbeClient] = HttpProbe) -> int:
    """Ask every probe once; a dead one costs its own line only. Returns how many answered."""
    answered = 0
    for probe in probes.listening(desk.conn):
        try:
            told = client(probe.url).read()
            _believable(told, desk)
        except DeviceError as problem:
            with transaction(desk.conn):
                probes.tried(desk.conn, probe.tank_id, desk.now, problem.sentence)
            continue
        except Exception:  # whatever one probe does, the others are asked all the same
            log.exception("the probe of tank %s could not be asked", probe.tank_id)
            with transaction(desk.conn):
                probes.tried(desk.conn, probe.tank_id, desk.now, "The probe could not be asked; see the program’s log.")
            continue
        with transaction(desk.conn):
            probes.tried(desk.conn, probe.tank_id, desk.now, "")
            if told.values:
                probes.heard(desk.conn, probe.tank_id, told.at.astimezone(desk.now.tzinfo), told.values)
        answered += 1
    return answered


def hand_in(desk: Desk, slug: str, told: str) -> None:
    """What a device hands in by itself, in the format that probes answer in. Raises Refused for what cannot be true."""
    tank = tanks.tank(desk.conn, slug)
    try:
        measured = understand(told)
        _believable(measured, desk)
    except DeviceError as problem:
        raise Refused(problem.sentence, "at") from None
    with transaction(desk.conn):
        if probes.probe(desk.conn, tank.id) is None:
            probes.connect_probe(desk.conn, tank.id, "", False)
        if measured.values:
            probes.heard(desk.conn, tank.id, measured.at.astimezone(desk.now.tzinfo), measured.values)


def _believable(told: Measured, desk: Desk) -> None:
    if told.at > desk.now + AHEAD:
        raise DeviceError(f"The probe’s clock runs ahead: it says {told.at:%Y-%m-%d %H:%M %Z}.")
