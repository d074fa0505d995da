"""What the latest readings mean for animals: free ammonia and nitrite with their intervals and bands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import Reading
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import NH3_BANDS, NITRITE_BANDS, Band, Limits, band, free_share
from jarbloom.core.water.dilution import after_change

USUAL = Limits()
FRESH = timedelta(days=7)  # how long a pH or temperature reading stands for the tank


@dataclass(frozen=True)
class LastReading:
    """A reading of a quantity with its moment."""

    at: datetime
    reading: Reading
    entry_id: int

    @property
    def value(self) -> float:
        return self.reading.seen


def latest(entries: Sequence[Entry], quantity: str) -> LastReading | None:
    """The last live reading of a quantity that is believed: a masked one says nothing, neither good nor bad."""
    for entry in sorted(entries, key=lambda e: (e.at, e.id), reverse=True):
        if entry.kind == "test" and entry.state == "live":
            for reading in entry.readings:
                if reading.quantity == quantity and not reading.masked:
                    return LastReading(entry.at, reading, entry.id)
    return None


@dataclass(frozen=True)
class Spread:
    """A concentration in mg N/L: low and high of what the kit step allows, and the value seen."""

    low: float
    seen: float
    high: float

    def scaled(self, factor: float) -> Spread:
        return Spread(self.low * factor, self.seen * factor, self.high * factor)


def spread(reading: Reading) -> Spread:
    """An open top is taken half as far again: the true value may be higher still."""
    high = reading.high if reading.high is not None else max(reading.seen, reading.low) * 1.5
    return Spread(reading.low, reading.seen, high)


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
    def over(self) -> bool:
        """Above the limit that animals here can be left in, by what was seen."""
        return bool((self.nh3 and self.nh3.seen >= self.limits.nh3) or (self.no2 and self.no2.seen >= self.limits.no2))


def _since(seen: LastReading | None, entries: Sequence[Entry], tank: Tank, source: float) -> Spread | None:
    """What a reading has come to by the water changes after it."""
    if seen is None:
        return None
    found = spread(seen.reading)
    for entry in sorted(entries, key=lambda e: (e.at, e.id)):
        if entry.kind == "change" and entry.state == "live" and entry.at >= seen.at and entry.id != seen.entry_id:
            f = min(1.0, entry.body["litres"] / net_l(tank))
            found = Spread(*(after_change(x, f, source) for x in (found.low, found.seen, found.high)))
    return found


def levels(tank: Tank, entries: Sequence[Entry], as_of: datetime, limits: Limits) -> Levels:
    """The state of the water by the latest readings, thinned by the water changes since.

    pH and temperature by reading when fresh, else as set.
    """
    ph, temp = latest(entries, "ph"), latest(entries, "temp")
    ph_value = ph.value if ph and as_of - ph.at <= FRESH else tank.ph
    temp_c = temp.value if temp and as_of - temp.at <= FRESH else tank.temp_c
    am, ni = latest(entries, "ammonia"), latest(entries, "nitrite")
    tan, no2 = _since(am, entries, tank, tank.source.brings_mg_n_l), _since(ni, entries, tank, 0.0)
    read_at = max((s.at for s in (am, ni) if s), default=None)
    changes = [e.at for e in entries if e.kind == "change" and e.state == "live" and read_at and e.at >= read_at]
    salt = latest(entries, "salinity")
    salinity = salt.value if salt else tank.salinity_g_kg
    free = float(free_share(ph_value, temp_c, salinity))
    return Levels(
        tan,
        no2,
        tan.scaled(free) if tan else None,
        ph_value,
        bool(ph and as_of - ph.at <= FRESH),
        temp_c,
        read_at,
        limits,
        salinity,
        max(changes, default=None),
    )


CLEAN_BELOW_MG_N_L = 0.25
CLEAN_DAYS = 2


@dataclass(frozen=True)
class Episode:
    """An upset: from the first reading over the limits, until two clean days have followed."""

    since: datetime
    clean_days: int

    @property
    def open(self) -> bool:
        return self.clean_days < CLEAN_DAYS


def reading_is_clean(reading: Reading) -> bool:
    """The lowest colour step, or a value below 0.25 mg N/L."""
    return reading.low == 0.0 or reading.seen < CLEAN_BELOW_MG_N_L


def is_clean(readings: Sequence[Reading]) -> bool | None:
    """True when ammonia and nitrite were both read and lay below 0.25 mg N/L; None when one is missing or masked."""
    found = {r.quantity: r for r in readings if r.quantity in ("ammonia", "nitrite") and not r.masked}
    if len(found) < 2:
        return None
    return all(reading_is_clean(r) for r in found.values())


def episode(tank: Tank, entries: Sequence[Entry], animals_since: datetime | None, limits: Limits) -> Episode | None:
    """The last upset since animals came in, or None. A day counts as clean when its last readings of both are."""
    if animals_since is None:
        return None
    since: datetime | None = None
    clean: list[date] = []
    for entry in sorted((e for e in entries if e.state == "live"), key=lambda e: (e.at, e.id)):
        if entry.kind != "test" or entry.at < animals_since:
            continue
        until_now = levels(tank, [entry], entry.at, limits)
        if until_now.over:
            if since is None or len(clean) >= CLEAN_DAYS:
                since = entry.at
            clean = []
            continue
        verdict = is_clean(entry.readings)
        if (
            since is not None
            and verdict
            and (not clean or entry.at.date() > clean[-1])
            and entry.at.date() > since.date()
        ):
            clean.append(entry.at.date())
    return Episode(since, min(len(clean), CLEAN_DAYS)) if since is not None else None
