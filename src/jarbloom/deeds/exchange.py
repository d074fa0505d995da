"""Bundles in and out of the database, and advice on a bundle without one."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, time
from pathlib import Path
from typing import IO, Any
from zoneinfo import ZoneInfo

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import TankSeen, situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.bloom import forecast as bloom
from jarbloom.core.bloom.ensemble import known_by, prepare
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.whatif import Future, compare
from jarbloom.core.journal.kinds.animals import AboutAnimals
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.photo import Photo
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.look import days_of
from jarbloom.errors import BadBundle
from jarbloom.formats.bundle import Bundle, read_bundle, write, zip_into
from jarbloom.formats.house_zip import House, house_zip, is_house, read_house
from jarbloom.formats.photo_pack import photos_in
from jarbloom.formats.picture import small_of
from jarbloom.formats.what_if import read_what_ifs
from jarbloom.store import batches, house, journal, own_species, photo_files, tanks
from jarbloom.store.db import transaction
from jarbloom.store.secret_file import folder_of
from jarbloom.units import Units

NOON = time(12)


def export(desk: Desk, slug: str, to: Path) -> None:
    """Everything of a tank: settings, plan, and the whole journal with its struck entries."""
    write(bundle_of(desk, tanks.tank(desk.conn, slug)), to)


def bundle_of(desk: Desk, tank: Tank) -> Bundle:
    live = desk.log(tank.id)
    whole = journal.entries(desk.conn, tank.id, live_only=False, zone=desk.preferences.tz)
    plan = tuple(batches.batches(desk.conn, tank.id, live))
    own, photos = _own_named(desk, whole, plan), _photos_named(desk, whole)
    return Bundle(tank, tuple(whole), plan, own, desk.preferences.zone, photos)


IN_MEMORY = 20_000_000  # bytes; a larger export is written to a temporary file


def export_zip(desk: Desk, slug: str) -> IO[bytes]:
    """The same as an open zip, to be read from its beginning and closed."""
    out = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115  whoever asked closes it
    zip_into(bundle_of(desk, tanks.tank(desk.conn, slug)), out)
    out.seek(0)
    return out


def export_house(desk: Desk) -> IO[bytes]:
    """Every tank, those on the shelf too, with waters, instruments and photos, as an open zip. Secrets do not leave the
    house."""
    shelved = {slug for _, slug, _ in tanks.archived(desk.conn)}
    bundles = {t.slug: (bundle_of(desk, t), t.slug in shelved) for t in tanks.all_tanks(desk.conn, shelved=True)}
    things = House((), tuple(house.waters(desk.conn)), tuple(house.instruments(desk.conn)))
    out = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115  whoever asked closes it
    house_zip(bundles, things, desk.now, out)
    out.seek(0)
    return out


def _photos_named(desk: Desk, entries: Sequence[Entry]) -> dict[str, Path]:
    """Files of the photos that entries name, as far as they are there."""
    folder = folder_of(desk.conn)
    if folder is None:
        return {}
    names = dict.fromkeys(e.body.file for e in entries if isinstance(e.body, Photo))
    return {n: file for n in names if (file := photo_files.find(folder, n)) is not None}


def _take_photos(desk: Desk, path: Path) -> None:
    """Before any entry that names them: what is kept in vain harms nothing."""
    folder = folder_of(desk.conn)
    for _, content in photos_in(path):
        if folder is not None:
            photo_files.put(folder, content, small_of(content))


def _own_named(desk: Desk, entries: Sequence[Entry], plan: Sequence[Batch]) -> dict[str, dict[str, str]]:
    """The keeper's own species that log and plan name: without them a bundle would not say what lived there."""
    named = {e.body.species for e in entries if isinstance(e.body, AboutAnimals)}
    named |= {a.species for b in plan for a in b.items}
    return {r.key: r.cells for r in own_species.rows(desk.conn) if r.key in named}


def write_house(desk: Desk, to: Path) -> None:
    """Never writes over anything."""
    if to.exists():
        raise BadBundle(f"{to} is there already; an export never writes over anything.")
    with export_house(desk) as packed, to.open("xb") as file:
        shutil.copyfileobj(packed, file)


def bring_in(desk: Desk, path: Path) -> Tank:
    """A bundle as a new tank. One transaction; states and corrections are kept."""
    bundle = read_bundle(path, desk.reference, desk.now)
    _take_photos(desk, path)
    return _take(desk, bundle)


def bring_in_any(desk: Desk, path: Path) -> list[Tank]:
    """The tank of a bundle, or all tanks, waters and instruments of a house, in one transaction: all or nothing. What
    is on record here under the same name and says the same is not taken twice."""
    if not is_house(path):
        return [bring_in(desk, path)]
    found = read_house(path, desk.reference, desk.now)
    _take_photos(desk, path)
    with transaction(desk.conn):
        made = []
        for bundle, shelved in found.tanks:
            tank = _take(desk, bundle)
            made.append(tank)
            if shelved:
                tanks.archive(desk.conn, tank.id, desk.now)
        here = [replace(w, id=0, by_log=False) for w in house.waters(desk.conn)]
        for water in found.waters:
            if water not in here:
                house.save_water(desk.conn, water, desk.now)
        known = [replace(i, id=0) for i in house.instruments(desk.conn)]
        for one in found.instruments:
            if one not in known:
                house.save_instrument(desk.conn, one, desk.now)
    return made


def _take(desk: Desk, bundle: Bundle) -> Tank:
    with transaction(desk.conn):
        key_here = _take_own(desk, bundle)
        tank = tanks.add(desk.conn, bundle.tank, desk.now)
        new_batch = {}
        for b in bundle.batches:
            new_batch[b.id] = batches.add(desk.conn, tank.id, b.name, b.planned)
            if b.locked:
                batches.lock(desk.conn, tank.id, new_batch[b.id], True)
            for a in b.items:
                species = key_here.get(a.species, a.species)
                batches.set_count(desk.conn, new_batch[b.id], species, a.count, a.length_cm)
        act = journal.new_act(desk.conn, tank.id, "import", desk.now, f"Brought in {len(bundle.entries)} entries")
        new_id: dict[int, int] = {}
        for e in sorted(bundle.entries, key=lambda e: e.id):
            known = new_id.get(e.supersedes) if e.supersedes else None
            kept = replace(e, body=_renamed(e.body, new_batch, key_here, new_id), supersedes=known)
            new_id[e.id] = journal.write(desk.conn, tank.id, act, kept, desk.now, live=e.state == "live")
    return tank


def _renamed(
    body: Body, batch_here: Mapping[int, int], key_here: Mapping[str, str], entry_here: Mapping[int, int]
) -> Body:
    """What an entry names by number or key, as it is called here; what did not come along is named no more."""
    if not isinstance(body, AboutAnimals):
        return body
    changed: dict[str, Any] = {"species": key_here.get(body.species, body.species)}
    for name, here in (("batch", batch_here), ("group", entry_here), ("first", entry_here)):
        named = getattr(body, name, None)
        if named is not None:
            changed[name] = here.get(named)
    return body.changed(**changed)


def _take_own(desk: Desk, bundle: Bundle) -> dict[str, str]:
    """Own species of the bundle that are not known here, kept; one that is known by the same key but says something
    else is kept beside it. Returns the key here of each whose key had to change."""
    kept, changed = {r.key: r.cells for r in own_species.rows(desk.conn)}, {}
    for key, cells in bundle.own.items():
        if kept.get(key) == dict(cells):
            continue
        here = key
        while here in kept or here in desk.reference.species:
            here += "_2"
        name = cells["name"] if here == key else f"{cells['name']} ({bundle.tank.name})"
        own_species.save(desk.conn, here, {**cells, "key": here, "name": name}, desk.now)
        kept[here] = dict(cells)
        if here != key:
            changed[key] = here
    return changed


@dataclass(frozen=True)
class Known:
    """A bundle at a moment: what was known by then, and the plan as it stood."""

    tank: Tank
    entries: Log
    plan: tuple[Batch, ...]
    as_of: datetime
    reference: Reference  # with the species that the bundle brings along


def ask_bundle(path: Path, reference: Reference, as_of: datetime | None, zone: str) -> Known:
    """Nothing dated later than `as_of` (by default the last entry) is read. Days are counted in the zone that the
    bundle names, else in `zone`, that of whoever asks."""
    bundle = read_bundle(path, reference)
    here = ZoneInfo(bundle.zone or zone)
    if as_of is None:
        as_of = max((e.at for e in bundle.entries), default=datetime.combine(bundle.tank.started, NOON))
    as_of = as_of.replace(tzinfo=here) if as_of.tzinfo is None else as_of.astimezone(here)
    entries = known_by(bundle.entries, as_of)
    arrived = {e.body.batch for e in entries.kinds(Arrival)}
    plan = tuple(b if b.id in arrived else replace(b, arrived=None) for b in bundle.batches)
    return Known(bundle.tank, entries, plan, as_of, replace(reference, species=bundle.known(reference.species)))


def advise_bundle(path: Path, reference: Reference, as_of: datetime | None = None, zone: str = "UTC") -> TankSeen:
    """What the tank page would show for a bundle at a date; always the same answer."""
    a = ask_bundle(path, reference, as_of, zone)
    ensemble = prepare(a.tank, a.entries, a.as_of, a.reference)
    made = bloom.summarise(ensemble, [b for b in a.plan if b.arrived is None])
    found = situation(a.tank, a.entries, a.plan, made, a.reference, Units())
    found = situation(a.tank, a.entries, a.plan, made, a.reference, Units(), days=days_of(found, ensemble))
    return TankSeen(found, verdict(found), jobs(found))


def what_if_bundle(
    path: Path, file: Path, reference: Reference, as_of: datetime | None = None, zone: str = "UTC"
) -> tuple[Forecast, tuple[Future, ...]]:
    """The forecast of a bundle, and its futures: as planned first, then each what-if of the file."""
    a = ask_bundle(path, reference, as_of, zone)
    what_ifs = read_what_ifs(file, a.tank, dict(a.reference.species), a.as_of)
    ensemble = prepare(a.tank, a.entries, a.as_of, a.reference)
    waiting = [b for b in a.plan if b.arrived is None]
    return bloom.summarise(ensemble, waiting), compare(ensemble, what_ifs, waiting)
