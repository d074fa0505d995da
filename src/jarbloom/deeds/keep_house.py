"""Source waters and instruments: keeping them, and filling a tank's settings from a water or a mix."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from jarbloom.core.model.tank import Instrument, Source, Tank, Water
from jarbloom.core.water.mixing import Mix, Wish, factor_from_mix, plan_mix
from jarbloom.core.water.salinity import Comparison, compare, read_with
from jarbloom.deeds import keep_tank
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Clash, Refused
from jarbloom.store import house, tanks
from jarbloom.store.db import transaction


def keep_water(desk: Desk, water: Water, seen: int | None = None) -> int:
    """`seen`: the revision that it was made from. Raises Clash when there is a newer one by now."""
    _check("a water", water, house.waters(desk.conn))
    _check_day(desk, water.measured_on, "measured_on")
    with transaction(desk.conn):
        _check_newest(desk, water.id, seen)
        return house.save_water(desk.conn, replace(water, source=replace(water.source, name=water.name)), desk.now)


def keep_instrument(desk: Desk, one: Instrument, seen: int | None = None) -> int:
    """`seen`: as for a water."""
    _check("an instrument", one, house.instruments(desk.conn))
    _check_day(desk, one.calibrated_on, "calibrated_on")
    with transaction(desk.conn):
        _check_newest(desk, one.id, seen)
        return house.save_instrument(desk.conn, one, desk.now)


def _check_newest(desk: Desk, thing_id: int, seen: int | None) -> None:
    if seen is not None and thing_id and house.newest_revision(desk.conn, thing_id) != seen:
        raise Clash("This was changed on another device meanwhile; nothing was overwritten. Look again.")


def _check(what: str, thing: Water | Instrument, others: Sequence[Water | Instrument]) -> None:
    if not thing.name.strip():
        raise Refused("Give it a name.", "name")
    if any(o.name.lower() == thing.name.lower() and o.id != thing.id for o in others):
        raise Refused(f"There is {what} called “{thing.name}” already.", "name")


def _check_day(desk: Desk, day: date | None, field: str) -> None:
    if day is not None and day > desk.now.date():
        raise Refused(f"{day:%-d %b %Y} has not come yet.", field)


def remove(desk: Desk, thing_id: int) -> None:
    with transaction(desk.conn):
        house.remove(desk.conn, thing_id, desk.now)


def put_back(desk: Desk, thing_id: int) -> None:
    with transaction(desk.conn):
        house.remove(desk.conn, thing_id, None)


def mix(desk: Desk, tank: Tank, wish: Wish) -> Mix:
    """The recipe for a wish. Raises Refused naming the field for what cannot be mixed."""
    first = house.water(desk.conn, wish.first)
    second = house.water(desk.conn, wish.second) if wish.second is not None else None
    return plan_mix(wish, first, second, tank.salt_factor)


def use_for(desk: Desk, slug: str, source: Source) -> Tank:
    """This water is what goes into the tank from now on: a revision of its settings. Its taps' temperatures stay."""
    tank = tanks.tank(desk.conn, slug)
    kept = replace(source, cold_c=tank.source.cold_c, hot_c=tank.source.hot_c)
    return keep_tank.change(desk, slug, replace(tank, source=kept))


def learn_salt_factor(desk: Desk, slug: str, grams: float, litres: float, reached_g_kg: float) -> Tank:
    """The tank's own salt factor from the keeper's last mix, as a revision of its settings."""
    tank = tanks.tank(desk.conn, slug)
    factor = factor_from_mix(grams, litres, reached_g_kg, tank.temp_c)
    return keep_tank.change(desk, slug, replace(tank, salt_factor=round(factor, 3)))


def compare_instruments(desk: Desk, first: tuple[str, str], second: tuple[str, str], sample_c: float) -> Comparison:
    """Two (name, what it shows) in the same water. Raises Refused at first, second, first_reading, second_reading."""
    known = {i.name: i for i in house.instruments(desk.conn)}
    chosen, values = [], []
    for which, (name, typed) in (("first", first), ("second", second)):
        if name not in known:
            raise Refused("Choose an instrument; they are kept under Waters.", which)
        if not typed.strip():
            raise Refused("What does it say?", f"{which}_reading")
        chosen.append(known[name])
        values.append(read_with(known[name], typed, sample_c, f"{which}_reading"))
    return compare(chosen[0], values[0], chosen[1], values[1], desk.now.date())


def calibrated_today(desk: Desk, thing_id: int) -> date:
    one = next((i for i in house.instruments(desk.conn) if i.id == thing_id), None)
    if one is None:
        raise Refused("There is no such instrument.", "instrument")
    with transaction(desk.conn):
        house.save_instrument(desk.conn, replace(one, calibrated_on=desk.now.date()), desk.now)
    return desk.now.date()
