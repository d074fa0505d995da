"""The record of a tank: strips over days or years, and what is in view as files."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request
from fastapi.responses import HTMLResponse, PlainTextResponse, Response

from jarbloom.deeds import records
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.history import Asked, Looked, look
from jarbloom.errors import NotFound
from jarbloom.formats.history_csv import history_csv
from jarbloom.views.drawn.years.layout import NARROW, WIDE, Layout
from jarbloom.views.drawn.years.sheet import sheet
from jarbloom.views.drawn.years.strips import in_view
from jarbloom.views.tank.history import HistoryPage, history_page, span_words
from jarbloom.views.tank.history_table import table
from jarbloom.views.tank.photos import shot
from jarbloom.web.deps import AtDesk
from jarbloom.web.render import fragment, on_a_phone, page, picture

router = APIRouter(prefix="/tanks/{slug}")

Typed = Annotated[str, Query(max_length=60)]


def asked_for(
    first: Annotated[str, Query(alias="from", max_length=60)] = "", to: Typed = "", span: Typed = "", over: Typed = "",
    over_from: Typed = "", q: Annotated[list[str], Query(max_length=40)] = [],  # noqa: B006
) -> Asked:  # fmt: skip
    return Asked(span, first, to, over, over_from, tuple(q))


AsAsked = Annotated[Asked, Depends(asked_for)]


def _page(request: Request, desk: Desk, slug: str, asked: Asked) -> HTMLResponse:
    looked = look(desk, slug, asked)
    shown = _shown(desk, looked, asked, NARROW if on_a_phone(request) else WIDE)
    typed = {"from": asked.first, "to": asked.last, "over_from": asked.over_from}
    context = {
        "p": shown,
        "shots": [shot(e, looked.record.tank) for e in looked.photos],
        "problems": looked.problems,
        "typed": typed,
        "tank": records.tank(desk, slug),
    }
    status = 422 if looked.problems else 200
    if request.headers.get("hx-request"):
        return fragment(desk, "parts/history.html", status, **context)
    return page(request, desk, "history.html", status, here="log", **context)


def _shown(desk: Desk, looked: Looked, asked: Asked, layout: Layout) -> HistoryPage:
    species, units = desk.reference.species, desk.preferences.units
    return history_page(looked.record, looked.over, looked.others, species, units, asked.chosen, layout)


@router.get("/history")
def history(request: Request, desk: AtDesk, slug: str, asked: AsAsked) -> HTMLResponse:
    return _page(request, desk, slug, asked)


@router.get("/history/figures")
def figures(request: Request, desk: AtDesk, slug: str, asked: AsAsked) -> HTMLResponse:
    """The table behind the picture; it is asked for once the picture stands."""
    r = look(desk, slug, asked).record
    context = {"t": table(r), "in_view": in_view(r)}
    if request.headers.get("hx-request"):
        return fragment(desk, "parts/history_figures.html", **context)
    return page(request, desk, "history_figures.html", here="log", tank=r.tank, span=span_words(r.window),
                query=request.url.query, **context)  # fmt: skip


@router.get("/history/{width}")
def in_width(desk: AtDesk, slug: str, width: str, asked: AsAsked) -> HTMLResponse:
    """The picture in the width that did not come with the page."""
    layout = next((lay for lay in (WIDE, NARROW) if lay.name == width), None)
    if layout is None:
        raise NotFound("There is no such picture.")
    shown = _shown(desk, look(desk, slug, asked), asked, layout)
    return fragment(desk, "parts/history_picture.html", p=shown, late=True)


@router.get("/history.csv")
def history_as_csv(desk: AtDesk, slug: str, asked: AsAsked) -> PlainTextResponse:
    """Every reading in view, one a row, in the units that the page shows."""
    text = history_csv(look(desk, slug, asked).record)
    name = f"{slug}-{asked.first or 'record'}.csv"
    return PlainTextResponse(text, media_type="text/csv; charset=utf-8",
                             headers={"Content-Disposition": f'attachment; filename="{name}"'})  # fmt: skip


@router.get("/history.svg")
def history_as_svg(desk: AtDesk, slug: str, asked: AsAsked) -> Response:
    """The picture that is in view, with its own colours: for a letter or a page elsewhere."""
    r = look(desk, slug, asked).record
    drawn = sheet(r, WIDE, desk.reference.species, desk.preferences.units)
    return Response(
        picture(desk, "history.svg", s=drawn, over=r.over is not None),
        media_type="image/svg+xml",
        headers={"Content-Disposition": f'attachment; filename="{slug}-record.svg"'},
    )
