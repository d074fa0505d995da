"""How tanks are usually filled by rule of thumb, to compare a plan with."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta

from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.lots import Lot, merged


def all_at_once(wishes: Sequence[Animals], day: date) -> tuple[Batch, ...]:
    """What is done after one happy test: everything on the first day."""
    return (Batch(1, "all of it", day, tuple(wishes)),)


def in_thirds(lots: Sequence[Lot], day: date, every: int = 14) -> tuple[Batch, ...]:
    """A third of the animals every two weeks, in order: the rule of thumb to compare with."""
    single = [replace(lot.animals, count=1) for lot in lots for _ in range(lot.animals.count)]
    cuts = [round(len(single) * k / 3) for k in range(4)]
    parts = [single[a:b] for a, b in zip(cuts, cuts[1:], strict=False)]
    found = []
    for k, part in enumerate(p for p in parts if p):
        found.append(Batch(k + 1, f"third {k + 1}", day + timedelta(days=every * k), tuple(merged(part))))
    return tuple(found)
