"""Many who write at once, and the same thing sent twice at once: nothing lost, nothing refused, nothing doubled."""

from __future__ import annotations

import statistics
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

from starlette.testclient import TestClient


@dataclass
class Crowd:
    sent: int = 0
    kept: int = 0
    answers: dict[int, int] = field(default_factory=dict)
    took: list[float] = field(default_factory=list)
    read: int = 0

    @property
    def spread(self) -> float:
        """The slowest in a hundred over the middle one."""
        if len(self.took) < 20:
            return 1.0
        return statistics.quantiles(self.took, n=100)[98] / statistics.median(self.took)


def count(http: TestClient, token: str, slug: str) -> int:
    found, after = 0, 0
    while after is not None:
        page = http.get(
            f"/api/v1/tanks/{slug}/entries", params={"after": after, "limit": 500}, headers=_by(token)
        ).json()
        found, after = found + len(page["entries"]), page["after"]
    return found


def _by(token: str) -> dict[str, str]:
    return {"Authorization": f"Bearer {token}"}


def many_at_once(http: TestClient, token: str, slug: str, writers: int, seconds: float) -> Crowd:
    crowd, lock, until = Crowd(), threading.Lock(), time.monotonic() + seconds
    before = count(http, token, slug)

    def write(who: int) -> None:
        n = 0
        while time.monotonic() < until:
            begun = time.monotonic()
            told = http.post(f"/api/v1/tanks/{slug}/entries", json={"line": f"note writer {who} line {n}"},
                             headers=_by(token))  # fmt: skip
            with lock:
                crowd.sent += 1
                crowd.answers[told.status_code] = crowd.answers.get(told.status_code, 0) + 1
                crowd.took.append(time.monotonic() - begun)
            n += 1

    def read() -> None:
        while time.monotonic() < until:
            if http.get("/api/v1/tanks", headers=_by(token)).status_code == 200:
                crowd.read += 1

    with ThreadPoolExecutor(writers + 1) as pool:
        futures = [pool.submit(write, k) for k in range(writers)] + [pool.submit(read)]
        for future in futures:
            future.result()
    crowd.kept = count(http, token, slug) - before
    return crowd


def twice_at_once(http: TestClient, token: str, slug: str, times: int) -> int:
    """How many of so many pairs, sent at the same moment under one key, were done once and answered alike."""
    good = 0
    with ThreadPoolExecutor(2) as pool:
        for k in range(times):
            before = count(http, token, slug)
            ready = threading.Barrier(2)

            def send(line: str, key: str, ready: threading.Barrier = ready) -> str:
                ready.wait()
                return http.post(f"/api/v1/tanks/{slug}/entries", json={"line": line},
                                 headers={**_by(token), "Idempotency-Key": key}).text  # fmt: skip

            told = list(pool.map(send, [f"note pair {k}"] * 2, [f"pair-{k}"] * 2))
            good += told[0] == told[1] and count(http, token, slug) == before + 1
    return good
