"""What the planner says of a tank's plan: how every batch stands, the first sure days, and other ways beside it."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.model.plan import Batch
from jarbloom.core.stocking.course import BatchStanding, WaterCourse, standings
from jarbloom.core.stocking.dates import offered_day
from jarbloom.core.stocking.habits import all_at_once, in_thirds
from jarbloom.core.stocking.lots import lots_of, merged
from jarbloom.core.stocking.plan import PlanProposal, propose, redate
from jarbloom.core.stocking.reasons import Reason, reasons
from jarbloom.core.stocking.search import Placed
from jarbloom.core.stocking.target import lower_target
from jarbloom.core.stocking.terms import Terms, terms_of
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.ensembles import ensemble_of, forecast_moment, inputs_hash
from jarbloom.deeds.look import see
from jarbloom.errors import Refused
from jarbloom.kept import Kept

MOST_DAYS = 365
_kept: Kept[Any] = Kept(16)


@dataclass(frozen=True)
class Judged:
    """A batch on its day, and why it stands well or badly there."""

    standing: BatchStanding
    reasons: tuple[Reason, ...]


@dataclass(frozen=True)
class Alternative:
    """A whole plan in one line: its batches judged by the water only."""

    name: str
    batches: tuple[BatchStanding, ...]


@dataclass(frozen=True)
class Ahead:
    terms: Terms
    days: tuple[tuple[Batch, Placed | None], ...]  # the keeper's own batches on their first sure days
    anew: PlanProposal
    ways: tuple[Alternative, ...]
    target: float | None = None  # a target dose that would prove it sooner, mg N/L


def _weekdays(desk: Desk) -> frozenset[int]:
    return frozenset(int(d) for d in desk.preferences.free_days.split())


def terms_for(desk: Desk, s: Situation) -> Terms:
    return terms_of(s.tank, s.entries, s.now.date(), s.reference.schools, s.forecast.readiness, _weekdays(desk))


def offered(desk: Desk, slug: str) -> date:
    """The day that a new batch is offered."""
    s = see(desk, slug).situation
    terms = terms_for(desk, s)
    return offered_day(s.dates, s.now.date(), terms.gap(False), terms.ready_from if terms.proof_asked else None)


def _key(desk: Desk, s: Situation, plan: Sequence[Batch], what: str) -> tuple[Hashable, ...]:
    as_of = forecast_moment(desk.now, s.entries)
    told = tuple((b.name, b.locked) for b in plan)
    return what, inputs_hash(desk, s.tank, s.entries, plan, as_of), told, terms_for(desk, s)


@dataclass(frozen=True)
class BoardStanding:
    """Every waiting batch judged, with the days that are saved, and which batch is only tried elsewhere (0: none)."""

    judged: tuple[Judged, ...]
    kept_days: dict[int, date]
    tried: int


@dataclass(frozen=True)
class Shift:
    """So many of a kind out of one batch into another (its id, or 'new'), as a trial."""

    species: str
    count: int
    out_of: int
    into: str


NEW_BATCH = 10**6  # the id of a batch that is only tried


def _shifted(plan: Sequence[Batch], shift: Shift, new_day: date) -> tuple[list[Batch], int]:
    """The plan after the trial, and the batch that the animals went into; unchanged where they cannot."""
    source = next((b for b in plan if b.id == shift.out_of), None)
    have = source.count_of(shift.species) if source is not None else 0
    count = min(shift.count, have)
    target = next((b for b in plan if str(b.id) == shift.into), None)
    if shift.into == "new":
        target = Batch(NEW_BATCH, "A new batch", new_day, ())
    if source is None or target is None or target.id == source.id or count < 1:
        return list(plan), 0
    after = {b.id: b for b in plan}
    after[source.id] = source.with_count(shift.species, have - count)
    after[target.id] = target.with_count(shift.species, target.count_of(shift.species) + count)
    return sorted((b for b in after.values() if b.items), key=lambda b: (b.planned, b.id)), target.id


def board(
    desk: Desk, slug: str, batch_id: int = 0, shift_days: float = 0.0, shift: Shift | None = None
) -> BoardStanding:
    """How every waiting batch stands; one of them tried so many days later, or animals in another batch, and nothing
    kept."""
    if not abs(shift_days) <= MOST_DAYS:
        raise Refused(f"A batch is tried within {MOST_DAYS} days of its own.", "days")
    s = see(desk, slug).situation
    today = s.now.date()
    kept = {b.id: max(b.planned, today) for b in s.waiting}
    tried = batch_id if batch_id in kept else 0
    days = kept | ({tried: max(kept[tried] + timedelta(days=round(shift_days)), today)} if tried else {})
    plan = [replace(b, planned=days[b.id]) for b in s.waiting]
    if shift is not None:
        plan, tried = _shifted(plan, shift, offered(desk, slug))
    key = _key(desk, s, plan, "board")
    return BoardStanding(_kept.once(key, lambda: _judge(s, plan, terms_for(desk, s), _ensemble(desk, s))), kept, tried)


def _ensemble(desk: Desk, s: Situation) -> Ensemble:
    return ensemble_of(desk, s.tank, list(s.entries))


def _judge(s: Situation, plan: Sequence[Batch], terms: Terms, ensemble: Ensemble) -> tuple[Judged, ...]:
    found = []
    for standing in standings(ensemble, plan):
        lots = lots_of(standing.batch.items, s.living, s.reference.species, s.tank.started)
        found.append(
            Judged(standing, reasons(standing, plan, s.living, s.reference.species, terms, lots, s.forecast.ceiling))
        )
    return tuple(found)


def ahead(desk: Desk, slug: str) -> Ahead | None:
    """None when nothing waits."""
    s = see(desk, slug).situation
    if not s.waiting:
        return None
    return _kept.once(_key(desk, s, s.waiting, "ahead"), lambda: _ahead(s, terms_for(desk, s), _ensemble(desk, s)))


def _ahead(s: Situation, terms: Terms, ensemble: Ensemble) -> Ahead:
    locked = [replace(b, planned=max(b.planned, s.now.date())) for b in s.waiting if b.locked]
    loose = [b for b in s.waiting if not b.locked]
    wishes = [a for b in loose for a in b.items]
    base = WaterCourse(ensemble, locked)  # the same water until the first of them is in
    anew = propose(ensemble, wishes, terms, locked, base)
    days = redate(ensemble, loose, terms, locked, base)
    target = None
    if terms.proof_asked and not s.living:
        load = load_of([a for b in s.waiting for a in b.items], s.reference.species, s.tank.temp_c, adult=True).total
        target = lower_target(s.tank.target_mg_n_l, load, s.volume_l, s.school)
    return Ahead(terms, days, anew, _ways(s, ensemble, anew), target)


def _ways(s: Situation, ensemble: Ensemble, anew: PlanProposal) -> tuple[Alternative, ...]:
    """The keeper's plan beside the planner's, and beside what is usually done from the same first day on."""
    today, every = s.now.date(), [a for b in s.waiting for a in b.items]
    planned = [replace(b, planned=max(b.planned, today)) for b in s.waiting]
    first = min([*(p.planned for p in anew.placed), *(b.planned for b in planned)])
    lots = lots_of(every, s.living, s.reference.species, s.tank.started)
    plans = {"as planned": planned}
    if anew.placed and not anew.left:
        kept = [b for b in planned if b.locked]
        plans["composed anew"] = [
            *kept, *(Batch(1000 + k, f"batch {k + 1}", p.planned, p.items) for k, p in enumerate(anew.placed))
        ]  # fmt: skip
    plans["all at once"] = list(all_at_once(merged(every), first))
    plans["a third every two weeks"] = list(in_thirds(lots, first))
    return tuple(Alternative(name, tuple(standings(ensemble, plan))) for name, plan in plans.items())
