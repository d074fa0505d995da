"""The stock book's page: who came, who left, who was counted."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.deeds import log, look, quarantine, records, stock_book
from jarbloom.deeds.desk import Desk
from jarbloom.errors import GateClosed, NotFound, Refused
from jarbloom.views.stocking.life import life
from jarbloom.views.stocking.stock_book import book_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}/animals/book")


def _show(
    request: Request, desk: Desk, slug: str, status: int = 200, errors: dict[str, str] | None = None,
    typed: Form | None = None,
) -> HTMLResponse:  # fmt: skip
    """Errors are keyed by the field of the counting form, or 'group id:field'."""
    seen = look.see(desk, slug)
    others = [(s, name) for s, name in records.tank_names(desk) if s != slug]
    acts = [int(a) for a in request.query_params.get("acts", "").split(",") if a.isdigit()]
    return page(
        request, desk, "book.html", status, tank=seen.tank, p=book_page(seen.situation), others=others,
        quarantine=quarantine.of(desk, slug), lends=quarantine.may_lend(seen.situation),
        errors=errors or {}, typed=typed or {}, acts=acts, moved_to=request.query_params.get("to", ""),
        here="stocking", part="book",
    )  # fmt: skip


@router.get("")
def book(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _show(request, desk, slug)


def _done(slug: str, acts: tuple[int, ...], to: str = "") -> Response:
    where = f"{urls.animals(slug, 'book')}?acts={','.join(map(str, acts))}"
    return RedirectResponse(f"{where}&to={to}" if to else where, 303)


@router.post("/count")
def count(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    heads = {k.removeprefix("heads-"): v for k, v in typed.items() if k.startswith("heads-")}
    try:
        saved = stock_book.count_heads(desk, slug, heads)
    except Refused as problem:
        return _show(request, desk, slug, 422, {problem.field: problem.sentence}, typed)
    return _done(slug, (saved.act_id,))


@router.post("/{group_id}/left")
def left(request: Request, desk: AtDesk, slug: str, group_id: int, typed: Typed) -> Response:
    how, text = typed.text("how"), typed.get("text", "").strip()
    try:
        if how == "moved":
            out, into = stock_book.move(desk, slug, group_id, typed.text("to"), typed.text("count"), text)
            return _done(slug, (out.act_id, into.act_id), typed.text("to"))
        saved = stock_book.leave(desk, slug, group_id, how, typed.text("count"), text)
    except GateClosed as problem:
        return _show(request, desk, slug, 409, {f"{group_id}:text": problem.sentence}, typed)
    except Refused as problem:
        return _show(request, desk, slug, 422, {f"{group_id}:{problem.field}": problem.sentence}, typed)
    return _done(slug, (saved.act_id,))


@router.post("/quarantine")
def begin_quarantine(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    try:
        made = quarantine.begin(desk, slug, typed.get("sponge") == "on")
    except Refused as problem:
        return _show(request, desk, slug, 422, {problem.field: problem.sentence}, typed)
    return RedirectResponse(urls.tank(made.slug), 303)


@router.post("/quarantine/end")
def end_quarantine(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    try:
        home, _ = quarantine.end(desk, slug, typed.get("reason", ""))
    except GateClosed as problem:
        return _show(request, desk, slug, 409, {"reason": problem.sentence}, typed)
    except Refused as problem:
        return _show(request, desk, slug, 422, {problem.field: problem.sentence}, typed)
    return RedirectResponse(urls.animals(home.slug, "book"), 303)


@router.post("/undo")
def undo(desk: AtDesk, slug: str, typed: Typed) -> Response:
    acts = [int(a) for a in typed.all("act") if a.isdigit()]
    if len(acts) == 2:
        stock_book.undo_move(desk, slug, acts[0], typed.text("to"), acts[1])
    elif acts:
        log.undo(desk, slug, acts[0])
    return RedirectResponse(urls.animals(slug, "book"), 303)


@router.get("/of/{species}")
def story(request: Request, desk: AtDesk, slug: str, species: str) -> HTMLResponse:
    """The story of a kind: arrivals, growth, feeding trials, losses, what was noted, pictures."""
    seen = look.see(desk, slug)
    kind = desk.reference.species.get(species)
    if kind is None or species == "unknown":
        raise NotFound("There is no such animal in the catalogue.")
    return page(
        request, desk, "life.html", tank=seen.tank, p=life(seen.situation, kind), species_key=species, part="book",
        here="stocking",
    )  # fmt: skip
