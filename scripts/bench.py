"""Speed as ratios measured in one run: a conditioned forecast against LSODA, and pages against an empty one."""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from itertools import count
from pathlib import Path

import numpy as np
from starlette.testclient import TestClient
from tests.lsoda import integrate
from tests.make import NOW, REFERENCE, demo_folder, entry, numbered, tank, test_entry

from jarbloom.core.bloom.drivers import drivers
from jarbloom.core.bloom.ensemble import Forecasting, prepare
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.bloom.kinetics import first_state
from jarbloom.core.bloom.parameters import BLOCK_DAYS, n_columns, parameters
from jarbloom.core.bloom.stepper import simulate
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.stocking.course import standings
from jarbloom.core.stocking.plan import propose, redate
from jarbloom.core.stocking.terms import Terms
from jarbloom.core.vessel.media import ceiling_mg_n_day
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.settings import Settings as Serving
from jarbloom.store import journal, tanks
from jarbloom.store.db import connect, open_store, transaction
from jarbloom.web.app import create_app
from jarbloom.web.deps import ONCE, SCRIPTED


def median_s(what: Callable[[], object], times: int = 5) -> float:
    what()
    took = []
    for _ in range(times):
        begun = time.perf_counter()
        what()
        took.append(time.perf_counter() - begun)
    return statistics.median(took)


def record(readings: int) -> list[Entry]:
    """A cycle of 22 days, dosed whenever ammonia was gone, with so many ammonia and nitrite readings."""
    tests = [
        test_entry(
            21.5 * (1 - k / readings),
            ammonia="1" if k < readings / 2 else "0",
            nitrite="0.5" if k < readings / 3 else "2",
        )
        for k in range(readings // 2)
    ]
    return numbered(*(entry("dose", d, mg_n=216.0) for d in (22, 11, 8, 6, 4, 2)), *tests)


def to_come() -> list[Entry]:
    """Doses every other day of the 60 days ahead, and a change every ten: something to integrate."""
    doses = [entry("dose", -d, mg_n=216.0) for d in range(2, 60, 2)]
    return [*doses, *(entry("change", -d, litres=32.0) for d in range(10, 60, 10))]


SAMPLE = 100  # members that LSODA integrates; the whole ensemble would take it so many times longer


def against_lsoda(
    t: Tank, log: list[Entry], settings: Forecasting
) -> tuple[float, float, dict[str, tuple[float, float]]]:
    """Seconds a member of LSODA at rtol 1e-6 and of the stepper, over the same past and 60 days of doses and changes
    ahead; and for TAN and nitrite the rms and the largest deviation, mg N/L."""
    found = prepare(t, log, NOW, REFERENCE, settings)
    start, end = found.start, NOW + timedelta(days=60)
    drv = drivers(t, [*log, *to_come()], REFERENCE.species, start, end, settings.publish_h / 24)
    pick = np.linspace(0, settings.members - 1, SAMPLE).astype(int)
    blocks = int((end - start).days / BLOCK_DAYS) + 1
    ceiling = ceiling_mg_n_day(t, REFERENCE.media) / net_l(t)
    z = np.hstack([found.posterior.z[:, : n_columns(0, 0)], np.zeros((settings.members, 2 * blocks))])
    par = parameters(z, blocks, 0, t, ceiling)
    first = first_state(par, t.ph, t.kh_dkh * MEQ_PER_DKH, t.source.nitrate_mg_n_l)
    ours = median_s(lambda: simulate(par, drv, first), 3) / settings.members
    path = simulate(par, drv, first)
    begun = time.perf_counter()
    exact = np.stack([integrate(par, drv, first, m) for m in pick], axis=1)
    theirs = (time.perf_counter() - begun) / SAMPLE
    off = {}
    for k, name in enumerate(("tan", "no2")):
        gap = getattr(path, name)[:, pick] - exact[:, :, k]
        off[name] = (float(np.sqrt(np.mean(gap**2))), float(np.abs(gap).max()))
    return theirs, ours, off


def memory_mb(members: int) -> float:
    """The most memory that was resident in a server that has just made a forecast and holds its ensemble."""
    script = (
        "import sys; from pathlib import Path; from datetime import datetime\n"
        "from starlette.testclient import TestClient\n"
        "from jarbloom.web.app import create_app; from jarbloom.settings import Settings\n"
        "from jarbloom.core.bloom.ensemble import Forecasting\n"
        "folder, now, members = sys.argv[1:]\n"
        "app = create_app(Settings(Path(folder), datetime.fromisoformat(now), Forecasting(int(members))))\n"
        "with TestClient(app) as http:\n"
        "    http.get('/tanks/sunroom-112/outlook?w=wc+30%25').raise_for_status()\n"
        "print(open('/proc/self/status').read().split('VmHWM:')[1].split()[0])\n"
    )
    with demo_folder() as folder:
        moment = (NOW + timedelta(hours=2)).isoformat()
        command = [sys.executable, "-c", script, str(folder), moment, str(members)]
        told = subprocess.run(command, capture_output=True, text=True, check=True)
    return int(told.stdout) / 1024


WISHED = (
    ("zebra_danio", 8), ("harlequin_rasbora", 24), ("bronze_corydoras", 12), ("cherry_barb", 12), ("ember_tetra", 20),
    ("platy", 6), ("nerite_snail", 4), ("cherry_shrimp", 20), ("honey_gourami", 2), ("ram", 2),
)  # fmt: skip


def planner(t: Tank, log: list[Entry], one: float) -> None:
    """Eight batches planned and judged with 2,000 members, as ratios to one conditioned forecast of the usual size."""
    many = prepare(t, log, NOW, REFERENCE, Forecasting(members=2000))
    few = prepare(t, log, NOW, REFERENCE, Forecasting())
    wishes = [Animals(k, n) for k, n in WISHED]
    terms = Terms(NOW.date(), 14, 14)
    found = propose(many, wishes, terms)
    took = median_s(lambda: propose(many, wishes, terms), 3)
    left = ", and a search to its end for what finds no day" if found.left else ""
    print(f"planner composing {len(found.placed)} batches{left}, 2,000 members: {took / one:.2f} of the first")
    plan = [Batch(k, "b", NOW.date() + timedelta(days=7 * k), (a,)) for k, a in enumerate(wishes[:8])]
    took = median_s(lambda: redate(many, plan, terms), 3)
    print(f"first sure days of 8 batches, 2,000 members: {took / one:.2f} of the first, {took:.2f} s here")
    for name, ensemble in (("2,000", many), (f"{Forecasting().members}", few)):
        took = median_s(lambda e=ensemble: standings(e, plan), 5)
        print(f"a dragged block of 8, {name} members: {took / one:.2f} of the first, {1000 * took:.0f} ms here")


def years_of(entries: int) -> list[Entry]:
    """A stocked tank's record at a steady pace: five entries in two days, and a batch of animals now and then."""
    rhythm = (
        lambda d: test_entry(d, ammonia="0", nitrite="0", nitrate="20"), lambda d: entry("feed", d, grams=0.3),
        lambda d: entry("change", d, litres=25.0, fraction=0.23), lambda d: entry("note", d, text="all well"),
        lambda d: entry("topoff", d, litres=1.5),
    )  # fmt: skip
    kept = [rhythm[k % 5](0.4 * k + 0.05) for k in range(entries - entries // 100)]
    comes = [entry("arrival", 40 * k + 39.7, species="harlequin_rasbora", count=2) for k in range(entries // 200)]
    goes = [entry("death", 40 * k + 20.3, species="harlequin_rasbora", count=1) for k in range(entries // 200)]
    return sorted((*kept, *comes, *goes), key=lambda e: e.at)


ALL = "/history?span=all"  # ten years at once
BY_SCRIPT = f"{SCRIPTED}=1"  # the cookie of a browser in which our scripts run


def long_records() -> None:
    """Pages of a tank with 10,000 entries against the same with 1,000, beside a page that reads no log."""
    with tempfile.TemporaryDirectory() as holder:
        conn = connect(open_store(Path(holder)))
        for name, n in (("Short", 1000), ("Long", 10_000)):
            log = years_of(n)
            with transaction(conn):
                kept = tanks.add(conn, tank(name=name, started=log[0].at.date()), NOW)
                journal.write_all(conn, kept.id, "import", "a record of years", log, NOW)
        conn.close()
        with TestClient(create_app(Serving(Path(holder), now=NOW + timedelta(minutes=1)))) as http:
            bare = median_s(lambda: http.get("/preferences"), 30)
            print(f"a bare page: {1000 * bare:.0f} ms here")
            for path in (
                "",
                "/outlook",
                "/stocking",
                "/animals/book",
                "/upset",
                "/log",
                "/setup/equipment",
                "/history",
                ALL,
                "/log?q=rasbora",
            ):
                short, long = (median_s(lambda p=f"/tanks/{t}{path}": http.get(p), 8) for t in ("short", "long"))
                print(
                    f"page {path or 'of the tank'}, 10,000 entries: {long / short:.2f} of 1,000 "
                    f"({short / bare:.0f} and {long / bare:.0f} bare pages, {1000 * long:.0f} ms here)"
                )
            line = [
                median_s(lambda t=t: http.post(f"/tanks/{t}/log/read", data={"line": "am .25 ni 1"}), 20)
                for t in ("short", "long")
            ]
            print(f"chips of a typed line, 10,000 entries: {line[1] / line[0]:.2f} of 1,000")
            numbers = count()
            lines = {"a note": "note {}", "a reading": "am 0 ni 0 na {}"}
            for path, said, scripts in (
                ("", "a note", True), ("", "a note", False), ("/log", "a note", True), (ALL, "a note", True),
                (ALL, "a reading", False),
            ):  # fmt: skip
                page, headers = (
                    f"/tanks/long{path}",
                    {"Accept": "text/html"} | ({"Cookie": BY_SCRIPT} if scripts else {}),
                )

                def write_and_read(page: str = page, line: str = lines[said], headers: dict = headers) -> None:
                    """As a browser sends it: with the token of a form, and on to where it is led."""
                    n = next(numbers)
                    typed = {
                        "line": line.format(n % 40),
                        "anyway": "1",
                        "back": page.partition("?")[0],
                        ONCE: f"sent {n}",
                    }
                    sent = http.post("/tanks/long/log/line", data=typed, headers=headers, follow_redirects=False)
                    if sent.headers.get("content-location") != page:
                        http.get(page, headers=headers)

                kept = median_s(lambda p=page: http.get(p), 8)
                wrote, where = median_s(write_and_read, 8), path or "of the tank"
                print(
                    f"{said} saved and page {where} shown{'' if scripts else ' where no script runs'}, 10,000 entries: "
                    f"{wrote / kept:.2f} of it kept, which is {kept / bare:.1f} bare pages"
                )


def pages() -> None:
    """Memory of a server, and pages of the demo against an empty answer."""
    for members in (Forecasting().members, 2000):
        print(f"memory of a server after a forecast of {members:,} members: {memory_mb(members):.0f} MB at most")
    with (
        demo_folder() as folder,
        TestClient(create_app(replace(Serving(folder), now=NOW + timedelta(minutes=1)))) as http,
    ):
        empty = median_s(lambda: http.get("/healthz"), 30)
        for path in (
            "/",
            "/tanks/sunroom-112",
            "/tanks/sunroom-112/log",
            "/tanks/sunroom-112/setup/volume",
            "/tanks/sunroom-112/setup/school",
            "/tanks/hall-96/upset",
            "/tanks/sunroom-112/animals?look=angelfish",
            "/tanks/sunroom-112/animals/together?with=angelfish&with=guppy&with=betta&with=oscar",
            "/tanks/sunroom-112/animals/book",
            "/tanks/sunroom-112/animals/styles?style=community",
            "/tanks/sunroom-112/stocking",
            "/tanks/sunroom-112/stocking/ahead",
            "/tanks/sunroom-112/outlook",
            "/tanks/sunroom-112/outlook?w=wc+30%25&w=dose+1+mg/l",
        ):
            print(f"page {path}: {median_s(lambda p=path: http.get(p), 10) / empty:.0f} times an empty answer")
        line = "/tanks/sunroom-112/log/read"
        chips = median_s(lambda: http.post(line, data={"line": "am .25 ni 1 na 10"}), 20)
        drawn = "/tanks/landing-60/setup/volume/look"
        sizes = {"shape": "bow_front", "length_cm": "61", "width_cm": "35", "height_cm": "36", "bow_cm": "6"}
        took = median_s(lambda: http.post(drawn, data=sizes), 20)
        print(f"drawing for a typed dimension: {took / empty:.0f} times an empty answer, {1000 * took:.0f} ms here")
        print(f"chips of a typed line: {chips / empty:.0f} times an empty answer")


def main() -> None:
    if "--pages" in sys.argv:
        pages()
        return
    if "--records" in sys.argv:
        long_records()
        return
    # Hard enough for 35 doses: what is compared is the solver, not a tank without alkalinity.
    t, log = tank(kh_dkh=30), record(25)
    whole = Forecasting(horizon_days=60)
    one = median_s(lambda: forecast(t, log, NOW, REFERENCE, (), whole), 5)
    print(f"conditioned forecast, 25 readings, 60 days, {whole.members} members: {one:.2f} s median")
    theirs, ours, off = against_lsoda(t, log, whole)
    print(f"a member, 82 days: LSODA {1000 * theirs:.1f} ms, ours {1000 * ours:.3f} ms, {theirs / ours:.0f} times")
    print(f"all members once by LSODA: {whole.members * theirs / one:.0f} times the whole conditioned forecast")
    for name, (rms, most) in off.items():
        print(f"off LSODA at {whole.publish_h:g} h, {name}: rms {rms:.3f}, largest {most:.2f} mg N/L")
    for name, settings, entries in (
        ("members 500", replace(whole, members=500), log), ("members 2,000", replace(whole, members=2000), log),
        ("members 8,000", replace(whole, members=8000), log), ("30 days ahead", replace(whole, horizon_days=30), log),
        ("120 days ahead", replace(whole, horizon_days=120), log), ("5 readings", whole, record(5)),
        ("25 readings", whole, log), ("100 readings", whole, record(100)),
    ):  # fmt: skip
        took = median_s(lambda e=entries, s=settings: forecast(t, e, NOW, REFERENCE, (), s), 3)
        print(f"{name}: {took / one:.2f} of the first")
    planner(t, log, one)
    pages()
    long_records()


if __name__ == "__main__":
    main()
