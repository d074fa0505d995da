"""The record of a tank as it was asked for: which stretch, which quantities, and what is laid over it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np

from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, SURE
from jarbloom.core.bloom.plans import noon
from jarbloom.core.history.record import NO_CAPACITY, Reads, Record, Source, reads_of, record, with_news
from jarbloom.core.history.series import Array, Series
from jarbloom.core.history.window import SPANS, YEAR, Window, day_begins
from jarbloom.core.journal.kinds.photo import Photo
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.look import kept_run
from jarbloom.errors import NotFound
from jarbloom.kept import Kept
from jarbloom.store import batches, probes, tanks
from jarbloom.units import Units

SHORT_DAYS = 300  # a record up to so long is shown whole at first, a longer one its last nine months


@dataclass(frozen=True)
class Asked:
    """As typed. `over`: '' as it suits, 'none', 'year', 'dates' with `over_from`, or the slug of another tank."""

    span: str = ""
    first: str = ""
    last: str = ""
    over: str = ""
    over_from: str = ""
    chosen: tuple[str, ...] = ()


@dataclass(frozen=True)
class Looked:
    """The record, what was wrong with the question by field, and how the stretch laid over was chosen."""

    record: Record
    problems: dict[str, str]
    over: str
    others: tuple[tuple[str, str], ...]  # tanks that can be laid over it: slug, name
    photos: tuple[Entry[Photo], ...]  # of the stretch, evenly spread


def look(desk: Desk, slug: str, asked: Asked) -> Looked:
    """Nothing is written and no forecast is made: the capacity is drawn where one is kept."""
    tank = tanks.tank(desk.conn, slug)
    log = desk.log(tank.id)
    problems: dict[str, str] = {}
    window = _window(desk, tank, log, asked, problems)
    over, chosen = _over(desk, tank, log, window, asked, problems)
    shown = Source(tank, log, window)
    reads = reads_of(shown, desk.reference, desk.now, _capacity(desk, tank, log))
    found = _record(desk, _Of(shown, reads, over, asked.chosen, desk.reference, desk.preferences.units,
                              desk.now.date(), str(desk.now.tzinfo), _probe(desk, tank, window)))  # fmt: skip
    others = tuple((s, n) for _, s, n in tanks.names(desk.conn) if s != slug)
    return Looked(found, problems, chosen, others, _spread(log.since(window.first).until(found.end).kinds(Photo)))


@dataclass(frozen=True, eq=False)
class _Of:
    """All that a record follows from. A page asks for its picture, for the other width and for its table: they are of
    one record."""

    shown: Source
    reads: Reads
    over: Source | None
    chosen: tuple[str, ...]
    reference: Reference
    units: Units
    day: date
    zone: str
    probe: dict[str, Series]

    def asks_as(self, other: _Of) -> bool:
        """The same stretch of the same tank, in the same way: what differs is what the log went on by."""
        a, b = ((o.chosen, o.units, o.day, o.zone, o.shown.tank, o.shown.window) for o in (self, other))
        same = a == b and self.reference is other.reference and not (self.probe or other.probe)
        return same and self._over_is_as(other)

    def _over_is_as(self, other: _Of) -> bool:
        """What is laid over it: of the same tank it is told by the same readings, of another by the very same log."""
        a, b = self.over, other.over
        if a is None or b is None:
            return a is b
        own = a.tank.id == self.shown.tank.id
        return (own or a.log is b.log) and (a.tank, a.window, a.shift_days) == (b.tank, b.window, b.shift_days)


_kept: Kept[tuple[_Of, Record]] = Kept(12)


def _record(desk: Desk, of: _Of) -> Record:
    key = desk.conn.name, of.shown.tank.slug
    before = _kept.get(key)
    earlier = before[1] if before is not None and before[0].asks_as(of) else None
    if before is not None and earlier is not None and of.reads.are_as(earlier.reads):
        if before[0].shown.log is of.shown.log:
            return earlier
        found = with_news(earlier, of.shown)
    else:
        found = record(of.shown, of.reference, of.units, desk.now, chosen=of.chosen, over=of.over, probe=of.probe,
                       reads=of.reads, earlier=earlier)  # fmt: skip
    _kept.put(key, (of, found))
    return found


MOST_PHOTOS = 8


def _spread(photos: tuple[Entry[Photo], ...]) -> tuple[Entry[Photo], ...]:
    """The first and the last, and as many between as there is room for."""
    n = len(photos)
    if n <= MOST_PHOTOS:
        return photos
    return tuple(photos[round(k * (n - 1) / (MOST_PHOTOS - 1))] for k in range(MOST_PHOTOS))


def _day(text: str, field: str, problems: dict[str, str]) -> date | None:
    try:
        return date.fromisoformat(text.strip()) if text.strip() else None
    except ValueError:
        problems[field] = f"“{text[:40]}” is no date; write 2026-11-24."
        return None


def _whole(tank: Tank, log: Log, today: date) -> Window:
    begin = min([tank.started, today, *(e.day for e in log[:1])])
    return Window(begin, today, begin, today)


def _window(desk: Desk, tank: Tank, log: Log, asked: Asked, problems: dict[str, str]) -> Window:
    whole = _whole(tank, log, desk.now.date())
    first, last = _day(asked.first, "from", problems), _day(asked.last, "to", problems)
    if first or last:
        return whole.of(first or whole.begin, last or whole.today)
    if asked.span in SPANS:
        return whole.latest(SPANS[asked.span])
    return whole if asked.span == "all" or whole.days <= SHORT_DAYS else whole.latest(SPANS["nine"])


def _over(
    desk: Desk, tank: Tank, log: Log, window: Window, asked: Asked, problems: dict[str, str]
) -> tuple[Source | None, str]:
    """What is laid over it, and by which choice."""
    if asked.over == "none":
        return None, "none"
    if asked.over == "dates":
        first = _day(asked.over_from, "over_from", problems)
        if first is None:
            problems.setdefault("over_from", "Give the day from which the other stretch begins.")
            return None, "dates"
        return _shifted(Source(tank, log, window), (window.first - first).days), "dates"
    if asked.over not in ("", "year"):
        try:
            other = tanks.tank(desk.conn, asked.over)
        except NotFound:
            problems["over"] = "That tank is not here any more."
            return None, "none"
        return _shifted(Source(other, desk.log(other.id), window), (tank.started - other.started).days), asked.over
    there = window.last - timedelta(days=YEAR) >= window.begin and window.days <= 2 * YEAR
    if not there:
        return None, "year" if asked.over else "none"
    return _shifted(Source(tank, log, window), YEAR), "year"


def _shifted(source: Source, days: int) -> Source:
    by = timedelta(days=days)
    theirs = replace(source.window, first=source.window.first - by, last=source.window.last - by)
    return replace(source, window=theirs, shift_days=days)


def _probe(desk: Desk, tank: Tank, window: Window) -> dict[str, Series]:
    """Hourly traces of a probe, the spread within each hour as its edges."""
    found = {}
    for quantity, hours in probes.traces(
        desk.conn, tank.id, day_begins(window.first, desk.now), desk.preferences.tz
    ).items():
        table = np.array([(h.at.timestamp(), h.mean, h.low, h.high) for h in hours], float).reshape(-1, 4)
        found[quantity] = Series(*table.T)
    return found


def _capacity(desk: Desk, tank: Tank, log: Log) -> Array:
    """What the kept forecast says of the past days, nothing where none is kept."""
    if not tank.filled:
        return NO_CAPACITY
    run = kept_run(desk, tank, log, batches.batches(desk.conn, tank.id, log))
    if run is None:
        return NO_CAPACITY
    f = run.forecast
    days = list(range(f.today + 1))
    at = [noon(f.days[k], desk.now).timestamp() for k in days]
    return np.column_stack([at, *(f.course("capacity", level, days) for level in (SURE, LIKELY, AT_BEST))])
