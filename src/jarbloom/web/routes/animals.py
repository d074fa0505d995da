"""Choosing animals: the finder, one species in full, and who goes with whom."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import timedelta
from typing import Any
from urllib.parse import urlencode

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.advice.situation import standing_gate
from jarbloom.core.animals.finder import FinderQuery, find, judge, read_ask
from jarbloom.core.animals.home import seasons_c
from jarbloom.core.animals.names import match_species, nearest_species
from jarbloom.core.animals.serving import serving
from jarbloom.core.model.tank import Tank
from jarbloom.deeds import look, plan_batches
from jarbloom.deeds.animals import MOST_TRIED, case_here, room_mg_n_day
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.views.stocking.finder import COMPARED, ZONES, compared, finder_page
from jarbloom.views.stocking.together import together_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.render import fragment, page

router = APIRouter(prefix="/tanks/{slug}/animals")
LONGEST = 80


def _ask(asked: Mapping[str, str], desk: Desk, tank: Tank) -> FinderQuery:
    text = asked.get("q", "").strip()[:LONGEST]
    ask = read_ask(text, desk.reference.species, seasons_c(tank), desk.preferences.units.system != "metric")
    water = "" if ask.text else tank.water_kind  # a name is answered even when it lives in other water
    typed = asked.get("zone", "")
    zone = typed if typed in ZONES else ask.zone
    return replace(
        ask, water=water, zone=zone, group=asked.get("group", "")[:LONGEST] or ask.group,
        fits=ask.fits or asked.get("fits") == "on",
    )  # fmt: skip


def _found(desk: Desk, slug: str, asked: Mapping[str, str]) -> dict[str, Any]:
    s = look.see(desk, slug).situation
    species = desk.reference.offered
    case, room, ask = case_here(s), room_mg_n_day(s), _ask(asked, desk, s.tank)
    standing = {k: standing_gate(s, k) for k in (False, True)}
    key = asked.get("look", "")
    one = judge(desk.reference.species[key], case, room) if key in desk.reference.species else None
    answers = find(ask, case, species, room)
    return {
        "tank": s.tank, "p": finder_page(s, case, ask, answers, standing, one, room), "q": asked.get("q", "")[:LONGEST],
        "asked": ask, "zones": ZONES, "batches": [(b.id, b.name) for b in s.batches if b.arrived is None],
    }  # fmt: skip


def _page(request: Request, desk: Desk, slug: str, asked: Mapping[str, str], status: int = 200,
          errors: dict[str, str] | None = None, typed: Mapping[str, str] | None = None) -> HTMLResponse:  # fmt: skip
    found = _found(desk, slug, asked)
    shown = found | {"errors": errors or {}, "typed": typed or {"batch": ""}, "here": "stocking", "part": "find"}
    return page(request, desk, "animals.html", status, **shown)


@router.get("")
def finder(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    asked = dict(request.query_params)
    if asked.get("look") and asked["look"] not in desk.reference.species:
        raise NotFound("That animal is not in the catalogue.")
    return _page(request, desk, slug, asked)


@router.get("/compare")
def compare(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    """Up to three species side by side; those that are no species are left out."""
    s = look.see(desk, slug).situation
    keys = list(dict.fromkeys(k for k in request.query_params.getlist("with") if k in desk.reference.species))
    case, room = case_here(s), room_mg_n_day(s)
    answers = [judge(desk.reference.species[k], case, room) for k in keys[:COMPARED]]
    shown = compared(answers, s, {k: standing_gate(s, k) for k in (False, True)})
    return page(request, desk, "compare.html", 200, tank=s.tank, c=shown, more=max(0, len(keys) - COMPARED),
                q=request.query_params.get("q", "")[:LONGEST], here="stocking", part="find")  # fmt: skip


@router.get("/found")
def found(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return fragment(desk, "parts/found.html", **_found(desk, slug, dict(request.query_params)))


@router.post("/plan")
def to_the_plan(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """So many of the species onto a waiting batch, or onto a new one a week from now."""
    key = typed.text("species")
    if key not in desk.reference.species:
        raise NotFound("That animal is not in the catalogue.")
    try:
        plan_batches.put_on_plan(desk, slug, typed.text("batch"), key, typed.text("count"),
                                 (desk.now + timedelta(days=7)).date())  # fmt: skip
    except Refused as problem:
        return _page(request, desk, slug, {"look": key}, 422, {problem.field: problem.sentence}, typed)
    return RedirectResponse(urls.stocking(slug), 303)


@router.get("/together")
def together(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    s = look.see(desk, slug).situation
    species = desk.reference.species
    tried: list[str] = []
    refused = problem = ""
    for name in request.query_params.getlist("with"):
        key = name if name in species else match_species(name, species)
        if key is not None and key not in tried and len(tried) < MOST_TRIED:
            tried.append(key)
        elif key is None and name.strip():
            near = nearest_species(name, species)
            refused = name[:LONGEST]
            problem = f"“{name[:40]}” is not in the catalogue.{f' Did you mean {near}?' if near else ''}"
    alone = request.query_params.get("alone") == "on" and bool(tried)
    case = case_here(s, tried, alone)
    served = serving(case, s.tank, species, desk.reference.media) if case.members else None
    living, planned = {a.species for a in s.living}, {a.species for b in s.waiting for a in b.items}
    turned = [("with", k) for k in tried] + ([] if alone else [("alone", "on")])
    return page(
        request, desk, "together.html", 422 if problem else 200,
        tank=s.tank, p=together_page(case, living, planned, served), tried=tried, alone=alone, refused=refused,
        problem=problem, other_view=f"?{urlencode(turned)}",
        names=sorted(k.name for k in desk.reference.offered.values() if k.water == s.tank.water_kind),
        here="stocking", part="together",
    )  # fmt: skip
