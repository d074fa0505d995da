"""Who is signed in, codes that bring a phone in, and tokens of scripts: all by hashes of what their owners hold."""

from __future__ import annotations

import hashlib
import sqlite3
from dataclasses import dataclass
from secrets import token_urlsafe

SESSION_DAYS, PAIRING_MINUTES = 90, 10
SEEN_EVERY_S = 3600  # the last sight of a session is written so often at the most
DAY_S = 86400


@dataclass(frozen=True)
class Session:
    """Times in seconds, UTC."""

    hash: str
    keeper: str
    role: str  # keeper | sitter
    device: str
    begun_at: int
    seen_at: int
    expires_at: int


def hashed(secret: str) -> str:
    """Of a secret with as much chance in it as ours have, a plain hash is enough."""
    return hashlib.sha256(secret.encode("utf-8", "backslashreplace")).hexdigest()


def begin(conn: sqlite3.Connection, keeper: str, role: str, device: str, now: int) -> str:
    """A new session; returns the secret that its cookie holds."""
    secret = token_urlsafe(32)
    conn.execute("DELETE FROM session WHERE expires_at < :now", {"now": now})
    conn.execute(
        """INSERT INTO session (hash, keeper, role, device, begun_at, seen_at, expires_at)
           VALUES (:hash, :keeper, :role, :device, :now, :now, :end)""",
        {
            "hash": hashed(secret),
            "keeper": keeper,
            "role": role,
            "device": device[:120],
            "now": now,
            "end": now + SESSION_DAYS * DAY_S,
        },
    )
    return secret


def session(conn: sqlite3.Connection, secret: str, now: int) -> Session | None:
    row = conn.execute(
        "SELECT * FROM session WHERE hash = :hash AND expires_at >= :now", {"hash": hashed(secret), "now": now}
    ).fetchone()
    return Session(**row) if row else None


def seen(conn: sqlite3.Connection, one: Session, now: int) -> None:
    """It lives on from its last sight."""
    conn.execute(
        "UPDATE session SET seen_at = :now, expires_at = :end WHERE hash = :hash",
        {"now": now, "end": now + SESSION_DAYS * DAY_S, "hash": one.hash},
    )


def sessions(conn: sqlite3.Connection, now: int) -> list[Session]:
    rows = conn.execute("SELECT * FROM session WHERE expires_at >= :now ORDER BY seen_at DESC", {"now": now})
    return [Session(**row) for row in rows]


def end(conn: sqlite3.Connection, session_hash: str | None = None) -> None:
    """Signs one out, or everybody."""
    if session_hash is None:
        conn.execute("DELETE FROM session")
    else:
        conn.execute("DELETE FROM session WHERE hash = :hash", {"hash": session_hash})


def new_pairing(conn: sqlite3.Connection, keeper: str, now: int) -> str:
    """A one-time code for so many minutes; an earlier one ends."""
    code = token_urlsafe(16)
    conn.execute("DELETE FROM pairing")
    conn.execute(
        "INSERT INTO pairing (hash, keeper, expires_at) VALUES (:hash, :keeper, :end)",
        {"hash": hashed(code), "keeper": keeper, "end": now + 60 * PAIRING_MINUTES},
    )
    return code


def pairing(conn: sqlite3.Connection, code: str, now: int) -> str | None:
    """Whose code this is; None for one that is unknown, used or too old."""
    row = conn.execute(
        "SELECT keeper FROM pairing WHERE hash = :hash AND used_at IS NULL AND expires_at >= :now",
        {"hash": hashed(code), "now": now},
    ).fetchone()
    return row["keeper"] if row else None


def use_pairing(conn: sqlite3.Connection, code: str, now: int) -> str | None:
    """The same, and it is used up by that."""
    keeper = pairing(conn, code, now)
    if keeper is not None:
        conn.execute("UPDATE pairing SET used_at = :now WHERE hash = :hash", {"now": now, "hash": hashed(code)})
    return keeper


@dataclass(frozen=True)
class Token:
    id: int
    name: str
    scopes: tuple[str, ...]
    made_at: int
    used_at: int | None


def new_token(conn: sqlite3.Connection, name: str, scopes: tuple[str, ...], now: int) -> str:
    """A bearer token; it is shown this once and kept as a hash."""
    secret = f"jb_{token_urlsafe(32)}"
    conn.execute(
        "INSERT INTO api_token (hash, name, scopes, made_at) VALUES (:hash, :name, :scopes, :now)",
        {"hash": hashed(secret), "name": name, "scopes": " ".join(scopes), "now": now},
    )
    return secret


def tokens(conn: sqlite3.Connection) -> list[Token]:
    rows = conn.execute("SELECT * FROM api_token WHERE revoked_at IS NULL ORDER BY id")
    return [_token(row) for row in rows]


def token(conn: sqlite3.Connection, secret: str) -> Token | None:
    row = conn.execute(
        "SELECT * FROM api_token WHERE hash = :hash AND revoked_at IS NULL", {"hash": hashed(secret)}
    ).fetchone()
    return _token(row) if row else None


def _token(row: sqlite3.Row) -> Token:
    return Token(row["id"], row["name"], tuple(row["scopes"].split()), row["made_at"], row["used_at"])


def token_used(conn: sqlite3.Connection, token_id: int, now: int) -> None:
    conn.execute("UPDATE api_token SET used_at = :now WHERE id = :id", {"now": now, "id": token_id})


def revoke(conn: sqlite3.Connection, token_id: int, now: int) -> None:
    conn.execute("UPDATE api_token SET revoked_at = :now WHERE id = :id", {"now": now, "id": token_id})
