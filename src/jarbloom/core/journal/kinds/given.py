"""Animals given away."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Ask, Clause
from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field
from jarbloom.core.journal.kinds.field import CARRIED, MOST_ID, number_field, species_field, text_field
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.model.species import Species
from jarbloom.patterns import regex
from jarbloom.units import Units

_IN_DOUBT = regex(
    r"\?|\b(?:not|maybe|perhaps|tomorrow|next|last|plan\w*|cancel\w*|due|guess|would|wrong|missing|or|if|soon|later|dream)\b"
)


@kind
class Given(AboutAnimals):
    key: ClassVar[str] = "given"
    label: ClassVar[str] = "Given away"
    example: ClassVar[str] = "gave 4 guppies"
    place: ClassVar[int] = 16
    said: ClassVar[tuple[str, ...]] = ("gave", "rehomed")
    leaves: ClassVar[bool] = True
    species: str = species_field()
    count: int = heads_field()
    to: str = text_field("to whom")
    group: int | None = number_field("group", whole=True, high=MOST_ID, role=CARRIED)

    @classmethod
    def more(cls, line: Clause) -> dict[str, object]:
        if not line.take("to"):
            return {}
        whom = line.phrase()
        if _IN_DOUBT.search(whom.lower()):
            raise Ask(f"“to {whom}”: given away, or not yet?")
        return {"to": whom}

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        return f"{self.who(species)} given away" + (f" to {self.to}" if self.to else "")
