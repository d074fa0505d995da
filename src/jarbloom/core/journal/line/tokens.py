"""A line as tokens that are taken one by one, with amounts and their units. Each clause of the log is read from it."""

from __future__ import annotations

import difflib
import re
from datetime import datetime
from typing import Any

from jarbloom.core.journal.complete import Setting
from jarbloom.core.journal.kinds import clean_body
from jarbloom.core.journal.line.times import moment
from jarbloom.core.journal.line.vocabulary import AMOUNT, GLYPHS, KEYWORDS, LOOKALIKE, UNIT_WORDS, Ask, Chip, Draft
from jarbloom.core.journal.readings import MASKED
from jarbloom.core.model.kit import Reading


class Tokens:
    def __init__(self, line: str, now: datetime, setting: Setting) -> None:
        self.line, self.now, self.s = line, now, setting
        pieces = [(m[0].rstrip(","), m.start()) for m in re.finditer(r"[^\s;·]+", line) if m[0] != ","]
        self.tokens = [text for text, _ in pieces]
        self.starts = [start for _, start in pieces]
        self.k = 0
        self.time_in_doubt = False
        self.at: datetime | None = None
        self.drafts: list[Draft] = []
        self.readings: dict[str, Reading] = {}
        self.chips: list[Chip] = []
        self.left: list[str] = []

    def _with(self, old: str, new: str) -> str:
        return re.sub(rf"(?<!\S){re.escape(old)}(?!\S)", new, self.line, count=1)

    def _amount(self, what: str, *, optional: bool = False) -> tuple[str, str] | None:
        """The next token as (number text, unit word), taking a unit that stands apart too."""
        found = AMOUNT.match(self.tokens[self.k]) if self.k < len(self.tokens) else None
        if found is None:
            if optional:
                return None
            self._no_number(what)
        assert found is not None
        self.k += 1
        unit = (found[2] or "").lower()
        if not unit and self.k < len(self.tokens) and self.tokens[self.k].lower() in UNIT_WORDS:
            # 'in' and 't', 'c' are also words of the log: only take a unit that is not followed by a number
            following = self.tokens[self.k + 1] if self.k + 1 < len(self.tokens) else ""
            token = self.tokens[self.k].lower()
            if token not in KEYWORDS or not AMOUNT.match(following):
                unit = token
                self.k += 1
        if not unit and self._strange_unit():
            unit = self.tokens[self.k].lower()
            self.k += 1
        if unit and unit not in UNIT_WORDS:
            fixed = found[0].translate(LOOKALIKE)
            if fixed != found[0] and re.fullmatch(r"[\d.,]+", fixed):
                raise Ask(f"{what} “{found[0]}”: did you mean {fixed}?", self._with(found[0], fixed))
            raise Ask(f"{what} “{found[1]} {unit}”: the unit “{unit}” is not known")
        return found[1], unit

    def _strange_unit(self) -> bool:
        """A word behind a number that is neither of the log nor a time: 'am 1 ppb' must not be taken for 1 mg/L."""
        token = self.tokens[self.k] if self.k < len(self.tokens) else ""
        known = token.lower() in KEYWORDS or token.lower() in UNIT_WORDS or token.lower() == MASKED
        if known or not re.fullmatch(r"[A-Za-z°µ/]+", token):
            return False
        return moment(self.tokens[self.k :], self.now) is None and not difflib.get_close_matches(
            token.lower(), KEYWORDS, n=1, cutoff=0.7
        )

    def _no_number(self, what: str) -> None:
        if self.k >= len(self.tokens):
            raise Ask(f"{what}: how much?")
        token = self.tokens[self.k]
        if token.lower() in KEYWORDS:
            raise Ask(f"{what}: how much?")
        self.k += 1
        if re.fullmatch(r"[-−][\d.,]+", token):
            raise Ask(f"{what} “{token}” is below zero")
        fixed = token.translate(LOOKALIKE)
        if re.fullmatch(r"[\d.,]+", fixed):
            raise Ask(f"{what} “{token[:40]}”: did you mean {fixed}?", self._with(token, fixed))
        raise Ask(f"{what} “{token[:40]}” is not a number")

    def _understood(self, kind: str, body: dict[str, Any], label: str, value: str, detail: str = "") -> None:
        self.drafts.append(Draft(kind, clean_body(kind, body)))
        self.chips.append(Chip(True, GLYPHS.get(kind, "note"), label, value, detail))
