"""Filter media washed, replaced or left dry."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause, Heard, Tap
from jarbloom.core.journal.kinds.field import choice_field, number_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, Units, figure

WASHED = (
    ("tank_water", "rinsed in tank water"),
    ("tap", "rinsed under the tap"),
    ("replaced", "thrown away, new media"),
    ("dried", "left dry"),
)
SAID = {"tap": "tap", "tank": "tank_water", "replaced": "replaced", "dried": "dried", "dry": "dried"}


@kind
class MediaCleaned(Kind):
    """`share` in percent of the media; None: all of it."""

    key: ClassVar[str] = "media"
    label: ClassVar[str] = "Media cleaning"
    example: ClassVar[str] = "media tap 50%"
    place: ClassVar[int] = 11
    said: ClassVar[tuple[str, ...]] = ("media",)
    how: str = choice_field("how", WASHED, required=True)
    share: float | None = number_field("share of the media, %", low=1, high=100)

    @property
    def part(self) -> float:
        """Share of the media, 0 to 1."""
        return (100.0 if self.share is None else self.share) / 100

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        share = f", {figure(self.share)}{NBSP}% of it" if self.share is not None else ""
        return dict(WASHED)[self.how] + share

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        how = line.take(*SAID)
        if not how:
            taps = (Tap(dict(WASHED)[SAID[w]], line.rewritten(f"media {w}")) for w in ("tank", "tap", "replaced"))
            raise Ask("Media: rinsed how?", *taps)
        line.take("water")
        told = line.amount("media", units=("%",), optional=True)
        made = cls.from_raw({"how": SAID[how], "share": told.value if told else None})
        share = f"{figure(made.share)}{NBSP}% of it" if made.share is not None else "all of it"
        return Heard(made, "media", dict(WASHED)[made.how], share)
