"""What belongs to the house: source waters and instruments."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.journal.kinds.field import Field
from jarbloom.core.water.salinity import read_salinity
from jarbloom.deeds import keep_house, records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.units import canonical, number
from jarbloom.views.house.water import HEADS, hydrometer_words, instrument_row, salinity_words, water_row
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.forms.fields import outdated
from jarbloom.web.forms.house import (
    BLANK_WATER,
    INSTRUMENT_FIELDS,
    WATER_FIELDS,
    read_instrument,
    read_water,
    typed_instrument,
    typed_water,
)
from jarbloom.web.render import page

router = APIRouter()


@router.get("/waters")
def waters(request: Request, desk: AtDesk, s: str = "", t: str = "", c: str = "") -> HTMLResponse:
    """Records, and a converter between salinity and specific gravity (`s`, read at `t` with a scale true at `c`)."""
    today = desk.now.date()
    told, error = _converted(desk, s, t, c) if s.strip() else ((), "")
    return page(
        request,
        desk,
        "waters.html",
        422 if error else 200,
        heads=HEADS,
        waters=[water_row(w, today) for w in records.waters(desk)],
        instruments=[instrument_row(i, today) for i in records.instruments(desk)],
        removed=records.removed_from_house(desk),
        typed={"s": s, "t": t, "c": c},
        told=told,
        error=error,
        here="waters",
        **_compared(desk, dict(request.query_params)),
    )


def _compared(desk: Desk, asked: dict[str, str]) -> dict[str, Any]:
    """Two instruments in one bucket, when the form was sent."""
    shown: dict[str, Any] = {"asked": asked, "compared": None, "compare_errors": {}}
    if "first" not in asked:
        return shown
    units = desk.preferences.units
    try:
        text = asked.get("at", "").strip()
        sample = canonical(number(text, "at", low=0, high=120), units.unit("temp"), "temp") if text else 25.0
        pairs = [(asked.get(w, ""), asked.get(f"{w}_reading", "")) for w in ("first", "second")]
        shown["compared"] = keep_house.compare_instruments(desk, pairs[0], pairs[1], sample)
    except Refused as problem:
        shown["compare_errors"] = {problem.field: problem.sentence}
    return shown


def _converted(desk: Desk, s: str, t: str, c: str) -> tuple[tuple[str, ...], str]:
    units = desk.preferences.units
    try:
        told = read_salinity(s, "s")
        found = [salinity_words(told.g_kg, 25.0, units)]
        if told.is_sg and t.strip():
            sample = canonical(number(t, "t", low=0, high=120), units.unit("temp"), "temp")
            scale = canonical(
                number(c or str(units.value(25.0, "temp")), "c", low=0, high=120), units.unit("temp"), "temp"
            )
            found.append(hydrometer_words(told.value, sample, scale, units))
        return tuple(found), ""
    except Refused as problem:
        return (), problem.sentence


def _thing_page(
    request: Request,
    desk: Desk,
    action: str,
    call: str,
    words: str,
    fields: tuple[Field, ...],
    typed: Any,
    errors: dict[str, str],
    status: int = 0,
    revision: int | None = None,
) -> HTMLResponse:
    return page(
        request,
        desk,
        "water_form.html",
        status or (422 if errors else 200),
        revision=revision,
        fields=fields,
        typed=typed,
        errors=errors,
        call=call,
        words=words,
        action=action,
        here="waters",
    )


def _water_page(
    request: Request, desk: Desk, water_id: int, typed: Any, errors: dict[str, str], status: int = 0
) -> HTMLResponse:
    call = f"{records.water(desk, water_id).name}." if water_id else "A source water."
    words = "From the water works’ report, or from your own kit."
    revision = records.newest_house_revision(desk, water_id) if water_id else None
    return _thing_page(request, desk, urls.water(water_id), call, words, WATER_FIELDS, typed, errors, status, revision)


def _instrument_page(
    request: Request, desk: Desk, thing_id: int, typed: Any, errors: dict[str, str], status: int = 0
) -> HTMLResponse:
    call, words = "An instrument for salinity.", "Two of them, calibrated lately, are what a salinity rests on."
    revision = records.newest_house_revision(desk, thing_id) if thing_id else None
    where = urls.instrument(thing_id)
    return _thing_page(request, desk, where, call, words, INSTRUMENT_FIELDS, typed, errors, status, revision)


@router.get("/waters/{water_id}")
def water_form(request: Request, desk: AtDesk, water_id: int) -> HTMLResponse:
    kept = records.water(desk, water_id) if water_id else BLANK_WATER
    return _water_page(request, desk, water_id, typed_water(kept, desk.preferences.units), {})


@router.post("/waters/{water_id}")
def save_water(request: Request, desk: AtDesk, water_id: int, typed: Typed) -> Response:
    base = records.water(desk, water_id) if water_id else BLANK_WATER
    seen = records.newest_house_revision(desk, water_id) if water_id else None
    before = records.water_at(desk, typed.revision) if typed.revision is not None and typed.revision != seen else None
    if before is not None:
        units = desk.preferences.units
        meanwhile = outdated(
            typed, typed_water(before, units), typed_water(base, units), [f.name for f in WATER_FIELDS]
        )
        if meanwhile:
            return _water_page(request, desk, water_id, typed, meanwhile, 409)
    water, errors = read_water(typed, desk, base)
    if water is not None:
        try:
            keep_house.keep_water(desk, water, seen)
            return RedirectResponse(urls.waters(), 303)
        except Refused as problem:
            errors.add(problem)
    return _water_page(request, desk, water_id, typed, errors.by_field)


@router.get("/instruments/{thing_id}")
def instrument_form(request: Request, desk: AtDesk, thing_id: int) -> HTMLResponse:
    kept = next((i for i in records.instruments(desk) if i.id == thing_id), None)
    if thing_id and kept is None:
        raise NotFound("There is no such instrument.")
    return _instrument_page(request, desk, thing_id, typed_instrument(kept, desk.preferences.units), {})


@router.post("/instruments/{thing_id}")
def save_instrument(request: Request, desk: AtDesk, thing_id: int, typed: Typed) -> Response:
    seen = records.newest_house_revision(desk, thing_id) if thing_id else None
    told = typed.revision if typed.revision != seen else None
    before = records.instrument_at(desk, told) if told is not None else None
    now = next((i for i in records.instruments(desk) if i.id == thing_id), None)
    if before is not None and now is not None:
        a, b = (typed_instrument(x, desk.preferences.units) for x in (before, now))
        meanwhile = outdated(typed, a, b, [f.name for f in INSTRUMENT_FIELDS])
        if meanwhile:
            return _instrument_page(request, desk, thing_id, typed, meanwhile, 409)
    one, errors = read_instrument(typed, desk, thing_id)
    if one is not None:
        try:
            keep_house.keep_instrument(desk, one, seen)
            return RedirectResponse(urls.waters(), 303)
        except Refused as problem:
            errors.add(problem)
    return _instrument_page(request, desk, thing_id, typed, errors.by_field)


@router.post("/instruments/{thing_id}/calibrated")
def calibrated(desk: AtDesk, thing_id: int) -> Response:
    keep_house.calibrated_today(desk, thing_id)
    return RedirectResponse(urls.waters(), 303)


@router.post("/house/{thing_id}/{what}")
def shelve_thing(desk: AtDesk, thing_id: int, what: str) -> Response:
    {"remove": keep_house.remove, "restore": keep_house.put_back}.get(what, _no)(desk, thing_id)
    return RedirectResponse(urls.waters(), 303)


def _no(desk: Desk, thing_id: int) -> None:
    raise NotFound("Things are removed or put back.")
