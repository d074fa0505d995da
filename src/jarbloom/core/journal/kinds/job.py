"""A job that was done, put off or skipped."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import ClassVar

from jarbloom.core.journal.kinds.field import choice_field, date_field, text_field
from jarbloom.core.journal.kinds.kind import Kind, kind
from jarbloom.core.model.species import Species
from jarbloom.units import Units

HOW = (("done", "done"), ("skipped", "skipped"), ("snoozed", "put off"))


@kind
class JobAnswered(Kind):
    key: ClassVar[str] = "job"
    label: ClassVar[str] = "Job"
    by_form: ClassVar[bool] = False
    moves_forecast: ClassVar[bool] = False
    job: str = text_field("job", required=True)
    how: str = choice_field("how", HOW, required=True)
    title: str = text_field("what")
    until: date | None = date_field("until")
    text: str = text_field("reason")

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        until = f" until {self.until:%-d %b}" if self.until else ""
        reason = f": {self.text}" if self.text else ""
        return f"{self.title or self.job}, {dict(HOW)[self.how]}{until}{reason}"
