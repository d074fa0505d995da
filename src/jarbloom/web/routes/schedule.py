"""The schedule: jobs of all tanks, the calendar feed, reminder mail."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.deeds import records, remind, stores
from jarbloom.deeds import schedule as deeds
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Refused
from jarbloom.views.house.schedule import schedule_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed
from jarbloom.web.render import page

router = APIRouter()
ICS = "text/calendar; charset=utf-8"


def _base(request: Request) -> str:
    return str(request.base_url).rstrip("/")


def _show(
    request: Request, desk: Desk, typed: Any = None, errors: Any = None, status: int = 200, feed: str = ""
) -> HTMLResponse:
    found = deeds.see_schedule(desk)
    return page(
        request,
        desk,
        "schedule.html",
        status,
        p=schedule_page(found.listed, found.told, found.put_off, desk.now),
        tanks=found.tanks,
        unlisted=found.unlisted,
        feed=feed,
        feed_open=found.feed,
        mail=typed if typed is not None else found.mail,
        mail_page=request.app.state.settings.mail_page,
        sent=found.sent,
        missed=found.missed,
        running_out=stores.running_out(desk),
        broken=found.broken,
        help=records.mail_fields(),
        errors=errors or {},
        here="schedule",
    )


@router.get("/schedule")
def schedule(request: Request, desk: AtDesk) -> HTMLResponse:
    return _show(request, desk)


@router.post("/schedule/feed")
def new_feed(request: Request, desk: AtDesk) -> Response:
    """The address is shown in the answer itself, and never again."""
    return _show(request, desk, feed=_base(request) + urls.calendar_feed(deeds.open_feed(desk)))


@router.post("/schedule/feed/end")
def end_feed(desk: AtDesk) -> Response:
    deeds.close_feed(desk)
    return RedirectResponse(urls.schedule() + "#calendar", 303)


@router.post("/schedule/tanks")
def choose_tanks(desk: AtDesk, typed: Typed) -> Response:
    deeds.choose_tanks(desk, set(typed.all("tank")))
    return RedirectResponse(urls.schedule() + "#calendar", 303)


@router.get("/schedule/jobs.ics")
def calendar_file(request: Request, desk: AtDesk) -> Response:
    headers = {"Content-Disposition": 'attachment; filename="jar-bloom-jobs.ics"'}
    return Response(deeds.calendar_file(desk, _base(request)), media_type=ICS, headers=headers)


@router.get("/calendar/{secret}.ics")
def calendar_feed(request: Request, desk: AtDesk, secret: str) -> Response:
    return Response(
        deeds.calendar_feed(desk, secret, _base(request)), media_type=ICS, headers={"Cache-Control": "no-store"}
    )


@router.post("/schedule/mail")
def save_mail(request: Request, desk: AtDesk, typed: Typed) -> Response:
    try:
        remind.keep_mail(desk, typed)
    except Refused as problem:
        return _show(request, desk, typed, {problem.field: problem.sentence}, 422)
    return RedirectResponse(urls.schedule() + "#mail", 303)
