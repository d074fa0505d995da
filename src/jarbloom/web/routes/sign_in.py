"""Signing in and out, pairing a phone, and who is signed in where."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from jarbloom.deeds import api_tokens, house_network
from jarbloom.deeds.house_network import Patience
from jarbloom.errors import NotFound, Refused
from jarbloom.views.house.devices import session_rows, token_rows
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk, Typed, back_to
from jarbloom.web.guard import COOKIE, address_of
from jarbloom.web.render import page, plain_page

router = APIRouter()


def _patience(request: Request) -> Patience:
    found: Patience = request.app.state.patience
    return found


def _cookie(request: Request, answer: Response, value: str) -> Response:
    secure = request.url.scheme == "https"
    answer.set_cookie(COOKIE, value, max_age=90 * 86400, httponly=True, samesite="lax", secure=secure, path="/")
    return answer


def _form(request: Request, status: int = 200, **shown: Any) -> HTMLResponse:
    return plain_page(request, "sign_in.html", status, {"error": "", "field": "", "who": "", "back": "/"} | shown)


@router.get("/sign-in")
def sign_in_form(request: Request, back: str = "/") -> HTMLResponse:
    return _form(request, back=back_to({"back": back}, "/"))


@router.post("/sign-in")
def sign_in(request: Request, desk: AtDesk, typed: Typed) -> Response:
    address, patience = address_of(request), _patience(request)
    back, who = back_to(typed, "/"), typed.text("who")
    wait = patience.wait_s(address)
    if wait > 0:
        sentence = f"Too many tries. The next one is looked at in {max(1, round(wait))} seconds."
        return _form(request, 429, error=sentence, field="passphrase", who=who, back=back)
    if not who:
        return _form(request, 422, error="Who is it? The log names who wrote a line.", field="who", back=back)
    try:
        folder = request.app.state.path.parent
        device = request.headers.get("user-agent", "")
        cookie = house_network.sign_in(desk.conn, folder, typed.get("passphrase", ""), who, device)
    except Refused as problem:
        patience.failed(address)
        return _form(request, 422, error=problem.sentence, field=problem.field, who=who, back=back)
    patience.succeeded(address)
    return _cookie(request, RedirectResponse(back, 303), cookie)


@router.post("/sign-out")
def sign_out(request: Request, desk: AtDesk) -> Response:
    session = request.state.session
    if session is not None:
        house_network.sign_out(desk.conn, session.hash)
    answer = RedirectResponse(urls.sign_in(), 303)
    answer.delete_cookie(COOKIE)
    return answer


@router.get("/pair/{code}")
def pair_form(request: Request, desk: AtDesk, code: str) -> HTMLResponse:
    keeper = _whose(request, desk, code)
    return plain_page(request, "pair.html", 200, {"keeper": keeper, "code": code})


@router.post("/pair/{code}")
def pair(request: Request, desk: AtDesk, code: str) -> Response:
    _whose(request, desk, code)
    cookie = house_network.pair(desk.conn, code, request.headers.get("user-agent", ""))
    return _cookie(request, RedirectResponse("/", 303), cookie)


def _whose(request: Request, desk: AtDesk, code: str) -> str:
    """Raises NotFound; a guess at a code counts as one at the passphrase."""
    address, patience = address_of(request), _patience(request)
    if patience.wait_s(address) > 0:
        raise NotFound("Too many tries. Wait some minutes.")
    try:
        return house_network.whose_code(desk.conn, code)
    except NotFound:
        patience.failed(address)
        raise


@router.get("/devices")
def devices(request: Request, desk: AtDesk) -> HTMLResponse:
    return _devices(request, desk)


def _devices(request: Request, desk: AtDesk, status: int = 200, **more: Any) -> HTMLResponse:
    here = request.state.session.hash if request.state.session else ""
    shown = {"qr": "", "address": "", "secret": "", "token_error": "", "token_name": ""}
    return page(
        request, desk, "devices.html", status,
        sessions=session_rows(house_network.signed_in(desk.conn), here, desk.now),
        tokens=token_rows(api_tokens.listed(desk.conn), desk.now), network=request.app.state.settings.network,
        here="data", scopes=api_tokens.SCOPES, **(shown | more),
    )  # fmt: skip


@router.post("/devices/pair")
def new_code(request: Request, desk: AtDesk) -> HTMLResponse:
    """The code is shown in the answer itself, and stands in no address of this page."""
    session = request.state.session
    code = house_network.new_code(desk.conn, session.keeper if session else desk.preferences.who)
    address = f"{str(request.base_url).rstrip('/')}/pair/{code}"
    import segno  # loaded where a phone is paired

    drawn = segno.make(address, error="m").svg_data_uri(scale=6, border=4, dark="#10282c", light="#fff")
    return _devices(request, desk, qr=drawn, address=address)


@router.post("/devices/end")
def end(request: Request, desk: AtDesk, typed: Typed) -> Response:
    house_network.sign_out(desk.conn, typed.text("session") or None)
    return RedirectResponse(urls.devices(), 303)


@router.post("/devices/token")
def new_token(request: Request, desk: AtDesk, typed: Typed) -> HTMLResponse:
    try:
        secret = api_tokens.make(desk.conn, typed.text("name"), typed.all("scope"))
    except Refused as problem:
        return _devices(request, desk, 422, token_error=problem.sentence, token_name=typed.text("name"))
    return _devices(request, desk, secret=secret)


@router.post("/devices/token/revoke")
def revoke(desk: AtDesk, typed: Typed) -> Response:
    api_tokens.revoke(desk.conn, typed.text("token"))
    return RedirectResponse(urls.devices(), 303)
