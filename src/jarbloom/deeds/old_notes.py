"""Old notes in: a table looked at, what its rows become, and all that is new taken in one act."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from datetime import date, datetime

from jarbloom.core.journal.line.times import check_not_future
from jarbloom.core.journal.old_notes.days import orders_of
from jarbloom.core.journal.old_notes.meaning import guess
from jarbloom.core.journal.old_notes.rows import Plan, Preview, Reader, RowRead, folded, moment, own_words
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.tank import Tank
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import Saved, check_leaving, check_start, setting_of
from jarbloom.errors import Refused
from jarbloom.formats.tables import Table
from jarbloom.store import journal, notices, tanks
from jarbloom.store.db import transaction

_KEPT = "old_notes"
MOST_REMEMBERED = 300


def suggested(desk: Desk, slug: str, table: Table) -> tuple[Plan, tuple[str, ...]]:
    """What the columns likely mean, by what was chosen for such headings before; and the orders of day and month that
    fit, more than one where only the keeper knows."""
    tank, known = tanks.tank(desk.conn, slug), _remembered(desk)
    heads = known.get("heads", {})
    columns: list[str] = []
    for k, head in enumerate(table.head):
        key = heads.get(folded(head)) or guess(head, [row[k] for row in table.rows[:400]], tank.kit)
        only_once = key.split(":")[0] not in ("words", "note", "skip")
        columns.append("skip" if only_once and key in columns else key)
    days = [row[columns.index("day")] for row in table.rows] if "day" in columns else []
    orders = orders_of(days, desk.now.date()) if days else ()
    return Plan(tuple(columns), orders[0] if orders else "dmy", known.get("words", {})), orders


def preview(desk: Desk, slug: str, table: Table, plan: Plan) -> Preview:
    """Writes nothing. Raises Refused where no column is the day."""
    if plan.place("day") is None:
        raise Refused("Which column is the day? Without it nothing can be put in its place.", "columns")
    tank = tanks.tank(desk.conn, slug)
    log = desk.log(tank.id)
    setting = setting_of(desk, tank, log)
    here = {_key(e) for e in journal.entries(desk.conn, tank.id, live_only=False, zone=desk.preferences.tz)}
    reader = Reader(plan, setting, desk.preferences.tz, desk.now)
    found: list[RowRead] = []
    for number, cells in enumerate(table.rows, 2):
        found.append(_row(desk, tank, reader, number, cells, here))
    return Preview(tuple(found), tuple(own_words(table.rows, plan, reader)))


def _row(desk: Desk, tank: Tank, reader: Reader, number: int, cells: tuple[str, ...], here: set[object]) -> RowRead:
    try:
        at = moment(cells, reader.plan, reader.zone)
        check_not_future(at, desk.now)
        bodies = reader.bodies(cells)
        entries = [desk.entry(b, at) for b in bodies]
        for e in entries:
            check_start(e, tank)
    except Refused as problem:
        column = int(problem.field) if problem.field.isdigit() else reader.plan.place("day")
        return RowRead(number, cells, (), False, problem.sentence, column)
    new = [e for e in entries if _key(e) not in here]
    here |= {_key(e) for e in new}
    return RowRead(number, cells, tuple(new), bool(entries) and not new, "")


def _key(e: Entry) -> object:
    """What makes an entry one that is in the journal already, struck or not: a file that comes again adds nothing."""
    return int(e.at.timestamp()) // 60, e.kind, _said(e.body)


def _said(body: Body) -> str:
    told = {k: v for k, v in body.to_json().items() if k not in ("typed", "fraction", "first")}
    read = [(r.quantity, r.typed) for r in body.seen]
    return json.dumps([told if not read else {}, read], sort_keys=True, default=str)


def take(desk: Desk, slug: str, table: Table, plan: Plan) -> tuple[Saved, int]:
    """Everything of the good rows that is new, in one act, undone in one; and how many rows were left out as bad. What
    the headings and the own words mean is remembered. Raises Refused where nothing is new."""
    with transaction(desk.conn):
        tank = tanks.tank(desk.conn, slug)
        seen = preview(desk, slug, table, plan)
        new = sorted(seen.new, key=lambda e: e.at)
        if not new:
            raise Refused(
                f"Nothing in it is new: {seen.known} row{'s' if seen.known != 1 else ''} stand in the log already, and "
                f"{len(seen.bad)} cannot be read.",
                "file",
            )
        _check_leaving(desk, tank, new)
        sentence = f"Brought in {len(new)} entries of old notes, {new[0].at:%-d %b %Y} to {new[-1].at:%-d %b %Y}"
        act_id, ids = journal.write_all(desk.conn, tank.id, "import", sentence, new, desk.now)
        _remember(desk, table, plan)
    return Saved(act_id, sentence, tuple(ids)), len(seen.bad)


def _check_leaving(desk: Desk, tank: Tank, new: Sequence[Entry]) -> None:
    whole = desk.log(tank.id)
    for e in new:
        check_leaving(e, whole, setting_of(desk, tank, whole))


def _remembered(desk: Desk) -> dict[str, dict[str, str]]:
    try:
        kept = json.loads(notices.notice(desk.conn, _KEPT) or "{}")
    except ValueError:
        return {}
    return kept if isinstance(kept, dict) else {}


def _remember(desk: Desk, table: Table, plan: Plan) -> None:
    kept = _remembered(desk)
    heads = kept.get("heads", {}) | {folded(h): c for h, c in zip(table.head, plan.columns, strict=False)}
    words = kept.get("words", {}) | dict(plan.words)
    cut = {"heads": _last(heads), "words": _last(words)}
    notices.keep(desk.conn, _KEPT, json.dumps(cut, ensure_ascii=False))


def _last(told: Mapping[str, str]) -> dict[str, str]:
    return dict(list(told.items())[-MOST_REMEMBERED:])


def first_day(table: Table, plan: Plan, now: datetime) -> date | None:
    """The earliest day in it: the tank must have stood by then."""
    days = []
    for cells in table.rows:
        try:
            days.append(moment(cells, plan, now.tzinfo).date())
        except Refused:
            continue
    return min(days, default=None)
