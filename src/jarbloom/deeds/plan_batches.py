"""Planning batches, and the moment when one goes in."""

from __future__ import annotations

from datetime import date, datetime

from jarbloom.core.log.kinds import clean_body
from jarbloom.core.log.times import check_not_future
from jarbloom.core.model import Batch, Entry
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import Saved
from jarbloom.deeds.look import see
from jarbloom.errors import GateClosed, NotFound, Refused
from jarbloom.store import batches, journal, tanks
from jarbloom.store.db import transaction
from jarbloom.units import number

NUMBERS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
MOST = 200
LEAST_REASON = 5


def batch(desk: Desk, slug: str, batch_id: int) -> Batch:
    tank = tanks.tank(desk.conn, slug)
    for found in batches.batches(desk.conn, tank.id, journal.entries(desk.conn, tank.id)):
        if found.id == batch_id:
            return found
    raise NotFound("That batch is not on this tank's plan.")


def add_batch(desk: Desk, slug: str, planned: date) -> int:
    tank = tanks.tank(desk.conn, slug)
    _check_day(desk, planned)
    there = len(batches.batches(desk.conn, tank.id, ()))
    name = f"Batch {NUMBERS[there]}" if there < len(NUMBERS) else f"Batch {there + 1}"
    with transaction(desk.conn):
        return batches.add(desk.conn, tank.id, name, planned)


def _check_day(desk: Desk, planned: date) -> None:
    if planned < desk.now.date():
        raise Refused("A batch is planned for today or later; log an arrival for what is already in.", "planned")
    if planned.year > desk.now.year + 5:
        raise Refused("That is more than five years ahead.", "planned")


def _waiting(desk: Desk, slug: str, batch_id: int) -> Batch:
    found = batch(desk, slug, batch_id)
    if found.arrived:
        raise Refused(f"{found.name} went in on {found.arrived:%-d %b}; its animals are changed in the log.", "batch")
    return found


def move_batch(desk: Desk, slug: str, batch_id: int, planned: date) -> None:
    _waiting(desk, slug, batch_id)
    _check_day(desk, planned)
    with transaction(desk.conn):
        batches.move(desk.conn, tanks.tank(desk.conn, slug).id, batch_id, planned)


def set_animals(desk: Desk, slug: str, batch_id: int, species: str, count: str) -> None:
    """So many of a species; 0 takes it out."""
    _waiting(desk, slug, batch_id)
    if species not in desk.reference.species:
        raise Refused(f"“{species[:60]}” is not in the catalogue.", "species")
    wanted = number(count, "count", low=0, high=MOST)
    if wanted != int(wanted):
        raise Refused("Animals come whole.", "count")
    with transaction(desk.conn):
        batches.set_count(desk.conn, batch_id, species, int(wanted))


def put_on_plan(desk: Desk, slug: str, batch_id: str, species: str, count: str, new_on: date) -> None:
    """So many more of a species, onto a waiting batch or onto a new one planned for `new_on`; all of it or nothing."""
    more = number(count, "count", low=1, high=MOST)
    if more != int(more):
        raise Refused("Animals come whole.", "count")
    if batch_id != "new" and not batch_id.isdecimal():
        raise Refused("Say onto which batch.", "batch")
    with transaction(desk.conn):
        chosen = add_batch(desk, slug, new_on) if batch_id == "new" else int(batch_id)
        there = sum(a.count for a in batch(desk, slug, chosen).items if a.species == species)
        set_animals(desk, slug, chosen, species, str(there + int(more)))


def remove_batch(desk: Desk, slug: str, batch_id: int) -> Batch:
    found = _waiting(desk, slug, batch_id)
    with transaction(desk.conn):
        batches.remove(desk.conn, tanks.tank(desk.conn, slug).id, batch_id, desk.now)
    return found


def restore_batch(desk: Desk, slug: str, batch_id: int) -> None:
    with transaction(desk.conn):
        batches.remove(desk.conn, tanks.tank(desk.conn, slug).id, batch_id, None)


def they_are_in(desk: Desk, slug: str, batch_id: int, at: datetime, override: str = "") -> Saved:
    """Log the arrival of a batch: by a passed gate, or by a stated reason that stays in the log.

    Raises GateClosed when the gate holds and no reason is given.
    """
    found = _waiting(desk, slug, batch_id)
    check_not_future(at, desk.now)
    if not found.items:
        raise Refused(f"{found.name} has no animals yet.", "batch")
    seen = see(desk, slug)
    gate = next((g for g in seen.situation.gates if g.batch_id == batch_id), None)
    passed = gate is not None and gate.passed
    reason = override.strip()
    if not passed and len(reason) < LEAST_REASON:
        missing = ", ".join(c.missing for c in gate.missing) if gate else "a forecast"
        raise GateClosed(f"The gate holds {found.name.lower()}: {missing}. To go on all the same, give the reason.")
    extra = {} if passed else {"override": reason[:500]}
    new = [
        Entry(
            "arrival",
            at,
            clean_body(
                "arrival",
                {"species": a.species, "count": a.count, "length_cm": a.length_cm, "batch": batch_id, **extra},
            ),
            (),
            "",
            desk.preferences.who,
            desk.preferences.zone,
        )
        for a in found.items
    ]
    with transaction(desk.conn):
        sentence = f"{found.name} is in" + ("" if passed else " against the gate")
        act_id, ids = journal.write_all(desk.conn, seen.tank.id, "log", sentence, new, desk.now)
    return Saved(act_id, sentence, tuple(ids))
