"""What a keeper does again and again, by a rhythm of their own."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jarbloom.core.model.choices import WEEKDAYS


@dataclass(frozen=True)
class Chore:
    """`rhythm`: every so many `days`, on a `weekday` (Monday is 0), or `after_change` of water. `line`: the shorthand
    that ticking it writes, '' where the tick alone is kept."""

    title: str
    rhythm: str
    every: int
    line: str
    made_on: date
    id: int = 0

    @property
    def key(self) -> str:
        """What its ticks are remembered by."""
        return f"chore.{self.id}"

    @property
    def words(self) -> str:
        if self.rhythm == "weekday":
            return f"every {WEEKDAYS[self.every]}"
        if self.rhythm == "after_change":
            return "after each water change"
        return "every day" if self.every == 1 else f"every {self.every} days"
