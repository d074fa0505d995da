"""Numbers as people say and write them: 'two', 'half a dozen', 'zero point five', '1½'."""

from __future__ import annotations

import re
from collections.abc import Mapping

_ONES = (
    "zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve",
    "thirteen", "fourteen", "fifteen", "sixteen", "seventeen", "eighteen", "nineteen",
)  # fmt: skip
_TENS_SAID = ("twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety")
ONES: Mapping[str, int] = {word: n for n, word in enumerate(_ONES)}
TENS: Mapping[str, int] = {word: 10 * n for n, word in enumerate(_TENS_SAID, 2)}
WORD = "|".join((*ONES, *TENS))
_DIGIT = "|".join(list(ONES)[:10]) + "|oh"
_POINT = re.compile(rf"\b(?:({WORD}|oh|nought|naught|\d+) )?point ((?:{_DIGIT})(?: (?:{_DIGIT}))*)\b")
_TENS = re.compile(rf"\b({'|'.join(TENS)})[ -]({'|'.join(list(ONES)[1:10])})\b")
_AND_A_HALF = re.compile(rf"\b({WORD}|\d+) and a (half|quarter)\b")
_PLAIN = re.compile(rf"\b({WORD})\b")
_SIGNS = {"½": 0.5, "¼": 0.25, "¾": 0.75, "⅓": 1 / 3, "⅔": 2 / 3}
_GLYPH = re.compile(r"(\d*)\s?([½¼¾⅓⅔])")
GROUPS = (
    (re.compile(r"\b(?:a |one )?hundred\b(?! and)"), "100"),
    (re.compile(r"\bhalf a dozen\b"), "6"),
    (re.compile(r"\ba dozen\b"), "12"),
    (re.compile(r"\ba (?:couple|pair)(?: of)?\b"), "2"),
)


def in_figures(text: str) -> str:
    """The same words with every number in figures.

    >>> in_figures("ammonia zero point five, twenty-two litres, half a dozen neons, nitrite 1½")
    'ammonia 0.5, 22 litres, 6 neons, nitrite 1.5'
    """
    text = _GLYPH.sub(lambda m: f"{float(m[1] or 0) + _SIGNS[m[2]]:.4g}", text)
    for pattern, figures in GROUPS:
        text = pattern.sub(figures, text)
    text = _AND_A_HALF.sub(lambda m: f"{_value(m[1]) + (0.5 if m[2] == 'half' else 0.25):g}", text)
    text = _TENS.sub(lambda m: str(TENS[m[1]] + ONES[m[2]]), text)
    text = _POINT.sub(lambda m: f"{_value(m[1] or '0'):.0f}.{_digits(m[2])}", text)
    return _PLAIN.sub(lambda m: str(_value(m[1])), text)


# mL; US measures, as the recipe books have them. What other countries call a pint, a cup or an ounce is another amount.
_SPOONS = {"tsp": 4.929, "teaspoon": 4.929, "tbsp": 14.787, "tablespoon": 14.787}
_KITCHEN = {"cup": 236.6, "pint": 473.2, "qt": 946.4, "quart": 946.4, "oz": 29.57, "fl oz": 29.57, "ounce": 29.57}
_MEASURE = re.compile(
    r"(?:(\d+(?:\.\d+)?|\.\d+|half an?|an?) ?)(tsp|teaspoon|tbsp|tablespoon|cup|pint|qt|quart|fl oz|oz|ounce)s?\b"
    r"(?: of)?"
)
_MILLILITRES = re.compile(r"(?<=\d) ?(?:mils?|cc|milliliters?|millilitres?)\b")
_IMPERIAL = re.compile(r"(\d+(?:\.\d+)?) ?(?:uk|imp(?:erial)?) gal(?:lons?)?\b")
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
    return "".join("0" if w == "oh" else str(ONES[w]) for w in words.split())
