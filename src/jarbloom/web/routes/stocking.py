"""Batches: the plan, the gate, and the moment when they are in."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.animals.names import match_species, nearest_species
from jarbloom.core.model.plan import count_in
from jarbloom.deeds import look, plan_ahead, plan_batches, records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import GateClosed, Outdated, Refused
from jarbloom.units import number
from jarbloom.views.drawn.crowding import SIZED
from jarbloom.views.stocking.board import ahead_page, stands, trial_words
from jarbloom.views.stocking.plan import stamp_words, stocking_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed
from jarbloom.web.forms.fields import parse_date, parse_moment
from jarbloom.web.render import fragment, page

router = APIRouter(prefix="/tanks/{slug}/stocking")


def _show(
    request: Request,
    desk: Desk,
    slug: str,
    status: int = 200,
    errors: dict[str, Any] | None = None,
    typed: dict[str, Any] | None = None,
) -> HTMLResponse:
    """Errors are keyed 'batch id:field' so that they stand at their own form."""
    seen = look.see(desk, slug)
    history = records.plan_history(desk, seen.tank)
    return page(
        request,
        desk,
        "stocking.html",
        status,
        tank=seen.tank,
        p=stocking_page(seen, request.query_params.get("sized", "adult")),
        sized=SIZED,
        errors=errors or {},
        typed=typed or {},
        history=history,
        undoable=next((c for c in history if not c.undone), None),
        changed=request.query_params.get("changed", ""),
        here="stocking",
        part="plan",
        soon=plan_ahead.offered(desk, slug),
        erring={int(key.split(":")[0]) for key in errors or {} if key[0].isdigit()},
        unfold=request.query_params.get("unfold", ""),
    )


@router.get("")
def stocking(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _show(request, desk, slug)


@router.post("/new")
def add_batch(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    try:
        planned = parse_date(typed.text("planned"), "planned")
        plan_batches.add_batch(desk, slug, planned)
    except Refused as problem:
        return _show(request, desk, slug, 422, {f"new:{problem.field}": problem.sentence}, typed)
    return RedirectResponse(urls.stocking(slug), 303)


def _refused(request: Request, desk: Desk, slug: str, batch_id: int, problem: Refused, typed: Form) -> HTMLResponse:
    status = 409 if isinstance(problem, Outdated) else 422
    return _show(request, desk, slug, status, {f"{batch_id}:{problem.field}": problem.sentence}, typed)


def _meanwhile(desk: Desk, slug: str, batch_id: int, typed: Form, of: Callable[[str], str], field: str, mine: str = "",
               ) -> None:  # fmt: skip
    """Raises Outdated where what a form is about is no longer what its page showed. `of`: that part of a batch's stamp;
    `mine`: what was typed in its place, where that is a value."""
    shown, now = typed.text("was"), plan_batches.waiting(desk, slug, batch_id)
    if not shown or of(shown) == of(now.stamp) or (mine and mine == of(now.stamp)):
        return
    yours = f" You typed {mine}: send it again to keep yours." if mine else " Look at it, and send it again."
    raise Outdated(f"On another device {now.name.lower()} was changed from "
                   f"{stamp_words(of(shown), desk.reference.species)} to "
                   f"{stamp_words(of(now.stamp), desk.reference.species)} meanwhile.{yours}", field)  # fmt: skip


def _whole(stamp: str) -> str:
    return stamp


@router.post("/{batch_id}/animals")
def set_animals(request: Request, desk: AtDesk, slug: str, batch_id: int, typed: Typed) -> Response:
    name = typed.text("species")
    key = name if name in desk.reference.species else match_species(name, desk.reference.species)
    try:
        if key is None:
            near = nearest_species(name, desk.reference.species)
            hint = f" Did you mean {near}?" if near else ""
            raise Refused(f"“{name[:40]}” is not in the catalogue.{hint}" if name else "Say which animal.", "species")
        _meanwhile(desk, slug, batch_id, typed, lambda s: str(count_in(s, key)), "count", typed.text("count"))
        plan_batches.set_animals(desk, slug, batch_id, key, typed.text("count"))
    except Refused as problem:
        return _refused(request, desk, slug, batch_id, problem, typed)
    return _changed(desk, slug)


@router.post("/{batch_id}/move")
def move(request: Request, desk: AtDesk, slug: str, batch_id: int, typed: Typed) -> Response:
    try:
        day = parse_date(typed.text("planned"), "planned")
        _meanwhile(desk, slug, batch_id, typed, lambda s: s.split()[0], "planned", day.isoformat())
        plan_batches.move_batch(desk, slug, batch_id, day)
    except Refused as problem:
        return _refused(request, desk, slug, batch_id, problem, typed)
    return _changed(desk, slug)


@router.post("/{batch_id}/remove")
def remove(request: Request, desk: AtDesk, slug: str, batch_id: int, typed: Typed) -> Response:
    try:
        _meanwhile(desk, slug, batch_id, typed, _whole, "batch")
        plan_batches.remove_batch(desk, slug, batch_id)
    except Refused as problem:
        return _refused(request, desk, slug, batch_id, problem, typed)
    return _changed(desk, slug)


@router.post("/{batch_id}/lock")
def lock(desk: AtDesk, slug: str, batch_id: int, typed: Typed) -> Response:
    plan_batches.lock_batch(desk, slug, batch_id, typed.text("locked") == "yes")
    return _changed(desk, slug)


@router.post("/{batch_id}/shift")
def shift(request: Request, desk: AtDesk, slug: str, batch_id: int, typed: Typed) -> Response:
    """Animals out of this batch into another."""
    try:
        species = typed.text("species")
        _meanwhile(desk, slug, batch_id, typed, lambda s: str(count_in(s, species)), "to")
        soon = plan_ahead.offered(desk, slug)
        plan_batches.shift_animals(
            desk, slug, batch_id, typed.text("to"), typed.text("species"), typed.text("count"), soon
        )
    except Refused as problem:
        return _refused(request, desk, slug, batch_id, problem, typed)
    return _changed(desk, slug)


def _changed(desk: Desk, slug: str) -> Response:
    """Back to the plan, with the undo of what this changed there."""
    return RedirectResponse(urls.stocking(slug, plan_batches.just_changed(desk, slug)), 303)


@router.get("/board")
def board(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    """How every batch stands; `batch` and `days` try one of them on another day, `from`, `species`, `count` and `to`
    try animals in another batch, and nothing is kept."""
    asked, seen = request.query_params, look.see(desk, slug)
    batch_id = int(asked["batch"]) if asked.get("batch", "").isdecimal() else 0
    shift = None
    if asked.get("from", "").isdecimal() and asked.get("count", "").strip().isdecimal():
        shift = plan_ahead.Shift(asked.get("species", ""), int(asked["count"]), int(asked["from"]), asked.get("to", ""))
    found = plan_ahead.board(desk, slug, batch_id, number(asked.get("days", "0"), "days"), shift)
    rows = stands([(j.standing, j.reasons) for j in found.judged], found.kept_days, seen.situation.dates)
    told = trial_words(rows, found.tried, shift is not None)
    return fragment(desk, "parts/board.html", rows=rows, tank=seen.tank, tried=found.tried, told=told)


@router.get("/ahead")
def planner(desk: AtDesk, slug: str) -> HTMLResponse:
    seen, found = look.see(desk, slug), plan_ahead.ahead(desk, slug)
    p = None
    if found is not None:
        ways = [(w.name, w.batches) for w in found.ways]
        target = (seen.tank.target_mg_n_l, found.target) if found.target else None
        p = ahead_page(found.terms, found.days, found.anew, ways, desk.reference, target)
    return fragment(desk, "parts/ahead.html", p=p, tank=seen.tank, chosen=desk.preferences.free_days.split())


@router.post("/days")
def take_days(request: Request, desk: AtDesk, slug: str) -> Response:
    return _planned(request, desk, slug, plan_batches.take_days)


@router.post("/anew")
def compose_anew(request: Request, desk: AtDesk, slug: str) -> Response:
    return _planned(request, desk, slug, plan_batches.compose_anew)


def _planned(request: Request, desk: Desk, slug: str, deed: Callable[[Desk, str], None]) -> Response:
    try:
        deed(desk, slug)
    except Refused as problem:
        return _show(request, desk, slug, 422, {f"plan:{problem.field}": problem.sentence})
    return _changed(desk, slug)


@router.post("/target")
def take_target(request: Request, desk: AtDesk, slug: str) -> Response:
    return _planned(request, desk, slug, plan_batches.take_target)


@router.post("/free-days")
def free_days(desk: AtDesk, slug: str, typed: Typed) -> Response:
    records.choose(desk, {"free_days": " ".join(sorted(set(typed.all("day"))))})
    return RedirectResponse(f"{urls.stocking(slug)}?unfold=planner#planner", 303)


@router.post("/undo/{change_id}")
def undo(desk: AtDesk, slug: str, change_id: int) -> Response:
    plan_batches.undo_change(desk, slug, change_id)
    return RedirectResponse(urls.stocking(slug), 303)


@router.post("/{batch_id}/in")
def they_are_in(request: Request, desk: AtDesk, slug: str, batch_id: int, typed: Typed) -> Response:
    try:
        at = parse_moment(typed.text("at"), desk.preferences.tz, desk.now)
        _meanwhile(desk, slug, batch_id, typed, _whole, "batch")
        plan_batches.they_are_in(desk, slug, batch_id, at, typed.get("override", ""))
    except GateClosed as problem:
        return _show(request, desk, slug, 409, {f"{batch_id}:override": problem.sentence}, typed)
    except Refused as problem:
        return _refused(request, desk, slug, batch_id, problem, typed)
    return RedirectResponse(urls.tank(slug), 303)
