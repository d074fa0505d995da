"""A networked probe's trace: hourly summaries, and what is wrong with it. Nothing is concluded from it alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log, latest
from jarbloom.core.model.entry import Entry
from jarbloom.units import NBSP, figure

# What a probe can send at all; beyond it the value is refused. mg N/L for ammonia.
PROBE_RANGES: Mapping[str, tuple[float, float]] = {
    "temp": (-5.0, 60.0), "ph": (0.0, 14.0), "salinity": (0.0, 80.0), "ammonia": (0.0, 100.0),
}  # fmt: skip
STALE = timedelta(hours=2)  # of one quantity
SILENT = timedelta(minutes=10)  # of the probe as a whole, which is asked every minute
STUCK_HOURS, STUCK_N = 6, 12  # so many hours without the least change, on so many values
# How far the probe may stand from a test before it counts as drifting: the test's own half step and a little
DRIFT = {"temp": 0.8, "ph": 0.4, "salinity": 1.5, "ammonia": 0.5}
BESIDE_H = 2.0  # a test is compared with the probe's hours this near
TESTS_COMPARED, FEWEST_COMPARED = 6, 2


@dataclass(frozen=True)
class Hour:
    """All values of one quantity within one hour."""

    at: datetime
    n: int
    mean: float
    low: float
    high: float


@dataclass(frozen=True)
class Flag:
    """What is wrong: stale, silent, stuck or drifting; with the sentence."""

    key: str
    quantity: str
    sentence: str


@dataclass(frozen=True)
class TestBesideProbe:
    """A test and what the probe said around it."""

    at: datetime
    test: float
    probe: float

    @property
    def off(self) -> float:
        return self.probe - self.test


@dataclass(frozen=True)
class ProbeSays:
    """What a probe gives reason for: looking after it, or testing. It never decides anything."""

    flags: tuple[Flag, ...]
    disagrees: str


def probe_says(
    traces: Mapping[str, Sequence[Hour]], entries: Sequence[Entry], last_ok: datetime | None, now: datetime
) -> ProbeSays:
    return ProbeSays(flags(traces, entries, last_ok, now), disagrees(traces, entries, now))


def beside_tests(quantity: str, hours: Sequence[Hour], entries: Sequence[Entry]) -> tuple[TestBesideProbe, ...]:
    """The last tests of a quantity that the probe was listening to, oldest first."""
    found = []
    since = hours[0].at - timedelta(hours=BESIDE_H) if hours else None
    for e in Log.of(entries).kinds(Tested):
        if since is None or e.at < since:
            continue
        for r in e.readings:
            if r.quantity == quantity and not r.masked:
                near = [h for h in hours if abs((h.at - e.at).total_seconds() / 3600 + 0.5) <= BESIDE_H]
                if near:
                    found.append(TestBesideProbe(e.at, r.seen, sum(h.mean for h in near) / len(near)))
    return tuple(found[-TESTS_COMPARED:])


def flags(
    traces: Mapping[str, Sequence[Hour]], entries: Sequence[Entry], last_ok: datetime | None, now: datetime
) -> tuple[Flag, ...]:
    """Everything wrong with the probe now, silence first: while it is silent nothing else can be told."""
    if last_ok is None:
        return (Flag("silent", "", "Nothing has come from the probe yet."),)
    silent = now.astimezone(UTC) - last_ok.astimezone(UTC)
    if silent > SILENT:
        minutes = silent.total_seconds() / 60
        lasted = f"{minutes:.0f}{NBSP}minutes" if minutes < 120 else f"{figure(minutes / 60, 2)}{NBSP}hours"
        return (Flag("stale", "", f"Nothing from the probe since {last_ok:%a %-d %b %H:%M}, {lasted}."),)
    found = []
    for quantity, hours in traces.items():
        if hours and now - hours[-1].at > STALE + timedelta(hours=1):
            found.append(Flag("stale", quantity, f"No {_NAMES[quantity]} since {hours[-1].at:%a %H:%M}."))
            continue
        if _stuck(hours):
            told = figure(hours[-1].mean, 4)
            found.append(
                Flag("stuck", quantity, f"{_NAMES[quantity].capitalize()} has stood at exactly {told} for hours.")
            )
        off = drift(quantity, hours, entries)
        if off is not None:
            way = "above" if off > 0 else "below"
            text = f"{_NAMES[quantity].capitalize()} stands about {figure(abs(off), 2)} {way} your tests: calibrate it."
            found.append(Flag("drifting", quantity, text))
    return tuple(found)


_NAMES = {"temp": "temperature", "ph": "pH", "salinity": "salinity", "ammonia": "ammonia"}


def _stuck(hours: Sequence[Hour]) -> bool:
    last = hours[-STUCK_HOURS:]
    if len(last) < STUCK_HOURS or sum(h.n for h in last) < STUCK_N:
        return False
    return max(h.high for h in last) - min(h.low for h in last) < 1e-9


def drift(quantity: str, hours: Sequence[Hour], entries: Sequence[Entry]) -> float | None:
    """How far the probe stands off the last two tests, when it is the same way and beyond what a test may err."""
    pairs = beside_tests(quantity, hours, entries)[-FEWEST_COMPARED:]
    if len(pairs) < FEWEST_COMPARED:
        return None
    offs = [p.off for p in pairs]
    if all(o > DRIFT[quantity] for o in offs) or all(o < -DRIFT[quantity] for o in offs):
        return sum(offs) / len(offs)
    return None


def disagrees(traces: Mapping[str, Sequence[Hour]], entries: Sequence[Entry], now: datetime) -> str:
    """A sentence when the ammonia electrode has risen well above the last test: reason to test, never to act."""
    hours, last = traces.get("ammonia", ()), latest(entries, "ammonia")
    if not hours or last is None or now - hours[-1].at > STALE or _stuck(hours):
        return ""
    recent = [h for h in hours if h.at > last.at][-3:]
    above = [h for h in recent if h.mean > last.value + 2 * DRIFT["ammonia"]]
    if len(recent) < 3 or len(above) < 3:
        return ""
    return (
        f"The probe has read ammonia {figure(above[-1].mean, 2)} for three hours, the last test said "
        f"{last.reading.typed}: test it."
    )
