"""A tank in three steps: the glass, the equipment, how to cycle. Each step is kept at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.advice.compare_schools import answers_of, by_present_school, compare_schools, recommended
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.choose import Answers, Choice
from jarbloom.core.setup.which_tank import of_size, with_usual_equipment
from jarbloom.core.stocking.lots import lots_of
from jarbloom.core.stocking.plan import in_thirds
from jarbloom.deeds import keep_tank, plan_batches
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.ensembles import ensemble_of
from jarbloom.deeds.look import see_tank
from jarbloom.errors import Refused
from jarbloom.store import tanks
from jarbloom.store.db import transaction

# Of each kind of water, before anything was read: deg C, pH, dKH, g/kg (judgement)
WATERS = {"fresh": (25.0, 7.4, 5.0, 0.0), "brackish": (26.0, 7.8, 8.0, 8.0), "sea": (25.5, 8.2, 8.0, 35.0)}
FIRST_BATCH_AFTER = timedelta(days=35)  # until the forecast moves it


def first_step(desk: Desk, glass: Tank, water: str) -> Tank:
    """A tank from its glass alone, with what is usual for its litres and its water."""
    temp, ph, kh, salt = WATERS[water]
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
    return by_present_school(seen.situation, ensemble_of(desk, tank, desk.log(tank.id))).readiness


def fitting(desk: Desk, tank: Tank, answers: Answers) -> tuple[Choice, Readiness | None]:
    """The school that fits these answers, and when it may be through."""
    s = see_tank(desk, tank).situation
    best = recommended(compare_schools(s, ensemble_of(desk, tank, desk.log(tank.id)), answers_of(s, answers)))
    return best.choice, best.future.readiness if best.future is not None else None


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
