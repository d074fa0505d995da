"""While the keeper is away: the sheet, printed or behind a secret address that shows only this."""

from __future__ import annotations

import hashlib
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.core.advice.away import Absence
from jarbloom.deeds import away as deeds
from jarbloom.deeds import records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound, Refused
from jarbloom.formats.picture import MOST_BYTES
from jarbloom.units import canonical, number
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Form, Typed, known_by
from jarbloom.web.render import page, plain_page
from jarbloom.web.routes.photos import SentForm, sent_form

router = APIRouter()


def _page(
    request: Request, desk: Desk, slug: str, typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None, secret: str = "",
) -> HTMLResponse:  # fmt: skip
    seen = deeds.seen(desk, slug)
    address, qr = "", ""
    if secret:
        import segno  # loaded where an address is shown

        address = f"{str(request.base_url).rstrip('/')}{urls.helper(secret)}"
        qr = segno.make(address, error="m").svg_data_uri(scale=5, border=3, dark="#10282c", light="#fff")
    return page(
        request, desk, "away_sheet.html", 422 if errors else 200, tank=records.tank(desk, slug), p=seen,
        typed=typed or {}, errors=errors or {}, address=address, qr=qr, here="log",
    )  # fmt: skip


@router.get("/tanks/{slug}/away")
def show(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _page(request, desk, slug)


def _absence(typed: Form, desk: Desk) -> Absence:
    days = {}
    for name in ("first", "last"):
        try:
            days[name] = date.fromisoformat(typed.text(name))
        except ValueError:
            raise Refused("Which day? Write 2026-12-24.", name) from None
    every = typed.text("every")
    grams = number(typed.text("grams"), "grams", low=0, high=500) if typed.text("grams") else None
    grams = canonical(grams, desk.preferences.units.unit("mass"), "mass") if grams is not None else None
    told = {k: typed.text(k) for k in ("contact", "normal", "extra")}
    return Absence(days["first"], days["last"], int(every) if every in ("0", "1", "2", "3") else 1, grams, **told)


@router.post("/tanks/{slug}/away")
def make(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    try:
        deeds.make(desk, slug, _absence(typed, desk))
    except Refused as problem:
        return _page(request, desk, slug, dict(typed), {problem.field or "first": problem.sentence})
    return RedirectResponse(urls.away(slug), 303)


@router.post("/tanks/{slug}/away/share")
def share(request: Request, desk: AtDesk, slug: str, typed: Typed) -> Response:
    """Shown on the answer itself, once: the address is kept nowhere."""
    return _page(request, desk, slug, secret=deeds.share(desk, slug))


@router.post("/tanks/{slug}/away/withdraw")
def withdraw(desk: AtDesk, slug: str, typed: Typed) -> Response:
    deeds.withdraw(desk, slug)
    return RedirectResponse(urls.away(slug), 303)


@router.post("/tanks/{slug}/away/end")
def end(desk: AtDesk, slug: str, typed: Typed) -> Response:
    deeds.end(desk, slug)
    return RedirectResponse(urls.away(slug), 303)


# --- the helper's page ---


def _helper(
    request: Request, desk: Desk, secret: str, errors: dict[str, str] | None = None, words: str = ""
) -> HTMLResponse:
    try:
        p = deeds.seen_by(desk, secret)
    except NotFound as over:
        return plain_page(request, "helper_over.html", 410, {"sentence": over.sentence})
    context = {"p": p, "secret": secret, "errors": errors or {}, "typed_words": words, "units": desk.preferences.units,
               "species": desk.reference.species}  # fmt: skip
    return plain_page(request, "helper.html", 422 if errors else 200, context)


@router.get("/away/{secret}")
def helper(request: Request, desk: AtDesk, secret: str) -> HTMLResponse:
    return _helper(request, desk, secret)


@router.post("/away/{secret}/tick")
def tick(request: Request, desk: AtDesk, secret: str, typed: Typed) -> Response:
    try:
        day = date.fromisoformat(typed.text("day"))
    except ValueError:
        return _helper(request, desk, secret, {"day": "Which day?"})
    try:
        deeds.tick(desk, secret, day, typed.text("what"))
    except Refused as problem:
        return _helper(request, desk, secret, {"day": problem.sentence})
    except NotFound:
        return _helper(request, desk, secret)
    return RedirectResponse(urls.helper(secret), 303)


@router.post("/away/{secret}/say", max_body_size=MOST_BYTES + 100_000)
def say(request: Request, desk: AtDesk, secret: str, sent: Annotated[SentForm, Depends(sent_form)]) -> Response:
    words = sent.typed.get("words", "")
    content = hashlib.sha256(b"".join(p.content for p in sent.photos)).hexdigest()
    desk.conn.once = known_by(request, sent.token, repr((words, content)))
    try:
        deeds.say(desk, secret, words, sent.photos)
    except Refused as problem:
        return _helper(request, desk, secret, {"words": problem.sentence}, words)
    except NotFound:
        return _helper(request, desk, secret)
    return RedirectResponse(f"{urls.helper(secret)}#said", 303)
