"""The reminder mail: its settings, and one mail a day at the most, however often it is tried."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from jarbloom.core.advice.situation import TankSeen
from jarbloom.deeds import back_up, look
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.schedule import told_of
from jarbloom.devices.mailer import Mail, Mailer, SmtpMailer, Unsure
from jarbloom.errors import DeviceError, Refused
from jarbloom.manner import text_in
from jarbloom.store import reminders
from jarbloom.store.db import transaction
from jarbloom.store.reminders import MAIL_HELP, Reminder
from jarbloom.units import number

RETRIES = (5, 15, 60, 180)  # minutes after a refusal
SECURITY = ("none", "starttls", "tls")


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


def mail_text(seen: Sequence[TankSeen], now: datetime, missed: str = "") -> tuple[str, str] | None:
    """(subject, body) of today's reminder; None when nothing is due. `missed`: what the house itself lacks, a backup
    say."""
    today = [(x, [j for j in x.jobs if j.due.date() <= now.date()]) for x in seen]
    today = [(x, jobs) for x, jobs in today if jobs]
    if not today:
        return ("The house needs a look", f"{missed}\n") if missed else None
    n = sum(len(jobs) for _, jobs in today)
    urgent = [x.tank.name for x, jobs in today if any(j.urgent for j in jobs)]
    subject = f"{n} job{'s' if n != 1 else ''} on {len(today)} tank{'s' if len(today) != 1 else ''}"
    if urgent:
        subject = f"{' and '.join(urgent)} now: {subject}"
    lines = [f"The house: {missed}", ""] if missed else []
    for x, jobs in today:
        lines += [f"{x.tank.name}: {x.verdict.sentence}", *(f"  - {j.title} ({j.due_text})" for j in jobs)]
        lines += [*(f"  {name}: {when}" for name, when, _ in told_of(x).batches), ""]
    return " ".join(subject.split()), "\n".join(lines).replace("\u00a0", " ")


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
    bench = look.see_bench(desk)
    text = mail_text(bench.seen, desk.now, _of_the_house(desk, bench))
    if text is None:
        kept = Reminder(day, "nothing", "", "", 0, desk.now, None, "")
        _keep(desk, kept)
        return kept
    tries = (before.tries if before else 0) + 1
    sending = Reminder(day, "sending", text[0], text[1], tries, desk.now, None, "")
    if not _claim(desk, sending, before):
        return reminders.reminder(desk.conn, day)
    subject, body = (text_in(t, desk.preferences.manner) for t in text)  # kept plain: the page writes it its own way
    mail = Mail(settings["mail_from"], settings["mail_to"], subject, body, f"<{day.isoformat()}@jarbloom.invalid>")
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


def _of_the_house(desk: Desk, bench: look.Bench) -> str:
    """What no tank's jobs can say, '' where all is well."""
    broken = [f"{b.name} cannot be looked at: {b.problem}" for b in bench.broken]
    return " ".join(filter(None, [back_up.missed(desk), *broken]))


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
