"""The house's data: daily copies, everything out as one file, and bundles in."""

from __future__ import annotations

import hashlib
import tempfile
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import FileResponse, HTMLResponse, RedirectResponse
from starlette.datastructures import UploadFile

from jarbloom.deeds import back_up, exchange
from jarbloom.deeds.desk import Desk
from jarbloom.errors import JarBloomError, Refused
from jarbloom.settings import MAX_BODY_BYTES
from jarbloom.views.house.data import data_page
from jarbloom.web import urls
from jarbloom.web.deps import ONCE, AtDesk, Typed, known_by
from jarbloom.web.render import page

router = APIRouter(prefix="/data")


def _page(
    request: Request, desk: Desk, errors: dict[str, str] | None = None, typed: dict[str, str] | None = None
) -> HTMLResponse:
    p = data_page(back_up.see_backups(desk), desk.now)
    kept = {"backup_to": desk.preferences.backup_to} | (typed or {})
    return page(
        request, desk, "data.html", 422 if errors else 200, p=p, errors=errors or {}, typed=kept, here="data",
        done=request.query_params.get("done", ""),
    )  # fmt: skip


@router.get("")
def data(request: Request, desk: AtDesk) -> HTMLResponse:
    return _page(request, desk)


@router.post("/backup")
def back_up_now(request: Request, desk: AtDesk) -> Response:
    try:
        back_up.now(desk)
    except JarBloomError as problem:
        return _page(request, desk, {"backup": problem.sentence})
    return RedirectResponse(f"{urls.data()}?done=backup", 303)


@router.post("/second")
def second_folder(request: Request, desk: AtDesk, typed: Typed) -> Response:
    try:
        back_up.choose_second(desk, typed.text("backup_to"))
    except Refused as problem:
        return _page(request, desk, {problem.field: problem.sentence}, dict(typed))
    return RedirectResponse(f"{urls.data()}?done=second", 303)


@router.get("/backups/{day}")
def download(desk: AtDesk, day: str) -> Response:
    file = back_up.copy_of(desk, day)
    return FileResponse(file, media_type="application/vnd.sqlite3", filename=file.name)


@router.get("/house.zip")
def house(desk: AtDesk) -> Response:
    name = f"jarbloom-house-{desk.now:%Y-%m-%d}.zip"
    return Response(
        exchange.export_house(desk),
        media_type="application/zip",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@router.get("/tanks/{slug}.zip")
def one_tank(desk: AtDesk, slug: str) -> Response:
    return Response(
        exchange.export_zip(desk, slug),
        media_type="application/zip",
        headers={"Content-Disposition": f'attachment; filename="{slug}.zip"'},
    )


async def uploaded(request: Request) -> tuple[str, bytes, str]:
    """(name, content, token of the form) of the file that was sent, all empty where none was."""
    async with request.form(max_files=1, max_part_size=MAX_BODY_BYTES) as form:
        sent = form.get("bundle")
        if not isinstance(sent, UploadFile):
            return "", b"", ""
        return sent.filename or "", await sent.read(), str(form.get(ONCE) or "")


@router.post("/import")
def bring_in(request: Request, desk: AtDesk, sent: Annotated[tuple[str, bytes, str], Depends(uploaded)]) -> Response:
    name, content, token = sent
    if not name:
        return _page(request, desk, {"bundle": "Which file? A bundle or a house is a .zip."})
    desk.conn.once = known_by(request, token, hashlib.sha256(content).hexdigest())
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / (Path(name.replace("\\", "/")).name[-80:] or "bundle.zip")
        path.write_bytes(content)
        try:
            made = exchange.bring_in_any(desk, path)
        except JarBloomError as problem:
            return _page(request, desk, {"bundle": problem.sentence})
    return RedirectResponse(urls.tank(made[0].slug) if len(made) == 1 else urls.bench(), 303)
