"""Looking at tanks: the stored forecast when its inputs are unchanged, a new one otherwise."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import Seen, situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.bloom import ensemble
from jarbloom.core.bloom import forecast as bloom
from jarbloom.core.bloom.drivers import Plan
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.record import from_json, to_json
from jarbloom.core.model import Batch, Entry, Tank
from jarbloom.core.tank_spec import to_spec
from jarbloom.deeds.desk import Desk
from jarbloom.store import batches, journal, runs, tanks
from jarbloom.store.db import transaction


def forecast_moment(now: datetime, entries: Sequence[Entry]) -> datetime:
    """Forecasts are made for the full hour, or for the last entry when that is later: minutes make no new one."""
    hour = now.replace(minute=0, second=0, microsecond=0)
    return max([hour, *(e.at.astimezone(now.tzinfo) for e in entries[-1:])])


def inputs_hash(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch], as_of: datetime) -> str:
    told = [(e.kind, e.at.isoformat(), sorted(e.body.items(), key=str), e.readings, e.id) for e in entries]
    inputs = (bloom.VERSION, desk.forecasting, sorted(to_spec(tank).items(), key=str), told, plan, as_of.isoformat())
    return hashlib.sha256(repr(inputs).encode()).hexdigest()


def forecast_of(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch]) -> Forecast:
    as_of = forecast_moment(desk.now, entries)
    key = inputs_hash(desk, tank, entries, plan, as_of)
    kept = runs.payload(desk.conn, tank.id, key)
    if kept is not None:
        return from_json(kept)
    made = bloom.forecast(tank, entries, as_of, desk.reference, plan, desk.forecasting)
    text = to_json(made)
    with transaction(desk.conn):
        runs.keep(desk.conn, tank.id, key, as_of, made.version, made.seed, desk.now, text)
    return from_json(text)  # what a page shows never depends on whether the run was just made or kept


def see(desk: Desk, slug: str) -> Seen:
    return see_tank(desk, tanks.tank(desk.conn, slug))


def see_tank(desk: Desk, tank: Tank) -> Seen:
    entries = journal.entries(desk.conn, tank.id)
    plan = batches.batches(desk.conn, tank.id, entries)
    made = forecast_of(desk, tank, entries, plan)
    found = situation(tank, entries, plan, made, desk.reference, desk.preferences.units, desk.now)
    return Seen(found, verdict(found), jobs(found))


def see_bench(desk: Desk) -> list[Seen]:
    """All tanks, those that need something now first."""
    order = {"act": 0, "test": 1, "add": 2, "hold": 3}
    seen = [see_tank(desk, t) for t in tanks.all_tanks(desk.conn)]
    return sorted(seen, key=lambda s: (order[s.verdict.state], s.tank.id))


def see_without_changes(desk: Desk, seen: Seen, days: float = 7.0) -> tuple[ensemble.Projection, ensemble.Projection]:
    """For the upset desk: the same members with no water change, and with the planned ones; unfed either way."""
    s = seen.situation
    conditioned = ensemble.prepare(
        s.tank, s.entries, s.forecast.as_of, desk.reference, replace(desk.forecasting, horizon_days=int(days))
    )
    planned = tuple((c.at, c.fraction) for c in s.response.changes) if s.response else ()
    until = s.now.date().fromordinal(s.now.date().toordinal() + 4)
    rest = Plan(feed_factor=0.2, feed_factor_until=until)
    changed = replace(rest, changes=planned)
    return ensemble.project(conditioned, rest, days), ensemble.project(conditioned, changed, days)
