"""The log: the one-line field with its chips, forms by kind, the log book, correcting, voiding, undoing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Any
from urllib.parse import urlencode, urlsplit

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.deeds import log as deeds
from jarbloom.deeds import log_book, records
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import Saved
from jarbloom.deeds.log_lines import LineRead, log_lines, read_lines
from jarbloom.errors import BeingMade, Clash, GateClosed, Refused
from jarbloom.views.tank.desk import sign_groups
from jarbloom.views.tank.log_book import book
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed, asks_again, leads_to, scripted
from jarbloom.web.forms.duration import shift_of
from jarbloom.web.forms.entry import blank, known_kind, read_entry, typed_of
from jarbloom.web.render import fragment, page
from jarbloom.web.routes.tank import show_now

router = APIRouter(prefix="/tanks/{slug}")


def _back(request: Request, slug: str, typed: dict[str, str]) -> str:
    """Where a saved line returns to: the page of this tank that it was typed on."""
    wanted = urlsplit(typed.get("back", "")).path
    return wanted if wanted in (urls.tank(slug), urls.upset(slug), urls.log_book(slug)) else urls.tank(slug)


@router.post("/log/read")
def read_line(desk: AtDesk, slug: str, typed: Typed) -> HTMLResponse:
    """What the line would be taken for, as chips; writes nothing."""
    parsed = deeds.understand(desk, slug, typed.get("line", ""))
    taps = deeds.goes_on(desk, slug, typed.get("line", ""))
    return fragment(desk, "parts/chips.html", 200, chips=parsed.chips, refused="", clash=False, taps=taps)


@router.post("/log/line")
def log_line(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    line, back = typed.get("line", ""), leads_to(request, desk, _back(request, slug, typed))
    try:
        deeds.log_line(desk, slug, line, anyway=typed.text("anyway") == "1", reason=typed.text("reason"))
    except GateClosed as held:
        chips = deeds.understand(desk, slug, line).chips
        return show_now(request, desk, slug, 409, line=line, chips=chips, refused=str(held), clash=False,
                        gate_reason=typed.text("reason"), gate_held=True)  # fmt: skip
    except Refused as problem:
        status, clash = (409, True) if isinstance(problem, Clash) else (422, False)
        chips = deeds.understand(desk, slug, line).chips
        return show_now(request, desk, slug, status, line=line, chips=chips, refused=problem.sentence, clash=clash)
    return _led_to(request, desk, slug, back)


def _led_to(request: Request, desk: Desk, slug: str, back: str) -> Response:
    """A browser with scripts is given the tank's page at once, which sets its address by itself (app.js): one request
    in place of two. Every other is led there, and so is who has to wait for a forecast."""
    if back == urls.tank(slug) and scripted(request):
        try:
            return show_now(request, replace(desk, waits=not asks_again(request)), slug, stands_at=back)
        except BeingMade:
            pass  # the page that follows by itself is asked for under its own address
    return RedirectResponse(back, 303)


@router.get("/log/line")
def no_line(slug: str) -> RedirectResponse:
    """Who asks for the address that lines are sent to, by going back or by hand."""
    return RedirectResponse(urls.tank(slug), 303)


@router.post("/log/quick")
def log_quick(request: Request, desk: AtDesk, slug: str, typed: Typed) -> HTMLResponse:
    """A line from the keys at the tank, sent by the page's script, perhaps long after it was kept (header Kept-For, in
    seconds: not in the form, which is the same at every try): what was saved comes back with its undo, and the page
    stays."""
    line, status = typed.get("line", ""), 200
    shown: dict[str, Any] = {}
    try:
        at = deeds.typed_at(desk, request.headers.get("kept-for", ""))
        saved = deeds.log_line(desk, slug, line, anyway=typed.text("anyway") == "1", typed=at)
        shown = {"saved": saved}
    except GateClosed as held:
        status, shown = 409, {"saved": None, "refused": str(held)}
    except Refused as problem:
        status = 409 if isinstance(problem, Clash) else 422
        shown = {"saved": None, "refused": problem.sentence}
    tank = records.tank(desk, slug)
    return fragment(desk, "parts/quick_said.html", status, **({"refused": ""} | shown), line=line, tank=tank)


def _lines(
    request: Request, desk: Desk, slug: str, text: str, read: Sequence[LineRead] = (), problem: str = "",
    saved: Saved | None = None, status: int = 200,
) -> HTMLResponse:  # fmt: skip
    return page(request, desk, "log_lines.html", status, tank=records.tank(desk, slug), text=text, read=read,
                problem=problem, saved=saved, good=sum(not r.problem for r in read), here="log")  # fmt: skip


@router.get("/log/lines")
def many_lines(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _lines(request, desk, slug, "")


@router.post("/log/lines/read")
def read_many(request: Request, desk: AtDesk, slug: str, typed: Typed) -> HTMLResponse:
    """What each line would be taken for; writes nothing."""
    text = typed.get("lines", "")
    try:
        return _lines(request, desk, slug, text, read_lines(desk, slug, text))
    except Refused as refused:
        return _lines(request, desk, slug, text, problem=refused.sentence, status=422)


@router.post("/log/lines")
def log_many(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """The good lines in one act; those that wait stay on the page with their question."""
    text = typed.get("lines", "")
    try:
        saved, waiting = log_lines(desk, slug, text)
    except Refused as refused:
        return _lines(request, desk, slug, text, problem=refused.sentence, status=422)
    if saved is not None and not waiting:
        return RedirectResponse(urls.log_book(slug), 303)
    left = "\n".join(r.line for r in waiting)
    return _lines(request, desk, slug, left, waiting, "" if saved else "None of these lines is understood.", saved,
                  200 if saved else 422)  # fmt: skip


@dataclass(frozen=True)
class Looked:
    """What the log book was asked for, as typed."""

    kind: str = ""
    all: str = ""
    until: str = ""
    q: str = ""


def _book(
    request: Request, desk: Desk, slug: str, asked: Looked, errors: dict[str, str] | None = None,
    ticked: Sequence[int] = (), by: str = "",
) -> HTMLResponse:  # fmt: skip
    tank = records.tank(desk, slug)
    held = records.journal_of(desk, tank, struck=bool(asked.all))
    errors, last = dict(errors or {}), None
    try:
        last = date.fromisoformat(asked.until) if asked.until else None
    except ValueError:
        errors["until"] = f"“{asked.until[:40]}” is no date; write 2026-11-24."
    entries = log_book.found(desk, tank, held, asked.q) if asked.q.strip() else held
    shown = book(entries, desk.preferences.units, desk.reference.species, last, asked.kind, held)
    return page(
        request, desk, "log.html", 422 if errors else 200, tank=tank, p=shown, acts=records.lately_done(desk, tank, 12),
        asked=asked, errors=errors, ticked=ticked, by=by, here="log", line="", chips=(), refused="", clash=False,
        before=None,
    )  # fmt: skip


Asked = Annotated[str, Query(max_length=200)]


@router.get("/log")
def show_book(
    request: Request, desk: AtDesk, slug: str, kind: Asked = "", all: Asked = "", until: Asked = "", q: Asked = ""
) -> HTMLResponse:
    return _book(request, desk, slug, Looked(kind, all, until, q))


@router.get("/log/{entry_id}/before")
def before(request: Request, desk: AtDesk, slug: str, entry_id: int) -> HTMLResponse:
    """What changed in the two weeks before something."""
    tank = records.tank(desk, slug)
    entry, changed = log_book.changed_before(desk, tank, entry_id)
    units, species = desk.preferences.units, desk.reference.species
    told = f"{entry.body.label} of {entry.at:%-d %b %Y}, {entry.at:%H:%M}: {entry.body.words(species, units)}"
    return page(
        request, desk, "log.html", tank=tank, p=book(changed, units, species), acts=(), asked=Looked(), errors={},
        ticked=(), by="", here="log", line="", chips=(), refused="", clash=False, before=told,
    )  # fmt: skip


@router.post("/log/several")
def several(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """The ticked entries voided, or shifted in time together."""
    ids = [int(k) for k in typed.all("entry") if k.isascii() and k.isdigit() and len(k) < 19]
    asked = Looked(*(typed.text(name)[:200] for name in ("kind", "all", "until", "q")))
    by = typed.text("by")
    try:
        if typed.text("do") == "void":
            log_book.void_several(desk, slug, ids)
        else:
            log_book.shift_several(desk, slug, ids, shift_of(by))
    except Refused as problem:
        return _book(request, desk, slug, asked, {problem.field or "entry": problem.sentence}, ids, by)
    fields = {k: v for k, v in vars(asked).items() if v}
    return RedirectResponse(urls.log_book(slug) + (f"?{urlencode(fields)}" if fields else ""), 303)


def _entry_form(
    request: Request,
    desk: Desk,
    slug: str,
    kind: str,
    typed: dict[str, Any],
    errors: dict[str, Any],
    status: int,
    entry: object = None,
    clash: bool = False,
) -> HTMLResponse:
    return page(
        request,
        desk,
        "entry_form.html",
        status,
        tank=records.tank(desk, slug),
        kind=kind,
        typed=typed,
        errors=errors,
        entry=entry,
        clash=clash,
        groups=sign_groups(),
        here="log",
    )


@router.get("/log/new/{kind}")
def new_entry(request: Request, desk: AtDesk, slug: str, kind: str) -> HTMLResponse:
    return _entry_form(request, desk, slug, known_kind(kind), blank(kind, desk, dict(request.query_params)), {}, 200)


@router.post("/log/new/{kind}")
def save_new(request: Request, desk: AtDesk, slug: str, kind: str, typed: Typed) -> Response:
    filled, errors = read_entry(known_kind(kind), typed, desk)
    status, clash = 422, False
    if filled is not None:
        try:
            deeds.log_entry(desk, slug, filled, anyway=typed.text("anyway") == "1", reason=typed.text("reason"))
            return RedirectResponse(_back(request, slug, typed), 303)
        except GateClosed as held:
            errors.by_field["reason"] = str(held)
            status = 409
        except Refused as problem:
            errors.add(problem)
            clash = isinstance(problem, Clash)
            status = 409 if clash else 422
    shown = blank(kind, desk, {}) | dict(typed) | {"signs": typed.all("signs")}
    return _entry_form(request, desk, slug, kind, shown, errors.by_field, status, clash=clash)


@router.get("/log/{entry_id}")
def correct_form(request: Request, desk: AtDesk, slug: str, entry_id: int) -> HTMLResponse:
    tank = records.tank(desk, slug)
    entry = records.entry(desk, tank, entry_id)
    return _entry_form(request, desk, slug, entry.kind, typed_of(entry, desk), {}, 200, entry)


@router.post("/log/{entry_id}")
def correct(request: Request, desk: AtDesk, slug: str, entry_id: int, typed: Typed) -> Response:
    tank = records.tank(desk, slug)
    entry = records.entry(desk, tank, entry_id)
    filled, errors = read_entry(entry.kind, typed, desk)
    if filled is not None:
        try:
            deeds.correct_entry(desk, slug, entry_id, filled)
            return RedirectResponse(urls.log_book(slug), 303)
        except Refused as problem:
            errors.add(problem)
    shown = typed_of(entry, desk) | dict(typed) | {"signs": typed.all("signs")}
    return _entry_form(request, desk, slug, entry.kind, shown, errors.by_field, 422, entry)


@router.post("/log/{entry_id}/void")
def void(request: Request, desk: AtDesk, slug: str, entry_id: int, typed: Typed) -> Response:
    deeds.void_entry(desk, slug, entry_id)
    return RedirectResponse(urls.log_book(slug), 303)


@router.post("/acts/{act_id}/undo")
def undo(request: Request, desk: AtDesk, slug: str, act_id: int, typed: Typed) -> Response:
    deeds.undo(desk, slug, act_id)
    return RedirectResponse(_back(request, slug, typed), 303)
