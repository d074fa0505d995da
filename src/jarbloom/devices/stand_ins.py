"""Running the stand-ins: as processes of their own beside the demo, and each by itself in the foreground."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from jarbloom.devices.stand_in_probe import Clock, Truth, serve_probe
from jarbloom.errors import DeviceError

PROBE_PORT, SMTP_PORT, MAIL_PAGE_PORT = 8121, 8125, 8126
TRIED_PORTS = 40
PARENT = "JARBLOOM_PARENT"  # the process that started a stand-in; when it is gone the stand-in ends too
LOOK_EVERY_S = 2.0
WAIT_TIMES, WAIT_S = 80, 0.1


@dataclass(frozen=True)
class RunningStandIns:
    """Ports of the stand-ins that run beside the demo."""

    probe_port: int
    smtp_port: int
    mail_page_port: int

    @property
    def mail_page(self) -> str:
        return f"http://127.0.0.1:{self.mail_page_port}/"

    def wait(self) -> None:
        """Until all of them listen, or for a while: the demo goes on without one that does not."""
        for port in (self.probe_port, self.smtp_port, self.mail_page_port):
            for _ in range(WAIT_TIMES):
                with socket.socket() as door:
                    if door.connect_ex(("127.0.0.1", port)) == 0:
                        break
                threading.Event().wait(WAIT_S)


def free_port(wanted: int, taken: set[int]) -> int:
    """The wanted loopback port, or the next free one."""
    for port in range(wanted, wanted + TRIED_PORTS):
        if port in taken:
            continue
        with socket.socket() as door:
            try:
                door.bind(("127.0.0.1", port))
            except OSError:
                continue
        taken.add(port)
        return port
    raise OSError(f"no port between {wanted} and {wanted + TRIED_PORTS - 1} is free")


@contextmanager
def beside(folder: Path, now: datetime | None) -> Iterator[RunningStandIns]:
    """Both stand-ins as processes, ended when the demo ends."""
    taken: set[int] = set()
    probe, smtp, page = (free_port(p, taken) for p in (PROBE_PORT, SMTP_PORT, MAIL_PAGE_PORT))
    fixed = ["--now", now.isoformat()] if now else []
    commands = (
        ["probe", "--data", str(folder), "--port", str(probe), *fixed],
        ["mail", "--port", str(smtp), "--page", str(page)],
    )
    running = [_start(c) for c in commands]
    try:
        yield RunningStandIns(probe, smtp, page)
    finally:
        for process in running:
            process.terminate()
        for process in running:
            process.wait(5)


def _start(command: list[str]) -> subprocess.Popen[bytes]:
    environment: Mapping[str, str] = os.environ | {PARENT: str(os.getpid())}
    return subprocess.Popen([sys.executable, "-m", "jarbloom", "stand-in", *command], env=environment)


def _until_stopped() -> None:
    """Wait for Ctrl-C or a signal, or until the process that started us is gone."""
    over = threading.Event()
    signal.signal(signal.SIGTERM, lambda *_: over.set())
    parent = os.environ.get(PARENT)
    try:
        while not over.wait(LOOK_EVERY_S):
            if parent and os.getppid() != int(parent):
                return
    except KeyboardInterrupt:
        return


def run_probe(port: int, truth: Truth, clock: Clock) -> None:
    server = serve_probe(port, truth, clock)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    if not os.environ.get(PARENT):
        print(f"Stand-in probe at http://127.0.0.1:{port}/v1/<tank>/reading (Ctrl-C stops)", flush=True)
    _until_stopped()
    server.shutdown()


def run_mail(port: int, page: int) -> None:
    """Raises DeviceError where the package that it needs is not installed: an own server does without."""
    try:
        from jarbloom.devices.stand_in_mail import Inbox, serve_page, serve_smtp
    except ImportError as problem:
        raise DeviceError(f"The made-up mail server needs {problem.name}: pip install 'jarbloom[stand-ins]'.") from None
    inbox = Inbox()
    smtp, web = serve_smtp(port, inbox), serve_page(page, inbox)
    threading.Thread(target=web.serve_forever, daemon=True).start()
    if not os.environ.get(PARENT):
        print(f"Stand-in mail server on port {port}; what was sent: http://127.0.0.1:{page}/", flush=True)
    _until_stopped()
    web.shutdown()
    smtp.stop()
