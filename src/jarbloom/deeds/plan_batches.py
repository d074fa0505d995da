"""Planning batches, and the moment when one goes in. Every change of a plan can be undone (store/plan_changes.py)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import date, datetime

from jarbloom.core.animals.names import listed, plural
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.line.times import check_not_future
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.stocking.search import BINDING
from jarbloom.deeds import keep_tank
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import LEAST_REASON, Saved
from jarbloom.deeds.look import see
from jarbloom.deeds.plan_ahead import Ahead, ahead
from jarbloom.errors import GateClosed, NotFound, Refused
from jarbloom.store import batches, journal, plan_changes, tanks
from jarbloom.store.db import transaction
from jarbloom.units import head_count, number_word

MOST = 200


@dataclass
class _Told:
    """What a change of the plan was, said once it is done."""

    sentence: str = ""


@contextmanager
def _changing(desk: Desk, tank: Tank) -> Iterator[_Told]:
    """A change of a tank's plan in one transaction, kept with the plan before it. Inside another change it is part
    of that one."""
    told = _Told()
    if desk.conn.in_transaction:
        yield told
        return
    with transaction(desk.conn):
        before = [b for b in _all(desk, tank) if b.arrived is None]
        yield told
        if told.sentence:
            plan_changes.note(desk.conn, tank.id, told.sentence, before, desk.now)


def just_changed(desk: Desk, slug: str) -> int:
    """The change of the plan that was made at this moment; 0 when there was none: a setting changes no plan."""
    newest = next(iter(plan_changes.changes(desk.conn, tanks.tank(desk.conn, slug).id, 1)), None)
    return newest.id if newest is not None and newest.at == desk.now else 0


def _all(desk: Desk, tank: Tank) -> list[Batch]:
    return batches.batches(desk.conn, tank.id, desk.log(tank.id))


def batch(desk: Desk, slug: str, batch_id: int) -> Batch:
    for found in _all(desk, tanks.tank(desk.conn, slug)):
        if found.id == batch_id:
            return found
    raise NotFound("That batch is not on this tank's plan.")


def waiting(desk: Desk, slug: str, batch_id: int) -> Batch:
    """A batch that has not gone in. Raises NotFound, or Refused when it is in."""
    found = batch(desk, slug, batch_id)
    if found.arrived:
        raise Refused(f"{found.name} went in on {found.arrived:%-d %b}; its animals are changed in the log.", "batch")
    return found


def _check_day(desk: Desk, tank: Tank, planned: date) -> None:
    if planned < tank.started:
        raise Refused(f"The tank was set up on {tank.started:%-d %b %Y}; no batch goes in before.", "planned")
    if planned < desk.now.date():
        raise Refused("A batch is planned for today or later; log an arrival for what is already in.", "planned")
    if planned.year > desk.now.year + 5:
        raise Refused("That is more than five years ahead.", "planned")


def add_batch(desk: Desk, slug: str, planned: date) -> int:
    tank = tanks.tank(desk.conn, slug)
    _check_day(desk, tank, planned)
    with _changing(desk, tank) as told:
        added = _add(desk, tank, planned)
        told.sentence = f"A batch was planned for {planned:%-d %b}"
    return added


def add_with(desk: Desk, slug: str, planned: date, animals: Sequence[Animals], what: str) -> None:
    """All of a wish list as one batch."""
    tank = tanks.tank(desk.conn, slug)
    _check_day(desk, tank, planned)
    with _changing(desk, tank) as told:
        added = _add(desk, tank, planned)
        for a in animals:
            batches.set_count(desk.conn, added, a.species, a.count, a.length_cm)
        told.sentence = f"{what[:1].upper()}{what[1:]} onto the plan: {listed(animals, desk.reference.species)}"


def _add(desk: Desk, tank: Tank, planned: date) -> int:
    """A new batch under the first number that no other on the plan has."""
    taken = {b.name for b in _all(desk, tank)}
    names = (f"Batch {number_word(n)}" for n in range(1, len(taken) + 2))
    return batches.add(desk.conn, tank.id, next(n for n in names if n not in taken), planned)


def move_batch(desk: Desk, slug: str, batch_id: int, planned: date) -> None:
    tank, found = tanks.tank(desk.conn, slug), waiting(desk, slug, batch_id)
    _check_day(desk, tank, planned)
    if found.locked and planned != found.planned:
        raise Refused(f"{found.name} is locked; unlock it to move it.", "planned")
    with _changing(desk, tank) as told:
        batches.move(desk.conn, tank.id, batch_id, planned)
        told.sentence = f"{found.name} moved from {found.planned:%-d %b} to {planned:%-d %b}"


def lock_batch(desk: Desk, slug: str, batch_id: int, locked: bool) -> None:
    """A locked batch keeps its day and its animals when the planner plans again."""
    tank, found = tanks.tank(desk.conn, slug), waiting(desk, slug, batch_id)
    with _changing(desk, tank) as told:
        batches.lock(desk.conn, tank.id, batch_id, locked)
        told.sentence = f"{found.name} {'locked' if locked else 'unlocked'}"


def set_animals(desk: Desk, slug: str, batch_id: int, species: str, count: str) -> None:
    """So many of a species; 0 takes it out."""
    tank, found = tanks.tank(desk.conn, slug), waiting(desk, slug, batch_id)
    if species not in desk.reference.species:
        raise Refused(f"“{species[:60]}” is not in the catalogue.", "species")
    wanted = head_count(count, "count", high=MOST)
    with _changing(desk, tank) as told:
        batches.set_count(desk.conn, batch_id, species, wanted)
        name = plural(desk.reference.species[species].name, wanted)
        told.sentence = f"{wanted} {name} in {found.name.lower()}" if wanted else f"No {name} in {found.name.lower()}"


def put_on_plan(desk: Desk, slug: str, batch_id: str, species: str, count: str, new_on: date) -> None:
    """So many more of a species, onto a waiting batch or onto a new one planned for `new_on`; all of it or nothing."""
    more, tank = head_count(count, "count", low=1, high=MOST), tanks.tank(desk.conn, slug)
    if batch_id != "new" and not batch_id.isdecimal():
        raise Refused("Say onto which batch.", "batch")
    with _changing(desk, tank) as told:
        chosen = add_batch(desk, slug, new_on) if batch_id == "new" else int(batch_id)
        there = sum(a.count for a in waiting(desk, slug, chosen).items if a.species == species)
        set_animals(desk, slug, chosen, species, str(there + more))
        name = plural(desk.reference.species[species].name, more)
        told.sentence = f"{more} {name} onto {batch(desk, slug, chosen).name.lower()}"


def shift_animals(desk: Desk, slug: str, from_id: int, to: str, species: str, count: str, new_on: date) -> None:
    """So many of a species out of one waiting batch into another, or into a new one planned for `new_on`."""
    tank, source = tanks.tank(desk.conn, slug), waiting(desk, slug, from_id)
    there = next((a for a in source.items if a.species == species), None)
    if there is None:
        raise Refused(f"{source.name} holds none of these.", "species")
    more = head_count(count, "count", low=1, high=MOST)
    if more > there.count:
        raise Refused(f"{source.name} holds {there.count} of them.", "count")
    if to != "new" and not to.isdecimal():
        raise Refused("Say into which batch.", "to")
    with _changing(desk, tank) as told:
        target = waiting(desk, slug, _add(desk, tank, new_on) if to == "new" else int(to))
        if target.id == source.id:
            raise Refused(f"They are in {source.name.lower()} already.", "to")
        before = sum(a.count for a in target.items if a.species == species)
        batches.set_count(desk.conn, source.id, species, there.count - more)
        batches.set_count(desk.conn, target.id, species, before + more, there.length_cm)
        name = listed([Animals(species, more)], desk.reference.species)
        told.sentence = f"{name} moved from {source.name.lower()} to {target.name.lower()}"


def remove_batch(desk: Desk, slug: str, batch_id: int) -> None:
    tank, found = tanks.tank(desk.conn, slug), waiting(desk, slug, batch_id)
    with _changing(desk, tank) as told:
        batches.remove(desk.conn, tank.id, batch_id, desk.now)
        told.sentence = f"{found.name} was taken off the plan"


def undo_change(desk: Desk, slug: str, change_id: int) -> None:
    """Put the plan back as it stood before its latest change."""
    tank = tanks.tank(desk.conn, slug)
    with transaction(desk.conn):
        plan = _all(desk, tank)
        waiting, arrived = ({b.id for b in plan if bool(b.arrived) is there} for there in (False, True))
        plan_changes.undo(desk.conn, tank.id, change_id, waiting, arrived, desk.now)


def _planner(desk: Desk, slug: str) -> Ahead:
    found = ahead(desk, slug)
    if found is None:
        raise Refused("Nothing waits to be planned: put animals onto the plan first.", "plan")
    return found


def take_days(desk: Desk, slug: str) -> None:
    """Every batch that is not locked on its first sure day; those without one stay where they are."""
    tank, found = tanks.tank(desk.conn, slug), _planner(desk, slug)
    with _changing(desk, tank) as told:
        moves = []
        for one, placed in found.days:
            if placed is not None and placed.planned != one.planned:
                batches.move(desk.conn, tank.id, one.id, placed.planned)
                moves.append(
                    f"{one.name} from {one.planned:%-d %b} to {placed.planned:%-d %b} ({BINDING[placed.binding]})"
                )
        told.sentence = "The planner's days: " + "; ".join(moves) if moves else ""


SLIPPED = "Moved by itself"


def move_slipped(desk: Desk) -> int:
    """Batches whose day has passed move to their one date, with a word and an undo; a locked one stays, and one that
    was put back today is left alone. Returns how many moved."""
    moved = 0
    for tank in tanks.all_tanks(desk.conn):
        late = [
            b
            for b in _all(desk, tank)
            if b.arrived is None and b.items and not b.locked and b.planned < desk.now.date()
        ]
        last = next(iter(plan_changes.changes(desk.conn, tank.id, 1)), None)
        back = (
            last is not None and last.undone and last.sentence.startswith(SLIPPED) and last.at.date() == desk.now.date()
        )
        if not late or back:
            continue
        dates = {d.batch_id: d.day for d in see(desk, tank.slug).situation.dates}
        with _changing(desk, tank) as told:
            said = []
            for one in late:
                day = dates.get(one.id)
                if day is None:
                    continue
                batches.move(desk.conn, tank.id, one.id, day)
                said.append(f"{one.name} from {one.planned:%-d %b} to {day:%-d %b}")
            told.sentence = f"{SLIPPED}, since its day had passed: {'; '.join(said)}" if said else ""
        moved += len(said)
    return moved


def take_target(desk: Desk, slug: str) -> None:
    """The target dose that the planned load asks for, as a revision of the tank's settings."""
    found, tank = _planner(desk, slug), tanks.tank(desk.conn, slug)
    if found.target is None:
        raise Refused("The target dose suits what is planned already.", "plan")
    keep_tank.change(desk, slug, replace(tank, target_mg_n_l=found.target, typed=_untyped(tank, "target_mg_n_l")))


def _untyped(tank: Tank, name: str) -> dict[str, str]:
    return {k: v for k, v in tank.typed.items() if k != name}


def compose_anew(desk: Desk, slug: str) -> None:
    """The planner's batches in place of all that are not locked; who finds no day waits behind them in a last one.
    Raises Refused, and changes nothing, where nobody can be placed."""
    tank, ahead_of = tanks.tank(desk.conn, slug), _planner(desk, slug)
    found = ahead_of.anew
    who = listed(found.left, desk.reference.species)
    if not found.placed:
        raise Refused(f"No animal can be placed ({who}): {BINDING[found.why_left]}.", "plan")
    with _changing(desk, tank) as told:
        for one in _all(desk, tank):
            if one.arrived is None and not one.locked:
                batches.remove(desk.conn, tank.id, one.id, desk.now)
        for planned, items in found.batches(ahead_of.terms):
            added = _add(desk, tank, planned)
            for a in items:
                batches.set_count(desk.conn, added, a.species, a.count, a.length_cm)
        days = ", ".join(f"{p.planned:%-d %b}" for p in found.placed)
        waits = f"; {who} wait in a last one, for which no day is in sight" if found.left else ""
        many = "batches" if len(found.placed) > 1 else "batch"
        told.sentence = f"The planner composed {len(found.placed)} {many}: {days}{waits}"


def they_are_in(
    desk: Desk,
    slug: str,
    batch_id: int,
    at: datetime,
    override: str = "",
    alive: Mapping[str, int] | None = None,
    told: Mapping[str, str] | None = None,
) -> Saved:
    """Log the arrival of a batch: by a passed gate, or by a stated reason that stays in the log. `alive`: how many of a
    species came alive, where it was counted; `told`: what is known of where they come from.

    Raises GateClosed when the gate holds and no reason is given.
    """
    found = waiting(desk, slug, batch_id)
    check_not_future(at, desk.now)
    if not found.items:
        raise Refused(f"{found.name} has no animals yet.", "batch")
    seen = see(desk, slug)
    gate = next((g for g in seen.situation.gates if g.batch_id == batch_id), None)
    passed = gate is not None and gate.passed
    reason = override.strip()
    if not passed and len(reason) < LEAST_REASON:
        missing = gate.missing_words if gate else "a forecast"
        raise GateClosed(f"The gate holds {found.name.lower()}: {missing}. To go on all the same, give the reason.")
    coming = [(a, a.count if alive is None else alive.get(a.species, a.count)) for a in found.items]
    extra = {} if passed else {"override": reason[:500]}
    given = {"batch": batch_id, **extra, **(told or {})}
    new = [
        desk.entry(Arrival.from_raw({"species": a.species, "count": n, "length_cm": a.length_cm, **given}), at)
        for a, n in coming
        if n
    ]
    if not new:
        raise Refused("Nobody came alive: log it as a note, and take the batch off the plan.", "batch")
    with transaction(desk.conn):
        waiting(desk, slug, batch_id)  # asked again: it may have been called in meanwhile
        sentence = f"{found.name} is in" + ("" if passed else " against the gate")
        act_id, ids = journal.write_all(desk.conn, seen.tank.id, "log", sentence, new, desk.now)
    return Saved(act_id, sentence, tuple(ids))
