"""The report of a tank for somebody who helps: a page that prints, one file that needs no other, and Markdown."""

from __future__ import annotations

import base64
from contextlib import suppress
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import HTMLResponse

from jarbloom.core.advice.report import WEEKS, Report, report
from jarbloom.core.journal.kinds.photo import Photo
from jarbloom.core.model.entry import Entry
from jarbloom.deeds import look, photos, records
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound
from jarbloom.formats.report_md import report_md
from jarbloom.manner import text_in
from jarbloom.views.tank.photos import Shot, shot
from jarbloom.web import urls
from jarbloom.web.deps import AtDesk
from jarbloom.web.render import environment, page
from jarbloom.web.written import written

router = APIRouter(prefix="/tanks/{slug}")
Days = Annotated[int, Query(ge=1, le=366)]
SPANS = ((7 * WEEKS, "six weeks"), (31, "a month"), (92, "three months"), (366, "a year"))


def _report(desk: Desk, slug: str, days: int) -> tuple[Report, list[tuple[Entry[Photo], Shot]]]:
    s = look.see(desk, slug).situation
    found = report(s, days)
    return found, [(e, shot(e, s.tank)) for e in found.photos]


@router.get("/report")
def show(request: Request, desk: AtDesk, slug: str, days: Days = 7 * WEEKS) -> HTMLResponse:
    import segno  # loaded where a code is shown

    found, shots = _report(desk, slug, days)
    address = f"{str(request.base_url).rstrip('/')}{urls.tank(slug)}"
    qr = segno.make(address, error="m").svg_data_uri(scale=3, border=2, dark="#10282c", light="#fff")
    return page(
        request, desk, "report.html", tank=records.tank(desk, slug), r=found, shots=[s for _, s in shots], days=days,
        spans=SPANS, qr=qr, address=address, here="log",
    )  # fmt: skip


@router.get("/report.md")
def as_markdown(desk: AtDesk, slug: str, days: Days = 7 * WEEKS) -> Response:
    text = text_in(report_md(_report(desk, slug, days)[0]), desk.preferences.manner)
    return Response(text, media_type="text/markdown; charset=utf-8",
                    headers={"Content-Disposition": f'attachment; filename="{slug}-report.md"'})  # fmt: skip


@router.get("/report.html")
def as_one_file(desk: AtDesk, slug: str, days: Days = 7 * WEEKS) -> Response:
    """With its style and pictures inside: it can be sent and opened anywhere."""
    found, shots = _report(desk, slug, days)
    pictures = []
    for entry, told in shots:
        with suppress(NotFound):
            content = photos.file_of(desk, slug, entry.id, small=False).read_bytes()
            pictures.append((told, base64.b64encode(content).decode("ascii")))
    html = environment.get_template("report_alone.html").render(r=found, pictures=pictures)
    text = written(html, desk.preferences.manner)
    return Response(text, media_type="text/html; charset=utf-8",
                    headers={"Content-Disposition": f'attachment; filename="{slug}-report.html"'})  # fmt: skip
