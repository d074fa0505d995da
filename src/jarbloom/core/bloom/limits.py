"""The limits of free ammonia and nitrite that those who live in a tank set, and those it is planned under."""

from __future__ import annotations

from collections.abc import Sequence

from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals
from jarbloom.core.model.tank import Tank
from jarbloom.core.water.ammonia import Limits

PLANNED_UNDER = 0.9  # of the limits: members are too hopeful by some per cent near them (docs/planner.md)


def limits_for(groups: Sequence[Animals], reference: Reference, tank: Tank | None = None) -> Limits:
    """Limits of the most sensitive animal among these, in this tank's water by its school on marine nitrite."""
    sea = tank is not None and tank.marine
    factor = reference.schools.marine_nitrite[tank.marine_nitrite].factor if tank is not None and sea else 1.0
    kinds = [reference.species.get(g.species, reference.species["unknown"]) for g in groups]
    return Limits.for_animals(
        "sensitive" if any(k.ammonia_sensitivity == "sensitive" for k in kinds) else "usual",
        "sensitive" if any(k.nitrite_sensitivity == "sensitive" for k in kinds) else "usual",
        factor,
    )


def planning_limits(groups: Sequence[Animals], reference: Reference, tank: Tank) -> Limits:
    """What water is planned for: a bloom that would settle just under a limit is met by one that settles just over."""
    return limits_for(groups, reference, tank).times(PLANNED_UNDER)
