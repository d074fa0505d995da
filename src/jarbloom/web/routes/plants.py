"""The page of plants."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.deeds import log, look, records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.views.stocking.plants import plant_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}/animals/plants")


def _show(
    request: Request, desk: Desk, slug: str, status: int = 200, errors: dict[str, str] | None = None,
    typed: Form | None = None,
) -> HTMLResponse:  # fmt: skip
    seen = look.see(desk, slug)
    return page(
        request, desk, "plants.html", status, tank=seen.tank, p=plant_page(seen.situation, desk.preferences.units),
        errors=errors or {}, typed=typed or {}, here="stocking", part="plants",
        just_saved=None if errors else records.just_saved(desk, seen.tank),
    )  # fmt: skip


@router.get("")
def plants(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _show(request, desk, slug)


@router.post("")
def keep(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """Put in, taken out or lost, from the page; the log book takes further words."""
    raw = {"plant": typed.text("plant"), "count": typed.text("count") or None, "went": typed.text("went") or "in"}
    try:
        log.log_entry(desk, slug, log.FilledForm("planted", desk.now, raw), anyway=True)
    except Refused as problem:
        return _show(request, desk, slug, 422, {problem.field or "plant": problem.sentence}, typed)
    return RedirectResponse(urls.animals(slug, "plants"), 303)
