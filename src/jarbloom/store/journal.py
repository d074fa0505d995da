"""The journal: entries written once, acts, and the marks that say what is live."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import QUANTITIES, Reading
from jarbloom.errors import NotFound


@dataclass(frozen=True)
class Act:
    """Something a person did to the journal. `undone` when a later act took it back."""

    id: int
    tank_id: int
    kind: str
    at: datetime
    sentence: str
    undoes: int | None
    undone: bool


def new_act(
    conn: sqlite3.Connection, tank_id: int, kind: str, at: datetime, sentence: str, undoes: int | None = None
) -> int:
    row = conn.execute(
        """INSERT INTO act (tank_id, kind, at, sentence, undoes)
           VALUES (:tank_id, :kind, :at, :sentence, :undoes) RETURNING id""",
        {"tank_id": tank_id, "kind": kind, "at": at.isoformat(), "sentence": sentence, "undoes": undoes},
    ).fetchone()
    return row["id"]


def act(conn: sqlite3.Connection, tank_id: int, act_id: int) -> Act:
    row = conn.execute(
        """SELECT id, tank_id, kind, at, sentence, undoes,
                  EXISTS (SELECT 1 FROM act AS later WHERE later.undoes = act.id) AS undone
           FROM act WHERE id = :id AND tank_id = :tank_id""",
        {"id": act_id, "tank_id": tank_id},
    ).fetchone()
    if row is None:
        raise NotFound("That was not found in this tank's log.")
    return _act(row)


def latest_acts(conn: sqlite3.Connection, tank_id: int, most: int = 20) -> list[Act]:
    rows = conn.execute(
        """SELECT id, tank_id, kind, at, sentence, undoes,
                  EXISTS (SELECT 1 FROM act AS later WHERE later.undoes = act.id) AS undone
           FROM act WHERE tank_id = :tank_id ORDER BY id DESC LIMIT :most""",
        {"tank_id": tank_id, "most": most},
    )
    return [_act(row) for row in rows]


def _act(row: sqlite3.Row) -> Act:
    at = datetime.fromisoformat(row["at"])
    return Act(row["id"], row["tank_id"], row["kind"], at, row["sentence"], row["undoes"], bool(row["undone"]))


def mark(conn: sqlite3.Connection, act_id: int, entry_id: int, live: bool) -> None:
    conn.execute(
        "INSERT INTO mark (act_id, entry_id, live) VALUES (:act_id, :entry_id, :live)",
        {"act_id": act_id, "entry_id": entry_id, "live": int(live)},
    )


def marks_of(conn: sqlite3.Connection, act_id: int) -> list[tuple[int, bool]]:
    rows = conn.execute("SELECT entry_id, live FROM mark WHERE act_id = ? ORDER BY id", (act_id,))
    return [(row["entry_id"], bool(row["live"])) for row in rows]


def write(conn: sqlite3.Connection, tank_id: int, act_id: int, entry: Entry, now: datetime, live: bool = True) -> int:
    """Write one entry and its first mark; returns its id."""
    row = conn.execute(
        """INSERT INTO entry (tank_id, act_id, kind, at, at_utc, zone, who, note, body, supersedes, recorded_at)
           VALUES (:tank_id, :act_id, :kind, :at, :at_utc, :zone, :who, :note, :body, :supersedes, :recorded_at)
           RETURNING id""",
        {
            "tank_id": tank_id,
            "act_id": act_id,
            "kind": entry.kind,
            "at": entry.at.isoformat(),
            "at_utc": int(entry.at.timestamp()),
            "zone": entry.zone,
            "who": entry.who,
            "note": entry.note,
            "body": json.dumps(entry.body, allow_nan=False),
            "supersedes": entry.supersedes,
            "recorded_at": (entry.recorded_at or now).isoformat(),
        },
    ).fetchone()
    entry_id = row["id"]
    conn.executemany(
        """INSERT INTO reading (entry_id, quantity, typed, seen, low, high,
                                outer_low, outer_high, form, misread, n_steps, masked)
           VALUES (:entry_id, :quantity, :typed, :seen, :low, :high,
                   :outer_low, :outer_high, :form, :misread, :n_steps, :masked)""",
        [{"entry_id": entry_id, **vars(reading)} for reading in entry.readings],
    )
    mark(conn, act_id, entry_id, live)
    return entry_id


_ENTRIES = """
    SELECT entry.id, entry.act_id, entry.kind, entry.at, entry.zone, entry.who, entry.note, entry.body,
           entry.supersedes, entry.recorded_at,
           (SELECT live FROM mark WHERE mark.entry_id = entry.id ORDER BY mark.id DESC LIMIT 1) AS live,
           EXISTS (SELECT 1 FROM entry AS newer WHERE newer.supersedes = entry.id
                   AND (SELECT live FROM mark WHERE mark.entry_id = newer.id ORDER BY mark.id DESC LIMIT 1) = 1)
             AS replaced
    FROM entry
"""


def entries(conn: sqlite3.Connection, tank_id: int, *, live_only: bool = True) -> list[Entry]:
    """Entries of a tank in the order in which things happened; also void and superseded ones when asked."""
    rows = conn.execute(_ENTRIES + " WHERE entry.tank_id = :t ORDER BY entry.at_utc, entry.id", {"t": tank_id})
    kept = [row for row in rows if row["live"] or not live_only]
    found = _readings(conn, tank_id)
    return [_entry(row, found.get(row["id"], ())) for row in kept]


def entry(conn: sqlite3.Connection, tank_id: int, entry_id: int) -> Entry:
    row = conn.execute(
        _ENTRIES + " WHERE entry.tank_id = :t AND entry.id = :id", {"t": tank_id, "id": entry_id}
    ).fetchone()
    if row is None:
        raise NotFound("That entry was not found in this tank's log.")
    return _entry(row, _readings(conn, tank_id).get(entry_id, ()))


def _readings(conn: sqlite3.Connection, tank_id: int) -> dict[int, tuple[Reading, ...]]:
    rows = conn.execute(
        """SELECT reading.entry_id, quantity, typed, seen, low, high, outer_low, outer_high, form, misread, n_steps,
                  masked
           FROM reading JOIN entry ON entry.id = reading.entry_id
           WHERE entry.tank_id = :t""",
        {"t": tank_id},
    )
    found: dict[int, list[Reading]] = {}
    for row in rows:
        values = dict(row) | {"masked": bool(row["masked"])}
        found.setdefault(values.pop("entry_id"), []).append(Reading(**values))
    return {key: tuple(sorted(rs, key=lambda r: QUANTITIES.index(r.quantity))) for key, rs in found.items()}


def _entry(row: sqlite3.Row, readings: Sequence[Reading]) -> Entry:
    state = "live" if row["live"] else ("superseded" if row["replaced"] else "void")
    return Entry(
        kind=row["kind"],
        at=datetime.fromisoformat(row["at"]),
        body=json.loads(row["body"]),
        readings=tuple(readings),
        note=row["note"],
        who=row["who"],
        zone=row["zone"],
        id=row["id"],
        state=state,
        supersedes=row["supersedes"],
        recorded_at=datetime.fromisoformat(row["recorded_at"]),
        act=row["act_id"],
    )


def write_all(
    conn: sqlite3.Connection, tank_id: int, kind: str, sentence: str, new: Iterable[Entry], now: datetime
) -> tuple[int, list[int]]:
    """One act with its entries; returns the act's id and the entries' ids."""
    act_id = new_act(conn, tank_id, kind, now, sentence)
    return act_id, [write(conn, tank_id, act_id, e, now) for e in new]
