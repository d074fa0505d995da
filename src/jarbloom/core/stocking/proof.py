"""The school's own proof that a tank is cycled, looked for in the log."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.model.entry import Entry
from jarbloom.core.model.schools import Requirement
from jarbloom.core.model.tank import Tank
from jarbloom.core.upset.levels import is_clean
from jarbloom.core.vessel.volume import net_l

ENOUGH_OF_TARGET = 0.8  # a dose counts as the target dose from here on
LATE = timedelta(hours=3)  # a test a little after the 24 hours still counts
EARLY = timedelta(hours=6)  # a clean test sooner than this is too good to be the dose's


@dataclass(frozen=True)
class Proof:
    """How far one requirement is met: `done` of `needed` (doses cleared, or clean days)."""

    requirement: Requirement
    done: float
    needed: float

    @property
    def met(self) -> bool:
        return self.done >= self.needed


def prove(tank: Tank, entries: Sequence[Entry], requirement: Requirement, now: datetime) -> Proof:
    if requirement.kind == "clears_dose":
        return Proof(requirement, doses_cleared(tank, entries, requirement), requirement.times)
    return Proof(requirement, clean_days(entries, now), requirement.days)


def doses_cleared(tank: Tank, entries: Sequence[Entry], requirement: Requirement) -> int:
    """The run of latest target doses that were seen gone, both forms, within the hours. A failure starts it anew.

    A dose without a test in its time proves nothing and breaks nothing.
    """
    target = tank.target_mg_n_l * net_l(tank) * ENOUGH_OF_TARGET
    ordered = sorted((e for e in entries if e.state == "live"), key=lambda e: (e.at, e.id))
    doses = [e for e in ordered if e.kind == "dose" and e.body["mg_n"] >= target]
    run = 0
    for k, dose in enumerate(doses):
        until = dose.at + timedelta(hours=requirement.within_h) + LATE
        if k + 1 < len(doses):
            until = min(until, doses[k + 1].at)
        tests = [is_clean(e.readings) for e in ordered if e.kind == "test" and dose.at + EARLY <= e.at <= until]
        judged = [t for t in tests if t is not None]
        if judged:
            run = run + 1 if judged[-1] else 0
    return run


def clean_days(entries: Sequence[Entry], now: datetime) -> float:
    """Days from the first to the last clean test of the present run; 0 with fewer than two tests."""
    first = last = None
    for entry in sorted((e for e in entries if e.kind == "test" and e.state == "live"), key=lambda e: (e.at, e.id)):
        clean = is_clean(entry.readings)
        if clean is False:
            first = last = None
        elif clean and entry.at <= now:
            first, last = first or entry.at, entry.at
    return 0.0 if first is None or last is None else round((last - first).total_seconds() / 86400, 2)
