"""Source waters and instruments of the house, with their revisions: nothing that was once saved is lost."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict
from datetime import date, datetime
from typing import Any

from jarbloom.core.model.tank import Instrument, Source, Water
from jarbloom.errors import NotFound

# A revision that a line of a log made stands as long as that entry does
_STANDS = """(entry_id IS NULL OR (SELECT live FROM mark WHERE mark.entry_id = house_revision.entry_id
                                   ORDER BY mark.id DESC LIMIT 1))"""
_NEWEST = f"""
    SELECT thing.id, revision.name, revision.spec, revision.entry_id
    FROM house_thing AS thing
    JOIN house_revision AS revision
      ON revision.id = (SELECT max(id) FROM house_revision WHERE thing_id = thing.id AND {_STANDS})
    WHERE thing.kind = :kind AND thing.removed_at IS NULL
    ORDER BY thing.id
"""


_AT = """
    SELECT thing.id, revision.name, revision.spec, revision.entry_id
    FROM house_thing AS thing JOIN house_revision AS revision ON revision.thing_id = thing.id
    WHERE thing.kind = :kind AND revision.id = :revision
"""


def _day(text: str | None) -> date | None:
    return date.fromisoformat(text) if text else None


def waters(conn: sqlite3.Connection) -> list[Water]:
    return [_water(row) for row in conn.execute(_NEWEST, {"kind": "water"})]


def _water(row: sqlite3.Row) -> Water:
    spec = json.loads(row["spec"])
    source = Source(**spec["source"])
    return Water(
        row["name"], spec["kind"], source, _day(spec["measured_on"]), spec["note"], row["id"],
        row["entry_id"] is not None,
    )  # fmt: skip


def water_at(conn: sqlite3.Connection, revision: int) -> Water | None:
    """A water as a revision kept it."""
    row = conn.execute(_AT, {"kind": "water", "revision": revision}).fetchone()
    return None if row is None else _water(row)


def water(conn: sqlite3.Connection, water_id: int) -> Water:
    found = next((w for w in waters(conn) if w.id == water_id), None)
    if found is None:
        raise NotFound("There is no such water on record.")
    return found


def newest_revision(conn: sqlite3.Connection, thing_id: int) -> int:
    found = conn.execute(f"SELECT max(id) FROM house_revision WHERE thing_id = ? AND {_STANDS}", (thing_id,))
    return found.fetchone()[0] or 0


def instruments(conn: sqlite3.Connection) -> list[Instrument]:
    return [_instrument(row) for row in conn.execute(_NEWEST, {"kind": "instrument"})]


def _instrument(row: sqlite3.Row) -> Instrument:
    spec = json.loads(row["spec"])
    return Instrument(row["name"], spec["kind"], _day(spec["calibrated_on"]), spec["calibrated_at_c"], row["id"])


def instrument_at(conn: sqlite3.Connection, revision: int) -> Instrument | None:
    """An instrument as a revision kept it."""
    row = conn.execute(_AT, {"kind": "instrument", "revision": revision}).fetchone()
    return None if row is None else _instrument(row)


def save_water(conn: sqlite3.Connection, water: Water, now: datetime, entry_id: int | None = None) -> int:
    """`entry_id`: the entry of a log that read it, where one did."""
    spec = {
        "kind": water.kind,
        "source": asdict(water.source),
        "measured_on": water.measured_on.isoformat() if water.measured_on else None,
        "note": water.note,
    }
    return _save(conn, "water", water.id, water.name, spec, now, entry_id)


def save_instrument(conn: sqlite3.Connection, one: Instrument, now: datetime) -> int:
    spec = {
        "kind": one.kind,
        "calibrated_on": one.calibrated_on.isoformat() if one.calibrated_on else None,
        "calibrated_at_c": one.calibrated_at_c,
    }
    return _save(conn, "instrument", one.id, one.name, spec, now)


def _save(
    conn: sqlite3.Connection, kind: str, thing_id: int, name: str, spec: dict[str, Any], now: datetime,
    entry_id: int | None = None,
) -> int:  # fmt: skip
    if not thing_id:
        row = conn.execute("INSERT INTO house_thing (kind) VALUES (:kind) RETURNING id", {"kind": kind}).fetchone()
        thing_id = row["id"]
    conn.execute(
        """INSERT INTO house_revision (thing_id, saved_at, name, spec, entry_id)
           VALUES (:thing, :at, :name, :spec, :entry)""",
        {
            "thing": thing_id,
            "at": now.isoformat(),
            "name": name,
            "spec": json.dumps(spec, allow_nan=False),
            "entry": entry_id,
        },
    )
    return thing_id


def remove(conn: sqlite3.Connection, thing_id: int, now: datetime | None) -> None:
    """Take a thing off the lists, or put it back (None)."""
    conn.execute(
        "UPDATE house_thing SET removed_at = :at WHERE id = :id",
        {"at": now.isoformat() if now else None, "id": thing_id},
    )


def removed(conn: sqlite3.Connection) -> list[tuple[int, str]]:
    rows = conn.execute(
        f"""SELECT thing.id, revision.name FROM house_thing AS thing
           JOIN house_revision AS revision
             ON revision.id = (SELECT max(id) FROM house_revision WHERE thing_id = thing.id AND {_STANDS})
           WHERE thing.removed_at IS NOT NULL ORDER BY thing.id"""
    )
    return [(row["id"], row["name"]) for row in rows]
