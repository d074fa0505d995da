"""What the last water change was to come to, and what was read after it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.log import LastReading, Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Tank
from jarbloom.core.upset import response
from jarbloom.core.upset.levels import Levels, levels
from jarbloom.core.water.dilution import after_change

STANDS = timedelta(hours=48)  # so long a change is talked about
KNOWN_FOR = timedelta(days=4)  # readings before it that are older promise nothing


@dataclass(frozen=True)
class Kept:
    """One quantity after a change, mg N/L: `low` to `high` promised by the kit's step before, `read` afterwards.
    `stands`: '' (not read yet), kept, higher or lower."""

    quantity: str
    low: float
    high: float
    read: LastReading | None
    stands: str


@dataclass(frozen=True)
class Promise:
    """`entry`: the change as logged; `told`: its figures by what was known before it; `kept`: what came of them."""

    entry: Entry[Change]
    told: response.Change
    kept: tuple[Kept, ...]


def last_promise(
    tank: Tank, log: Log, now: Levels, moment: datetime, deciding: Mapping[str, LastReading | None] | None = None
) -> Promise | None:
    """The last change of the last two days after a reading, or None. `now`: for the limits; `deciding`: the readings of
    ammonia and nitrite that decide now, taken where they came before the change."""
    changes = log.kinds(Change)
    if not changes or moment - changes[-1].at > STANDS:
        return None
    entry = changes[-1]
    before = log.before(entry)
    chosen = {q: _before(q, before, entry, (deciding or {}).get(q)) for q in ("ammonia", "nitrite")}
    if not any(chosen.values()):
        return None
    lv = levels(tank, before, entry.at, now.limits, chosen)
    told = response.promised(tank, lv, entry.body.litres, entry.at, entry.body.source_ammonia)
    f = min(1.0, told.fraction)
    brings = tank.refill.brings_mg_n_l if entry.body.source_ammonia is None else entry.body.source_ammonia
    kept = []
    for quantity, was, source in (("ammonia", lv.tan, brings), ("nitrite", lv.no2, 0.0)):
        if was is None:
            continue
        low, high = after_change(was.low, f, source), after_change(was.high, f, source)
        read = log.latest(quantity)
        read = read if read is not None and read.order > entry.order else None
        kept.append(Kept(quantity, low, high, read, _stands(low, high, read)))
    return Promise(entry, told, tuple(kept))


def _before(quantity: str, before: Log, entry: Entry, deciding: LastReading | None) -> LastReading | None:
    seen = deciding if deciding is not None and deciding.order < entry.order else before.latest(quantity)
    return seen if seen is not None and entry.at - seen.at <= KNOWN_FOR else None


def _stands(low: float, high: float, read: LastReading | None) -> str:
    """By the kit's own step: only what its interval cannot hold is called off."""
    if read is None:
        return ""
    top = read.reading.high if read.reading.high is not None else float("inf")
    if read.reading.low > high + 1e-9:
        return "higher"
    return "lower" if top < low - 1e-9 else "kept"
