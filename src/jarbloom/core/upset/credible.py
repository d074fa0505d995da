"""Which reading decides: doubt only ever cuts towards safety.

A low reading that its neighbours call unlikely neither ends an emergency nor permits feeding until it is repeated; of
two that contradict each other within hours the worse counts until a third tells; a reading that another day or another
kit confirms is no surprise any more.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import LastReading, Log
from jarbloom.core.model.kit import Reading

AT_ONCE = timedelta(hours=6)  # readings this close should agree
FALLS_WITHIN = timedelta(days=4)  # so far back the reading before a doubted low one still counts
CONFIRMED_WITHIN = timedelta(days=4)
ANOTHER_LOOK = timedelta(minutes=2)  # a reading at least this much later is one of its own
BOUND_FOR = timedelta(hours=48)  # docs/science.md, detoxifier
VANISHED_MG_N_L = 0.7  # so much ammonia does not go without a trace (mass balance; a step of a kit, judgement)


@dataclass(frozen=True)
class Credible:
    """`reading` decides; `last` is what was read last. `doubt`: '' or why the last does not decide: low, high,
    contradiction, odd_high; `against` the reading that it is held against."""

    reading: LastReading | None
    last: LastReading | None
    doubt: str = ""
    against: LastReading | None = None


def readings_of(log: Log, quantity: str, most: int = 8) -> tuple[LastReading, ...]:
    """The latest believed readings of a quantity, the last first."""
    return log.kept(("readings", quantity, most), (Tested,), lambda: _readings_of(log, quantity, most))


def _readings_of(log: Log, quantity: str, most: int) -> tuple[LastReading, ...]:
    found: list[LastReading] = []
    for entry in reversed(log.kinds(Tested)):
        found += [LastReading(entry.at, r, entry.id) for r in entry.readings if r.quantity == quantity and not r.masked]
        if len(found) >= most:
            break
    return tuple(found)


def agree(a: Reading, b: Reading) -> bool:
    """Whether two readings can be of one water: their intervals with the neighbouring steps overlap."""
    top_a, top_b = (r.outer_high if r.outer_high is not None else float("inf") for r in (a, b))
    return min(top_a, top_b) >= max(a.outer_low, b.outer_low)


def apart(a: Reading, b: Reading) -> bool:
    """Whether they contradict each other: not even the neighbouring steps meet half way."""
    low, high = sorted((a, b), key=lambda r: r.seen)
    top = low.high if low.high is not None else float("inf")
    return high.low > top + 1e-9 and high.seen - low.seen >= 0.24


def credible(
    log: Log,
    quantity: str,
    volume_l: float,
    unlikely: frozenset[int] = frozenset(),
    distrusted: frozenset[int] = frozenset(),
) -> Credible:
    """The reading that decides. `unlikely`: entries whose reading the forecast calls so; `distrusted`: those whose
    words cast doubt on the test itself."""
    found = readings_of(log, quantity)
    if not found:
        return Credible(None, None)
    last, before = found[0], found[1:]
    close = [r for r in before if last.at - r.at <= AT_ONCE and not _moved(log, r, last)]
    odd = [r for r in close if apart(r.reading, last.reading)]
    if odd:
        partner = next((r for r in close if r not in odd and r.entry_id not in distrusted), None)
        if partner is not None and last.entry_id not in distrusted:
            return Credible(last, last, "odd_high" if odd[0].value > last.value else "", odd[0])
        if odd[0].entry_id in distrusted and last.entry_id not in distrusted and odd[0].value <= last.value:
            return Credible(last, last)
        worse = max((last, *odd), key=lambda r: r.value)
        return Credible(worse, last, "contradiction", odd[0])
    earlier = next((r for r in before if last.at - r.at <= FALLS_WITHIN), None)
    if earlier is not None and earlier.value > last.value and apart(earlier.reading, last.reading):
        shaky = last.entry_id in distrusted or last.entry_id in unlikely
        if shaky and not _thinned(log, earlier, last, volume_l):
            return Credible(earlier, last, "low", earlier)
    if last.entry_id in unlikely and not confirmed(last, before):
        lower = earlier is None or last.value > earlier.value
        return Credible(last, last, "high" if lower and last.value > 0 else "", earlier)
    return Credible(last, last)


def confirmed(last: LastReading, before: Sequence[LastReading]) -> bool:
    """Another look at the water, by another day or another kit, came to the same."""
    return any(
        ANOTHER_LOOK <= last.at - r.at <= CONFIRMED_WITHIN and not apart(r.reading, last.reading) for r in before[:3]
    )


def _moved(log: Log, a: LastReading, b: LastReading) -> bool:
    """Something between two readings changed the water."""
    return any(a.order <= e.order <= b.order for e in log.kinds(Change, Dose, Conditioner)[-30:])


def _thinned(log: Log, a: LastReading, b: LastReading, volume_l: float) -> bool:
    """Changes between two readings explain the fall."""
    left = 1.0
    for e in log.kinds(Change)[-30:]:
        if a.order <= e.order <= b.order:
            left *= 1 - min(1.0, e.body.litres / volume_l)
    top = b.reading.high if b.reading.high is not None else b.value
    return a.reading.low * left <= top
