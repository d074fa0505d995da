"""Source waters and instruments: keeping them, and filling a tank's settings from a water or a mix."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date

from jarbloom.core.model import Instrument, Source, Tank, Water
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.mixing import Buffer, Part, bicarbonate_for, blend, litres_for_kh, salt_g
from jarbloom.deeds import keep_tank
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.store import house, tanks
from jarbloom.store.db import transaction


def keep_water(desk: Desk, water: Water) -> int:
    if not water.name.strip():
        raise Refused("Give the water a name.", "name")
    if any(w.name.lower() == water.name.lower() and w.id != water.id for w in house.waters(desk.conn)):
        raise Refused(f"There is a water called “{water.name}” already.", "name")
    if water.measured_on and water.measured_on > desk.now.date():
        raise Refused("The day it was measured lies in the future.", "measured_on")
    with transaction(desk.conn):
        return house.save_water(desk.conn, replace(water, source=replace(water.source, name=water.name)), desk.now)


def keep_instrument(desk: Desk, one: Instrument) -> int:
    if not one.name.strip():
        raise Refused("Give the instrument a name.", "name")
    if any(i.name.lower() == one.name.lower() and i.id != one.id for i in house.instruments(desk.conn)):
        raise Refused(f"There is an instrument called “{one.name}” already.", "name")
    if one.calibrated_on and one.calibrated_on > desk.now.date():
        raise Refused("The day of calibration lies in the future.", "calibrated_on")
    with transaction(desk.conn):
        return house.save_instrument(desk.conn, one, desk.now)


def remove(desk: Desk, thing_id: int) -> None:
    with transaction(desk.conn):
        house.remove(desk.conn, thing_id, desk.now)


def put_back(desk: Desk, thing_id: int) -> None:
    with transaction(desk.conn):
        house.remove(desk.conn, thing_id, None)


@dataclass(frozen=True)
class Wish:
    """What is to be mixed: litres in all, one water or two, a KH if wanted, and the salinity."""

    litres: float
    first: int
    second: int | None = None
    share_second: float | None = None
    target_kh: float | None = None
    salinity_g_kg: float = 0.0
    temp_c: float = 25.0


@dataclass(frozen=True)
class Mix:
    """The recipe: litres of each, what they come to, buffer and salt."""

    parts: tuple[tuple[Water, float], ...]
    source: Source
    buffer: Buffer | None
    salt_g: float
    salt_factor: float
    salinity_g_kg: float


def mix(desk: Desk, tank: Tank, wish: Wish) -> Mix:
    """Raises Refused naming the field for what cannot be mixed."""
    if wish.litres <= 0:
        raise Refused("Say how many litres.", "litres")
    first = house.water(desk.conn, wish.first)
    if wish.second is None:
        parts = [(first, wish.litres)]
    else:
        second = house.water(desk.conn, wish.second)
        if wish.target_kh is not None and wish.share_second is None:
            a, b = litres_for_kh(wish.litres, wish.target_kh, first.source, second.source)
        else:
            share = 0.5 if wish.share_second is None else wish.share_second
            a, b = wish.litres * (1 - share), wish.litres * share
        parts = [(first, a), (second, b)]
    kept = [(w, v) for w, v in parts if v > 1e-9]
    made = blend([Part(v, w.source) for w, v in kept])
    buffer = None
    if wish.target_kh is not None and wish.target_kh > made.kh_dkh + 0.05:
        buffer = bicarbonate_for(wish.litres, made, wish.target_kh)
        made = replace(made, kh_dkh=wish.target_kh, ph=buffer.ph)
    elif wish.target_kh is not None and wish.target_kh < made.kh_dkh - 0.05:
        bicarbonate_for(wish.litres, made, wish.target_kh)  # says why it cannot be lowered
    salt = salt_g(wish.litres, wish.salinity_g_kg, tank.salt_factor, wish.temp_c) if wish.salinity_g_kg else 0.0
    return Mix(tuple(kept), made, buffer, salt, tank.salt_factor, wish.salinity_g_kg)


def use_for(desk: Desk, slug: str, source: Source) -> Tank:
    """This water is what goes into the tank from now on: a revision of its settings. Its taps' temperatures stay."""
    tank = tanks.tank(desk.conn, slug)
    kept = replace(source, cold_c=tank.source.cold_c, hot_c=tank.source.hot_c)
    return keep_tank.change(desk, slug, replace(tank, source=kept))


def usual_litres(tank: Tank) -> float:
    return round(net_l(tank) * 0.3)


def calibrated_today(desk: Desk, thing_id: int) -> date:
    one = next((i for i in house.instruments(desk.conn) if i.id == thing_id), None)
    if one is None:
        raise Refused("There is no such instrument.", "instrument")
    with transaction(desk.conn):
        house.save_instrument(desk.conn, replace(one, calibrated_on=desk.now.date()), desk.now)
    return desk.now.date()
