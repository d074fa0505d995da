"""One date for each batch: the earliest day on which, with 90 % of the members, everything that the gate asks is met.

Proof by the forecast's readiness (the doses and tests still to come simulated), pace, quarantine, age of the tank, and
the limits over the 14 days after it, with the batches before it on days that are possible. What is found about the tank
today may hold it longer.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.bloom.capacity import AT_BEST
from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.findings.finding import Findings
from jarbloom.core.model.plan import Batch
from jarbloom.core.stocking.check import Check, Gate, wanted
from jarbloom.core.stocking.plan import first_possible_days
from jarbloom.core.stocking.search import BINDING
from jarbloom.core.stocking.terms import Terms

# Days that a finding takes at the least which ends when something is put right, however long it is remembered; all
# others: till their evidence is too old, or tomorrow
STANDING = {
    "upset_open": 2, "ammonia_over": 3, "nitrite_over": 3, "never_answered": 3, "not_cycled": 7, "trace": 1,
    "kh_spent": 1, "kh_low": 1, "ph_low_bloom": 1, "kh_corals": 3,  # a buffer or a change, and a reading
    "salinity_off": 2, "salinity_high": 2, "salinity_low": 2, "topup_salt": 2,
    "nitrate_far": 1, "flow_lost": 1, "wrong_water": 1, "unlike_water": 2, "dosed_over_animals": 2,
}  # fmt: skip


@dataclass(frozen=True)
class BatchDay:
    """By the water and the terms alone. `day` None: none in sight; `low`: the day on which one in ten is there."""

    batch_id: int
    day: date | None
    low: date | None
    binding: str


@dataclass(frozen=True)
class BatchDate:
    """`day`: the one date of a batch, None when none is in sight; `low` to `day` hold eight of ten. `today`: the gate
    is passed. `sets`: what sets it, in words; `planned_possible`: the planned day is not before it."""

    batch_id: int
    day: date | None
    low: date | None
    today: bool
    sets: str
    planned: date
    planned_possible: bool

    @property
    def words(self) -> str:
        """'today', 'from Sat 5 Dec', 'no day in sight'."""
        if self.today:
            return "today"
        return f"from {self.day:%a %-d %b}" if self.day is not None else "no day in sight"

    @property
    def range_words(self) -> str:
        """'1 to 5 Dec in nine of ten', '' where there is nothing to tell."""
        if self.today or self.day is None or self.low is None or self.low >= self.day:
            return ""
        first = (
            f"{self.low:%-d}"
            if (self.low.year, self.low.month) == (self.day.year, self.day.month)
            else f"{self.low:%-d %b}"
        )
        return f"{first} to {self.day:%-d %b} in eight of ten"

    @property
    def sentence(self) -> str:
        """'from Sat 5 Dec; 1 to 5 Dec in eight of ten; the proof that the tank is cycled comes first'."""
        return "; ".join(p for p in (self.words, self.range_words, "" if self.today else self.sets) if p)


def batch_days(ensemble: Ensemble, forecast: Forecast, batches: Sequence[Batch], terms: Terms) -> tuple[BatchDay, ...]:
    """The earliest day of each waiting batch, in the keeper's order. Costs a search on the course of the water."""
    found = []
    for batch, day, binding in first_possible_days(ensemble, batches, terms):
        by_bloom = binding in ("proof", "likely proof", "water", "alkalinity")  # all else that sets a day is certain
        low = _low(forecast, batch, terms, day) if day is not None and by_bloom else day
        found.append(BatchDay(batch.id, day, low, binding))
    return tuple(found)


def _low(forecast: Forecast, batch: Batch, terms: Terms, day: date) -> date:
    """The day on which one in ten of the members has the proof and carries it; never after the day itself."""
    outlook = next((o for o in forecast.batches if o.batch_id == batch.id), None)
    first = terms.today
    if terms.proof_asked:
        first = max(first, forecast.readiness.p10 or day)
    if outlook is not None:
        carried = next(
            (d for k, d in enumerate(forecast.days)
             if k >= forecast.today and forecast.band("capacity", AT_BEST, k) >= outlook.on_the_day), day,
        )  # fmt: skip
        first = max(first, carried)
    since = terms.last_arrival
    if since is not None:
        first = max(first, since + timedelta(days=terms.gap(False)))
    return min(first, day)


def offered_day(dates: Sequence[BatchDate], today: date, gap_days: int, ready_from: date | None) -> date:
    """The day that is offered to a new batch: the pace after the last of those that wait, on the day that is possible
    for it, and not before the proof is likely."""
    waiting = [max(d.planned, d.day or d.planned) for d in dates]
    after = max(waiting) + timedelta(days=gap_days) if waiting else today + timedelta(days=1)
    return max(after, ready_from or after)


def held_until(findings: Findings, today: date) -> tuple[date, str] | None:
    """Until when what was found keeps the gate shut at the least, and what it is."""
    held: list[tuple[date, str]] = []
    for f in findings.holding:
        row = f.row
        if f.found.until is not None:
            until = f.found.until
        elif f.key in STANDING:
            until = today + timedelta(days=STANDING[f.key])
        elif f.found.at.date() < today or row.hours > 24 or row.watch_days:
            until = (f.found.at + timedelta(hours=row.hours + 24 * row.watch_days)).date()
        else:
            until = today + timedelta(days=1)
        held.append((max(until, today + timedelta(days=1)), f"{row.title[0].lower()}{row.title[1:]}: {row.ends}"))
    return max(held, key=lambda h: h[0], default=None)


def dates_of(
    days: Sequence[BatchDay], batches: Sequence[Batch], gates: Sequence[Gate], findings: Findings, today: date
) -> tuple[BatchDate, ...]:
    """The dates as they are told: the day by the water, what holds today on top, and 'today' only where the gate is
    passed."""
    found: list[BatchDate] = []
    held, before = held_until(findings, today), None
    by_id, passed = {d.batch_id: d for d in days}, {g.batch_id: g.passed for g in gates}
    waiting = [b for b in batches if b.arrived is None and b.items]
    for n, batch in enumerate(sorted(waiting, key=lambda b: (b.planned, b.id))):
        own = by_id.get(batch.id)
        if own is None:
            continue
        open_now = n == 0 and passed.get(batch.id, False)
        holding = [c for g in gates if g.batch_id == batch.id for c in g.holding]
        day, low, sets = (today, today, "") if open_now else _by_its_gate(own, holding, today)
        if not open_now:
            holds = [held] if held is not None else []
            if before is not None and found[-1].day is not None:
                holds.append((found[-1].day + _paced(own, before), BINDING["pace" if _paced(own, before) else "order"]))
            for until, why in holds:
                if day is not None and until > day:
                    day, low, sets = until, until, why
        found.append(
            BatchDate(batch.id, day, low, open_now, sets, batch.planned, day is not None and batch.planned >= day)
        )
        before = own
    return tuple(found)


def _by_its_gate(own: BatchDay, holding: Sequence[Check], today: date) -> tuple[date | None, date | None, str]:
    """(day, the first of eight of ten, what sets it) by the water and by what the gate wants today."""
    day, sets, tomorrow = own.day, BINDING.get(own.binding, own.binding), today + timedelta(days=1)
    if day is None:
        return None, own.low, sets
    if day <= today:
        missing = next(iter(wanted(holding)), "")
        day, sets = tomorrow, f"still missing: {missing}" if missing else sets
    waits = max((c.until for c in holding if c.until is not None), default=day)
    if waits > day:
        return waits, min(max(own.low or day, tomorrow), waits), BINDING["rest"]
    return day, min(max(own.low or day, tomorrow), day) if day == own.day else day, sets


def _paced(own: BatchDay, before: BatchDay) -> timedelta:
    """What the pace asks after the batch before, where it is the pace that sets a day."""
    if own.binding != "pace" or own.day is None or before.day is None:
        return timedelta()
    return own.day - before.day
