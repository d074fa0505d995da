"""Heads that were counted."""

from __future__ import annotations

from typing import ClassVar

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field
from jarbloom.core.journal.kinds.field import species_field
from jarbloom.core.journal.kinds.kind import kind


@kind
class HeadCount(AboutAnimals):
    key: ClassVar[str] = "count"
    label: ClassVar[str] = "Heads counted"
    example: ClassVar[str] = "counted 7 rasboras"
    place: ClassVar[int] = 17
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("counted",)
    verb: ClassVar[str] = " seen"
    least: ClassVar[int] = 0
    species: str = species_field()
    count: int = heads_field("how many were seen", low=0)

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        heard = super().clause(line)
        assert isinstance(heard.body, HeadCount)
        there = line.setting.living.get(heard.body.species, 0)
        line.doubt(heard.body.count > there, f"{heard.body.count} counted, {there} by the log: is that right?")
        return heard
