"""What belongs to all pages: the page of terms, the manifest, and the service worker that keeps their shell."""

from __future__ import annotations

import hashlib

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, JSONResponse

from jarbloom.web import urls
from jarbloom.web.deps import AtDesk
from jarbloom.web.render import environment, page

router = APIRouter()
ICONS = (("icons/mark-192.png", "192x192"), ("icons/mark-512.png", "512x512"))
FILES = ("vendor/bootstrap.css", "tokens.css", "jarbloom.css", "vendor/htmx.min.js", "vendor/hx-alpine-compat.min.js",
         "app.js", "quick.js", "setup.js", "board.js", "vendor/alpine-csp.min.js", "mark.svg")  # fmt: skip


@router.get("/manifest.webmanifest")
def manifest() -> JSONResponse:
    shown = {
        "name": "Jar Bloom", "short_name": "Jar Bloom", "start_url": "/", "scope": "/", "display": "standalone",
        "background_color": "#e9efed", "theme_color": "#e9efed",
        "icons": [{"src": urls.static(path), "sizes": sizes, "type": "image/png", "purpose": "any maskable"}
                  for path, sizes in ICONS],
    }  # fmt: skip
    return JSONResponse(shown, media_type="application/manifest+json")


@router.get("/words")
def words(request: Request, desk: AtDesk) -> HTMLResponse:
    """The page of terms."""
    return page(request, desk, "terms.html", 200, here="words")


@router.get("/sw.js")
def service_worker() -> Response:
    """Its text changes when a file of the shell does, so that browsers fetch the shell anew then."""
    files = [urls.static(name) for name in FILES] + [urls.font(name) for name in urls.FONTS]
    nothing = environment.get_template("away.html").render()
    version = hashlib.sha256("".join([*files, nothing]).encode()).hexdigest()[:12]
    text = environment.get_template("sw.js").render(files=files, version=version, nothing=nothing)
    return Response(text, media_type="text/javascript", headers={"Cache-Control": "no-cache"})
