"""Speed as ratios measured in one run: a conditioned forecast against LSODA, and pages against an empty one."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta

import numpy as np
from scipy.integrate import solve_ivp
from starlette.testclient import TestClient
from tests.make import NOW, REFERENCE, demo_folder, entry, numbered, tank, test_entry

from jarbloom.core.bloom.ensemble import Settings
from jarbloom.core.bloom.forecast import forecast
from jarbloom.settings import Settings as Serving
from jarbloom.web.app import create_app


def median_s(what: Callable[[], object], times: int = 5) -> float:
    what()
    took = []
    for _ in range(times):
        begun = time.perf_counter()
        what()
        took.append(time.perf_counter() - begun)
    return statistics.median(took)


def record(readings: int) -> list:
    """A cycle of 22 days with so many ammonia and nitrite readings."""
    tests = [
        test_entry(
            21.5 * (1 - k / readings),
            ammonia="1" if k < readings / 2 else "0",
            nitrite="0.5" if k < readings / 3 else "2",
        )
        for k in range(readings // 2)
    ]
    return numbered(entry("dose", 22, mg_n=216.0), *tests)


def lsoda_member() -> None:
    """One member of the same model over 82 days, SciPy's LSODA at rtol 1e-6."""

    def rhs(_t: float, y: np.ndarray) -> list[float]:
        tan, no2, a, b = y
        u_a, u_b = tan / (0.45 + tan), no2 / (0.45 + no2)
        return [
            -a * u_a + 0.5,
            a * u_a - b * u_b,
            a * (0.6 * u_a * (1 - a / 20) - 0.04 * (0.4 + 0.6 * u_a)),
            b * (0.54 * u_b * (1 - b / 20) - 0.04 * (0.4 + 0.6 * u_b)),
        ]

    solve_ivp(rhs, (0, 82), [2, 0, 4e-3, 2e-3], "LSODA", rtol=1e-6, atol=1e-9)


def main() -> None:
    t, log = tank(), record(25)
    one = median_s(lambda: forecast(t, log, NOW, REFERENCE, (), Settings(horizon_days=60)), 3)
    member = median_s(lsoda_member, 3)
    print(f"conditioned forecast, 25 readings, 60 days, 400 members: {one:.2f} s")
    print(
        f"LSODA, one member of four equations: {member * 1000:.1f} ms; 400 of them would take {400 * member / one:.1f} "
        "times as long as the whole conditioned forecast"
    )
    for name, settings, entries in (
        ("members 200", Settings(members=200), log), ("members 800", Settings(members=800), log),
        ("horizon 30", Settings(horizon_days=30), log), ("readings 5", Settings(), record(5)),
        ("readings 100", Settings(), record(100)),
    ):  # fmt: skip
        took = median_s(lambda e=entries, s=settings: forecast(t, e, NOW, REFERENCE, (), s), 3)
        print(f"{name}: {took / one:.2f} of the first")
    with (
        demo_folder() as folder,
        TestClient(create_app(replace(Serving(folder), now=NOW + timedelta(minutes=1)))) as http,
    ):
        empty = median_s(lambda: http.get("/healthz"), 30)
        for path in (
            "/",
            "/tanks/sunroom-112",
            "/tanks/sunroom-112/log",
            "/tanks/sunroom-112/settings",
            "/tanks/hall-96/upset",
        ):
            print(f"page {path}: {median_s(lambda p=path: http.get(p), 10) / empty:.0f} times an empty answer")
        line = "/tanks/sunroom-112/log/read"
        chips = median_s(lambda: http.post(line, data={"line": "am .25 ni 1 na 10"}), 20)
        print(f"chips of a typed line: {chips / empty:.0f} times an empty answer")


if __name__ == "__main__":
    main()
