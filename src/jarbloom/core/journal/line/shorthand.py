"""One line of log shorthand to entries: `yesterday 19:30 am .25 ni 1 wc 30% dead 1 rasbora`.

Save never waits for a clean parse: what is understood becomes drafts, the rest comes back as questions
with the text that is still open.
"""

from __future__ import annotations

import difflib
import re
from datetime import datetime

from jarbloom.core.journal.complete import Setting
from jarbloom.core.journal.kinds import NOTE_MAX
from jarbloom.core.journal.line.clauses import Clauses
from jarbloom.core.journal.line.times import check_not_future, moment
from jarbloom.core.journal.line.vocabulary import AMOUNT, KEYWORDS, UNIT_WORDS, Ask, Chip, Draft, Parsed
from jarbloom.core.journal.readings import LABELS, MASKED, interval_text, read
from jarbloom.core.model.kit import Reading
from jarbloom.errors import Refused
from jarbloom.units import NBSP


def parse(line: str, now: datetime, setting: Setting) -> Parsed:
    """Read one line. Never raises for what a keeper may type."""
    if len(line) > NOTE_MAX:
        ask = f"This is {len(line):,} characters long; at most {NOTE_MAX:,} can be kept."
        return Parsed(now, (), (Chip(False, "ask", ask),), line)
    return _Reader(line, now, setting).run()


def _believed(reading: Reading) -> str:
    return "kept, not believed" if reading.masked else interval_text(reading)


class _Reader(Clauses):
    def run(self) -> Parsed:
        while self.k < len(self.tokens):
            start = self.k
            try:
                if not self._moment() and not self._clause():
                    raise Ask(*self._unknown(self.tokens[self.k]))
            except (Ask, Refused) as ask:
                self.k = max(self.k, start + 1)
                piece = self.tokens[start : self.k]
                label = ask.label if isinstance(ask, Ask) else ask.sentence
                self.chips.append(Chip(False, "ask", label, fix=getattr(ask, "fix", "")))
                self.left += piece
        if self.time_in_doubt:
            # A wrong time would put true readings into the wrong place of the record: nothing is taken.
            return Parsed(self.now, (), tuple(c for c in self.chips if not c.ok), self.line)
        if self.readings:
            self.drafts.insert(0, Draft("test", readings=tuple(self.readings.values())))
        if self.at is not None and self.left:
            self.left.insert(0, f"{self.at:%Y-%m-%d %H:%M}")
        return Parsed(self.at or self.now, tuple(self.drafts), tuple(self.chips), " ".join(self.left))

    # --- pieces ---

    def _moment(self) -> bool:
        try:
            found = moment(self.tokens[self.k :], self.now)
            if found is None:
                return False
            self.k += found.used
            if self.at is not None:
                raise Ask("a second time in one line: log it on a line of its own")
            check_not_future(found.at, self.now)
        except (Refused, Ask):
            self.time_in_doubt = True
            raise
        self.at = found.at
        self.chips.append(Chip(True, "clock", "when", f"{found.at:%a %-d %b %H:%M}"))
        return True

    def _clause(self) -> bool:
        kind = KEYWORDS.get(self.tokens[self.k].lower().rstrip(":="))
        if kind is None:
            return self._glued()
        word = self.tokens[self.k]
        self.k += 1
        if kind in LABELS:
            self._reading(kind)
        else:
            getattr(self, f"_{kind}")(word.lower())
        return True

    def _glued(self) -> bool:
        """'am.25' and 'ph7.6': a keyword run together with its number."""
        found = re.match(r"^([A-Za-z]+)[:=]?([<>]?[.\d].*)$", self.tokens[self.k])
        if found and KEYWORDS.get(found[1].lower()) in LABELS:
            self.tokens[self.k : self.k + 1] = [found[1], found[2]]
            self.starts.insert(self.k, self.starts[self.k])
            return self._clause()
        return False

    def _unknown(self, token: str) -> tuple[str, str]:
        self.k += 1
        while self.k < len(self.tokens) and AMOUNT.match(self.tokens[self.k]):
            self.k += 1
        near = difflib.get_close_matches(token.lower(), KEYWORDS, n=1, cutoff=0.6)
        if near:
            return f"“{token[:40]}”: did you mean {near[0]}?", self._with(token, near[0])
        return f"“{token[:40]}” is not understood", ""

    # --- readings ---

    def _reading(self, quantity: str) -> None:
        got = self._amount(LABELS[quantity])
        assert got is not None
        text, unit = got
        dimension, canonical_unit = UNIT_WORDS.get(unit, ("", ""))
        if quantity == "temp":
            if unit and dimension != "temp":
                raise Ask(f"temperature in “{unit}”? Use C or F")
            temp_unit = canonical_unit or self.s.units.unit("temp")
        else:
            temp_unit = "°C"
            if quantity == "salinity" and (dimension == "salinity" or not unit):
                text = f"{text} {unit}".strip()
            elif unit and quantity not in ("ammonia", "nitrite", "nitrate"):
                raise Ask(f"{LABELS[quantity]} in “{unit}”? Leave the unit out")
            elif unit and unit not in ("mg/l", "ppm"):
                raise Ask(f"{LABELS[quantity]} in “{unit}”? Readings are in mg/L")
        if self.k < len(self.tokens) and self.tokens[self.k].lower() == MASKED:
            self.k += 1
            text += f" {MASKED}"
        reading = read(quantity, text, self.s.kit, temp_unit)
        if quantity in self.readings:
            raise Ask(f"{LABELS[quantity]} stands twice in this line")
        self.readings[quantity] = reading
        suffix = f"{NBSP}{temp_unit}" if quantity == "temp" else ""
        self.chips.append(Chip(True, quantity, LABELS[quantity], text + suffix, _believed(reading)))
