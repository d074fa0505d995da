"""Corals, anemones and others that stay where they are put: place, heads, and what became of them."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field
from jarbloom.core.journal.kinds.field import choice_field, number_field, species_field, text_field
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units

DONE = (
    ("placed", "placed"),
    ("wandered", "wandered by itself"),
    ("split", "split or cut"),
    ("melted", "melting or dying back"),
)
WORDS = {"placed": "placed", "wandered": "wandered", "split": "split", "melted": "melted", "melting": "melted"}


@kind
class Placed(AboutAnimals):
    """`heads`: heads, polyps or discs that were counted, of all of them."""

    key: ClassVar[str] = "placed"
    label: ClassVar[str] = "Coral or anemone"
    example: ClassVar[str] = "placed 1 torch coral 3 heads, top left"
    place: ClassVar[int] = 24
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = tuple(WORDS)
    species: str = species_field()
    count: int = heads_field("how many of them")
    how: str = choice_field("it was", DONE, required=True)
    heads: int | None = number_field("heads or polyps", low=0, high=100000, whole=True)
    text: str = text_field("where it is", column="text")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        heads = f", {self.heads} head{'s' if self.heads != 1 else ''}" if self.heads is not None else ""
        return f"{self.who(species)} {dict(DONE)[self.how]}{heads}" + (f", {self.text}" if self.text else "")

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        count, key = line.animals(cls.label.lower())
        rest = line.rest()
        told = re.search(r"\b(\d{1,5})\s+(?:heads?|polyps?|discs?)\b", rest)
        where = (rest[: told.start()] + rest[told.end() :]).strip(" ,;") if told else rest
        made = cls.from_raw({"species": key, "count": count, "how": WORDS[line.word],
                             "heads": int(told[1]) if told else None, "text": where})  # fmt: skip
        return Heard(made, dict(DONE)[made.how], made.words(line.setting.species, line.setting.units))
