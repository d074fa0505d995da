"""What the planner says of a tank's plan: how every batch stands, the first sure days, and other ways beside it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from threading import Lock
from typing import Any

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.model import Batch
from jarbloom.core.planner.lots import lots_of, merged
from jarbloom.core.planner.plan import Placed, Proposal, all_at_once, in_thirds, propose, redate
from jarbloom.core.planner.reasons import Reason, reasons
from jarbloom.core.planner.target import lower_target
from jarbloom.core.planner.terms import Terms, terms_of
from jarbloom.core.planner.water import Course, Standing, standings
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.ensembles import ensemble_of, forecast_moment, inputs_hash
from jarbloom.deeds.look import see
from jarbloom.errors import Refused

KEPT = 16
_kept: OrderedDict[tuple, object] = OrderedDict()
_lock = Lock()


@dataclass(frozen=True)
class Judged:
    """A batch on its day, and why it stands well or badly there."""

    standing: Standing
    reasons: tuple[Reason, ...]

    @property
    def good(self) -> bool:
        return all(r.kept for r in self.reasons if r.hardness != "taste")


@dataclass(frozen=True)
class Way:
    """A whole plan in one line: its batches judged by the water only."""

    name: str
    batches: tuple[Standing, ...]

    @property
    def last_day(self) -> date:
        return max(s.batch.planned for s in self.batches)

    @property
    def least_p(self) -> float:
        return min(s.watched.p_safe for s in self.batches)


@dataclass(frozen=True)
class Ahead:
    terms: Terms
    days: tuple[tuple[Batch, Placed | None], ...]  # the keeper's own batches on their first sure days
    anew: Proposal
    ways: tuple[Way, ...]
    target: float | None = None  # a target dose that would prove it sooner, mg N/L


def _once(key: tuple, make: Callable[[], Any]) -> Any:
    """The answer to the same question, kept for a while."""
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    made = make()
    with _lock:
        _kept[key] = made
        while len(_kept) > KEPT:
            _kept.popitem(last=False)
    return made


def _weekdays(desk: Desk) -> frozenset[int]:
    return frozenset(int(d) for d in desk.preferences.free_days.split())


def terms_for(desk: Desk, s: Situation) -> Terms:
    return terms_of(s.tank, s.entries, s.now.date(), s.reference.schools, s.forecast.readiness, _weekdays(desk))


def _key(desk: Desk, s: Situation, plan: Sequence[Batch], what: str) -> tuple:
    as_of = forecast_moment(desk.now, s.entries)
    told = tuple((b.name, b.locked) for b in plan)
    return what, inputs_hash(desk, s.tank, s.entries, plan, as_of), told, terms_for(desk, s)


def _loads(s: Situation, batches: Sequence[Batch]) -> tuple[list[float], float]:
    species, temp = s.reference.species, s.tank.temp_c
    of = [load_of(b.items, species, temp, adult=True).total for b in batches]
    return of, load_of(s.living, species, temp, adult=True).total


def judge(desk: Desk, slug: str, moved: dict[int, date] | None = None) -> tuple[Judged, ...]:
    """Every waiting batch on its day; `moved` tries other days without keeping them."""
    s = see(desk, slug).situation
    today = s.now.date()
    plan = [replace(b, planned=max((moved or {}).get(b.id, b.planned), today)) for b in s.waiting]
    if any(day < today or (day - today).days > MOST_DAYS for day in (moved or {}).values()):
        raise Refused(f"Choose a day from today on, within {MOST_DAYS} days.", "planned")
    return _once(_key(desk, s, plan, "judged"), lambda: _judge(s, plan, terms_for(desk, s), _ensemble(desk, s)))


MOST_DAYS = 365


def _ensemble(desk: Desk, s: Situation) -> Ensemble:
    return ensemble_of(desk, s.tank, list(s.entries))


def _judge(s: Situation, plan: Sequence[Batch], terms: Terms, ensemble: Ensemble) -> tuple[Judged, ...]:
    loads, living = _loads(s, plan)
    found = []
    for standing in standings(ensemble, plan, loads, living):
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
    return _once(_key(desk, s, s.waiting, "ahead"), lambda: _ahead(s, terms_for(desk, s), _ensemble(desk, s)))


def _ahead(s: Situation, terms: Terms, ensemble: Ensemble) -> Ahead:
    locked = [replace(b, planned=max(b.planned, s.now.date())) for b in s.waiting if b.locked]
    loose = [b for b in s.waiting if not b.locked]
    wishes = [a for b in loose for a in b.items]
    base = Course(ensemble, locked)  # the same water until the first of them is in
    anew = propose(ensemble, wishes, terms, locked, base)
    days = redate(ensemble, loose, terms, locked, base)
    loads, living = _loads(s, s.waiting)
    target = None
    if terms.proof_asked and not s.living:
        target = lower_target(s.tank.target_mg_n_l, sum(loads) + living, s.volume_l, s.school)
    return Ahead(terms, days, anew, _ways(s, ensemble, anew), target)


def _ways(s: Situation, ensemble: Ensemble, anew: Proposal) -> tuple[Way, ...]:
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
    found = []
    for name, plan in plans.items():
        loads, living = _loads(s, plan)
        found.append(Way(name, tuple(standings(ensemble, plan, loads, living))))
    return tuple(found)
