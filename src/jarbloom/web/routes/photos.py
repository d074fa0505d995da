"""Photos of a tank: sent, shown along time, compared; the files themselves."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request, Response
from fastapi.responses import FileResponse, HTMLResponse, RedirectResponse
from starlette.datastructures import UploadFile

from jarbloom.deeds import photos as deeds
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.photos import MOST_AT_ONCE, Sent
from jarbloom.errors import JarBloomError, Refused
from jarbloom.formats.picture import MOST_BYTES
from jarbloom.views.tank.photos import compared, years
from jarbloom.web import urls
from jarbloom.web.deps import ONCE, AtDesk, known_by
from jarbloom.web.render import fragment, page

MOST_SENT = 120_000_000  # of all pictures of one form
router = APIRouter(prefix="/tanks/{slug}")


@dataclass(frozen=True)
class SentForm:
    photos: tuple[Sent, ...]
    typed: dict[str, str]
    token: str


async def sent_form(request: Request) -> SentForm:
    async with request.form(max_files=MOST_AT_ONCE + 1, max_part_size=MOST_BYTES) as form:
        photos = [
            Sent(one.filename or "", await one.read()) for one in form.getlist("photo")
            if isinstance(one, UploadFile) and (one.filename or one.size)
        ]  # fmt: skip
        typed = {k: v[:4000] for k, v in form.multi_items() if isinstance(v, str) and k != ONCE}
        return SentForm(tuple(photos), typed, str(form.get(ONCE) or ""))


def _page(
    request: Request, desk: Desk, slug: str, typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
) -> HTMLResponse:  # fmt: skip
    seen = deeds.album(desk, slug)
    return page(
        request, desk, "photos.html", 422 if errors else 200, tank=seen.tank, years=years(seen.photos, seen.tank),
        count=len(seen.photos), subjects=seen.subjects, typed=typed or {}, errors=errors or {}, here="log",
    )  # fmt: skip


@router.get("/photos")
def album(request: Request, desk: AtDesk, slug: str) -> HTMLResponse:
    return _page(request, desk, slug)


@router.post("/photos", max_body_size=MOST_SENT)
def send(request: Request, desk: AtDesk, slug: str, sent: Annotated[SentForm, Depends(sent_form)]) -> Response:
    content = hashlib.sha256(b"".join(hashlib.sha256(p.content).digest() for p in sent.photos)).hexdigest()
    desk.conn.once = known_by(request, sent.token, repr((sorted(sent.typed.items()), content)))
    quick = sent.typed.get("quick") == "1"
    try:
        at = _moment(sent.typed.get("at", ""), desk)
        saved = deeds.add(
            desk, slug, sent.photos, at=at, of=sent.typed.get("of", "")[:80], text=sent.typed.get("text", "")[:2000],
            as_taken=sent.typed.get("as_taken") != "no",
        )  # fmt: skip
    except Refused as problem:
        if quick:
            tank = deeds.album(desk, slug).tank
            return fragment(
                desk, "parts/quick_said.html", 422, saved=None, refused=problem.sentence, line="", tank=tank
            )
        return _page(request, desk, slug, sent.typed, {problem.field or "photo": problem.sentence})
    except JarBloomError as problem:
        return _page(request, desk, slug, sent.typed, {"photo": problem.sentence})
    if quick:
        tank = deeds.album(desk, slug).tank
        return fragment(desk, "parts/quick_said.html", 200, saved=saved, refused="", line="", tank=tank)
    return RedirectResponse(urls.photos(slug), 303)


def _moment(text: str, desk: Desk) -> datetime | None:
    if not text.strip():
        return None
    try:
        at = datetime.fromisoformat(text.strip())
    except ValueError:
        raise Refused(f"“{text[:40]}” is no moment; write 2026-11-24T18:40.", "at") from None
    at = at.replace(tzinfo=desk.now.tzinfo) if at.tzinfo is None else at
    if at > desk.now:
        raise Refused("That moment has not come yet.", "at")
    return at


@router.get("/photos/compare")
def compare(
    request: Request, desk: AtDesk, slug: str, p: Annotated[list[int], Query(max_length=10)] = [],  # noqa: B006
) -> Response:  # fmt: skip
    if len(p) != 2 or p[0] == p[1]:
        return _page(request, desk, slug, errors={"compare": f"Choose two pictures; {len(set(p))} chosen."})
    a, b = (deeds.looked_at(desk, slug, k) for k in p)
    seen = deeds.album(desk, slug)
    both = compared((a.entry, a.readings), (b.entry, b.readings), seen.tank)
    return page(request, desk, "photo_compare.html", tank=seen.tank, c=both, here="log")


@router.get("/photos/{entry_id}.jpg")
def file(desk: AtDesk, slug: str, entry_id: int, small: bool = False) -> FileResponse:
    path = deeds.file_of(desk, slug, entry_id, small)
    headers = {"Cache-Control": "private, max-age=31536000, immutable", "Content-Disposition": "inline"}
    return FileResponse(path, media_type="image/jpeg", headers=headers)
