"""Jobs of setting up and keeping the equipment: the fill run, what is switched off, checks, fish-in, dose range."""

from __future__ import annotations

from datetime import datetime, time, timedelta

from jarbloom.core.advice.said import Job
from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.drivers import elapsed_days
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.journal.switches import switched_off
from jarbloom.core.setup.checks import checks_due
from jarbloom.core.setup.chores import due_on, last_done
from jarbloom.core.setup.equipment import evaporated_l_day
from jarbloom.core.setup.fill import begun, standing
from jarbloom.core.setup.source import source_apart
from jarbloom.units import NBSP, figure

TOP_UP_SHARE = 0.02  # of the water that may have left before a top-off is asked for; practice
SOON = timedelta(days=3)  # how early a check that comes again is listed
MOST_TOP_UP = 0.03  # of the tank on one day
UNREAD_DAYS = 14  # after so long only a reading tells
FIRST_CHECKS = 2  # of those never ticked, so many are listed at a time: nobody does nine on one day


def setup_jobs(s: Situation) -> list[Job]:
    found = _fill(s)
    if s.tank.filled:
        found += _switch_on(s) + _probe(s) + _source_water(s)  # in an upset above all: its changes go by the settings
    if s.tank.filled and not s.acting:
        found += _topoff(s) + _dose_range(s) + _checks(s)
    return found


def chore_jobs(s: Situation) -> list[Job]:
    """The keeper's own, from the day they are due."""
    found = []
    for chore in s.chores:
        due = due_on(chore, s.entries)
        if due is None or due > s.now.date():
            continue
        done = last_done(chore, s.entries)
        why = f"Your own, {chore.words}" + (f"; last on {done:%-d %b}." if done else ".")
        found.append(Job("chore", chore.title, why, _at(due, s), day_text(_at(due, s), s.now), hardness="taste",
                         subject=str(chore.id), shorthand=chore.line))  # fmt: skip
    return found


def _at(day: object, s: Situation) -> datetime:
    return datetime.combine(day, time(9), tzinfo=s.now.tzinfo)  # type: ignore[arg-type]


def day_text(due: datetime, now: datetime) -> str:
    days = (due.date() - now.date()).days
    if days < 0:
        return f"{-days} day{'s' if days < -1 else ''} overdue"
    return {0: "today", 1: "tomorrow"}.get(days, f"{due:%a %-d %b}")


def _fill(s: Situation) -> list[Job]:
    """The next step of the fill run, while one is under way or the tank is dry."""
    if s.tank.filled and not begun(s.entries):
        return []
    for x in standing(s.tank, s.entries, s.units, s.now):
        if x.done_at is not None:
            continue
        assert x.open_from is not None
        wait = x.waiting(s.now)
        due = f"from {x.open_from:%a %H:%M}" if wait else "when ready"
        why = x.step.words if not x.step.amount else f"{x.step.amount}. {x.step.words}"
        return [
            Job(
                "fill",
                x.step.title,
                why,
                max(x.open_from, s.now),
                due,
                hardness="practice",
                caution=x.step.caution,
                subject=x.step.key,
                where="fill",
            )
        ]
    return []


def _switch_on(s: Situation) -> list[Job]:
    found = []
    for off in switched_off(s.entries):
        due = _at(off.until or s.now.date(), s)
        why = f"Off since {off.since:%-d %b}; it stays on this list until it is ticked."
        found.append(
            Job(
                "switch_on",
                f"Switch the {off.name} on again",
                why,
                max(due, s.now) if off.overdue(s.now.date()) else due,
                day_text(due, s.now) if off.until else "no day was named",
                subject=off.device,
                shorthand=f"on {off.device}",
                caution="uv" if off.device in ("uv", "ozone") else "",
            )
        )
    return found


def _probe(s: Situation) -> list[Job]:
    found = []
    if s.probe is not None and s.probe.disagrees:
        found.append(
            Job("probe_test", "Test ammonia, to settle what the probe says", s.probe.disagrees, s.now, "today")
        )
    if s.probe is not None and s.probe.flags:
        why = f"{s.probe.flags[0].sentence} Until then its trace says nothing."
        found.append(Job("probe", "Look after the probe", why, s.now, "today", hardness="taste", where="probe"))
    return found


def _checks(s: Situation) -> list[Job]:
    found, never = [], 0
    for due in checks_due(s.reference.checks, s.tank, s.entries, s.now.date()):
        at = _at(due.due, s)
        if at - s.now > SOON:
            continue
        if due.last is None:
            never += 1
            if never > FIRST_CHECKS:
                continue
        why = due.check.words
        if due.fault:
            why = f"Last time: {due.fault}. {why}"
        elif due.last:
            why = f"Last on {due.last:%-d %b}. {why}"
        found.append(
            Job(
                "check",
                due.check.title,
                why,
                max(at, s.now),
                day_text(at, s.now) if due.last else "first time",
                hardness=due.check.hardness,
                caution=due.check.caution,
                subject=due.check.key,
            )
        )
    return found


def _topoff(s: Situation) -> list[Job]:
    """Salt stays when water leaves: once enough has, it is made up for with fresh water."""
    if s.tank.salinity_g_kg <= 0:
        return []
    last, target = s.entries.latest("salinity"), s.tank.salinity_g_kg
    first = s.entries[0].at if s.entries else s.now
    unread = (s.now - (last.at if last is not None else first)).days
    if unread >= UNREAD_DAYS:
        words = f"last read {unread} days ago" if last is not None else "never read"
        why = f"It was {words}; water leaves and salt stays, and an estimate so long is worth nothing."
        return [Job("test_salinity", "Read the salinity", why, s.now, "today")]
    if last is None:
        return []
    days = elapsed_days(last.at, s.now)
    topped = sum(e.body.litres for e in s.entries.kinds(TopOff)[-60:] if e.at > last.at and not e.body.salty)
    litres = evaporated_l_day(s.tank, s.entries) * days - topped
    now = last.value * s.volume_l / max(s.volume_l - litres, 1.0)
    if now <= target or litres < TOP_UP_SHARE * s.volume_l:
        return []
    litres = min(s.volume_l * (1 - target / now), MOST_TOP_UP * s.volume_l)
    climbed = now - last.value
    if litres <= 0 or s.findings.has("salinity_low", "salinity_step", "topoff_stuck"):
        return []
    return [
        Job(
            "topoff",
            f"Top up about {s.units.volume(round(litres, 1))} of fresh water",
            f"Read {last.reading.typed} {figure(days, 2)} days ago, it has climbed by about "
            f"{figure(climbed, 2)}{NBSP}g/kg since, by estimate. "
            "Fresh water, not salt water; read the salinity before and after.",
            s.now,
            "today",
            amount=litres,
            unit="L",
            shorthand=f"top {litres:.2g} l",
        )
    ]


def _source_water(s: Situation) -> list[Job]:
    """Changes are worked out with what the settings say of the new water."""
    apart = source_apart(s.tank, s.record)
    if not apart:
        return []
    assert s.record is not None and s.record.measured_on is not None
    why = f"{s.record.name}, read on {s.record.measured_on:%-d %b}: {', '.join(apart)}. Changes go by the settings."
    return [
        Job(
            "source_water",
            f"Reckon with what {s.record.name} reads",
            why,
            s.now,
            "today",
            subject=f"{s.record.measured_on:%Y-%m-%d}",  # skipped for this reading, not for good
            where="water",
        )
    ]


def _dose_range(s: Situation) -> list[Job]:
    """A target outside what the school asks for is said once a day until it is mended or skipped."""
    school, target = s.school, s.tank.target_mg_n_l
    if s.living or school.feeds_by != "dose" or school.dose_low_mg_n_l <= target <= school.dose_high_mg_n_l:
        return []
    low, high = figure(school.dose_low_mg_n_l), figure(school.dose_high_mg_n_l)
    return [
        Job(
            "dose_range",
            f"Bring the target dose to {low} to {high}{NBSP}mg/L",
            f"It stands at {figure(target)}; {school.name} asks for {low} to {high}. More stalls the second half of "
            "the bloom and takes longer, less proves less.",
            s.now,
            "today",
            where="school",
        )
    ]
