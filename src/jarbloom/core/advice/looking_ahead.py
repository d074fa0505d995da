"""The next step of a cycle by looking ahead: whether to dose, and on which day a test pays (core/bloom/steps.py)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.capacity import LIKELY
from jarbloom.core.bloom.outlook import CERTAIN
from jarbloom.core.bloom.parameters import NITRITE_WAIT_MG_N_L
from jarbloom.core.bloom.steps import Step
from jarbloom.core.findings.tests import STALE_DAYS
from jarbloom.core.journal.clean import reading_is_clean
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.model.hours import hours_from

PAYS = 0.12  # a test is worth its tube from this chance on that it opens the gate, or that it finds the dose gone
JUST_NOW = timedelta(hours=20)  # a test this young is not made again
LONGEST_DAYS = STALE_DAYS  # without a test the forecast only widens (findings, stale)


def _step(s: Situation, name: str) -> Step | None:
    return next((x for x in s.forecast.steps if x.name == name), None)


def opens_on(s: Situation) -> int | None:
    """In so many days a test is likely to open the gate when nothing is dosed, and no later than a dose would allow it;
    None where the bloom has still to grow for the batch."""
    wait, dose = _step(s, "wait"), _step(s, "dose")
    if not s.by_course or s.next_batch is None or wait is None or dose is None or wait.worth < dose.worth:
        return None
    return _first(s, wait.opens)


def ammonia_stands(s: Situation) -> bool:
    """Ammonia was dosed since it was read last, or was above zero then."""
    read = s.entries.latest("ammonia")
    return _unread(s) or (read is not None and not reading_is_clean(read.reading, s.tank.kit))


def _unread(s: Situation) -> bool:
    dosed, read = s.entries.kinds(Dose)[-1:], s.entries.latest("ammonia")
    return bool(dosed) and (read is None or read.order < dosed[0].order)


def dose_is_gone(s: Situation) -> bool:
    """The forecast is sure that the ammonia of the last dose is gone, and nitrite is not so high that more would stall
    it: the bloom may be fed without a tube for it. Tests still come when they pay."""
    wait, last = _step(s, "wait"), s.forecast.last_reading
    if wait is None or last is None or not s.by_course or s.now - last > timedelta(days=LONGEST_DAYS):
        return False
    dosed = s.entries.kinds(Dose)[-1:]
    if not dosed or s.now - dosed[0].at < JUST_NOW:
        return False
    return wait.spent[0] >= CERTAIN and s.forecast.band("no2", LIKELY) < NITRITE_WAIT_MG_N_L


def test_pays_on(s: Situation) -> int | None:
    """In so many days the next test of a cycle pays: it may open the gate, or find the last dose gone; at the latest
    after LONGEST_DAYS. None where nothing was looked ahead."""
    wait = _step(s, "wait")
    if wait is None or not s.by_course:
        return None
    opens = opens_on(s)
    if opens is not None:
        return opens
    if ammonia_stands(s):
        return _first(s, wait.spent, LONGEST_DAYS)
    return _first(s, wait.clean, LONGEST_DAYS)


def pays_early(s: Situation) -> datetime | None:
    """When, before tomorrow's hour, a test pays because one a day after the dose can open nothing: the time, of those
    at which the keeper is at home, that most likely opens the gate. None where there is none, or it was made."""
    wait, dose, hours = _step(s, "wait"), _step(s, "dose"), hours_from(s.tank.home_hours)
    gate = s.next_gate
    if wait is None or dose is None or not s.by_course or gate is None or gate.passed or opens_on(s) is not None:
        return None
    if ammonia_stands(s) and not _unread(s):
        return None
    ahead = wait if ammonia_stands(s) else dose  # where none stands one is on the list
    chances = [(p, at) for at, p in ahead.early if p >= PAYS and hours.covers(at)]
    return max(chances, key=lambda c: (c[0], -c[1].timestamp()), default=(0.0, None))[1]


def _first(s: Situation, chances: Sequence[float], else_: int | None = None) -> int | None:
    """The first day, 0 is today, with a good chance; not today where a test was just made."""
    last = s.forecast.last_reading
    begin = 1 if last is not None and s.now - last < JUST_NOW else 0
    return next((d for d, p in enumerate(chances) if d >= begin and p >= PAYS), else_)
