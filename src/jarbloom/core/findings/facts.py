"""Everything a rule may look at, worked out once for a tank and a moment."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cached_property
from statistics import median
from typing import TypeVar

from jarbloom.core.animals.names import names_of
from jarbloom.core.animals.upkeep import Upkeep, upkeep
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.journal.book import newcomers
from jarbloom.core.journal.clean import CLEAN_DAYS, is_clean
from jarbloom.core.journal.hearing import Heard, hearing
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.measured import Measured
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.kit import QUANTITIES as BASIC
from jarbloom.core.model.kit import Reading
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.schools import Cycling
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.upset.credible import Credible
from jarbloom.core.upset.levels import Episode, Levels
from jarbloom.core.vessel.volume import net_l
from jarbloom.units import Units

K = TypeVar("K", bound=Body)
WORDS_FOR = timedelta(days=31)  # how far back words are listened to
NOT_YET_OWN_DAYS = 3
A_DAY_APART = timedelta(hours=20)
OWN_DAYS = 120  # how far back a tank's own pH and KH are looked for


@dataclass(frozen=True)
class Value:
    """A number of one quantity: from a test, or only in words (`said`). Canonical units; low and high of the kit."""

    at: datetime
    seen: float
    low: float
    high: float
    entry: Entry
    typed: str
    said: bool = False


@dataclass(frozen=True)
class Facts:
    """`credible`: the reading of ammonia and of nitrite that decides, with what speaks against the last one."""

    tank: Tank
    log: Log
    living: tuple[Animals, ...]
    reference: Reference
    units: Units
    now: datetime
    forecast: Forecast
    levels: Levels
    episode: Episode | None
    credible: Mapping[str, Credible]

    # --- who lives here ---

    @cached_property
    def kinds(self) -> tuple[Species, ...]:
        species = self.reference.species
        return tuple(dict.fromkeys(species.get(a.species, species["unknown"]) for a in self.living))

    @property
    def alive(self) -> bool:
        return bool(self.living)

    @property
    def heads(self) -> int:
        return sum(a.count for a in self.living)

    @property
    def water_c(self) -> float:
        """The water's temperature: as read within the day, else as set."""
        last = self.last("temp", 26)
        return last.seen if last is not None else self.tank.temp_c

    @cached_property
    def inverts(self) -> tuple[Species, ...]:
        return tuple(k for k in self.kinds if k.group in ("shrimp", "snail", "crab", "other", "coral", "anemone"))

    @cached_property
    def corals(self) -> tuple[Species, ...]:
        return tuple(k for k in self.kinds if k.group in ("coral", "anemone"))

    @cached_property
    def fish(self) -> tuple[Species, ...]:
        return tuple(k for k in self.kinds if k.group == "fish")

    @property
    def upkeep(self) -> Upkeep:
        """What those that live here weigh, and eat and put out today as warm as the water is."""
        return upkeep(self.living, self.reference.species, self.water_c, self.now.date())

    @property
    def upkeep_as_set(self) -> Upkeep:
        """The same at the temperature as set."""
        return upkeep(self.living, self.reference.species, self.tank.temp_c, self.now.date())

    @property
    def temp_range(self) -> tuple[float, float]:
        """What all of them live in, deg C; where there is no such window, the middle of their ends."""
        if not self.kinds:
            return 10.0, 34.0
        return max(k.temp_low for k in self.kinds), min(k.temp_high for k in self.kinds)

    @property
    def ph_range(self) -> tuple[float, float]:
        if not self.kinds:
            return 5.0, 9.0
        return max(k.ph_low for k in self.kinds), min(k.ph_high for k in self.kinds)

    # --- tank ---

    @cached_property
    def volume(self) -> float:
        return net_l(self.tank)

    @property
    def school(self) -> Cycling:
        return self.reference.schools.cycling[self.tank.school]

    @property
    def salted(self) -> bool:
        return self.tank.water_kind != "fresh"

    # --- the log ---

    def since(self, hours: float) -> datetime:
        return self.now - timedelta(hours=hours)

    def lately(self, hours: float, *kinds: type[K]) -> tuple[Entry[K], ...]:
        """Entries of these kinds within so many hours."""
        found = self.log.kinds(*kinds)
        return found[bisect_left(found, self.since(hours), key=lambda e: e.at) :]

    @cached_property
    def words(self) -> tuple[Heard, ...]:
        """What was said in the last month."""
        start = (self.now - WORDS_FOR).date()
        here = frozenset(a.species for a in self.living)
        lately = self.log.since(start)
        named = here | frozenset(getattr(e.body, "species", "") for e in lately) - {""}
        species = self.reference.species
        called = frozenset((k, *names_of(species[k])) for k in named if k in species)
        one = hearing(self.reference.words, species, named)
        return tuple(h for h in self.log.each(("heard", called), lately, one) if h is not None)

    @cached_property
    def _places(self) -> Mapping[str, Sequence[int]]:
        """Where among the words each key stands: rules ask for many keys, of which few were said."""
        found: dict[str, list[int]] = {}
        for place, heard in enumerate(self.words):
            for key in heard.keys:
                found.setdefault(key, []).append(place)
        return found

    def heard(self, hours: float) -> tuple[Heard, ...]:
        """What was said within so many hours."""
        return self.words[bisect_left(self.words, self.since(hours), key=lambda h: h.at) :]

    def said(self, *keys: str, hours: float = 24 * 31) -> tuple[Heard, ...]:
        if self._places.keys().isdisjoint(keys):
            return ()
        start = self.since(hours)
        places = sorted({place for key in keys for place in self._places.get(key, ())})
        return tuple(h for h in (self.words[place] for place in places) if h.at >= start)

    def near(self, moment: datetime, *keys: str, hours: float) -> tuple[Heard, ...]:
        """What was said within so many hours of a moment, before or after."""
        span = timedelta(hours=hours)
        return tuple(h for h in self.words if abs(h.at - moment) <= span and h.any(*keys))

    def said_numbers(self, hours: float) -> tuple[Heard, ...]:
        """Words that name readings and are not those beside a test."""
        start = self.since(hours)
        return tuple(h for h in self._numbers if h.at >= start)

    @cached_property
    def _numbers(self) -> tuple[Heard, ...]:
        return tuple(h for h in self.words if h.numbers and not isinstance(h.entry.body, Tested))

    # --- readings ---

    def values(self, quantity: str, hours: float = 24 * 31, *, words: bool = True) -> tuple[Value, ...]:
        """Readings of a quantity in order of time; those that stand only in words among them, unless left out."""
        read = self._read(quantity)
        found = read[bisect_left(read, self.since(hours), key=lambda v: v.at) :]
        if words:
            tested = {v.entry.id for v in found}
            found += [
                Value(h.at, n.value, n.value, n.value, h.entry, f"{n.value:g}", True)
                for h in self.said_numbers(hours)
                for n in h.numbers
                if n.quantity == quantity and h.entry.id not in tested
            ]  # fmt: skip
        return tuple(sorted(found, key=lambda v: v.entry.order))

    def _read(self, quantity: str) -> list[Value]:
        return self.log.kept(("values", quantity), (Tested, Measured), lambda: self._find(quantity))

    def _find(self, quantity: str) -> list[Value]:
        if quantity not in BASIC:
            return [
                Value(e.at, v, v, v, e, f"{v:g}")
                for e in self.log.kinds(Measured)[-400:]
                if (v := getattr(e.body, quantity)) is not None
            ]
        return [
            Value(e.at, r.seen, r.low, _top(r), e, r.typed)
            for e in self.log.kinds(Tested)[-400:]
            for r in e.readings
            if r.quantity == quantity and not r.masked
        ]

    def last(self, quantity: str, hours: float = 24 * 31, *, words: bool = True) -> Value | None:
        return next(iter(self.values(quantity, hours, words=words)[-1:]), None)

    def own(self, quantity: str, before: datetime) -> float | None:
        """The tank's own level of a quantity: the median of its readings of the months before a moment, the last days
        left out: what has just moved is not its own yet."""
        first, last = before - timedelta(days=OWN_DAYS), before - timedelta(days=NOT_YET_OWN_DAYS)
        seen = [v.seen for v in self._read(quantity) if first <= v.at < last]
        return median(seen) if seen else None

    @cached_property
    def changes(self) -> tuple[Entry[Change], ...]:
        return self.lately(24 * 31, Change)

    def came(self, hours: float) -> tuple[Entry, ...]:
        """Newcomers of the last hours, those that are only told of in words among them."""
        return (*self.newcomers(hours), *(h.entry for h in self.said("came", hours=hours)))

    def tested_clean(self, since: datetime, before: datetime | None = None) -> bool:
        """The last two days with tests, after a moment and before another, were clean and about a day apart."""
        by_day: dict[date, tuple[datetime, bool]] = {}  # the day's last readings decide
        for e in self.lately(24 * 14, Tested):
            clean = is_clean(e.readings, self.tank.kit) if e.at > since and (before is None or e.at < before) else None
            if clean is not None:
                by_day[e.day] = (e.at, clean)
        told = list(by_day.values())[-CLEAN_DAYS:]
        return all(clean for _, clean in told) and len(told) == CLEAN_DAYS and told[-1][0] - told[0][0] >= A_DAY_APART

    def newcomers(self, hours: float) -> tuple[Entry, ...]:
        start = self.since(hours)
        return tuple(e for e in newcomers(self.log) if e.at >= start)


def _top(reading: Reading) -> float:
    return reading.high if reading.high is not None else max(reading.seen, reading.low) * 1.5


def ids(things: Iterable[Heard | Value | Entry]) -> tuple[int, ...]:
    """The entries that something rests on."""
    found = [t.id if isinstance(t, Entry) else t.entry.id for t in things]
    return tuple(dict.fromkeys(found))
