"""The house's data: daily copies, everything out as one file, and bundles in."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import AsyncIterator, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Annotated

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import FileResponse, HTMLResponse, RedirectResponse, StreamingResponse
from starlette.datastructures import UploadFile

from jarbloom.deeds import back_up, exchange, records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import JarBloomError, Refused
from jarbloom.formats.log_table import table_csv, table_xlsx
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


def _sent(packed: IO[bytes], name: str) -> StreamingResponse:
    """In pieces, from memory or from the temporary file that it lies in."""

    def pieces() -> Iterator[bytes]:
        with packed:
            while piece := packed.read(256 * 1024):
                yield piece

    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return StreamingResponse(pieces(), media_type="application/zip", headers=headers)


@router.get("/house.zip")
def house(desk: AtDesk) -> StreamingResponse:
    return _sent(exchange.export_house(desk), f"jarbloom-house-{desk.now:%Y-%m-%d}.zip")


@router.get("/tanks/{slug}.zip")
def one_tank(desk: AtDesk, slug: str) -> StreamingResponse:
    return _sent(exchange.export_zip(desk, slug), f"{slug}.zip")


@router.get("/tanks/{slug}.csv")
def log_as_csv(desk: AtDesk, slug: str) -> Response:
    """The live log as a table; cells that a spreadsheet would take for a formula are marked as text."""
    text = table_csv(records.journal_of(desk, records.tank(desk, slug)))
    return _table(text.encode("utf-8-sig"), "text/csv; charset=utf-8", f"{slug}-log.csv")


@router.get("/tanks/{slug}.xlsx")
def log_as_xlsx(desk: AtDesk, slug: str) -> Response:
    content = table_xlsx(records.journal_of(desk, records.tank(desk, slug)))
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return _table(content, kind, f"{slug}-log.xlsx")


def _table(content: bytes, kind: str, name: str) -> Response:
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


MOST_OF_A_HOUSE = 1_000_000_000  # bytes of a file that is brought in, with its photos


@dataclass(frozen=True)
class Uploaded:
    """A file that was sent: its name, where it lies, the hash of its content, and the token of its form."""

    name: str
    path: Path
    content: str
    token: str


async def uploaded(request: Request) -> AsyncIterator[Uploaded | None]:
    """None where none was sent. It lies on disk, not in memory, and goes with the answer."""
    async with request.form(max_files=1, max_part_size=MAX_BODY_BYTES) as form:
        sent = form.get("bundle")
        if not isinstance(sent, UploadFile) or not sent.filename:
            yield None
            return
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / (Path(sent.filename.replace("\\", "/")).name[-80:] or "bundle.zip")
            told = hashlib.sha256()
            with path.open("wb") as file:
                while piece := await sent.read(1024 * 1024):
                    told.update(piece)
                    file.write(piece)
            yield Uploaded(sent.filename, path, told.hexdigest(), str(form.get(ONCE) or ""))


@router.post("/import", max_body_size=MOST_OF_A_HOUSE)
def bring_in(request: Request, desk: AtDesk, sent: Annotated[Uploaded | None, Depends(uploaded)]) -> Response:
    if sent is None:
        return _page(request, desk, {"bundle": "Which file? A bundle or a house is a .zip."})
    desk.conn.once = known_by(request, sent.token, sent.content)
    try:
        made = exchange.bring_in_any(desk, sent.path)
    except JarBloomError as problem:
        return _page(request, desk, {"bundle": problem.sentence})
    return RedirectResponse(urls.tank(made[0].slug) if len(made) == 1 else urls.bench(), 303)
