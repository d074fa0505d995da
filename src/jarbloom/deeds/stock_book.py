"""The stock book: heads counted, animals found dead, given away, or moved to another tank of the house."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from jarbloom.core.advice.situation import standing_gate
from jarbloom.core.animals.compatibility import case_of, findings
from jarbloom.core.animals.home import home_of
from jarbloom.core.animals.names import listed
from jarbloom.core.journal.book import Group, groups
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.count import HeadCount
from jarbloom.core.journal.kinds.moved import Moved
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.deeds import log
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import LEAST_REASON, FilledForm, Saved
from jarbloom.deeds.look import see_tank
from jarbloom.errors import GateClosed, NotFound, Refused
from jarbloom.store import journal, tanks
from jarbloom.store.db import transaction
from jarbloom.units import head_count


def group_of(desk: Desk, tank: Tank, group_id: int) -> Group:
    found = next((g for g in groups(desk.log(tank.id)) if g.id == group_id), None)
    if found is None:
        raise NotFound("That group is not in this tank's stock book.")
    return found


def count_heads(desk: Desk, slug: str, seen: Mapping[str, str]) -> Saved:
    """What was counted by species, empty where nobody was counted: one act."""
    tank = tanks.tank(desk.conn, slug)
    counted: list[HeadCount] = []
    for species, text in seen.items():
        if not text.strip():
            continue
        counted.append(HeadCount(species=species, count=head_count(text, species)))
    if not counted:
        raise Refused("Type how many heads were seen, for one kind at least.", "heads")
    words = listed([Animals(c.species, c.count) for c in counted], desk.reference.species)
    with transaction(desk.conn):
        sentence = f"Heads counted: {words}"
        act, ids = journal.write_all(desk.conn, tank.id, "log", sentence, map(desk.entry, counted), desk.now)
    return Saved(act, sentence, tuple(ids))


def leave(desk: Desk, slug: str, group_id: int, how: str, count: str, text: str) -> Saved:
    """Some of a group found dead or given away; `text`: the cause, or to whom."""
    tank = tanks.tank(desk.conn, slug)
    group = group_of(desk, tank, group_id)
    if how not in ("death", "given"):
        raise Refused("Say what became of them.", "how")
    raw = {
        "species": group.species,
        "count": head_count(count, "count", low=1, high=max(group.now, 1)),
        "group": group_id,
    }
    raw |= {"cause": text} if how == "death" else {"to": text}
    return log.log_entry(desk, slug, FilledForm(how, desk.now, raw, {}), anyway=True)


def move(desk: Desk, slug: str, group_id: int, to: str, count: str, reason: str = "") -> tuple[Saved, Saved]:
    """Some of a group into another tank: out here and in there, both or neither.

    Raises GateClosed with what speaks against the other tank, unless a reason is given, which stays in its log.
    """
    tank = tanks.tank(desk.conn, slug)
    if not to or to == slug:
        raise Refused("Say into which tank.", "to")
    other, group = tanks.tank(desk.conn, to), group_of(desk, tank, group_id)
    moving = head_count(count, "count", low=1, high=max(group.now, 1))
    against = _against(desk, other, group, moving)
    if against and len(reason.strip()) < LEAST_REASON:
        raise GateClosed(f"{other.name}: {' '.join(against[:3])} To move them all the same, give the reason.")
    with transaction(desk.conn):
        if group_of(desk, tank, group_id).now < moving:
            raise Refused("They have left meanwhile.", "count")
        return _carry(desk, tank, other, group, moving, reason if against else "")


def move_all(desk: Desk, slug: str, to: str, reason: str = "") -> tuple[Saved, ...]:
    """Everybody who lives in a tank into another one: all of them or nobody. Raises as `move` does, for the first that
    speaks against it."""
    tank, other = tanks.tank(desk.conn, slug), tanks.tank(desk.conn, to)
    here = [g for g in groups(desk.log(tank.id), desk.now.date()) if g.now]
    against = [sentence for g in here for sentence in _against(desk, other, g, g.now)]
    if against and len(reason.strip()) < LEAST_REASON:
        said = " ".join(dict.fromkeys(against[:3]))
        raise GateClosed(f"{other.name}: {said} To move them all the same, give the reason.")
    with transaction(desk.conn):
        if [g for g in groups(desk.log(tank.id), desk.now.date()) if g.now] != here:
            raise Refused("Somebody has come or left meanwhile: look again.", "reason")
        return tuple(s for g in here for s in _carry(desk, tank, other, g, g.now, reason if against else ""))


def _carry(desk: Desk, tank: Tank, other: Tank, group: Group, moving: int, override: str) -> tuple[Saved, Saved]:
    """Writes that so many of a group are out of one tank and in another."""
    words = listed([Animals(group.species, moving)], desk.reference.species)
    extra = {"override": override.strip()[:500]} if override else {}
    carried = {"seller": tank.name, "tank_bred": group.tank_bred or None, "length_cm": _length(desk, group)}
    who = {"species": group.species, "count": moving}
    out = desk.entry(Moved.from_raw(who | {"to": other.name, "group": group.id}))
    into = desk.entry(Arrival.from_raw(who | carried | extra))
    left, _ = journal.write_all(desk.conn, tank.id, "log", f"{words} moved to {other.name}", [out], desk.now)
    came, _ = journal.write_all(desk.conn, other.id, "log", f"{words} moved in from {tank.name}", [into], desk.now)
    return Saved(left, f"{words} moved to {other.name}", ()), Saved(came, f"{words} moved in from {tank.name}", ())


def _length(desk: Desk, group: Group) -> float:
    kind = desk.reference.species.get(group.species, desk.reference.species["unknown"])
    return round(group.length_on(kind, desk.now.date()), 1)


def _against(desk: Desk, other: Tank, group: Group, count: int) -> list[str]:
    """What the gate of the other tank would say: its water and pace, and whether they suit it and those in it."""
    entries = desk.log(other.id)
    living = [g.animals for g in groups(entries, desk.now.date()) if g.now]
    kind = desk.reference.species.get(group.species, desk.reference.species["unknown"])
    sensitive = kind.ammonia_sensitivity == "sensitive"
    checks = standing_gate(see_tank(desk, other).situation, sensitive)
    coming = replace(group.animals, count=count, length_cm=_length(desk, group), since=desk.now.date(), measured=())
    case = case_of(home_of(other), [*living, coming], desk.reference.species, desk.now.date(), desk.preferences.units)
    found = [
        f.sentence for f in findings(case) if f.severity == "apart" and f.on is None and group.species in f.species
    ]
    return [*found, *(c.sentence for c in checks if not c.passed)]


def undo_move(desk: Desk, slug: str, left: int, to: str, came: int) -> None:
    """Take back both halves of a move."""
    with transaction(desk.conn):
        log.undo(desk, slug, left)
        log.undo(desk, to, came)
