"""A page in the keeper's manner: its text, and the labels that are read out. What is typed in fields, examples of the
log line and scripts stay as they are."""

from __future__ import annotations

import re

from jarbloom.manner import Manner, text_in

_KEPT = re.compile(r"(<(script|style|textarea|kbd|code|pre)\b.*?</\2>|<[^>]*>)", re.S)
_LABEL = re.compile(r'(?<=\s)(aria-label|title|aria-valuetext)="([^"]*)"')


def written(html: str, manner: Manner) -> str:
    """The page in that manner."""
    if manner.plain:
        return html
    pieces = _KEPT.split(html)
    # split gives text, tag, name of a kept element or None, text, ...
    told = []
    for k, piece in enumerate(pieces):
        if k % 3 == 0:
            told.append(text_in(piece, manner))
        elif k % 3 == 1:
            told.append(piece if pieces[k + 1] else _LABEL.sub(lambda m: f'{m[1]}="{text_in(m[2], manner)}"', piece))
    return "".join(told)
