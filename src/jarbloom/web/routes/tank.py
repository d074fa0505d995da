"""A tank's pages: now, its settings, the whole chart, the upset desk."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.model import Tank
from jarbloom.deeds import keep_tank, look
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.store import journal, tanks
from jarbloom.views.facts import tank_facts
from jarbloom.views.headroom import headroom
from jarbloom.views.tank import now_page, upset_page
from jarbloom.views.turned import turned
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.forms.tank import groups, read_tank, typed_of
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}")


def show_now(request: Request, desk: Desk, slug: str, status: int = 200, **more: object) -> HTMLResponse:
    """The Now page; `more` carries a typed line with its chips when one was refused."""
    seen = look.see(desk, slug)
    acts = journal.latest_acts(desk.conn, seen.tank.id, 1)
    shown = {"line": "", "chips": (), "refused": "", "clash": False}
    return page(
        request,
        desk,
        "now.html",
        status,
        tank=seen.tank,
        p=now_page(seen),
        last_act=acts[0] if acts else None,
        here="now",
        **(shown | more),
    )


@router.get("")
def now(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return show_now(request, desk, slug)


@router.get("/chart")
def chart(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    seen = look.see(desk, slug)
    return page(
        request,
        desk,
        "chart.html",
        200,
        tank=seen.tank,
        chart=headroom(seen.situation),
        whole=turned(seen.situation),
        verdict=seen.verdict,
        here="now",
    )


@router.get("/upset")
def upset(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    seen = look.see(desk, slug)
    return page(
        request,
        desk,
        "upset.html",
        200,
        tank=seen.tank,
        p=upset_page(seen),
        here="upset",
        line="",
        chips=(),
        refused="",
        clash=False,
    )


@router.get("/settings")
def settings_form(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    tank = tanks.tank(desk.conn, slug)
    return _form(request, desk, tank, typed_of(tank, desk), {}, 200)


def _form(request: Request, desk: Desk, tank: Tank, typed: dict, errors: dict, status: int) -> HTMLResponse:
    return page(
        request,
        desk,
        "tank_form.html",
        status,
        tank=tank,
        groups=groups(desk.reference),
        typed=typed,
        errors=errors,
        call="Settings.",
        words="Every change is kept as a revision and can be taken back.",
        action=urls.settings(tank.slug),
        facts=tank_facts(tank, desk.reference, desk.preferences.units),
        submit="Save the settings",
        way="settings",
        here="settings",
        revisions=tanks.revisions(desk.conn, tank.id),
    )


@router.post("/settings")
def save_settings(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    old = tanks.tank(desk.conn, slug)
    changed, errors = read_tank(typed, desk, old)
    if changed is not None:
        try:
            keep_tank.change(desk, slug, changed)
            return RedirectResponse(urls.tank(slug), 303)
        except Refused as problem:
            errors.add(problem)
    return _form(request, desk, old, typed, errors.by_field, 422)


@router.post("/settings/undo")
def undo_settings(desk: AtDesk, slug: str) -> Response:
    keep_tank.undo_change(desk, slug)
    return RedirectResponse(urls.settings(slug), 303)


@router.post("/shelve")
def shelve(desk: AtDesk, slug: str) -> Response:
    keep_tank.shelve(desk, slug)
    return RedirectResponse(urls.bench(), 303)
