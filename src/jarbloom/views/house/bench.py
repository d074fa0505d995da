"""Page data of the bench: one verdict over all, tanks to one scale, jobs and water of today together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jarbloom.core.advice.said import Job
from jarbloom.core.advice.situation import TankSeen
from jarbloom.core.model.reference import Reference
from jarbloom.units import Units
from jarbloom.views.drawn.headroom import Headroom, headroom
from jarbloom.views.drawn.section import BaseBoard, boards


@dataclass(frozen=True)
class BenchTank:
    slug: str
    name: str
    read: str
    call: str
    words: str
    state: str
    chart: Headroom
    board: BaseBoard
    filled: bool


@dataclass(frozen=True)
class BenchJob:
    slug: str
    tank: str
    job: Job


@dataclass(frozen=True)
class WaterLine:
    tank: str
    litres: str
    temp: str


@dataclass(frozen=True)
class BenchPage:
    call: str
    words: str
    tanks: tuple[BenchTank, ...]
    jobs: tuple[BenchJob, ...]
    water: tuple[WaterLine, ...]
    together: str


def bench_page(seen: Sequence[TankSeen], reference: Reference, units: Units, unseen: Sequence[str] = ()) -> BenchPage:
    """`seen` comes with the most urgent tank first; `unseen` are the names of tanks that could not be looked at."""
    jobs = [BenchJob(x.tank.slug, x.tank.name, j) for x in seen for j in x.jobs if _today(x, j)]
    jobs.sort(key=lambda b: not b.job.urgent)
    water = [(x, j) for x in seen for j in x.jobs if j.kind == "water_change" and j.amount and j.shorthand]
    total = sum(j.amount or 0.0 for _, j in water)
    call, words = _verdict(seen, unseen)
    drawn = boards([x.tank for x in seen], [x.situation.living for x in seen], reference, units)
    return BenchPage(
        call, words, tuple(_tank(x, b) for x, b in zip(seen, drawn, strict=True)), tuple(jobs),
        tuple(WaterLine(x.tank.name, units.volume(j.amount or 0.0), units.temp(x.tank.temp_c)) for x, j in water),
        units.volume(total) if water else "",
    )  # fmt: skip


def _today(seen: TankSeen, job: Job) -> bool:
    return job.due.date() <= seen.situation.now.date()


def _verdict(seen: Sequence[TankSeen], unseen: Sequence[str]) -> tuple[str, str]:
    acting = [x for x in seen if x.verdict.state == "act"]
    if acting:
        names = " and ".join(x.tank.name for x in acting)
        one = len(acting) == 1
        rest = len(seen) - len(acting)
        words = "" if not rest else f"The others can wait until {'it is' if one else 'they are'} seen to."
        return f"{names} need{'s' if one else ''} you now.", words
    if unseen:  # nothing is called quiet where somebody was not looked at
        return f"{' and '.join(unseen)} cannot be looked at.", "How it stands there has to be seen by eye until then."
    adding = [x for x in seen if x.verdict.state == "add"]
    testing = [x for x in seen if x.verdict.state == "test"]
    if adding:
        return f"{adding[0].tank.name} is ready.", f"{adding[0].verdict.call}"
    if testing:
        return f"Test {testing[0].tank.name}.", "Nothing else is pressing."
    return "Nothing is pressing.", "The bloom does its work; look again at the next test."


def _tank(seen: TankSeen, board: BaseBoard) -> BenchTank:
    s, last = seen.situation, seen.situation.forecast.last_reading
    days = (s.now.date() - last.date()).days if last else None
    read = (
        "never read"
        if last is None or days is None
        else {0: f"read {last:%H:%M}", 1: "read yesterday"}.get(days, f"{days} days old")
    )
    return BenchTank(
        seen.tank.slug,
        seen.tank.name,
        read if seen.tank.filled else "dry",
        seen.verdict.call,
        f"{seen.verdict.because} {seen.verdict.advice}".strip(),
        seen.verdict.state,
        headroom(s, 358, compact=True, ghosted=False),
        board,
        seen.tank.filled,
    )
