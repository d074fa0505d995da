"""From the log and a plan to what drives the model: step by step inputs on a fixed grid."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import (
    BODY_N,
    FASTING,
    Load,
    feed_load,
    load_of,
    mass_g,
    rotting_food_mg_n,
    stock,
)
from jarbloom.core.animals.growth import length_on
from jarbloom.core.model import Animals, Batch, Entry, Species, Tank
from jarbloom.core.vessel.box import net_l
from jarbloom.core.water.carbonate import MEQ_PER_DKH

Array = NDArray[np.float64]
DETOX_SHARE = 0.9  # of the free TAN that a detoxifier binds (2-science.md section 7)
BODY_LEFT_FOUND = 0.2  # share of a body that is in the water before it is taken out; judgement

# loss of colony at a cleaning, on the logit scale: (mean, sd) for all of the media; judgement
LOSS_LOGIT = {"tap": (0.5, 1.3), "tank_water": (-2.5, 1.3), "replaced": (2.2, 0.8), "dried": (2.5, 0.8)}
# what comes with a bottle or borrowed media: probability that it is dead, mg N/L/d for A and for B, sd of ln
SEEDING = {
    "bottle": (0.31, 0.12, 0.08, 2.0),
    "bottle_cool": (0.12, 0.12, 0.08, 1.6),
    "bottle_warm": (0.70, 0.12, 0.08, 2.0),
    "borrowed": (0.0, 0.9, 0.6, 1.0),
}


@dataclass(frozen=True)
class Happening:
    """A cleaning or a seeding at a step; `z` is its pair of columns among the ensemble's normals."""

    step: int
    kind: str  # loss | seed
    key: str
    share: float
    z: int


@dataclass(frozen=True)
class Plan:
    """What will be done after the log ends. Concentrations mg N/L, shares 0 to 1, food g a day."""

    batches: tuple[Batch, ...] = ()
    changes: tuple[tuple[datetime, float], ...] = ()
    redose_mg_n_l: float = 0.0
    redose_until: date | None = None
    food_g_day: float = 0.0
    feed_factor: float = 1.0
    feed_factor_until: date | None = None
    keep_alkalinity: bool = True  # the keeper restores KH when the jobs list says so


@dataclass(frozen=True)
class Drivers:
    """Inputs on the grid; arrays are (n_step,). Events stand at the start of their step."""

    start: datetime
    dt: float  # days
    dose: Array  # mg N/L
    particulate: Array  # mg N/L
    excretion: Array  # mg N/L/day
    waste: Array  # mg N/L/day, particulate
    change: Array  # share
    detox: Array  # share
    temp: Array  # deg C
    ph_read: Array  # nan where none
    kh_read: Array  # nan where none; meq/L
    redose: Array  # mg N/L given when TAN has fallen below LOW
    source: tuple[float, float, float]  # TAN, nitrate mg N/L, alkalinity meq/L
    happenings: tuple[Happening, ...] = field(default=())
    keep_alkalinity: bool = False

    @property
    def n_step(self) -> int:
        return len(self.dose)


def step_of(at: datetime, start: datetime, dt: float) -> int:
    return int((at - start).total_seconds() / 86400 / dt)


def drivers(
    tank: Tank,
    entries: Sequence[Entry],
    species: Mapping[str, Species],
    start: datetime,
    end: datetime,
    dt: float,
    plan: Plan | None = None,
    living: tuple[Animals, ...] | None = None,
) -> Drivers:
    """Inputs for [start, end). Entries outside are left out, but animals that arrived before count.

    `living` replaces the stock of the log (for a future that starts with today's animals).
    """
    n = max(1, int(np.ceil((end - start).total_seconds() / 86400 / dt - 1e-9)))
    volume = net_l(tank)
    grid = {name: np.zeros(n) for name in ("dose", "particulate", "excretion", "waste", "change", "detox", "redose")}
    temp, ph_read, kh_read = np.full(n, tank.temp_c), np.full(n, np.nan), np.full(n, np.nan)
    happenings: list[Happening] = []
    fed: dict[date, float] = {}
    ordered = sorted(entries, key=lambda e: (e.at, e.id))
    fixed = living is not None
    for entry in ordered:
        if entry.kind == "feed" and "grams" in entry.body:
            day = entry.at.astimezone(start.tzinfo).date()
            fed[day] = fed.get(day, 0.0) + entry.body["grams"]
        k = step_of(entry.at, start, dt)
        if not 0 <= k < n or entry.at < start:
            continue
        body = entry.body
        match entry.kind:
            case "dose":
                grid["dose"][k] += body["mg_n"] / volume
            case "change":
                share = min(1.0, body["litres"] / volume)
                grid["change"][k] = 1 - (1 - grid["change"][k]) * (1 - share)
            case "conditioner" if body.get("detoxifies"):
                grid["detox"][k] = DETOX_SHARE
            case "death":
                grid["particulate"][k] += _body_mg_n(entry, species, ordered) / volume
            case "media":
                happenings.append(Happening(k, "loss", body["how"], body.get("share", 100) / 100, len(happenings)))
            case "bacteria":
                key = body.get("source", "bottle")
                share = body.get("share", 30) / 30 if key == "borrowed" else 1.0
                happenings.append(Happening(k, "seed", key, share, len(happenings)))
            case "test":
                for reading in entry.readings:
                    if reading.quantity == "ph":
                        ph_read[k] = reading.seen
                    elif reading.quantity == "kh":
                        kh_read[k] = reading.seen * MEQ_PER_DKH
                    elif reading.quantity == "temp":
                        temp[k:] = reading.seen
    keep_alkalinity = plan is not None and plan.keep_alkalinity
    plan = plan or Plan()
    _animals(grid, tank, ordered, species, start, dt, fed, plan, living if fixed else None, volume)
    _planned(grid, plan, start, dt, volume)
    source = (tank.source.ammonia_mg_n_l, tank.source.nitrate_mg_n_l, tank.source.kh_dkh * MEQ_PER_DKH)
    return Drivers(
        start,
        dt,
        temp=temp,
        ph_read=ph_read,
        kh_read=kh_read,
        source=source,
        happenings=tuple(happenings),
        keep_alkalinity=keep_alkalinity,
        **grid,
    )


def _body_mg_n(entry: Entry, species: Mapping[str, Species], entries: Sequence[Entry]) -> float:
    """mg N that comes from the dead, at the length they had; less when they were found and taken out."""
    body, on = entry.body, entry.at.date()
    kind = species.get(body["species"], species["unknown"])
    group = next(
        (g for g in stock([e for e in entries if e.at < entry.at]) if g.species == body["species"]),
        Animals(body["species"], 1),
    )
    left = BODY_LEFT_FOUND if body.get("body") == "found" else 1.0
    return 1000 * BODY_N * mass_g(kind, length_on(group, kind, on)) * body["count"] * left


def _animals(
    grid: dict[str, Array],
    tank: Tank,
    entries: Sequence[Entry],
    species: Mapping[str, Species],
    start: datetime,
    dt: float,
    fed: dict[date, float],
    plan: Plan,
    living: tuple[Animals, ...] | None,
    volume: float,
) -> None:
    """Excretion and waste by day: logged feed replaces the ration; without animals feed just rots."""
    n = len(grid["dose"])
    per_day = max(1, round(1 / dt))
    for k in range(0, n, per_day):
        day = (start + timedelta(days=k * dt)).date()
        groups = living if living is not None else stock(entries, day)
        natural = load_of(groups, species, tank.temp_c, day) if groups else Load()
        if day in fed and living is None:
            if groups:
                eaten = feed_load(fed[day]) if fed[day] > 0 else Load(natural.excreted * FASTING, 0.0)
            else:
                eaten = Load()
                grid["particulate"][k] += rotting_food_mg_n(fed[day]) / volume
        else:
            factor = plan.feed_factor if plan.feed_factor_until and day < plan.feed_factor_until else 1.0
            eaten = Load(natural.excreted * max(factor, FASTING), natural.particulate * factor)
        for batch in plan.batches:
            if batch.planned <= day:
                # Adult size: what the tank must carry for life, and the safe side of a growing load.
                eaten += load_of(batch.items, species, tank.temp_c, day, adult=True)
        grid["excretion"][k : k + per_day] = eaten.excreted / volume
        grid["waste"][k : k + per_day] = eaten.particulate / volume
        if plan.food_g_day and not groups and not any(b.planned <= day for b in plan.batches):
            grid["particulate"][k] += rotting_food_mg_n(plan.food_g_day) / volume


def _planned(grid: dict[str, Array], plan: Plan, start: datetime, dt: float, volume: float) -> None:
    n = len(grid["dose"])
    for at, share in plan.changes:
        k = step_of(at, start, dt)
        if 0 <= k < n:
            grid["change"][k] = 1 - (1 - grid["change"][k]) * (1 - share)
    if plan.redose_mg_n_l:
        for k in range(0, n, max(1, round(1 / dt))):
            day = (start + timedelta(days=k * dt)).date()
            if plan.redose_until is None or day < plan.redose_until:
                grid["redose"][k] = plan.redose_mg_n_l
