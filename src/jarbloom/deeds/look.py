"""Looking at tanks: the stored forecast when its inputs are unchanged, a new one otherwise."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import Seen, situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.animals.bioload import stock
from jarbloom.core.bloom import forecast as bloom
from jarbloom.core.bloom.ensemble import prepare
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.record import from_json, to_json
from jarbloom.core.log.kinds import JOINS
from jarbloom.core.model import Animals, Batch, Entry, Tank
from jarbloom.core.probe import ProbeSays, probe_says
from jarbloom.core.tank_spec import to_spec
from jarbloom.core.upset.courses import Course, courses, from_plain, to_plain
from jarbloom.deeds.desk import Desk
from jarbloom.store import batches, journal, probes, runs, tanks
from jarbloom.store.db import transaction


def forecast_moment(now: datetime, entries: Sequence[Entry]) -> datetime:
    """Forecasts are made for the full hour, or for the last entry when that is later: minutes make no new one."""
    hour = now.replace(minute=0, second=0, microsecond=0)
    return max([hour, *(e.at.astimezone(now.tzinfo) for e in told_of(entries)[-1:])])


# Kinds that say nothing of water, colony or animals: ticking a job makes no new forecast.
QUIET = frozenset({"job", "check", "step", "off", "on", "count", "quarantine"})


def told_of(entries: Sequence[Entry]) -> list[Entry]:
    """The entries that a forecast rests on."""
    return [e for e in entries if e.kind not in QUIET]


def inputs_hash(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch], as_of: datetime) -> str:
    told = [(e.kind, e.at.isoformat(), sorted(e.body.items(), key=str), e.readings, e.id) for e in told_of(entries)]
    keys = {e.body["species"] for e in entries if e.kind in JOINS} | {a.species for b in plan for a in b.items}
    rows = [desk.reference.species.get(k) for k in sorted(keys)]
    inputs = (
        bloom.VERSION,
        rows,
        desk.forecasting,
        sorted(to_spec(tank).items(), key=str),
        told,
        [(b.id, b.planned, b.items, b.arrived) for b in plan],
        as_of.isoformat(),
    )
    return hashlib.sha256(repr(inputs).encode()).hexdigest()


@dataclass(frozen=True)
class Run:
    """A forecast, and for a tank in trouble the courses with and without water changes."""

    forecast: Forecast
    courses: tuple[Course, ...]


def run_of(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch]) -> Run:
    """The kept run when its inputs are unchanged, else a new one, which is kept."""
    as_of = forecast_moment(desk.now, entries)
    key = inputs_hash(desk, tank, entries, plan, as_of)
    kept = runs.payload(desk.conn, tank.id, key)
    if kept is None:
        ensemble = prepare(tank, entries, as_of, desk.reference, desk.forecasting)
        made = bloom.summarise(ensemble, [b for b in plan if b.arrived is None])
        found = situation(tank, entries, plan, made, desk.reference, desk.preferences.units, desk.now)
        ways = courses(ensemble, found.response) if found.response else ()
        kept = json.dumps({"forecast": to_json(made), "courses": to_plain(ways)})
        with transaction(desk.conn):
            runs.keep(desk.conn, tank.id, key, as_of, made.version, made.seed, desk.now, kept)
    # Always read back: what a page shows never depends on whether the run was just made or kept.
    raw = json.loads(kept)
    return Run(from_json(raw["forecast"]), from_plain(raw["courses"]))


def see(desk: Desk, slug: str) -> Seen:
    return see_tank(desk, tanks.tank(desk.conn, slug))


def see_tank(desk: Desk, tank: Tank) -> Seen:
    entries = journal.entries(desk.conn, tank.id)
    plan = batches.batches(desk.conn, tank.id, entries)
    run = run_of(desk, tank, entries, plan)
    found = situation(tank, entries, plan, run.forecast, desk.reference, desk.preferences.units, desk.now)
    found = replace(found, probe=_probe_says(desk, tank, entries))
    return Seen(found, verdict(found), jobs(found), run.courses)


def _probe_says(desk: Desk, tank: Tank, entries: Sequence[Entry]) -> ProbeSays | None:
    probe = probes.probe(desk.conn, tank.id)
    if probe is None or not probe.listening:
        return None
    traces = probes.traces(desk.conn, tank.id, desk.now - PROBE_WINDOW, desk.preferences.tz)
    return probe_says(traces, entries, probe.last_ok, desk.now)


PROBE_WINDOW = timedelta(days=14)


def see_bench(desk: Desk) -> list[Seen]:
    """All tanks, those that need something now first."""
    order = {"act": 0, "test": 1, "add": 2, "hold": 3}
    seen = [see_tank(desk, t) for t in tanks.all_tanks(desk.conn)]
    return sorted(seen, key=lambda s: (order[s.verdict.state], s.tank.id))


def stock_of(entries: Sequence[Entry], now: datetime) -> tuple[Animals, ...]:
    """What lives in a tank by its log."""
    return stock(entries, now.date())
