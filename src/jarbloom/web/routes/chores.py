"""A keeper's own chores for a tank."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.model.choices import WEEKDAYS
from jarbloom.deeds import chores as deeds
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}/chores")


def _page(
    request: Request, desk: Desk, slug: str, typed: dict[str, str] | None = None, errors: dict[str, str] | None = None
) -> HTMLResponse:
    tank, found, removed = deeds.see(desk, slug)
    return page(
        request, desk, "chores.html", 422 if errors else 200, tank=tank, found=found, removed=removed,
        typed=typed or {}, errors=errors or {}, weekdays=WEEKDAYS, here="log",
    )  # fmt: skip


@router.get("")
def show(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _page(request, desk, slug)


@router.post("")
def add(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    rhythm, number = typed.text("rhythm"), typed.text("weekday" if typed.text("rhythm") == "weekday" else "every")
    every = int(number) if number.isascii() and number.isdigit() and len(number) < 5 else 0
    try:
        deeds.add(desk, slug, typed.text("title"), rhythm, every, typed.text("line"))
    except Refused as problem:
        return _page(request, desk, slug, dict(typed), {problem.field or "title": problem.sentence})
    return RedirectResponse(urls.chores(slug), 303)


@router.post("/{chore_id}/{what}")
def shelve(desk: AtDesk, slug: str, chore_id: int, what: str, typed: Typed) -> Response:
    if what not in ("remove", "restore"):
        raise NotFound("Chores are taken off or put back.")
    deeds.remove(desk, slug, chore_id, back=what == "restore")
    return RedirectResponse(urls.chores(slug), 303)
