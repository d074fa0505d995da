"""The application: routes, static files, and the headers every answer carries."""

from __future__ import annotations

from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager, closing
from pathlib import Path
from urllib.parse import urlsplit

from fastapi import FastAPI, Request, Response
from fastapi.responses import PlainTextResponse
from fastapi.staticfiles import StaticFiles
from starlette.concurrency import run_in_threadpool

from jarbloom.deeds.desk import reference
from jarbloom.settings import MAX_BODY_BYTES, Settings, local_zone
from jarbloom.store.db import file_id, open_same, open_store, transaction
from jarbloom.store.reminders import move_secret_out
from jarbloom.web import errors
from jarbloom.web.deps import keep_answer
from jarbloom.web.rounds import Rounds
from jarbloom.web.routes import (
    animals,
    arrival,
    bench,
    book,
    data,
    house,
    log,
    outlook,
    own_species,
    schedule,
    setup,
    setup_probe,
    setup_run,
    setup_school,
    stocking,
    styles,
    tank,
)

HEADERS = {
    "Content-Security-Policy": "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "form-action 'self'; frame-ancestors 'none'; base-uri 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "X-Frame-Options": "DENY",
}
LOOPBACK = {"127.0.0.1", "localhost", "::1", "testserver"}


def _from_elsewhere(request: Request) -> bool:
    """A form sent by another site's page: refused, since this program has no password."""
    if request.method in ("GET", "HEAD"):
        return False
    if request.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        return True
    origin = request.headers.get("origin")
    return origin is not None and urlsplit(origin).netloc != request.headers.get("host", "")


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    rounds = Rounds(app.state) if app.state.settings.rounds else None
    if rounds:
        rounds.start()
    yield
    if rounds:
        rounds.stop()


def create_app(settings: Settings) -> FastAPI:
    app = FastAPI(
        title="Jar Bloom",
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        max_body_size=MAX_BODY_BYTES,
        lifespan=_lifespan,
    )
    app.state.settings = settings
    app.state.forecasting = settings.forecasting
    app.state.path = open_store(settings.data)
    app.state.file_id = file_id(app.state.path)
    with closing(open_same(app.state.path, app.state.file_id)) as conn, transaction(conn):
        move_secret_out(conn)
    app.state.zone = local_zone()
    app.state.reference = reference()
    errors.install(app)

    @app.middleware("http")
    async def guard(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        host = urlsplit(f"//{request.headers.get('host', '')}").hostname
        if host not in LOOPBACK:  # a name that was made to point here (DNS rebinding)
            return PlainTextResponse("This program answers on this machine only.", 421)
        if _from_elsewhere(request):
            return PlainTextResponse("A form from another site was refused.", 403)
        try:
            response = await call_next(request)
        except Exception:
            response = errors.failed(request)
        location = response.headers.get("location")
        if location and getattr(request.state, "once", ""):
            await run_in_threadpool(keep_answer, request, location)
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        return response

    app.mount("/static", StaticFiles(directory=Path(__file__).parent / "static"), name="static")
    for routes in (
        bench,
        house,
        data,
        own_species,
        schedule,
        tank,
        setup_school,
        setup_run,
        setup_probe,
        setup,
        outlook,
        log,
        stocking,
        arrival,
        book,
        styles,
        animals,
    ):
        app.include_router(routes.router)

    @app.get("/healthz")
    def healthz() -> PlainTextResponse:
        """The database can be read; who watches the program sees it when not."""
        with closing(open_same(app.state.path, app.state.file_id)) as conn:
            conn.execute("SELECT count(*) FROM tank").fetchone()
        return PlainTextResponse("ok")

    return app
