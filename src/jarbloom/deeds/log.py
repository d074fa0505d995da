"""Logging, correcting, voiding, undoing: each one transaction, none overwrites anything.

The transaction comes first: what is checked is what stands when it is written, also when the same thing is sent twice.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Any

from jarbloom.core.advice.situation import missing_for
from jarbloom.core.causes.aftermath import resume_on
from jarbloom.core.journal.asking import Tap
from jarbloom.core.journal.book import JOINED, LEFT, stock
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.animals import AboutAnimals
from jarbloom.core.journal.kinds.answered import Answered
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.choices import CHANGED_LATELY, SIGNS
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.field import NOTE_MAX
from jarbloom.core.journal.kinds.kind import Kind
from jarbloom.core.journal.kinds.lesson import Lesson
from jarbloom.core.journal.kinds.named import Named
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.line.parsed import Parsed
from jarbloom.core.journal.line.suggest import suggestions
from jarbloom.core.journal.line.times import check_not_future
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.readings import LABELS
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.volume import net_l
from jarbloom.deeds import water_record
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.look import see
from jarbloom.errors import Clash, GateClosed, Refused
from jarbloom.store import journal, tanks
from jarbloom.store.db import transaction
from jarbloom.units import number


@dataclass(frozen=True)
class Saved:
    """What was kept: the act to undo, and a sentence for it."""

    act_id: int
    sentence: str
    entry_ids: tuple[int, ...] = ()


@dataclass(frozen=True)
class FilledForm:
    """A filled entry form: raw fields in canonical units, readings as typed text."""

    kind: str
    at: datetime
    raw: Mapping[str, Any] = field(default_factory=dict)
    readings: Mapping[str, str] = field(default_factory=dict)
    note: str = ""
    who: str = ""


def setting_of(desk: Desk, tank: Tank, log: Log | None = None) -> Setting:
    found = desk.log(tank.id) if log is None else log
    living: dict[str, int] = {}
    for animals in stock(found, desk.now.date()):
        living[animals.species] = living.get(animals.species, 0) + animals.count
    names = {e.body.called.lower(): e.body.species for e in found.kinds(Named) if e.body.species in living}
    return Setting(
        net_l(tank),
        tank.kit,
        desk.preferences.units,
        desk.reference.species,
        living,
        tank.solution_percent,
        names,
        desk.reference.words,
        desk.preferences.dates,
    )


def understand(desk: Desk, slug: str, line: str) -> Parsed:
    """What a line would be taken for; writes nothing."""
    tank = tanks.tank(desk.conn, slug)
    return parse(line, desk.now, setting_of(desk, tank))


def goes_on(desk: Desk, slug: str, line: str) -> tuple[Tap, ...]:
    """How a line that is being typed may go on."""
    return suggestions(line, setting_of(desk, tanks.tank(desk.conn, slug)))


KEPT_AT_MOST = timedelta(days=60)


def typed_at(desk: Desk, age: str) -> datetime:
    """The moment at which a line was kept on a phone without network: so many seconds before it was sent, by the
    phone's own clock, whatever that clock shows. Raises Refused for what is no number or longer than lines are kept."""
    seconds = number(age or "0", "age")
    if not 0 <= seconds <= KEPT_AT_MOST.total_seconds():
        raise Refused("This line was kept on the phone for more than 60 days: type it anew with its date.", "age")
    return desk.now - timedelta(seconds=round(seconds))


def log_line(
    desk: Desk, slug: str, line: str, anyway: bool = False, reason: str = "", typed: datetime | None = None
) -> Saved:
    """Save a line that is wholly understood. `reason`: why animals come in against the gate. `typed`: when it was
    typed, where that was earlier: words like 'yesterday' count from there.

    Raises Refused with the first question when a word of it is open, Clash when the same stands at the same minute
    already, GateClosed when animals come in that the gate holds and no reason is given; nothing is saved then.
    """
    typed = typed or desk.now
    tank = tanks.tank(desk.conn, slug)
    log = desk.log(tank.id)
    setting = setting_of(desk, tank, log)
    parsed = parse(line, typed, setting)
    lately = [b for at, b in parsed.entries if desk.now - at <= JUST_NOW and at.date() >= tank.started]
    if lately:
        reason = meets_gate(desk, slug, lately, reason)
    with transaction(desk.conn):
        before = tank, log
        tank = tanks.tank(desk.conn, slug)
        log = desk.log(tank.id)
        if tank != before[0] or log is not before[1]:  # something was written meanwhile
            setting = setting_of(desk, tank, log)
            parsed = parse(line, typed, setting)
        if not parsed.bodies:
            asked = parsed.questions
            raise Refused(asked[0].label if asked else "Type what was read or done, for example am .25 ni 1.", "line")
        new = entries_of(desk, parsed, reason)
        for entry in new:
            check_start(entry, tank)
            check_leaving(entry, log, setting)
            if not anyway:
                check_clash(entry, log)
        read = water_record.read_in(desk, tank, setting, new)
        kept = [f"kept in the record of {water.name}" for _, water in read]
        sentence = "; ".join([*(_sentence(e, desk) for e in new), *kept])
        act_id, ids = journal.write_all(desk.conn, tank.id, "log", sentence, new, desk.now)
        water_record.keep(desk, read, ids)
    return Saved(act_id, sentence, tuple(ids))


def entries_of(desk: Desk, parsed: Parsed, reason: str = "") -> list[Entry]:
    """What a line says, each at its moment; words that are kept with it stand at the first. `reason`: why animals come
    in against the gate."""
    bodies = [b.changed(override=reason) if isinstance(b, Arrival) and reason else b for b in parsed.bodies]
    moments = [at for at, _ in parsed.entries]
    return [desk.entry(b, moments[k], "" if k else parsed.note) for k, b in enumerate(bodies)]


def log_entry(desk: Desk, slug: str, filled: FilledForm, anyway: bool = False, reason: str = "") -> Saved:
    """Save a filled form. Raises Refused naming the field, Clash and GateClosed as above."""
    if filled.kind == Arrival.key and desk.now - filled.at <= JUST_NOW:
        tank = tanks.tank(desk.conn, slug)
        reason = meets_gate(desk, slug, [_entry(desk, tank, filled, desk.log(tank.id)).body], reason)
    with transaction(desk.conn):
        tank = tanks.tank(desk.conn, slug)
        log = desk.log(tank.id)
        entry = _entry(desk, tank, filled, log)
        if isinstance(entry.body, Arrival) and reason:
            entry = replace(entry, body=entry.body.changed(override=reason))
        check_leaving(entry, log, setting_of(desk, tank, log))
        if not anyway:
            check_clash(entry, log)
        sentence = _sentence(entry, desk)
        act_id, ids = journal.write_all(desk.conn, tank.id, "log", sentence, [entry], desk.now)
        water_record.keep(desk, water_record.read_in(desk, tank, setting_of(desk, tank, log), [entry]), ids)
    return Saved(act_id, sentence, tuple(ids))


def answer_check(desk: Desk, slug: str, check: str, token: str) -> Saved:
    """Save what a check of the upset desk came to. Raises Refused when the table knows no such answer."""
    asked = desk.reference.causes.checks.get(check)
    answer = next((a for a in asked.answers if a.token == token), None) if asked else None
    if asked is None or answer is None:
        raise Refused("The desk knows no such answer.", "answer")
    body = Answered(check=check, answer=token, title=asked.title, text=answer.label)
    return _write(desk, slug, [body])


def tell_desk(desk: Desk, slug: str, signs: Sequence[str], changed: Sequence[str], words: str) -> Saved:
    """Save what is seen, and what changed lately, as taps and in words. Raises Refused when nothing was said."""
    odd = [s for s in signs if s not in SIGNS] + [c for c in changed if c not in CHANGED_LATELY]
    if odd:
        raise Refused(f"“{odd[0][:40]}” is no sign that the desk knows.", "signs")
    bodies: list[Body] = []
    if signs or words.strip():
        bodies.append(Observation.from_raw({"signs": list(signs), "text": words.strip()}))
    bodies += [Note(text=CHANGED_LATELY[c]) for c in changed]
    if not bodies:
        raise Refused("Tick what is seen, or say it in words.", "signs")
    return _write(desk, slug, bodies)


def close_upset(desk: Desk, slug: str, cause: str, text: str, prevent: str, ask: bool) -> Saved:
    """Write down what an upset was; new animals wait from today as its cause asks. Raises Refused with the field."""
    causes = desk.reference.causes
    if cause not in causes.rows and cause != UNKNOWN:
        raise Refused("Choose what it was, or ‘not known’.", "cause")
    row = causes.rows.get(cause)
    if not text.strip():
        raise Refused("Say what happened, in a sentence.", "text")
    resume = resume_on(row, causes, desk.now.date())
    body = Lesson.from_raw({"cause": cause, "title": row.title if row else "cause not known", "text": text.strip(),
                            "prevent": prevent.strip(), "ask": ask, "resume": resume.isoformat()})  # fmt: skip
    return _write(desk, slug, [body])


def log_deaths(desk: Desk, slug: str, found: Mapping[str, tuple[int, str]], words: str) -> Saved:
    """Several kinds at once: (count, body) by species, and what is said of all of them. Raises Refused at the field
    `dead-<species>`; nothing is saved then."""
    with transaction(desk.conn):
        tank = tanks.tank(desk.conn, slug)
        log = desk.log(tank.id)
        setting = setting_of(desk, tank, log)
        new = []
        for species, (count, body) in found.items():
            try:
                entry = desk.entry(Death.from_raw({"species": species, "count": count, "cause": words, "body": body}))
                check_leaving(entry, log, setting)
            except Refused as problem:
                raise Refused(problem.sentence, f"dead-{species}") from None
            new.append(entry)
        if not new:
            raise Refused("Say how many of whom.", "words")
        sentence = "; ".join(_sentence(e, desk) for e in new)
        act_id, ids = journal.write_all(desk.conn, tank.id, "log", sentence, new, desk.now)
    return Saved(act_id, sentence, tuple(ids))


UNKNOWN = "unknown"  # the keeper does not know what an upset was


def _write(desk: Desk, slug: str, bodies: Sequence[Body]) -> Saved:
    with transaction(desk.conn):
        tank = tanks.tank(desk.conn, slug)
        new = [desk.entry(b) for b in bodies]
        sentence = "; ".join(_sentence(e, desk) for e in new)
        act_id, ids = journal.write_all(desk.conn, tank.id, "log", sentence, new, desk.now)
    return Saved(act_id, sentence, tuple(ids))


LEAST_REASON = 5  # characters
JUST_NOW = timedelta(days=1)  # animals that came longer ago are a fact that no gate holds up; what follows is found


def meets_gate(desk: Desk, slug: str, bodies: Sequence[Body], reason: str) -> str:
    """The reason that stays in the log with animals that come in against the gate; '' where the gate lets them in.

    Raises GateClosed with what is missing when the gate holds and no reason is given.
    """
    coming = [Animals(b.species, b.count, b.length_cm) for b in bodies if isinstance(b, Arrival) and not b.already_in]
    if not coming:
        return ""
    missing = missing_for(see(desk, slug).situation, coming)
    if not missing:
        return ""
    reason = reason.strip()[:500]
    if len(reason) < LEAST_REASON:
        raise GateClosed(
            f"The gate holds them: {'; '.join(missing[:3])}. If they are in all the same, give the reason."
        )
    return reason


def _entry(desk: Desk, tank: Tank, filled: FilledForm, log: Log, carried: Mapping[str, Any] | None = None) -> Entry:
    check_not_future(filled.at, desk.now)
    if len(filled.note) > NOTE_MAX:
        raise Refused(f"This note is {len(filled.note):,} characters long; at most {NOTE_MAX:,} can be kept.", "note")
    kind = KINDS[filled.kind]
    body: Kind
    if issubclass(kind, Tested):
        body = kind.typed(filled.readings, tank.kit, desk.preferences.units.unit("temp"))
    else:
        body = kind.from_raw({**filled.raw, **(carried or {})}).completed(setting_of(desk, tank, log))
    entry = desk.entry(body, filled.at.astimezone(desk.preferences.tz), filled.note, filled.who)
    check_start(entry, tank)
    return entry


def check_start(entry: Entry, tank: Tank) -> None:
    if entry.day >= tank.started:
        return
    if isinstance(entry.body, JOINED):
        raise Refused(f"The tank was set up on {tank.started:%-d %b %Y}; nobody lived in it before.", "at")
    if isinstance(entry.body, Tested):
        raise Refused(f"The tank was set up on {tank.started:%-d %b %Y}; there was no water to test before.", "at")


def check_clash(new: Entry, log: Log) -> None:
    minute, alike = new.order[0], log.kinds(type(new.body))
    for old in alike[bisect_left(alike, minute, key=lambda e: e.order[0]) :]:
        if old.order[0] != minute:
            break
        if not new.body.repeats(old.body):
            continue
        if isinstance(new.body, Tested):
            names = " and ".join(LABELS[q] for q in new.body.both(old.body))
            raise Clash(f"There is already a reading of {names} at {new.at:%H:%M} on {new.at:%-d %b}.", "at")
        raise Clash(f"The same {new.body.label.lower()} stands in the log at {new.at:%H:%M} already.", "at")


def check_leaving(new: Entry, log: Log, setting: Setting) -> None:
    if not isinstance(new.body, LEFT):
        return
    assert isinstance(new.body, AboutAnimals)
    there = sum(g.count for g in stock(log, new.day) if g.species == new.body.species)
    name = setting.species[new.body.species].name
    if there == 0:
        raise Refused(f"The log has no {name} in this tank on {new.at:%-d %b}.", "species")
    if new.body.count > there:
        raise Refused(f"Only {there} {name} lived there on {new.at:%-d %b}.", "count")


def _sentence(entry: Entry, desk: Desk) -> str:
    text = entry.body.words(desk.reference.species, desk.preferences.units)
    return f"{entry.body.label}: {text[:300]}"


def correct_entry(desk: Desk, slug: str, entry_id: int, filled: FilledForm) -> Saved:
    """Write a new entry that supersedes the old one. What the form does not carry (batch, override) is kept."""
    with transaction(desk.conn):
        tank = tanks.tank(desk.conn, slug)
        old = journal.entry(desk.conn, tank.id, entry_id, desk.preferences.tz)
        _check_stands(old)
        if old.kind != filled.kind:
            raise Refused("A correction keeps the kind of the entry; void it and log another.", "kind")
        others = Log.of((e for e in desk.log(tank.id) if e.id != entry_id), desk.preferences.tz)
        carried = old.body.carried
        if isinstance(old.body, JOINED):
            carried.setdefault("first", old.id)  # what names this group goes on naming it
        new = replace(_entry(desk, tank, filled, others, carried), supersedes=entry_id)
        check_leaving(new, others, setting_of(desk, tank, others))
        sentence = f"Corrected. {_sentence(new, desk)}"
        act_id, ids = journal.write_all(desk.conn, tank.id, "correct", sentence, [new], desk.now)
        journal.mark(desk.conn, act_id, entry_id, False)
        water_record.keep(desk, water_record.read_in(desk, tank, setting_of(desk, tank, others), [new]), ids)
    return Saved(act_id, sentence, tuple(ids))


def _check_stands(entry: Entry) -> None:
    if entry.state != "live":
        raise Refused("This entry has been corrected or voided already.", "entry")


def void_entry(desk: Desk, slug: str, entry_id: int) -> Saved:
    """Take an entry out of the reckoning. It stays in the journal, struck."""
    with transaction(desk.conn):
        tank = tanks.tank(desk.conn, slug)
        old = journal.entry(desk.conn, tank.id, entry_id, desk.preferences.tz)
        _check_stands(old)
        sentence = f"Voided. {_sentence(old, desk)}"
        act_id = journal.new_act(desk.conn, tank.id, "void", desk.now, sentence)
        journal.mark(desk.conn, act_id, entry_id, False)
    return Saved(act_id, sentence, (entry_id,))


def undo(desk: Desk, slug: str, act_id: int) -> Saved:
    """Take back an act by an act of its own; undoing that one brings it back."""
    with transaction(desk.conn):
        tank = tanks.tank(desk.conn, slug)
        old = journal.act(desk.conn, tank.id, act_id)
        if old.undone:
            raise Refused("This has been undone already.", "act")
        marks = journal.marks_of(desk.conn, act_id)
        if any(m.live != m.live_now for m in marks):
            raise Refused("This was changed again later; undo the later change first.", "act")
        sentence = (
            f"Undone. {old.sentence}" if old.kind != "undo" else old.sentence.replace("Undone. ", "Brought back. ")
        )
        new_id = journal.new_act(desk.conn, tank.id, "undo", desk.now, sentence, undoes=act_id)
        for m in marks:
            journal.mark(desk.conn, new_id, m.entry_id, not m.live)
    return Saved(new_id, sentence, tuple(m.entry_id for m in marks))
