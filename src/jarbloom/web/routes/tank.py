"""A tank's pages: now, its settings, the whole chart, the upset desk."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.model.tank import Tank
from jarbloom.deeds import answer_job, keep_tank, log, look, records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.units import number
from jarbloom.views.drawn.headroom import headroom
from jarbloom.views.drawn.turned import turned
from jarbloom.views.tank.deaths import deaths_page
from jarbloom.views.tank.now import now_page
from jarbloom.views.tank.upset_page import upset_page
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed, back_to
from jarbloom.web.forms.fields import parse_date
from jarbloom.web.forms.tank import changed_meanwhile, read_tank, typed_of
from jarbloom.web.forms.tank_parts import parts
from jarbloom.web.render import page

router = APIRouter(prefix="/tanks/{slug}")
GENERAL = ("name", "kit", "pace", "changes")  # what stands on the settings page; the rest is on the pages of setting up


def show_now(request: Request, desk: Desk, slug: str, status: int = 200, **more: object) -> HTMLResponse:
    """The Now page; `more` carries a typed line with its chips when one was refused."""
    seen = look.see(desk, slug)
    # a refused line has saved nothing: the act before it is no answer to it
    last = None if more.get("refused") else records.just_saved(desk, seen.tank)
    shown = {"line": "", "chips": (), "refused": "", "clash": False}
    return page(
        request,
        desk,
        "now.html",
        status,
        tank=seen.tank,
        p=now_page(seen),
        just_saved=last,
        here="now",
        **(shown | more),
    )


@router.get("")
def now(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return show_now(request, desk, slug)


@router.get("/chart")
def chart(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    seen = look.see(desk, slug)
    return page(
        request,
        desk,
        "chart.html",
        200,
        tank=seen.tank,
        chart=headroom(seen.situation),
        whole=turned(seen.situation),
        verdict=seen.verdict,
        here="now",
    )


@router.get("/upset")
def upset(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return show_upset(request, desk, slug, 200)


def show_upset(request: Request, desk: Desk, slug: str, status: int, **more: Any) -> HTMLResponse:
    seen = look.see(desk, slug)
    told = {
        "told_problem": "",
        "signs_on": (),
        "changed_on": (),
        "told_words": "",
        "closing": {},
        "closing_problem": "",
    }
    shown = {"line": "", "chips": (), "refused": "", "clash": False} | told | more
    return page(request, desk, "upset.html", status, tank=seen.tank, p=upset_page(seen), here="upset", **shown)


@router.post("/upset/answer")
def answer_check(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """What a check came to: logged, and the ranking moves."""
    try:
        log.answer_check(desk, slug, typed.text("check"), typed.text("answer"))
    except Refused as problem:
        return show_upset(request, desk, slug, 422, refused=problem.sentence)
    return RedirectResponse(urls.upset(slug), 303)


@router.post("/upset/seen")
def tell_desk(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """What is seen and what changed, as taps and in words."""
    signs, changed, words = typed.all("signs"), typed.all("changed"), typed.text("words")
    try:
        log.tell_desk(desk, slug, signs, changed, words)
    except Refused as problem:
        return show_upset(request, desk, slug, 422, told_problem=problem.sentence, signs_on=signs, changed_on=changed,
                          told_words=words)  # fmt: skip
    return RedirectResponse(f"{urls.upset(slug)}#causes", 303)


@router.post("/upset/close")
def close_upset(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """What an upset was, as the keeper corrects it."""
    given = {k: typed.text(k) for k in ("cause", "text", "prevent", "ask")}
    try:
        log.close_upset(desk, slug, given["cause"], given["text"], given["prevent"], given["ask"] == "1")
    except Refused as problem:
        return show_upset(request, desk, slug, 422, closing=given, closing_problem=problem.sentence)
    return RedirectResponse(f"{urls.upset(slug)}#earlier", 303)


@router.get("/deaths")
def deaths_form(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _deaths(request, desk, slug, 200, {}, {})


@router.post("/deaths")
def deaths(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """Several kinds at once, each with its count and whether the body was found."""
    errors, found = {}, {}
    for animals in look.see(desk, slug).situation.living:
        key = f"dead-{animals.species}"
        try:
            count = int(number(typed.text(key), key, low=0, high=animals.count)) if typed.text(key) else 0
            if count:
                found[animals.species] = (count, typed.text(f"body-{animals.species}"))
        except Refused as problem:
            errors[key] = problem.sentence
    if not errors:
        try:
            words = ", ".join(w for w in (typed.text("state"), typed.text("where"), typed.text("words")) if w)
            log.log_deaths(desk, slug, found, words)
            return RedirectResponse(urls.upset(slug), 303)
        except Refused as problem:
            errors[problem.field or "words"] = problem.sentence
    return _deaths(request, desk, slug, 422, typed, errors)


def _deaths(
    request: Request, desk: Desk, slug: str, status: int, typed: Mapping[str, Any], errors: Mapping[str, str]
) -> HTMLResponse:
    seen = look.see(desk, slug)
    return page(request, desk, "deaths.html", status, tank=seen.tank, p=deaths_page(seen), typed=typed, errors=errors,
                here="upset")  # fmt: skip


@router.get("/settings")
def settings_form(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    tank = records.tank(desk, slug)
    return _form(request, desk, tank, typed_of(tank, desk), {}, 200)


def _form(
    request: Request, desk: Desk, tank: Tank, typed: dict[str, Any], errors: dict[str, Any], status: int
) -> HTMLResponse:
    return page(
        request,
        desk,
        "tank_form.html",
        status,
        tank=tank,
        parts=[p for p in parts(desk.reference, tank) if p.key in GENERAL],
        typed=typed,
        errors=errors,
        call="Settings.",
        words="Name, test kit and schools. Every change is kept as a revision and can be taken back.",
        action=urls.settings(tank.slug),
        submit="Save the settings",
        way="settings",
        here="setup",
        part="settings",
        revisions=records.revisions(desk, tank),
    )


@router.post("/settings")
def save_settings(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    old = records.tank(desk, slug)
    seen, meanwhile = records.newest_revision(desk, old), changed_meanwhile(typed, desk, old, GENERAL)
    if meanwhile:
        return _form(request, desk, old, typed, meanwhile, 409)
    changed, errors = read_tank(typed, desk, old, GENERAL)
    if changed is not None:
        try:
            keep_tank.change(desk, slug, changed, seen)
            return RedirectResponse(urls.tank(slug), 303)
        except Refused as problem:
            errors.add(problem)
    return _form(request, desk, old, typed, errors.by_field, 422)


@router.post("/settings/undo")
def undo_settings(desk: AtDesk, slug: str, typed: Typed) -> Response:
    keep_tank.undo_change(desk, slug, typed.revision)
    return RedirectResponse(back_to(typed, urls.settings(slug)), 303)


@router.post("/jobs/{key}/{how}")
def answer(request: Request, desk: AtDesk, slug: str, key: str, how: str, typed: Typed) -> Response:
    """A job ticked, put off or skipped; what is wrong is told on the page it came from."""
    deeds = {
        "done": lambda: answer_job.done(desk, slug, key),
        "snooze": lambda: answer_job.snooze(desk, slug, key, parse_date(typed.text("until"), "until")),
        "skip": lambda: answer_job.skip(desk, slug, key, typed.text("reason")),
    }
    if how not in deeds:
        raise NotFound("A job is done, put off or skipped.")
    try:
        deeds[how]()
    except Refused as problem:
        return show_now(request, desk, slug, 422, job_problem=(key, problem.sentence, typed.text("reason")))
    return RedirectResponse(back_to(typed, urls.tank(slug)), 303)


@router.post("/shelve")
def shelve(desk: AtDesk, slug: str) -> Response:
    keep_tank.shelve(desk, slug)
    return RedirectResponse(urls.bench(), 303)
