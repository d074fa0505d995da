"""A line as people speak, in the words of the log line, piece by piece; only where every word of it has one meaning."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime

from jarbloom.core.journal.spoken.amends import amended
from jarbloom.core.journal.spoken.asides import (
    HARM,
    REPORTED,
    WHOLE_PLAN,
    denied,
    of_no_consequence,
    other_water,
    planned,
    small_talk,
)
from jarbloom.core.journal.spoken.bends import BENDS
from jarbloom.core.journal.spoken.cleaned import in_one_wording, plain_text
from jarbloom.core.journal.spoken.creatures import several
from jarbloom.core.journal.spoken.deeds import outage, switches
from jarbloom.core.journal.spoken.following import more_of
from jarbloom.core.journal.spoken.frames import framed
from jarbloom.core.journal.spoken.moments import (
    CUT,
    clocks,
    day_and_hour_apart,
    hour_without_day,
    said_moment,
    says_now,
    two_days,
    without_now,
)
from jarbloom.core.journal.spoken.numbers import in_figures, in_millilitres
from jarbloom.core.journal.spoken.pieces import Piece, Speaker, is_deed, is_test, plain_of, run_together
from jarbloom.core.journal.spoken.readings import paired, quarters, readings
from jarbloom.core.journal.spoken.spelling import spelled
from jarbloom.patterns import regex

_FILLER = regex(
    r"^(?:(?:i know i shouldn.?t(?: have)?(?: but)?|sad day|i|we|so|and|then|but|ok|okay|well|just|today|now|finally"
    r"|quick|log|logged|have|i've|we've|did|sad day|"
    r"hello|hi|good (?:morning|evening|afternoon)|sadly|unfortunately|luckily|yay|yes|hey|guess what|come on|"
    r"(?:got|came|been) (?:back )?home and|woke up and|tested everything|day off|never mind|the|my weekly|brought|"
    r"only)[ ,:]+)+|"
    r"(?: (?:today|now|please|thanks|just now|so far|all good|yay|again|too|as well|finally|already|sadly|afterwards|"
    r"(?:right|straight) away|immediately|just in case|as a precaution))+$"
)
_APART = regex(r"\s*(?:[;\n]|,(?!\d)|\.+(?=\s|$)|\s[/+&](?=\s)|\s[-–](?=\s[a-z]))\s*")
_BEGINS = regex(r"(?:(?<=^)|(?<=[;\n,])(?<!\d,(?=\d))|(?<=\.)(?=\s))\s*(?=\S)")
SAME_TIME = ("now", "at the same time")  # in front of a piece whose moment would not be plain
_THEN = regex(r",? (?:and then|then|and|but|so|because|while|with) ")
_NEW_MOMENT = regex(
    r"(?<!last)(?<!next)(?<!this)(?<!on)(?<!til)(?<!till)(?<!until)(?<!from)(?<!to) (?=(?:today|yesterday|this "
    r"(?:morning|afternoon|evening)|tonight|mon|tue|wed|thu|fri|sat|sun)(?:day|sday|nesday|rsday|urday)? "
    r"(?:am|ni|na|ph|kh|t|fed|wc|ammonia|nitrite|nitrate)\b)"
)
_WITHOUT = regex(r" (?=without )")
_NEW_WATER = regex(r"(?:the )?(?:new|source|fresh|tap) water[ :]+(.*)")
_FROM_WHERE = regex(
    r"(?:(?:ro|rodi|treated tap|tap|rain|fresh|distilled|aged)(?: ?water)?)(?: at [\d.]+ ?"
    r"(?:degrees|c|f)?)?"
)
_IN_TANK = regex(
    r"(?:(?:in )?(?:the )?tank(?: is| at| reads?| has)?[ :]+(\d*\.?\d+)|(\d*\.?\d+) in (?:the "
    r")?tank)"
)
_QUANTITY_OF = regex(r"^(am|ni|na|ph|kh|gh|t) \S+$")
MOST = 240  # letters: longer lines are stories


@dataclass(frozen=True)
class Told:
    """What the pieces of a line came to, and those that have no place (`unheard`). `when_open`: the line with 'now' and
    with 'at the same time' before a piece whose moment is not plain."""

    pieces: tuple[Piece, ...]
    unheard: tuple[str, ...] = ()
    when_open: tuple[str, ...] = ()

    @property
    def deeds(self) -> tuple[Piece, ...]:
        return tuple(p for p in self.pieces if p.plain)


def tell(line: str, by: Speaker) -> Told | None:
    """The line piece by piece; None for one that is too long, empty, or a question."""
    text = plain_text(line)
    if not text or len(text) > MOST or "?" in text:
        return None
    if REPORTED.match(text) or (WHOLE_PLAN.match(text) and not HARM.search(text)):
        return Told((Piece("", line.strip()),))
    text = in_one_wording(text)
    text = clocks(in_millilitres(in_figures(spelled(text.strip(), by.names, by.ordinary)), by.us))
    return _Line(amended(quarters(text)), by, line).told()


class _Line:
    def __init__(self, text: str, by: Speaker, typed: str) -> None:
        self.text, self.by, self.typed = text, by, typed
        self.when_open: tuple[str, ...] = ()
        self.pieces: list[Piece] = []
        self.unheard: list[str] = []
        self.open_moment = False  # it stood behind its words: whether it holds for the next ones is not known
        self.quantity = ""  # which one, as the shorthand names it
        self.elsewhere = False  # the last reading was one of another water

    def told(self) -> Told:
        segments = [s for part in _APART.split(self.text) for s in self._by_new_moments(part or "") if s]
        if len(segments) == 1 or not self._listed():
            at = None
            segments = self._joined(segments)
            for k, segment in enumerate(segments):
                self.so_far = k, len(segments)
                at = self._segment(segment, at, len(segments) == 1, k)
        return Told(tuple(self.pieces), tuple(self.unheard), self.when_open)

    def _by_new_moments(self, part: str) -> list[str]:
        """'wc 20% monday am fed tuesday': a moment begins a new clause where the one before has its own."""
        parts = _NEW_MOMENT.split(part)
        return parts if self._moment(parts[0])[0] is not None else [part]

    def _joined(self, segments: list[str]) -> list[str]:
        """'water change, 30 litres': what two say together and neither says alone is one clause."""
        found: list[str] = []
        for segment in segments:
            both = f"{found[-1]}, {segment}" if found else segment
            if found and self._by_parts(both) and not self._by_parts(found[-1]) and not self._by_parts(segment):
                found[-1] = both
            else:
                found.append(segment)
        return found

    def _by_parts(self, text: str) -> str | None:
        rest = " ".join(self._moment(text)[1].replace(CUT, " ").split()).strip(" ,:")
        return framed(rest, self.by.is_animal) or framed(_FILLER.sub("", rest).strip(" ,:"), self.by.is_animal)

    def _listed(self) -> bool:
        """A list whose commas part no clauses: 'ammonia, nitrite: 0, 1', '3 rasboras, 2 pandas dead'."""
        at, rest = self._moment(self.text)
        plain = paired(rest) or several(_FILLER.sub("", rest)) or switches(rest, self.by.now.weekday())
        if plain is None or BENDS.search(rest.replace("til ", " ").replace("until ", " ")):
            return False
        self.pieces.append(Piece(plain, self.text, at))
        return True

    def _moment(self, text: str) -> tuple[datetime | None, str]:
        found = said_moment(text, self.by.now, self.by.day_first)
        return found if found is not None else (None, text)

    def _segment(self, segment: str, at: datetime | None, alone: bool, k: int) -> datetime | None:
        """Reads one segment; the moment that holds for those behind it comes back."""
        if (out := outage(segment, self.by.now)) is not None:
            self.pieces.append(Piece(out[1], segment, out[0]))
            return at
        if planned(segment, alone):
            self._keep(segment, None)
            return at
        if segment.startswith(SAME_TIME[1]):
            segment, self.open_moment = segment.removeprefix(SAME_TIME[1]).strip(), False
        if at is not None and at.date() != self.by.now.date() and hour_without_day(segment):
            that_day = f"{at:%Y-%m-%d} {segment}"  # 'yesterday 8:00 fed, 18:00 wc 20%'
            then, _ = self._moment(that_day)
            if self.open_moment or then is None or then < at:
                self.unheard.append(segment)  # 'last night fed, 8:00 am 0': of which day?
                return at
            segment = that_day
        own, cut = self._moment(re.sub(r"^since (?=.* off$)", "", segment))
        rest = " ".join(cut.replace(CUT, " ").split()).strip(" :,")
        if own is None and two_days(segment):
            self.unheard.append(segment)
            return at
        if own is not None and self._another_moment(rest, own):
            return self._by_moments(segment, at, k)
        if own is None and says_now(rest) and without_now(rest):
            own, rest = self.by.now, re.sub(r"^(?:right |just )?now[ ,:]+", "", rest)
        if own is not None and (not rest or _ONLY_TESTED.fullmatch(rest)):
            if k and not any(p.at for p in self.pieces):  # 'fed, this morning'
                self.pieces = [replace(p, at=own) for p in self.pieces]
            elif k and k == self.so_far[1] - 1:  # '8:00 fed, 18:00 wc 20%, yesterday'
                self.unheard.append(segment)
            return own
        if own is not None and (CUT in cut or day_and_hour_apart(segment)) and self._two_deeds(rest):
            self.unheard.append(segment)  # of which of the two is it?
            return at
        behind = own is not None and own != self.by.now and _begins_with(segment, rest)
        if behind and not any(p.at for p in self.pieces):
            self.pieces = [replace(p, at=own) for p in self.pieces]  # 'fed, wc 20% yesterday'
        at = own or at
        mark = len(self.pieces)
        if not self._parts(rest, segment, at, alone) and not (CUT in cut and self._all(cut.split(CUT), at)):
            self.unheard.append(segment)
        elif (
            " tonight" in f" {segment}" and not _IS_DONE.search(segment) and any(is_deed(p) for p in self.pieces[mark:])
        ):
            self.unheard.append(segment)  # done, or still to be done?
        elif behind and len({is_deed(p) for p in self.pieces[mark:] if p.plain}) > 1:
            del self.pieces[mark:]
            self.unheard.append(segment)  # 'ammonia 4 but I changed 50% yesterday': was that read then, too?
        elif self.open_moment and own is None and any(p.plain for p in self.pieces[mark:]):
            self._ask_when(segment)  # 'lost 2 tetras yesterday, changed 50%': then too, or now?
        self.open_moment = behind or (self.open_moment and own is None)
        return at

    def _another_moment(self, rest: str, own: datetime) -> bool:
        """'fed yesterday and changed 20% today': what is left of a segment names another day or hour."""
        return self._moment(rest)[0] is not None or (own != self.by.now and says_now(rest))

    def _by_moments(self, segment: str, at: datetime | None, k: int) -> datetime | None:
        """Each clause by the moment of its own; asked about where they cannot be told apart, or where an hour may be
        one of today or of the other clause's day."""
        parts = _THEN.split(segment)
        own = [self.by.now if says_now(p) else self._moment(p)[0] for p in parts]
        days = {at.date() for at in own if at is not None}
        open_hour = any(hour_without_day(p) for p in parts) and days != {self.by.now.date()}
        if len(parts) == 1 or None in own or open_hour:
            self.unheard.append(segment)
            return at
        for part, when in zip(parts, own, strict=True):
            at = self._segment(without_now(part), when, False, k)
        return at

    def _ask_when(self, segment: str) -> None:
        self.unheard.append(segment)
        k, n = self.so_far
        typed = [m.start() for m in _BEGINS.finditer(self.typed)]
        if len(typed) == n and not self.when_open:
            before, after = self.typed[: typed[k]].rstrip(), self.typed[typed[k] :].strip()
            self.when_open = tuple(f"{before} {word} {after}" for word in SAME_TIME)

    def _parts(self, rest: str, whole: str, at: datetime | None, alone: bool) -> bool:
        """One clause, several joined by 'and' and its like, one with its reason, or two run together."""
        if self._one(rest, whole, at, alone):
            return True
        reason = re.fullmatch(r"(.+?),? (?:because|cause|cos) (.+)", rest)
        if reason is not None and not any(p.search(reason[2]) for p in (_FIGURE, HARM, _TAKES_BACK)):
            mark = len(self.pieces)
            if self._one(reason[1], reason[1], at, alone):
                return self._keep(reason[2], at)
            del self.pieces[mark:]
        if (hit := _NOT_TESTED.fullmatch(rest)) is not None:
            return self._one(hit[1], hit[1], at, alone) and self._keep(hit[2], at)
        for parts in (_THEN.split(rest), _WITHOUT.split(rest)):
            if len(parts) > 1 and self._all(parts, at):
                return True
        ways = list(self._run_together(rest))
        if len(ways) != 1 or self.elsewhere:
            return False
        self.pieces += [replace(piece, at=at) for piece in ways[0]]
        return True

    def _all(self, parts: list[str], at: datetime | None) -> bool:
        """Each of the parts, or none."""
        mark, elsewhere = len(self.pieces), self.elsewhere
        if all(self._one(p.strip(" ,:"), p, at, False) for p in parts if p.strip(" ,:")):
            return True
        del self.pieces[mark:]
        self.elsewhere = elsewhere
        return False

    def _one(self, rest: str, whole: str, at: datetime | None, alone: bool) -> bool:
        before = next((p.plain for p in reversed(self.pieces) if p.plain), "")
        bare = _FILLER.sub("", _FILLER.sub("", rest)).strip(" ,:") or rest.strip()
        both = tuple(dict.fromkeys((rest.strip(" ,"), bare)))
        if self._of_other_water(both, whole, before, at) is not None:
            return True
        tail = next((t for p in both if (t := more_of(p, before)) is not None), None)
        if tail is not None:
            last = max(k for k, p in enumerate(self.pieces) if p.plain == before)
            self.pieces[last] = replace(self.pieces[last], plain=tail)
            return True
        for piece in both:
            plain = self._plain(piece, before)
            if plain is not None:
                if plain == before and piece.endswith("again") and self.pieces[-1].at == at:
                    return False  # twice, or that once?
                if self.elsewhere and not re.search(r"\btank\b", piece):
                    return self._keep(whole, at) if is_test(plain) else False
                self.elsewhere = False
                self.pieces.append(Piece(plain, whole, at))
                return True
        if before.startswith("wc ") and _FROM_WHERE.fullmatch(rest):
            return self._keep(whole, at)
        if planned(rest, alone):
            return self._keep(whole, None)
        seen = [p.plain for p in self.pieces if p.plain]
        news = self.by.sayings.fullmatch(bare)
        if denied(bare, seen) or of_no_consequence(bare) or news or self._small_talk(bare):
            return self._keep(whole, at if alone and not re.search(r"\b(?:since|until|till?|by) ", whole) else None)
        return False

    def _of_other_water(self, both: tuple[str, ...], whole: str, before: str, at: datetime | None) -> bool | None:
        """Keeps a reading of other water in words; 'in the tank 7.2' behind one is the tank's. None for neither."""
        for piece in both:
            if self.quantity and (hit := _IN_TANK.fullmatch(piece)) is not None:
                self.pieces.append(Piece(f"{self.quantity} {hit[1] or hit[2]}", whole, at))
                self.elsewhere = False
                return True
            water = other_water(piece)
            if not water or (self.elsewhere and water == "last"):
                continue
            if water == "last" and any(is_test(p.plain) for p in self.pieces):
                continue
            source = _NEW_WATER.fullmatch(piece)
            plain = (
                readings(source[1])
                if source is not None and re.match(r"wc \S+(?: l| gal\w*| litres)?$", before)
                else None
            )
            if plain is not None and re.fullmatch(r"(?:(?:ph|kh|na|am) [\d.,]+ ?)+", plain):
                last = max(k for k, p in enumerate(self.pieces) if p.plain == before)
                self.pieces[last] = replace(self.pieces[last], plain=f"{before} with {plain}")
                return True
            self.elsewhere = True
            told = _QUANTITY_OF.search(readings(piece.replace(water, "")) or _read_of(piece) or "")
            self.quantity = told[1] if told else ""
            return self._keep(whole, at)
        return None

    def _small_talk(self, piece: str) -> bool:
        return small_talk(piece, self.by.names) and not self.by.hears(piece)

    def _two_deeds(self, rest: str) -> bool:
        """Two that are not readings of one test."""
        return any(not (is_test(a.plain) and is_test(b.plain)) for a, b in self._run_together(rest))

    def _run_together(self, rest: str) -> Iterator[tuple[Piece, Piece]]:
        return run_together(rest.split(), self.by, self._several_forms())

    def _plain(self, piece: str, before: str) -> str | None:
        return plain_of(piece, before, self.by, self._several_forms())

    def _several_forms(self) -> bool:
        return len(re.findall(r"\b(?:ammonia|nitrite|nitrate)\b", self.text)) > 1

    def _keep(self, words: str, at: datetime | None) -> bool:
        self.pieces.append(Piece("", words, at))
        return True


def _begins_with(segment: str, rest: str) -> bool:
    """Whether the moment of a segment stands behind its words."""
    return segment.split(" ")[0].strip(" :,") == rest.split(" ")[0].strip(" :,")


_FIGURE = regex(r"\d")
_TAKES_BACK = regex(
    r"\b(?:tomorrow|next|last year|wrong|cancel\w*|maybe|guess|dream|planned|would|due|not|quarantine|tank|pond|"
    r"bucket|shop)\b"
)
_ONLY_TESTED = regex(r"(?:i )?(?:tested|measured|checked|tests?|results?|readings?)")
_NOT_TESTED = regex(r"(.+) ((?:na|ni|am|nitrate|nitrite|ammonia|ph|kh) (?:-+|n/?a))")
_IS_DONE = regex(r"\b(?:\w+ed|was|were|did|done|lost|got|put|dead|came)\b")


def _read_of(piece: str) -> str | None:
    """The reading in a piece about another water, without the words for that water."""
    hit = _READING_IN.search(piece)
    return readings(hit[0].strip()) if hit is not None else None


_READING_IN = regex(
    r"\b(?:ammonia|nitrite|nitrate|ph|kh|temp|t|am|ni|na) [\d.]+$|[\d.]+ (?:ammonia|nitrite"
    r"|nitrate)$|^(?:ph|kh|t|temp) [\d.]+"
)
