"""Page data of who is signed in where, and of tokens."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from jarbloom.store.sessions import Session, Token


@dataclass(frozen=True)
class SessionRow:
    hash: str
    keeper: str
    role: str
    device: str
    seen: str
    this: bool


@dataclass(frozen=True)
class TokenRow:
    id: int
    name: str
    scopes: str
    made: str
    used: str


_SYSTEMS = ("iPhone", "iPad", "Android", "Windows", "Macintosh", "Linux")
_BROWSERS = (("Firefox/", "Firefox"), ("Edg/", "Edge"), ("Chrome/", "Chrome"), ("Safari/", "Safari"))


def session_rows(found: Sequence[Session], here: str, now: datetime) -> tuple[SessionRow, ...]:
    return tuple(
        SessionRow(
            s.hash, s.keeper or "no name", "reads only" if s.role == "sitter" else "keeper", _device(s.device),
            _when(s.seen_at, now), s.hash == here,
        )
        for s in found
    )  # fmt: skip


def token_rows(found: Sequence[Token], now: datetime) -> tuple[TokenRow, ...]:
    return tuple(
        TokenRow(
            t.id, t.name, ", ".join(t.scopes), _when(t.made_at, now), _when(t.used_at, now) if t.used_at else "never"
        )
        for t in found
    )


def _device(told: str) -> str:
    system = next((s for s in _SYSTEMS if s in told), "")
    browser = next((name for sign, name in _BROWSERS if sign in told), "")
    return " on ".join(filter(None, (browser, system))) or told[:40] or "unknown"


def _when(at: int, now: datetime) -> str:
    moment = datetime.fromtimestamp(at, now.tzinfo)
    return f"{moment:%H:%M}" if moment.date() == now.date() else f"{moment:%-d %b %Y}"
