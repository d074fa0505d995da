"""How long what is in store lasts: by the keeper's own log, the litres that are changed, and who is fed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.animals.bioload import usual_feed_g_day
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.measured import Measured
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.supply import COUNTED_IN, PER_UNIT, Supply
from jarbloom.core.model.tank import Tank
from jarbloom.core.water.mixing import salt_g
from jarbloom.errors import Refused

LOOKED_BACK_DAYS = 60
FEW_FEEDINGS = 20  # logged in that time: fewer tell that feeding is not logged, and the usual ration is taken
LOW_DAYS = 14  # lasts no longer: buy
SOON_DAYS = 30  # until a date it bears


@dataclass(frozen=True)
class Lasts:
    """`per_day` and `left`: in the supply's unit, None where they cannot be told; `rests_on`: what the use rests on.
    `ends_on`: the earlier of what stands on it and what opening leaves. `state`: gone, low, past, soon, fine; unknown
    where what is left or its use cannot be told."""

    supply: Supply
    per_day: float | None
    left: float | None
    until: date | None
    ends_on: date | None
    state: str
    rests_on: str

    @property
    def to_buy(self) -> bool:
        return self.state in ("gone", "low", "past")


def check(s: Supply) -> None:
    """Raises Refused naming the field for a count in a unit that tells nothing of its kind."""
    fits = COUNTED_IN.get(s.kind)
    if s.left is not None and fits and s.unit not in fits:
        raise Refused(f"Count this in {' or '.join(fits)}: how long it lasts is reckoned in it.", "unit")
    if s.opened_on and s.best_before and s.best_before < s.opened_on - timedelta(days=3650):
        raise Refused("That date lies ten years before it was opened.", "best_before")


def lasts(s: Supply, house: Sequence[tuple[Tank, Log]], reference: Reference, today: date) -> Lasts:
    used, rests_on = (s.per_day, "as you set it down") if s.per_day else _by_log(s, house, reference, today)
    left = until = None
    if s.left is not None:
        left = max(s.left - (used or 0.0) * max((today - s.counted_on).days, 0), 0.0)
        if used:
            until = today + timedelta(days=min(int(left / used), 3650))
    opened = s.opened_on + timedelta(days=s.keeps_days) if s.opened_on and s.keeps_days else None
    ends = min((d for d in (opened, s.best_before) if d), default=None)
    return Lasts(s, used, left, until, ends, _state(left, until, ends, today), rests_on)


def _state(left: float | None, until: date | None, ends: date | None, today: date) -> str:
    if left is not None and left <= 0:
        return "gone"
    if ends is not None and ends < today:
        return "past"
    if until is not None and (until - today).days <= LOW_DAYS:
        return "low"
    if ends is not None and (ends - today).days <= SOON_DAYS:
        return "soon"
    return "fine" if until is not None else "unknown"


def _by_log(
    s: Supply, house: Sequence[tuple[Tank, Log]], reference: Reference, today: date
) -> tuple[float | None, str]:
    """Use a day in the supply's unit, and what it rests on; None where the log tells nothing."""
    since = today - timedelta(days=LOOKED_BACK_DAYS)
    total, rests_on = 0.0, ""
    for tank, log in house:
        lately = log.since(since)
        days = max(min(LOOKED_BACK_DAYS, (today - tank.started).days), 1)
        used, by = _of_tank(s, tank, lately, log, reference, today, days)
        total += used
        rests_on = rests_on or (by if used else "")
    if not total or s.unit not in PER_UNIT:
        return None, ""
    return total / PER_UNIT[s.unit], rests_on


def _of_tank(
    s: Supply, tank: Tank, lately: Log, log: Log, reference: Reference, today: date, days: int
) -> tuple[float, str]:
    """mL, g or tests a day."""
    if s.kind == "conditioner":
        logged = sum(e.body.ml or 0.0 for e in lately.kinds(Conditioner))
        if logged:
            return logged / days, "by the conditioner that you logged"
        litres = sum(e.body.litres for e in lately.kinds(Change))
        return litres / 100 * (tank.conditioner_ml_per_100l or 0.0) / days, "by your water changes and its label"
    if s.kind == "salt":
        litres = sum(e.body.litres for e in lately.kinds(Change)) if tank.marine else 0.0
        return (salt_g(litres, tank.salinity_g_kg) / days if litres else 0.0), "by your water changes"
    if s.kind == "food":
        grams = [e.body.grams for e in lately.kinds(Feed) if e.body.grams]
        if len(grams) >= FEW_FEEDINGS:
            return sum(grams) / days, "by the food that you logged"
        return usual_feed_g_day(stock(log, today), reference.species, tank.temp_c, today), "by the usual ration"
    if s.kind == "kit" and s.tests:
        read = sum(r.quantity == s.tests for e in lately.kinds(Tested) for r in e.readings)
        read += sum(s.tests in e.body.told for e in lately.kinds(Measured))
        return read / days, "by your tests"
    return 0.0, ""


@dataclass(frozen=True)
class Month:
    """What was paid in a month, for animals and for what is in store."""

    first: date
    animals: float
    stores: float


def by_month(
    bought: Sequence[tuple[date, float]], animals: Sequence[tuple[date, float]], today: date
) -> tuple[Month, ...]:
    """The last twelve months with anything in them, the newest first."""
    months: dict[date, list[float]] = {}
    for k, paid in enumerate((animals, bought)):
        for day, price in paid:
            if (today - day).days <= 366:
                months.setdefault(day.replace(day=1), [0.0, 0.0])[k] += price
    return tuple(Month(first, *sums) for first, sums in sorted(months.items(), reverse=True))
