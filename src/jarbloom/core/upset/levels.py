"""What the latest readings mean for animals: free ammonia and nitrite with their intervals and bands."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from itertools import zip_longest

from jarbloom.core.journal.book import stock
from jarbloom.core.journal.clean import CLEAN_DAYS, WASTE, is_clean
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import LastReading, Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import Reading
from jarbloom.core.model.tank import Tank
from jarbloom.core.upset.credible import AT_ONCE, readings_of
from jarbloom.core.upset.mixing import MixedWater, after_change_of, co2_mg_l
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import (
    NH3_BANDS,
    NITRITE_BANDS,
    Band,
    Limits,
    band,
    unionised_fraction,
    unionised_range,
)
from jarbloom.core.water.carbonate import constants
from jarbloom.core.water.dilution import after_change

USUAL = Limits()
NOTHING_GONE = timedelta(hours=12)  # so long no bloom is credited with any of a dose (judgement)
FRESH = timedelta(days=7)  # how long a pH or temperature reading stands for the tank


@dataclass(frozen=True)
class Spread:
    """A concentration in mg N/L: low and high of what the kit step allows, and the value seen."""

    low: float
    seen: float
    high: float


def spread(reading: Reading) -> Spread:
    """An open top is taken half as far again: the true value may be higher still."""
    high = reading.high if reading.high is not None else max(reading.seen, reading.low) * 1.5
    return Spread(reading.low, reading.seen, high)


@dataclass(frozen=True)
class Thinned:
    """What a reading of the hours before has come to by the changes between it and the next one: the water held no more
    then, but for what came in within these `days`."""

    spread: Spread
    days: float


@dataclass(frozen=True)
class Levels:
    """Latest ammonia and nitrite (None when never read), and what they come to."""

    tan: Spread | None
    no2: Spread | None
    nh3: Spread | None
    ph: float
    ph_measured: bool
    temp_c: float
    at: datetime | None
    limits: Limits
    salinity_g_kg: float = 0.0
    changed_at: datetime | None = None  # a water change came after the reading: the values are expected, not read
    kh_dkh: float = 0.0
    kh_measured: bool = False
    ph_age_days: float | None = None  # of the last reading, where it is too old to stand for itself
    lately: tuple[tuple[datetime, float], ...] = ()  # shares of the water that were changed in the last day
    no2_acts_at: float = 0.25  # sea water acts at ten times the limit, whatever the school on its gate
    tan_thinned: Thinned | None = None  # by the reading before the change that the last one followed
    no2_thinned: Thinned | None = None
    answered: bool = False  # water was changed lately over such a reading: this is not the first look at it
    dosed_at: datetime | None = None  # ammonia was given over animals after the reading, and stands in `tan`

    @property
    def nh3_band(self) -> Band | None:
        """By the bands of the limits that hold here: half for sensitive animals."""
        return band(self.nh3.seen * USUAL.nh3 / self.limits.nh3, NH3_BANDS) if self.nh3 else None

    @property
    def no2_band(self) -> Band | None:
        return band(self.no2.seen * USUAL.no2 / self.limits.no2, NITRITE_BANDS) if self.no2 else None

    @property
    def worst(self) -> str:
        """Which of the two is further over its limit: 'ammonia' or 'nitrite'."""
        nh3 = self.nh3.seen / self.limits.nh3 if self.nh3 else 0.0
        no2 = self.no2.seen / self.limits.no2 if self.no2 else 0.0
        return "nitrite" if no2 > nh3 else "ammonia"

    @property
    def nh3_over(self) -> bool:
        return bool(self.nh3 and self.nh3.seen >= self.limits.nh3)

    @property
    def no2_over(self) -> bool:
        return bool(self.no2 and self.no2.seen >= self.no2_acts_at)

    @property
    def over(self) -> bool:
        """Above the limit that animals here can be left in, by what was seen."""
        return self.nh3_over or self.no2_over


def _since(
    seen: LastReading | None, log: Log, tank: Tank, ammonia: bool, doses: Sequence[Entry[Dose]] = ()
) -> Spread | None:
    """What a reading has come to by the water changes after it, each with the ammonia that its own water brought, and
    by `doses`."""
    if seen is None:
        return None
    events: list[Entry[Change] | Entry[Dose]] = [*_changes_since(log, seen), *doses]
    events.sort(key=lambda e: e.order)
    return _by_events(spread(seen.reading), events, tank, ammonia)


def doses_over_animals(log: Log, since: datetime) -> tuple[Entry[Dose], ...]:
    """Ammonia given from a moment on while somebody lived there."""
    return tuple(e for e in log.kinds(Dose) if e.at >= since and stock(log.until(e.at)))


def _by_events(found: Spread, events: Sequence[Entry[Change] | Entry[Dose]], tank: Tank, ammonia: bool) -> Spread:
    volume = net_l(tank)
    for entry in events:
        if isinstance(entry.body, Dose):
            given = entry.body.mg_n / volume
            found = Spread(found.low + given, found.seen + given, found.high + given)
            continue
        told = entry.body.source_ammonia
        source = (tank.refill.brings_mg_n_l if told is None else told) if ammonia else 0.0
        f = min(1.0, entry.body.litres / volume)
        found = Spread(*(after_change(x, f, source) for x in (found.low, found.seen, found.high)))
    return found


def _thinned(seen: LastReading | None, log: Log, tank: Tank, quantity: str) -> Thinned | None:
    """The reading before this one, where changes of the last hours lie between the two."""
    if seen is None:
        return None
    before = next((r for r in readings_of(log, quantity) if r.order < seen.order), None)
    if before is None or seen.at - before.at > AT_ONCE:
        return None
    between = [e for e in _changes_since(log, before) if e.order < seen.order]
    if not between:
        return None
    found = _by_events(spread(before.reading), between, tank, quantity == "ammonia")
    return Thinned(found, (seen.at - before.at).total_seconds() / 86400)


def _ph_since(ph: LastReading, log: Log, tank: Tank, kh_dkh: float, temp_c: float, salinity: float) -> float:
    """The pH reading, or what the changes after it have raised it to: new water may free the ammonia that is left."""
    changes = _changes_since(log, ph)
    if not changes:
        return ph.value
    salt, co2, volume = constants(temp_c, salinity), co2_mg_l(ph.value, kh_dkh), net_l(tank)
    water = MixedWater(0.0, 0.0, ph.value, kh_dkh, ph.value)
    for entry in changes:
        water = after_change_of(water, min(1.0, entry.body.litres / volume), tank, salt, co2)
    return max(ph.value, water.worst_ph)


def _changes_since(log: Log, seen: LastReading) -> tuple[Entry[Change], ...]:
    """Changes after a reading. Of the same minute, the one that was written down later comes after."""
    changes = log.kinds(Change)
    return changes[bisect_right(changes, seen.order, key=lambda e: e.order) :]


SEA_ACTS_AT = 10 * USUAL.no2  # mg N/L; chloride keeps nitrite out of the gills (docs/schools.md, the others)


def acts_at_no2(tank: Tank, limits: Limits) -> float:
    """Nitrite at which something is done: the limit, in sea water ten times that of fresh water at the least."""
    return max(limits.no2, SEA_ACTS_AT) if tank.marine else limits.no2


def levels(
    tank: Tank,
    entries: Sequence[Entry],
    as_of: datetime,
    limits: Limits,
    chosen: Mapping[str, LastReading | None] | None = None,
) -> Levels:
    """The state of the water by the latest readings, thinned by the water changes since. `chosen`: the reading of
    ammonia and of nitrite that decides, where it is not the last one (core/upset/credible.py).

    pH and temperature by reading when fresh, else as set; of an old pH and the setting the higher, of a fresh pH and
    what the changes after it come to the higher. KH by its last
    reading, whatever its age, else as set.
    """
    log = Log.of(entries)
    ph, temp, salt, kh = (log.latest(q) for q in ("ph", "temp", "salinity", "kh"))
    fresh_ph = bool(ph and as_of - ph.at <= FRESH)
    ph_value = tank.ph if ph is None else (ph.value if fresh_ph else max(ph.value, tank.ph))
    temp_c = temp.value if temp and as_of - temp.at <= FRESH else tank.temp_c
    salinity = salt.value if salt else tank.salinity_g_kg
    am, ni = (log.latest(q) if chosen is None else chosen.get(q) for q in ("ammonia", "nitrite"))
    doses = [e for e in doses_over_animals(log, as_of - NOTHING_GONE) if am is not None and e.order > am.order]
    tan, no2 = _since(am, log, tank, True, doses), _since(ni, log, tank, False)
    last = max((s for s in (am, ni) if s), key=lambda s: s.order, default=None)
    changes = _changes_since(log, last) if last else ()
    kh_dkh = tank.kh_dkh if kh is None else kh.value
    if ph is not None and fresh_ph:
        ph_value = _ph_since(ph, log, tank, kh_dkh, temp_c, salinity)
    return Levels(
        tan,
        no2,
        _free(tan, ph_value, temp_c, salinity) if tan else None,
        ph_value,
        fresh_ph,
        temp_c,
        last.at if last else None,
        limits,
        salinity,
        changes[-1].at if changes else None,
        kh_dkh,
        kh is not None,
        (as_of - ph.at).total_seconds() / 86400 if ph and not fresh_ph else None,
        _lately(log, tank, as_of),
        acts_at_no2(tank, limits),
        _thinned(am, log, tank, "ammonia"),
        _thinned(ni, log, tank, "nitrite"),
        _answered(log, as_of),
        doses[-1].at if doses else None,
    )


def _lately(log: Log, tank: Tank, as_of: datetime) -> tuple[tuple[datetime, float], ...]:
    volume = net_l(tank)
    return tuple((e.at, e.body.litres / volume) for e in log.kinds(Change)[-20:] if as_of - e.at < timedelta(days=1))


def _answered(log: Log, as_of: datetime) -> bool:
    """Whether the last change came within days and over a reading of ammonia or nitrite: a usual one is no answer."""
    changed = log.kinds(Change)[-1:]
    if not changed or as_of - changed[0].at >= ANSWERED:
        return False
    before = [e for e in log.kinds(Tested)[-40:] if timedelta(0) <= changed[0].at - e.at <= OVER_READING]
    return any(r.low > 0 for e in before for r in e.readings if r.quantity in ("ammonia", "nitrite"))


def rose_within(log: Log, reading: LastReading | None) -> float:
    """Days from the last lower reading of ammonia to this one; RISES_IN_DAYS where there is none."""
    if reading is None:
        return RISES_IN_DAYS
    lower = [
        e.at
        for e in log.kinds(Tested)[-60:]
        if e.at < reading.at and any(r.quantity == "ammonia" and r.seen < reading.reading.low for r in e.readings)
    ]
    return (reading.at - lower[-1]).total_seconds() / 86400 if lower else RISES_IN_DAYS


ANSWERED, OVER_READING = timedelta(days=3), timedelta(days=1)  # since the change; from the reading to it
RISES_IN_DAYS = 3.0  # a hidden source has come to what was read within so many, where nothing tells (judgement)


def _free(tan: Spread, ph: float, temp_c: float, salinity: float) -> Spread:
    """Free ammonia: the kit's step, and in salt water how much meters differ."""
    least, most = unionised_range(ph, temp_c, salinity)
    return Spread(tan.low * least, tan.seen * float(unionised_fraction(ph, temp_c, salinity)), tan.high * most)


@dataclass(frozen=True)
class Episode:
    """An upset: from the first reading over the limits, until two clean days have followed."""

    since: datetime
    clean_days: int
    over_on: date | None = None  # the day that ended it

    @property
    def open(self) -> bool:
        return self.clean_days < CLEAN_DAYS


def _may_be_over(test: Tested, limits: Limits) -> bool:
    """Whether it is worth reckoning: no more of the ammonia than all of it is un-ionised."""
    least = {"ammonia": limits.nh3, "nitrite": limits.no2}
    return any(r.seen >= least.get(r.quantity, math.inf) for r in test.readings)


def _borne_out(tank: Tank, log: Log, over: Entry, following: Entry) -> bool:
    """False where one step above the kit's lowest was read once, and the next test, soon after and with nothing done to
    the water, found both clean: that was a misread, no upset."""
    near = all(r.outer_low <= 0 for r in over.readings if r.quantity in WASTE)
    soon = following.at - over.at <= REPEATED_WITHIN
    return not (near and soon and not _treated(log, over, following) and is_clean(following.readings, tank.kit))


REPEATED_WITHIN = timedelta(hours=36)


def _treated(log: Log, before: Entry, after: Entry) -> bool:
    """Something was done to the water between two tests."""
    return any(before.order < e.order < after.order for e in log.kinds(Change, Conditioner)[-60:])


def refuted(tank: Tank, log: Log, limits: Limits) -> bool:
    """The last test is under the limits, the one some hours before it was over, and nothing was done to the water
    between them: which of the two misread is not known."""
    tests = log.kinds(Tested)[-2:]
    if len(tests) < 2 or tests[1].at - tests[0].at > AT_ONCE:
        return False
    if _treated(log, *tests):
        return False
    over = [_may_be_over(e.body, limits) and levels(tank, Log((e,)), e.at, limits).over for e in tests]
    return over == [True, False]


def episode(tank: Tank, entries: Sequence[Entry], limits: Limits) -> Episode | None:
    """The last upset since animals came in, or None. A day counts as clean when its last readings of both are."""
    log = Log.of(entries)
    key = ("episode", limits, tank.kit, tank.ph, tank.temp_c, tank.salinity_g_kg, tank.marine)
    return log.kept(key, (Arrival, Tested, Change, Conditioner), lambda: _episode(tank, log, limits))


def _episode(tank: Tank, log: Log, limits: Limits) -> Episode | None:
    arrivals = log.kinds(Arrival)
    if not arrivals:
        return None
    since: Entry | None = None
    clean: list[date] = []
    tests = [e for e in log.kinds(Tested) if e.at >= arrivals[0].at]
    for entry, following in zip_longest(tests, tests[1:]):
        if _may_be_over(entry.body, limits) and levels(tank, Log((entry,)), entry.at, limits).over:
            if following is not None and not _borne_out(tank, log, entry, following):
                continue
            if since is None or len(clean) >= CLEAN_DAYS:
                since = entry
            clean = []
            continue
        if since is None:
            continue
        verdict = is_clean(entry.readings, tank.kit)
        if verdict is False and clean and clean[-1] == entry.day:
            clean.pop()  # the day's last readings of both decide
        elif verdict and (not clean or entry.day > clean[-1]) and entry.day > since.day:
            clean.append(entry.day)
    if since is None:
        return None
    return Episode(since.at, min(len(clean), CLEAN_DAYS), clean[CLEAN_DAYS - 1] if len(clean) >= CLEAN_DAYS else None)
