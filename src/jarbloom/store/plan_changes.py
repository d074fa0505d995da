"""Changes of the plan, each with the plan as it stood before: what moved and why, and how to undo it."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.errors import NotFound
from jarbloom.store import batches


@dataclass(frozen=True)
class PlanChange:
    id: int
    at: datetime
    sentence: str
    before: tuple[Batch, ...]
    undone: bool


def note(conn: sqlite3.Connection, tank_id: int, sentence: str, before: list[Batch], now: datetime) -> int:
    """Keep a change; `before` are the waiting batches as they stood."""
    row = conn.execute(
        """INSERT INTO plan_change (tank_id, at, sentence, before) VALUES (:tank, :at, :sentence, :before)
           RETURNING id""",
        {"tank": tank_id, "at": now.isoformat(), "sentence": sentence, "before": json.dumps(_plain(before))},
    ).fetchone()
    return row["id"]


def _plain(plan: list[Batch]) -> list[dict[str, Any]]:
    return [
        {
            "id": b.id, "name": b.name, "planned": b.planned.isoformat(), "locked": b.locked,
            "items": [[a.species, a.count, a.length_cm] for a in b.items],
        }
        for b in plan
    ]  # fmt: skip


def changes(conn: sqlite3.Connection, tank_id: int, most: int = 12) -> list[PlanChange]:
    """The latest changes, the newest first."""
    rows = conn.execute(
        """SELECT id, at, sentence, before, undone_at FROM plan_change
           WHERE tank_id = :tank ORDER BY id DESC LIMIT :most""",
        {"tank": tank_id, "most": most},
    )
    return [_change(row) for row in rows]


def _change(row: sqlite3.Row) -> PlanChange:
    before = tuple(
        Batch(b["id"], b["name"], date.fromisoformat(b["planned"]), tuple(Animals(*i) for i in b["items"]),
              locked=b["locked"])
        for b in json.loads(row["before"])
    )  # fmt: skip
    return PlanChange(row["id"], datetime.fromisoformat(row["at"]), row["sentence"], before, bool(row["undone_at"]))


def undo(
    conn: sqlite3.Connection, tank_id: int, change_id: int, waiting: set[int], arrived: set[int], now: datetime
) -> PlanChange:
    """Put the batches back as they stood before the newest change that is not undone yet: of those `waiting` now, and
    of those taken off since, but not of those that have `arrived`."""
    newest = next((c for c in changes(conn, tank_id, 1000) if not c.undone), None)
    if newest is None or newest.id != change_id:
        raise NotFound("Only the latest change of the plan can be undone.")
    standing = {b.id for b in newest.before}
    for batch_id in waiting - standing:
        batches.remove(conn, tank_id, batch_id, now)
    for batch in newest.before:
        if batch.id not in arrived:
            batches.restore(conn, tank_id, batch)
    conn.execute("UPDATE plan_change SET undone_at = :at WHERE id = :id", {"at": now.isoformat(), "id": change_id})
    return newest
