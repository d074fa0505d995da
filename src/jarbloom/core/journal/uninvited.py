"""Who came uninvited: since when, how many, and whether they become more."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.uninvited import FoundUninvited
from jarbloom.core.journal.log import Log

LOOKS = 3  # counts that tell a trend
LATELY = timedelta(days=60)
LEAST_DAYS = 5  # between the first and the last of them
DOUBLES_DAYS = 21.0  # sooner than this it is a warning (judgement; small snails well fed double in one to two weeks)
MANY = 10  # below this a count moves by who is hidden
FED_DAYS = 28


@dataclass(frozen=True)
class Sighted:
    """`counts`: those of late; `doubles_days`: how long they take to double by those, None where that is not told;
    `swarming`: early enough to do something about it."""

    what: str
    first: datetime
    last: datetime
    counts: tuple[tuple[datetime, int], ...]
    doubles_days: float | None

    @property
    def swarming(self) -> bool:
        return self.doubles_days is not None and self.doubles_days <= DOUBLES_DAYS and self.counts[-1][1] >= MANY


def sighted(log: Log, now: datetime) -> tuple[Sighted, ...]:
    """Each kind found uninvited, the last seen first. A last count of none says that they are gone."""
    found = []
    seen = [e for e in log.kinds(FoundUninvited) if e.at <= now]
    for what in dict.fromkeys(e.body.what for e in seen):
        mine = [e for e in seen if e.body.what == what]
        if mine[-1].body.count == 0:
            continue
        counts = tuple((e.at, e.body.count) for e in mine if e.body.count is not None and now - e.at <= LATELY)
        found.append(Sighted(what, mine[0].at, mine[-1].at, counts, _doubles(counts)))
    return tuple(sorted(found, key=lambda s: s.last, reverse=True))


def _doubles(counts: tuple[tuple[datetime, int], ...]) -> float | None:
    """Days to double, by a line through the logarithms of one more than was counted (least squares)."""
    if len(counts) < LOOKS:
        return None
    days = np.array([(at - counts[0][0]).total_seconds() / 86400 for at, _ in counts])
    if days[-1] - days[0] < LEAST_DAYS:
        return None
    slope = float(np.polyfit(days, np.log([n + 1 for _, n in counts]), 1)[0])
    return math.log(2) / slope if slope > 0 else None


def fed_g_day(log: Log, now: datetime) -> float | None:
    """Grams a day that were fed in the last four weeks; None where too little was weighed to tell."""
    fed = [e.body.grams for e in log.kinds(Feed) if timedelta(0) <= now - e.at <= timedelta(days=FED_DAYS)]
    weighed = [g for g in fed if g is not None]
    if len(weighed) < FED_DAYS // 4 or len(weighed) < len(fed) / 2:
        return None
    return sum(weighed) / FED_DAYS
