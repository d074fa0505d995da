"""Numbers as people say and write them: 'two', 'half a dozen', 'zero point five', '1½'."""

from __future__ import annotations

import re
from collections.abc import Mapping

from jarbloom.patterns import regex

_ONES = (
    "zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve",
    "thirteen", "fourteen", "fifteen", "sixteen", "seventeen", "eighteen", "nineteen",
)  # fmt: skip
_TENS_SAID = ("twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety")
ONES: Mapping[str, int] = {word: n for n, word in enumerate(_ONES)}
TENS: Mapping[str, int] = {word: 10 * n for n, word in enumerate(_TENS_SAID, 2)}
WORD = "|".join((*ONES, *TENS))
_DIGIT = "|".join(list(ONES)[:10]) + "|oh"
_POINT = regex(rf"\b(?:({WORD}|oh|nought|naught|\d+) )?point ((?:{_DIGIT})(?: (?:{_DIGIT}))*|\d+)\b")
_TENS = regex(rf"\b({'|'.join(TENS)})[ -]({'|'.join(list(ONES)[1:10])})\b")
_AND_A_HALF = regex(rf"\b({WORD}|\d+) and a (half|quarter)\b")
_PLAIN = regex(rf"\b({WORD})\b")
_HUNDREDS = regex(
    rf"\b(?:(an?|{'|'.join(list(ONES)[1:10])}|[1-9]) )?hundred(?: (?:and )?((?:{'|'.join(TENS)})(?:[ -](?:{WORD}))?"
    rf"|{WORD}))?\b"
)
_FRACTION = r"([12]/3|[13]/4|1/2|[1-4]/5|1/8|1/10)"
_MIXED = regex(rf"(?<![\d/.])(\d+) {_FRACTION}(?![\d/])")
_OF_UNIT = regex(
    rf"(?<![\d/.]){_FRACTION}(?= ?(?:gal|l\b|lit|tsp|teasp|tbsp|cups?\b|cube|g\b|gram|inch|in\b|\"|lb|kg|kilo|hour"
    r"|dose|cap))"
)
_PART_OF = regex(
    r"\b(half|quarter) an? (?=(?:gal|lit|gram|kilo|tea|table|cup|cube|pinch|inch|pound|cap|bottle|dose)\w*)"
    r"|\b(?:a )(half|quarter) (?=(?:gal|lit|gram|kilo|tea|table|cup|cube|inch|pound)\w*)"
)
_HOURS = regex(r"\b(an|\d+) hours? and (a half|a quarter|(\d+) min(?:ute)?s?)(?: hours?)?(?!\w)")
_SIGNS = {"½": 0.5, "¼": 0.25, "¾": 0.75, "⅓": 1 / 3, "⅔": 2 / 3}
_GLYPH = regex(r"(\d*)\s?([½¼¾⅓⅔])")
GROUPS = (
    (regex(r"\bhalf a dozen\b"), "6"),
    (regex(r"\ba dozen\b"), "12"),
    (regex(r"\ba (?:couple|pair)(?: of)?\b"), "2"),
    (regex(r"\ba trio(?: of)?\b"), "3"),
)


def in_figures(text: str) -> str:
    """The same words with every number in figures.

    >>> in_figures("ammonia zero point five, twenty-two litres, half a dozen neons, nitrite 1½")
    'ammonia 0.5, 22 litres, 6 neons, nitrite 1.5'
    """
    text = _GLYPH.sub(lambda m: f"{float(m[1] or 0) + _SIGNS[m[2]]:.4g}", text)
    for pattern, figures in GROUPS:
        text = pattern.sub(figures, text)
    text = _HUNDREDS.sub(_hundreds, text)
    text = _MIXED.sub(lambda m: f"{int(m[1]) + _share(m[2]):.4g}", text)
    text = _OF_UNIT.sub(lambda m: f"{_share(m[1]):.4g}", text)
    text = _PART_OF.sub(lambda m: "0.5 " if "half" in (m[1], m[2]) else "0.25 ", text)
    text = _AND_A_HALF.sub(lambda m: f"{_value(m[1]) + (0.5 if m[2] == 'half' else 0.25):g}", text)
    text = _TENS.sub(lambda m: str(TENS[m[1]] + ONES[m[2]]), text)
    text = _POINT.sub(lambda m: f"{_value(m[1] or '0'):.0f}.{_digits(m[2])}", text)
    return _HOURS.sub(_hours, _PLAIN.sub(lambda m: str(_value(m[1])), text))


def count_in_words(text: str) -> str:
    """A small number in front as a word, for 'saw 2 tetras' is a count.

    >>> count_in_words("2 tetras gasping"), count_in_words("all gasping")
    ('two tetras gasping', 'all gasping')
    """
    count = re.match(r"\d{1,2}(?= )", text)
    if count is None or int(count[0]) >= len(_ONES):
        return text
    return f"{_ONES[int(count[0])]}{text[count.end() :]}"


def _hundreds(m: re.Match[str]) -> str:
    whole = 100 * (1 if m[1] in (None, "a", "an") else _value(m[1]))
    rest = re.split(r"[ -]", m[2]) if m[2] else []
    return str(whole + sum(_value(w) for w in rest))


def _share(text: str) -> float:
    over, under = text.split("/")
    return int(over) / int(under)


def _hours(m: re.Match[str]) -> str:
    whole = 1 if m[1] == "an" else int(m[1])
    part = int(m[3]) / 60 if m[3] else {"a half": 0.5, "a quarter": 0.25}[m[2]]
    return f"{whole + part:.4g} hours"


# mL; US measures, as the recipe books have them. What other countries call a pint, a cup or an ounce is another amount.
_SPOONS = {"tsp": 4.929, "teaspoon": 4.929, "tbsp": 14.787, "tablespoon": 14.787}
_KITCHEN = {"cup": 236.6, "pint": 473.2, "qt": 946.4, "quart": 946.4, "oz": 29.57, "fl oz": 29.57, "ounce": 29.57}
_MEASURE = regex(
    r"(?:(\d+(?:\.\d+)?|\.\d+|half an?|an?) ?)(tsp|teaspoon|tbsp|tablespoon|cup|pint|qt|quart|fl oz|oz|ounce)s?\b"
    r"(?: of)?"
)
_MILLILITRES = regex(r"(?<=\d) ?(?:mils?|cc|milliliters?|millilitres?)\b")
_IMPERIAL = regex(r"(\d+(?:\.\d+)?) ?(?:uk|imp(?:erial)?) gal(?:lons?)?\b")
ML_PER_IMPERIAL_GALLON = 4546.09


def in_millilitres(text: str, us: bool) -> str:
    """Spoons, and where US measures are used cups, pints, quarts and ounces, in mL; imperial gallons too.

    >>> in_millilitres("conditioner half a teaspoon", False), in_millilitres("topped up a pint", True)
    ('conditioner 2.46 ml', 'topped up 473.2 ml')
    """

    def told(m: re.Match[str]) -> str:
        each = _SPOONS.get(m[2]) or (_KITCHEN[m[2]] if us else None)
        if each is None:
            return m[0]
        number = {"a": 1.0, "an": 1.0, "half a": 0.5, "half an": 0.5}.get(m[1]) or float(m[1])
        return f"{number * each:.4g} ml"

    text = _IMPERIAL.sub(lambda m: f"{float(m[1]) * ML_PER_IMPERIAL_GALLON / 1000:.4g} l", text)
    return _MEASURE.sub(told, _MILLILITRES.sub(" ml", text))


def _value(word: str) -> int:
    return int(word) if word.isdigit() else ONES.get(word, TENS.get(word, 0))


def _digits(words: str) -> str:
    if words.isdigit():
        return words
    return "".join("0" if w == "oh" else str(ONES[w]) for w in words.split())
