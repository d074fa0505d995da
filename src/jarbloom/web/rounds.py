"""The rounds: once a minute probes are polled and the day's reminder is sent when it is time. Never stops a page."""

from __future__ import annotations

import logging
from threading import Event, Thread
from typing import Any
from zoneinfo import ZoneInfo

from jarbloom.core.bloom.kernel import make_ready
from jarbloom.deeds import back_up, look, plan_batches, probes, remind
from jarbloom.deeds.desk import Desk, with_own
from jarbloom.store import preferences
from jarbloom.store.db import forget_sent, open_same, transaction
from jarbloom.store.probes import forget_old

EVERY_S = 60.0
log = logging.getLogger(__name__)


def one_round(state: Any) -> None:
    """Everything once. What fails is logged and does not keep the rest from being done."""
    conn = open_same(state.path, state.file_id)
    try:
        chosen = preferences.load(conn, state.zone)
        now = state.settings.clock(ZoneInfo(chosen.zone))
        desk = Desk(conn, now, chosen, with_own(state.reference, conn), state.forecasting)
        own = () if state.settings.demo else (back_up.daily,)
        for deed in (*own, probes.poll, plan_batches.move_slipped, look.make_ahead, remind.remind, _tidy):
            try:
                deed(desk)
            except Exception:
                log.exception("a round could not finish %s", deed.__name__)
    finally:
        conn.close()


def _tidy(desk: Desk) -> None:
    with transaction(desk.conn):
        forget_old(desk.conn, desk.now)
        forget_sent(desk.conn)


class Rounds:
    """The thread that makes them, begun and ended with the application."""

    def __init__(self, state: Any, every_s: float = EVERY_S) -> None:
        self.state, self.every_s, self.over = state, every_s, Event()
        self.thread = Thread(target=self._run, name="rounds", daemon=True)

    def _run(self) -> None:
        wait = 0.5  # the first one soon, so that a fresh start shows what its probe says
        while not self.over.wait(wait):
            wait = self.every_s
            try:
                one_round(self.state)
                make_ready()  # what the next forecast would wait for
            except Exception:
                log.exception("a round failed")

    def start(self) -> None:
        self.thread.start()

    def stop(self) -> None:
        self.over.set()
        self.thread.join(5)
