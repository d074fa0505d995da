"""The schedule of all tanks: jobs by day, and the calendar of them."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time

from jarbloom.core.advice.said import Job
from jarbloom.core.advice.situation import TankSeen
from jarbloom.core.advice.standing import answers
from jarbloom.core.model.tank import Tank
from jarbloom.deeds import back_up, look, stores
from jarbloom.deeds.desk import Desk
from jarbloom.errors import NotFound
from jarbloom.formats.calendar import Appointment, calendar
from jarbloom.manner import text_in
from jarbloom.store import reminders, tanks
from jarbloom.store.db import house_id, transaction
from jarbloom.store.reminders import Reminder
from jarbloom.store.sessions import hashed

TIMED = ("water_change", "test")  # within an upset these have an hour; everything else has a day


@dataclass(frozen=True)
class Listed:
    """A job of a tank."""

    tank: Tank
    job: Job


@dataclass(frozen=True)
class PutOff:
    """A job that was put off, with the day on which it stands again."""

    tank: Tank
    key: str
    title: str
    until: date


@dataclass(frozen=True)
class Told:
    """What is said of a tank, and the one date of each batch that waits: (name, the date in words, planned)."""

    tank: Tank
    verdict: str
    batches: tuple[tuple[str, str, date], ...]


def told_of(seen: TankSeen) -> Told:
    s = seen.situation
    dated = ((b, s.date_of(b)) for b in s.waiting)
    batches = tuple((b.name, d.sentence, b.planned) for b, d in dated if d is not None)
    return Told(seen.tank, seen.verdict.sentence, batches)


@dataclass(frozen=True)
class Schedule:
    listed: tuple[Listed, ...]
    told: tuple[Told, ...]
    put_off: tuple[PutOff, ...]
    tanks: tuple[Tank, ...]
    unlisted: frozenset[int]
    feed: bool  # whether a secret address of the calendar is in use
    mail: dict[str, str]
    sent: tuple[Reminder, ...]
    missed: str
    broken: tuple[look.Broken, ...]


def see_schedule(desk: Desk) -> Schedule:
    bench = look.see_bench(desk)
    seen = bench.seen
    listed = [Listed(x.tank, j) for x in seen for j in x.jobs]
    listed.sort(key=lambda x: (x.job.due.date(), not x.job.urgent, x.tank.id))
    put_off = [
        PutOff(x.tank, answer.job, answer.title, answer.until)
        for x in seen
        for answer in answers(x.situation.entries).values()
        if answer.how == "snoozed" and answer.until is not None and answer.until > desk.now.date()
    ]
    return Schedule(
        tuple(listed),
        tuple(told_of(x) for x in seen),
        tuple(put_off),
        tuple(x.tank for x in seen),
        frozenset(reminders.unlisted_tanks(desk.conn)),
        reminders.calendar_hash(desk.conn) is not None,
        reminders.mail_settings(desk.conn),
        tuple(reminders.reminders(desk.conn)),
        back_up.missed(desk),
        bench.broken,
    )


# --- calendar ----------------------------------------------------------------------------------------


def appointments(seen: Sequence[TankSeen], unlisted: frozenset[int] | set[int] = frozenset()) -> list[Appointment]:
    found = []
    for x in seen:
        if x.tank.id in unlisted:
            continue
        for job in x.jobs:
            timed = x.situation.acting and job.kind in TIMED
            uid = f"{x.tank.slug}.{job.key}"
            found.append(Appointment(uid, job.title, job.why, job.due, timed, x.tank.name, f"/tanks/{x.tank.slug}"))
        for batch in x.situation.waiting:
            at = datetime.combine(batch.planned, time(9), tzinfo=x.situation.now.tzinfo)
            own = x.situation.date_of(batch)
            words = f"{x.verdict.sentence} Planned; it can go in {own.sentence}." if own is not None else "Planned."
            words += " It goes in only when the gate is passed that day."
            uid, page = f"{x.tank.slug}.batch-{batch.id}", f"/tanks/{x.tank.slug}/stocking"
            found.append(Appointment(uid, f"{batch.name}, planned", words, at, False, x.tank.name, page))
    return found


def _broken(b: look.Broken, now: datetime) -> Appointment:
    words = f"{b.problem} Nothing of its record is lost; its page says more."
    return Appointment(f"{b.slug}.broken", f"{b.name} cannot be looked at", words, now, False, b.name)


def _distinct(found: list[Appointment]) -> list[Appointment]:
    """Several changes of an upset share a kind: number them, so that each has an identity of its own."""
    count: dict[str, int] = {}
    made = []
    for one in found:
        n = count[one.uid] = count.get(one.uid, 0) + 1
        made.append(one if n == 1 else replace(one, uid=f"{n}.{one.uid}"))
    return made


def calendar_file(desk: Desk, base: str = "") -> bytes:
    """The calendar of all tanks that are listed; `base` is the address that pages lie under."""
    bench = look.see_bench(desk)
    found = appointments(bench.seen, reminders.unlisted_tanks(desk.conn)) + [_broken(b, desk.now) for b in bench.broken]
    missed = back_up.missed(desk)
    if missed:
        found.append(Appointment("backup", "Back up the house", missed, desk.now, False, "The house", "/data"))
    low = stores.running_out(desk)
    if low:
        found.append(Appointment("stores", "Buy what runs out", " ".join(low), desk.now, False, "The house", "/stores"))
    manner = desk.preferences.manner
    told = [replace(a, title=text_in(a.title, manner), words=text_in(a.words, manner)) for a in _distinct(found)]
    return calendar(told, desk.now, house_id(desk.conn), base)


def calendar_feed(desk: Desk, secret: str, base: str = "") -> bytes:
    """The same by its secret address. Raises NotFound for any other."""
    kept = reminders.calendar_hash(desk.conn)
    if kept is None or not secrets.compare_digest(kept.encode(), hashed(secret).encode()):
        raise NotFound("There is no such calendar.")
    return calendar_file(desk, base)


def open_feed(desk: Desk) -> str:
    """A fresh secret, which is shown this once: the address of before stops working."""
    with transaction(desk.conn):
        return reminders.new_calendar_secret(desk.conn)


def close_feed(desk: Desk) -> None:
    with transaction(desk.conn):
        reminders.end_calendar(desk.conn)


def choose_tanks(desk: Desk, wanted: set[str]) -> None:
    with transaction(desk.conn):
        for tank in tanks.all_tanks(desk.conn):
            reminders.list_tank(desk.conn, tank.id, tank.slug in wanted)
