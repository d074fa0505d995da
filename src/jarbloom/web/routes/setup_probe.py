"""A tank's probe: its address, its trace beside the tests, what is wrong with it."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.deeds import probes
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.formats.probe_csv import probe_csv
from jarbloom.views.setup.probe import NAMES, NARROW, beside_rows, trace
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}/setup")


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
