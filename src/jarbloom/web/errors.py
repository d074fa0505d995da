"""Where exceptions become answers: status codes exist only here."""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Sequence
from urllib.parse import urlsplit

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, RedirectResponse
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from jarbloom.deeds.back_up import last_copy
from jarbloom.deeds.look import log_failure
from jarbloom.errors import AlreadyDone, BeingMade, Clash, GateClosed, JarBloomError, NotFound, Refused, StoreError
from jarbloom.web.deps import answer_of_the_first
from jarbloom.web.render import environment, theme_of

STATUS: tuple[tuple[type[Exception], int], ...] = (
    (NotFound, 404),
    (Clash, 409),
    (GateClosed, 409),
    (Refused, 422),
    (StoreError, 503),
    (JarBloomError, 400),
)
_log = logging.getLogger("jarbloom")


SECRET_PATHS = ("/calendar/", "/pair/")  # what stands behind them opens something


def asked(request: Request) -> str:
    """A request as the program's log names it: never a secret of an address."""
    path = request.url.path
    hidden = next((p for p in SECRET_PATHS if path.startswith(p)), None)
    return f"{request.method} {hidden}..." if hidden else f"{request.method} {path}"


def status_of(problem: Exception) -> int:
    return next((status for kind, status in STATUS if isinstance(problem, kind)), 500)


def _answer(
    request: Request, status: int, call: str, sentence: str, typed: Sequence[tuple[str, str]] = ()
) -> HTMLResponse:
    partial = request.headers.get("HX-Request-Type") == "partial"
    template = "parts/problem.html" if partial else "problem.html"
    text = environment.get_template(template).render(
        call=call, sentence=sentence, status=status, theme=theme_of(request), typed=typed
    )
    return HTMLResponse(text, status, headers={"Vary": "HX-Request-Type"})


def told(request: Request, problem: JarBloomError) -> HTMLResponse:
    status = status_of(problem)
    call = {404: "Not here.", 409: "Wait.", 503: "Not saved."}.get(status, "Not taken.")
    return _answer(request, status, call, problem.sentence)


def failed(request: Request) -> HTMLResponse:
    """For whatever no handler knows, within the exception: a page with what it is found by in the program's log, and
    with what was typed."""
    quote = log_failure(asked(request))
    sentence = f"Something went wrong inside the program. In its log this is found as {quote}."
    typed = [(k, v) for k, v in getattr(request.state, "typed", {}).items() if v.strip() and not k.startswith("_")]
    return _answer(request, 500, "Not done.", sentence, typed)


def install(app: FastAPI) -> None:
    @app.exception_handler(JarBloomError)
    def ours(request: Request, problem: JarBloomError) -> HTMLResponse:
        return told(request, problem)

    @app.exception_handler(BeingMade)
    def follows(request: Request, problem: BeingMade) -> HTMLResponse:
        """The page at once, without its forecast: it asks for that by itself and comes again with it."""
        text = environment.get_template("being_made.html").render(problem=problem, theme=theme_of(request))
        return HTMLResponse(text, headers={"Cache-Control": "no-store"})

    @app.exception_handler(AlreadyDone)
    def sent_twice(request: Request, problem: AlreadyDone) -> Response:
        """Answered as the first one was; while that is not known, by the page that it was sent from."""
        came_from = urlsplit(request.headers.get("referer", "")).path
        return RedirectResponse(answer_of_the_first(request) or came_from or "/", 303)

    @app.exception_handler(sqlite3.OperationalError)
    def busy(request: Request, problem: sqlite3.OperationalError) -> HTMLResponse:
        _log.error("database: %s", problem)
        return _answer(
            request,
            503,
            "Not saved.",
            "The database is busy or cannot be written. What stood in the log "
            "before is kept; send it again in a moment.",
        )

    @app.exception_handler(sqlite3.DatabaseError)
    def damaged(request: Request, problem: sqlite3.DatabaseError) -> HTMLResponse:
        quote = log_failure(asked(request))
        last = last_copy(request.app.state.path.parent)
        whole = f"The last whole copy is {last}: stop the program, then jarbloom restore FILE. " if last else ""
        return _answer(
            request,
            503,
            "The database is damaged.",
            f"{whole}What can still be read goes into a new file with jarbloom rescue FILE; jarbloom check says what "
            f"is wrong. In the program’s log this is found as {quote}.",
        )

    @app.exception_handler(OverflowError)
    def too_large(request: Request, problem: OverflowError) -> HTMLResponse:
        """A number in an address that no row can have: SQLite's own are 64 bits long."""
        return _answer(request, 404, "Not here.", "There is no such page.")

    @app.exception_handler(ClientDisconnect)
    def gone(request: Request, problem: ClientDisconnect) -> Response:
        """A newer keystroke took the place of this request before it was read: nobody waits for an answer."""
        return Response(status_code=400)

    @app.exception_handler(RequestValidationError)
    def invalid(request: Request, problem: RequestValidationError) -> HTMLResponse:
        return _answer(request, 422, "Not taken.", "This address or form cannot be read.")

    @app.exception_handler(HTTPException)
    def http(request: Request, problem: HTTPException) -> HTMLResponse:
        sentences = {
            404: "There is no such page.",
            405: "This cannot be done here.",
            413: "That is far too long to be kept; nothing of it was saved.",
        }
        return _answer(
            request,
            problem.status_code,
            "Not here." if problem.status_code == 404 else "Not taken.",
            sentences.get(problem.status_code, str(problem.detail)),
        )
