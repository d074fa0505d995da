"""Everything that is true of a tank at a moment, worked out once: the assessment that verdict, jobs, gate, pages,
calendar, mail and `advise` are read from."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property
from typing import TypeVar, cast

from jarbloom.core.advice.said import Job, Verdict
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.animals.upkeep import Upkeep, upkeep
from jarbloom.core.bloom.capacity import carries
from jarbloom.core.bloom.ensemble import known_by
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.limits import limits_for
from jarbloom.core.bloom.outlook import BatchOutlook
from jarbloom.core.findings.assess import assess
from jarbloom.core.findings.doubts import credible_readings
from jarbloom.core.findings.facts import Facts
from jarbloom.core.findings.finding import Findings
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.clean import WASTE
from jarbloom.core.journal.log import Log
from jarbloom.core.model.chore import Chore
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.findings import Severity
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.schools import Cycling
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank, Water
from jarbloom.core.setup.probe import ProbeSays
from jarbloom.core.stocking.check import Check, Gate, wanted
from jarbloom.core.stocking.dates import BatchDate, BatchDay, dates_of
from jarbloom.core.stocking.gate import gate, of_the_tank
from jarbloom.core.upset.courses import UpsetCourse
from jarbloom.core.upset.levels import Episode, Levels, episode, levels, rose_within
from jarbloom.core.upset.response import Response, respond, with_unexplained
from jarbloom.core.vessel.volume import net_l
from jarbloom.units import Units, load_text

T = TypeVar("T")
OVER = ("ammonia_over", "nitrite_over", "never_answered")  # findings that the corrective changes answer
# Waste on its way: each asks for a change of a usual size, and how much and when is solved on the members instead.
RISING = frozenset({"media_lost_trace", "load_up", "overfed", "hidden_body"})


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
    findings: Findings = field(default_factory=Findings)
    dates: tuple[BatchDate, ...] = ()
    facts: Facts | None = None  # what the findings looked at; the causes of an upset look at the same
    chores: tuple[Chore, ...] = ()  # the keeper's own
    record: Water | None = None  # of the house, of the water that this tank is filled from
    probe: ProbeSays | None = None  # reason to test or to look after it; no rule of the gate reads it

    @cached_property
    def volume_l(self) -> float:
        return net_l(self.tank)

    @property
    def upkeep(self) -> Upkeep:
        """What those that live here eat and put out today, at the temperature as set."""
        return upkeep(self.living, self.reference.species, self.tank.temp_c, self.now.date())

    def once(self, key: str, make: Callable[[], T]) -> T:
        """Something that several ask for and that follows from what stands here: worked out by the first who asks."""
        if key not in self._worked_out:
            self._worked_out[key] = make()
        return cast("T", self._worked_out[key])

    @cached_property
    def _worked_out(self) -> dict[str, object]:
        return {}

    @property
    def school(self) -> Cycling:
        return self.reference.schools.cycling[self.tank.school]

    @property
    def by_course(self) -> bool:
        """Batches are judged by the forecast of the weeks after them, not by the school's proof."""
        return self.reference.schools.pace[self.tank.pace].by_course

    @property
    def full_load(self) -> bool:
        """A bloom that surely carries all of them grown up is asked before a batch."""
        return self.reference.schools.pace[self.tank.pace].full_load

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

    def date_of(self, batch: Batch) -> BatchDate | None:
        """The one date of a batch."""
        return next((d for d in self.dates if d.batch_id == batch.id), None)

    @property
    def acting(self) -> bool:
        """Something is to be done today to water, animals or machines."""
        return self.findings.worst == Severity.ACT

    @property
    def over(self) -> bool:
        """Animals are in the water, and ammonia or nitrite are over their limits."""
        return self.findings.has(*OVER)


def situation(
    tank: Tank,
    entries: Sequence[Entry],
    batches: Sequence[Batch],
    forecast: Forecast,
    reference: Reference,
    units: Units,
    now: datetime | None = None,
    days: Sequence[BatchDay] = (),
) -> Situation:
    """Put log, forecast and plan together; `now` may lie a little after the forecast's own moment. `days`: the earliest
    day of each batch by the water (core/stocking/dates.py)."""
    now = now or forecast.as_of
    known = known_by(entries, now)
    living = stock(known, now.date())
    limits = limits_for(living, reference, tank)
    deciding = credible_readings(tank, known, forecast, reference, now)
    found = levels(tank, known, now, limits, {q: deciding[q].reading for q in WASTE})
    upset = episode(tank, known, limits) if living else None
    facts = Facts(tank, known, living, reference, units, now, forecast, found, upset, deciding)
    findings = assess(facts)
    response = None
    rising = findings.ask_change_only_for(RISING) and not findings.has("repeat_high")  # a doubted reading waits
    if living and (findings.has(*OVER) or rising):
        school = reference.schools.corrective[tank.corrective]
        source = with_unexplained(forecast.sample, found.tan, rose_within(known, deciding["ammonia"].reading))
        response = respond(tank, found, source, school, now, findings.change_most)
    by_id = {b.id: b for b in batches}
    gates = tuple(
        gate(tank, known, by_id[o.batch_id], o, forecast, reference, units, findings)
        for o in forecast.batches
        if o.batch_id in by_id
    )
    return Situation(
        tank, known, tuple(batches), forecast, reference, units, living, found, upset, response, gates, now, findings,
        dates_of(days, batches, gates, findings, now.date()), facts,
    )  # fmt: skip


def standing_gate(s: Situation, sensitive: bool = False) -> tuple[Check, ...]:
    """What is asked of the tank today before any animal goes in, headroom and company aside."""
    return of_the_tank(s.tank, s.entries, s.living, s.reference, s.now, sensitive, s.findings)


def missing_for(s: Situation, coming: Sequence[Animals]) -> list[str]:
    """What the gate would miss if these animals went in now, planned or not: the tank's own checks and headroom."""
    species, temp = s.reference.species, s.tank.temp_c
    kinds = [species[a.species] for a in coming if a.species in species]
    sensitive = any(k.ammonia_sensitivity == "sensitive" for k in kinds)
    missing = wanted([c for c in standing_gate(s, sensitive) if c.hardness != "taste"], words=True)
    load = load_of(coming, species, temp, adult=True).total
    if not carries(s.forecast.sure, s.forecast.load_now + load, s.forecast.load_adult + load, s.forecast.ceiling):
        missing.append(
            f"the bloom surely carries {load_text(s.forecast.sure)} of {load_text(s.forecast.load_now + load)} a day"
        )
    return missing


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
