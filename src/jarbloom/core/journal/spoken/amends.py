"""Corrections within a line: 'nitrite .5, no, 1', 'wc 20 l, i mean 25', 'ph 7.6 not 6.7'. The last word counts."""

from __future__ import annotations

from jarbloom.patterns import regex

_NUM = r"(?:\d+(?:[.,]\d+)?|\.\d+)"
_UNIT = r"(?: ?(?:%|l|litres?|liters?|gal|gallons?|ml|g|mg/l|ppm|c|f|dkh))?"
_SO = (
    r"(?:,? (?:no wait|no sorry|sorry|wait no|no make that|make that|no|wait|oops|hm no(?: only)?|hm|er|i mean|i "
    r"meant|or rather|"
    r"rather|correction)(?:,? (?:wait|it was|it is|it's|only|no|sorry|a|misread the card|misread it|misread))*,? |"
    r" ?-> ?| ?=> ?| ?→ ?| ?\*(?=\d))"
)
_TOLD_TWICE = regex(
    rf"(?<![\d.])(?P<old>{_NUM})(?P<unit>{_UNIT}){_SO}(?P<new>{_NUM})(?P<newer>{_UNIT})(?= ?(?:,"
    r"|$|\)))"
)
_NOT_THAT = regex(rf"({_NUM}{_UNIT}),? not {_NUM}{_UNIT}(?=,|$| )")
_HESITANT = regex(r"\b(?:um+|uh+|let me see|let's see|hmm+)\b,? ?|(?<=\d),? yes,? (?=[\d.])")
_SAID_AGAIN = regex(rf"(?<![\d.])(?P<n>{_NUM}) (?P=n)(?=,|$| )")


def amended(text: str) -> str:
    """The text with what was put right in it; one amendment, and nothing else of the line is touched.

    >>> amended("nitrite .5, no, 1"), amended("wc 20 l, i mean 25"), amended("ph 7.6 not 6.7"), amended("not .5")
    ('nitrite 1', 'wc 25 l', 'ph 7.6', 'not .5')
    """
    if _HESITANT.search(text):
        text = _SAID_AGAIN.sub(r"\g<n>", " ".join(_HESITANT.sub(" ", text).split()))
    text = _NOT_THAT.sub(r"\1", text, count=1)
    return _TOLD_TWICE.sub(lambda m: f"{m['new']}{m['newer'] or m['unit']}", text, count=1)
