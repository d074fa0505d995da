"""The school's own proof that a tank is cycled, looked for in the log."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.journal.book import JOINED, LEFT, stock
from jarbloom.core.journal.clean import WASTE, cleanness, is_clean
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.schools import Requirement, Schools
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l

ENOUGH_OF_TARGET = 0.8  # a dose counts as the target dose from here on
LATE = timedelta(hours=3)  # a test a little after the 24 hours still counts
# A pinch every day or two, and a morning's grace: longer ago nothing has to be cleared.
FED_WITHIN = timedelta(days=2.5)
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
    log = Log.of(entries).until(now)
    if requirement.kind == "clears_dose":
        return Proof(requirement, doses_cleared(tank, log, requirement), requirement.times)
    return Proof(requirement, clean_days(tank, log, requirement), requirement.days)


def doses_cleared(tank: Tank, log: Log, requirement: Requirement) -> int:
    """The run of latest target doses that were seen gone, both forms, within the hours. A failure starts it anew.

    A dose without a test in its time proves nothing and breaks nothing.
    """
    target = tank.target_mg_n_l * net_l(tank) * ENOUGH_OF_TARGET
    doses = [e for e in log.kinds(Dose) if e.body.mg_n >= target]
    tests = log.kinds(Tested)
    run, following = 0, None
    for dose in reversed(doses):
        until = dose.at + timedelta(hours=requirement.within_h) + LATE
        until = until if following is None else min(until, following)
        following = dose.at
        first = bisect_left(tests, dose.at + EARLY, key=lambda e: e.at)
        last = bisect_right(tests, until, key=lambda e: e.at)
        judged = [c for e in tests[first:last] if (c := is_clean(e.readings, tank.kit)) is not None]
        if judged and not judged[-1]:
            break
        run += bool(judged)
    return run


def clean_days(tank: Tank, log: Log, requirement: Requirement) -> float:
    """Days from the first to the last clean test of the present run; 0 with fewer than two tests. Where the school asks
    for it `while_feeding`, a clean test of water into which nothing went proves nothing and ends the run."""
    first = last = None
    fed = _Fed(log) if requirement.while_feeding else None
    for entry in reversed(log.kinds(Tested)):
        clean = is_clean(entry.readings, tank.kit)
        if clean is None:
            continue
        if not clean or (fed is not None and not fed.by(entry)):
            break
        first, last = entry.at, last or entry.at
        if last - first >= timedelta(days=requirement.days):
            break  # proven: how long it has lasted before is not asked
    return 0.0 if first is None or last is None else round((last - first).total_seconds() / 86400, 2)


class _Fed:
    """Whether something that has to be cleared went in lately: animals live here, or food or a dose was logged."""

    def __init__(self, log: Log) -> None:
        self.log = log
        self.given = [e.at for e in log.kinds(Dose, Feed) if not (isinstance(e.body, Feed) and e.body.grams == 0)]

    def by(self, test: Entry) -> bool:
        k = bisect_right(self.given, test.at)
        return bool(k and test.at - self.given[k - 1] <= FED_WITHIN) or bool(stock(self.log, test.day))


def seen_working(tank: Tank, log: Log, now: datetime) -> bool:
    """The last test of both forms was clean, and what it found clean had been loaded: ammonia or nitrite had been read
    before since the first load, or a dose had gone in between six hours and four days before it."""
    log = Log.of(log).until(now)
    loads = [e for e in log.kinds(Dose, Feed, Rock) if not (isinstance(e.body, Feed) and e.body.grams == 0)]
    judge = cleanness(tank.kit)
    tests = [(e.at, clean) for e in log.kinds(Tested) if (clean := judge(e.readings)) is not None]
    if not loads or not tests or not tests[-1][1]:
        return False
    last = tests[-1][0]
    turned_over = any(at > loads[0].at and not clean for at, clean in tests)
    dosed = any(isinstance(e.body, Dose) and EARLY <= last - e.at <= DOSE_TELLS for e in loads)
    return turned_over or dosed


def first_clean(tank: Tank, log: Log, now: datetime) -> datetime | None:
    """When a test found ammonia and nitrite clean for the first time after a dose."""
    log = Log.of(log).until(now)
    doses, judge = log.kinds(Dose), cleanness(tank.kit)
    if not doses:
        return None
    return next((e.at for e in log.kinds(Tested) if e.at - doses[0].at >= EARLY and judge(e.readings)), None)


DOSE_TELLS = timedelta(days=4)  # a clean test so long after a dose still tells that it was turned over


STOCKED_DAYS = (
    7.0  # a tank that was stocked before its log began proves itself under its own load for so long (practice)
)


def proven(tank: Tank, log: Log, schools: Schools, now: datetime) -> bool:
    """Whether the tank has been cycled: the school's proof was given at some time before animals came, or it holds now;
    a tank that was stocked before its log began, or against the gate, has been clean under its own load for a week.
    Where a batch is judged by its course, a bloom that had been seen working on the day was the proof."""
    log = Log.of(log).until(now)
    key = ("proven", tank.school, tank.pace, tank.kit, tank.target_mg_n_l, net_l(tank))
    rests_on = (Tested, Dose, Feed, Rock, *JOINED, *LEFT)
    return log.kept(key, rests_on, lambda: _proven(tank, log, schools, now))


def _proven(tank: Tank, log: Log, schools: Schools, now: datetime) -> bool:
    gate = schools.cycling[tank.school].gate
    if gate and all(prove(tank, log, r, now).met for r in gate):
        return True
    came = next((e for e in log.kinds(Arrival)), None)
    if came is None:
        return False
    if not came.body.already_in and not came.body.override:
        before = Log.of(log).until(came.at)
        if gate and all(prove(tank, before, r, came.at).met for r in gate):
            return True
        if schools.pace[tank.pace].by_course and seen_working(tank, before, came.at):
            return True
    return lived_clean(tank, log, came.at)


def lived_clean(tank: Tank, log: Log, since: datetime) -> bool:
    """Clean tests of both forms over a week with animals in, and nothing above clean between them."""
    first: datetime | None = None
    for entry in log.kinds(Tested):
        if entry.at < since:
            continue
        clean = is_clean(entry.readings, tank.kit)
        if clean is False or any(r.low > 0 and r.quantity in WASTE and not r.masked for r in entry.readings):
            first = None
        elif clean:
            if first is None:
                first = entry.at
            elif entry.at - first >= timedelta(days=STOCKED_DAYS - 0.25):
                return True
    return False
