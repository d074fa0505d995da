"""The log book: what is looked for in it, what changed before something, and several entries voided or shifted."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from datetime import timedelta

from jarbloom.core.history.happened import LANES
from jarbloom.core.journal.book import JOINED
from jarbloom.core.journal.kinds import KINDS
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.line.times import check_not_future
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.readings import LABELS
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Tank
from jarbloom.deeds import water_record
from jarbloom.deeds.desk import Desk
from jarbloom.deeds.log import Saved, check_leaving, check_start, setting_of
from jarbloom.errors import NotFound, Refused
from jarbloom.store import journal, tanks
from jarbloom.store.db import transaction
from jarbloom.store.words import with_word, words_of

BEFORE = timedelta(days=14)
MOST_AT_ONCE = 200
LONGEST_SHIFT = timedelta(days=366)


def found(desk: Desk, tank: Tank, entries: Sequence[Entry], text: str) -> list[Entry]:
    """Entries in which every word of `text` begins a word: of a note, an animal, a kind or its name, or of what was
    tested."""
    kept = list(entries)
    for word in words_of(text):
        ids = with_word(desk.conn, tank.id, word)
        kinds = {key for key, k in KINDS.items() if any(w.startswith(word) for w in words_of(k.label))}
        tested = {q for q, label in LABELS.items() if any(w.startswith(word) for w in (q, *words_of(label)))}
        if not kinds and not tested:
            kept = [e for e in kept if e.id in ids]
            continue
        kept = [
            e for e in kept
            if e.id in ids or e.kind in kinds or (tested and any(r.quantity in tested for r in e.readings))
        ]  # fmt: skip
    return kept


CHANGES = {kind.key for kinds in LANES.values() for kind in kinds if kind is not Note} | {Feed.key}


def changed_before(desk: Desk, tank: Tank, entry_id: int) -> tuple[Entry, list[Entry]]:
    """An entry, and what was done or befell in the two weeks before it. Raises NotFound."""
    log = desk.log(tank.id)
    entry = next((e for e in log if e.id == entry_id), None)
    if entry is None:
        raise NotFound("That entry was not found in this tank's log.")
    before = log.since((entry.at - BEFORE).date()).until(entry.at)
    return entry, [e for e in before if e.kind in CHANGES and e.order < entry.order and entry.at - e.at <= BEFORE]


def void_several(desk: Desk, slug: str, ids: Collection[int]) -> Saved:
    """Strike these entries in one act."""
    with transaction(desk.conn):
        tank, chosen = _chosen(desk, slug, ids)
        sentence = f"Voided {_many(chosen)}"
        act_id = journal.new_act(desk.conn, tank.id, "void", desk.now, sentence)
        for e in chosen:
            journal.mark(desk.conn, act_id, e.id, False)
    return Saved(act_id, sentence, tuple(e.id for e in chosen))


def shift_several(desk: Desk, slug: str, ids: Collection[int], by: timedelta) -> Saved:
    """Move these entries in time together, each superseded by itself at its new moment, in one act. Raises Refused when
    one would lie before the tank's first day or has not come yet; nothing is moved then."""
    if not by or abs(by) > LONGEST_SHIFT:
        raise Refused("Shift by how much? For example 1 h, or -2 days; at most a year.", "by")
    with transaction(desk.conn):
        tank, chosen = _chosen(desk, slug, ids)
        moved = []
        for e in chosen:
            body = e.body
            if isinstance(body, JOINED) and body.first is None:
                body = body.changed(first=e.id)  # what names this group goes on naming it
            new = replace(e, body=body, at=e.at + by, id=0, supersedes=e.id, recorded_at=None, act=0)
            check_not_future(new.at, desk.now)
            check_start(new, tank)
            moved.append(new)
        stays = [e for e in desk.log(tank.id) if e not in chosen]
        for k, new in enumerate(moved):
            others = Log.of([*stays, *moved[:k], *moved[k + 1 :]])
            check_leaving(new, others, setting_of(desk, tank, others))
        sentence = f"Shifted {_many(chosen)} by {told(by)}"
        act_id, made = journal.write_all(desk.conn, tank.id, "correct", sentence, moved, desk.now)
        for e in chosen:
            journal.mark(desk.conn, act_id, e.id, False)
        water_record.keep(desk, water_record.read_in(desk, tank, setting_of(desk, tank, Log.of(stays)), moved), made)
    return Saved(act_id, sentence, tuple(made))


def _chosen(desk: Desk, slug: str, ids: Collection[int]) -> tuple[Tank, list[Entry]]:
    tank = tanks.tank(desk.conn, slug)
    if not ids:
        raise Refused("Which entries? Tick one or more.", "entry")
    if len(ids) > MOST_AT_ONCE:
        raise Refused(f"{len(ids)} entries at once; at most {MOST_AT_ONCE}.", "entry")
    live = {e.id: e for e in desk.log(tank.id)}
    missing = [k for k in ids if k not in live]
    if missing:
        raise Refused("One of them has been corrected or voided meanwhile; nothing was changed.", "entry")
    return tank, sorted((live[k] for k in set(ids)), key=lambda e: e.order)


def _many(chosen: Sequence[Entry]) -> str:
    first, last = chosen[0], chosen[-1]
    days = f"{first.at:%-d %b %Y}" + (f" to {last.at:%-d %b %Y}" if last.day != first.day else "")
    return f"{len(chosen)} entr{'y' if len(chosen) == 1 else 'ies'} of {days}"


def told(by: timedelta) -> str:
    """A shift in words."""
    minutes = round(abs(by).total_seconds() / 60)
    days, rest = divmod(minutes, 1440)
    parts = [f"{days} day{'s' if days != 1 else ''}" if days else "", f"{rest // 60} h" if rest >= 60 else "",
             f"{rest % 60} min" if rest % 60 else ""]  # fmt: skip
    return ("back " if by < timedelta() else "on ") + " ".join(p for p in parts if p)
