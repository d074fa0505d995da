"""A served database and one browser for the whole run; a context of its own for each test."""

from __future__ import annotations

import atexit
import shutil
import socket
import tempfile
import threading
import unittest
from contextlib import ExitStack
from dataclasses import replace
from datetime import datetime
from functools import cache
from pathlib import Path

import uvicorn
from playwright.sync_api import Browser, ConsoleMessage, Locator, Page, expect, sync_playwright

from jarbloom.settings import Settings
from jarbloom.web.app import create_app
from tests.make import FEW, NOW, ZONE, demo_folder

DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
PROGRAMS = ("chromium-headless-shell", "chromium", "chromium-browser")  # the first draws in half the time
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
         "--disable-component-update", "--disable-sync"]  # fmt: skip
PATIENCE_MS = 15_000  # before a test gives up: a busy machine is no fault of the page
expect.set_options(timeout=PATIENCE_MS)


# Whatever is swapped in: a keyboard that stood in the old part stands somewhere in the new page, not nowhere. Swaps may
# cross: it is looked at once none has come for a while.
WATCH_FOCUS = """(() => {
  let inside = "", later = 0;
  const nowhere = () => !document.activeElement || document.activeElement === document.body;
  document.addEventListener("htmx:before:swap", () => {
    clearTimeout(later);
    if (!nowhere()) { inside = document.activeElement.outerHTML.slice(0, 90); }
  });
  // who clicks beside it takes it away, and a narrower window hides what it stood on
  document.addEventListener("pointerdown", () => { inside = ""; }, true);
  addEventListener("resize", () => { inside = ""; });
  document.addEventListener("htmx:after:settle", () => {
    clearTimeout(later);
    later = setTimeout(() => {
      if (inside && nowhere()) { console.error("the focus is lost: " + inside); }
      inside = "";
    }, 250);
  });
})()"""


@cache
def browser() -> Browser:
    where = next(filter(None, map(shutil.which, PROGRAMS)), None)
    if where is None:
        raise RuntimeError(f"Chromium is missing: apt-get install --no-install-recommends {PROGRAMS[0]}")
    playwright = sync_playwright().start()
    found = playwright.chromium.launch(executable_path=where, args=FLAGS)
    atexit.register(playwright.stop)
    atexit.register(found.close)
    return found


def notice(page: Page) -> Locator:
    """What a page says of the last act. In its main part: the phone's dock has a live region of its own, which a page
    that is still waiting for its styles shows as well."""
    return page.get_by_role("main").get_by_role("status")


def read_out(page: Page) -> Locator:
    """What is read out to who does not see the part that was swapped in."""
    return page.locator("#live")


class Served:
    """The application on a free loopback port, in a thread."""

    def __init__(self, settings: Settings) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        self.address = f"http://127.0.0.1:{port}"
        self.app = create_app(settings)
        self.app.state.zone = ZONE  # wherever the tests run
        self.silent_at = ""  # the end of addresses that get no answer, however the browser reaches them
        config = uvicorn.Config(
            self._answer, host="127.0.0.1", port=port, log_level="error", lifespan="off", interface="asgi3"
        )
        self.server = uvicorn.Server(config)
        self.thread = threading.Thread(target=self.server.run, daemon=True)
        self.thread.start()
        while not self.server.started and self.thread.is_alive():
            self.thread.join(0.02)

    async def _answer(self, scope, receive, send) -> None:
        if self.silent_at and scope["path"].endswith(self.silent_at):
            await send({"type": "http.response.start", "status": 503, "headers": []})
            await send({"type": "http.response.body", "body": b""})
        else:
            await self.app(scope, receive, send)

    def set_clock(self, now: datetime) -> None:
        """Let time pass: the fixed clock stands at another moment from the next request on."""
        self.app.state.settings = replace(self.app.state.settings, now=now)

    def stop(self) -> None:
        self.server.should_exit = True
        self.thread.join(10)


class InBrowser(unittest.TestCase):
    """`with_demo` serves a copy of the demo, else an empty database. Console errors fail the test."""

    with_demo = True

    @classmethod
    def setUpClass(cls) -> None:
        stack = ExitStack()
        cls.addClassCleanup(stack.close)
        folder = (
            stack.enter_context(demo_folder())
            if cls.with_demo
            else Path(stack.enter_context(tempfile.TemporaryDirectory()))
        )
        cls.served = Served(Settings(folder, NOW, FEW, cls.with_demo))
        stack.callback(cls.served.stop)
        browser()

    def setUp(self) -> None:
        self.problems: list[str] = []
        self.allowed: set[int] = set()
        self.allowed_texts: tuple[str, ...] = ()
        self.page = self.new_page(DESK)

    def new_page(self, size: dict[str, int], **more: str) -> Page:
        context = browser().new_context(
            **more,
            viewport=size,
            base_url=self.served.address,
            locale="en-GB",
            timezone_id="Europe/Berlin",
            reduced_motion="reduce",
        )
        self.addCleanup(context.close)
        context.set_default_timeout(PATIENCE_MS)
        context.add_init_script(WATCH_FOCUS)
        page = context.new_page()
        page.on("console", self._console)
        page.on("pageerror", lambda error: self.problems.append(str(error)))
        page.on("request", self._request)
        return page

    def _console(self, message: ConsoleMessage) -> None:
        # A 4xx answer logs an error of its own; a test that sends one says so.
        if message.type == "error" and not any(
            words in message.text for words in (*(f"status of {n}" for n in self.allowed), *self.allowed_texts)
        ):
            self.problems.append(message.text)

    def _request(self, request) -> None:
        if not request.url.startswith((self.served.address, "data:")):
            self.problems.append(f"outside: {request.url}")

    def tearDown(self) -> None:
        self.assertEqual(self.problems, [])
