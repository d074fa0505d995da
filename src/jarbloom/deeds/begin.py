"""A tank in three steps: the glass, the equipment, how to cycle. Each step is kept at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.advice.compare_schools import answers_of, begun_today, view_of
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.model.choices import USUAL_WATERS
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.choose import Answers, Choice, choose
from jarbloom.core.setup.which_tank import of_size, with_usual_equipment
from jarbloom.core.stocking.habits import in_thirds
from jarbloom.core.stocking.lots import lots_of
from jarbloom.deeds import keep_tank, plan_batches
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.ensembles import ensemble_of
from jarbloom.deeds.look import see_tank
from jarbloom.errors import Refused
from jarbloom.store import tanks
from jarbloom.store.db import transaction

FIRST_BATCH_AFTER = timedelta(days=35)  # until the forecast moves it


def first_step(desk: Desk, glass: Tank, water: str) -> Tank:
    """A tank from its glass alone, with what is usual for its litres and its water."""
    _, temp, ph, kh, salt = USUAL_WATERS[water]
    named = replace(glass, name=glass.name.strip() or free_name(desk))
    of_water = replace(named, temp_c=temp, ph=ph, kh_dkh=kh, salinity_g_kg=salt)
    keep_tank.check(of_water, desk)
    return keep_tank.set_up(desk, with_usual_equipment(of_water))


def free_name(desk: Desk) -> str:
    """'Tank 1', or the first number that no tank has."""
    taken = {name.lower() for _, _, name in (*tanks.names(desk.conn), *tanks.archived(desk.conn))}
    return next(f"Tank {n}" for n in range(1, len(taken) + 2) if f"tank {n}" not in taken)


def expected(desk: Desk, tank: Tank) -> Readiness:
    """When the tank may be ready if its cycling begins today."""
    seen = see_tank(desk, tank)
    return begun_today(seen.situation, ensemble_of(desk, tank, desk.log(tank.id)), tank.school).readiness


def fitting(desk: Desk, tank: Tank, answers: Answers) -> tuple[Choice, Readiness | None]:
    """The school that fits these answers, and when it may be through."""
    s = see_tank(desk, tank).situation
    best = next(c for c in choose(answers_of(s, answers), desk.reference.schools.cycling) if not c.out)
    future = view_of(s, ensemble_of(desk, tank, desk.log(tank.id)), best).future
    return best, future.readiness if future is not None else None


def tank_for(desk: Desk, size: tuple[int, int, int], animals: Sequence[Animals]) -> Tank:
    """A planned tank of a usual size with these animals in batches; the planner moves them once a forecast stands."""
    if not animals:
        raise Refused("Say which animals first.", "q")
    today = desk.now.date()
    new = replace(of_size(size, animals, desk.reference.species, today), name=free_name(desk))
    keep_tank.check(new, desk)
    lots = lots_of(animals, (), desk.reference.species, today)
    with transaction(desk.conn):
        kept = tanks.add(desk.conn, new, desk.now)
        for batch in in_thirds(lots, today + FIRST_BATCH_AFTER):
            plan_batches.add_with(desk, kept.slug, batch.planned, batch.items, batch.name)
    return kept
