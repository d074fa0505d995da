"""Who gets an answer at all: the right house name, no other site's form, and in the house network a signed session."""

from __future__ import annotations

import logging
from contextlib import closing
from urllib.parse import quote, urlsplit

from fastapi import Request, Response
from fastapi.responses import PlainTextResponse, RedirectResponse

from jarbloom.deeds import house_network
from jarbloom.store.db import open_same
from jarbloom.web import urls

LOOPBACK = {"127.0.0.1", "localhost", "::1", "testserver"}
COOKIE = "jb_session"
READS = ("GET", "HEAD")
# Without a session: signing in, what the sign-in page needs, and what brings a secret of its own
OPEN = ("/sign-in", "/pair/", "/static/", "/healthz", "/calendar/", "/away/", "/api/v1/",
        "/manifest.webmanifest", "/sw.js")  # fmt: skip
SITTERS_MAY = ("/sign-out", "/preferences/theme", "/log/read")  # post, without changing anything of the record
log = logging.getLogger(__name__)


def refuse(request: Request) -> Response | None:
    """The answer to a request that is none of this house's; None for one that may go on. Sets `request.state.session`
    where somebody is signed in."""
    request.state.session = None
    network = request.app.state.settings.network
    names = LOOPBACK | (network.names if network else frozenset())
    if urlsplit(f"//{request.headers.get('host', '')}").hostname not in names:  # DNS rebinding
        return PlainTextResponse("This program does not answer to that name.", 421)
    if from_elsewhere(request):
        return PlainTextResponse("A form from another site was refused.", 403)
    return _stranger(request) if network else None


def from_elsewhere(request: Request) -> bool:
    """A form sent by another site's page."""
    if request.method in READS:
        return False
    if request.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        return True
    origin = request.headers.get("origin")
    return origin is not None and urlsplit(origin).netloc != request.headers.get("host", "")


def _stranger(request: Request) -> Response | None:
    state, path, cookie = request.app.state, request.url.path, request.cookies.get(COOKIE)
    if cookie:
        with closing(open_same(state.path, state.file_id)) as conn:
            request.state.session = house_network.who_is(conn, state.path.parent, cookie)
        if request.state.session is None:
            log.warning("a session that is not of this house, or ended, was shown from %s", address_of(request))
    if request.state.session is not None:
        return _sitter(request)
    if path.startswith(OPEN):
        return None
    if request.method in READS and request.headers.get("HX-Request") != "true":
        back = quote(path + (f"?{request.url.query}" if request.url.query else ""), safe="/?=&")
        return RedirectResponse(f"{urls.sign_in()}?back={quote(back, safe='')}", 303)
    return PlainTextResponse("Sign in first: nothing was saved.", 401)


def _sitter(request: Request) -> Response | None:
    if request.state.session.role != "sitter" or request.method in READS:
        return None
    if request.url.path.endswith(SITTERS_MAY):
        return None
    return PlainTextResponse("Who looks after the tanks can read everything here, and change nothing.", 403)


def address_of(request: Request) -> str:
    return request.client.host if request.client else ""
