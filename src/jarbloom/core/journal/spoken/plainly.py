"""A line as people speak, in the words of the log line; only where every word of it has one meaning."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import datetime

from jarbloom.core.journal.signs import signs_in
from jarbloom.core.journal.spoken.clauses import paired, plain_clause, several, switches
from jarbloom.core.journal.spoken.moments import clocks, said_moment
from jarbloom.core.journal.spoken.numbers import in_figures, in_millilitres

# A denial, a question, a plan, a doubt, another time, water or keeper: such a line is asked about, never put right here
BENDS = re.compile(
    r"\?|\b(?:"
    r"no|not|never|no longer|nobody|nothing|without|almost|nearly|isn.?t|wasn.?t|didn.?t|don.?t|won.?t|hasn.?t|"
    r"haven.?t|can.?t|cannot|couldn.?t|i think|guess|probably|perhaps|possibly|plan\w*|will|going to|gonna|"
    r"shall|should|would|could|might|must|want\w*|need\w*|if|unless|tomorrow|next|later|soon|instead|"
    r"correction|wrong|meant|actually|typo|sorry|tap|bag|shop|store|well|ro|rodi|quarantine|qt|bucket|hospital|"
    r"other|neighbou?r\w*|friend\w*|his|her|their tank|mum|dad|sister|brother|each|every|daily|times|twice|"
    r"usually|normally|always|often|since|because|before|after|until|til|till|target|goal|limit|supposed|says|"
    r"said|told|forum|article|read about|minus|plus|total|free|also|except|but|half full|jumped|born|eggs?|fry|"
    r"babies|per|remember|forgot|think|hope|maybe|due|start\w*|stop\w*"
    r")\b"
)
# Words of this list that bend nothing where they stand like this
_HARMLESS = re.compile(
    r"\b(under the tap|(?:in|with|under) tap water|no (?:power|electricity)|"
    r"not (?:eating|moving|swimming))\b"
)
_FILLER = re.compile(
    r"^(?:(?:i|we|so|and|ok|okay|well|just|today|now|finally|quick|log|logged|have|i've|we've|did|sad day) )+|"
    r"(?: (?:today|now|please|thanks|just now|so far|all good))+$"
)
_APART = re.compile(r"\s*(?:[;\n]|,(?!\d)|\.(?=\s|$)|\s[/+&](?=\s))\s*")
_COUNT = re.compile(r"(^|\b(?:on|of) )\d{1,2}(?= [a-z]{3})")  # 'clamped fins on 2 guppies'
_MEASURED = re.compile(r"\d|\b(?:dead|died|lost)\b")
SHORT = 6  # words: a longer account of what was seen tells more than one thing
MOST = 160  # letters: longer lines are stories


def plainly(line: str, now: datetime, us: bool, day_first: bool, knows: Callable[[str], bool]) -> str | None:
    """The line in the shorthand's words, its moment in front; None where a word has no place or may bend the others.
    `knows`: whether the shorthand itself takes a piece whole."""
    text = " ".join(line.replace("’", "'").replace("!", " ").lower().split()).strip(" .,")
    if not text or len(text) > MOST:
        return None
    text = clocks(in_millilitres(in_figures(text), us))
    found = said_moment(text, now, day_first)
    when, rest = (f"{found[0]:%Y-%m-%d %H:%M} ", found[1]) if found else ("", text)
    if BENDS.search(_HARMLESS.sub(" ", rest)):
        return None
    pieces = _pieces(rest, knows)
    return f"{when}{' '.join(pieces)}" if pieces else None


def _pieces(text: str, knows: Callable[[str], bool]) -> list[str] | None:
    whole = paired(text) or several(text) or switches(text)
    if whole is not None:
        return [whole]
    told: list[str] = []
    for piece in filter(None, _APART.split(text)):
        plain = _one(piece, told[-1] if told else "", knows)
        for part in [plain] if plain else piece.split(" and "):
            said = plain or _one(part, told[-1] if told else "", knows)
            if said is None:
                return None
            told.append(said)
    signs = [t for t in told if t.startswith("saw ")]
    if len(signs) > 1:
        return None
    return [t for t in told if t not in signs] + signs  # what was seen takes the rest of a line


_WORDS_ONLY = re.compile(r"(?:note|saw|seen|obs|medicine|medication|meds|new|fault)\b")


def _one(piece: str, before: str, knows: Callable[[str], bool]) -> str | None:
    piece = _FILLER.sub("", piece.strip()).strip()
    behind = re.search(r" (?:at )?(\d{2}:\d{2})$", piece)
    if behind is not None:
        piece = f"{behind[1]} {piece[: behind.start()]}"
    when = re.match(r"(?:yesterday|today|mon|tue|wed|thu|fri|sat|sun)\w*(?: \d{2}:\d{2})? |\d{2}:\d{2} ", piece)
    lead = when[0] if when else ""
    plain = plain_clause(piece[len(lead) :], before)
    if plain is not None:
        return f"{lead}{plain}"
    if not _WORDS_ONLY.match(piece) and knows(piece):
        return piece
    if not lead and not _MEASURED.search(_COUNT.sub("", piece)) and len(piece.split()) <= SHORT and signs_in(piece):
        return f"saw {piece}"
    return None
