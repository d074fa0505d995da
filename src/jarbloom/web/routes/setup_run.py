"""What is ticked while setting up: the fill run, equipment checks, cultures."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.switches import switched_off
from jarbloom.core.setup.culture import hope, preparations
from jarbloom.deeds import records, set_up
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.views.house.water import instrument_row
from jarbloom.views.setup.fill import fill_words, off_rows, prep_rows, step_rows
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed, back_to
from jarbloom.web.forms.fields import Errors, parse_date, read_fields
from jarbloom.web.forms.tank import typed_of
from jarbloom.web.render import fragment, page
from jarbloom.web.routes.setup import form_page

router = APIRouter(prefix="/tanks/{slug}/setup")


@router.get("/fill")
def fill(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _fill(request, desk, slug, {}, {}, "")


def _fill(
    request: Request, desk: Desk, slug: str, typed: Any, errors: dict[str, str], step: str, status: int = 200
) -> HTMLResponse:
    run = set_up.fill_run(desk, slug)
    rows = step_rows(run.steps, desk.now)
    call, words = fill_words(rows)
    return page(
        request,
        desk,
        "setup/fill.html",
        status,
        tank=run.tank,
        rows=rows,
        call=call,
        words=words,
        typed=typed,
        errors=errors,
        step=step,
        instruments=[instrument_row(i, desk.now.date()) for i in run.instruments],
        here="setup",
        part="fill",
    )


@router.post("/fill/{step}")
def tick_step(request: Request, desk: AtDesk, slug: str, step: str, typed: Typed) -> Response:
    try:
        set_up.tick_step(desk, slug, step, typed)
    except Refused as problem:
        field = problem.field or "step"
        return _fill(request, desk, slug, typed, {field: problem.sentence}, step, 422)
    return RedirectResponse(f"{urls.setup(slug, 'fill')}#step-{step}", 303)


@router.post("/check/{key}")
def tick_check(request: Request, desk: AtDesk, slug: str, key: str, typed: Typed) -> Response:
    try:
        set_up.tick_check(desk, slug, key, "fault" in typed, typed.text("text"))
    except Refused as problem:
        tank = records.tank(desk, slug)
        told = {f"text-{key}": problem.sentence}
        return form_page(request, desk, tank, "equipment", typed_of(tank, desk), {}, 422, check_errors=told)
    return RedirectResponse(back_to(typed, f"{urls.setup(slug, 'equipment')}#checks"), 303)


CULTURE_FIELDS = Bacteria.fields


def _told(typed: Any, desk: Desk, errors: Errors) -> dict[str, Any]:
    """The culture as typed, as an entry's body; what cannot be read goes to errors."""
    values = read_fields(CULTURE_FIELDS, typed, desk.preferences.units, errors)
    return {k: v for k, v in values.items() if v is not None}


@router.get("/culture")
def culture(request: Request, desk: AtDesk, slug: str, source: str = "bottle_cool") -> HTMLResponse:
    return _culture(request, desk, slug, {"source": source}, {})


def _culture(
    request: Request, desk: Desk, slug: str, typed: Any, errors: dict[str, str], status: int = 200
) -> HTMLResponse:
    tank, today = records.tank(desk, slug), desk.now.date()
    entries = desk.log(tank.id)
    source = typed.get("source") or "bottle_cool"
    body = _told(typed, desk, Errors())
    steps = preparations(tank, source, desk.preferences.units)
    return page(
        request,
        desk,
        "setup/culture.html",
        status,
        tank=tank,
        fields=CULTURE_FIELDS,
        typed=typed,
        ticked=typed.all("ready") if isinstance(typed, Form) else [],
        errors=errors,
        borrowed=source == "borrowed",
        steps=prep_rows(steps, today, typed),
        hope=hope(Bacteria.from_raw(body), today, tank),
        off=off_rows(switched_off(entries), today),
        cultures=entries.kinds(Bacteria, Rock),
        here="setup",
        part="culture",
    )


@router.post("/culture/look")
def culture_look(desk: AtDesk, slug: str, typed: Typed) -> HTMLResponse:
    tank, today = records.tank(desk, slug), desk.now.date()
    body = _told(typed, desk, Errors())
    steps = preparations(tank, str(body.get("source", "bottle")), desk.preferences.units)
    rows = prep_rows(steps, today, typed)
    return fragment(
        desk,
        "parts/culture_look.html",
        hope=hope(Bacteria.from_raw(body), today, tank),
        steps=rows,
        ticked=typed.all("ready"),
        errors={},
    )


@router.post("/culture")
def put_in_culture(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    errors = Errors()
    body = _told(typed, desk, errors)
    until = {}
    for name, text in typed.items():
        if name.startswith("until-") and f"off_{name[6:]}" in typed.all("ready"):
            try:
                until[name[6:]] = parse_date(text, name)
            except Refused as problem:
                errors.add(problem)
    if not errors:
        try:
            set_up.put_in_culture(desk, slug, set_up.Culture(body, tuple(typed.all("ready")), until))
            return RedirectResponse(urls.setup(slug, "culture"), 303)
        except Refused as problem:
            errors.add(problem)
    return _culture(request, desk, slug, typed, errors.by_field, 422)
