"""A quarantine tank of its own: made by one press for a tank, and closed with its animals moved home."""

from __future__ import annotations

from jarbloom.core.advice.situation import Situation
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.model.findings import Severity
from jarbloom.core.model.tank import Filter, Heater, Tank
from jarbloom.deeds import keep_tank, look, stock_book
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import Saved
from jarbloom.errors import Refused
from jarbloom.store import journal, tanks
from jarbloom.store.db import transaction

# A bare box that can be watched from all sides and emptied in an hour (practice). Its sizes are changed in its set-up.
BOX_CM = (45.0, 28.0, 30.0)
SPONGE = Filter("sponge", "sponge", 150.0, 1.0, "foam", 0.5)
HEATER_W = 50.0
LENT_SHARE = 50.0  # % of its small filter, where a sponge out of the healthy tank comes along (practice)


def of(desk: Desk, slug: str) -> Tank | None:
    """The quarantine tank on the bench of a tank, if there is one."""
    found = (tanks.tank(desk.conn, s) for _, s, _ in tanks.names(desk.conn))
    return next((t for t in found if t.quarantine_of == slug), None)


def may_lend(s: Situation) -> bool:
    """Ripe media leave a tank only while nothing is wrong in it: they may be missed there, or carry what is wrong."""
    return s.findings.worst < Severity.TEST


def begin(desk: Desk, slug: str, sponge: bool) -> Tank:
    """Set up a quarantine tank with the water of a tank. `sponge`: ripe media of that tank go in with it.

    Raises Refused for a tank that is one itself, or has one; with a sponge also while something is wrong in it.
    """
    home = tanks.tank(desk.conn, slug)
    if home.quarantine_of:
        raise Refused("This is a quarantine tank itself.", "quarantine")
    if sponge and not may_lend(look.see(desk, slug).situation):
        raise Refused(f"{home.name} is in trouble itself: its media stay where they are.", "quarantine")
    if of(desk, slug) is not None:
        raise Refused(f"{home.name} has its quarantine tank on the bench already.", "quarantine")
    length, width, height = BOX_CM
    box = Tank(
        f"Quarantine of {home.name}", desk.now.date(), length, width, height, substrate_cm=0.0, temp_c=home.temp_c,
        ph=home.ph, kh_dkh=home.kh_dkh, salinity_g_kg=home.salinity_g_kg, filters=(SPONGE,),
        heaters=(Heater(HEATER_W, home.temp_c),), room_c=home.room_c, room_rh=home.room_rh, kit=home.kit,
        source=home.source, salt_factor=home.salt_factor, corrective=home.corrective, pace=home.pace,
        school="borrowed_media" if sponge else home.school, quarantine="always", quarantine_days=home.quarantine_days,
        home_hours=home.home_hours, conditioner_ml_per_100l=home.conditioner_ml_per_100l, quarantine_of=slug,
    )  # fmt: skip
    keep_tank.check(box, desk)
    words = f"Set up as the quarantine tank of {home.name}, with its water. Nothing goes back: no media, net or water."
    first = [desk.entry(Note(text=words))]
    if sponge:
        lent = {"source": "borrowed", "share": LENT_SHARE, "donor": "healthy", "donor_salinity": home.salinity_g_kg}
        first.append(desk.entry(Bacteria.from_raw(lent)))
    with transaction(desk.conn):
        made = tanks.add(desk.conn, box, desk.now)
        journal.write_all(desk.conn, made.id, "log", f"Set up for {home.name}", first, desk.now)
    return made


def end(desk: Desk, slug: str, reason: str = "") -> tuple[Tank, tuple[Saved, ...]]:
    """Everybody moves home and the tank is shelved. Raises GateClosed with what speaks against it, unless a reason is
    given; Refused for a tank that is no quarantine."""
    box = tanks.tank(desk.conn, slug)
    if not box.quarantine_of:
        raise Refused("This is no quarantine tank.", "reason")
    home = tanks.tank(desk.conn, box.quarantine_of)
    moved = stock_book.move_all(desk, slug, home.slug, reason)
    keep_tank.shelve(desk, slug)
    return home, moved
