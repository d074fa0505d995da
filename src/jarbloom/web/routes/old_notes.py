"""Old notes in: a file or a paste, what its columns mean, what each row becomes, and all of it in one act."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from starlette.datastructures import UploadFile

from jarbloom.core.journal.old_notes.days import ORDERS
from jarbloom.core.journal.old_notes.meaning import MEANINGS
from jarbloom.core.journal.old_notes.rows import Plan, folded
from jarbloom.deeds import old_notes as deeds
from jarbloom.deeds import records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.formats.tables import LONGEST_CELL, MOST_COLUMNS, MOST_ROWS, Table, tables
from jarbloom.views.tank.old_notes import notes_page
from jarbloom.web import urls
from jarbloom.web.deps import ONCE, AtDesk, known_by
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}")
MOST_SENT = 40_000_000  # the table travels with the form: nothing is kept of it until it is taken


class TableSent(BaseModel):
    """A table as the page carries it from step to step."""

    model_config = ConfigDict(extra="forbid")
    name: str = Field(max_length=200)
    head: list[Annotated[str, Field(max_length=LONGEST_CELL * 2)]] = Field(max_length=MOST_COLUMNS)
    rows: list[list[Annotated[str, Field(max_length=LONGEST_CELL)]]] = Field(max_length=MOST_ROWS)

    def table(self) -> Table:
        width = len(self.head)
        rows = tuple(tuple([*r, *[""] * width][:width]) for r in self.rows)
        return Table(self.name, tuple(self.head), rows)


@dataclass(frozen=True)
class Sent:
    file: bytes = b""
    name: str = ""
    token: str = ""
    typed: dict[str, str] = field(default_factory=dict)


async def sent_notes(request: Request) -> Sent:
    async with request.form(max_files=1, max_fields=400, max_part_size=MOST_SENT) as form:
        file = form.get("file")
        content, name = (await file.read(), file.filename or "") if isinstance(file, UploadFile) else (b"", "")
        typed = {k: v for k, v in form.multi_items() if isinstance(v, str) and k != ONCE}
        return Sent(content, name, str(form.get(ONCE) or ""), typed)


def _first(
    request: Request, desk: Desk, slug: str, errors: dict[str, str] | None = None, pasted: str = ""
) -> HTMLResponse:
    return page(
        request, desk, "old_notes.html", 422 if errors else 200, tank=records.tank(desk, slug), errors=errors or {},
        pasted=pasted, here="log",
    )  # fmt: skip


@router.get("/old-notes")
def begin(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _first(request, desk, slug)


def _columns(
    request: Request, desk: Desk, slug: str, found: tuple[Table, ...], chosen: int, plan: Plan | None = None,
    errors: dict[str, str] | None = None,
) -> HTMLResponse:  # fmt: skip
    table = found[chosen]
    guessed, orders = deeds.suggested(desk, slug, table)
    plan = plan or guessed
    tank, seen, problem = records.tank(desk, slug), None, dict(errors or {})
    try:
        seen = deeds.preview(desk, slug, table, plan)
    except Refused as refused:
        problem.setdefault(refused.field or "columns", refused.sentence)
    first = deeds.first_day(table, plan, desk.now)
    units, species = desk.preferences.units, desk.reference.species
    shown = notes_page(found, chosen, plan, orders, seen, first, tank, units, species)
    sent = json.dumps([{"name": t.name, "head": t.head, "rows": t.rows} for t in found], ensure_ascii=False)
    return page(
        request, desk, "old_notes_columns.html", 422 if problem else 200, tank=tank, p=shown, sent=sent, errors=problem,
        meanings=MEANINGS.values(), orders=ORDERS, here="log",
    )  # fmt: skip


@router.post("/old-notes", max_body_size=MOST_SENT)
def look(request: Request, desk: AtDesk, slug: str, sent: Annotated[Sent, Depends(sent_notes)]) -> Response:
    """The file or the paste: its largest table, and what its columns likely mean."""
    pasted = sent.typed.get("pasted", "")
    content = sent.file or pasted.encode()
    try:
        found = tables(content, sent.name[:80])[:8]
    except Refused as problem:
        return _first(request, desk, slug, {problem.field or "file": problem.sentence}, pasted)
    return _columns(request, desk, slug, found, 0)


def _plan_of(sent: Sent, table: Table) -> Plan:
    typed = sent.typed
    columns = tuple(typed.get(f"c{k}", "skip") for k in range(len(table.head)))
    words = {
        folded(typed[f"w{k}"][:LONGEST_CELL]): typed.get(f"l{k}", "").strip()[:200]
        for k in range(40) if f"w{k}" in typed and typed.get(f"l{k}", "").strip()
    }  # fmt: skip
    return Plan(columns, typed.get("order", "dmy") if typed.get("order") in ORDERS else "dmy", words)


def _tables_of(sent: Sent) -> tuple[Table, ...]:
    """Raises Refused for anything that no page of ours has sent."""
    try:
        raw: Any = json.loads(sent.typed.get("tables", ""))
        return tuple(TableSent.model_validate(t).table() for t in raw[:8])
    except (ValueError, ValidationError, TypeError, KeyError, RecursionError):
        raise Refused("The table did not come along; choose the file again.", "file") from None


@router.post("/old-notes/columns", max_body_size=MOST_SENT)
def columns(request: Request, desk: AtDesk, slug: str, sent: Annotated[Sent, Depends(sent_notes)]) -> Response:
    """What each row becomes by what was chosen; or, with `take`, all that is new in one act."""
    try:
        found = _tables_of(sent)
        told = sent.typed.get("table", "0")
        chosen = int(told) if told.isascii() and told.isdigit() and int(told[:4]) < len(found) else 0
        if not found:
            raise Refused("The table did not come along; choose the file again.", "file")
    except Refused as problem:
        return _first(request, desk, slug, {"file": problem.sentence})
    if sent.typed.get("was", "0") != str(chosen):  # another table of the file: its own columns
        return _columns(request, desk, slug, found, chosen)
    plan = _plan_of(sent, found[chosen])
    if sent.typed.get("do") != "take":
        return _columns(request, desk, slug, found, chosen, plan)
    desk.conn.once = known_by(request, sent.token, repr(sorted(sent.typed.items())))
    try:
        deeds.take(desk, slug, found[chosen], plan)
    except Refused as problem:
        return _columns(request, desk, slug, found, chosen, plan, {problem.field or "file": problem.sentence})
    return RedirectResponse(f"{urls.history(slug)}?span=all", 303)
