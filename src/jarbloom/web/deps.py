"""What a request is answered with: a connection and desk of its own, and its form as plain text fields."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any
from zoneinfo import ZoneInfo

from fastapi import Depends, Request

from jarbloom.deeds.desk import Desk, with_own
from jarbloom.settings import MAX_BODY_BYTES
from jarbloom.store import preferences
from jarbloom.store.db import open_same


def desk(request: Request) -> Iterator[Desk]:
    state = request.app.state
    conn = open_same(state.path, state.file_id)
    try:
        chosen = preferences.load(conn, state.zone)
        now = state.settings.clock(ZoneInfo(chosen.zone))
        yield Desk(conn, now, chosen, with_own(state.reference, conn), state.forecasting)
    finally:
        conn.close()


class Form(dict[str, str]):
    """Typed text by field name; `all(name)` gives every value of a field that may stand more than once."""

    def __init__(self, items: list[tuple[str, Any]]) -> None:
        pairs = [(k, v) for k, v in items if isinstance(v, str)]
        super().__init__(pairs)
        self._pairs = pairs

    def all(self, name: str) -> list[str]:
        return [v for k, v in self._pairs if k == name]

    def text(self, name: str) -> str:
        return self.get(name, "").strip()


async def form(request: Request) -> Form:
    found = Form((await request.form(max_fields=400, max_part_size=MAX_BODY_BYTES)).multi_items())
    request.state.typed = found  # should the answer fail, what was typed is given back
    return found


def back_to(typed: Form, usual: str) -> str:
    """The page that a form names as its own, when it is one of ours."""
    back = typed.text("back")
    return back if back.startswith("/") and not back.startswith("//") and "\\" not in back else usual


AtDesk = Annotated[Desk, Depends(desk)]
Typed = Annotated[Form, Depends(form)]
