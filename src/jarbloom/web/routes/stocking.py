"""Batches: the plan, the gate, and the moment when they are in."""

from __future__ import annotations

from datetime import timedelta

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.animals.names import match_species, nearest_species
from jarbloom.deeds import look, plan_batches
from jarbloom.deeds.desk import Desk
from jarbloom.errors import GateClosed, Refused
from jarbloom.views.stocking import stocking_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed
from jarbloom.web.forms.fields import parse_date, parse_moment
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}/stocking")


def _show(
    request: Request, desk: Desk, slug: str, status: int = 200, errors: dict | None = None, typed: dict | None = None
) -> HTMLResponse:
    """Errors are keyed 'batch id:field' so that they stand at their own form."""
    seen = look.see(desk, slug)
    removed = request.query_params.get("removed", "")
    return page(
        request,
        desk,
        "stocking.html",
        status,
        tank=seen.tank,
        p=stocking_page(seen),
        errors=errors or {},
        typed=typed or {},
        removed=removed if removed.isdigit() else "",
        here="stocking",
        part="plan",
        soon=(desk.now + timedelta(days=7)).date(),
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
    return _show(request, desk, slug, 422, {f"{batch_id}:{problem.field}": problem.sentence}, typed)


@router.post("/{batch_id}/animals")
def set_animals(request: Request, desk: AtDesk, slug: str, batch_id: int, typed: Typed) -> Response:
    name = typed.text("species")
    key = name if name in desk.reference.species else match_species(name, desk.reference.species)
    try:
        if key is None:
            near = nearest_species(name, desk.reference.species)
            hint = f" Did you mean {near}?" if near else ""
            raise Refused(f"“{name[:40]}” is not in the catalogue.{hint}" if name else "Say which animal.", "species")
        plan_batches.set_animals(desk, slug, batch_id, key, typed.text("count"))
    except Refused as problem:
        return _refused(request, desk, slug, batch_id, problem, typed)
    return RedirectResponse(urls.stocking(slug), 303)


@router.post("/{batch_id}/move")
def move(request: Request, desk: AtDesk, slug: str, batch_id: int, typed: Typed) -> Response:
    try:
        plan_batches.move_batch(desk, slug, batch_id, parse_date(typed.text("planned"), "planned"))
    except Refused as problem:
        return _refused(request, desk, slug, batch_id, problem, typed)
    return RedirectResponse(urls.stocking(slug), 303)


@router.post("/{batch_id}/remove")
def remove(desk: AtDesk, slug: str, batch_id: int) -> Response:
    plan_batches.remove_batch(desk, slug, batch_id)
    return RedirectResponse(f"{urls.stocking(slug)}?removed={batch_id}", 303)


@router.post("/{batch_id}/restore")
def restore(desk: AtDesk, slug: str, batch_id: int) -> Response:
    plan_batches.restore_batch(desk, slug, batch_id)
    return RedirectResponse(urls.stocking(slug), 303)


@router.post("/{batch_id}/in")
def they_are_in(request: Request, desk: AtDesk, slug: str, batch_id: int, typed: Typed) -> Response:
    try:
        at = parse_moment(typed.text("at"), desk.preferences.tz, desk.now)
        plan_batches.they_are_in(desk, slug, batch_id, at, typed.get("override", ""))
    except GateClosed as problem:
        return _show(request, desk, slug, 409, {f"{batch_id}:override": problem.sentence}, typed)
    except Refused as problem:
        return _refused(request, desk, slug, batch_id, problem, typed)
    return RedirectResponse(urls.tank(slug), 303)
