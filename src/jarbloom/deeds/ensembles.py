"""Conditioned ensembles of the last few tanks asked about: a changed plan or a what-if then costs no conditioning."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from datetime import datetime
from functools import lru_cache

from jarbloom.core.bloom import forecast as bloom
from jarbloom.core.bloom.ensemble import Ensemble, prepare
from jarbloom.core.journal.book import JOINED
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.tank import Tank
from jarbloom.core.model.tank_spec import to_spec
from jarbloom.deeds.desk import Desk
from jarbloom.kept import Kept


def forecast_moment(now: datetime, entries: Sequence[Entry]) -> datetime:
    """Forecasts are made for the full hour, or for the last entry when that is later: minutes make no new one."""
    hour = now.replace(minute=0, second=0, microsecond=0)
    return max([hour, *(e.at.astimezone(now.tzinfo) for e in Log.of(entries).telling[-1:])])


def inputs_hash(desk: Desk, tank: Tank, entries: Sequence[Entry], plan: Sequence[Batch], as_of: datetime) -> str:
    log = Log.of(entries)
    keys = {e.body.species for e in log.kinds(*JOINED)} | {a.species for b in plan for a in b.items}
    rows = [desk.reference.species.get(k) for k in sorted(keys)]
    inputs = (
        bloom.VERSION,
        rows,
        desk.forecasting,
        _settings(tank),
        log.digest,
        [(b.id, b.planned, b.items, b.arrived) for b in plan],
        as_of.isoformat(),
    )
    return hashlib.sha256(repr(inputs).encode()).hexdigest()


@lru_cache(64)
def _settings(tank: Tank) -> str:
    return repr(sorted(to_spec(tank).items(), key=str))


_kept: Kept[Ensemble] = Kept(6)


def ensemble_of(desk: Desk, tank: Tank, entries: Sequence[Entry]) -> Ensemble:
    as_of = forecast_moment(desk.now, entries)
    key = inputs_hash(desk, tank, entries, (), as_of)
    return _kept.once(key, lambda: prepare(tank, entries, as_of, desk.reference, desk.forecasting))
