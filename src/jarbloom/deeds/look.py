"""Looking at tanks: the stored forecast when its inputs are unchanged, a new one otherwise."""

from __future__ import annotations

import json
import logging
import secrets
import sqlite3
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import asdict, dataclass, replace
from datetime import date, datetime, timedelta
from typing import Any

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import Situation, TankSeen, situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.bloom import forecast as bloom
from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.record import from_json, to_json
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.probe import ProbeSays, probe_says
from jarbloom.core.stocking.dates import BatchDay, batch_days
from jarbloom.core.stocking.terms import terms_of
from jarbloom.core.upset.courses import UpsetCourse, courses, from_plain, to_plain
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.ensembles import ensemble_of, forecast_moment, inputs_hash
from jarbloom.deeds.water_record import record_of
from jarbloom.errors import BeingMade, JarBloomError
from jarbloom.kept import Kept
from jarbloom.store import batches, chores, probes, runs, tanks
from jarbloom.store.db import transaction

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Run:
    """A forecast, and for a tank in trouble the courses with and without water changes."""

    forecast: Forecast
    courses: tuple[UpsetCourse, ...]
    days: tuple[BatchDay, ...] = ()


def run_of(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch]) -> Run:
    """The kept run when its inputs are unchanged, else a new one, which is kept. Raises BeingMade where who asks does
    not wait for it."""
    kept = kept_run(desk, tank, entries, plan)
    if kept is not None:
        return kept
    if not desk.waits:
        raise BeingMade(tank.name, tank.slug, _before(desk, tank, entries, plan))
    key = _key(desk, tank, entries, plan)
    made = _made.once((desk.conn.name, tank.slug, key), lambda: _make(desk, tank, entries, plan, key))
    return _read_back(desk, tank, key, made)


def kept_run(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch]) -> Run | None:
    """The run of these very inputs where it was made already; None is found out without making anything."""
    key = _key(desk, tank, entries, plan)
    kept = runs.payload(desk.conn, tank.id, key) or _made.get((desk.conn.name, tank.slug, key))
    return None if kept is None else _read_back(desk, tank, key, kept)


def _key(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch]) -> str:
    as_of = forecast_moment(desk.now, entries)
    return f"{inputs_hash(desk, tank, entries, plan, as_of)}.{desk.preferences.free_days}"


def _read_back(desk: Desk, tank: Tank, key: str, text: str) -> Run:
    """What a page shows never depends on whether the run was just made or kept."""
    return _read.once((desk.conn.name, tank.slug, key, len(text)), lambda: _run_from(text))


def _run_from(text: str) -> Run:
    raw = json.loads(text)
    return Run(from_json(raw["forecast"]), from_plain(raw["courses"]), tuple(map(_day_from, raw["days"])))


_read: Kept[Run] = Kept(12)  # runs as read back; nobody changes them


def _before(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch]) -> str:
    """The verdict of the last kept run, at its own moment and by what stood in the log then; '' without one."""
    kept = runs.earlier(desk.conn, tank.id, bloom.VERSION)[-1:]
    if not kept:
        return ""
    made = from_json(json.loads(kept[0])["forecast"])
    then = situation(tank, entries, plan, made, desk.reference, desk.preferences.units, made.as_of)
    return f"{made.as_of:%a %-d %b %H:%M}: {verdict(then).sentence}"


def make_ahead(desk: Desk) -> None:
    """A run for every tank before somebody asks: a page then finds it. One that fails is told where it is looked at,
    not once a minute in the log."""
    for _, slug, _ in tanks.names(desk.conn):
        with suppress(Exception):
            see(desk, slug)


_made: Kept[str] = Kept(12)  # runs as just made: twenty readers after an entry cost one forecast


def _make(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch], key: str) -> str:
    ensemble = ensemble_of(desk, tank, entries)
    made = bloom.summarise(ensemble, [b for b in plan if b.arrived is None])
    found = situation(tank, entries, plan, made, desk.reference, desk.preferences.units, desk.now)
    ways = courses(ensemble, found.response) if found.response else ()
    days = days_of(found, ensemble, desk.preferences.free_days)
    text = json.dumps({"forecast": to_json(made), "courses": to_plain(ways), "days": [asdict(d) for d in days]},
                      default=str)  # fmt: skip
    _keep(desk, tank, key, made, text)
    return text


def _keep(desk: Desk, tank: Tank, key: str, made: Forecast, text: str) -> None:
    """Looking needs no writing: where the disk is full or only read, the run is made again the next time."""
    try:
        with transaction(desk.conn, deed=False):
            runs.keep(desk.conn, tank.id, key, made.as_of, made.version, made.seed, desk.now, text)
    except sqlite3.OperationalError as problem:
        log.warning("the forecast of %s could not be kept: %s", tank.slug, problem)


def _day_from(raw: dict[str, Any]) -> BatchDay:
    day, low = (date.fromisoformat(raw[k]) if raw[k] else None for k in ("day", "low"))
    return BatchDay(raw["batch_id"], day, low, raw["binding"])


def days_of(s: Situation, ensemble: Ensemble, free_days: str = "") -> tuple[BatchDay, ...]:
    """The earliest day of each waiting batch by water and terms; nothing is searched where nothing waits."""
    if not s.waiting:
        return ()
    weekdays = frozenset(int(d) for d in free_days.split())
    terms = terms_of(s.tank, s.entries, s.now.date(), s.reference.schools, s.forecast.readiness, weekdays)
    return batch_days(ensemble, s.forecast, s.waiting, terms)


def see(desk: Desk, slug: str) -> TankSeen:
    return see_tank(desk, tanks.tank(desk.conn, slug))


def see_tank(desk: Desk, tank: Tank) -> TankSeen:
    entries = desk.log(tank.id)
    plan = batches.batches(desk.conn, tank.id, entries)
    run = run_of(desk, tank, entries, plan)
    units, now, own = desk.preferences.units, desk.now, chores.chores(desk.conn, tank.id)
    record = record_of(desk, tank)
    asked = _Asked(
        entries, run, desk.reference, (tank, tuple(plan), units, str(now.tzinfo), now.replace(second=0, microsecond=0),
                                    own, record),
        _probe_says(desk, tank, entries),
    )  # fmt: skip
    before = _seen.get((desk.conn.name, tank.slug))
    if before is not None and before[0].is_same_as(asked):
        return before[1]
    found = situation(tank, entries, plan, run.forecast, desk.reference, units, now, run.days)
    found = replace(found, probe=asked.probe, chores=own, record=record)
    seen = TankSeen(found, verdict(found), jobs(found), run.courses)
    _seen.put((desk.conn.name, tank.slug), (asked, seen))
    return seen


@dataclass(frozen=True)
class _Asked:
    """All that a tank's standing follows from. What is kept by others (the log, the run, the catalogue) is the same
    only where it is the very same."""

    entries: Log
    run: Run
    reference: Reference
    rest: tuple[object, ...]  # settings, plan, units, zone and minute
    probe: ProbeSays | None

    def is_same_as(self, other: _Asked) -> bool:
        kept = ((self.entries, other.entries), (self.run, other.run), (self.reference, other.reference))
        return all(a is b for a, b in kept) and self.rest == other.rest and self.probe == other.probe


_seen: Kept[tuple[_Asked, TankSeen]] = Kept(24)  # within a minute the same tank stands as it stood


def _probe_says(desk: Desk, tank: Tank, entries: Sequence[Entry]) -> ProbeSays | None:
    probe = probes.probe(desk.conn, tank.id)
    if probe is None or not probe.listening:
        return None
    traces = probes.traces(desk.conn, tank.id, desk.now - PROBE_WINDOW, desk.preferences.tz)
    return probe_says(traces, entries, probe.last_ok, desk.now)


PROBE_WINDOW = timedelta(days=14)


@dataclass(frozen=True)
class Broken:
    """A tank that could not be looked at. The others are looked at all the same."""

    id: int
    slug: str
    name: str
    problem: str
    quote: str  # what its lines in the program's log are found by


@dataclass(frozen=True)
class Bench:
    """All tanks, those that need something now first; and those that fail."""

    seen: tuple[TankSeen, ...]
    broken: tuple[Broken, ...] = ()


ORDER = {"act": 0, "test": 1, "watch": 2, "add": 3, "hold": 4}


def see_bench(desk: Desk) -> Bench:
    seen, broken = [], []
    for tank_id, slug, name in tanks.names(desk.conn):
        try:
            seen.append(see(desk, slug))
        except BeingMade:
            raise
        except JarBloomError as problem:
            broken.append(Broken(tank_id, slug, name, problem.sentence, log_failure(f"tank {slug}")))
        except sqlite3.Error:
            raise  # not the tank's: the file is damaged, or busy
        except Exception:
            quote = log_failure(f"tank {slug}")
            broken.append(Broken(tank_id, slug, name, "Something in its record cannot be worked with.", quote))
    return Bench(tuple(sorted(seen, key=lambda s: (ORDER[s.verdict.state], s.tank.id))), tuple(broken))


def log_failure(what: str) -> str:
    """Writes the exception at hand into the program's log; returns what it is found by there."""
    quote = secrets.token_hex(3)
    log.exception("[%s] %s failed", quote, what)
    return quote


def stock_of(entries: Sequence[Entry], now: datetime) -> tuple[Animals, ...]:
    """What lives in a tank by its log."""
    return stock(entries, now.date())
