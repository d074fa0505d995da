"""A line in the shorthand, word by word: what each clause says, and a question for every word that says nothing."""

from __future__ import annotations

import difflib
import re
from datetime import datetime
from functools import lru_cache
from itertools import pairwise

from jarbloom.core.animals.names import called, names_of
from jarbloom.core.journal.asking import Ask, Heard, Tap, in_words
from jarbloom.core.journal.hearing import is_seen, words_of
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.line.parsed import Chip, Parsed
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
from jarbloom.core.journal.spoken.creatures import Residents
from jarbloom.core.journal.spoken.pieces import Speaker
from jarbloom.core.journal.spoken.plainly import tell
from jarbloom.core.model.kit import MG_PER_MG_N, NITROGEN, Reading
from jarbloom.errors import Refused
from jarbloom.patterns import regex
from jarbloom.units import NBSP, figure, number

# Words that may turn what stands before them into something else: then the whole line is asked about
BENDS = regex(
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
CLOCK_LIKE = regex(r"^([1-9]|1[0-2])[.,][0-5]\d$")  # 'am 7.30'


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


class ShortLine(Tokens):
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
        if not self.only_whether and (told := tell(text, speaker(self.now, self.setting))) is not None and told.deeds:
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


def _named(text: str, setting: Setting, new: bool) -> tuple[str, ...]:
    found = called(text, setting.species, setting.living)
    return found.keys if new else found.here


def speaker(now: datetime, setting: Setting) -> Speaker:
    """Who lives here and how the keeper writes, for a line as people speak."""
    alive = {k: n for k, n in setting.living.items() if n}
    only = next(iter(alive)) if len(alive) == 1 else ""
    here = Residents(setting.species[only].name.lower(), alive[only]) if only in setting.species else Residents()
    names = tuple(w for k in alive if k in setting.species for n in names_of(setting.species[k]) for w in (n, f"{n}s"))
    us = setting.units.system == "us"
    return Speaker(
        now, us, setting.day_first, here, names,
        knows=lambda t: ShortLine(t, now, setting).whole(), sees=lambda t: is_seen(t, setting.lexicon),
        hears=lambda t: bool(words_of(t, setting.lexicon).keys),
        is_animal=lambda t, new: bool(_named(t, setting, new)), ordinary=setting.lexicon.ordinary,
        sayings=setting.lexicon.sayings,
    )  # fmt: skip
