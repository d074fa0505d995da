"""Logging, correcting, voiding, undoing: each one transaction, none overwrites anything."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from jarbloom.core.journal.book import stock
from jarbloom.core.journal.complete import Setting, complete
from jarbloom.core.journal.kinds import ANIMAL_KINDS, JOINS, KINDS, LEAVES, NOTE_MAX, clean_body
from jarbloom.core.journal.line.shorthand import parse
from jarbloom.core.journal.line.times import check_not_future
from jarbloom.core.journal.line.vocabulary import Parsed
from jarbloom.core.journal.readings import LABELS, read
from jarbloom.core.journal.words import words
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import QUANTITIES
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l
from jarbloom.deeds.desk import Desk
from jarbloom.errors import Clash, Refused
from jarbloom.store import journal, tanks
from jarbloom.store.db import transaction


@dataclass(frozen=True)
class Saved:
    """What was kept: the act to undo, a sentence for it, and what of the line is still open."""

    act_id: int
    sentence: str
    entry_ids: tuple[int, ...] = ()
    leftover: str = ""
    parsed: Parsed | None = None


@dataclass(frozen=True)
class FilledForm:
    """A filled entry form: raw fields in canonical units, readings as typed text."""

    kind: str
    at: datetime
    raw: Mapping[str, Any] = field(default_factory=dict)
    readings: Mapping[str, str] = field(default_factory=dict)
    note: str = ""
    who: str = ""


def setting_of(desk: Desk, tank: Tank, entries: list[Entry] | None = None) -> Setting:
    living = stock(journal.entries(desk.conn, tank.id) if entries is None else entries, desk.now.date())
    return Setting(
        net_l(tank),
        tank.kit,
        desk.preferences.units,
        desk.reference.species,
        tuple(g.species for g in living),
        tank.solution_percent,
    )


def understand(desk: Desk, slug: str, line: str) -> Parsed:
    """What a line would be taken for; writes nothing."""
    tank = tanks.tank(desk.conn, slug)
    return parse(line, desk.now, setting_of(desk, tank))


def log_line(desk: Desk, slug: str, line: str, anyway: bool = False) -> Saved:
    """Save what is understood of a line; the rest comes back as `leftover` with its questions.

    Raises Refused when nothing is understood, Clash when the same stands at the same minute already.
    """
    tank = tanks.tank(desk.conn, slug)
    entries = journal.entries(desk.conn, tank.id)
    setting = setting_of(desk, tank, entries)
    parsed = parse(line, desk.now, setting)
    if not parsed.drafts:
        questions = [chip.label for chip in parsed.chips if not chip.ok]
        raise Refused(questions[0] if questions else "Type what was read or done, for example am .25 ni 1.", "line")
    zone, who = desk.preferences.zone, desk.preferences.who
    new = [Entry(d.kind, parsed.at, d.body, d.readings, "", who, zone) for d in parsed.drafts]
    for entry in new:
        _check_start(entry, tank)
        _check_leaving(entry, entries, setting)
        if not anyway:
            _check_clash(entry, entries)
    with transaction(desk.conn):
        sentence = "; ".join(_sentence(e, desk) for e in new)
        act_id, ids = journal.write_all(desk.conn, tank.id, "log", sentence, new, desk.now)
    return Saved(act_id, sentence, tuple(ids), parsed.leftover, parsed)


def log_entry(desk: Desk, slug: str, filled: FilledForm, anyway: bool = False) -> Saved:
    """Save a filled form. Raises Refused naming the field, Clash as above."""
    tank = tanks.tank(desk.conn, slug)
    entries = journal.entries(desk.conn, tank.id)
    entry = _entry(desk, tank, filled, entries)
    _check_leaving(entry, entries, setting_of(desk, tank, entries))
    if not anyway:
        _check_clash(entry, entries)
    with transaction(desk.conn):
        sentence = _sentence(entry, desk)
        act_id, ids = journal.write_all(desk.conn, tank.id, "log", sentence, [entry], desk.now)
    return Saved(act_id, sentence, tuple(ids))


def _entry(desk: Desk, tank: Tank, filled: FilledForm, entries: list[Entry]) -> Entry:
    check_not_future(filled.at, desk.now)
    if len(filled.note) > NOTE_MAX:
        raise Refused(f"This note is {len(filled.note):,} characters long; at most {NOTE_MAX:,} can be kept.", "note")
    setting = setting_of(desk, tank, entries)
    body = clean_body(filled.kind, filled.raw)
    readings = ()
    if filled.kind == "test":
        unit = desk.preferences.units.unit("temp")
        readings = tuple(read(q, filled.readings[q], tank.kit, unit) for q in QUANTITIES if filled.readings.get(q))
        if not readings:
            raise Refused("Give at least one reading.", "ammonia")
    elif filled.kind == "observation" and not body:
        raise Refused("Say what was seen.", "text")
    else:
        body = complete(filled.kind, body, setting)
    who = filled.who or desk.preferences.who
    entry = Entry(filled.kind, filled.at, body, readings, filled.note, who, desk.preferences.zone)
    _check_start(entry, tank)
    return entry


def _check_start(entry: Entry, tank: Tank) -> None:
    if entry.kind in JOINS and entry.at.date() < tank.started:
        raise Refused(f"The tank was set up on {tank.started:%-d %b %Y}; nobody lived in it before.", "at")


def _check_clash(new: Entry, entries: list[Entry]) -> None:
    minute = new.at.replace(second=0, microsecond=0)
    for old in entries:
        if old.kind != new.kind or old.at.replace(second=0, microsecond=0) != minute:
            continue
        if new.kind == "test":
            both = {r.quantity for r in new.readings} & {r.quantity for r in old.readings}
            if both:
                names = " and ".join(LABELS[q] for q in QUANTITIES if q in both)
                raise Clash(f"There is already a reading of {names} at {new.at:%H:%M} on {new.at:%-d %b}.", "at")
        elif _alike(new, old):
            raise Clash(f"The same {KINDS[new.kind].label.lower()} stands in the log at {new.at:%H:%M} already.", "at")


def _alike(a: Entry, b: Entry) -> bool:
    if a.kind in ANIMAL_KINDS:
        return a.body["species"] == b.body["species"]
    if a.kind in ("note", "observation"):
        return a.body.get("text") == b.body.get("text")
    return True


def _check_leaving(new: Entry, entries: list[Entry], setting: Setting) -> None:
    if new.kind not in LEAVES:
        return
    there = sum(g.count for g in stock(entries, new.at.date()) if g.species == new.body["species"])
    name = setting.species[new.body["species"]].name
    if there == 0:
        raise Refused(f"The log has no {name} in this tank on {new.at:%-d %b}.", "species")
    if new.body["count"] > there:
        raise Refused(f"Only {there} {name} lived there on {new.at:%-d %b}.", "count")


def _sentence(entry: Entry, desk: Desk) -> str:
    text = words(entry, desk.reference.species, desk.preferences.units)
    return f"{KINDS[entry.kind].label}: {text[:300]}"


def correct_entry(desk: Desk, slug: str, entry_id: int, filled: FilledForm) -> Saved:
    """Write a new entry that supersedes the old one. What the form does not carry (batch, override) is kept."""
    tank = tanks.tank(desk.conn, slug)
    old = journal.entry(desk.conn, tank.id, entry_id)
    if old.state != "live":
        raise Refused("This entry has been corrected or voided already.", "entry")
    if old.kind != filled.kind:
        raise Refused("A correction keeps the kind of the entry; void it and log another.", "kind")
    others = [e for e in journal.entries(desk.conn, tank.id) if e.id != entry_id]
    new = _entry(desk, tank, filled, others)
    kept = {k: old.body[k] for k in ("batch", "override", "already_in", "group", "first") if k in old.body}
    if old.kind in JOINS:
        kept.setdefault("first", old.id)  # what names this group goes on naming it
    _check_leaving(new, others, setting_of(desk, tank, others))
    new = Entry(new.kind, new.at, new.body | kept, new.readings, new.note, new.who, new.zone, supersedes=entry_id)
    with transaction(desk.conn):
        sentence = f"Corrected. {_sentence(new, desk)}"
        act_id, ids = journal.write_all(desk.conn, tank.id, "correct", sentence, [new], desk.now)
        journal.mark(desk.conn, act_id, entry_id, False)
    return Saved(act_id, sentence, tuple(ids))


def void_entry(desk: Desk, slug: str, entry_id: int) -> Saved:
    """Take an entry out of the reckoning. It stays in the journal, struck."""
    tank = tanks.tank(desk.conn, slug)
    old = journal.entry(desk.conn, tank.id, entry_id)
    if old.state != "live":
        raise Refused("This entry has been corrected or voided already.", "entry")
    with transaction(desk.conn):
        sentence = f"Voided. {_sentence(old, desk)}"
        act_id = journal.new_act(desk.conn, tank.id, "void", desk.now, sentence)
        journal.mark(desk.conn, act_id, entry_id, False)
    return Saved(act_id, sentence, (entry_id,))


def undo(desk: Desk, slug: str, act_id: int) -> Saved:
    """Take back an act by an act of its own; undoing that one brings it back."""
    tank = tanks.tank(desk.conn, slug)
    old = journal.act(desk.conn, tank.id, act_id)
    if old.undone:
        raise Refused("This has been undone already.", "act")
    marks = journal.marks_of(desk.conn, act_id)
    for entry_id, live in marks:
        if (journal.entry(desk.conn, tank.id, entry_id).state == "live") != live:
            raise Refused("This was changed again later; undo the later change first.", "act")
    with transaction(desk.conn):
        sentence = (
            f"Undone. {old.sentence}" if old.kind != "undo" else old.sentence.replace("Undone. ", "Brought back. ")
        )
        new_id = journal.new_act(desk.conn, tank.id, "undo", desk.now, sentence, undoes=act_id)
        for entry_id, live in marks:
            journal.mark(desk.conn, new_id, entry_id, not live)
    return Saved(new_id, sentence, tuple(e for e, _ in marks))
