"""The school of a tank: five questions, what fits, what the others would ask, the dose."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.advice.compare_schools import answers_of, compare_schools
from jarbloom.core.setup.choose import QUESTIONS, Answers
from jarbloom.core.setup.exposure import exposure
from jarbloom.deeds import keep_tank, look, records
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.ensembles import ensemble_of
from jarbloom.errors import NotFound
from jarbloom.views.setup.school import school_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed
from jarbloom.web.forms.tank import read_tank, typed_of
from jarbloom.web.forms.tank_parts import parts
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}/setup")


@router.get("/school")
def school(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _school(request, desk, slug, dict(request.query_params), {})


def _school(
    request: Request,
    desk: Desk,
    slug: str,
    asked: dict[str, str],
    errors: dict[str, str],
    status: int = 200,
    **more: Any,
) -> HTMLResponse:
    tank = records.tank(desk, slug)
    entries = desk.log(tank.id)
    seen = look.see_tank(desk, tank)
    s = seen.situation
    given = {k: v for k, v in asked.items() if k in QUESTIONS and v in dict(QUESTIONS[k][1])}
    answers = answers_of(s, Answers(**{"water": "marine" if tank.marine else "fresh"} | given) if given else None)
    views = compare_schools(s, ensemble_of(desk, tank, entries), answers)
    exposed = exposure(s.tank, s.forecast, s.entries, s.levels.limits, s.now) if s.living and s.school.fish_in else None
    return page(
        request,
        desk,
        "setup/school.html",
        status,
        tank=tank,
        p=school_page(s, views, asked.get("look", ""), exposed, bool(given)),
        jobs=seen.jobs,
        questions=QUESTIONS,
        answers=answers,
        typed=more.get("typed") or typed_of(tank, desk),
        dose_fields=[f for p in parts(desk.reference) if p.key == "school" for f in p.fields if f.name != "school"],
        errors=errors,
        here="setup",
        part="school",
    )


@router.post("/school/use")
def use_school(desk: AtDesk, slug: str, typed: Typed) -> Response:
    """Switching midway: the log stays, the gate is looked for in it by the new school's rules."""
    tank = records.tank(desk, slug)
    if typed.text("school") not in desk.reference.schools.cycling:
        raise NotFound("There is no such school.")
    keep_tank.change(desk, slug, replace(tank, school=typed.text("school")))
    return RedirectResponse(urls.setup(slug, "school"), 303)


@router.post("/school")
def save_dose(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    old = records.tank(desk, slug)
    changed, errors = read_tank(Form([*typed.items(), ("school", old.school)]), desk, old, ("school",))
    if changed is None:
        return _school(request, desk, slug, {}, errors.by_field, 422, typed=typed)
    keep_tank.change(desk, slug, changed)
    return RedirectResponse(urls.setup(slug, "school"), 303)
