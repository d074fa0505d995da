"""One animal that has a name of its own."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Self

from jarbloom.core.animals.names import called
from jarbloom.core.journal.asking import Ask, Clause, Heard
from jarbloom.core.journal.kinds.animals import AboutAnimals
from jarbloom.core.journal.kinds.field import CARRIED, number_field, species_field, text_field
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.journal.setting import Setting
from jarbloom.core.model.species import Species
from jarbloom.errors import Refused
from jarbloom.units import Units

MOST = 40
EVERYBODY = frozenset({"fish", "one", "all", "both", "it", "them", "they", "the", "a", "male", "female", "animal"})


@kind
class Named(AboutAnimals):
    """What is logged of this name later ('dead pebble', 'length pebble 12 cm') is of this animal."""

    key: ClassVar[str] = "named"
    label: ClassVar[str] = "Name of an animal"
    example: ClassVar[str] = "name 1 betta Pebble"
    place: ClassVar[int] = 25
    moves_forecast: ClassVar[bool] = False
    said: ClassVar[tuple[str, ...]] = ("name", "named")
    species: str = species_field()
    called: str = text_field("its name", required=True, column="text")
    count: int = number_field("how many", default=1, low=1, high=1, whole=True, role=CARRIED)

    def __post_init__(self) -> None:
        super().__post_init__()
        if len(self.called) > MOST or any(c.isdigit() for c in self.called):
            raise Refused(f"A name has no figures and at most {MOST} letters.", "called")

    def completed(self, setting: Setting) -> Self:
        """A name by which lines speak of one animal must not be what others are called."""
        super().completed(setting)
        kind = called(self.called, setting.species, setting.living)
        if self.called.lower() in EVERYBODY or kind.keys or kind.surely(True) is not None:
            raise Refused(
                f"“{self.called}” is what others are called too: a line would not tell who is meant.", "called"
            )
        return self

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{self.who(species)} is called {self.called}"

    @classmethod
    def clause(cls, line: Clause) -> Heard:
        count, key = line.animals(cls.label.lower())
        name = line.rest().strip(" ,.:")
        if count != 1:
            raise Ask("name: one animal at a time")
        if not name:
            raise Ask("name: how is it called?")
        made = cls.from_raw({"species": key, "called": name, "count": 1}).completed(line.setting)
        return Heard(made, "its name", made.words(line.setting.species, line.setting.units))
