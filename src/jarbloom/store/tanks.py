"""Tanks and the revisions of their settings."""

from __future__ import annotations

import json
import re
import sqlite3
from datetime import datetime
from functools import lru_cache

from jarbloom.core.model.tank import Tank
from jarbloom.core.model.tank_spec import from_spec, to_spec
from jarbloom.errors import NotFound

_ALL = """
    SELECT tank.id, tank.slug, revision.spec
    FROM tank
    JOIN tank_revision AS revision
      ON revision.id = (SELECT max(id) FROM tank_revision WHERE tank_id = tank.id)
"""
_NEWEST = _ALL + "WHERE tank.archived_at IS NULL"


def _tank(row: sqlite3.Row) -> Tank:
    return _read(row["spec"], row["id"], row["slug"])


@lru_cache(64)
def _read(spec: str, tank_id: int, slug: str) -> Tank:
    return from_spec(json.loads(spec), id=tank_id, slug=slug)


def all_tanks(conn: sqlite3.Connection, shelved: bool = False) -> list[Tank]:
    """Those on the bench; with those on the shelf when asked."""
    return [_tank(row) for row in conn.execute((_ALL if shelved else _NEWEST) + " ORDER BY tank.id")]


def names(conn: sqlite3.Connection) -> list[tuple[int, str, str]]:
    """(id, slug, name) of those on the bench, without reading their settings."""
    return _names(conn, "tank.archived_at IS NULL")


def _names(conn: sqlite3.Connection, which: str) -> list[tuple[int, str, str]]:
    rows = conn.execute(
        f"""SELECT tank.id, tank.slug, revision.name
            FROM tank JOIN tank_revision AS revision
              ON revision.id = (SELECT max(id) FROM tank_revision WHERE tank_id = tank.id)
            WHERE {which} ORDER BY tank.id"""
    )
    return [(row["id"], row["slug"], row["name"]) for row in rows]


def any_tank(conn: sqlite3.Connection) -> bool:
    return conn.execute("SELECT 1 FROM tank LIMIT 1").fetchone() is not None


def tank(conn: sqlite3.Connection, slug: str) -> Tank:
    row = conn.execute(_NEWEST + " AND tank.slug = :slug", {"slug": slug}).fetchone()
    if row is None:
        raise NotFound(f"There is no tank “{slug[:60]}” here.")
    return _tank(row)


def by_id(conn: sqlite3.Connection, tank_id: int) -> Tank:
    row = conn.execute(_NEWEST + " AND tank.id = :id", {"id": tank_id}).fetchone()
    if row is None:
        raise NotFound("That tank is not here any more.")
    return _tank(row)


def free_slug(conn: sqlite3.Connection, name: str) -> str:
    """An address made of the name; a number is put behind when it is taken."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "tank"
    taken = {row["slug"] for row in conn.execute("SELECT slug FROM tank")}
    slug, n = base, 2
    while slug in taken:
        slug, n = f"{base}-{n}", n + 1
    return slug


def add(conn: sqlite3.Connection, new: Tank, now: datetime) -> Tank:
    slug = free_slug(conn, new.name)
    row = conn.execute(
        "INSERT INTO tank (slug, created_at) VALUES (:slug, :at) RETURNING id", {"slug": slug, "at": now.isoformat()}
    ).fetchone()
    save_revision(conn, row["id"], new, now)
    return tank(conn, slug)


def save_revision(conn: sqlite3.Connection, tank_id: int, settings: Tank, now: datetime) -> None:
    conn.execute(
        "INSERT INTO tank_revision (tank_id, saved_at, name, spec) VALUES (:tank_id, :saved_at, :name, :spec)",
        {
            "tank_id": tank_id,
            "saved_at": now.isoformat(),
            "name": settings.name,
            "spec": json.dumps(to_spec(settings), allow_nan=False),
        },
    )


def revisions(conn: sqlite3.Connection, tank_id: int) -> int:
    return conn.execute("SELECT count(*) FROM tank_revision WHERE tank_id = ?", (tank_id,)).fetchone()[0]


def newest_revision(conn: sqlite3.Connection, tank_id: int) -> int:
    return conn.execute("SELECT max(id) FROM tank_revision WHERE tank_id = ?", (tank_id,)).fetchone()[0] or 0


def at_revision(conn: sqlite3.Connection, tank_id: int, revision: int) -> Tank | None:
    """The settings as a revision kept them; None where this tank has no such."""
    row = conn.execute(
        """SELECT tank.id, tank.slug, revision.spec
           FROM tank_revision AS revision JOIN tank ON tank.id = revision.tank_id
           WHERE revision.tank_id = :tank_id AND revision.id = :id""",
        {"tank_id": tank_id, "id": revision},
    ).fetchone()
    return None if row is None else _tank(row)


def earlier(conn: sqlite3.Connection, tank_id: int) -> Tank | None:
    """The settings before the newest, for undo."""
    row = conn.execute(
        """SELECT tank.id, tank.slug, revision.spec
           FROM tank_revision AS revision JOIN tank ON tank.id = revision.tank_id
           WHERE revision.tank_id = :tank_id ORDER BY revision.id DESC LIMIT 1 OFFSET 1""",
        {"tank_id": tank_id},
    ).fetchone()
    return None if row is None else _tank(row)


def archive(conn: sqlite3.Connection, tank_id: int, now: datetime | None) -> None:
    """Take a tank off the bench, or put it back (None). Its record stays whole."""
    conn.execute(
        "UPDATE tank SET archived_at = :at WHERE id = :id", {"at": now.isoformat() if now else None, "id": tank_id}
    )


def archived(conn: sqlite3.Connection) -> list[tuple[int, str, str]]:
    """(id, slug, name) of tanks that were taken off the bench."""
    return _names(conn, "tank.archived_at IS NOT NULL")
