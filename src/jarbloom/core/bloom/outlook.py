"""What the members say of each planned batch: its load, its first sure day, and the chance of staying safe."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import carries
from jarbloom.core.bloom.ensemble import WATCH_DAYS, Ensemble, Projection, project
from jarbloom.core.bloom.limits import planning_limits
from jarbloom.core.bloom.plans import noon, usual_plan
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.water.ammonia import Limits

Array = NDArray[np.float64]
HARMLESS_FOR_A_DAY = 2.0  # times a limit: what is told to be watched, not what harms within a day (judgement)
CERTAIN = 0.90  # never more than this is called certain
FOLLOW_DAYS = 2  # after each other, in an empty tank: the pace of who goes by the course of the water
MOST_FOLLOWING = 4


@dataclass(frozen=True)
class BatchOutlook:
    """What the forecast says of one planned batch, loads in mg N a day: `load` of the batch grown up; `on_the_day`
    with those here at their size then and the batches up to it grown up; `together` all of them grown up."""

    batch_id: int
    load: float
    on_the_day: float
    together: float
    planned: date
    p_safe: float | None  # None: beyond the horizon
    p_safe_today: float | None
    first_sure: date | None
    p_first_day: float | None = None  # of what harms nobody until the next day, if it went in today
    p_rest: float | None = None  # with those that are to follow it, as fast as two days apart, if it went in today
    # If it went in today together with all before it, into an empty tank; None where that is not asked
    p_at_once: float | None = None
    p_at_once_first_day: float | None = None


def outlooks(
    ensemble: Ensemble,
    projection: Projection,
    planned: Sequence[Batch],
    living_load: float,
    sure: Array,
    days: tuple[date, ...],
    today: int,
    ceiling: float,
) -> tuple[BatchOutlook, ...]:
    """Of the planned batches in their order; `sure`: what is sure of the bloom by day, (n_day,), mg N a day."""
    reference, as_of, found, together = ensemble.reference, ensemble.as_of, [], living_load
    sure_so_far = False
    species, temp = reference.species, ensemble.tank.temp_c
    for k, batch in enumerate(planned):
        load = load_of(batch.items, reference.species, ensemble.tank.temp_c, adult=True).total
        together += load
        groups = (*ensemble.living, *(a for b in planned[: k + 1] for a in b.items))
        limits = planning_limits(groups, reference, ensemble.tank)
        day = max(batch.planned, as_of.date())
        at = max(as_of, noon(day, as_of))
        p_safe = None
        if (day - as_of.date()).days + WATCH_DAYS <= ensemble.settings.horizon_days + 1:
            # those that come later say nothing about this one: they find their own days
            crowded = any((b.planned - day).days <= WATCH_DAYS for b in planned[k + 1 :])
            plan = usual_plan(ensemble, planned[: k + 1])
            ahead = project(ensemble, plan, (day - as_of.date()).days + WATCH_DAYS + 1) if crowded else projection
            p_safe = ahead.p_safe(at, limits)[0]
        p_today = p_first_day = p_rest = None
        if k == 0:
            now = project(ensemble, usual_plan(ensemble, [replace(batch, planned=as_of.date())]), WATCH_DAYS)
            p_today = now.p_safe(as_of, limits)[0]
            p_rest = _with_the_rest(ensemble, planned, planning_limits(all_of(planned), reference, ensemble.tank))
            p_first_day = now.p_safe(as_of, limits.times(HARMLESS_FOR_A_DAY), days=1)[0]
        p_at_once, p_at_once_first_day = p_today, p_first_day
        if k:
            p_at_once, p_at_once_first_day = (
                _at_once(ensemble, planned[: k + 1], limits) if sure_so_far else (None, None)
            )
        sure_so_far = not ensemble.living and p_at_once is not None and p_at_once >= CERTAIN
        on_the_day = together - living_load + load_of(ensemble.living, species, temp, day).total
        fits = [d for i, d in enumerate(days) if i >= today and carries(sure[i], on_the_day, together, ceiling)]
        found.append(
            BatchOutlook(
                batch.id,
                load,
                on_the_day,
                together,
                batch.planned,
                p_safe,
                p_today,
                fits[0] if fits else None,
                p_first_day,
                p_rest,
                p_at_once,
                p_at_once_first_day,
            )
        )
    return tuple(found)


def _at_once(ensemble: Ensemble, batches: Sequence[Batch], limits: Limits) -> tuple[float, float]:
    """(P that all of these, going in today, leave the water under the limits for fourteen days; and under what harms
    nobody until the next day, on the first)."""
    today = [replace(b, planned=ensemble.as_of.date()) for b in batches]
    now = project(ensemble, usual_plan(ensemble, today), WATCH_DAYS)
    first_day = now.p_safe(ensemble.as_of, limits.times(HARMLESS_FOR_A_DAY), days=1)[0]
    return now.p_safe(ensemble.as_of, limits)[0], first_day


def all_of(batches: Sequence[Batch]) -> tuple[Animals, ...]:
    """All animals of these batches."""
    return tuple(a for b in batches for a in b.items)


def doses_feed(ensemble: Ensemble, batches: Sequence[Batch]) -> bool:
    """The school doses, and a day's dose feeds a bloom as large as all of these will need."""
    tank, reference = ensemble.tank, ensemble.reference
    load = load_of(all_of(batches), reference.species, tank.temp_c, adult=True).total
    doses = reference.schools.cycling[tank.school].feeds_by == "dose"
    return doses and load <= tank.target_mg_n_l * ensemble.volume_l


def _with_the_rest(ensemble: Ensemble, planned: Sequence[Batch], limits: Limits) -> float | None:
    """P of staying under the limits when the first batch goes into an empty tank today and the others follow soon: few
    animals feed a bloom less than the doses did, and it shrinks to what they need. None where animals are in, where
    nobody follows, or where no dose feeds a bloom for all of them: then the animals have to grow it."""
    now = ensemble.as_of
    if ensemble.living or len(planned) < 2 or not doses_feed(ensemble, planned):
        return None
    soon = [
        replace(b, planned=now.date() + timedelta(days=FOLLOW_DAYS * k)) for k, b in enumerate(planned[:MOST_FOLLOWING])
    ]
    days = WATCH_DAYS + FOLLOW_DAYS * (len(soon) - 1)
    return project(ensemble, usual_plan(ensemble, soon), days).p_safe(now, limits, days=days)[0]
