"""A tank in three steps, and which tank for which animals."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.animals.serving import SIZES
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.setup.choose import QUESTIONS, Answers
from jarbloom.core.setup.which_tank import Wishes, read_wishes, which_tank
from jarbloom.deeds import begin, keep_tank, records
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.example import example
from jarbloom.errors import NotFound, Refused
from jarbloom.views.drawn.headroom import headroom
from jarbloom.views.house.begin import begin_page, equipment_words, sizes_words, which_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.forms.begin import (
    EQUIPMENT,
    GLASS,
    WATERS,
    example_glass,
    pale,
    read_equipment,
    read_glass,
    sent_along,
    typed_equipment,
)
from jarbloom.web.forms.fields import Errors
from jarbloom.web.looks import volume_of
from jarbloom.web.render import fragment, page

router = APIRouter()
WAYS = ("dry", "cycling")
LOOKED_AT = 300  # characters of a wish list


def glass_step(
    request: Request, desk: Desk, way: str, typed: Mapping[str, str], errors: Mapping[str, str], status: int = 200
) -> HTMLResponse:
    """The first step; what the empty house shows."""
    return page(
        request, desk, "begin.html", status, step=1, way=way, typed=typed, errors=errors, fields=GLASS, waters=WATERS,
        look=volume_of(example_glass(desk), desk), problems=(), shelf=records.shelf(desk), p=None, done=(),
        here="bench", pale=pale(desk), along=sent_along(desk),
    )  # fmt: skip


@router.get("/start/dry")
def dry(request: Request, desk: AtDesk) -> HTMLResponse:
    return glass_step(request, desk, "dry", {}, {})


@router.get("/start/cycling")
def cycling(request: Request, desk: AtDesk) -> HTMLResponse:
    return glass_step(request, desk, "cycling", {}, {})


@router.post("/start/glass")
def keep_glass(request: Request, desk: AtDesk, typed: Typed) -> Response:
    way = typed.text("way") if typed.text("way") in WAYS else "dry"
    glass, errors = read_glass(typed, desk, filled=way == "cycling")
    if glass is not None:
        try:
            kept = begin.first_step(desk, glass, typed.text("water") if typed.text("water") in WATERS else "fresh")
            return RedirectResponse(urls.begin(kept.slug, 2), 303)
        except Refused as problem:
            errors.add(problem)
    return glass_step(request, desk, way, typed, errors.by_field, 422)


def _step(
    request: Request, desk: Desk, slug: str, step: int, ready: Readiness | None, typed: Mapping[str, Any],
    errors: Mapping[str, str], status: int = 200, **more: Any,
) -> HTMLResponse:  # fmt: skip
    tank, u = records.tank(desk, slug), desk.preferences.units
    wishes = records.planned_animals(desk, tank)
    shown = {
        "fields": EQUIPMENT, "waters": WATERS, "way": "cycling" if tank.filled else "dry", "look": None,
        "done": (sizes_words(tank, u), equipment_words(tank, u)), "shelf": (), "here": "setup", "pale": {}, "along": {},
    }  # fmt: skip
    return page(
        request, desk, "begin.html", status, tank=tank, step=step, typed=typed, errors=errors,
        p=begin_page(tank, u, desk.reference, step, ready, desk.now.date(), wishes), **(shown | more),
    )  # fmt: skip


@router.get("/tanks/{slug}/begin/2")
def equipment_step(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    tank = records.tank(desk, slug)
    return _step(request, desk, slug, 2, begin.expected(desk, tank), typed_equipment(tank, desk), {})


@router.post("/tanks/{slug}/begin/2")
def keep_equipment(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    old = records.tank(desk, slug)
    changed, errors = read_equipment(typed, desk, old)
    if changed is not None:
        try:
            keep_tank.change(desk, slug, changed)
            donor = typed.text("donor") if typed.text("donor") in ("no", "yes") else "no"
            return RedirectResponse(f"{urls.begin(slug, 3)}?donor={donor}", 303)
        except Refused as problem:
            errors.add(problem)
    return _step(request, desk, slug, 2, begin.expected(desk, old), typed, errors.by_field, 422)


@router.get("/tanks/{slug}/begin/3")
def cycling_step(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    tank = records.tank(desk, slug)
    asked = {k: v for k, v in request.query_params.items() if k in QUESTIONS and v in dict(QUESTIONS[k][1])}
    answers = Answers(**({"water": "marine" if tank.marine else "fresh"} | asked))
    choice, ready = begin.fitting(desk, tank, answers)
    return _step(
        request, desk, slug, 3, ready, {}, {}, answers=answers, choice=choice,
        questions={k: QUESTIONS[k] for k in ("fish", "donor", "soon", "ammonia")},
    )  # fmt: skip


@router.post("/tanks/{slug}/begin/3")
def keep_school(desk: AtDesk, slug: str, typed: Typed) -> Response:
    tank = records.tank(desk, slug)
    if typed.text("school") not in desk.reference.schools.cycling:
        raise NotFound("There is no such school.")
    keep_tank.change(desk, slug, replace(tank, school=typed.text("school")))
    return RedirectResponse(urls.tank(slug) if tank.filled else urls.setup(slug, "fill"), 303)


@router.get("/start/example")
def living_example(desk: AtDesk) -> HTMLResponse:
    seen = example(desk)
    chart, small = headroom(seen.situation), headroom(seen.situation, 358, compact=True)
    return fragment(desk, "parts/example.html", verdict=seen.verdict, chart=chart, small=small)


@router.get("/start/animals")
def animals(request: Request, desk: AtDesk, q: str = "") -> HTMLResponse:
    return _animals(request, desk, q)


def _animals(request: Request, desk: Desk, q: str, problem: str = "", status: int = 200) -> HTMLResponse:
    text, species, units = q[:LOOKED_AT], desk.reference.species, desk.preferences.units
    wishes = read_wishes(text, species) if text.strip() else Wishes((), ())
    found = which_tank(wishes.animals, species, desk.now.date(), units)
    return page(
        request, desk, "which.html", status, q=text, problem=problem,
        p=which_page(text, wishes, found, desk.reference, units), here="bench",
    )  # fmt: skip


@router.post("/start/animals")
def plan_for_animals(request: Request, desk: AtDesk, typed: Typed) -> Response:
    q, size = typed.text("q")[:LOOKED_AT], typed.text("size")
    found = next((s for s in SIZES if "x".join(map(str, s)) == size), None)
    wishes = read_wishes(q, desk.reference.species)
    errors = Errors()
    try:
        if found is None:
            raise Refused("Choose one of the sizes.", "size")
        kept = begin.tank_for(desk, found, wishes.animals)
        return RedirectResponse(urls.begin(kept.slug, 2), 303)
    except Refused as problem:
        errors.add(problem)
        return _animals(request, desk, q, problem.sentence, 422)
