"""Setting up a tank: volume, equipment, water, school, fill run, culture, probe."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.advice.compare_schools import answers_of, compare_schools
from jarbloom.core.log.kinds import KINDS
from jarbloom.core.model import Tank
from jarbloom.core.setup.checks import checks_due
from jarbloom.core.setup.choose import QUESTIONS, Answers
from jarbloom.core.setup.culture import hope, preparations, switched_off
from jarbloom.core.setup.exposure import exposure
from jarbloom.core.vessel.equipment import equipment
from jarbloom.core.vessel.volume import net_l
from jarbloom.deeds import keep_house, keep_tank, look, probes, set_up
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.ensembles import ensemble_of
from jarbloom.errors import NotFound, Refused
from jarbloom.formats.probe_csv import probe_csv
from jarbloom.store import batches, house, journal, tanks
from jarbloom.views.equipment import check_rows, equipment_look
from jarbloom.views.probe import NAMES, NARROW, beside_rows, trace
from jarbloom.views.school import school_page
from jarbloom.views.setup import fill_words, off_rows, prep_rows, step_rows
from jarbloom.views.water import instrument_row, mix_look, tank_water_facts
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed, back_to
from jarbloom.web.forms.fields import Errors, parse_date, read_fields
from jarbloom.web.forms.house import FACTOR_FIELDS, MIX_FIELDS, blank_mix, read_mix
from jarbloom.web.forms.tank import parts, read_tank, typed_of
from jarbloom.web.looks import volume_fragment, volume_of
from jarbloom.web.render import fragment, page

router = APIRouter(prefix="/tanks/{slug}/setup")
FORMS = {"volume": ("volume",), "equipment": ("filters", "heaters"), "water": ("water", "source")}
SAVES = {"volume": "Save the volume", "equipment": "Save the equipment", "water": "Save the water"}


def _animals(desk: Desk, tank: Tank) -> tuple[Any, ...]:
    """What lives here and what is planned."""
    entries = journal.entries(desk.conn, tank.id)
    plan = batches.batches(desk.conn, tank.id, entries)
    from_plan = tuple(a for b in plan if b.arrived is None for a in b.items)
    return (*look.stock_of(entries, desk.now), *from_plan)


def _shown(desk: Desk, tank: Tank, part: str, typed: Form | None = None) -> dict[str, Any]:
    """What stands beside a form."""
    units = desk.preferences.units
    if part == "volume":
        return {"look": volume_of(tank, desk), "problems": (), "needs": (), "net": units.volume(net_l(tank))}
    if part == "equipment":
        entries = journal.entries(desk.conn, tank.id)
        found = equipment_look(tank, equipment(tank, _animals(desk, tank), desk.reference, entries), units)
        due = checks_due(desk.reference.checks, tank, entries, desk.now.date())
        return {"look": found, "problems": (), "checks": check_rows(due, desk.now.date())}
    factor = {"factor_fields": FACTOR_FIELDS, "factor_typed": {}, "factor_errors": {}}
    return {"facts": tank_water_facts(tank, units), **factor, **_mixing(desk, tank, typed)}


def _mixing(desk: Desk, tank: Tank, typed: Form | None) -> dict[str, Any]:
    waters = house.waters(desk.conn)
    asked = typed if typed is not None else Form(list(blank_mix(tank, waters, desk.preferences.units).items()))
    found, errors = None, Errors()
    if waters:
        wish, errors = read_mix(asked, desk)
        if wish is not None:
            try:
                found = keep_house.mix(desk, tank, wish)
            except (Refused, NotFound) as problem:
                errors.add(problem if isinstance(problem, Refused) else Refused(problem.sentence, "first"))
    return {
        "waters": waters,
        "mix_fields": MIX_FIELDS,
        "mix_typed": asked,
        "mix_errors": errors.by_field,
        "mix": mix_look(found, tank, desk.preferences.units) if found else None,
    }


def _form_page(
    request: Request,
    desk: Desk,
    tank: Tank,
    part: str,
    typed: Any,
    errors: dict[str, str],
    status: int = 200,
    **more: Any,
) -> HTMLResponse:
    return page(
        request,
        desk,
        f"setup/{part}.html",
        status,
        tank=tank,
        parts=[p for p in parts(desk.reference, tank) if p.key in FORMS[part]],
        typed=typed,
        errors=errors,
        action=urls.setup(tank.slug, part),
        look_url=urls.setup_look(tank.slug, part),
        submit=SAVES[part],
        here="setup",
        part=part,
        revisions=tanks.revisions(desk.conn, tank.id),
        **_shown(desk, tank, part) | more,
    )


# --- school ------------------------------------------------------------------------------------------


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
    tank = tanks.tank(desk.conn, slug)
    entries = journal.entries(desk.conn, tank.id)
    seen = look.see_tank(desk, tank)
    s = seen.situation
    given = {k: v for k, v in asked.items() if k in QUESTIONS and v in dict(QUESTIONS[k][1])}
    answers = answers_of(s, Answers(**{"water": "marine" if tank.marine else "fresh"} | given) if given else None)
    views = compare_schools(s, ensemble_of(desk, tank, entries), answers)
    exposed = exposure(s.forecast, s.entries, s.levels.limits) if s.living and s.school.fish_in else None
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
    tank = tanks.tank(desk.conn, slug)
    if typed.text("school") not in desk.reference.schools.cycling:
        raise NotFound("There is no such school.")
    keep_tank.change(desk, slug, replace(tank, school=typed.text("school")))
    return RedirectResponse(urls.setup(slug, "school"), 303)


@router.post("/school")
def save_dose(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    old = tanks.tank(desk.conn, slug)
    changed, errors = read_tank(Form([*typed.items(), ("school", old.school)]), desk, old, ("school",))
    if changed is None:
        return _school(request, desk, slug, {}, errors.by_field, 422, typed=typed)
    keep_tank.change(desk, slug, changed)
    return RedirectResponse(urls.setup(slug, "school"), 303)


# --- fill run and checks -----------------------------------------------------------------------------


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
        tank = tanks.tank(desk.conn, slug)
        told = {f"text-{key}": problem.sentence}
        return _form_page(request, desk, tank, "equipment", typed_of(tank, desk), {}, 422, check_errors=told)
    return RedirectResponse(back_to(typed, f"{urls.setup(slug, 'equipment')}#checks"), 303)


# --- cultures ----------------------------------------------------------------------------------------

CULTURE_FIELDS = tuple(f for f in KINDS["bacteria"].fields)


@router.get("/culture")
def culture(request: Request, desk: AtDesk, slug: str, source: str = "bottle_cool") -> HTMLResponse:
    return _culture(request, desk, slug, {"source": source}, {})


def _culture(
    request: Request, desk: Desk, slug: str, typed: Any, errors: dict[str, str], status: int = 200
) -> HTMLResponse:
    tank, today = tanks.tank(desk.conn, slug), desk.now.date()
    entries = journal.entries(desk.conn, tank.id)
    source = typed.get("source") or "bottle_cool"
    values = read_fields(CULTURE_FIELDS, typed, desk.preferences.units, Errors())
    body = {k: v.isoformat() if hasattr(v, "isoformat") else v for k, v in values.items() if v is not None}
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
        hope=hope(body, today, tank),
        off=off_rows(switched_off(entries), today),
        cultures=[e for e in entries if e.kind in ("bacteria", "rock")],
        here="setup",
        part="culture",
    )


@router.post("/culture/look")
def culture_look(desk: AtDesk, slug: str, typed: Typed) -> HTMLResponse:
    tank, today = tanks.tank(desk.conn, slug), desk.now.date()
    values = read_fields(CULTURE_FIELDS, typed, desk.preferences.units, Errors())
    body = {k: v.isoformat() if hasattr(v, "isoformat") else v for k, v in values.items() if v is not None}
    steps = preparations(tank, str(body.get("source", "bottle")), desk.preferences.units)
    rows = prep_rows(steps, today, typed)
    return fragment(
        desk, "parts/culture_look.html", hope=hope(body, today, tank), steps=rows, ticked=typed.all("ready"), errors={}
    )


@router.post("/culture")
def put_in_culture(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    errors = Errors()
    values = read_fields(CULTURE_FIELDS, typed, desk.preferences.units, errors)
    until = {}
    for name, text in typed.items():
        if name.startswith("until-") and f"off_{name[6:]}" in typed.all("ready"):
            try:
                until[name[6:]] = parse_date(text, name)
            except Refused as problem:
                errors.add(problem)
    if not errors:
        body = {k: v.isoformat() if hasattr(v, "isoformat") else v for k, v in values.items() if v is not None}
        try:
            set_up.put_in_culture(desk, slug, set_up.Culture(body, tuple(typed.all("ready")), until))
            return RedirectResponse(urls.setup(slug, "culture"), 303)
        except Refused as problem:
            errors.add(problem)
    return _culture(request, desk, slug, typed, errors.by_field, 422)


# --- probe -------------------------------------------------------------------------------------------


@router.get("/probe")
def probe(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _probe(request, desk, slug, None, {})


def _probe(
    request: Request, desk: Desk, slug: str, typed: Form | None, errors: dict[str, str], status: int = 200
) -> HTMLResponse:
    heard = probes.listen(desk, slug)
    units = desk.preferences.units
    shown = [q for q in NAMES if heard.traces.get(q)]
    kept = {"url": heard.probe.url, "on": "on" if heard.probe.listening else ""} if heard.probe else {}
    return page(
        request,
        desk,
        "setup/probe.html",
        status,
        tank=heard.tank,
        probe=heard.probe,
        says=heard.says,
        traces=[trace(q, heard.traces[q], heard.entries, desk.now, units) for q in shown],
        small=[trace(q, heard.traces[q], heard.entries, desk.now, units, NARROW) for q in shown],
        beside=[(NAMES[q], rows) for q in NAMES if (rows := beside_rows(heard.beside.get(q, ()), q, units))],
        typed=typed if typed is not None else kept,
        errors=errors,
        here="setup",
        part="probe",
    )


@router.get("/probe/trace.csv")
def probe_trace(desk: AtDesk, slug: str) -> Response:
    heard = probes.listen(desk, slug)
    return Response(
        probe_csv(heard.traces),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{heard.tank.slug}-probe.csv"'},
    )


@router.post("/probe")
def connect_probe(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    try:
        probes.connect(desk, slug, typed.text("url"), "on" in typed)
    except Refused as problem:
        return _probe(request, desk, slug, typed, {problem.field: problem.sentence}, 422)
    return RedirectResponse(urls.setup(slug, "probe"), 303)


# --- the forms ---------------------------------------------------------------------------------------


@router.post("/water/use")
def use_water(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """Take a recorded water, or the mix as worked out, for this tank's new water."""
    tank = tanks.tank(desk.conn, slug)
    wish, errors = read_mix(typed, desk)
    if wish is not None:
        try:
            keep_house.use_for(desk, slug, keep_house.mix(desk, tank, wish).source)
            return RedirectResponse(urls.setup(slug, "water"), 303)
        except Refused as problem:
            errors.add(problem)
    shown = _mixing(desk, tank, typed) | {"mix_errors": errors.by_field}
    return _form_page(request, desk, tank, "water", typed_of(tank, desk), {}, 422, **shown)


@router.post("/water/factor")
def salt_factor(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """How much of the keeper's salt a gram dissolved takes, from a mix that was measured."""
    tank, errors = tanks.tank(desk.conn, slug), Errors()
    v = read_fields(FACTOR_FIELDS, typed, desk.preferences.units, errors)
    if not errors:
        try:
            keep_house.learn_salt_factor(desk, slug, v["mixed_g"], v["mixed_l"], v["reached"])
            return RedirectResponse(urls.setup(slug, "water"), 303)
        except Refused as problem:
            errors.add(problem, "mixed_g")
    more = {"factor_typed": typed, "factor_errors": errors.by_field}
    return _form_page(request, desk, tank, "water", typed_of(tank, desk), {}, 422, **more)


@router.post("/water/mix")
def mix(desk: AtDesk, slug: str, typed: Typed) -> HTMLResponse:
    tank = tanks.tank(desk.conn, slug)
    return fragment(desk, "parts/mix_look.html", tank=tank, **_mixing(desk, tank, typed))


@router.get("/{part}")
def setup_form(request: Request, desk: AtDesk, slug: str, part: str) -> HTMLResponse:
    if part not in FORMS:
        raise NotFound("There is no such page of setting up.")
    tank = tanks.tank(desk.conn, slug)
    return _form_page(request, desk, tank, part, typed_of(tank, desk), {})


@router.post("/{part}/look")
def setup_look(desk: AtDesk, slug: str, part: str, typed: Typed) -> HTMLResponse:
    tank = tanks.tank(desk.conn, slug)
    if part == "volume":
        return volume_fragment(desk, tank, typed)
    if part != "equipment":
        raise NotFound("There is nothing to look at while typing here.")
    changed, errors = read_tank(typed, desk, tank, FORMS[part])
    if changed is not None:
        try:
            keep_tank.check(changed, desk)
            entries = journal.entries(desk.conn, tank.id)
            work = equipment(changed, _animals(desk, tank), desk.reference, entries)
            found = equipment_look(changed, work, desk.preferences.units)
            return fragment(desk, "parts/equipment_look.html", look=found, problems=())
        except Refused as problem:
            errors.add(problem)
    return fragment(desk, "parts/equipment_look.html", 422, look=None, problems=tuple(errors.by_field.items()))


@router.post("/{part}")
def save_setup(request: Request, desk: AtDesk, slug: str, part: str, typed: Typed) -> Response:
    if part not in FORMS:
        raise NotFound("There is no such page of setting up.")
    old = tanks.tank(desk.conn, slug)
    changed, errors = read_tank(typed, desk, old, FORMS[part])
    if changed is not None:
        try:
            keep_tank.change(desk, slug, changed)
            return RedirectResponse(urls.setup(slug, part), 303)
        except Refused as problem:
            errors.add(problem)
    return _form_page(request, desk, old, part, typed, errors.by_field, 422)
