"""The school's pace: days from the arrival of one batch to the next. One place for the gate and the planner."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta

from jarbloom.core.bloom.outlook import FOLLOW_DAYS
from jarbloom.core.journal.book import newcomers
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.schools import Schools
from jarbloom.core.model.tank import Tank

LEAST_GAP_DAYS = FOLLOW_DAYS  # a batch shows in the tests of the days after it before another comes (judgement)
# What doses have not grown so long after the first clean test, they do not grow: the animals have to (judgement)
REST_WAITS = timedelta(days=21)


def pace_days(tank: Tank, schools: Schools, sensitive: bool) -> int:
    """Days asked between two batches by the tank's school; more before sensitive animals."""
    pace = schools.pace[tank.pace]
    return max(LEAST_GAP_DAYS, round(pace.calendar_days_sensitive if sensitive else pace.calendar_days))


def last_arrival(entries: Sequence[Entry]) -> date | None:
    """The day on which somebody last came in; those who were in when the log began set no pace."""
    came = newcomers(entries)
    return came[-1].day if came else None
