"""One line of the log to entries: `yesterday 19:30 am .25 ni 1 wc 30% dead 1 rasbora`.

A line is taken only when every word of it is accounted for. Everything else comes back as questions, with the likely
meanings to tap; nothing of the line is saved until they are answered, and nothing that was typed is lost.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import datetime

from jarbloom.core.journal.asking import Tap, in_words
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.field import NOTE_MAX
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.parsed import Chip, Parsed
from jarbloom.core.journal.line.shorthand import ShortLine, speaker
from jarbloom.core.journal.line.taps import half_hour, half_or_between, said_again, stamp, tapped_within
from jarbloom.core.journal.readings import LABELS
from jarbloom.core.journal.setting import Setting
from jarbloom.core.journal.spoken.bends import BENDS as SPEECH_BENDS
from jarbloom.core.journal.spoken.elsewhere import read_elsewhere
from jarbloom.core.journal.spoken.pasted import lines_of
from jarbloom.core.journal.spoken.plainly import SAME_TIME, Told, tell
from jarbloom.core.model.entry import Body


def parse(line: str, now: datetime, setting: Setting) -> Parsed:
    """Read one line, in the shorthand or as people speak. Never raises for what a keeper may type."""
    if len(line) > NOTE_MAX:
        ask = f"This is {len(line):,} characters long; at most {NOTE_MAX:,} can be kept."
        return Parsed(now, (), (Chip(False, "ask", ask),))
    if "\n" in line.strip():
        return _lines(line, now, setting)
    two_ways = half_or_between(line, now) or half_hour(line, now)
    if two_ways is not None:
        return two_ways
    found = ShortLine(line, now, setting).run()
    if found.bodies or not line.strip():
        return found
    return _spoken(line, now, setting, found)


def _lines(text: str, now: datetime, setting: Setting) -> Parsed:
    """Several lines: each by itself, all of them or none."""
    lines = lines_of(text, now, setting.day_first)
    read = [parse(one, now, setting) for one in lines]
    return _together(tapped_within(read, lines, "\n".join), now)


def _spoken(line: str, now: datetime, setting: Setting, found: Parsed) -> Parsed:
    """The line as people speak; `found`: what the shorthand made of it, with its questions."""
    told = tell(line, speaker(now, setting))
    if told is None or not (told.pieces or told.unheard):
        return _in_one(line, found)
    read = [ShortLine(p.plain, now, setting).run(p.at) for p in told.deeds]
    read = tapped_within(read, [p.plain for p in told.deeds], lambda parts: said_again(told, parts, line))
    if told.unheard:
        return _proposed(line, told, read, found)
    if not read:
        at = next((p.at for p in told.pieces if p.at), now)
        waters = {w.water for w in read_elsewhere(line, now, setting.day_first)}
        to = "kept for the arrival" if waters == {"bag"} else "to that water’s record" if waters else ""
        chip = Chip(True, "note", "kept in words", line.strip()[:60], to or "nothing is counted from it")
        return Parsed(at, (Note(text=line.strip()),), (chip,))
    if len(told.pieces) == 1:  # what was seen stands in the keeper's own words
        read = [replace(r, bodies=tuple(_verbatim(b, line) for b in r.bodies)) for r in read]
    kept = [p.words for p in told.pieces if not p.plain]
    whole = _together(read, now)
    if not whole.bodies:
        return whole if len(whole.questions) <= len(found.questions) else found
    if not kept:
        return whole
    chip = Chip(True, "note", "in words", ", ".join(kept)[:60], "kept with it")
    called = f"{whole.note}, " if whole.note else ""
    return replace(whole, chips=(*whole.chips, chip), note=f"{called}{line.strip()}")


def _verbatim(body: Body, line: str) -> Body:
    return body.changed(text=line.strip()) if isinstance(body, Observation) else body


MOST_QUESTIONS = 3  # more than these are one: a story, or a question, is not asked about word by word


def _in_one(line: str, found: Parsed) -> Parsed:
    if len(found.questions) <= MOST_QUESTIONS:
        return replace(found, chips=_each_tap_once(found.chips))
    ask = Chip(
        False, "ask", "This says more than one line understands: log it in parts, or keep it in words",
        taps=in_words(line),
    )  # fmt: skip
    return Parsed(found.at, (), (ask,))


def _each_tap_once(chips: Sequence[Chip]) -> tuple[Chip, ...]:
    """Two questions of one line do not offer the same way out twice: the last one has it."""
    seen: set[Tap] = set()
    found = []
    for chip in reversed(chips):
        found.append(replace(chip, taps=tuple(t for t in chip.taps if t not in seen)))
        seen.update(chip.taps)
    return tuple(reversed(found))


def _proposed(line: str, told: Told, read: list[Parsed], found: Parsed) -> Parsed:
    """The pieces that were not understood, each with one question; what was understood beside them can be saved with
    one tap that keeps those words as they are. Where the shorthand has few and plainer questions (`found`) it asks."""
    chips = list(_once(c for r in read for c in r.chips))
    unsure = [c for c in chips if not c.ok]
    if not read and len(found.questions) <= max(2, len(told.unheard)):
        return _in_one(line, found)
    kept = in_words(line, "all of it" if read else "it")
    if told.when_open:
        words = told.unheard[0][:60]
        when = tuple(Tap(w, one) for w, one in zip(SAME_TIME, told.when_open, strict=True))
        chips = [c for c in chips if c.ok]
        return Parsed(found.at, (), (*chips, Chip(False, "ask", f"“{words}”: when was that?", taps=(*when, *kept))))
    taps: tuple[Tap, ...] = kept
    if not unsure and read and len({p.at for p in told.deeds}) == 1:
        plain = f"{stamp(told.deeds[0].at)}{' '.join(p.plain for p in told.deeds)} note {line.strip()}"
        if not any(SPEECH_BENDS.search(w) for w in told.unheard):
            taps = (Tap("keep these words, and save the rest", plain), *kept)
    asks = [Chip(False, "ask", f"“{w[:60]}” is not understood") for w in told.unheard]
    return Parsed(found.at, (), (*chips, *asks[:-1], replace(asks[-1], taps=taps)))


def _together(read: list[Parsed], now: datetime) -> Parsed:
    """Several readings of one text as one: tests of one moment are one test. A question in one leaves all unsaved."""
    chips = _once(c for r in read for c in r.chips)
    if any(not r.bodies for r in read) or not read:
        return Parsed(read[0].at if read else now, (), chips)
    bodies: list[Body] = []
    moments: list[datetime] = []
    for r in read:
        for at, body in r.entries:
            tests = [k for k, b in enumerate(bodies) if isinstance(b, Tested) and moments[k] == at]
            same = tests[-1] if tests else None
            if isinstance(body, Tested) and same is not None:
                before = bodies[same]
                assert isinstance(before, Tested)
                twice = {x.quantity for x in before.readings} & {x.quantity for x in body.readings}
                changed = any(isinstance(b, Change) for b in bodies[same + 1 :])
                if twice and not changed:
                    name = LABELS[min(twice)]
                    ask = Chip(False, "ask", f"{name.capitalize()} stands twice in this line: which one holds?")
                    return Parsed(moments[0], (), (*chips, ask))
                if not twice:
                    bodies[same] = Tested(readings=(*before.readings, *body.readings))
                    continue  # else one was read before the change and one after it
            seen = next((k for k, b in enumerate(bodies) if isinstance(b, Observation) and moments[k] == at), None)
            if isinstance(body, Observation) and seen is not None:
                first = bodies[seen]
                assert isinstance(first, Observation)
                signs = tuple(dict.fromkeys((*first.signs, *body.signs)))
                bodies[seen] = first.changed(text=f"{first.text}, {body.text}", signs=signs)
                continue
            bodies.append(body)
            moments.append(at)
    notes = ", ".join(dict.fromkeys(r.note for r in read if r.note))
    return Parsed(moments[0], tuple(bodies), chips, notes, tuple(moments))


def _once(chips: Iterable[Chip]) -> tuple[Chip, ...]:
    """A moment is said once for all that follows it."""
    kept: list[Chip] = []
    for chip in chips:
        told = next((c for c in reversed(kept) if c.label == "when"), None)
        if chip.label != "when" or chip != told:
            kept.append(chip)
    return tuple(kept)
