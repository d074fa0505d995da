"""Reading what is kept, for the pages; and choosing preferences. What needs a forecast stands in look.py."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import timedelta

from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Instrument, Tank, Water
from jarbloom.deeds.desk import Desk
from jarbloom.store import batches, house, journal, plan_changes, preferences, tanks
from jarbloom.store.db import transaction
from jarbloom.store.journal import Act
from jarbloom.store.plan_changes import PlanChange
from jarbloom.store.reminders import MAIL_HELP

JUST_SAVED = timedelta(minutes=15)  # how long a page offers to undo the last act


def tank(desk: Desk, slug: str) -> Tank:
    """Raises NotFound."""
    return tanks.tank(desk.conn, slug)


def all_tanks(desk: Desk) -> list[Tank]:
    return tanks.all_tanks(desk.conn)


def tank_names(desk: Desk) -> list[tuple[str, str]]:
    """(slug, name) of all tanks on the bench, also of those that cannot be looked at."""
    return [(slug, name) for _, slug, name in tanks.names(desk.conn)]


def shelf(desk: Desk) -> list[tuple[int, str, str]]:
    """Tanks that were put away: (id, name, since)."""
    return tanks.archived(desk.conn)


def newest_revision(desk: Desk, of: Tank) -> int:
    """The number of the settings in force."""
    return tanks.newest_revision(desk.conn, of.id)


def at_revision(desk: Desk, of: Tank, revision: int) -> Tank | None:
    return tanks.at_revision(desk.conn, of.id, revision)


def revisions(desk: Desk, of: Tank) -> int:
    """How often the settings of a tank were kept."""
    return tanks.revisions(desk.conn, of.id)


def journal_of(desk: Desk, of: Tank, struck: bool = False) -> Sequence[Entry]:
    """In order of time; with those that were voided or superseded when asked."""
    if struck:
        return journal.entries(desk.conn, of.id, live_only=False, zone=desk.preferences.tz)
    return desk.log(of.id)


def entry(desk: Desk, of: Tank, entry_id: int) -> Entry:
    """Raises NotFound."""
    return journal.entry(desk.conn, of.id, entry_id, desk.preferences.tz)


def just_saved(desk: Desk, of: Tank) -> Act | None:
    """The last act, while it is fresh and still stands."""
    acts = lately_done(desk, of, 1)
    fresh = acts and not acts[0].undone and timedelta() <= desk.now - acts[0].at < JUST_SAVED
    return acts[0] if fresh else None


def lately_done(desk: Desk, of: Tank, most: int) -> list[Act]:
    return journal.latest_acts(desk.conn, of.id, most)


def plan_of(desk: Desk, of: Tank, log: Log) -> list[Batch]:
    return batches.batches(desk.conn, of.id, log)


def plan_history(desk: Desk, of: Tank) -> list[PlanChange]:
    return plan_changes.changes(desk.conn, of.id)


def waters(desk: Desk) -> list[Water]:
    return house.waters(desk.conn)


def water(desk: Desk, water_id: int) -> Water:
    """Raises NotFound."""
    return house.water(desk.conn, water_id)


def instruments(desk: Desk) -> list[Instrument]:
    return house.instruments(desk.conn)


def newest_house_revision(desk: Desk, thing_id: int) -> int:
    """Of a source water or an instrument."""
    return house.newest_revision(desk.conn, thing_id)


def water_at(desk: Desk, revision: int) -> Water | None:
    return house.water_at(desk.conn, revision)


def instrument_at(desk: Desk, revision: int) -> Instrument | None:
    return house.instrument_at(desk.conn, revision)


def removed_from_house(desk: Desk) -> list[tuple[int, str]]:
    return house.removed(desk.conn)


def preferences_of(desk: Desk) -> dict[str, str]:
    """As the form shows them."""
    return {k: getattr(desk.preferences, k) for k in preferences.HELP}


def choose(desk: Desk, chosen: Mapping[str, str]) -> None:
    """Keep preferences, all or none. Raises Refused naming the one that cannot be."""
    with transaction(desk.conn):
        for key, value in chosen.items():
            preferences.save(desk.conn, key, value)


NEW = 12  # entries in the log of a tank whose keeper is new to its pages


def hint_due(desk: Desk, page: str, of: Tank | None) -> bool:
    """Whether a page still says what it is for: it was not put away, and the tank (all of them) has hardly a log."""
    if page in desk.preferences.hints.split():
        return False
    ids = [of.id] if of is not None else [tank_id for tank_id, _, _ in tanks.names(desk.conn)]
    return bool(ids) and all(journal.fewer_than(desk.conn, tank_id, NEW) for tank_id in ids)


def put_hint_away(desk: Desk, page: str) -> None:
    with transaction(desk.conn):
        kept = dict.fromkeys((*desk.preferences.hints.split(), page))
        preferences.save(desk.conn, "hints", " ".join(kept))


def mail_fields() -> Mapping[str, str]:
    """What the reminder by mail needs to know, each with its help."""
    return MAIL_HELP


def planned_animals(desk: Desk, of: Tank) -> list[Animals]:
    """All that waits on a tank's plan, in its order."""
    waiting = (b for b in batches.batches(desk.conn, of.id, desk.log(of.id)) if b.arrived is None)
    return [a for b in waiting for a in b.items]
