"""Everything that is true of a tank at a moment, worked out once: verdict, jobs and pages read from it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from jarbloom.core.advice.said import Job, Verdict
from jarbloom.core.bloom.capacity import SURE
from jarbloom.core.bloom.ensemble import known_by
from jarbloom.core.bloom.forecast import BatchOutlook, Forecast, limits_for
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.schools import Cycling
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.setup.probe import ProbeSays
from jarbloom.core.stocking.gate import Gate, gate
from jarbloom.core.upset.courses import UpsetCourse
from jarbloom.core.upset.levels import Episode, Levels, episode, levels
from jarbloom.core.upset.response import Response, respond, unprocessed
from jarbloom.core.vessel.volume import net_l
from jarbloom.units import Units


@dataclass(frozen=True)
class Situation:
    tank: Tank
    entries: Log
    batches: tuple[Batch, ...]
    forecast: Forecast
    reference: Reference
    units: Units
    living: tuple[Animals, ...]
    levels: Levels
    episode: Episode | None
    response: Response | None
    gates: tuple[Gate, ...]
    now: datetime
    probe: ProbeSays | None = None  # reason to test or to look after it; no rule of the gate reads it

    @property
    def volume_l(self) -> float:
        return net_l(self.tank)

    @property
    def school(self) -> Cycling:
        return self.reference.schools.cycling[self.tank.school]

    @property
    def waiting(self) -> tuple[Batch, ...]:
        """Planned batches with animals in them that have not arrived, by date."""
        found = (b for b in self.batches if b.arrived is None and b.items)
        return tuple(sorted(found, key=lambda b: (b.planned, b.id)))

    @property
    def next_batch(self) -> Batch | None:
        return next(iter(self.waiting), None)

    def outlook(self, batch: Batch) -> BatchOutlook | None:
        return next((o for o in self.forecast.batches if o.batch_id == batch.id), None)

    @property
    def next_gate(self) -> Gate | None:
        batch = self.next_batch
        return next((g for g in self.gates if batch and g.batch_id == batch.id), None)

    @property
    def acting(self) -> bool:
        """Animals are in the water and the latest readings are over their limits."""
        return bool(self.living) and self.levels.over


def situation(
    tank: Tank,
    entries: Sequence[Entry],
    batches: Sequence[Batch],
    forecast: Forecast,
    reference: Reference,
    units: Units,
    now: datetime | None = None,
) -> Situation:
    """Put log, forecast and plan together; `now` may lie a little after the forecast's own moment."""
    now = now or forecast.as_of
    known = known_by(entries, now)
    living = stock(known, now.date())
    limits = limits_for(living, reference, tank)
    found = levels(tank, known, now, limits)
    upset = episode(tank, known, limits) if living else None
    response = None
    if living and found.over:
        production = unprocessed(
            forecast.load_now, forecast.band("capacity_a", SURE), forecast.band("capacity_b", SURE), net_l(tank)
        )
        response = respond(tank, found, production, reference.schools.corrective[tank.corrective], now)
    by_id = {b.id: b for b in batches}
    gates = tuple(
        gate(tank, known, by_id[o.batch_id], o, forecast, reference, units)
        for o in forecast.batches
        if o.batch_id in by_id
    )
    return Situation(
        tank, known, tuple(batches), forecast, reference, units, living, found, upset, response, gates, now
    )


@dataclass(frozen=True)
class TankSeen:
    """A tank as it stands: everything a page about it needs."""

    situation: Situation
    verdict: Verdict
    jobs: tuple[Job, ...]
    courses: tuple[UpsetCourse, ...] = ()

    @property
    def tank(self) -> Tank:
        return self.situation.tank
