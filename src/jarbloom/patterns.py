"""Patterns that are compiled when they are first asked: the hundreds by which a line is read are not needed to show a
page, and take as long as to make one."""

from __future__ import annotations

import re
from typing import Any, cast

_ASKED = ("match", "fullmatch", "search", "sub", "subn", "split", "finditer", "findall", "pattern", "flags", "groups")


NOTHING = r"(?!)"  # matches no text

EVERY: list[re.Pattern[str]] = []


class _Later:
    def __init__(self, text: str, flags: int) -> None:
        self._told = text, flags

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_"):
            raise AttributeError(name)
        made = re.compile(*self._told)
        self.__dict__.update({n: getattr(made, n) for n in _ASKED})  # from now on asked directly
        return getattr(made, name)


def regex(text: str, flags: int = 0) -> re.Pattern[str]:
    """As re.compile, later. A fault in it shows at its first use: tests/core/test_spoken_parts.py asks them all."""
    EVERY.append(cast("re.Pattern[str]", _Later(text, flags)))
    return EVERY[-1]
