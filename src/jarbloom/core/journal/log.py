"""The log of one tank as the core reads it: live entries in order of time, by kind, in the keeper's zone."""

from __future__ import annotations

import hashlib
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Collection, Hashable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, tzinfo
from functools import cached_property
from typing import Self, TypeVar, cast

from jarbloom.core.journal.kinds.damaged import Damaged
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.kit import Reading

K = TypeVar("K", bound=Body)
T = TypeVar("T")


@dataclass(frozen=True)
class LastReading:
    """A reading of a quantity with its moment."""

    at: datetime
    reading: Reading
    entry_id: int

    @property
    def value(self) -> float:
        return self.reading.seen

    @property
    def order(self) -> tuple[int, int]:
        return int(self.at.timestamp() // 60), self.entry_id


class Log(tuple[Entry, ...]):
    """Sorted once; what was looked up is kept. Never changed, so it can be shared and kept between requests."""

    zone: tzinfo | None = None

    @classmethod
    def of(cls, entries: Iterable[Entry], zone: tzinfo | None = None) -> Self:
        """Live entries only, brought into a zone when one is given. A log that is one already comes back as it is."""
        if isinstance(entries, cls) and (zone is None or entries.zone is zone):
            return entries
        live = (e.in_zone(zone) for e in entries if e.state == "live")
        made = cls(sorted(live, key=lambda e: e.order))
        made.zone = zone
        return made

    def with_news(self, came: Sequence[Entry], gone: Collection[int]) -> Log:
        """This log after acts: with what came (an entry that was here already is told again as it stands), without what
        is gone. What was looked up stays where the new entries are the last ones, as they mostly are."""
        told_again = {e.id for e in came}
        if not gone and came and not (self and min(e.order for e in came) <= self[-1].order):
            return self._grown(sorted(came, key=lambda e: e.order))
        kept = (e for e in self if e.id not in gone and e.id not in told_again)
        return self._with_zone(type(self)(sorted((*kept, *came), key=lambda e: e.order)))

    def _grown(self, came: Sequence[Entry]) -> Log:
        made = self._with_zone(type(self)((*self, *came)))
        kinds_come = {type(e.body) for e in came}
        telling = tuple(e for e in came if getattr(e.body, "moves_forecast", False))
        made.__dict__["telling"] = (*self.telling, *telling) if telling else self.telling
        made.__dict__["_hash"] = _hashed(telling, self._hash)
        found = dict(self._by_kind)
        for entry in came:
            found[type(entry.body)] = [*found.get(type(entry.body), ()), entry]
        made.__dict__["_by_kind"] = found
        made.__dict__["_by_kinds"] = {
            kinds: old if kinds_come.isdisjoint(kinds) else (*old, *(e for e in came if type(e.body) in kinds))
            for kinds, old in self._by_kinds.items()
        }
        made.__dict__["_kept"] = {key: old for key, old in self._kept.items() if not old[0] & kinds_come}
        made.__dict__["_each"] = self._each
        made.__dict__["_folded"] = dict(self._folded)
        read = {r.quantity for e in came for r in e.readings}
        made.__dict__["_latest"] = {q: last for q, last in self._latest.items() if q not in read}
        return made

    def _with_zone(self, made: Log) -> Log:
        made.zone = self.zone
        return made

    def kept(self, key: Hashable, rests_on: Sequence[type[Body]], make: Callable[[], T]) -> T:
        """Something worked out of this log, once: it never changes. It rests on entries of these kinds alone, and so
        still stands in a log to which others were added."""
        if key not in self._kept:
            self._kept[key] = frozenset(rests_on), make()
        return cast("T", self._kept[key][1])

    @cached_property
    def _kept(self) -> dict[Hashable, tuple[frozenset[type[Body]], object]]:
        return {}

    def each(self, key: Hashable, entries: Iterable[Entry], make: Callable[[Entry], T]) -> list[T]:
        """Something worked out of each of some entries by itself, once: it still stands in a log grown out of this one.
        An entry told again under its number is another."""
        known, found = self._each.setdefault(key, {}), []
        for entry in entries:
            of = known.get(entry.id)
            if of is None or of[0] is not entry:
                of = known[entry.id] = entry, make(entry)
            found.append(cast("T", of[1]))
        return found

    @cached_property
    def _each(self) -> dict[Hashable, dict[int, tuple[Entry, object]]]:
        return {}

    def folded(
        self, key: Hashable, kinds: Sequence[type[Body]], start: T, take: Callable[[T, Sequence[Entry]], T]
    ) -> T:
        """What comes of taking the entries of these kinds in, one after the other, into `start`: in a log grown out of
        this one only those that came are taken in."""
        entries = self.kinds(*kinds)
        n, found = cast("tuple[int, T]", self._folded.get(key, (0, start)))
        if n < len(entries):
            found = take(found, entries[n:])
            self._folded[key] = len(entries), found
        return found

    @cached_property
    def _folded(self) -> dict[Hashable, tuple[int, object]]:
        return {}

    @property
    def unheard(self) -> str:
        """What in it cannot be read, in a sentence; '' when everything was heard."""
        damaged = self.kinds(Damaged)
        if len(damaged) == 1:
            day = f"{damaged[0].at:%-d %b}"
            return f"An entry of {day} cannot be read and counts for nothing: void it in the log book, or log it anew."
        if damaged:
            return (
                f"{len(damaged)} entries cannot be read and count for nothing: void them in the log book, "
                "or log them anew."
            )
        return ""

    def kinds(self, *kinds: type[K]) -> tuple[Entry[K], ...]:
        """The entries of these kinds, in order of time."""
        found = self._by_kinds.get(kinds)
        if found is None:
            if len(kinds) == 1:
                found = tuple(self._by_kind.get(kinds[0], ()))
            else:
                wanted = set(kinds)
                found = tuple(e for e in self if type(e.body) in wanted)
            self._by_kinds[kinds] = found
        return cast("tuple[Entry[K], ...]", found)

    def kinds_since(self, first: date, *kinds: type[K]) -> tuple[Entry[K], ...]:
        """The entries of these kinds from a day on."""
        found = self.kinds(*kinds)
        return found[bisect_left(found, first, key=lambda e: e.day) :]

    @cached_property
    def _by_kinds(self) -> dict[tuple[type[Body], ...], tuple[Entry, ...]]:
        return {}

    @cached_property
    def _by_kind(self) -> dict[type[Body], list[Entry]]:
        found: dict[type[Body], list[Entry]] = {}
        for entry in self:
            found.setdefault(type(entry.body), []).append(entry)
        return found

    def counted(self) -> dict[type[Body], int]:
        """How many entries of each kind there are."""
        return {kind: len(entries) for kind, entries in self._by_kind.items()}

    def until(self, at: datetime) -> Log:
        """What had happened by a moment."""
        minute = int(at.timestamp() // 60)
        if not self or self[-1].order[0] < minute:
            return self
        first = bisect_left(self, minute, key=lambda e: e.order[0])
        last = bisect_right(self, minute, first, key=lambda e: e.order[0])
        known = [e for e in self[first:last] if e.at <= at]
        if first + len(known) == len(self):
            return self
        return self._with_zone(Log((*self[:first], *known)))

    def before(self, entry: Entry) -> Log:
        """What stands before one of its entries."""
        return self._with_zone(Log(self[: bisect_left(self, entry.order, key=lambda e: e.order)]))

    def since_minute(self, at: datetime) -> tuple[Entry, ...]:
        """From the minute of a moment on."""
        return self[bisect_left(self, int(at.timestamp() // 60), key=lambda e: e.order[0]) :]

    def since(self, first: date) -> Log:
        """From a day on."""
        if not self or self[0].day >= first:
            return self
        return self._with_zone(Log(self[bisect_left(self, first, key=lambda e: e.day) :]))

    def latest(self, quantity: str) -> LastReading | None:
        """The last reading of a quantity that is believed: a masked one says nothing, neither good nor bad."""
        if quantity not in self._latest:
            self._latest[quantity] = self._find(quantity)
        return self._latest[quantity]

    @cached_property
    def _latest(self) -> dict[str, LastReading | None]:
        return {}

    def _find(self, quantity: str) -> LastReading | None:
        for entry in reversed(self.kinds(Tested)):
            for reading in entry.readings:
                if reading.quantity == quantity and not reading.masked:
                    return LastReading(entry.at, reading, entry.id)
        return None

    @cached_property
    def telling(self) -> tuple[Entry, ...]:
        """The entries that a forecast rests on."""
        return tuple(e for e in self if getattr(e.body, "moves_forecast", False))

    @cached_property
    def digest(self) -> str:
        """Tells one log from another as far as a forecast goes."""
        return self._hash.hexdigest()

    @cached_property
    def _hash(self) -> hashlib._Hash:
        return _hashed(self.telling, hashlib.sha256())


def _hashed(entries: Iterable[Entry], onto: hashlib._Hash) -> hashlib._Hash:
    made = onto.copy()
    for e in entries:
        made.update(e.digest)
    return made


def latest(entries: Sequence[Entry], quantity: str) -> LastReading | None:
    return Log.of(entries).latest(quantity)
