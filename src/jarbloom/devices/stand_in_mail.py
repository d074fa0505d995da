"""A made-up mail server: takes everything on loopback, delivers nothing, and shows on a page what was sent."""

from __future__ import annotations

import email
import email.policy
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from html import escape
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Lock
from typing import Any

from aiosmtpd.controller import Controller

MOST = 200


@dataclass(frozen=True)
class Received:
    at: datetime
    sender: str
    to: str
    subject: str
    body: str


@dataclass
class Inbox:
    """What came in, the newest first; `refusing` makes the server say no, to see what the app does."""

    mails: deque[Received] = field(default_factory=lambda: deque(maxlen=MOST))
    refusing: bool = False
    lock: Lock = field(default_factory=Lock)

    def listed(self) -> Sequence[Received]:
        with self.lock:
            return tuple(self.mails)

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:  # noqa: N802, the library's name
        if self.refusing:
            return "451 The stand-in was told to refuse; try later"
        told = email.message_from_bytes(envelope.content, policy=email.policy.default)
        part = told.get_body(("plain",))
        one = Received(
            datetime.now().astimezone(),
            str(envelope.mail_from),
            ", ".join(envelope.rcpt_tos),
            str(told["Subject"] or ""),
            part.get_content() if part is not None else "",
        )
        with self.lock:
            self.mails.appendleft(one)
        return "250 Kept by the stand-in; nothing is delivered"


def serve_smtp(port: int, inbox: Inbox) -> Controller:
    """Started and listening on loopback; `.stop()` ends it."""
    controller = Controller(inbox, hostname="127.0.0.1", port=port)
    controller.start()
    return controller


_STYLE = (
    "body{font:16px/1.4 sans-serif;max-width:760px;margin:32px auto;padding:0 20px;color:#10282c;background:#e9efed}"
    "h1{font-size:24px}article{border-top:1.5px solid #10282c;padding:10px 0 18px}pre{white-space:pre-wrap;"
    "font:inherit}small{color:#4b6168}button{min-height:44px;padding:0 16px;font:inherit}"
)


def page(inbox: Inbox) -> str:
    """The page as HTML that stands by itself."""
    mails = "".join(
        f"<article><h2>{escape(m.subject)}</h2><small>{m.at:%a %d %b %Y %H:%M:%S}, from {escape(m.sender)} to "
        f"{escape(m.to)}</small><pre>{escape(m.body)}</pre></article>"
        for m in inbox.listed()
    )
    word = "Take mail again" if inbox.refusing else "Refuse from now on"
    state = "It refuses every mail now." if inbox.refusing else "It takes every mail and delivers none."
    return (
        f'<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">'
        f"<title>Stand-in mail server</title><style>{_STYLE}</style><h1>Stand-in mail server</h1>"
        f'<p>{state} What was sent to it, the newest first.</p><form method="post" action="/switch">'
        f"<button>{word}</button></form>{mails or '<p>Nothing has been sent yet.</p>'}"
    )


def serve_page(port: int, inbox: Inbox) -> ThreadingHTTPServer:
    class Answer(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self._say(page(inbox))

        def do_POST(self) -> None:
            if self.path == "/switch":
                inbox.refusing = not inbox.refusing
            self.send_response(303)
            self.send_header("Location", "/")
            self.send_header("Content-Length", "0")
            self.end_headers()

        def _say(self, text: str) -> None:
            body = text.encode()
            self.send_response(200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *args: object) -> None:
            """Quiet: the page says it all."""

    return ThreadingHTTPServer(("127.0.0.1", port), Answer)
