"""What all entries about animals share: which, how many, and that they come whole."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Self

from jarbloom.core.animals.names import animal_name, plural
from jarbloom.core.journal.asking import Clause, Heard
from jarbloom.core.journal.kinds.field import number_field
from jarbloom.core.journal.kinds.kind import Kind
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.entry import Body
from jarbloom.core.model.species import Species
from jarbloom.errors import Refused
from jarbloom.units import MOST_HEADS, Units

OUTGROWN = 1.3  # of the usual adult length (judgement)
MANY = 60  # more heads than this at once are asked about


def heads_field(label: str = "how many", low: int = 1) -> int:
    return number_field(label, low=low, high=MOST_HEADS, required=True, whole=True)


def length_field() -> float | None:
    return number_field("length now", dimension="length", low=0.1, high=300)


class AboutAnimals(Kind):
    """`species` is a key of the catalogue, `count` heads."""

    lane: ClassVar[str] = "life"
    glyph: ClassVar[str] = "fish"
    new: ClassVar[bool] = False  # its animals need not live here yet
    verb: ClassVar[str] = ""  # what the log book writes behind them
    least: ClassVar[int] = 1
    leaves: ClassVar[bool] = False  # its animals are gone from the tank
    species: str
    count: int

    def completed(self, setting: Setting) -> Self:
        if self.species not in setting.species:
            raise Refused(f"“{self.species}” is not in the catalogue.", "species")
        kind, length = setting.species[self.species], getattr(self, "length_cm", None)
        # Single animals outgrow the usual adult length; far beyond it the unit or the species is a slip.
        if length is not None and kind.key != "unknown" and length > OUTGROWN * kind.adult_cm:
            units = setting.units
            raise Refused(
                f"{kind.name[:1].upper()}{kind.name[1:]} grow to {units.length(kind.adult_cm)}; "
                f"{units.length(length)} is beyond that. Check the unit, or leave it empty.",
                "length_cm",
            )
        return self

    def who(self, species: Mapping[str, Species]) -> str:
        """'8 harlequin rasboras'."""
        return f"{self.count} {plural(animal_name(self.species, species), self.count)}"

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{self.who(species)}{self.verb}"

    def repeats(self, other: Body) -> bool:
        return isinstance(other, AboutAnimals) and other.species == self.species

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        count, key = line.animals(cls.label.lower(), cls.least, new=cls.new)
        line.doubt(count > MANY, f"{count} at once: is that right?")
        if cls.leaves:
            there = line.setting.living.get(key, 0)
            line.doubt(count > there, f"{count}, and {there} live here by the log: is that right?")
        told = cls.more(line)
        made = cls.from_raw({"species": key, "count": count, **told}).completed(line.setting)
        who, label = made.who(line.setting.species), cls.label.lower()
        words = made.words(line.setting.species, line.setting.units) if told else who
        return Heard(made, label, who, words.removeprefix(who).removeprefix(f" {label}").strip(" ,"))

    @classmethod
    def more(cls, line: Clause) -> dict[str, object]:
        """Fields that the log line says behind the animals."""
        return {}
