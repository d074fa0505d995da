"""The forms of setting up: volume, equipment, water, with what they come to while they are typed in."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.checks import checks_due
from jarbloom.core.setup.equipment import equipment
from jarbloom.core.setup.source import source_apart
from jarbloom.core.vessel.volume import net_l
from jarbloom.deeds import keep_house, keep_tank, look, records, water_record
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.views.house.water import mix_look, tank_water_facts
from jarbloom.views.setup.equipment import check_rows, equipment_look
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed
from jarbloom.web.forms.fields import Errors, read_fields
from jarbloom.web.forms.house import FACTOR_FIELDS, MIX_FIELDS, blank_mix, read_mix
from jarbloom.web.forms.tank import changed_meanwhile, read_tank, typed_of
from jarbloom.web.forms.tank_parts import parts
from jarbloom.web.looks import volume_fragment, volume_of
from jarbloom.web.render import fragment, page

router = APIRouter(prefix="/tanks/{slug}/setup")
FORMS = {"volume": ("volume",), "equipment": ("filters", "heaters"), "water": ("water", "source")}
SAVES = {"volume": "Save the volume", "equipment": "Save the equipment", "water": "Save the water"}


def _animals(desk: Desk, tank: Tank) -> tuple[Any, ...]:
    """What lives here and what is planned."""
    entries = desk.log(tank.id)
    plan = records.plan_of(desk, tank, entries)
    from_plan = tuple(a for b in plan if b.arrived is None for a in b.items)
    return (*look.stock_of(entries, desk.now), *from_plan)


def _shown(desk: Desk, tank: Tank, part: str, typed: Form | None = None) -> dict[str, Any]:
    """What stands beside a form."""
    units = desk.preferences.units
    if part == "volume":
        return {"look": volume_of(tank, desk), "problems": (), "needs": (), "net": units.volume(net_l(tank))}
    if part == "equipment":
        entries = desk.log(tank.id)
        found = equipment_look(tank, equipment(tank, _animals(desk, tank), desk.reference, entries), units)
        due = checks_due(desk.reference.checks, tank, entries, desk.now.date())
        return {"look": found, "problems": (), "checks": check_rows(due, desk.now.date())}
    factor = {"factor_fields": FACTOR_FIELDS, "factor_typed": {}, "factor_errors": {}}
    record = water_record.record_of(desk, tank)
    read_on = f"{record.measured_on:%-d %b}" if record is not None and record.measured_on else ""
    said = {"record": record, "read_on": read_on, "apart": source_apart(tank, record)}
    return {"facts": tank_water_facts(tank, units), **factor, **said, **_mixing(desk, tank, typed)}


def _mixing(desk: Desk, tank: Tank, typed: Form | None) -> dict[str, Any]:
    waters = records.waters(desk)
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


def form_page(
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
        revisions=records.revisions(desk, tank),
        **_shown(desk, tank, part) | more,
    )


@router.post("/water/use")
def use_water(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """Take a recorded water, or the mix as worked out, for this tank's new water."""
    tank = records.tank(desk, slug)
    wish, errors = read_mix(typed, desk)
    if wish is not None:
        try:
            keep_house.use_for(desk, slug, keep_house.mix(desk, tank, wish).source)
            return RedirectResponse(urls.setup(slug, "water"), 303)
        except Refused as problem:
            errors.add(problem)
    shown = _mixing(desk, tank, typed) | {"mix_errors": errors.by_field}
    return form_page(request, desk, tank, "water", typed_of(tank, desk), {}, 422, **shown)


@router.post("/water/record")
def use_record(desk: AtDesk, slug: str) -> Response:
    """From now on this tank reckons with its water as the record has it."""
    record = water_record.record_of(desk, records.tank(desk, slug))
    if record is not None:
        keep_house.use_for(desk, slug, record.source)
    return RedirectResponse(urls.setup(slug, "water"), 303)


@router.post("/water/factor")
def salt_factor(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """How much of the keeper's salt a gram dissolved takes, from a mix that was measured."""
    tank, errors = records.tank(desk, slug), Errors()
    v = read_fields(FACTOR_FIELDS, typed, desk.preferences.units, errors)
    if not errors:
        try:
            keep_house.learn_salt_factor(desk, slug, v["mixed_g"], v["mixed_l"], v["reached"])
            return RedirectResponse(urls.setup(slug, "water"), 303)
        except Refused as problem:
            errors.add(problem, "mixed_g")
    more = {"factor_typed": typed, "factor_errors": errors.by_field}
    return form_page(request, desk, tank, "water", typed_of(tank, desk), {}, 422, **more)


@router.post("/water/mix")
def mix(desk: AtDesk, slug: str, typed: Typed) -> HTMLResponse:
    tank = records.tank(desk, slug)
    return fragment(desk, "parts/mix_look.html", tank=tank, **_mixing(desk, tank, typed))


@router.get("/{part}")
def setup_form(request: Request, desk: AtDesk, slug: str, part: str) -> HTMLResponse:
    if part not in FORMS:
        raise NotFound("There is no such page of setting up.")
    tank = records.tank(desk, slug)
    return form_page(request, desk, tank, part, typed_of(tank, desk), {})


@router.post("/{part}/look")
def setup_look(desk: AtDesk, slug: str, part: str, typed: Typed) -> HTMLResponse:
    tank = records.tank(desk, slug)
    if part == "volume":
        return volume_fragment(desk, tank, typed)
    if part != "equipment":
        raise NotFound("There is nothing to look at while typing here.")
    changed, errors = read_tank(typed, desk, tank, FORMS[part])
    if changed is not None:
        try:
            keep_tank.check(changed, desk)
            entries = desk.log(tank.id)
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
    old = records.tank(desk, slug)
    seen, meanwhile = records.newest_revision(desk, old), changed_meanwhile(typed, desk, old, FORMS[part])
    if meanwhile:
        return form_page(request, desk, old, part, typed, meanwhile, 409)
    changed, errors = read_tank(typed, desk, old, FORMS[part])
    if changed is not None:
        try:
            keep_tank.change(desk, slug, changed, seen)
            return RedirectResponse(urls.setup(slug, part), 303)
        except Refused as problem:
            errors.add(problem)
    return form_page(request, desk, old, part, typed, errors.by_field, 422)
