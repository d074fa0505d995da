"""The rows of a log: a line for each entry, out and in (docs/formats.md)."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import asdict
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.animals import AboutAnimals
from jarbloom.core.journal.kinds.damaged import Damaged
from jarbloom.core.journal.kinds.field import MOST_ID, NOTE_MAX
from jarbloom.core.journal.kinds.kind import Kind
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.times import check_not_future
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import QUANTITIES
from jarbloom.core.model.species import Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l
from jarbloom.errors import BadBundle, Refused
from jarbloom.units import Units

# The order in which the columns have stood from the first version on; what kinds of entry add stands behind.
_ORDER = (
    "amount", "unit", "species", "count", "length_cm", "source", "how", "share", "source_ph", "source_kh",
    "source_ammonia", "source_nitrate", "where", "batch", "cause", "body", "signs", "text", "flag", "device", "until",
    "job", "title", "use_by", "donor", "donor_salinity", "seller", "price", "tank_bred", "to", "group",
)  # fmt: skip
_ALL = {c for k in KINDS.values() for c in k.columns()} - set(QUANTITIES)
PLAIN = (*_ORDER, *sorted(_ALL - set(_ORDER)))
COLUMNS = (
    "id", "state", "supersedes", "when", "zone", "kind", "who", "note", *QUANTITIES, *PLAIN, "recorded_at", "detail",
)  # fmt: skip
MAX_ROWS = 500_000
STATES = ("live", "superseded", "void")
EARLIEST, LATEST = 1970, 2200  # years that a moment may lie in at all


def log_csv(entries: Iterable[Entry]) -> str:
    """All entries; the exact canonical values stand in `detail`. What is damaged travels as a note, word for word."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, restval="", lineterminator="\n")
    writer.writeheader()
    for e in entries:
        body = Note(text=f"{e.body.problem} {e.body.held}"[:NOTE_MAX]) if isinstance(e.body, Damaged) else e.body
        detail = {"body": body.to_json(), "readings": [asdict(r) for r in body.seen]}
        writer.writerow(
            body.plain()
            | {
                "id": e.id,
                "state": e.state,
                "supersedes": e.supersedes or "",
                "when": e.at.isoformat(),
                "zone": e.zone,
                "kind": body.key,
                "who": e.who,
                "note": e.note,
                "recorded_at": e.recorded_at.isoformat() if e.recorded_at else "",
                "detail": json.dumps(detail, ensure_ascii=False, allow_nan=False),
            }
        )
    return out.getvalue()


def setting_for(tank: Tank, species: Mapping[str, Species]) -> Setting:
    """What a row needs to know of the tank. Raises Refused when its litres cannot be told."""
    return Setting(net_l(tank), tank.kit, Units(), species, {}, tank.solution_percent)


def entries_of(text: str, setting: Setting, now: datetime | None) -> tuple[Entry, ...]:
    reader = csv.DictReader(io.StringIO(text))
    fields = set(reader.fieldnames or ())
    if not {"when", "kind"} <= fields:
        raise BadBundle("log.csv: the columns ‘when’ and ‘kind’ are needed.")
    odd = fields - set(COLUMNS)
    if odd:
        raise BadBundle(f"log.csv: the column ‘{sorted(odd)[0]}’ is not known.")
    found: list[Entry] = []
    seen: dict[object, int] = {}
    for row in _rows(reader):
        where = f"log.csv row {reader.line_num}"
        if None in row:
            raise BadBundle(f"{where}: more cells than columns.")
        if len(found) >= MAX_ROWS:
            raise BadBundle(f"{where}: more than {MAX_ROWS:,} entries in one bundle.")
        cells = {k: (v or "").strip() for k, v in row.items()}
        try:
            entry = entry_from_cells(cells, row.get("note") or "", setting, len(found) + 1)
            if now is not None and entry.state == "live":
                check_not_future(entry.at, now)
            _refuse_twins(entry, cells.get("id", ""), seen, reader.line_num)
            found.append(entry)
        except Refused as problem:
            raise BadBundle(f"{where}, {problem.field or 'row'}: {problem.sentence}") from None
    return tuple(sorted(found, key=lambda e: (e.at, e.id)))


def _rows(reader: csv.DictReader[str]) -> Iterator[dict[str, Any]]:
    try:
        yield from reader
    except csv.Error as problem:
        raise BadBundle(f"log.csv row {reader.line_num + 1}: {problem}.") from None


def _refuse_twins(entry: Entry, told_id: str, seen: dict[object, int], row: int) -> None:
    """Two rows of one id, or a row without id that says the same as an earlier one: which was meant is not guessed."""
    key = told_id or repr((entry.at, entry.body, entry.note))
    if key in seen:
        what = f"id {told_id} stands in row {seen[key]} too" if told_id else f"it repeats row {seen[key]}"
        raise Refused(f"{what}; leave one out, or give both an id of their own.", "id")
    seen[key] = row


def zone_of(name: str) -> ZoneInfo:
    try:
        return ZoneInfo(name or "UTC")
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise Refused(f"“{name[:40]}” is not a time zone.", "zone") from None


def _moment(text: str, zone: str, field: str = "when") -> datetime:
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise Refused(f"“{text[:40]}” is not a moment; write 2026-11-24T18:40.", field) from None
    if not EARLIEST <= at.year <= LATEST:
        raise Refused(f"{at.year} is not a year that a log can speak of.", field)
    known = zone_of(zone)
    return at if at.tzinfo is not None else at.replace(tzinfo=known)


def _number_of(text: str, field: str) -> int:
    if not (text.isascii() and text.isdigit()) or not 0 < int(text[:20]) <= MOST_ID:
        raise Refused(f"“{text[:40]}” is not a number of an entry.", field)
    return int(text)


def entry_from_cells(c: Mapping[str, str], note: str, setting: Setting, number: int) -> Entry:
    """An entry from the cells of a row. Raises Refused naming the column or field."""
    if c["kind"] not in KINDS or c["kind"] == Damaged.key:
        raise Refused(f"“{c['kind'][:40]}” is no kind of entry.", "kind")
    state = c.get("state") or "live"
    if state not in STATES:
        raise Refused(f"“{state[:40]}” is no state.", "state")
    if len(note) > NOTE_MAX:
        raise Refused(f"This note is {len(note):,} characters long; at most {NOTE_MAX:,} can be kept.", "note")
    recorded = c.get("recorded_at", "")
    return Entry(
        _body(KINDS[c["kind"]], c, setting),
        _moment(c["when"], c.get("zone", "")),
        note,
        c.get("who", ""),
        c.get("zone") or "UTC",
        _number_of(c["id"], "id") if c.get("id") else number,
        state,
        _number_of(c["supersedes"], "supersedes") if c.get("supersedes") else None,
        _moment(recorded, "", "recorded_at") if recorded else None,
    )


def _body(kind: type[Kind], c: Mapping[str, str], setting: Setting) -> Kind:
    """From `detail` when it is there, else from the plain columns, which must be those of the kind."""
    if not c.get("detail"):
        strange = next((col for col in (*QUANTITIES, *PLAIN) if c.get(col) and col not in kind.columns()), None)
        if strange:
            raise Refused(f"“{c[strange][:40]}” does not belong to {kind.label.lower()}.", strange)
        return kind.from_plain(c, setting)
    try:
        detail = json.loads(c["detail"])
    except ValueError:
        raise Refused("This is not JSON.", "detail") from None
    if not isinstance(detail, dict):
        raise Refused("This is no object with ‘body’ and ‘readings’.", "detail")
    body: Kind = Tested.stored(detail.get("readings")) if kind is Tested else kind.from_json(detail.get("body"))
    _refuse_contradiction(body, c)
    return body.completed(setting) if isinstance(body, AboutAnimals) else body


def _refuse_contradiction(body: Kind, c: Mapping[str, str]) -> None:
    """A cell that says something else than `detail` was changed by hand, or stands in the wrong column."""
    told = {column: str(value) for column, value in body.plain().items()}
    for column in (*QUANTITIES, *PLAIN):
        cell = c.get(column, "")
        if cell and cell != told.get(column, "").strip() and not _same_number(cell, told.get(column, "")):
            said = f"‘detail’ says “{told[column][:40]}”" if told.get(column) else "‘detail’ says nothing of it"
            raise Refused(
                f"The cell says “{cell[:40]}”, {said}. Where a row was changed by hand, its ‘detail’ has to be empty.",
                column,
            )


def _same_number(one: str, other: str) -> bool:
    try:
        return float(one) == float(other)
    except ValueError:
        return False
