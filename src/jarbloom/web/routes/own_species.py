"""The keeper's own species: list, form, CSV in and out."""

from __future__ import annotations

from collections.abc import Mapping

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, PlainTextResponse, RedirectResponse

from jarbloom.core.animals.names import match_species, nearest_species
from jarbloom.deeds import own_species
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.forms.fields import outdated
from jarbloom.web.forms.own_species import FIELDS, cells_from, typed_of
from jarbloom.web.render import page

router = APIRouter(prefix="/species")


def _list(request: Request, desk: Desk, status: int = 200, typed: str = "", problem: str = "") -> HTMLResponse:
    asked = request.query_params
    return page(
        request, desk, "species.html", status, own=own_species.own_of(desk), typed=typed, problem=problem,
        kept=asked.get("kept", ""), like="", here="species",
        names=sorted(k.name for k in desk.reference.species.values()),
    )  # fmt: skip


@router.get("")
def own(request: Request, desk: AtDesk) -> HTMLResponse:
    return _list(request, desk)


@router.get("/own.csv")
def download(desk: AtDesk) -> PlainTextResponse:
    head = {"Content-Disposition": 'attachment; filename="own-species.csv"'}
    return PlainTextResponse(own_species.as_csv(desk), media_type="text/csv; charset=utf-8", headers=head)


@router.post("/csv")
def bring_in(request: Request, desk: AtDesk, typed: Typed) -> Response:
    text = typed.get("csv", "")
    try:
        count = own_species.bring_in(desk, text)
    except Refused as problem:
        return _list(request, desk, 422, text, problem.sentence)
    return RedirectResponse(f"{urls.species()}?kept={count}", 303)


def _form(
    request: Request, desk: Desk, key: str, typed: Mapping[str, str], errors: dict[str, str], like: str = "",
    status: int = 0,
) -> HTMLResponse:  # fmt: skip
    revision = own_species.newest_revision(desk, key) if key else None
    names = sorted(k.name for k in desk.reference.offered.values())
    return page(
        request, desk, "species_form.html", status or (422 if errors else 200), revision=revision,
        parts=FIELDS, typed=typed, errors=errors, key=key,
        like=like, names=names, here="species",
    )  # fmt: skip


@router.get("/new")
def new(request: Request, desk: AtDesk, like: str = "", name: str = "") -> HTMLResponse:
    species, errors = desk.reference.species, {}
    key = like if like in species else match_species(like, species) if like else "unknown"
    if key is None:
        near = nearest_species(like, species)
        errors = {"like": f"“{like[:40]}” is not in the catalogue.{f' Did you mean {near}?' if near else ''}"}
        key = "unknown"
    cells = own_species.start_from(desk, key)
    typed = typed_of(cells, desk.preferences.units) | {"name": name[:80]}
    return _form(request, desk, "", typed, errors, like if errors else species[key].name)


@router.post("/new")
def add(request: Request, desk: AtDesk, typed: Typed) -> Response:
    return _save(request, desk, "", typed)


@router.get("/{key}")
def change(request: Request, desk: AtDesk, key: str) -> HTMLResponse:
    row = own_species.own_row(desk, key)
    return _form(request, desk, key, typed_of(row.cells, desk.preferences.units), {})


@router.post("/{key}")
def save(request: Request, desk: AtDesk, key: str, typed: Typed) -> Response:
    own_species.own_row(desk, key)
    return _save(request, desk, key, typed)


def _save(request: Request, desk: Desk, key: str, typed: Typed) -> Response:
    meanwhile = _changed_meanwhile(desk, key, typed) if key else {}
    if meanwhile:
        return _form(request, desk, key, typed, meanwhile, status=409)
    cells, wrong = cells_from(typed, desk.preferences.units)
    if not wrong:
        made, wrong = own_species.keep(desk, key, cells)
        if made:
            return RedirectResponse(f"{urls.species()}#{made}", 303)
    return _form(request, desk, key, typed, wrong)


def _changed_meanwhile(desk: Desk, key: str, typed: Typed) -> dict[str, str]:
    """What another device has changed since the form was made."""
    if typed.revision is None or typed.revision == own_species.newest_revision(desk, key):
        return {}
    before = own_species.cells_at(desk, key, typed.revision)
    if before is None:
        return {}
    units, now = desk.preferences.units, own_species.own_row(desk, key).cells
    names = [f.name for _, part in FIELDS for f in part]
    return outdated(typed, typed_of(before, units), typed_of(now, units), names)


@router.post("/{key}/{how}")
def shelve(desk: AtDesk, key: str, how: str) -> Response:
    (own_species.restore if how == "restore" else own_species.remove)(desk, key)
    return RedirectResponse(urls.species(), 303)
