"""Several lines at once: each is read by itself, the good ones are one act, and those that are not wait with their
question."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jarbloom.core.journal.book import JOINED, LEFT
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.line.parse import parse
from jarbloom.core.journal.line.parsed import Parsed
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.setting import Setting
from jarbloom.core.journal.spoken.pasted import lines_of
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Tank
from jarbloom.deeds import water_record
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import (
    JUST_NOW,
    Saved,
    check_clash,
    check_leaving,
    check_start,
    entries_of,
    meets_gate,
    setting_of,
)
from jarbloom.errors import GateClosed, Refused
from jarbloom.store import journal, tanks
from jarbloom.store.db import transaction

MOST_LINES = 500


@dataclass(frozen=True)
class LineRead:
    """One line with what it was taken for; `problem` says why it waits, '' where it is good."""

    line: str
    parsed: Parsed
    problem: str
    entries: tuple[Entry, ...] = ()


def read_lines(desk: Desk, slug: str, text: str) -> tuple[LineRead, ...]:
    """Writes nothing. Raises Refused for more lines than are taken at once."""
    tank = tanks.tank(desk.conn, slug)
    log = desk.log(tank.id)
    setting = setting_of(desk, tank, log)
    lines = lines_of(text, desk.now, setting.day_first)
    if len(lines) > MOST_LINES:
        raise Refused(f"These are {len(lines):,} lines; at most {MOST_LINES} are taken at once.", "lines")
    found: list[LineRead] = []
    good: list[Entry] = []
    with_them = log  # and those who came or left by lines above
    for line in lines:
        read = _read(desk, slug, tank, (log, with_them), good, setting, line)
        found.append(read)
        good += read.entries
        if any(isinstance(e.body, JOINED + LEFT) for e in read.entries):
            with_them = Log.of([*with_them, *read.entries], desk.preferences.tz)
            setting = setting_of(desk, tank, with_them)
    return tuple(found)


def _read(
    desk: Desk, slug: str, tank: Tank, logs: tuple[Log, Log], good: Sequence[Entry], setting: Setting, line: str
) -> LineRead:
    """`logs`: as kept, and with those who came or left by the lines before."""
    log, with_them = logs
    parsed = parse(line, desk.now, setting)
    if not parsed.bodies:
        asked = parsed.questions
        return LineRead(line, parsed, asked[0].label if asked else "Nothing was understood.")
    new = tuple(entries_of(desk, parsed))
    try:
        lately = [b for at, b in parsed.entries if desk.now - at <= JUST_NOW]
        if any(isinstance(b, Arrival) for b in lately):
            meets_gate(desk, slug, lately, "")
        for entry in new:
            check_start(entry, tank)
            check_leaving(entry, with_them, setting)
            check_clash(entry, log)
            check_clash(entry, Log.of(good, desk.preferences.tz))
    except GateClosed as held:
        return LineRead(line, parsed, f"{held} It wants a line of its own.")
    except Refused as problem:
        return LineRead(line, parsed, problem.sentence)
    return LineRead(line, parsed, "", new)


def log_lines(desk: Desk, slug: str, text: str) -> tuple[Saved | None, tuple[LineRead, ...]]:
    """Keep the good lines as one act, and give back those that wait. None where no line is good."""
    with transaction(desk.conn):
        read = read_lines(desk, slug, text)
        new = [e for r in read for e in r.entries]
        waiting = tuple(r for r in read if r.problem)
        if not new:
            return None, waiting
        tank = tanks.tank(desk.conn, slug)
        n = sum(not r.problem for r in read)
        sentence = f"{n} line{'s' if n != 1 else ''} at once: {len(new)} entr{'ies' if len(new) != 1 else 'y'}"
        act_id, ids = journal.write_all(desk.conn, tank.id, "log", sentence, new, desk.now)
        water_record.keep(desk, water_record.read_in(desk, tank, setting_of(desk, tank), new), ids)
    return Saved(act_id, sentence, tuple(ids)), waiting
