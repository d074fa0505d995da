"""The stock book: groups of animals as they came, what became of them, losses, and heads not seen."""

from __future__ import annotations

from bisect import bisect_right
from collections import deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import cast

from jarbloom.core.animals.growth import length_on
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bed import BedStirred
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.count import HeadCount
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.given import Given
from jarbloom.core.journal.kinds.length import LengthMeasured
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.moved import Moved
from jarbloom.core.journal.kinds.off import Off
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.species import Animals, Species
from jarbloom.special import betaincinv

EARLY = timedelta(days=30)  # a death so soon after arrival says something of source, way home or start
LOSS_COVER = 0.80


@dataclass(frozen=True)
class Group:
    """Animals of one kind that came together. `id`: the entry of their arrival or birth as first logged; `entry_id`:
    as it stands corrected."""

    id: int
    entry_id: int
    species: str
    since: date
    came: int
    now: int
    length_cm: float | None = None
    born: bool = False
    seller: str = ""
    price: float | None = None
    tank_bred: str = ""
    until: date | None = None  # kept here 'for now', to this day
    batch: int | None = None
    dead: int = 0
    dead_early: int = 0
    given: int = 0
    moved: int = 0
    measured: tuple[tuple[date, float], ...] = ()  # day, cm

    @property
    def animals(self) -> Animals:
        return Animals(self.species, self.now, self.length_cm, self.since, self.measured)

    def length_on(self, kind: Species, on: date) -> float:
        return length_on(self.animals, kind, on)


JOINED = (Arrival, Birth)  # who lives in a tank follows from these
LEFT = (Death, Given, Moved)
STOCK = (*JOINED, *LEFT, LengthMeasured)  # what who lives there, and how large, follows from


def newcomers(entries: Iterable[Entry]) -> tuple[Entry[Arrival], ...]:
    """Arrivals since the log began, in order; those who lived here before it are none."""
    log = Log.of(entries)
    return log.kept("newcomers", (Arrival,), lambda: tuple(e for e in log.kinds(Arrival) if not e.body.already_in))


def groups(entries: Iterable[Entry], on: date | None = None) -> tuple[Group, ...]:
    """Every group that came by a date, in order of coming, with those who left taken off: from the group that the entry
    names, else from the oldest of the species."""
    log = Log.of(entries)
    moved, upto = log.kinds(*STOCK), _upto(log, on)
    return log.kept(("groups", upto), STOCK, lambda: _filled_in(moved[:upto]))


def _upto(log: Log, on: date | None) -> int:
    """How many of the entries that the stock follows from lie up to a date."""
    moved = log.kinds(*STOCK)
    return len(moved) if on is None else bisect_right(moved, on, key=lambda e: e.day)


def _filled_in(moved: Sequence[Entry]) -> tuple[Group, ...]:
    book = _Book()
    for entry in moved:
        book.take(entry)
    return book.groups


def stock(entries: Iterable[Entry], on: date | None = None) -> tuple[Animals, ...]:
    """Who lives in the tank: those who came less those who left, group by group."""
    log = Log.of(entries)
    return log.kept(("stock", _upto(log, on)), STOCK, lambda: tuple(g.animals for g in groups(log, on) if g.now))


def stocks(entries: Iterable[Entry], days: Iterable[date]) -> Iterator[tuple[Animals, ...]]:
    """The same on each of many days, which rise: the book is filled in once."""
    moved, book, taken = Log.of(entries).kinds(*STOCK), _Book(), 0
    for day in days:
        while taken < len(moved) and moved[taken].day <= day:
            book.take(moved[taken])
            taken += 1
        yield tuple(g.animals for g in book.groups if g.now)


class _Book:
    """The stock book as it is filled in, entry by entry in order of time; the work is linear in the entries."""

    def __init__(self) -> None:
        self._groups: list[Group] = []
        self._open: dict[str, deque[int]] = {}  # by species, the oldest first
        self._places: dict[int, int] = {}  # of a group's id
        self.there: dict[str, int] = {}  # heads by species

    @property
    def groups(self) -> tuple[Group, ...]:
        return tuple(self._groups)

    def take(self, entry: Entry) -> None:
        if isinstance(entry.body, Arrival | Birth):
            self._join(_group(entry.body, entry))
        elif isinstance(entry.body, Death | Given | Moved):
            self._leave(entry.body, entry)
        elif isinstance(entry.body, LengthMeasured):
            self._measure(entry.body, entry)

    def eldest(self, species: str, named: int | None = None) -> Group | None:
        """The group that somebody leaves from: the one that is named, else the oldest of the species."""
        place = self._place(species, named)
        return None if place is None else self._groups[place]

    def _join(self, group: Group) -> None:
        self._places[group.id] = len(self._groups)
        self._open.setdefault(group.species, deque()).append(len(self._groups))
        self._groups.append(group)
        self.there[group.species] = self.there.get(group.species, 0) + group.came

    def _place(self, species: str, named: int | None) -> int | None:
        at = self._places.get(named) if named is not None else None
        if at is not None and self._groups[at].species == species and self._groups[at].now:
            return at
        waiting = self._open.get(species, deque())
        while waiting and not self._groups[waiting[0]].now:
            waiting.popleft()
        return waiting[0] if waiting else None

    def _leave(self, body: Death | Given | Moved, entry: Entry) -> None:
        left = body.count
        while left and (place := self._place(body.species, body.group)) is not None:
            group = self._groups[place]
            gone = min(group.now, left)
            early = gone if isinstance(body, Death) and entry.day - group.since <= EARLY else 0
            fate = _FATE[type(body)]
            self._groups[place] = replace(
                group, now=group.now - gone, dead_early=group.dead_early + early,
                **{fate: getattr(group, fate) + gone},
            )  # fmt: skip
            self.there[body.species] -= gone
            left -= gone

    def _measure(self, body: LengthMeasured, entry: Entry) -> None:
        place = self._place(body.species, body.group)
        if place is not None and entry.day > self._groups[place].since:
            group = self._groups[place]
            before = tuple(m for m in group.measured if m[0] < entry.day)
            self._groups[place] = replace(group, measured=(*before, (entry.day, body.length_cm)))


_FATE: Mapping[type, str] = {Death: "dead", Given: "given", Moved: "moved"}


def _group(body: Arrival | Birth, entry: Entry) -> Group:
    first = body.first if body.first is not None else entry.id
    since, species, count = entry.day, body.species, body.count
    if isinstance(body, Birth):
        return Group(first, entry.id, species, since, count, count, body.length_cm, born=True)
    return Group(
        first, entry.id, species, since, count, count, body.length_cm, False, body.seller, body.price, body.tank_bred,
        body.until, body.batch,
    )  # fmt: skip


@dataclass(frozen=True)
class Losses:
    """Of so many that came, how many were found dead; `early` within thirty days. The range is where the rate of
    early losses lies with 80 % probability (Beta posterior, Jeffreys' prior 1/2, 1/2)."""

    name: str
    came: int
    dead: int
    early: int

    @property
    def early_range(self) -> tuple[float, float]:
        """Of the early rate.

        >>> low, high = Losses('x', 10, 1, 1).early_range
        >>> round(low, 3), round(high, 3)
        (0.041, 0.262)
        """
        tail = (1 - LOSS_COVER) / 2
        a, b = self.early + 0.5, self.came - self.early + 0.5
        return betaincinv(a, b, tail), betaincinv(a, b, 1 - tail)


def losses_by(found: Sequence[Group], key: str) -> tuple[Losses, ...]:
    """By species or by seller, those with most early losses first. Births are nobody's."""
    sums: dict[str, list[int]] = {}
    for g in found:
        name = getattr(g, key)
        if g.born or not name:
            continue
        row = sums.setdefault(name, [0, 0, 0])
        row[0], row[1], row[2] = row[0] + g.came, row[1] + g.dead, row[2] + g.dead_early
    rows = [Losses(name, *row) for name, row in sums.items()]
    return tuple(sorted(rows, key=lambda r: (-r.early / r.came, -r.dead, r.name)))


@dataclass(frozen=True)
class Missing:
    """Heads that the last count did not find. `since`: when all were last seen."""

    species: str
    count: int
    counted_on: date
    since: date


def missing(entries: Sequence[Entry], on: date) -> tuple[Missing, ...]:
    """By species: what the latest count fell short of those who should have been there, less those gone since."""
    log = Log.of(entries)
    return log.kept(("missing", on), (*JOINED, *LEFT, HeadCount), lambda: _missing(log, on))


def _missing(log: Log, on: date) -> tuple[Missing, ...]:
    book = _Book()
    short: dict[str, int] = {}
    gone: dict[str, int] = {}
    counted: dict[str, date] = {}
    came: dict[str, date] = {}
    seen: dict[str, date] = {}
    for entry in log.kinds(*JOINED, *LEFT, HeadCount):
        if entry.day > on:
            continue
        book.take(entry)
        body = entry.body
        if isinstance(body, Arrival | Birth):
            came[body.species] = entry.day
        elif isinstance(body, Death) and body.species in gone:
            gone[body.species] += body.count
        elif isinstance(body, HeadCount):
            there = book.there.get(body.species, 0)
            short[body.species], counted[body.species], gone[body.species] = there - body.count, entry.day, 0
            full = body.count >= there or body.species not in came
            seen[body.species] = entry.day if full else max(came[body.species], seen.get(body.species, date.min))
    return tuple(
        Missing(species, short[species] - gone[species], counted[species], seen[species])
        for species in sorted(short) if short[species] - gone[species] > 0
    )  # fmt: skip


@dataclass(frozen=True)
class Demise:
    """One entry of the dead with its circumstances: days in the tank, readings before, what had changed before."""

    entry: Entry[Death]
    days_here: int | None
    readings: tuple[str, ...]
    before: tuple[Entry, ...]


CIRCUMSTANCE = timedelta(days=5)
LATELY = 4  # of what had changed before, so many are told
TOLD = ("ammonia", "nitrite", "temp", "ph")
TELLING = (
    Arrival, Birth, MediaCleaned, BedStirred, PowerCut, Change, Conditioner, Dose, Off, Moved,
)  # fmt: skip


def deaths(entries: Sequence[Entry]) -> tuple[Demise, ...]:
    """Newest first."""
    log = Log.of(entries)
    return log.kept("deaths", _TOLD_OF_DEATHS, lambda: _deaths(log))


_TOLD_OF_DEATHS = (*JOINED, *LEFT, *TELLING, Tested)


def _deaths(log: Log) -> tuple[Demise, ...]:
    book = _Book()
    found: list[Demise] = []
    last: dict[str, tuple[Entry, str]] = {}
    recent: deque[Entry] = deque(maxlen=LATELY)
    for entry in log.kinds(*_TOLD_OF_DEATHS):
        body = entry.body
        if isinstance(body, Death):
            from_group = book.eldest(body.species, body.group)
            days = (entry.day - from_group.since).days if from_group else None
            before = tuple(e for e in recent if entry.at - e.at <= CIRCUMSTANCE)
            readings = tuple(f"{q} {last[q][1]} on {last[q][0].at:%-d %b}" for q in TOLD if q in last)
            found.append(Demise(cast("Entry[Death]", entry), days, readings, before))
        book.take(entry)
        for r in entry.readings:
            last[r.quantity] = (entry, r.typed)
        if isinstance(body, TELLING):
            recent.append(entry)
    return tuple(reversed(found))


def kept_for_now(found: Iterable[Group]) -> tuple[Group, ...]:
    """Groups with somebody left whose day to move is set, the soonest first."""
    waiting = [g for g in found if g.until is not None and g.now]
    return tuple(sorted(waiting, key=lambda g: (g.until or date.max, g.id)))


def spent(found: Iterable[Group]) -> float:
    """What was paid for those whose price is noted; a price is for the whole group."""
    return sum(g.price or 0.0 for g in found)
