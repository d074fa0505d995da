"""Letting the house in, and nobody else: passphrases, sign-in with patience for mistakes and none for guessing,
phones paired by a code, and sessions that can all be ended."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from secrets import token_urlsafe
from threading import Lock

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from itsdangerous import BadSignature, URLSafeSerializer

from jarbloom.errors import NotFound, Refused
from jarbloom.store import sessions
from jarbloom.store.db import transaction
from jarbloom.store.secret_file import folder_of, keep_secret, secret
from jarbloom.store.sessions import SEEN_EVERY_S, Session

LEAST_LENGTH = 10
ROLES = {"keeper": "passphrase", "sitter": "passphrase_sitter"}  # under which name each one's hash is kept
COOKIE_KEY = "cookie_key"
FREE_TRIES, FIRST_WAIT_S, LONGEST_WAIT_S = 5, 15.0, 900.0  # wrong passphrases from one address before it has to wait
ALL_TRIES, ALL_WAIT_S = 40, 60.0  # and from all addresses together
_hasher = PasswordHasher()


def set_passphrase(folder: Path, typed: str, role: str = "keeper") -> None:
    """Keeps a hash of it (argon2id). Raises Refused for one that is too short."""
    if len(typed) < LEAST_LENGTH:
        raise Refused(
            f"A passphrase of at least {LEAST_LENGTH} characters; some words in a row are good.", "passphrase"
        )
    keep_secret(folder, ROLES[role], _hasher.hash(typed))


def has_passphrase(folder: Path) -> bool:
    return bool(secret(folder, ROLES["keeper"]))


def role_of(folder: Path, typed: str) -> str | None:
    """Whose passphrase this is. Each is compared in full: how long it takes tells nothing."""
    found = None
    for role, name in ROLES.items():
        kept = secret(folder, name)
        if not kept:
            continue
        try:
            _hasher.verify(kept, typed)
            found = found or role
        except (VerificationError, InvalidHashError):
            continue
    return found


@dataclass
class Patience:
    """How often an address was wrong lately, and how long it has to wait. In memory: a restart forgives."""

    clock: Callable[[], float] = time.monotonic
    wrong: dict[str, tuple[int, float]] = field(default_factory=dict)  # by address: how often, and until when it waits
    lock: Lock = field(default_factory=Lock)

    def wait_s(self, address: str) -> float:
        """Seconds until this address may try again, 0 now."""
        with self.lock:
            now = self.clock()
            everybody = self.wrong.get("", (0, 0.0))[1]
            return max(self.wrong.get(address, (0, 0.0))[1], everybody, now) - now

    def failed(self, address: str) -> None:
        with self.lock:
            now = self.clock()
            n = self.wrong.get(address, (0, 0.0))[0] + 1
            wait = min(FIRST_WAIT_S * 2 ** (n - FREE_TRIES), LONGEST_WAIT_S) if n >= FREE_TRIES else 0.0
            self.wrong[address] = (n, now + wait)
            every = self.wrong.get("", (0, 0.0))[0] + 1
            self.wrong[""] = (every % ALL_TRIES, now + ALL_WAIT_S if every >= ALL_TRIES else 0.0)
            if len(self.wrong) > 10_000:  # a flood of addresses
                self.wrong = {"": self.wrong[""]}

    def succeeded(self, address: str) -> None:
        with self.lock:
            self.wrong.pop(address, None)


def cookie_for(folder: Path, session_secret: str) -> str:
    return str(_signer(folder).dumps(session_secret))


def session_secret_of(folder: Path, cookie: str) -> str | None:
    """None for a cookie that this house has not signed."""
    try:
        told = _signer(folder).loads(cookie)
    except BadSignature:
        return None
    return told if isinstance(told, str) else None


def _signer(folder: Path) -> URLSafeSerializer:
    key = secret(folder, COOKIE_KEY)
    if not key:
        key = token_urlsafe(32)
        keep_secret(folder, COOKIE_KEY, key)
    return URLSafeSerializer(key, salt="jarbloom-session")


def sign_in(conn: sqlite3.Connection, folder: Path, typed: str, keeper: str, device: str) -> str:
    """The cookie of a new session. Raises Refused for a wrong passphrase."""
    role = role_of(folder, typed)
    if role is None:
        raise Refused("That is not the passphrase.", "passphrase")
    return _begin(conn, folder, keeper, role, device)


def _begin(conn: sqlite3.Connection, folder: Path, keeper: str, role: str, device: str) -> str:
    name = " ".join(keeper.split())[:80]
    with transaction(conn, deed=False):
        return cookie_for(folder, sessions.begin(conn, name, role, device, int(time.time())))


def who_is(conn: sqlite3.Connection, folder: Path, cookie: str) -> Session | None:
    """The session of a cookie; its last sight is kept now and then."""
    told, now = session_secret_of(folder, cookie), int(time.time())
    found = sessions.session(conn, told, now) if told else None
    if found is not None and now - found.seen_at > SEEN_EVERY_S:
        with transaction(conn, deed=False):
            sessions.seen(conn, found, now)
    return found


def signed_in(conn: sqlite3.Connection) -> list[Session]:
    return sessions.sessions(conn, int(time.time()))


def sign_out(conn: sqlite3.Connection, session_hash: str | None = None) -> None:
    """One, or everybody everywhere."""
    with transaction(conn):
        sessions.end(conn, session_hash)


def new_code(conn: sqlite3.Connection, keeper: str) -> str:
    """A one-time code that brings a phone in, in the name of who made it."""
    with transaction(conn):
        return sessions.new_pairing(conn, keeper, int(time.time()))


def whose_code(conn: sqlite3.Connection, code: str) -> str:
    """Raises NotFound for a code that is unknown, used or too old."""
    found = sessions.pairing(conn, code, int(time.time()))
    if found is None:
        raise NotFound("This code is used up or too old. Make a new one on the page Devices.")
    return found


def pair(conn: sqlite3.Connection, code: str, device: str) -> str:
    """The cookie of a phone that showed the code; the code is used up. Raises NotFound."""
    folder = folder_of(conn)
    with transaction(conn):
        keeper = sessions.use_pairing(conn, code, int(time.time()))
        if keeper is None or folder is None:
            raise NotFound("This code is used up or too old. Make a new one on the page Devices.")
        return cookie_for(folder, sessions.begin(conn, keeper, "keeper", device, int(time.time())))
