"""The schedule of all tanks: jobs by day, the calendar feed, and the reminder mail."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta

from jarbloom.core.advice.situation import Seen
from jarbloom.core.advice.standing import answers
from jarbloom.core.model import Job, Tank
from jarbloom.deeds import look
from jarbloom.deeds.desk import Desk
from jarbloom.devices.mailer import Mail, Mailer, SmtpMailer, Unsure
from jarbloom.errors import DeviceError, NotFound, Refused
from jarbloom.formats.calendar import Appointment, calendar
from jarbloom.store import reminders
from jarbloom.store.db import transaction
from jarbloom.store.reminders import MAIL_HELP, Reminder
from jarbloom.units import number

TIMED = ("water_change",)  # within an upset these have an hour; everything else has a day
RETRIES = (5, 15, 60, 180)  # minutes after a refusal
SECURITY = ("none", "starttls", "tls")


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
class Schedule:
    listed: tuple[Listed, ...]
    put_off: tuple[PutOff, ...]
    tanks: tuple[Tank, ...]
    unlisted: frozenset[int]
    secret: str | None
    mail: dict[str, str]
    sent: tuple[Reminder, ...]


def see_schedule(desk: Desk) -> Schedule:
    seen = look.see_bench(desk)
    listed = [Listed(x.tank, j) for x in seen for j in x.jobs]
    listed.sort(key=lambda x: (x.job.due.date(), not x.job.urgent, x.tank.id))
    put_off = [
        PutOff(x.tank, e.body["job"], e.body.get("title", e.body["job"]), date.fromisoformat(e.body["until"]))
        for x in seen
        for e in x.situation.entries
        if e.kind == "job" and e.body["how"] == "snoozed" and e.body.get("until", "") > desk.now.date().isoformat()
        and answers(x.situation.entries)[e.body["job"]].at == e.at
    ]  # fmt: skip
    return Schedule(
        tuple(listed),
        tuple(put_off),
        tuple(x.tank for x in seen),
        frozenset(reminders.unlisted_tanks(desk.conn)),
        reminders.calendar_secret(desk.conn),
        reminders.mail_settings(desk.conn),
        tuple(reminders.reminders(desk.conn)),
    )


# --- calendar ----------------------------------------------------------------------------------------


def appointments(seen: Sequence[Seen], unlisted: frozenset[int] | set[int] = frozenset()) -> list[Appointment]:
    found = []
    for x in seen:
        if x.tank.id in unlisted:
            continue
        for job in x.jobs:
            timed = x.situation.acting and job.kind in TIMED
            uid = f"{x.tank.slug}.{job.key}@jarbloom.invalid"
            found.append(Appointment(uid, job.title, job.why, job.due, timed, x.tank.name))
        for batch in x.situation.waiting:
            at = datetime.combine(batch.planned, time(9), tzinfo=x.situation.now.tzinfo)
            words = "Planned. It goes in only when the gate is passed that day."
            uid = f"{x.tank.slug}.batch-{batch.id}@jarbloom.invalid"
            found.append(Appointment(uid, f"{batch.name}, planned", words, at, False, x.tank.name))
    return found


def _distinct(found: list[Appointment]) -> list[Appointment]:
    """Several changes of an upset share a kind: number them, so that each has an identity of its own."""
    count: dict[str, int] = {}
    made = []
    for one in found:
        n = count[one.uid] = count.get(one.uid, 0) + 1
        made.append(one if n == 1 else replace(one, uid=f"{n}.{one.uid}"))
    return made


def calendar_file(desk: Desk) -> bytes:
    """The calendar of all tanks that are listed."""
    found = appointments(look.see_bench(desk), reminders.unlisted_tanks(desk.conn))
    return calendar(_distinct(found), desk.now)


def calendar_feed(desk: Desk, secret: str) -> bytes:
    """The same by its secret address. Raises NotFound for any other."""
    kept = reminders.calendar_secret(desk.conn)
    if kept is None or not secrets.compare_digest(kept.encode(), secret.encode()):
        raise NotFound("There is no such calendar.")
    return calendar_file(desk)


def open_feed(desk: Desk) -> None:
    """A fresh secret: the address of before stops working."""
    with transaction(desk.conn):
        reminders.new_calendar_secret(desk.conn)


def choose_tanks(desk: Desk, wanted: set[str]) -> None:
    with transaction(desk.conn):
        for x in look.see_bench(desk):
            reminders.list_tank(desk.conn, x.tank.id, x.tank.slug in wanted)


# --- mail --------------------------------------------------------------------------------------------


def keep_mail(desk: Desk, typed: dict[str, str]) -> None:
    """Raises Refused naming the field. A password left empty stays what it was."""
    kept = reminders.mail_settings(desk.conn)
    found = {k: typed.get(k, "").strip() for k in MAIL_HELP}
    found["mail_on"] = "on" if typed.get("mail_on") == "on" else "off"
    found["mail_password"] = typed.get("mail_password", "") or kept["mail_password"]
    found["mail_security"] = found["mail_security"] or "none"
    found["mail_port"] = str(int(number(found["mail_port"] or "25", "mail_port", low=1, high=65535)))
    found["mail_hour"] = str(int(number(found["mail_hour"] or "8", "mail_hour", low=0, high=23)))
    if found["mail_security"] not in SECURITY:
        raise Refused("none, starttls or tls.", "mail_security")
    if any(c in v for v in found.values() for c in "\r\n"):
        raise Refused("One line each.", "mail_host")
    if found["mail_on"] == "on":
        for key, words in (("mail_host", "Which server?"), ("mail_from", "From whom?"), ("mail_to", "To whom?")):
            if not found[key]:
                raise Refused(words, key)
        for key in ("mail_from", "mail_to"):
            if found[key].count("@") != 1 or " " in found[key]:
                raise Refused(f"“{found[key][:60]}” is not a mail address.", key)
    with transaction(desk.conn):
        reminders.save_mail_settings(desk.conn, found)


def mail_text(seen: Sequence[Seen], now: datetime) -> tuple[str, str] | None:
    """(subject, body) of today's reminder; None when nothing is due."""
    today = [(x, [j for j in x.jobs if j.due.date() <= now.date()]) for x in seen]
    today = [(x, jobs) for x, jobs in today if jobs]
    if not today:
        return None
    n = sum(len(jobs) for _, jobs in today)
    urgent = [x.tank.name for x, jobs in today if any(j.urgent for j in jobs)]
    subject = f"{n} job{'s' if n != 1 else ''} on {len(today)} tank{'s' if len(today) != 1 else ''}"
    if urgent:
        subject = f"{' and '.join(urgent)} now: {subject}"
    lines = []
    for x, jobs in today:
        lines += [f"{x.tank.name}: {x.verdict.sentence}", *(f"  - {j.title} ({j.due_text})" for j in jobs), ""]
    return subject, "\n".join(lines).replace("\u00a0", " ")


def remind(desk: Desk, mailer: Mailer | None = None) -> Reminder | None:
    """Send today's reminder when it is time and it was not sent yet. Returns what is kept of today, None when it is
    off or too early.

    One a day by the keeper's own calendar: an hour that comes twice at the end of summer time sends once, and one
    that is skipped is made up for after it.
    """
    settings = reminders.mail_settings(desk.conn)
    if settings["mail_on"] != "on" or desk.now.hour < int(settings["mail_hour"]):
        return None
    day, before = desk.now.date(), reminders.reminder(desk.conn, desk.now.date())
    if before is not None and not _again(before, desk.now):
        return before
    text = mail_text(look.see_bench(desk), desk.now)
    if text is None:
        kept = Reminder(day, "nothing", "", "", 0, desk.now, None, "")
        _keep(desk, kept)
        return kept
    tries = (before.tries if before else 0) + 1
    sending = Reminder(day, "sending", text[0], text[1], tries, desk.now, None, "")
    if not _claim(desk, sending, before):
        return reminders.reminder(desk.conn, day)
    mail = Mail(settings["mail_from"], settings["mail_to"], text[0], text[1], f"<{day.isoformat()}@jarbloom.invalid>")
    try:
        (mailer or SmtpMailer(reminders.mail_server(settings))).send(mail)
        kept = replace(sending, state="sent")
    except Unsure as unknown:
        kept = replace(sending, last_error=f"{unknown.sentence} It is not sent again, so that you get it once.")
    except DeviceError as problem:
        wait = RETRIES[tries - 1] if tries <= len(RETRIES) else None
        after = desk.now + timedelta(minutes=wait) if wait else None
        kept = replace(sending, state="refused", next_try=after, last_error=problem.sentence)
    _keep(desk, kept)
    return kept


def _again(before: Reminder, now: datetime) -> bool:
    """Only a clear refusal, or a day on which nothing was due so far, is tried again."""
    if before.state == "nothing":
        return now - before.last_try >= timedelta(hours=1)
    return before.state == "refused" and before.next_try is not None and before.next_try <= now


def _claim(desk: Desk, sending: Reminder, before: Reminder | None) -> bool:
    """Write 'sending' before the server is asked, in a transaction that sees nobody else having done so."""
    with transaction(desk.conn):
        if reminders.reminder(desk.conn, sending.day) != before:
            return False
        reminders.keep_reminder(desk.conn, sending)
        return True


def _keep(desk: Desk, one: Reminder) -> None:
    with transaction(desk.conn):
        reminders.keep_reminder(desk.conn, one)
