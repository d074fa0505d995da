"""An arrival day: the bag, the steps with their timers, and what comes after."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.animals.acclimatise import Bag
from jarbloom.core.animals.arrival import WATCH_FOR
from jarbloom.core.journal.kinds.choices import BRED, SIGNS
from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.readings import read
from jarbloom.core.model.tank import Tank
from jarbloom.deeds import arrive, look, records
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import setting_of
from jarbloom.deeds.water_record import MOST_NOTES, bag_lately
from jarbloom.errors import GateClosed, Refused
from jarbloom.views.stocking.arrival import bag_typed, feeding_rows, heads, step_rows, way_rows
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.forms.fields import Errors, read_fields
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}/arrival")


def _fields(tank: Tank) -> tuple[Field, ...]:
    salt = (Field("salinity", "salinity of the bag", "salinity", hint="35 (g/kg) or 1.026 sg"),)
    return (
        Field("bags", "how many bags", "number", low=1, high=20, whole=True,
              hint="alike, on one clock; one when left empty"),
        Field("litres", "water in the bag", "number", "volume", low=0.05, high=200, required=True,
              hint="in each, of several"),
        Field("hours", "hours on the way", "number", low=0.1, high=96, required=True),
        Field("temp_c", "temperature of the bag", "number", "temp", low=0, high=40),
        Field("ph", "pH of the bag", "number", low=4, high=10),
        *(salt if tank.salinity_g_kg else ()),
        Field("ammonia", "ammonia of the bag", hint="as your kit shows it; it is reckoned when left empty"),
        Field("seller", "from", hint="shop, keeper or tank, as you call it"),
        Field("tank_bred", "tank-bred", "choice", choices=BRED),
    )  # fmt: skip


def _form(
    request: Request, desk: Desk, slug: str, typed: Any, errors: dict[str, str], status: int = 200
) -> HTMLResponse:
    s = look.see(desk, slug).situation
    open_run = arrive.open_day(desk, slug)
    typed = {"batch": "", "where": "display"} | dict(typed)
    return page(
        request, desk, "arrival_new.html", status, tank=s.tank, fields=_fields(s.tank), typed=typed, errors=errors,
        batches=[(b.id, f"{b.name}, {b.planned:%a %-d %b}") for b in s.waiting], open_run=open_run,
        gates={g.batch_id: g for g in s.gates}, here="stocking", part="plan",
    )  # fmt: skip


@router.get("")
def new(request: Request, desk: AtDesk, slug: str, batch: str = "") -> HTMLResponse:
    tank = records.tank(desk, slug)
    where = "quarantine" if desk.reference.schools.quarantine[tank.quarantine].days else "display"
    return _form(request, desk, slug, {"batch": batch, "hours": "1", "where": where} | _bag_read(desk, tank), {})


def _bag_read(desk: Desk, tank: Tank) -> dict[str, str]:
    """What the log read in a bag in these hours, as the form has it."""
    notes = desk.log(tank.id).kinds(Note, Tested)[-MOST_NOTES:]
    return bag_typed(bag_lately(desk, setting_of(desk, tank), notes), tank.kit, desk.preferences.units)


@router.post("")
def begin(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    tank, errors = records.tank(desk, slug), Errors()
    v = read_fields(_fields(tank), typed, desk.preferences.units, errors)
    tan = None
    try:
        tan = read("ammonia", typed.text("ammonia"), tank.kit).seen if typed.text("ammonia") else None
    except Refused as problem:
        errors.add(problem, "ammonia")
    if not typed.text("batch").isdecimal():
        errors.add(Refused("Say which batch has come.", "batch"))
    if not errors:
        bag = Bag(v["litres"], v.get("temp_c"), v.get("ph"), v.get("salinity"), tan, v["hours"],
                  int(v.get("bags") or 1))  # fmt: skip
        told = {"seller": typed.text("seller"), "tank_bred": typed.text("tank_bred")}
        try:
            run = arrive.begin(desk, slug, int(typed.text("batch")), bag, typed.text("where"), told)
            return RedirectResponse(urls.arrival(slug, run), 303)
        except Refused as problem:
            errors.add(problem)
    return _form(request, desk, slug, typed, errors.by_field, 422)


def _show(
    request: Request, desk: Desk, slug: str, run_id: int, errors: dict[str, str], typed: Any, status: int = 200
) -> HTMLResponse:
    day = arrive.day(desk, slug, run_id)
    schools = desk.reference.schools
    rows = step_rows(day.steps, desk.now, desk.preferences.units, schools.bag_water[day.tank.bag_water], day.bag.bags)
    gates = look.see(desk, slug).situation.gates
    now_at = next((r for r in rows if r.state in ("now", "waiting")), None)
    return page(
        request, desk, "arrival.html", status, tank=day.tank, day=day, rows=rows, now_at=now_at,
        ways=way_rows(day.advice, day.course.way, schools), feeding=feeding_rows(day.run.begun_at, day.ration_g),
        heads=heads(day.animals, desk.reference), signs=[(k, SIGNS[k]) for k in WATCH_FOR],
        errors=errors, typed=typed, gate=next((g for g in gates if g.batch_id == day.batch.id), None),
        can_choose=not set(day.run.done) - {"lights", "float"},
        here="stocking", part="plan",
    )  # fmt: skip


@router.get("/{run_id}")
def run(request: Request, desk: AtDesk, slug: str, run_id: int) -> HTMLResponse:
    return _show(request, desk, slug, run_id, {}, {})


@router.post("/{run_id}/way")
def way(request: Request, desk: AtDesk, slug: str, run_id: int, typed: Typed) -> Response:
    try:
        arrive.choose_way(desk, slug, run_id, typed.text("way"))
    except Refused as problem:
        return _show(request, desk, slug, run_id, {"way": problem.sentence}, typed, 422)
    return RedirectResponse(urls.arrival(slug, run_id), 303)


@router.post("/{run_id}/untick")
def untick(request: Request, desk: AtDesk, slug: str, run_id: int) -> Response:
    try:
        arrive.untick(desk, slug, run_id)
    except Refused as problem:
        return _show(request, desk, slug, run_id, {"step": problem.sentence}, {}, 422)
    return RedirectResponse(urls.arrival(slug, run_id), 303)


@router.post("/{run_id}/end")
def give_up(desk: AtDesk, slug: str, run_id: int) -> Response:
    arrive.give_up(desk, slug, run_id)
    return RedirectResponse(urls.stocking(slug), 303)


@router.post("/{run_id}/{step}")
def tick(request: Request, desk: AtDesk, slug: str, run_id: int, step: str, typed: Typed) -> Response:
    try:
        arrive.tick(desk, slug, run_id, step, typed, typed.all("signs"))
    except GateClosed as problem:
        return _show(request, desk, slug, run_id, {"override": problem.sentence}, typed, 409)
    except Refused as problem:
        return _show(request, desk, slug, run_id, {problem.field or "step": problem.sentence}, typed, 422)
    return RedirectResponse(f"{urls.arrival(slug, run_id)}#now", 303)
