"""While the keeper is away: the sheet, its secret address, and what the helper ticks and says."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from secrets import token_urlsafe

from jarbloom.core.advice.away import Absence, Sheet, check, sheet
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.model.entry import Body
from jarbloom.core.model.tank import Tank
from jarbloom.deeds import photos
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.look import see_tank
from jarbloom.deeds.photos import Sent
from jarbloom.errors import NotFound, Refused
from jarbloom.store import away, journal, tanks
from jarbloom.store.away import Kept
from jarbloom.store.db import transaction

SHOWN_AFTER = timedelta(days=2)  # the address still answers so long after the last day
HELPER = "the helper"
MOST_WORDS = 2000


@dataclass(frozen=True)
class Seen:
    """A tank's sheet with what was ticked; `shared`: an address shows it."""

    tank: Tank
    sheet: Sheet
    ticked: frozenset[tuple[date, str]]
    shared: bool
    today: date


def make(desk: Desk, slug: str, absence: Absence) -> None:
    """Keep what was set down; an older sheet of the tank ends. Raises Refused naming the field."""
    check(absence, desk.now.date())
    told = {"every": absence.every, "grams": absence.grams, "contact": absence.contact[:400],
            "normal": absence.normal[:MOST_WORDS], "extra": absence.extra[:MOST_WORDS]}  # fmt: skip
    with transaction(desk.conn):
        tank = tanks.tank(desk.conn, slug)
        away.save(desk.conn, tank.id, absence.first, absence.last, told, desk.now)


def seen(desk: Desk, slug: str) -> Seen | None:
    """The present sheet of a tank; None where none is set down, or its days are long over."""
    tank = tanks.tank(desk.conn, slug)
    kept = away.latest(desk.conn, tank.id)
    return None if kept is None or _over(desk, kept) else _seen(desk, tank, kept)


def _over(desk: Desk, kept: Kept) -> bool:
    return kept.last + SHOWN_AFTER < desk.now.date()


def _seen(desk: Desk, tank: Tank, kept: Kept) -> Seen:
    shown = sheet(see_tank(desk, tank).situation, Absence(kept.first, kept.last, **kept.told))
    live = {e.id for e in desk.log(tank.id)}
    ticked = frozenset(k for k, entry in away.ticks(desk.conn, kept.id).items() if entry in live)
    return Seen(tank, shown, ticked, kept.shared, desk.now.date())


def share(desk: Desk, slug: str) -> str:
    """A new secret for the sheet's address; an older one ends with it. Shown once: only its hash is kept."""
    secret = token_urlsafe(24)
    with transaction(desk.conn):
        away.share(desk.conn, _of(desk, slug).id, secret)
    return secret


def withdraw(desk: Desk, slug: str) -> None:
    with transaction(desk.conn):
        away.share(desk.conn, _of(desk, slug).id, None)


def end(desk: Desk, slug: str) -> None:
    """Back again: the sheet ends, and its address."""
    with transaction(desk.conn):
        away.end(desk.conn, tanks.tank(desk.conn, slug).id, desk.now)


def _of(desk: Desk, slug: str) -> Kept:
    kept = away.latest(desk.conn, tanks.tank(desk.conn, slug).id)
    if kept is None:
        raise NotFound("No sheet is set down for this tank.")
    return kept


def by_secret(desk: Desk, secret: str) -> tuple[Kept, Tank]:
    """Raises NotFound for an address that is unknown, withdrawn, or over: all three are told alike."""
    kept = away.by_secret(desk.conn, secret)
    if kept is None or _over(desk, kept):
        raise NotFound("This sheet is over, or was withdrawn. Ask whoever sent you the address.")
    return kept, tanks.by_id(desk.conn, kept.tank_id)


def seen_by(desk: Desk, secret: str) -> Seen:
    kept, tank = by_secret(desk, secret)
    return _seen(desk, tank, kept)


def tick(desk: Desk, secret: str, day: date, what: str) -> None:
    """Write what was done on a day into the log, or strike it when it was ticked before. Raises Refused for a day that
    is not on the sheet or has not come yet."""
    kept, tank = by_secret(desk, secret)
    known = _seen(desk, tank, kept)
    line = next((d for d in known.sheet.days if d.day == day), None)
    if line is None or day > desk.now.date():
        raise Refused("Only days of the sheet that have come can be ticked.", "day")
    body: Body
    if what == "fed" and line.portion:
        body = Feed.from_raw({"grams": line.portion})
    elif what == "topped" and line.topoff_l:
        body = TopOff.from_raw({"litres": line.topoff_l})
    elif what == "looked":
        body = Observation.from_raw({"signs": ["calm"], "text": "looked at, as it should be"})
    else:
        raise Refused("That is not on the sheet of this day.", "what")
    at = desk.now if day == desk.now.date() else desk.now.replace(year=day.year, month=day.month, day=day.day)
    with transaction(desk.conn):
        had = away.ticks(desk.conn, kept.id).get((day, what))
        if had is not None and (day, what) in known.ticked:
            act = journal.new_act(desk.conn, tank.id, "void", desk.now, f"{HELPER.capitalize()} took a tick back")
            journal.mark(desk.conn, act, had, False)
            away.untick(desk.conn, kept.id, day, what)
            return
        entry = replace(desk.entry(body, at), who=HELPER)
        sentence = f"Ticked by {HELPER}: {body.words(desk.reference.species, desk.preferences.units)}"
        _, ids = journal.write_all(desk.conn, tank.id, "log", sentence, [entry], desk.now)
        away.tick(desk.conn, kept.id, day, what, ids[0], desk.now)


def say(desk: Desk, secret: str, words: str, sent: Sequence[Sent]) -> None:
    """A word or a photo of the helper into the log. Raises Refused naming the field."""
    _, tank = by_secret(desk, secret)
    words = words.strip()
    if not words and not sent:
        raise Refused("Say something, or choose a photo.", "words")
    if len(words) > MOST_WORDS:
        raise Refused(f"That is {len(words):,} characters; at most {MOST_WORDS:,}.", "words")
    theirs = replace(desk, preferences=replace(desk.preferences, who=HELPER))
    if sent:
        photos.add(theirs, tank.slug, sent[:1], text=words, as_taken=False)
        return
    with transaction(desk.conn):
        entry = theirs.entry(Note(text=words))
        journal.write_all(desk.conn, tank.id, "log", f"A word of {HELPER}", [entry], desk.now)
