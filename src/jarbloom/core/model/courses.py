"""The next hours and days by what an upset is, as data: rows of data/courses.toml."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class CourseRow:
    """`findings`, `causes`: what calls for it. `steps`: (hours from now, text with places for the clock's words).
    `clock`: which sum of core/causes/clocks.py fills them, empty for none; `caution`: key of data/cautions.toml."""

    key: str
    title: str
    findings: tuple[str, ...]
    causes: tuple[str, ...]
    clock: str
    caution: str
    steps: tuple[tuple[float, str], ...]
