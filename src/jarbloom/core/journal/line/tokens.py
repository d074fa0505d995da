"""A line as words that are taken one by one: amounts with units, animals, the rest. Each clause is read from it."""

from __future__ import annotations

import re
from datetime import date, datetime, timedelta

from jarbloom.core.animals.names import called, is_plural, nearest_species
from jarbloom.core.journal.asking import Amount, Ask, Tap
from jarbloom.core.journal.line.times import moment
from jarbloom.core.journal.line.vocabulary import AMOUNT, KEYWORDS, LOOKALIKE, SURE, TWO_AMOUNTS, UNITS
from jarbloom.core.journal.setting import Setting
from jarbloom.patterns import regex
from jarbloom.units import MOST_HEADS, number

MOST_WORDS = 4  # of an animal's name
MOST_TAPS = 4
PIECE = regex(r"[^\s;·|]+")


class Tokens:
    """What a clause may take of a line (core/journal/asking.Clause)."""

    only_whether = False  # nobody looks at the questions

    def __init__(self, line: str, now: datetime, setting: Setting) -> None:
        self.line, self.now, self.setting = line, now, setting
        pieces = [(m[0], m.start()) for m in PIECE.finditer(line)]
        pieces = [(re.sub(r"[,!]+$|(?<=\d)\.$", "", text), start) for text, start in pieces]
        pieces = [(text, start) for text, start in pieces if text not in ("", "/")]
        self.sure = bool(pieces) and pieces[-1][0].lower() == SURE
        pieces = pieces[: -1 if self.sure else None]
        self.tokens = [text for text, _ in pieces]
        self.starts = [start for _, start in pieces]
        self.k = 0
        self.began = 0  # where the clause began
        self.word = ""
        self.at: datetime | None = None
        self.called: list[str] = []  # animals that were told by a name of their own

    # --- looking and taking ---

    def next(self) -> str:
        return self.tokens[self.k].lower() if self.k < len(self.tokens) else ""

    def take(self, *words: str) -> str:
        word = self.next()
        if word and word in words:
            self.k += 1
            return word
        return ""

    def rest(self) -> str:
        text = self.line[self.starts[self.k] :].strip() if self.k < len(self.tokens) else ""
        self.k = len(self.tokens)
        return text

    def phrase(self, *ends: str) -> str:
        words: list[str] = []
        while self.k < len(self.tokens) and len(words) < MOST_WORDS:
            word = self.tokens[self.k]
            if word.lower() in (*KEYWORDS, *ends) or re.search(r"\d", word):
                break
            words.append(word)
            self.k += 1
        return " ".join(words)

    def before(self) -> str:
        return self.line[: self.starts[self.k - 1]]

    def rewritten(self, clause: str) -> str:
        before = self.line[: self.starts[self.began]]
        after = self.line[self.starts[self.k] :] if self.k < len(self.tokens) else ""
        return f"{before}{clause} {after}".strip()

    def doubt(self, unusual: bool, question: str) -> None:
        if unusual and not self.sure:
            raise Ask(question, Tap("yes", f"{self.line.strip()} {SURE}"))

    # --- amounts ---

    def number(self, what: str, *, units: tuple[str, ...], span: bool = False) -> Amount:
        told = self.amount(what, units=units, span=span)
        if told is None:
            raise Ask(f"{what}: how much?")
        return told

    def amount(self, what: str, *, units: tuple[str, ...], optional: bool = False, span: bool = False) -> Amount | None:
        if (two := TWO_AMOUNTS.match(self.next())) is not None:
            self.k += 1
            low, high = sorted((two[1], two[2]), key=number)
            unit = self._of_these(what, self._unit(two[3] or "", units) or self._foreign_unit(), units)
            if not span:
                taps = (Tap(f"{a} {unit}".strip(), self.rewritten(f"{self.word} {a}{unit}")) for a in (low, high))
                raise Ask(f"{what} {low}-{high} {unit}".strip() + ": which of the two?", *taps)
            return Amount((number(low) + number(high)) / 2, unit, f"{low}-{high}")
        found = AMOUNT.match(self.next())
        if found is None or (optional and moment(self.tokens[self.k :], self.now)):
            if optional and not re.match(r"^[<>+\-−]?[.,]?\d", self.next()):
                return None
            raise self._no_number(what)
        if found[2] and found[2] not in UNITS and (slip := self._slip(what)):
            raise slip
        self.k += 1
        unit = self._of_these(what, self._unit(found[2] or "", units) or self._foreign_unit(), units)
        return Amount(number(found[1]), unit, found[1])

    def _of_these(self, what: str, unit: str, units: tuple[str, ...]) -> str:
        if unit and unit not in units:
            raise Ask(f"{what} in “{unit}”? Use {', '.join(units)}.")
        return unit

    def _unit(self, glued: str, units: tuple[str, ...]) -> str:
        """The unit run together with the number, or the next word when it is one of those that can stand here."""
        if glued:
            return UNITS.get(glued, glued)
        word = self.next()
        if UNITS.get(word, "") in units and not self._begins_reading(word):
            self.k += 1
            return UNITS[word]
        return ""

    def _foreign_unit(self) -> str:
        """The next word, taken, where it is a unit that does not belong here: to be asked about by name."""
        word = self.next()
        return UNITS[self.take(word)] if word in UNITS and word not in KEYWORDS else ""

    def _begins_reading(self, word: str) -> bool:
        """'t', 'c' and the like are also words of the log: they are no unit where a number follows."""
        following = self.tokens[self.k + 1].lower() if self.k + 1 < len(self.tokens) else ""
        return word in KEYWORDS and AMOUNT.match(following) is not None

    def _no_number(self, what: str) -> Ask:
        token = self.tokens[self.k] if self.k < len(self.tokens) else ""
        if not token or token.lower() in KEYWORDS:
            return Ask(f"{what}: how much?")
        if slip := self._slip(what):
            return slip
        self.k += 1
        if re.fullmatch(r"[-−][\d.,]+\S*", token):
            return Ask(f"{what} “{token[:40]}” is below zero")
        return Ask(f"{what} “{token[:40]}” is not a number")

    def _slip(self, what: str) -> Ask | None:
        """The next word is a number but for letters that look like figures: '1o', 'l.0'."""
        token = self.tokens[self.k]
        fixed = token.translate(LOOKALIKE)
        found = AMOUNT.match(fixed.lower())
        if fixed == token or found is None or (found[2] and found[2] not in UNITS):
            return None
        self.k += 1
        return Ask(f"{what} “{token[:40]}”: did you mean {fixed}?", Tap(fixed, self._with(token, fixed)))

    def _with(self, old: str, new: str) -> str:
        return re.sub(rf"(?<!\S){re.escape(old)}(?!\S)", new, self.line, count=1)

    def until(self) -> date | None:
        self.take("for")
        told = self.amount("off", units=("d",), optional=True)
        if told is None:
            return None
        if told.unit != "d" or told.value > 365:
            raise Ask("Off: for how many days? Say off uv 5d.")
        return ((self.at or self.now) + timedelta(days=told.value)).date()

    # --- animals ---

    def animals(self, what: str, least: int = 1, *, new: bool = False) -> tuple[int, str]:
        count: int | None = None
        if self.next().lower() == "all" and not new:
            self.k += 1
            name, kind = self._animal(what, new)
            if not (living := self.setting.living.get(kind)):
                raise Ask(f"{what}: how many {name}?")
            whole = self.rewritten(f"{self.word} {living} {self.setting.species[kind].name}")
            raise Ask(f"{what}: all {living} {name}?", Tap(f"all {living}", whole))
        if re.fullmatch(r"[-−]?\d+([.,]\d+)?", self.next()):
            told = self.next()
            self.k += 1
            if not told.isdecimal() or not least <= int(told) <= MOST_HEADS:
                raise Ask(f"{what}: {told} is no count of animals")
            count = int(told)
        if (key := self._by_name(what, count)) is not None:
            return 1, key
        name, key = self._animal(what, new)
        if count is None:
            only_one = not new and self.setting.living.get(key) == 1
            if not only_one and is_plural(name, self.setting.species[key].name):
                raise Ask(f"{what}: how many {name}?")
            count = 1
        return count, key

    def _by_name(self, what: str, count: int | None) -> str | None:
        """The species of one that has a name of its own, where the next words are that name; the name is kept."""
        for size in range(MOST_WORDS, 0, -1):
            told = " ".join(self.tokens[self.k : self.k + size])
            key = self.setting.names.get(told.lower())
            if key is not None:
                if count not in (None, 1):
                    raise Ask(f"{what}: {told} is one animal")
                self.k += size
                self.called.append(told)
                return key
        return None

    def _animal(self, what: str, new: bool) -> tuple[str, str]:
        """(what it was called, key) of the animal that the next words name, without doubt."""
        words: list[str] = []
        for token in self.tokens[self.k : self.k + MOST_WORDS]:
            if token.lower() in KEYWORDS or re.search(r"\d", token) or moment([token], self.now):
                break
            words.append(token)
        if not words:
            raise Ask(f"{what}: which animal?")
        for size in range(len(words), 0, -1):
            text = " ".join(words[:size])
            named = called(text, self.setting.species, self.setting.living)
            if named.surely(new) is None and not named.keys:
                continue
            self.k += size
            key = named.surely(new)
            if key is not None:
                return text, key
            names = [self.setting.species[k].name for k in named.keys[:MOST_TAPS]]
            taps = [Tap(n, self._with(words[0], n) if size == 1 else self.line.replace(text, n, 1)) for n in names]
            raise Ask(f"“{text[:40]}”: which one?", *taps)
        self.k += 1
        near = "" if self.only_whether else nearest_species(" ".join(words), self.setting.species)
        ask = f"“{words[0][:40]}” is not in the catalogue"
        if near:
            raise Ask(f"{ask}: did you mean {near}?", Tap(near, self._with(words[0], near)))
        raise Ask(f"{ask}; say unknown for an animal that is not listed")
