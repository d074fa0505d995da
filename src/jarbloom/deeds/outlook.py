"""The outlook of a tank: the forecast in full, what-ifs beside it, and how good earlier forecasts have been."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import date, datetime

from jarbloom.core.advice.outlook import Asked, Outlook
from jarbloom.core.advice.situation import TankSeen
from jarbloom.core.bloom.levers import Lever, levers
from jarbloom.core.bloom.record import from_json
from jarbloom.core.bloom.track import track
from jarbloom.core.bloom.whatif import WhatIf, compare
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.log import Log
from jarbloom.deeds import look
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.ensembles import ensemble_of, inputs_hash
from jarbloom.deeds.log import setting_of
from jarbloom.kept import Kept
from jarbloom.store import runs, tanks

MOST = 3
HOUR = 18  # a what-if of a day is done in the evening


def see_outlook(desk: Desk, slug: str, typed: Sequence[tuple[str, str]] = ()) -> Outlook:
    """`typed`: (line, day) of up to three what-ifs; those that cannot be understood come back refused."""
    tank = tanks.tank(desk.conn, slug)
    entries = desk.log(tank.id)
    seen = look.see_tank(desk, tank)
    asked = tuple(_ask(desk, seen, entries, line, day) for line, day in typed[:MOST])
    wanted = [a.what_if for a in asked if a.what_if is not None]
    futures = compare(ensemble_of(desk, tank, entries), wanted, seen.situation.waiting) if wanted else ()
    earlier = [
        from_json(json.loads(kept)["forecast"])
        for kept in runs.earlier(desk.conn, tank.id, seen.situation.forecast.version)
    ]
    before = [f for f in earlier if f.as_of < seen.situation.forecast.as_of]
    return Outlook(seen, asked, futures, track(before, entries))


_kept: Kept[tuple[Lever, ...]] = Kept(6)


def see_levers(desk: Desk, slug: str) -> tuple[TankSeen, tuple[Lever, ...]]:
    """What would bring the proof of this tank's cycle forward."""
    tank = tanks.tank(desk.conn, slug)
    entries = desk.log(tank.id)
    ensemble = ensemble_of(desk, tank, entries)
    key = inputs_hash(desk, tank, entries, (), ensemble.as_of)
    return look.see_tank(desk, tank), _kept.once(key, lambda: levers(ensemble))


def _ask(desk: Desk, seen: TankSeen, entries: Log, line: str, day: str) -> Asked:
    try:
        wanted = date.fromisoformat(day) if day else desk.now.date()
    except ValueError:
        return Asked(line, day, refused=f"“{day[:20]}” is no date.")
    last = seen.situation.forecast.days[-1]
    if not desk.now.date() <= wanted <= last:
        return Asked(line, day, refused=f"A what-if lies between today and {last:%-d %b}, where the forecast ends.")
    at = datetime(wanted.year, wanted.month, wanted.day, HOUR, tzinfo=desk.now.tzinfo)
    soon = desk.now.replace(second=59)
    at = max(at, soon)
    parsed = parse(line, at, setting_of(desk, seen.tank, entries))
    asks = [c for c in parsed.chips if not c.ok]
    if asks or not parsed.bodies:
        return Asked(line, day, parsed.chips, asks[0].label if asks else "Say what would be done, as in: wc 30%")
    if parsed.at != at:
        return Asked(line, day, parsed.chips, "The day stands in its own field.")
    if any(isinstance(b, Tested) for b in parsed.bodies):
        return Asked(line, day, parsed.chips, "A reading cannot be foretold: say what would be done.")
    lines = tuple(desk.entry(body, at) for body in parsed.bodies)
    name = f"{line.strip()}, {'today' if wanted == desk.now.date() else f'{wanted:%a %-d %b}'}"
    return Asked(line, day, parsed.chips, what_if=WhatIf(name, lines))
