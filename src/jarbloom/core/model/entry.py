"""A line of the journal: when it happened, what it says, and how it stands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime, tzinfo
from functools import cached_property
from typing import Any, ClassVar, Generic

from typing_extensions import TypeVar

from jarbloom.core.model.kit import Reading
from jarbloom.core.model.species import Species
from jarbloom.units import Units


class Body:
    """What an entry says, typed: one subclass for each kind of entry, in core/journal/kinds."""

    key: ClassVar[str] = ""
    label: ClassVar[str] = ""

    def words(self, species: Mapping[str, Species], units: Units) -> str:
        """In a line, as the log book writes it."""
        raise NotImplementedError

    def to_json(self) -> dict[str, Any]:
        """What is stored: the fields that say something."""
        raise NotImplementedError

    def plain(self) -> dict[str, str]:
        """The cells of log.csv that a person reads."""
        raise NotImplementedError

    def repeats(self, other: Body) -> bool:
        """Whether another of this kind at the same minute says the same thing once more."""
        return True

    @property
    def carried(self) -> dict[str, Any]:
        """What a correction of this entry keeps, since no form shows it."""
        return {}

    @property
    def seen(self) -> tuple[Reading, ...]:
        """What was read; nothing but for a test."""
        return ()


B = TypeVar("B", bound=Body, covariant=True, default=Body)


@dataclass(frozen=True)
class Entry(Generic[B]):
    body: B
    at: datetime
    note: str = ""
    who: str = ""
    zone: str = "UTC"
    id: int = 0
    state: str = "live"  # live | superseded | void
    supersedes: int | None = None
    recorded_at: datetime | None = None
    act: int = 0

    @property
    def kind(self) -> str:
        return self.body.key

    @property
    def readings(self) -> tuple[Reading, ...]:
        return self.body.seen

    @cached_property
    def order(self) -> tuple[int, int]:
        """Sorts a log: by the minute, and within a minute as it was written down."""
        return int(self.at.timestamp() // 60), self.id

    @cached_property
    def digest(self) -> bytes:
        """Tells it from another as far as a forecast goes."""
        return repr((self.at.isoformat(), self.id, self.body)).encode()

    @cached_property
    def day(self) -> date:
        """The calendar day in the keeper's zone, into which `at` was brought when the entry was loaded."""
        return self.at.date()

    def in_zone(self, zone: tzinfo | None) -> Entry[B]:
        """The same moment as this keeper's clock shows it."""
        if zone is None or self.at.tzinfo is zone:
            return self
        return replace(self, at=self.at.astimezone(zone))
