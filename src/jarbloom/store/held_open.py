"""The database held open while requests follow each other.

The last connection to be closed brings everything into the file, flushes it and removes what lies beside it: with one
connection a request that was done after every single one, and cost more than most requests. One more connection puts it
off to the first quiet moment. No longer than that: whoever puts another file in its place would leave the old one's
write-ahead log beside it.
"""

from __future__ import annotations

import time
from pathlib import Path
from threading import Condition, Thread

from jarbloom.errors import StoreError
from jarbloom.store.db import Connection, open_same

QUIET_S = 1.0


class HeldOpen:
    """One of a program. `still_used` is told by whoever has just opened the file."""

    def __init__(self, path: Path, known: tuple[int, int], quiet_s: float = QUIET_S) -> None:
        self.path, self.known, self.quiet_s = path, known, quiet_s
        self._changed = Condition()
        self._conn: Connection | None = None
        self._until = 0.0

    def still_used(self) -> None:
        with self._changed:
            self._until = time.monotonic() + self.quiet_s
            if self._conn is None:
                try:
                    self._conn = open_same(self.path, self.known)
                except StoreError:
                    return  # who asked meets it as well, and tells it
                Thread(target=self._let_go, name="held open", daemon=True).start()

    def close(self) -> None:
        """Now, and not only when it is quiet."""
        with self._changed:
            self._until = 0.0
            self._changed.notify_all()
            while self._conn is not None:
                self._changed.wait()

    def _let_go(self) -> None:
        with self._changed:
            while (left := self._until - time.monotonic()) > 0:
                self._changed.wait(left)
            conn = self._conn
        if conn is not None:
            conn.close()  # nobody waits for this: who comes meanwhile opens the file as if it were not held
        with self._changed:
            self._conn = None
            self._changed.notify_all()
