"""A small made-up tank on its twelfth day, for who has none yet: looked at, never kept."""

from __future__ import annotations

from datetime import datetime, timedelta

from jarbloom.core.advice.jobs import jobs
from jarbloom.core.advice.situation import TankSeen, situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.bloom.ensemble import Forecasting
from jarbloom.core.bloom.forecast import forecast
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import Kit
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Filter, Tank
from jarbloom.core.vessel.volume import net_l
from jarbloom.deeds.desk import Desk
from jarbloom.kept import Kept

DAY = 12
LINES = (
    (0, "bac 50 ml"), (0, "dose 2 mg/l"), (2, "am 2 ni 0"), (4, "am 1 ni 0.5"), (6, "am 0.25 ni 2"), (6, "dose 1 mg/l"),
    (8, "am 0 ni 2"), (9, "dose 1 mg/l"), (10, "am 0 ni 1 na 10"), (11, "am 0 ni 0.25"),
)  # fmt: skip
MEMBERS = Forecasting(members=200)


_kept: Kept[TankSeen] = Kept(2)


def example(desk: Desk) -> TankSeen:
    """Costs a small forecast of its own, once a day."""
    return _kept.once((desk.now.date(), desk.preferences.units, desk.preferences.zone), lambda: _made(desk))


def _made(desk: Desk) -> TankSeen:
    began = desk.now - timedelta(days=DAY)
    tank = Tank("Desk 28, made up", began.date(), 45.0, 28.0, 30.0, substrate_cm=3.0, planted=True,
                filters=(Filter("filter", "sponge", 200.0, 0.6, "foam", 0.8),), target_mg_n_l=1.0)  # fmt: skip
    setting = Setting(net_l(tank), Kit(), desk.preferences.units, desk.reference.species)
    log = Log.of(
        [e for n, (day, line) in enumerate(LINES) for e in _entries(n, began + timedelta(days=day), line, setting)]
    )
    batch = Batch(1, "Batch one", (desk.now + timedelta(days=8)).date(), (Animals("ember_tetra", 10),))
    made = forecast(tank, log, desk.now, desk.reference, (batch,), MEMBERS)
    s = situation(tank, log, (batch,), made, desk.reference, desk.preferences.units, desk.now)
    return TankSeen(s, verdict(s), jobs(s))


def _entries(n: int, at: datetime, line: str, setting: Setting) -> list[Entry]:
    zone = str(at.tzinfo)
    return [Entry(body, at, zone=zone, id=10 * n + k + 1) for k, body in enumerate(parse(line, at, setting).bodies)]
