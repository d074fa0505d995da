"""The outlook: the forecast in full, what-ifs, and the two downloads."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import HTMLResponse

from jarbloom.core.advice.outlook import Asked
from jarbloom.deeds import look
from jarbloom.deeds.outlook import MOST, see_levers, see_outlook
from jarbloom.formats.forecast_csv import forecast_csv
from jarbloom.views.drawn.fan import BY_KEY, QUANTITIES, fan
from jarbloom.views.tank.levers import lever_rows
from jarbloom.views.tank.outlook import outlook_page
from jarbloom.web.deps import AtDesk
from jarbloom.web.render import fragment, page, picture

router = APIRouter(prefix="/tanks/{slug}/outlook")


@router.get("")
def outlook(
    request: Request,
    desk: AtDesk,
    slug: str,
    q: str = "no2",
    w: Annotated[list[str] | None, Query()] = None,
    d: Annotated[list[str] | None, Query()] = None,
) -> HTMLResponse:
    pairs = [(line, day) for line, day in zip(w or [], (d or []) + [""] * MOST, strict=False) if line.strip()]
    found = see_outlook(desk, slug, pairs[-MOST:])
    refused = any(a.refused for a in found.asked)
    kept = [(name, value) for a in found.asked for name, value in (("w", a.line), ("d", a.day))]
    return page(
        request,
        desk,
        "outlook.html",
        422 if refused else 200,
        tank=found.seen.tank,
        p=outlook_page(found, q),
        rows=[*found.asked, *[Asked("", "")] * (MOST - len(found.asked))],
        columns_shown=bool(found.asked),
        query="&" + urlencode(kept) if kept else "",
        here="outlook",
    )


@router.get("/sooner")
def sooner(desk: AtDesk, slug: str) -> HTMLResponse:
    seen, found = see_levers(desk, slug)
    return fragment(desk, "parts/sooner.html", rows=lever_rows(found, seen.situation))


@router.get("/chart.svg")
def chart(desk: AtDesk, slug: str, q: str = "no2") -> Response:
    seen = look.see(desk, slug)
    drawn = fan(seen.situation, BY_KEY.get(q, QUANTITIES[0]), 1200, 380)
    return Response(
        picture(desk, "fan.svg", chart=drawn),
        media_type="image/svg+xml",
        headers={"Content-Disposition": f'attachment; filename="{seen.tank.slug}-{q if q in BY_KEY else "no2"}.svg"'},
    )


@router.get("/forecast.csv")
def table(desk: AtDesk, slug: str) -> Response:
    seen = look.see(desk, slug)
    return Response(
        forecast_csv(seen.situation.forecast),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{seen.tank.slug}-forecast.csv"'},
    )
