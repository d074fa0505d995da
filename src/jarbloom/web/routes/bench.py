"""The bench: all tanks at once, or the three ways in when there is none yet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.journal.kinds.choices import CHANGED_LATELY
from jarbloom.core.model.tank import Tank
from jarbloom.data import catalogue
from jarbloom.deeds import back_up, keep_tank, look, records, stores
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.manner import CLOCKS, DECIMALS
from jarbloom.views.house import bench as bench_view
from jarbloom.views.tank.desk import at_first, sign_groups
from jarbloom.web import urls
from jarbloom.web.deps import PATIENT, PATIENT_S, AtDesk, Typed, back_to
from jarbloom.web.forms.tank import read_tank, typed_of
from jarbloom.web.forms.tank_parts import parts
from jarbloom.web.forms.trouble import read_trouble
from jarbloom.web.looks import volume_fragment
from jarbloom.web.render import THEMES, page, theme_of
from jarbloom.web.routes.begin import glass_step

router = APIRouter()

WAYS = {
    "dry": ("A dry tank", "Plan it before water goes in."),
    "cycling": ("It has been cycling for some days", "Say when it began; what was read so far goes in by a line each."),
}


@router.get("/ready")
def ready(desk: AtDesk, tank: str) -> Response:
    """Comes when the forecast of a tank is made; the page that waits for it is loaded again. Where it cannot be made
    the page is not held up by it: loaded again it says what is wrong, and the other tanks stand."""
    answer = Response(status_code=204, headers={"HX-Refresh": "true"})
    try:
        look.see(replace(desk, waits=True), tank)
    except Exception:  # told by the page itself
        answer.set_cookie(PATIENT, "1", max_age=PATIENT_S, samesite="lax")
    return answer


@router.get("/")
def bench(request: Request, desk: AtDesk) -> HTMLResponse:
    found = look.see_bench(desk)
    shelf = records.shelf(desk)
    if not found.seen and not found.broken:
        return glass_step(request, desk, "dry", {}, {})
    return page(
        request,
        desk,
        "bench.html",
        200,
        bench=bench_view.bench_page(found.seen, desk.reference, desk.preferences.units, [b.name for b in found.broken]),
        broken=found.broken,
        shelf=shelf,
        missed=back_up.missed(desk),
        running_out=stores.running_out(desk),
        here="bench",
    )


@router.get("/start")
def ways(request: Request, desk: AtDesk) -> HTMLResponse:
    return glass_step(request, desk, "dry", {}, {})


def _tank_form(
    request: Request, desk: AtDesk, way: str, typed: dict[str, Any], errors: object, status: int
) -> HTMLResponse:
    call, words = WAYS[way]
    return page(
        request,
        desk,
        "tank_form.html",
        status,
        parts=parts(desk.reference),
        look=None,
        look_url=urls.draw_new(),
        typed=typed,
        errors=errors,
        call=call,
        words=words,
        action=urls.start(way),
        submit="Set up the tank",
        way=way,
        here="bench",
    )


@router.get("/start/trouble")
def trouble_form(request: Request, desk: AtDesk) -> HTMLResponse:
    return _trouble(request, desk, 200, {}, {})


@router.post("/start/trouble")
def trouble(request: Request, desk: AtDesk, typed: Typed) -> Response:
    told, errors = read_trouble(typed, desk)
    if told is not None:
        try:
            tank = keep_tank.rescue(desk, told)
            return RedirectResponse(urls.upset(tank.slug), 303)
        except Refused as problem:
            errors.add(problem)
    return _trouble(request, desk, 422, typed, errors.by_field, typed.all("signs"), typed.all("changed"))


def _trouble(
    request: Request, desk: Desk, status: int, typed: Mapping[str, Any], errors: Mapping[str, str],
    signs_on: Sequence[str] = (), changed_on: Sequence[str] = (),
) -> HTMLResponse:  # fmt: skip
    """First aid at once, the tanks that are there, and the short form for one that is not."""
    return page(
        request, desk, "trouble.html", status, typed=typed, signs_on=signs_on, changed_on=changed_on, errors=errors,
        groups=sign_groups(), changed=tuple(CHANGED_LATELY.items()), first=at_first(desk.reference),
        tanks=[t for t in records.all_tanks(desk) if t.filled], here="trouble",
    )  # fmt: skip


@router.post("/start/draw")
def draw(desk: AtDesk, typed: Typed) -> HTMLResponse:
    return volume_fragment(desk, None, typed)


@router.get("/start/{way}")
@router.get("/start/{way}/all")
def start_form(request: Request, desk: AtDesk, way: str) -> HTMLResponse:
    if way not in WAYS:
        raise NotFound("There is no such way in.")
    blank = Tank("", desk.now.date(), filled=way == "cycling")
    return _tank_form(request, desk, way, typed_of(blank, desk) | {"name": ""}, {}, 200)


@router.post("/start/{way}")
def start(request: Request, desk: AtDesk, typed: Typed, way: str) -> Response:
    if way not in WAYS:
        raise NotFound("There is no such way in.")
    tank, errors = read_tank(typed, desk)
    if tank is not None:
        try:
            kept = keep_tank.set_up(desk, tank)
            return RedirectResponse(urls.tank(kept.slug) if kept.filled else urls.setup(kept.slug, "fill"), 303)
        except Refused as problem:
            errors.add(problem)
    return _tank_form(request, desk, way, typed, errors.by_field, 422)


@router.post("/shelf/{tank_id}/restore")
def restore(desk: AtDesk, tank_id: int) -> Response:
    keep_tank.unshelve(desk, tank_id)
    return RedirectResponse(urls.bench(), 303)


@router.get("/preferences")
def preferences_form(request: Request, desk: AtDesk) -> HTMLResponse:
    kept = records.preferences_of(desk)
    return page(request, desk, "preferences.html", 200, typed=kept, errors={}, saved=False, here="preferences",
                clocks=CLOCKS, decimals=DECIMALS)  # fmt: skip


@router.post("/preferences")
def save_preferences(request: Request, desk: AtDesk, typed: Typed) -> Response:
    errors = {}
    kept = {k: typed.text(k) for k in ("system", "dates", "clock", "decimals", "zone", "who", "keys")}
    try:
        records.choose(desk, kept)
        return RedirectResponse(urls.preferences() + "?saved=1", 303)
    except Refused as problem:
        errors[problem.field] = problem.sentence
    return page(request, desk, "preferences.html", 422, typed=kept, errors=errors, saved=False, here="preferences",
                clocks=CLOCKS, decimals=DECIMALS)  # fmt: skip


def _other(theme: str) -> str:
    return "light" if theme == "evening" else "evening"


@router.post("/hints/{key}")
def put_hint_away(request: Request, desk: AtDesk, key: str, typed: Typed) -> Response:
    if key not in catalogue.hints():
        raise NotFound("There is no such hint.")
    records.put_hint_away(desk, key)
    if "HX-Request" in request.headers:
        return HTMLResponse("")
    return RedirectResponse(back_to(typed, urls.bench()), 303)


@router.post("/preferences/hints")
def show_hints(desk: AtDesk) -> Response:
    """All of them again, on the pages of tanks that have hardly a log."""
    records.choose(desk, {"hints": ""})
    return RedirectResponse(urls.preferences() + "?saved=1", 303)


@router.post("/preferences/theme")
def theme(request: Request, typed: Typed) -> Response:
    """For this device alone; without a word it is the other one than chosen here before."""
    wanted = typed.text("theme") if typed.text("theme") in THEMES else _other(theme_of(request))
    back = typed.text("back")
    answer = RedirectResponse(back if back.startswith("/") and not back.startswith("//") else "/", 303)
    answer.set_cookie("jb_theme", wanted, max_age=31_536_000, samesite="lax")
    return answer
