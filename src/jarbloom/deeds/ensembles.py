"""Conditioned ensembles of the last few tanks asked about: a what-if then costs a projection, no conditioning."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock

from jarbloom.core.bloom.ensemble import Ensemble, prepare
from jarbloom.core.model import Entry, Tank
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.look import forecast_moment, inputs_hash

KEPT = 4
_kept: OrderedDict[str, Ensemble] = OrderedDict()
_lock = Lock()


def ensemble_of(desk: Desk, tank: Tank, entries: list[Entry]) -> Ensemble:
    as_of = forecast_moment(desk.now, entries)
    key = inputs_hash(desk, tank, entries, (), as_of)
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    made = prepare(tank, entries, as_of, desk.reference, desk.forecasting)
    with _lock:
        _kept[key] = made
        while len(_kept) > KEPT:
            _kept.popitem(last=False)
    return made
