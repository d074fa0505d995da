"""The calendar's tanks and secret, the mail server's settings, and what was sent on which day."""

from __future__ import annotations

import secrets
import sqlite3
from dataclasses import dataclass
from datetime import date, datetime

from jarbloom.devices.mailer import MailServer
from jarbloom.store.secret_file import folder_of, keep_secret, secret
from jarbloom.store.sessions import hashed

MAIL_HELP = {
    "mail_on": "send a reminder mail a day: on or off",
    "mail_host": "the mail server’s name",
    "mail_port": "its port",
    "mail_security": "none, starttls or tls",
    "mail_user": "user name, where the server asks for one",
    "mail_password": "password; kept in secrets.json beside the database, or told in JARBLOOM_MAIL_PASSWORD",
    "mail_from": "sender’s address",
    "mail_to": "your address",
    "mail_hour": "from which hour of the day, 0 to 23",
}
PASSWORD = "mail_password"
_DEFAULTS = {
    "mail_on": "off", "mail_host": "", "mail_port": "25", "mail_security": "none", "mail_user": "",
    "mail_password": "", "mail_from": "", "mail_to": "", "mail_hour": "8",
}  # fmt: skip


def mail_settings(conn: sqlite3.Connection) -> dict[str, str]:
    """Typed settings by key, with their defaults."""
    rows = conn.execute("SELECT key, value FROM preference WHERE key LIKE 'mail\\_%' ESCAPE '\\'")
    found = _DEFAULTS | {row["key"]: row["value"] for row in rows}
    return found | {PASSWORD: secret(folder_of(conn), PASSWORD) or found[PASSWORD]}


def save_mail_settings(conn: sqlite3.Connection, settings: dict[str, str]) -> None:
    for key, value in settings.items():
        if key != PASSWORD:
            _set(conn, key, value)
    keep_secret(folder_of(conn), PASSWORD, settings.get(PASSWORD, ""))
    conn.execute("DELETE FROM preference WHERE key = :key", {"key": PASSWORD})


def move_secrets_out(conn: sqlite3.Connection) -> None:
    """An earlier version kept the mail password in the database, and the calendar's secret readable: into its own file
    with the one, a hash of the other. Addresses that are in use go on."""
    kept = conn.execute("SELECT value FROM preference WHERE key = 'calendar_secret'").fetchone()
    if kept is not None:
        _set(conn, "calendar_hash", hashed(kept["value"]))
        conn.execute("DELETE FROM preference WHERE key = 'calendar_secret'")
    row = conn.execute("SELECT value FROM preference WHERE key = :key", {"key": PASSWORD}).fetchone()
    if row is None:
        return
    if not secret(folder_of(conn), PASSWORD):
        keep_secret(folder_of(conn), PASSWORD, row["value"])
    conn.execute("DELETE FROM preference WHERE key = :key", {"key": PASSWORD})


def _set(conn: sqlite3.Connection, key: str, value: str) -> None:
    conn.execute(
        """INSERT INTO preference (key, value) VALUES (:key, :value)
           ON CONFLICT (key) DO UPDATE SET value = excluded.value""",
        {"key": key, "value": value},
    )


def mail_server(settings: dict[str, str]) -> MailServer:
    return MailServer(
        settings["mail_host"],
        int(settings["mail_port"]),
        settings["mail_security"],
        settings["mail_user"],
        settings["mail_password"],
    )


def calendar_hash(conn: sqlite3.Connection) -> str | None:
    """What the secret of the calendar's address comes to; the secret itself is not kept. None where none was made."""
    row = conn.execute("SELECT value FROM preference WHERE key = 'calendar_hash'").fetchone()
    return row["value"] if row else None


def new_calendar_secret(conn: sqlite3.Connection) -> str:
    """A fresh one: the old address stops working."""
    made = secrets.token_urlsafe(24)
    _set(conn, "calendar_hash", hashed(made))
    return made


def end_calendar(conn: sqlite3.Connection) -> None:
    conn.execute("DELETE FROM preference WHERE key = 'calendar_hash'")


def unlisted_tanks(conn: sqlite3.Connection) -> set[int]:
    """Tanks that do not stand in the feed."""
    return {row["tank_id"] for row in conn.execute("SELECT tank_id FROM calendar_tank WHERE listed = 0")}


def list_tank(conn: sqlite3.Connection, tank_id: int, listed: bool) -> None:
    conn.execute(
        """INSERT INTO calendar_tank (tank_id, listed) VALUES (:tank, :listed)
           ON CONFLICT (tank_id) DO UPDATE SET listed = excluded.listed""",
        {"tank": tank_id, "listed": int(listed)},
    )


@dataclass(frozen=True)
class Reminder:
    """The mail of a day: sending (nobody knows whether it arrived), sent, refused, or nothing to remind of."""

    day: date
    state: str
    subject: str
    body: str
    tries: int
    last_try: datetime
    next_try: datetime | None
    last_error: str


def reminder(conn: sqlite3.Connection, day: date) -> Reminder | None:
    row = conn.execute(
        """SELECT day, state, subject, body, tries, last_try, next_try, last_error
           FROM reminder WHERE day = :day""",
        {"day": day.isoformat()},
    ).fetchone()
    return None if row is None else _reminder(row)


def reminders(conn: sqlite3.Connection, most: int = 14) -> list[Reminder]:
    """The latest first."""
    rows = conn.execute(
        """SELECT day, state, subject, body, tries, last_try, next_try, last_error
           FROM reminder ORDER BY day DESC LIMIT :most""",
        {"most": most},
    )
    return [_reminder(row) for row in rows]


def _reminder(row: sqlite3.Row) -> Reminder:
    return Reminder(
        date.fromisoformat(row["day"]),
        row["state"],
        row["subject"],
        row["body"],
        row["tries"],
        datetime.fromisoformat(row["last_try"]),
        datetime.fromisoformat(row["next_try"]) if row["next_try"] else None,
        row["last_error"],
    )


def keep_reminder(conn: sqlite3.Connection, one: Reminder) -> None:
    conn.execute(
        """INSERT INTO reminder (day, state, subject, body, tries, last_try, next_try, last_error)
           VALUES (:day, :state, :subject, :body, :tries, :last_try, :next_try, :last_error)
           ON CONFLICT (day) DO UPDATE SET state = excluded.state, subject = excluded.subject, body = excluded.body,
             tries = excluded.tries, last_try = excluded.last_try, next_try = excluded.next_try,
             last_error = excluded.last_error""",
        {
            "day": one.day.isoformat(),
            "state": one.state,
            "subject": one.subject,
            "body": one.body,
            "tries": one.tries,
            "last_try": one.last_try.isoformat(),
            "next_try": one.next_try.isoformat() if one.next_try else None,
            "last_error": one.last_error,
        },
    )
