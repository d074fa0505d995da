"""From a wish list to lots: the animals that go in together, in the order in which they should come."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from jarbloom.core.model.species import Animals, Species

ORDERS = ("first", "middle", "last")  # of a species' row: when it should come
HARDY = ("hardy", "usual", "delicate")
TERRITORY = ("none", "mild", "strong")
CLEANERS = ("shrimp", "snail", "crab")
CLEAN_AFTER = timedelta(days=28)  # age of a tank in which there is something to clean (judgement)


@dataclass(frozen=True)
class Lot:
    """`rank`: the lower comes the sooner. `not_before`: the tank has not run long enough until then."""

    animals: Animals
    kind: Species
    order: str
    rank: tuple[int, int, int, str]
    not_before: date

    @property
    def sensitive(self) -> bool:
        return "sensitive" in (self.kind.ammonia_sensitivity, self.kind.nitrite_sensitivity)


def lots_of(
    wishes: Iterable[Animals], living: Sequence[Animals], species: Mapping[str, Species], started: date
) -> tuple[Lot, ...]:
    """Groups whole or at their minimum, pairs and holders of ground together; the hardy first, the territorial last."""
    there = {key: sum(g.count for g in living if g.species == key) for key in {g.species for g in living}}
    found = []
    for wish in merged(wishes):
        kind = species.get(wish.species, species["unknown"])
        whole = there.get(wish.species, 0) >= kind.group_min
        for count in _split(wish.count, 1 if whole else kind.group_min, _together(kind)):
            found.append(_lot(replace(wish, count=count), kind, started))
    return tuple(sorted(found, key=lambda lot: lot.rank))


def merged(wishes: Iterable[Animals]) -> list[Animals]:
    """Animals of one species and length put together, in the order of their first."""
    found: dict[tuple[str, float | None], Animals] = {}
    for wish in wishes:
        key = (wish.species, wish.length_cm)
        before = found.get(key)
        found[key] = replace(wish, count=wish.count + (before.count if before else 0))
    return list(found.values())


def _together(kind: Species) -> bool:
    """Who holds ground, or lives as a pair, comes at once: the later one would be driven off."""
    return kind.territory == "strong" or "pair" in kind.sex_ratio or (kind.order == "last" and kind.group == "fish")


def _split(count: int, least: int, together: bool) -> list[int]:
    """A count in lots of at least `least`, as even as they come.

    >>> _split(20, 6, False), _split(8, 6, False), _split(3, 1, False), _split(4, 1, True)
    ([7, 7, 6], [8], [1, 1, 1], [4])
    """
    if together or count < 2 * least:
        return [count]
    parts = count // least
    return [count // parts + (k < count % parts) for k in range(parts)]


def _lot(animals: Animals, kind: Species, started: date) -> Lot:
    not_before = started + timedelta(days=round(30.44 * kind.maturity_months))
    if kind.group in CLEANERS:
        not_before = max(not_before, started + CLEAN_AFTER)
    order = order_of(kind)
    rank = (ORDERS.index(order), HARDY.index(kind.hardiness), _ground(kind), kind.key)
    return Lot(animals, kind, order, rank, not_before)


def order_of(kind: Species) -> str:
    """first, middle or last: fish that strongly hold ground come last whatever else their row says."""
    return "last" if kind.territory == "strong" and kind.group == "fish" else kind.order


def _ground(kind: Species) -> int:
    return TERRITORY.index(kind.territory) if kind.territory in TERRITORY else 0


def items_of(lots: Iterable[Lot]) -> tuple[Animals, ...]:
    """The animals of some lots, a species once."""
    return tuple(merged(lot.animals for lot in lots))
