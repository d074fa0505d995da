"""Bundles in and out of the database, and advice on a bundle without one."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import Seen, situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.bloom import forecast as bloom
from jarbloom.core.bloom.ensemble import known_by, prepare
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.whatif import Future, compare
from jarbloom.core.model import Batch, Entry, Tank
from jarbloom.core.reference import Reference
from jarbloom.deeds.desk import Desk
from jarbloom.formats.bundle import Bundle, read_bundle, write
from jarbloom.formats.what_if import read_what_ifs
from jarbloom.store import batches, journal, tanks
from jarbloom.store.db import transaction
from jarbloom.units import Units


def export(desk: Desk, slug: str, to: Path) -> None:
    """Everything of a tank: settings, plan, and the whole journal with its struck entries."""
    tank = tanks.tank(desk.conn, slug)
    live = journal.entries(desk.conn, tank.id)
    whole = journal.entries(desk.conn, tank.id, live_only=False)
    write(Bundle(tank, tuple(whole), tuple(batches.batches(desk.conn, tank.id, live))), to)


def bring_in(desk: Desk, path: Path) -> Tank:
    """A bundle as a new tank. One transaction; states and corrections are kept."""
    bundle = read_bundle(path, desk.reference.species)
    with transaction(desk.conn):
        tank = tanks.add(desk.conn, bundle.tank, desk.now)
        new_batch = {}
        for b in bundle.batches:
            new_batch[b.id] = batches.add(desk.conn, tank.id, b.name, b.planned)
            if b.locked:
                batches.lock(desk.conn, tank.id, new_batch[b.id], True)
            for a in b.items:
                batches.set_count(desk.conn, new_batch[b.id], a.species, a.count, a.length_cm)
        act = journal.new_act(desk.conn, tank.id, "import", desk.now, f"Brought in {len(bundle.entries)} entries")
        new_id: dict[int, int] = {}
        for e in sorted(bundle.entries, key=lambda e: e.id):
            body = dict(e.body)
            if body.get("batch") in new_batch:
                body["batch"] = new_batch[body["batch"]]
            body |= {k: new_id[body[k]] for k in ("group", "first") if body.get(k) in new_id}
            known = new_id.get(e.supersedes) if e.supersedes else None
            kept = replace(e, body=body, supersedes=known)
            new_id[e.id] = journal.write(desk.conn, tank.id, act, kept, desk.now, live=e.state == "live")
    return tank


@dataclass(frozen=True)
class Known:
    """A bundle at a moment: what was known by then, and the plan as it stood."""

    tank: Tank
    entries: tuple[Entry, ...]
    plan: tuple[Batch, ...]
    as_of: datetime


def ask_bundle(path: Path, reference: Reference, as_of: datetime | None = None) -> Known:
    """Nothing dated later than `as_of` (by default the last entry) is read."""
    bundle = read_bundle(path, reference.species)
    if as_of is None:
        as_of = max(
            (e.at for e in bundle.entries), default=datetime.fromisoformat(f"{bundle.tank.started}T12:00+00:00")
        )
    if as_of.tzinfo is None and bundle.entries:
        as_of = as_of.replace(tzinfo=bundle.entries[0].at.tzinfo)
    entries = known_by(bundle.entries, as_of)
    arrived = {e.body.get("batch") for e in entries if e.kind == "arrival"}
    plan = tuple(b if b.id in arrived else replace(b, arrived=None) for b in bundle.batches)
    return Known(bundle.tank, entries, plan, as_of)


def advise_bundle(path: Path, reference: Reference, as_of: datetime | None = None) -> Seen:
    """What the tank page would show for a bundle at a date; always the same answer."""
    a = ask_bundle(path, reference, as_of)
    made = bloom.forecast(a.tank, a.entries, a.as_of, reference, a.plan)
    found = situation(a.tank, a.entries, a.plan, made, reference, Units())
    return Seen(found, verdict(found), jobs(found))


def what_if_bundle(
    path: Path, file: Path, reference: Reference, as_of: datetime | None = None
) -> tuple[Forecast, tuple[Future, ...]]:
    """The forecast of a bundle, and its futures: as planned first, then each what-if of the file."""
    a = ask_bundle(path, reference, as_of)
    what_ifs = read_what_ifs(file, a.tank, dict(reference.species), a.as_of)
    ensemble = prepare(a.tank, a.entries, a.as_of, reference)
    waiting = [b for b in a.plan if b.arrived is None]
    return bloom.summarise(ensemble, waiting), compare(ensemble, what_ifs, waiting)
