"""What a request is answered with: a connection and desk of its own, and its form as plain text fields."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Iterator, Mapping
from contextlib import closing
from dataclasses import replace
from typing import Annotated, Any
from zoneinfo import ZoneInfo

from fastapi import Depends, Request

from jarbloom.deeds.desk import Desk, with_own
from jarbloom.manner import usual_units
from jarbloom.settings import MAX_BODY_BYTES
from jarbloom.store import preferences, tanks
from jarbloom.store.db import answer_to, answered, open_same, transaction

# Hidden fields that pages give their forms: the token of a form, and the number of the record it was made from
ONCE, REVISION = "_once", "_revision"


class Form(dict[str, str]):
    """Typed text by field name; `all(name)` gives every value of a field that may stand more than once. `token` is
    what the page gave this form to know it by, `revision` the record that it was made from, None where none was told.
    """

    def __init__(self, items: list[tuple[str, Any]]) -> None:
        pairs = [(k, v) for k, v in items if isinstance(v, str)]
        self.pairs = [(k, v) for k, v in pairs if k not in (ONCE, REVISION)]
        ours = dict(pairs)
        self.token, told = ours.get(ONCE, ""), ours.get(REVISION, "")
        self.revision = int(told) if told.isascii() and told.isdigit() and len(told) < 19 else None
        super().__init__(self.pairs)

    def all(self, name: str) -> list[str]:
        return [v for k, v in self.pairs if k == name]

    def text(self, name: str) -> str:
        return self.get(name, "").strip()


async def form(request: Request) -> Form:
    found = Form((await request.form(max_fields=400, max_part_size=MAX_BODY_BYTES)).multi_items())
    request.state.typed = found  # should the answer fail, what was typed is given back
    return found


async def once(request: Request) -> str:
    """What tells this sending of a form from all others, '' where it brought no token."""
    if not request.headers.get("content-type", "").startswith("application/x-www-form-urlencoded"):
        return ""
    typed = await form(request)
    return known_by(request, typed.token, repr(sorted(typed.pairs)))


def known_by(request: Request, token: str, content: str) -> str:
    """The key of a sending: its token, where it goes, and what is in it. The same again (a double click, a retry after
    a broken line) has the same; a changed one has not."""
    if not token:
        return ""
    told = repr((token, request.url.path, content))
    request.state.once = hashlib.sha256(told.encode("utf-8", "backslashreplace")).hexdigest()
    return str(request.state.once)


def desk(request: Request, key: Annotated[str, Depends(once)]) -> Iterator[Desk]:
    state = request.app.state
    conn = open_same(state.path, state.file_id)
    state.held.still_used()
    conn.once = key
    try:
        chosen = preferences.load(conn, state.zone)
        session = getattr(request.state, "session", None)
        if session is not None and session.keeper:
            chosen = replace(chosen, who=session.keeper)
        language = request.headers.get("accept-language", "")
        chosen = replace(chosen, language=language)
        if not chosen.system and not tanks.any_tank(conn):
            chosen = replace(chosen, system=usual_units(language))
        now = state.settings.clock(ZoneInfo(chosen.zone))
        waits = not (request.method == "GET" and asks_again(request))
        yield Desk(conn, now, chosen, with_own(state.reference, conn), state.forecasting, waits)
    finally:
        conn.close()


SCRIPTED = "jb_js"  # cookie of a browser in which our scripts run (app.js)
PATIENT, PATIENT_S = "jb_wait", 30  # cookie of one that asked in vain: for so long it gets what every other gets


def scripted(request: Request) -> bool:
    """A page for a browser in which our scripts run; not a part of one, a file, or a script's request."""
    wants_page = "HX-Request" not in request.headers and "text/html" in request.headers.get("accept", "")
    return wants_page and SCRIPTED in request.cookies


def asks_again(request: Request) -> bool:
    """Whether a page may come before its forecast: the browser asks for that by itself."""
    return request.app.state.settings.at_once and scripted(request) and PATIENT not in request.cookies


def back_to(typed: Mapping[str, str], usual: str) -> str:
    """The page that a form names as its own, when it is one of ours."""
    back = typed.get("back", "").strip()
    return back if back.startswith("/") and not back.startswith("//") and "\\" not in back else usual


ANSWER_S, LOOK_EVERY_S = 5.0, 0.05


def answer_of_the_first(request: Request) -> str:
    """Where the first sending was led on to; waits for a moment while that one is being answered."""
    until = time.monotonic() + ANSWER_S
    state = request.app.state
    with closing(open_same(state.path, state.file_id)) as conn:
        while time.monotonic() < until:
            found = answer_to(conn, request.state.once)
            if found:
                return found
            time.sleep(LOOK_EVERY_S)
    return ""


def leads_to(request: Request, desk: Desk, where: str) -> str:
    """Where a deed is led on to, told before it is done: kept with it, and so in no writing of its own."""
    desk.conn.leads_to, request.state.told_ahead = where, True
    return where


def keep_answer(request: Request, location: str) -> None:
    """For those that send the same again."""
    state = request.app.state
    with closing(open_same(state.path, state.file_id)) as conn, transaction(conn, deed=False):
        answered(conn, request.state.once, location)


AtDesk = Annotated[Desk, Depends(desk)]
Typed = Annotated[Form, Depends(form)]
