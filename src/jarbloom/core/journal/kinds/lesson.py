"""What an upset was, once it is over: the note that the program writes from the log and the keeper corrects."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import ClassVar

from jarbloom.core.journal.kinds.field import date_field, flag_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units


@kind
class Lesson(Kind):
    """`cause`: a key of data/causes.toml, `title` in words; `resume`: no new animals before; `prevent`: what is done so
    that it does not come again, `ask`: whether it stands on the job list."""

    key: ClassVar[str] = "lesson"
    label: ClassVar[str] = "What an upset was"
    lane: ClassVar[str] = "life"
    by_form: ClassVar[bool] = False
    moves_forecast: ClassVar[bool] = False
    cause: str = text_field("cause", required=True, column="cause")
    title: str = text_field("cause in words")
    text: str = text_field("what happened", column="text")
    prevent: str = text_field("so that it does not come again")
    ask: bool = flag_field("on the job list")
    resume: date | None = date_field("no new animals before")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        parts = [
            self.title or self.cause,
            self.text,
            f"So that it does not come again: {self.prevent}" if self.prevent else "",
        ]
        return ". ".join(p.rstrip(".") for p in parts if p)
