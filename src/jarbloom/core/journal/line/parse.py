"""One line of the log to entries: `yesterday 19:30 am .25 ni 1 wc 30% dead 1 rasbora`.

A line is taken only when every word of it is accounted for. Everything else comes back as questions, with the likely
meanings to tap; nothing of the line is saved until they are answered, and nothing that was typed is lost.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import datetime
from functools import lru_cache
from itertools import pairwise

from jarbloom.core.animals.names import names_of
from jarbloom.core.journal.asking import Ask, Heard, Tap, in_words
from jarbloom.core.journal.hearing import is_seen, words_of
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.field import NOTE_MAX
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.parsed import Chip, Parsed
from jarbloom.core.journal.line.taps import half_hour, half_or_between, said_again, stamp, tapped_within
from jarbloom.core.journal.line.times import check_not_future, moment
from jarbloom.core.journal.line.tokens import Tokens
from jarbloom.core.journal.line.vocabulary import (
    FORMS,
    KEYWORDS,
    NUMBERS,
    OF_READINGS,
    READ,
    READING,
    SAID,
    UNITS,
    USUAL,
)
from jarbloom.core.journal.readings import LABELS, MASKED, interval_text, read
from jarbloom.core.journal.setting import Setting
from jarbloom.core.journal.spoken.bends import BENDS as SPEECH_BENDS
from jarbloom.core.journal.spoken.creatures import Residents
from jarbloom.core.journal.spoken.elsewhere import read_elsewhere
from jarbloom.core.journal.spoken.pasted import lines_of
from jarbloom.core.journal.spoken.pieces import Speaker
from jarbloom.core.journal.spoken.plainly import SAME_TIME, Told, tell
from jarbloom.core.model.entry import Body
from jarbloom.core.model.kit import MG_PER_MG_N, NITROGEN, Reading
from jarbloom.errors import Refused
from jarbloom.units import NBSP, figure, number

# Words that may turn what stands before them into something else: then the whole line is asked about
BENDS = re.compile(
    r"\?|\b(?:not|never|none|nothing|isn.?t|wasn.?t|didn.?t|don.?t|maybe|perhaps|probably|i think|guess|about|roughly|"
    r"plan\w*|will|going "
    r"to|gonna|should|would|could|want\w*|need\w*|if|tomorrow|yesterday|ago|last|next|before|earlier|"
    r"later|mon(?:day)?|tue\w*|wed\w*|thu\w*|fri(?:day)?|sat(?:urday)?|sun(?:day)?|instead|correction|wrong|meant|"
    r"actually|typo|tap|bag|shop|store|well|quarantine|qt|bucket|hospital|other|neighbou?r\w*|friend\w*|each|every|"
    r"times|twice|both|per|half|third|quarter|dozen|minus|plus|total|also|except|dead|died|lost|gave|given|sold|moved|"
    r"can.?t|cannot|right|doubt\w*|strange|odd|weird|expired|misread|born|added|removed|replaced|changed|dosed|fed"
    r"|but|then|kidding|joke|undo|delete|cancel\w*|hopefully|hope|oops|nope|test|video|film|"
    r"(?:scratch|forget|ignore|remove|strike) (?:it|that|this)|almost|nearly|rather|allegedly|supposedly|unsure|tbc|"
    r"tbd|to ?do|pending|overdue|due|requested|ordered|waiting|reminder|confirm\w*|thinks?|they say|according|"
    r"who knows|false|for a (?:day|week|month)|and again|dream\w*|theory|on paper|when i was|at my|years?)\b|^no$"
)
PLAIN_WORDS = frozenset({"on", "off", "in", "note", "change", "power", "new", "rock", "light", "spray", "top", "bed"})
CLOCK_LIKE = re.compile(r"^([1-9]|1[0-2])[.,][0-5]\d$")  # 'am 7.30'


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
    found = _Line(line, now, setting).run()
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
    told = tell(line, _speaker(now, setting))
    if told is None or not (told.pieces or told.unheard):
        return _in_one(line, found)
    read = [_Line(p.plain, now, setting).run(p.at) for p in told.deeds]
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


def _speaker(now: datetime, setting: Setting) -> Speaker:
    alive = {k: n for k, n in setting.living.items() if n}
    only = next(iter(alive)) if len(alive) == 1 else ""
    here = Residents(setting.species[only].name.lower(), alive[only]) if only in setting.species else Residents()
    names = tuple(w for k in alive if k in setting.species for n in names_of(setting.species[k]) for w in (n, f"{n}s"))
    us = setting.units.system == "us"
    return Speaker(
        now, us, setting.day_first, here, names,
        knows=lambda t: _Line(t, now, setting).whole(), sees=lambda t: is_seen(t, setting.lexicon),
        hears=lambda t: bool(words_of(t, setting.lexicon).keys), ordinary=setting.lexicon.ordinary,
        sayings=setting.lexicon.sayings,
    )  # fmt: skip


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


@lru_cache(2048)
def _near(word: str) -> list[str]:
    return difflib.get_close_matches(word, KEYWORDS, n=1, cutoff=0.75)


FAHRENHEIT = (55.0, 100.0)  # numbers that are a tank's temperature in one scale and in no way in the other


def _reads_as_fahrenheit(text: str) -> bool:
    try:
        return FAHRENHEIT[0] <= float(text.replace(",", ".")) <= FAHRENHEIT[1]
    except ValueError:
        return False


def _when(at: datetime) -> Chip:
    return Chip(True, "clock", "when", f"{at:%a %-d %b %H:%M}")


def _once(chips: Iterable[Chip]) -> tuple[Chip, ...]:
    """A moment is said once for all that follows it."""
    kept: list[Chip] = []
    for chip in chips:
        told = next((c for c in reversed(kept) if c.label == "when"), None)
        if chip.label != "when" or chip != told:
            kept.append(chip)
    return tuple(kept)


class _Line(Tokens):
    chips: list[Chip]

    def whole(self) -> bool:
        """Whether all of it is understood, without a question."""
        self.only_whether = True
        return bool(self.run().bodies)

    def run(self, at: datetime | None = None) -> Parsed:
        self.at = at
        self.chips = [_when(at)] if at is not None and at != self.now else []
        self.heard: list[Heard] = []
        self.readings: dict[str, Reading] = {}
        self.note = ""
        while self.k < len(self.tokens):
            self.began = self.k
            try:
                if not self._moment() and not self._clause() and not self._words_behind():
                    raise self._unknown()
            except (Ask, Refused) as asked:
                if self.only_whether:
                    return Parsed(self.now, (), ())
                self.k = max(self.k, self.began + 1)
                question = asked.question if isinstance(asked, Ask) else asked.sentence
                self.chips.append(Chip(False, "ask", question, taps=asked.taps if isinstance(asked, Ask) else ()))
        if any(not c.ok for c in self.chips):
            return Parsed(self.at or self.now, (), tuple(self.chips))
        bodies = [h.body for h in self.heard]
        if self.readings:
            bodies.insert(0, Tested(readings=tuple(self.readings.values())))
        note = ", ".join([*self.called, *([self.note] if self.note else [])])
        return Parsed(self.at or self.now, tuple(bodies), tuple(self.chips), note)

    def _words_behind(self) -> bool:
        """Words behind readings and deeds that were understood ('am 0 ni 0, fish calm') are kept with them, as long as
        none of them may bend what stands before: a denial, a plan, another time, another water, another number."""
        if not (self.heard or self.readings) or any(not c.ok for c in self.chips):
            return False
        text = self.line[self.starts[self.k] :].strip()
        first = self.tokens[self.k].lower()
        if not self.line[: self.starts[self.k]].rstrip().endswith((",", ";")):
            return False
        if (
            self.sure
            or first == "again"
            or BENDS.search(text.lower())
            or not re.match(r"[a-z(]", first)
            or first in UNITS
        ):
            return False
        if not self.only_whether and (told := tell(text, _speaker(self.now, self.setting))) is not None and told.deeds:
            return False  # it is more than words
        if difflib.get_close_matches(first, KEYWORDS, n=1, cutoff=0.8) and len(first) > 3:
            return False
        pieces = [t.lower().rstrip(":=,") for t in self.tokens[self.k :]]
        for word, behind in pairwise(pieces):
            if word in KEYWORDS and (re.match(r"[<>]?[.\d]", behind) or word in SAID):
                return False
        if any(p in SAID and p not in PLAIN_WORDS for p in pieces) or any(
            re.fullmatch(r"[<>]?[\d.,]+%?", p) for p in pieces
        ):
            return False
        self.note = text
        self.k = len(self.tokens)
        self.chips.append(Chip(True, "note", "in words", text[:60], "kept with it"))
        return True

    def _moment(self) -> bool:
        found = moment(self.tokens[self.k :], self.now)
        if found is None:
            return False
        self.k += found.used
        if self.at is not None:
            raise Ask("A second time in one line: log it on a line of its own")
        check_not_future(found.at, self.now)
        self.at = found.at
        self.chips.append(_when(found.at))
        return True

    def _clause(self) -> bool:
        word = self.next().rstrip(":=")
        if word not in KEYWORDS:
            return self._glued()
        self.k += 1
        self.word = word
        if word in READ:
            self._reading(READ[word])
            return True
        heard = SAID[word].clause(self)
        self.heard.append(heard)
        self.chips.append(Chip(True, type(heard.body).glyph, heard.label, heard.value, heard.detail))  # type: ignore[attr-defined]
        return True

    def _glued(self) -> bool:
        """'am.25' and 'ph7.6': the name of a reading run together with its number."""
        found = re.match(r"^([a-z]+)[:=]?([<>]?[.\d].*)$", self.next())
        if found and found[1] in READ:
            token, start = self.tokens[self.k], self.starts[self.k]
            cut = len(token) - len(found[2])
            self.tokens[self.k : self.k + 1] = [found[1], token[cut:]]
            self.starts[self.k : self.k + 1] = [start, start + cut]
            return self._clause()
        return False

    def _unknown(self) -> Ask:
        token = self.tokens[self.k]
        self.k += 1
        if self.only_whether:
            return Ask("")
        near = _near(token.lower())
        kept = in_words(self.line)
        if near:
            return Ask(f"“{token[:40]}”: did you mean {near[0]}?", Tap(near[0], self._with(token, near[0])), *kept)
        return Ask(f"“{token[:40]}” is not understood", *kept)

    def _reading(self, quantity: str) -> None:
        found = READING.match(self.next())
        if found is None:
            raise self._no_number(LABELS[quantity])
        if found[2] and found[2] not in UNITS and (slip := self._slip(LABELS[quantity])):
            raise slip
        self.k += 1
        text, units = found[1], OF_READINGS[quantity]
        unit = self._unit(found[2] or "", units) or self._foreign_unit()
        self._same_form(quantity, text)
        if unit and unit not in units:
            use = f"Use {' or '.join(units)}" if units else "Leave the unit out"
            raise Ask(f"{LABELS[quantity]} in “{unit}”? {use}.")
        if quantity == "temp" and not unit and self.setting.units.unit("temp") == "°C" and _reads_as_fahrenheit(text):
            fahrenheit = self.rewritten(f"{self.word} {text}f")
            raise Ask(f"{text} °C cannot be a tank: is °F meant?", Tap(f"{text} °F", fahrenheit))
        temp_unit = {"c": "°C", "f": "°F"}.get(unit, self.setting.units.unit("temp")) if quantity == "temp" else "°C"
        if quantity == "salinity":
            text = f"{text} {unit}{self._reference()}".strip()
        if self.take(MASKED):
            text += f" {MASKED}"
        reading = read(quantity, text, self.setting.kit, temp_unit)
        if quantity in self.readings:
            raise Ask(f"{LABELS[quantity]} stands twice in this line")
        self.doubt(self.word == "am" and bool(CLOCK_LIKE.match(text)), f"Ammonia {text}, or a time of day?")
        self.doubt(quantity == "salinity" and 0.9 < reading.seen < 2, f"{text} g/kg, or a specific gravity?")
        low, high = USUAL[quantity]
        self.doubt(not low <= reading.seen <= high, f"{LABELS[quantity].capitalize()} {text}: is that right?")
        self.readings[quantity] = reading
        suffix = f"{NBSP}{temp_unit}" if quantity == "temp" else ""
        believed = "kept, not believed" if reading.masked else interval_text(reading)
        self.chips.append(Chip(True, quantity, LABELS[quantity], text + suffix, believed))

    def _same_form(self, quantity: str, text: str) -> None:
        """'10 as N', 'no3-n 2.3': how it is counted, where that is said; asked about where the kit counts otherwise."""
        if quantity not in NITROGEN:
            return
        forms = FORMS[quantity]
        form = forms[self.word] if self.word.endswith("-n") else ""
        if self.next().endswith("-n"):
            form = forms.get(self.take(*forms), form)
        elif self.take("as"):
            if self.next() not in forms:
                self.k -= 1
                return
            form = forms[self.take(*forms)]
        scale = self.setting.kit.scale(quantity)
        if form and form != scale.form:
            times = scale.per_n / MG_PER_MG_N[form]
            told = NUMBERS.sub(lambda m: figure(number(m[0]) * times, 3), text)
            name = LABELS[quantity]
            tap = Tap(f"{told} as {scale.form}", self.rewritten(f"{name} {told}"))
            raise Ask(f"This tank's kit counts {name} as {scale.form}: {text} as {form} would be {told}", tap)

    def _reference(self) -> str:
        """'@ 20' behind a specific gravity: the temperature at which its scale is true."""
        word = self.next()
        if not word.startswith("@") or re.match(r"^@\d{1,2}:\d{2}", word):
            return ""
        self.k += 1
        told = word[1:] or self.next()
        if not word[1:]:
            self.k += 1
        self.take("c", "°c")
        return f" @ {told}"
