"""On which days a batch may come at all, apart from the water: pace, quarantine, the keeper's days, the proof."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.bloom.outlook import CERTAIN
from jarbloom.core.bloom.readiness import Readiness
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.schools import Schools
from jarbloom.core.model.tank import Tank
from jarbloom.core.stocking.pace import last_arrival, pace_days

SEARCH_DAYS = 150  # no date further off is proposed


@dataclass(frozen=True)
class Terms:
    """`ready_from`: first day on which the school's proof is surely given, else the likely one; None where none is
    asked or none is in sight (`proof_asked` tells). `weekdays`: those on which the keeper has time, Monday is 0; none
    named: all."""

    today: date
    pace_days: int
    pace_sensitive_days: int
    quarantine_days: int = 0
    weekdays: frozenset[int] = frozenset()
    last_arrival: date | None = None
    proof_asked: bool = False
    ready_from: date | None = None
    ready_surely: bool = True  # False: no sure day is in sight, `ready_from` is the likely one
    certain: float = CERTAIN
    full_load: bool = False  # a bloom that surely carries everybody grown up is asked beforehand

    def pace(self, sensitive: bool) -> int:
        """Days that the school of pace asks after the batch before (core/stocking/pace.py)."""
        return self.pace_sensitive_days if sensitive else self.pace_days

    def gap(self, sensitive: bool) -> int:
        """Days between two batches: the pace, and one quarantine after the other."""
        return max(self.quarantine_days, self.pace(sensitive))

    def has_time(self, day: date) -> bool:
        return not self.weekdays or day.weekday() in self.weekdays

    def bought(self, planned: date) -> date:
        """When a batch is to be fetched so that its quarantine ends on the planned day."""
        return planned - timedelta(days=self.quarantine_days)


def quarantine_days(tank: Tank, schools: Schools) -> int:
    """The keeper's own number where there is one, else the school's."""
    own = tank.quarantine_days
    return round(schools.quarantine[tank.quarantine].days if own is None else own)


def terms_of(
    tank: Tank,
    entries: Sequence[Entry],
    today: date,
    schools: Schools,
    readiness: Readiness,
    weekdays: frozenset[int] = frozenset(),
) -> Terms:
    """The tank's schools of pace and quarantine, its log, and what the forecast says of the proof."""
    pace = schools.pace[tank.pace]
    asked = not pace.by_course and (not Log.of(entries).kinds(Arrival) or schools.cycling[tank.school].fish_in)
    return Terms(
        today, pace_days(tank, schools, False), pace_days(tank, schools, True),
        quarantine_days(tank, schools), weekdays, last_arrival(entries), asked, readiness.p90 or readiness.p50,
        readiness.p90 is not None, full_load=pace.full_load,
    )  # fmt: skip
