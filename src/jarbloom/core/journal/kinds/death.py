"""Animals found dead."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from jarbloom.core.journal.asking import Clause
from jarbloom.core.journal.kinds.animals import AboutAnimals, heads_field
from jarbloom.core.journal.kinds.field import CARRIED, MOST_ID, choice_field, number_field, species_field, text_field
from jarbloom.core.journal.kinds.kind import kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units

BODY_SAID: Mapping[str, str] = {"found": "found", "notfound": "not_found"}
CAUSE_SAID: Mapping[str, str] = {
    "jumped": "jumped", "eaten": "eaten", "moulting": "moulting", "moult": "moulting", "dropsy": "dropsy",
    "oldage": "old age",
}  # fmt: skip
BODY = (("found", "body found"), ("not_found", "body not found"))


@kind
class Death(AboutAnimals):
    key: ClassVar[str] = "death"
    label: ClassVar[str] = "Found dead"
    example: ClassVar[str] = "dead 1 rasbora"
    glyph: ClassVar[str] = "fish_struck"
    place: ClassVar[int] = 18
    said: ClassVar[tuple[str, ...]] = ("dead", "died")
    leaves: ClassVar[bool] = True
    species: str = species_field()
    count: int = heads_field()
    cause: str = text_field("cause, if known")
    body: str = choice_field("body", BODY)
    group: int | None = number_field("group", whole=True, high=MOST_ID, role=CARRIED)

    @classmethod
    def more(cls, line: Clause) -> dict[str, object]:
        """Whether the body was found, and of what they died where that is plain."""
        found: dict[str, object] = {}
        while word := line.take(*BODY_SAID, *CAUSE_SAID):
            found |= {"body": BODY_SAID[word]} if word in BODY_SAID else {"cause": CAUSE_SAID[word]}
        return found

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        parts = [f"{self.who(species)} found dead", self.cause, dict(BODY).get(self.body, "")]
        return ", ".join(p for p in parts if p)
