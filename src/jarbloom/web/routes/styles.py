"""Styles as starting points, and a proposal put onto the plan."""

from __future__ import annotations

from datetime import timedelta

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.advice.situation import TankSeen
from jarbloom.core.animals.styles import StyleProposal, propose, styles_for
from jarbloom.data import catalogue
from jarbloom.deeds import look, plan_batches
from jarbloom.deeds.animals import case_here
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound
from jarbloom.views.stocking.styles import styles_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}/animals/styles")
MOST_TURNS = 60


def _proposal(desk: Desk, slug: str, key: str, turn: str, bare: bool) -> tuple[TankSeen, StyleProposal | None, int]:
    seen = look.see(desk, slug)
    all_styles = catalogue.styles()
    if key and key not in all_styles:
        raise NotFound("There is no such style.")
    turned = min(int(turn), MOST_TURNS) if turn.isdecimal() else 0
    if not key:
        return seen, None, turned
    s = seen.situation
    case = case_here(s, planned=not bare)
    found = propose(all_styles[key], case, desk.reference.offered, s.forecast.ceiling, turned)
    return seen, found, turned


@router.get("")
def styles(request: Request, desk: AtDesk, slug: str, style: str = "", turn: str = "0", bare: str = "") -> HTMLResponse:
    seen, found, turned = _proposal(desk, slug, style, turn, bare == "on")
    chosen = found.style if found else None
    return page(
        request, desk, "styles.html", tank=seen.tank, styles=styles_for(tuple(catalogue.styles().values()),
        seen.tank.water_kind), p=styles_page(chosen, found, seen.tank.water_kind, desk.preferences.units), style=style,
        turn=turned, bare=bare == "on", planned=bool(seen.situation.waiting), here="stocking", part="find",
    )  # fmt: skip


@router.post("")
def to_the_plan(desk: AtDesk, slug: str, typed: Typed) -> Response:
    """The proposal as one batch a week from now; the planner then makes batches of it."""
    _, found, _ = _proposal(desk, slug, typed.text("style"), typed.text("turn"), typed.text("bare") == "on")
    if found and found.animals:
        plan_batches.add_with(desk, slug, (desk.now + timedelta(days=7)).date(), found.animals, found.style.name)
    return RedirectResponse(f"{urls.stocking(slug, plan_batches.just_changed(desk, slug))}#ahead-h", 303)
