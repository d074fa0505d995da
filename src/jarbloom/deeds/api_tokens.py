"""Bearer tokens for scripts and devices: what each may do, when it was last used, and their end."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Sequence

from jarbloom.errors import Refused
from jarbloom.store import sessions
from jarbloom.store.db import transaction
from jarbloom.store.sessions import Token

SCOPES = {
    "read": "look at tanks, entries, forecasts and advice",
    "write": "log, correct and void entries, tick jobs",
    "probe": "hand in readings of a probe, and nothing else",
}
USED_EVERY_S = 60


def listed(conn: sqlite3.Connection) -> list[Token]:
    return sessions.tokens(conn)


def make(conn: sqlite3.Connection, name: str, scopes: Sequence[str]) -> str:
    """The token itself, which is shown this once. Raises Refused naming the field."""
    name = " ".join(name.split())[:80]
    if not name:
        raise Refused("What is it for? The list names it by that.", "name")
    chosen = tuple(s for s in SCOPES if s in scopes)
    if not chosen:
        raise Refused("What may it do?", "scope")
    with transaction(conn):
        return sessions.new_token(conn, name, chosen, int(time.time()))


def known(conn: sqlite3.Connection, secret: str) -> Token | None:
    """The token of a secret; when it was last used is kept to the minute."""
    found, now = sessions.token(conn, secret), int(time.time())
    if found is not None and now - (found.used_at or 0) >= USED_EVERY_S:
        with transaction(conn, deed=False):
            sessions.token_used(conn, found.id, now)
    return found


def revoke(conn: sqlite3.Connection, typed: str) -> None:
    if not (typed.isascii() and typed.isdigit() and len(typed) < 19):
        raise Refused("There is no such token.", "token")
    with transaction(conn):
        sessions.revoke(conn, int(typed), int(time.time()))
