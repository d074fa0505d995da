"""What a stocking brings, grown up: load by the hour, nitrate against water changes, oxygen by night, crowding."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import MG_PER_MG_N
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l

NITRATE_LIMIT_ION = {True: 25.0, False: 40.0}  # mg/L as ion: planted, fish only (docs/schools.md, the others)
AFTER_FEEDING = 2.0  # excretion in the hours after a meal over the day's mean (judgement)
RHYTHM = timedelta(weeks=8)  # over which the keeper's own changes are counted
LEAST_CHANGES = 3  # fewer tell no rhythm


@dataclass(frozen=True)
class Budget:
    """mg N a day, mg N an hour; nitrate in mg/L as ion; shares of the water a week; cm of grown animals by zone."""

    load_now: float
    load_adult: float
    worst_hour: float
    worst_hour_mg_l: float
    nitrate_week: float
    nitrate_limit: float
    changed_week: float | None  # None: too few changes to tell a rhythm
    settles_at: float | None  # before each change, when the rhythm is kept; None without one
    needed_week: float | None  # keeps nitrate at its limit; None: the source is above it, or one change is too little
    zones: tuple[tuple[str, float], ...]


def budget(
    tank: Tank, animals: Sequence[Animals], entries: Sequence[Entry], species: Mapping[str, Species], now: datetime
) -> Budget:
    """Everything the animals put out ends as nitrate: plants and corals that take some make it less."""
    litres = net_l(tank)
    adult = load_of(animals, species, tank.temp_c, adult=True).total
    week = 7 * adult / litres * MG_PER_MG_N["NO3"]
    source = tank.source.nitrate_mg_n_l * MG_PER_MG_N["NO3"]
    limit = NITRATE_LIMIT_ION[tank.planted]
    share = changed_a_week(entries, litres, now)
    worst = AFTER_FEEDING * adult / 24
    return Budget(
        load_of(animals, species, tank.temp_c, now.date()).total, adult, worst, worst / litres, week, limit, share,
        settles_at(source, week, share) if share else None, needed_share(source, week, limit),
        zone_lengths(animals, species),
    )  # fmt: skip


def settles_at(source: float, rise: float, share: float) -> float:
    """Level before each change once nothing moves any more: c = (c (1 - f) + s f) + r, so c = s + r / f.

    >>> settles_at(5.0, 10.0, 0.25)
    45.0
    """
    return source + rise / share


def needed_share(source: float, rise: float, limit: float) -> float | None:
    """The share of the water a week that holds the level before a change at `limit`."""
    if rise <= 0:
        return 0.0
    if source >= limit or rise > limit - source:
        return None
    return rise / (limit - source)


def changed_a_week(entries: Sequence[Entry], litres: float, now: datetime) -> float | None:
    """The keeper's own rhythm: the mean share changed a week over the last eight weeks."""
    recent = [e for e in Log.of(entries).kinds(Change) if now - RHYTHM <= e.at <= now]
    if len(recent) < LEAST_CHANGES:
        return None
    weeks = max((now - min(e.at for e in recent)).total_seconds() / 604_800, 1.0)
    return min(1.0, sum(e.body.litres for e in recent) / litres / weeks)


def zone_lengths(
    animals: Sequence[Animals], species: Mapping[str, Species], adult: bool = True
) -> tuple[tuple[str, float], ...]:
    """cm of movers end to end by zone, the fullest first: grown up, or at the lengths given."""
    found: dict[str, float] = {}
    for a in animals:
        kind = species.get(a.species, species["unknown"])
        if kind.moves:
            found[kind.zone] = found.get(kind.zone, 0.0) + a.count * (
                kind.adult_cm if adult else a.length_cm or kind.shop_cm
            )
    return tuple(sorted(found.items(), key=lambda z: -z[1]))
