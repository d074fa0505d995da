"""Which readings decide, once the forecast's surprises and the keeper's own doubts about a test are known."""

from __future__ import annotations

from datetime import datetime, timedelta

from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.journal.clean import WASTE
from jarbloom.core.journal.hearing import words_of
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.core.upset.credible import Credible, credible
from jarbloom.core.vessel.volume import net_l

DISTRUST = frozenset({"test_old", "test_wrong", "test_over"})
LATELY = timedelta(days=5)


def credible_readings(
    tank: Tank, log: Log, forecast: Forecast, reference: Reference, now: datetime
) -> dict[str, Credible]:
    """By quantity, for ammonia and nitrite."""
    noted = [e for e in log.kinds_since((now - LATELY).date(), Tested) if e.note]
    distrusted = frozenset(e.id for e in noted if DISTRUST & words_of(e.note, reference.words).keys)
    return {
        quantity: credible(
            log,
            quantity,
            net_l(tank),
            frozenset(s.entry_id for s in forecast.surprises if s.quantity == quantity),
            distrusted,
        )
        for quantity in WASTE
    }
