"""What the core knows about the world, handed in by whoever calls: catalogue, media, schools."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jarbloom.core.model import Species
from jarbloom.core.notes import Note
from jarbloom.core.schools import Schools
from jarbloom.core.setup.checks import Check
from jarbloom.core.vessel.media import Media


@dataclass(frozen=True)
class Reference:
    species: Mapping[str, Species]
    media: Mapping[str, Media]
    schools: Schools
    checks: Mapping[str, Check]
    notes: Mapping[str, Note]
    retired: frozenset[str] = (
        frozenset()
    )  # a keeper's own species that are offered no more; old entries still name them

    @property
    def offered(self) -> dict[str, Species]:
        """The species that can be chosen."""
        return {k: s for k, s in self.species.items() if k not in self.retired}
