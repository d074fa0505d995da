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


def _value(word: str) -> int:
    return int(word) if word.isdigit() else ONES.get(word, TENS.get(word, 0))


def _digits(words: str) -> str:
    return "".join("0" if w == "oh" else str(ONES[w]) for w in words.split())
