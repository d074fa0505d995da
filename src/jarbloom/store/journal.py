"""The journal: entries written once, acts, and the marks that say what is live."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, tzinfo
from typing import Any

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.damaged import Damaged
from jarbloom.core.journal.kinds.field import NOTE_MAX
from jarbloom.core.journal.kinds.kind import Kind
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.entry import Entry
from jarbloom.errors import NotFound, Refused


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


@dataclass(frozen=True)
class Mark:
    """What an act did to an entry, and how the entry stands now."""

    entry_id: int
    live: bool
    live_now: bool


def marks_of(conn: sqlite3.Connection, act_id: int) -> list[Mark]:
    rows = conn.execute(
        """SELECT entry_id, live,
                  (SELECT live FROM mark AS last WHERE last.entry_id = mark.entry_id ORDER BY last.id DESC LIMIT 1)
                    AS live_now
           FROM mark WHERE act_id = ? ORDER BY id""",
        (act_id,),
    )
    return [Mark(row["entry_id"], bool(row["live"]), bool(row["live_now"])) for row in rows]


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
            "body": json.dumps(entry.body.to_json(), allow_nan=False),
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
    SELECT entry.id, entry.act_id, entry.kind, entry.at, entry.at_utc, entry.zone, entry.who, entry.note, entry.body,
           entry.supersedes, entry.recorded_at,
           (SELECT live FROM mark WHERE mark.entry_id = entry.id ORDER BY mark.id DESC LIMIT 1) AS live
    FROM entry
"""


def entries(
    conn: sqlite3.Connection, tank_id: int, *, live_only: bool = True, zone: tzinfo | None = None
) -> list[Entry]:
    """Entries of a tank in the order in which things happened, as the clock of `zone` shows them; also void and
    superseded ones when asked. One that cannot be read comes back as damaged."""
    rows = conn.execute(_ENTRIES + " WHERE entry.tank_id = :t ORDER BY entry.at_utc, entry.id", {"t": tank_id})
    kept = [row for row in rows if row["live"] or not live_only]
    states = _states(kept)
    found = _readings(conn, "entry.tank_id = :id", tank_id)
    return [_entry(row, found.get(row["id"], []), states[row["id"]], zone) for row in kept]


@dataclass(frozen=True)
class News:
    """What acts have done to a tank's journal: what lives now that was touched, and what no longer does."""

    came: tuple[Entry, ...]
    gone: frozenset[int]


def news(conn: sqlite3.Connection, tank_id: int, before: Stamp, zone: tzinfo | None) -> News | None:
    """What was done since a stamp, which is a few rows however long the journal is. None where the journal does not go
    on from that stamp: another file lies there, or an older one."""
    act = before[3:]
    goes_on = """SELECT 1 FROM pragma_database_list AS list, file_mark, act
                 WHERE list.name = 'main' AND list.file = ? AND file_mark.id = ? AND act.tank_id = ?
                   AND act.id = ? AND act.at = ?"""
    if not act or before[2] != tank_id or not conn.execute(goes_on, before).fetchone():
        return None
    rows = conn.execute(
        _ENTRIES
        + """ WHERE entry.id IN (SELECT mark.entry_id FROM act JOIN mark ON mark.act_id = act.id
                                 WHERE act.tank_id = :t AND act.id > :act)
              ORDER BY entry.at_utc, entry.id""",
        {"t": tank_id, "act": act[0]},
    ).fetchall()
    came = tuple(
        _entry(row, _readings(conn, "entry.id = :id", row["id"]).get(row["id"], []), "live", zone)
        for row in rows
        if row["live"]
    )
    return News(came, frozenset(row["id"] for row in rows if not row["live"]))


def fewer_than(conn: sqlite3.Connection, tank_id: int, n: int) -> bool:
    """Whether the log of a tank is shorter than that, struck entries and corrections too."""
    found = conn.execute("SELECT 1 FROM entry WHERE tank_id = :tank LIMIT :n", {"tank": tank_id, "n": n}).fetchall()
    return len(found) < n


def entry(conn: sqlite3.Connection, tank_id: int, entry_id: int, zone: tzinfo | None = None) -> Entry:
    row = conn.execute(
        _ENTRIES + " WHERE entry.tank_id = :t AND entry.id = :id", {"t": tank_id, "id": entry_id}
    ).fetchone()
    if row is None:
        raise NotFound("That entry was not found in this tank's log.")
    state = "live" if row["live"] else ("superseded" if _replaced(conn, entry_id) else "void")
    return _entry(row, _readings(conn, "entry.id = :id", entry_id).get(entry_id, []), state, zone)


Stamp = tuple[object, ...]


def stamp(conn: sqlite3.Connection, tank_id: int) -> Stamp:
    """Tells one state of a tank's journal from another: the file, and the last act in it."""
    found = conn.execute(
        """SELECT list.file, file_mark.id AS mark, last.id, last.at
           FROM pragma_database_list AS list, file_mark
           LEFT JOIN (SELECT id, at FROM act WHERE tank_id = :t ORDER BY id DESC LIMIT 1) AS last
           WHERE list.name = 'main'""",
        {"t": tank_id},
    ).fetchone()
    last = (found["id"], found["at"]) if found["id"] is not None else ()
    return (found["file"], found["mark"], tank_id, *last)


def _states(rows: Sequence[sqlite3.Row]) -> dict[int, str]:
    """live; superseded where a correction of it, or a correction of that one, is live; else void."""
    states: dict[int, str] = {}
    replaced: set[int] = set()
    for row in sorted(rows, key=lambda r: r["id"], reverse=True):  # a correction is written after what it corrects
        states[row["id"]] = "live" if row["live"] else ("superseded" if row["id"] in replaced else "void")
        if row["supersedes"] is not None and states[row["id"]] != "void":
            replaced.add(row["supersedes"])
    return states


def _replaced(conn: sqlite3.Connection, entry_id: int) -> bool:
    return bool(
        conn.execute(
            """WITH RECURSIVE newer (id) AS (
                 SELECT id FROM entry WHERE supersedes = :id
                 UNION SELECT entry.id FROM entry JOIN newer ON entry.supersedes = newer.id)
               SELECT EXISTS (SELECT 1 FROM newer WHERE
                 (SELECT live FROM mark WHERE mark.entry_id = newer.id ORDER BY mark.id DESC LIMIT 1) = 1)""",
            {"id": entry_id},
        ).fetchone()[0]
    )


def _readings(conn: sqlite3.Connection, where: str, key: int) -> dict[int, list[dict[str, Any]]]:
    """Fields of the readings of one entry or of a tank's, by entry."""
    rows = conn.execute(
        f"""SELECT reading.entry_id, quantity, typed, seen, low, high, outer_low, outer_high, form, misread, n_steps,
                  masked
           FROM reading JOIN entry ON entry.id = reading.entry_id
           WHERE {where}""",
        {"id": key},
    )
    found: dict[int, list[dict[str, Any]]] = {}
    for row in rows:
        values = dict(row) | {"masked": bool(row["masked"])}
        found.setdefault(values.pop("entry_id"), []).append(values)
    return found


def _entry(row: sqlite3.Row, readings: list[dict[str, Any]], state: str, zone: tzinfo | None) -> Entry:
    at = _moment(row["at"]) or datetime.fromtimestamp(row["at_utc"], UTC)
    return Entry(
        _body(row["kind"], row["body"], readings),
        at if zone is None else at.astimezone(zone),
        note=row["note"],
        who=row["who"],
        zone=row["zone"],
        id=row["id"],
        state=state,
        supersedes=row["supersedes"],
        recorded_at=_moment(row["recorded_at"]),
        act=row["act_id"],
    )


def _body(kind: str, stored: str, readings: list[dict[str, Any]]) -> Kind:
    """What an entry says. Whatever no form would have let in is damaged: no page may fail because of it."""
    try:
        if kind not in KINDS:
            raise Refused(f"“{kind[:40]}” is no kind of entry.", "kind")
        if kind == Tested.key:
            return Tested.stored(readings)
        return KINDS[kind].from_json(json.loads(stored))
    except (Refused, ValueError, TypeError, OverflowError) as problem:
        held = stored if not readings else f"{stored} {json.dumps(readings, default=str)}"
        why = problem.sentence if isinstance(problem, Refused) else "its stored text is not what was written."
        return Damaged(was=kind[:200], held=held[:NOTE_MAX], problem=why[:2000])


def _moment(text: str) -> datetime | None:
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        return None
    return at if at.tzinfo else at.replace(tzinfo=UTC)


def write_all(
    conn: sqlite3.Connection, tank_id: int, kind: str, sentence: str, new: Iterable[Entry], now: datetime
) -> tuple[int, list[int]]:
    """One act with its entries; returns the act's id and the entries' ids."""
    act_id = new_act(conn, tank_id, kind, now, sentence)
    return act_id, [write(conn, tank_id, act_id, e, now) for e in new]
