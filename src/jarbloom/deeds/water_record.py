"""Readings of the house's waters that stand in a tank's log: a line like 'tap ph 8.2 kh 6' goes to that water's record,
and what was read in a bag to the arrival."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import timedelta
from typing import Any

from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.line.elsewhere import figures_elsewhere
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Source, Tank, Water
from jarbloom.deeds.desk import Desk
from jarbloom.store import house

OF_SOURCE: Mapping[str, str] = {
    "ph": "ph", "kh": "kh_dkh", "ammonia": "ammonia_mg_n_l", "nitrate": "nitrate_mg_n_l", "gh": "gh_dgh",
    "tds": "tds_mg_l", "phosphate": "phosphate_mg_l", "chlorine": "chlorine_mg_l",
}  # fmt: skip
NEW = {"tap": "Tap", "ro": "Osmosis", "rain": "Rain", "well": "Well"}
PURE = Source(ph=7.0, kh_dkh=0.0, nitrate_mg_n_l=0.0, chlorine="none")  # osmosis and rain, until they are read
BAG_FOR, MOST_NOTES = timedelta(hours=12), 40


def record_of(desk: Desk, tank: Tank) -> Water | None:
    """The record of the water that a tank is filled from: the one of that name, else the only tap; None for none."""
    waters = house.waters(desk.conn)
    if tank.source.name:
        return next((w for w in waters if w.name == tank.source.name), None)
    taps = [w for w in waters if w.kind == "tap"]
    return taps[0] if len(taps) == 1 else None


def read_in(desk: Desk, tank: Tank, setting: Setting, new: Sequence[Entry]) -> list[tuple[int, Water]]:
    """What entries still to be written read in tap, osmosis, rain or well: the place of the entry, and the record of
    that water with it. Nothing where several of that kind are on record and none of them is this tank's, or where a
    later reading stands already: then the note alone is kept."""
    found = []
    for k, entry in enumerate(new):
        for kind, values in _figures(entry, setting).items():
            water = _with(desk, tank, kind, values, entry) if kind in NEW else None
            if water is not None:
                found.append((k, water))
    return found


def keep(desk: Desk, read: Sequence[tuple[int, Water]], ids: Sequence[int]) -> None:
    """Each as a revision of its water that stands as long as its entry does."""
    for k, water in read:
        house.save_water(desk.conn, water, desk.now, ids[k])


def _figures(entry: Entry, setting: Setting) -> Mapping[str, Mapping[str, float]]:
    text = entry.body.text if isinstance(entry.body, Note) else entry.note
    return figures_elsewhere(text, entry.at, setting) if text else {}


def _with(desk: Desk, tank: Tank, kind: str, values: Mapping[str, float], entry: Entry) -> Water | None:
    told: dict[str, Any] = {OF_SOURCE[q]: v for q, v in values.items() if q in OF_SOURCE}
    of_kind = [w for w in house.waters(desk.conn) if w.kind == kind]
    water = next((w for w in of_kind if w.name == tank.source.name), of_kind[0] if len(of_kind) == 1 else None)
    if water is None and not of_kind:
        own = tank.source if kind == "tap" and not tank.source.name else (Source() if kind == "tap" else PURE)
        water = Water(NEW[kind], kind, replace(own, name=NEW[kind]))
    if water is None or not told or (water.measured_on is not None and water.measured_on > entry.day):
        return None
    return replace(water, source=replace(water.source, **told), measured_on=entry.day)


def bag_lately(desk: Desk, setting: Setting, entries: Iterable[Entry]) -> Mapping[str, float]:
    """What notes of the last hours read in a bag, the later ones over the earlier."""
    found: dict[str, float] = {}
    for entry in entries:
        if timedelta() <= desk.now - entry.at <= BAG_FOR:
            found |= _figures(entry, setting).get("bag", {})
    return found
