"""Jobs that those who live in a tank give by growing up together: who is to be parted, and until when."""

from __future__ import annotations

from datetime import datetime, time, timedelta

from jarbloom.core.advice.said import Job
from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.company import Case, Finding
from jarbloom.core.animals.compatibility import case_of, findings
from jarbloom.core.animals.home import home_of
from jarbloom.core.animals.names import animal_name, listed, plural
from jarbloom.core.journal.book import groups, kept_for_now, newcomers
from jarbloom.core.journal.eating import refusers
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.count import HeadCount
from jarbloom.core.journal.kinds.lesson import Lesson
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.quarantine import InQuarantine
from jarbloom.core.journal.kinds.uninvited import UNINVITED
from jarbloom.core.journal.uninvited import fed_g_day, sighted
from jarbloom.core.model.findings import Severity
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.terms import quarantine_days
from jarbloom.units import NBSP, figure

REPLAN_DAYS = 14  # further off the forecast may still turn
# From when after an arrival a count is the one asked for, and how long it is asked for
FIRST_COUNT = timedelta(hours=6), timedelta(days=1.5)
WEEK_COUNT = timedelta(days=6.5), timedelta(days=12)
AHEAD = timedelta(days=60)  # time to find another tank before a pair turns dangerous (judgement)
TANK_AHEAD = timedelta(days=400)  # to find the room and the money for a larger tank, and to cycle it (judgement)
MOST = 3  # the rest stand on the page about who goes with whom
LIVED_THROUGH = frozenset({"maturity"})  # those who are in have outlived the question


def animal_jobs(s: Situation) -> list[Job]:
    """What keeps apart those who live here, today or within two months, or a tank that they outgrow; the worst ones."""
    if not s.living:
        return []
    case = case_of(home_of(s.tank), s.living, s.reference.species, s.now.date(), s.units)
    pressing = [f for f in findings(case) if f.severity == "apart" and f.key not in LIVED_THROUGH]
    ahead = {"litres": TANK_AHEAD}
    soon = [f for f in pressing if f.on is None or f.on <= s.now.date() + ahead.get(f.key, AHEAD)]
    return [_job(f, case, s) for f in soon[:MOST]]


def keeping_jobs(s: Situation) -> list[Job]:
    """Who was kept for now and has to move."""
    found, species = [], s.reference.species
    for g in kept_for_now(groups(s.entries, s.now.date())):
        assert g.until is not None
        name = plural(animal_name(g.species, species), g.now)
        left = (g.until - s.now.date()).days
        why = f"Kept here for now since {g.since:%-d %b}; " + (
            f"{left}{NBSP}days are left to find another home." if left > 0 else "the day that was set has come."
        )
        found.append(
            Job("move", f"Move the {name}", why, datetime.combine(g.until, time(12), s.now.tzinfo),
                f"by {g.until:%-d %b %Y}", left <= 0, hardness="practice", subject=str(g.id), where="book")
        )  # fmt: skip
    return found


def eating_jobs(s: Situation) -> list[Job]:
    """Who refuses what is offered: another food at first, and somebody who knows once it loses flesh."""
    found = []
    for r in refusers(s.entries, s.reference.species, s.now):
        name = animal_name(r.species, s.reference.species).lower()
        tried = f"; {', '.join(r.foods)} tried" if r.foods else ""
        kind = s.reference.species[r.species]
        days = f"{r.days} day{'s' if r.days != 1 else ''}"
        why = f"Refused since {r.since:%-d %b}, {days}{tried}. It eats: {kind.feeding}. "
        why += (
            "So long without food it loses flesh: look at belly and back, and ask a vet or fish-health professional."
            if r.pressing
            else "Try live or frozen food, dim light, a place away from quick eaters; take out what is left."
        )
        found.append(Job("eat", f"Get the {name} to eat", why, s.now, "today", r.pressing, hardness="practice",
                         subject=r.species, where="book"))  # fmt: skip
    return found


MUCH_FED = 1.25  # of the usual ration: more than this is named as the likely cause (judgement)


def uninvited_jobs(s: Situation) -> list[Job]:
    """Who came uninvited and becomes more and more: less food first, since that is what they live on."""
    found = []
    for seen in sighted(s.entries, s.now):
        row = s.reference.uninvited.get(seen.what)
        if row is None or not row.spreads or not seen.swarming:
            continue
        assert seen.doubles_days is not None
        name = UNINVITED[seen.what][0]
        why = f"{seen.counts[-1][1]} at the last look, and twice as many every {figure(seen.doubles_days, 2)} days."
        found.append(Job("uninvited", f"Stop the {name} early", f"{why} {_fed(s)}{row.act}", s.now, "this week", False,
                         hardness="practice", caution=row.caution, subject=seen.what, where="book"))  # fmt: skip
    return found


def _fed(s: Situation) -> str:
    fed = fed_g_day(s.entries, s.now)
    usual = s.upkeep.feed_g
    if fed is None or fed <= MUCH_FED * usual:
        return ""
    return f"Fed were {s.units.mass(fed)} a day, where {s.units.mass(usual)} are usual. "


def plan_jobs(s: Situation) -> list[Job]:
    """A batch whose near day comes before its one date: the date is offered. Days that have passed move by themselves
    (deeds/plan_batches.py), and where no date is in sight only the plan helps."""
    for batch in s.waiting:
        date, days = s.date_of(batch), (batch.planned - s.now.date()).days
        if date is None or date.planned_possible or days > REPLAN_DAYS:
            continue
        if date.day is not None:
            title = f"Move {batch.name.lower()} to {date.day:%a %-d %b}"
            why = f"Planned for {batch.planned:%a %-d %b}, it can go in {date.sentence}."
        else:
            title, why = f"Look at the plan of {batch.name.lower()}", f"No day is in sight for it: {date.sets}."
        return [Job("replan", title, why, s.now, "today", where="stocking")]
    return []


def quarantine_jobs(s: Situation) -> list[Job]:
    """The day on which a quarantine ends, while its animals are not in."""
    arrived = {e.body.batch for e in s.entries.kinds(Arrival)}
    waiting = [e for e in s.entries.kinds(InQuarantine) if e.body.batch not in arrived]
    found = []
    for day in sorted({e.body.until for e in waiting}):
        these = [e for e in waiting if e.body.until == day]
        who = listed([Animals(e.body.species, e.body.count) for e in these], s.reference.species)
        ends = day <= s.now.date()
        title = f"{'End' if ends else 'Watch'} the quarantine: {who}"
        why = f"Since {these[0].at:%-d %b}. Spots, clamped fins, fast breathing or losses: they stay longer."
        due = datetime.combine(day if ends else s.now.date(), time(12), s.now.tzinfo)
        text = f"ended {day:%-d %b}" if ends else f"until {day:%a %-d %b}"
        found.append(Job("quarantine", title, why, due, text, subject=day.isoformat()))
    return found + _own_quarantine(s)


def _own_quarantine(s: Situation) -> list[Job]:
    """In a quarantine tank: the day on which those who came last have been watched long enough."""
    if not s.tank.quarantine_of or not s.living:
        return []
    last = max(g.since for g in s.living if g.since)
    until = last + timedelta(days=quarantine_days(s.tank, s.reference.schools))
    past, well = until <= s.now.date(), s.findings.worst < Severity.TEST
    over = past and well
    title = "Move them home, if all are well" if over else "Watch those in quarantine"
    why = (
        f"The last came on {last:%-d %b}. Look at skin, gills, dung and breath. Spots, clamped fins, fast breathing or "
        "a loss: they stay, and the days count anew. Net, hose and bucket of their own; hands washed between the tanks."
    )
    due = datetime.combine(max(until, s.now.date()) if over else s.now.date(), time(12), s.now.tzinfo)
    text = "today" if over else ("until all are well" if past else f"until {until:%a %-d %b}")
    return [Job("quarantine", title, why, due, text, subject="own",
                where="book")]  # fmt: skip


def count_jobs(s: Situation) -> list[Job]:
    """Heads are counted the morning after an arrival, and once more after a week."""
    arrivals = [e.at for e in newcomers(s.entries)]
    if not arrivals:
        return []
    since = s.now - arrivals[-1]
    counts = [e.at - arrivals[-1] for e in s.entries.kinds(HeadCount)]
    if since <= FIRST_COUNT[1] and not any(c >= FIRST_COUNT[0] for c in counts):
        why = "Lights on again, gently. Losses show in the first day; look behind the tank too."
        return [Job("count", "Count heads and watch them breathe", why, s.now, "next morning", where="book")]
    if WEEK_COUNT[0] <= since <= WEEK_COUNT[1] and not any(c >= WEEK_COUNT[0] for c in counts):
        why = "A week on: who hides, who does not eat, who is missing."
        return [Job("count", "Count heads once more", why, s.now, "today", subject="week", where="book")]
    return []


def _job(f: Finding, case: Case, s: Situation) -> Job:
    names = [plural(m.kind.name, m.animals.count) for key in f.species for m in case.members if m.kind.key == key]
    due = datetime.combine(f.on, time(12), s.now.tzinfo) if f.on else s.now
    title = f"Part the {names[0]} from the {names[1]}" if len(names) > 1 else f"{_help(f)} for the {names[0]}"
    return Job(
        "animals", title, f.sentence, due, f"by {f.on:%-d %b %Y}" if f.on else "soon", hardness="practice",
        subject=f"{f.key}.{'.'.join(f.species)}",
    )  # fmt: skip


def _help(f: Finding) -> str:
    return (
        f.resolve[:1].upper() + f.resolve[1:] if f.key in ("litres", "turning", "lid", "salinity") else "Another tank"
    )


PREVENT_DAYS = 60  # so long what an upset taught stands on the list, until it is done


def prevent_jobs(s: Situation) -> list[Job]:
    """What an upset taught, until the keeper has ticked it: the tick keeps a note in these words."""
    found: list[Job] = []
    lessons = s.entries.kinds(Lesson)
    noted = {e.body.text for e in s.entries.kinds(Note)} if lessons else set()
    for e in reversed(lessons):
        done = f"done: {e.body.prevent.rstrip('.')}"
        if e.body.ask and e.body.prevent and done not in noted and s.now - e.at <= timedelta(days=PREVENT_DAYS):
            why = f"So that it does not come again: {(e.body.title or e.body.cause).lower()}, {e.at:%-d %b}."
            found.append(Job("prevent", e.body.prevent.rstrip("."), why, s.now, "this week", hardness="practice",
                             subject=str(e.id), shorthand=f"note {done}"))  # fmt: skip
    return found
