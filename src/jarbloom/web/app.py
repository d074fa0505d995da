"""The application: routes, static files, and the headers every answer carries."""

from __future__ import annotations

import logging
import os
import sqlite3
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager, closing
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from fastapi import FastAPI, Request, Response
from fastapi.responses import PlainTextResponse
from fastapi.staticfiles import StaticFiles
from starlette.concurrency import run_in_threadpool
from starlette.middleware.gzip import GZipMiddleware

from jarbloom.deeds.desk import reference
from jarbloom.deeds.house_network import Patience
from jarbloom.errors import JarBloomError
from jarbloom.settings import MAX_BODY_BYTES, Settings, local_zone
from jarbloom.store.db import file_id, open_same, open_store, transaction
from jarbloom.store.held_open import HeldOpen
from jarbloom.store.reminders import move_secrets_out
from jarbloom.web import errors
from jarbloom.web.api import PREFIX, create_api
from jarbloom.web.deps import keep_answer
from jarbloom.web.guard import refuse
from jarbloom.web.rounds import Rounds
from jarbloom.web.routes import (
    animals,
    arrival,
    away,
    begin,
    bench,
    book,
    chores,
    data,
    history,
    house,
    log,
    old_notes,
    outlook,
    own_species,
    photos,
    plants,
    report,
    schedule,
    setup,
    setup_probe,
    setup_run,
    setup_school,
    shell,
    sign_in,
    stocking,
    stores,
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

_log = logging.getLogger(__name__)


class Stamped(StaticFiles):
    """Files whose address carries a stamp of their content, and fonts, which get a new name when they change: a browser
    keeps them for a year and does not ask again."""

    def file_response(self, full_path: str | os.PathLike[str], *told: Any, **more: Any) -> Response:
        answer = super().file_response(full_path, *told, **more)
        scope = told[1] if len(told) > 1 else more["scope"]
        stamped = b"v=" in scope.get("query_string", b"") or str(full_path).endswith(".woff2")
        answer.headers["Cache-Control"] = "public, max-age=31536000, immutable" if stamped else "no-cache"
        return answer


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    rounds = Rounds(app.state) if app.state.settings.rounds else None
    if rounds:
        rounds.start()
    yield
    if rounds:
        rounds.stop()
    app.state.held.close()


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
    app.state.held = HeldOpen(app.state.path, app.state.file_id)
    with closing(open_same(app.state.path, app.state.file_id)) as conn:
        try:
            with transaction(conn):
                move_secrets_out(conn)
        except sqlite3.OperationalError as problem:
            _log.warning("secrets stay where they are for now: %s", problem)
    app.state.zone = local_zone()
    app.state.reference = reference()
    app.state.patience = Patience()
    errors.install(app)

    @app.middleware("http")
    async def guard(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        try:
            response = await run_in_threadpool(refuse, request) or await call_next(request)
        except JarBloomError as problem:
            response = errors.told(request, problem)
        except Exception:
            response = errors.failed(request)
        sent: str = getattr(request.state, "once", "")
        if sent and response.status_code < 400 and not getattr(request.state, "told_ahead", False):
            came_from = urlsplit(request.headers.get("referer", "")).path or "/"
            await run_in_threadpool(keep_answer, request, response.headers.get("location", came_from))
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        return response

    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=3)
    app.mount("/static", Stamped(directory=Path(__file__).parent / "static"), name="static")
    for routes in (
        log,  # first, since it is asked most
        begin,
        bench,
        house,
        shell,
        sign_in,
        data,
        own_species,
        schedule,
        tank,
        setup_school,
        setup_run,
        setup_probe,
        setup,
        outlook,
        history,
        stores,
        chores,
        away,
        report,
        photos,
        old_notes,
        stocking,
        arrival,
        book,
        plants,
        styles,
        animals,
    ):
        app.include_router(routes.router)

    api = create_api()
    api.state = app.state  # one house behind both
    app.mount(PREFIX, api)

    @app.get("/healthz")
    def healthz() -> PlainTextResponse:
        """The database can be read; who watches the program sees it when not."""
        with closing(open_same(app.state.path, app.state.file_id)) as conn:
            conn.execute("SELECT count(*) FROM tank").fetchone()
        return PlainTextResponse("ok")

    return app
