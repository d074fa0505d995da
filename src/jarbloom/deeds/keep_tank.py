"""Setting up, changing and shelving tanks, and the three ways in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import timedelta

from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.choices import CHANGED_LATELY
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.readings import read
from jarbloom.core.model.kit import QUANTITIES, Kit
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.equipment import check_filters
from jarbloom.core.vessel.shapes import SHAPES
from jarbloom.core.vessel.volume import check_geometry
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Clash, NotFound, Refused
from jarbloom.store import journal, preferences, tanks
from jarbloom.store.db import transaction

RESCUE_SCHOOL = "fish_in_watched"


def check(tank: Tank, desk: Desk) -> None:
    """Raises Refused naming the field when settings do not hold together."""
    if not tank.name.strip():
        raise Refused("Give the tank a name.", "name")
    if not tank.name.isprintable():
        raise Refused("A name in one line, of characters that can be seen.", "name")
    if tank.shape not in SHAPES:
        raise Refused(f"“{tank.shape}” is not a shape that is known here.", "shape")
    check_geometry(tank)
    check_filters(tank)
    if tank.started > desk.now.date():
        raise Refused("The first day lies in the future.", "started")
    if tank.source.hot_c <= tank.source.cold_c:
        raise Refused("The hot tap must be warmer than the cold one.", "hot_c")


def set_up(desk: Desk, new: Tank) -> Tank:
    check(new, desk)
    with transaction(desk.conn):
        if desk.preferences.system and not tanks.any_tank(desk.conn):
            preferences.save(desk.conn, "system", desk.preferences.system)  # the units that the first was set up in
        return tanks.add(desk.conn, new, desk.now)


def change(desk: Desk, slug: str, settings: Tank, seen: int | None = None) -> Tank:
    """Save new settings as a revision; the earlier ones stay. `seen`: the revision that they were made from. Raises
    Clash when there is a newer one by now."""
    old = tanks.tank(desk.conn, slug)
    check(settings, desk)
    with transaction(desk.conn):
        _refuse_newer(desk, old, seen)
        tanks.save_revision(desk.conn, old.id, settings, desk.now)
    return tanks.tank(desk.conn, slug)


def _refuse_newer(desk: Desk, tank: Tank, seen: int | None) -> None:
    if seen is not None and tanks.newest_revision(desk.conn, tank.id) != seen:
        raise Clash("These settings were changed on another device meanwhile; nothing was overwritten. Look again.")


def undo_change(desk: Desk, slug: str, seen: int | None = None) -> Tank:
    """Put the settings before the last ones in force again, as a revision of their own. `seen`: the revision that is to
    be undone; Clash when another has come since."""
    old = tanks.tank(desk.conn, slug)
    before = tanks.earlier(desk.conn, old.id)
    if before is None:
        raise Refused("There are no earlier settings of this tank.", "settings")
    with transaction(desk.conn):
        _refuse_newer(desk, old, seen)
        tanks.save_revision(desk.conn, old.id, before, desk.now)
    return tanks.tank(desk.conn, slug)


def shelve(desk: Desk, slug: str) -> None:
    """Take a tank off the bench, also one that cannot be looked at; nothing of its record goes."""
    found = next((tank_id for tank_id, here, _ in tanks.names(desk.conn) if here == slug), None)
    if found is None:
        raise NotFound(f"There is no tank “{slug[:60]}” here.")
    with transaction(desk.conn):
        tanks.archive(desk.conn, found, desk.now)


def unshelve(desk: Desk, tank_id: int) -> None:
    with transaction(desk.conn):
        tanks.archive(desk.conn, tank_id, None)


@dataclass(frozen=True)
class Trouble:
    """'Fish are in and something is wrong': what a newcomer can say in a minute."""

    name: str
    litres: float
    animals: tuple[Animals, ...]
    days_in: int = 3
    temp_c: float = 25.0
    readings: dict[str, str] = field(default_factory=dict)
    signs: tuple[str, ...] = ()
    words: str = ""
    salinity_g_kg: float = 0.0
    forms: dict[str, str] = field(default_factory=dict)  # by nitrogen form: the unit of the kit, where it is known
    tap_ph: float | None = None
    tap_kh: float | None = None
    changed: tuple[str, ...] = ()  # keys of CHANGED_LATELY


def _kit_of(forms: Mapping[str, str]) -> Kit:
    """A usual kit whose card is in these forms."""
    kit = Kit()
    ammonia, nitrite = (replace(kit.scale(q), form=forms.get(q, "N")) for q in ("ammonia", "nitrite"))
    return replace(kit, ammonia=ammonia, nitrite=nitrite)


def rescue(desk: Desk, trouble: Trouble) -> Tank:
    """A tank in which what was told is already logged: animals, readings, signs. One transaction."""
    if not trouble.animals:
        raise Refused("Say what lives in it; ‘unknown small fish’ will do.", "animals")
    for animals in trouble.animals:
        if animals.species not in desk.reference.species:
            raise Refused(f"“{animals.species[:60]}” is not in the catalogue.", "animals")
    since = desk.now - timedelta(days=trouble.days_in)
    kit = _kit_of(trouble.forms)
    fresh = Tank(trouble.name, since.date(), measured_l=trouble.litres, temp_c=trouble.temp_c, school=RESCUE_SCHOOL,
                 salinity_g_kg=trouble.salinity_g_kg, kit=kit)  # fmt: skip
    unit = desk.preferences.units.unit("temp")
    given = {q: t for q, t in trouble.readings.items() if t.strip()}
    readings = tuple(read(q, given[q], fresh.kit, unit) for q in QUANTITIES if q in given)
    by_quantity = {r.quantity: r.seen for r in readings}
    usual_ph = 8.1 if fresh.marine else fresh.ph
    source = fresh.source
    if trouble.tap_ph is not None or trouble.tap_kh is not None:
        source = replace(source, ph=source.ph if trouble.tap_ph is None else trouble.tap_ph,
                         kh_dkh=source.kh_dkh if trouble.tap_kh is None else trouble.tap_kh)  # fmt: skip
    fresh = replace(
        fresh, ph=by_quantity.get("ph", usual_ph), temp_c=by_quantity.get("temp", fresh.temp_c), source=source
    )
    check(fresh, desk)
    new = [
        desk.entry(
            Arrival.from_raw({"species": a.species, "count": a.count, "already_in": True, "length_cm": a.length_cm}),
            since,
        )
        for a in trouble.animals
    ]
    if readings:
        new.append(desk.entry(Tested(readings=readings)))
    if trouble.signs or trouble.words:
        new.append(desk.entry(Observation.from_raw({"signs": trouble.signs, "text": trouble.words})))
    new += [desk.entry(Note(text=CHANGED_LATELY[c])) for c in trouble.changed if c in CHANGED_LATELY]
    with transaction(desk.conn):
        tank = tanks.add(desk.conn, fresh, desk.now)
        journal.write_all(desk.conn, tank.id, "log", "What was told when help was asked for", new, desk.now)
    return tank
