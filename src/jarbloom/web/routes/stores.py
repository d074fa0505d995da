"""What is in store, and the list for the shop."""

from __future__ import annotations

from collections.abc import Mapping

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.setup.supplies import Lasts
from jarbloom.deeds import stores as deeds
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.units import figure
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.forms.stores import FIELDS, read_supply, typed_supply
from jarbloom.web.render import page

router = APIRouter()


def _left(x: Lasts) -> str:
    return "not counted" if x.left is None else f"{figure(x.left, 3)} {x.supply.unit}"


def _used(x: Lasts) -> str:
    return f"{figure(x.per_day, 2)} {x.supply.unit} a day, {x.rests_on}" if x.per_day else "not told by the log"


@router.get("/stores")
def show(request: Request, desk: AtDesk) -> HTMLResponse:
    found = deeds.see(desk)
    rows = [(x, _left(x), _used(x), deeds.words(x).split(": ", 1)[1]) for x in found.lasts]
    counts = (sum(x.to_buy for x in found.lasts), sum(x.state == "unknown" for x in found.lasts))
    return page(
        request, desk, "stores.html", rows=rows, counts=counts, removed=found.removed, months=found.months,
        list=deeds.shopping(desk, found), here="stores",
    )  # fmt: skip


def _form(
    request: Request, desk: Desk, supply_id: int, typed: Mapping[str, str], errors: Mapping[str, str]
) -> HTMLResponse:
    call = f"{deeds.of(desk, supply_id).name}." if supply_id else "Something in store."
    return page(
        request, desk, "water_form.html", 422 if errors else 200, fields=FIELDS, typed=typed, errors=errors, call=call,
        words="What is left, and until when it is good.", action=urls.store(supply_id), back_to=urls.stores(),
        here="stores",
    )  # fmt: skip


@router.get("/stores/{supply_id}")
def form(request: Request, desk: AtDesk, supply_id: int) -> HTMLResponse:
    kept = deeds.of(desk, supply_id) if supply_id else None
    return _form(request, desk, supply_id, typed_supply(kept), {})


@router.post("/stores/{supply_id}")
def save(request: Request, desk: AtDesk, supply_id: int, typed: Typed) -> Response:
    if supply_id:
        deeds.of(desk, supply_id)
    one, errors = read_supply(typed, desk, supply_id)
    if one is not None:
        try:
            deeds.keep(desk, one)
            return RedirectResponse(urls.stores(), 303)
        except Refused as problem:
            errors.add(problem)
    return _form(request, desk, supply_id, typed, errors.by_field)


@router.post("/stores/{supply_id}/{what}")
def shelve(desk: AtDesk, supply_id: int, what: str, typed: Typed) -> Response:
    if what not in ("remove", "restore"):
        raise NotFound("Things are removed or put back.")
    deeds.remove(desk, supply_id, back=what == "restore")
    return RedirectResponse(urls.stores(), 303)
