"""A keeper's own chores: set down, taken off, put back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.journal.line.parse import parse
from jarbloom.core.model.chore import Chore
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.chores import due_on, last_done
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import setting_of
from jarbloom.errors import Refused
from jarbloom.store import chores, tanks
from jarbloom.store.db import transaction

LONGEST_DAYS = 366
MOST = 40


@dataclass(frozen=True)
class Stands:
    chore: Chore
    done: date | None
    due: date | None


def see(desk: Desk, slug: str) -> tuple[Tank, tuple[Stands, ...], tuple[Chore, ...]]:
    """The tank, its chores as they stand, and those taken off."""
    tank = tanks.tank(desk.conn, slug)
    log = desk.log(tank.id)
    found = tuple(Stands(c, last_done(c, log), due_on(c, log)) for c in chores.chores(desk.conn, tank.id))
    return tank, found, chores.chores(desk.conn, tank.id, removed=True)


def add(desk: Desk, slug: str, title: str, rhythm: str, every: int, line: str) -> None:
    """Raises Refused naming the field; a line has to be wholly understood, for nobody is asked when it is ticked."""
    title, line = title.strip(), line.strip()
    if not title:
        raise Refused("What is to be done?", "title")
    if len(title) > 120:
        raise Refused(f"That is {len(title)} characters; at most 120.", "title")
    if rhythm == "days" and not 1 <= every <= LONGEST_DAYS:
        raise Refused(f"Every 1 to {LONGEST_DAYS} days.", "every")
    if rhythm not in ("days", "weekday", "after_change") or (rhythm == "weekday" and not 0 <= every <= 6):
        raise Refused("How often?", "rhythm")
    tank = tanks.tank(desk.conn, slug)
    if line:
        read = parse(line, desk.now, setting_of(desk, tank))
        if not read.bodies:
            raise Refused(read.questions[0].label if read.questions else "That line is not understood.", "line")
    if len(chores.chores(desk.conn, tank.id)) >= MOST:
        raise Refused(f"{MOST} chores are on the list already.", "title")
    with transaction(desk.conn):
        chores.add(desk.conn, tank.id, Chore(title, rhythm, every, line, desk.now.date()), desk.now)


def remove(desk: Desk, slug: str, chore_id: int, back: bool = False) -> None:
    with transaction(desk.conn):
        chores.remove(desk.conn, tanks.tank(desk.conn, slug).id, chore_id, None if back else desk.now)
