"""What will be done: the school going on by itself, the planned batches, and the lines of a what-if."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, datetime, timedelta

from jarbloom.core.bloom.drivers import FuturePlan
from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l

RELIEF_OVER_MG_N_L = (0.5, 0.5)  # TAN, nitrite at which a fish-in school changes water (docs/schools.md, cycling)
PINCH_G_PER_L = 0.002  # dry food a day for the pinch-feeding school; judgement


def pinch_g_day(tank: Tank) -> float:
    return PINCH_G_PER_L * net_l(tank)


def school_plan(ensemble: Ensemble) -> FuturePlan:
    """The school's own feeding and water changes, with no new animals."""
    tank = ensemble.tank
    school = ensemble.reference.schools.cycling[tank.school]
    if ensemble.living or school.fish_in:
        routine = _routine(school.change_share, school.change_every_days, ensemble) if school.change_share else ()
        relief = 0.0
        if school.fish_in:
            relief = ensemble.reference.schools.corrective[tank.corrective].max_fraction
        return FuturePlan(changes=routine, relief_share=relief, relief_over=RELIEF_OVER_MG_N_L)
    redose = tank.target_mg_n_l if school.feeds_by == "dose" else 0.0
    food = pinch_g_day(tank) if school.feeds_by == "food" else 0.0
    return FuturePlan(redose_mg_n_l=redose, food_g_day=food, animals_from=None, mends=ensemble.mends)


def usual_plan(ensemble: Ensemble, batches: Sequence[Batch]) -> FuturePlan:
    """The school's plan until the first batch, a water change before it, and the batches on their days."""
    as_of = ensemble.as_of
    plan = school_plan(ensemble)
    coming = tuple(replace(b, planned=max(b.planned, as_of.date())) for b in batches if b.items)
    if not coming:
        return plan
    plan = replace(plan, batches=coming)
    if ensemble.living or ensemble.reference.schools.cycling[ensemble.tank.school].fish_in:
        return plan
    first = min(b.planned for b in coming)
    at = max(as_of, datetime(first.year, first.month, first.day, 8, tzinfo=as_of.tzinfo))
    share = ensemble.reference.schools.corrective[ensemble.tank.corrective].max_fraction
    return replace(plan, changes=((at, share),), animals_from=first)


def with_entries(plan: FuturePlan, entries: Sequence[Entry]) -> FuturePlan:
    """The plan with these lines of the future log on top. Animals may come with them before those of the plan."""
    arrivals = [e.day for e in entries if isinstance(e.body, Arrival)]
    planned = [] if plan.animals_from is None else [plan.animals_from]
    return replace(plan, entries=tuple(entries), animals_from=min([*arrivals, *planned], default=None))


def _routine(share: float, every_days: float, ensemble: Ensemble) -> tuple[tuple[datetime, float], ...]:
    steps = int(ensemble.settings.horizon_days / every_days)
    return tuple((ensemble.as_of + timedelta(days=every_days * (k + 1)), share) for k in range(steps))


def noon(day: date, as_of: datetime) -> datetime:
    """Noon of a day where the question was asked: what stands for the day, and when its animals are in."""
    return datetime(day.year, day.month, day.day, 12, tzinfo=as_of.tzinfo)
