"""The batch planner: who goes in with whom and when, as early as is sure (docs/science.md, planner).

Greedy, batch by batch: as much as is sure on the first day that the terms allow. Waiting for the rest is preferred to
another batch when it takes no longer than the gap that a batch costs. What may not share a batch: those who should
come last with those before them, and in the first batch anyone less hardy than its first.

Into an empty tank whose doses can feed a bloom for everybody, the same is composed once more from the day on which the
water surely bears all of them together: few animals starve a bloom, and whoever comes late has to wait for what they
grow (docs/planner.md). Of the two plans the one that is full sooner is proposed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.bloom.outlook import doses_feed
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.course import WaterCourse
from jarbloom.core.stocking.lots import Lot, items_of, lots_of
from jarbloom.core.stocking.search import PROBED, Placed, Search
from jarbloom.core.stocking.terms import Terms


@dataclass(frozen=True)
class PlanProposal:
    """`left`: animals for which no sure day was found, with the reason (a key of BINDING)."""

    placed: tuple[Placed, ...]
    left: tuple[Animals, ...] = ()
    why_left: str = ""
    left_sure: float = 0.0  # what the bloom surely carries on the day last looked at, against all of it: mg N a day
    left_together: float = 0.0
    left_p: float | None = None  # P of staying under the limits, where the bloom would carry them

    def batches(self, terms: Terms) -> tuple[tuple[date, tuple[Animals, ...]], ...]:
        """(day, animals) of what is put on the plan; who finds no day waits behind the others in a last one. Nothing
        where nobody is placed."""
        found = [(p.planned, p.items) for p in self.placed]
        if found and self.left:
            found.append((found[-1][0] + timedelta(days=terms.gap(False)), self.left))
        return tuple(found)


def propose(
    ensemble: Ensemble,
    wishes: Sequence[Animals],
    terms: Terms,
    locked: Sequence[Batch] = (),
    course: WaterCourse | None = None,
) -> PlanProposal:
    """Compose and date batches for a wish list around those that are locked. Nothing random: the same each time.
    `course`: the water with the locked ones only, when it has been simulated already."""
    tank, species = ensemble.tank, ensemble.reference.species
    lots = list(lots_of(wishes, ensemble.living, species, tank.started))
    if not lots:
        return PlanProposal(())
    if not tank.filters or tank.media_l <= 0:
        return PlanProposal((), items_of(lots), "no filter")
    if terms.proof_asked and terms.ready_from is None:
        return PlanProposal((), items_of(lots), "proof not in sight")
    search = Search(ensemble, terms, locked, course)
    soonest = _composed(search.fresh(), lots)
    if not _may_wait(search, soonest, lots):
        return soonest
    together = search.day_for_all(lots, soonest.placed[0].planned if soonest.placed else terms.today)
    return soonest if together is None else _sooner_full(soonest, _composed(search.fresh(together), lots))


def _may_wait(search: Search, soonest: PlanProposal, lots: Sequence[Lot]) -> bool:
    """Whether more days of doses can make a better plan: into an empty tank, where somebody would have to follow, and
    where doses feed a bloom for everybody."""
    if search.alive or search.locked or search.terms.proof_asked or len(soonest.placed) + bool(soonest.left) < 2:
        return False
    return doses_feed(search.ensemble, [Batch(PROBED, "all", search.terms.today, items_of(lots))])


def _composed(search: Search, lots: Sequence[Lot]) -> PlanProposal:
    """Batch after batch, each as early as it is sure. Who finds no day is left out, and keeps nobody else out."""
    waiting, placed, out, seen = list(lots), list[Placed](), list[Lot](), search.last_look
    while waiting:
        one = search.place(waiting, placed[-1].planned if placed else None)
        if one is None:
            seen = seen if out else search.last_look
            # more of the same find none either
            out += [lot for lot in waiting if lot.kind.key == search.stuck]
            waiting = [lot for lot in waiting if lot.kind.key != search.stuck]
            continue
        placed.append(one[0])
        taken = {id(lot) for lot in one[1]}  # two snails are two lots, though they are alike
        waiting = [lot for lot in waiting if id(lot) not in taken]
    return PlanProposal(tuple(placed), items_of(out), "not in sight", *seen) if out else PlanProposal(tuple(placed))


def _sooner_full(soonest: PlanProposal, together: PlanProposal) -> PlanProposal:
    """The plan that leaves fewer animals out, else is full sooner; the one that begins sooner where both are alike."""

    def late(plan: PlanProposal) -> tuple[int, date]:
        return sum(a.count for a in plan.left), plan.placed[-1].planned if plan.placed else date.max

    return min(soonest, together, key=late)


def redate(
    ensemble: Ensemble,
    batches: Sequence[Batch],
    terms: Terms,
    locked: Sequence[Batch] = (),
    course: WaterCourse | None = None,
) -> tuple[tuple[Batch, Placed | None], ...]:
    """The first sure day of each batch as the keeper made it up, in the keeper's order; None where none is in sight."""
    if terms.proof_asked and terms.ready_from is None:
        return tuple((b, None) for b in batches)
    search, previous, found = Search(ensemble, terms, locked, course), None, []
    for batch in sorted(batches, key=lambda b: (b.planned, b.id)):
        one = search.place_whole(batch, previous)
        found.append((batch, one))
        previous = one.planned if one else previous
    return tuple(found)


def first_possible_days(
    ensemble: Ensemble, batches: Sequence[Batch], terms: Terms
) -> tuple[tuple[Batch, date | None, str], ...]:
    """(batch, its earliest day or None, what sets it) in the keeper's order, each with those before it on days that are
    possible: their planned one, or their own earliest where that comes later."""
    order = sorted((b for b in batches if b.items), key=lambda b: (b.planned, b.id))
    if not ensemble.tank.filters or ensemble.tank.media_l <= 0:
        return tuple((b, None, "no filter") for b in order)
    if terms.proof_asked and terms.ready_from is None:
        return tuple((b, None, "proof not in sight") for b in order)
    search, previous, found = Search(ensemble, terms, ()), None, []
    for batch in order:
        one = search.earliest_whole(batch, previous)
        found.append((batch, one[0] if one else None, one[1] if one else "not in sight"))
        if one:
            previous = max(one[0], batch.planned)
            search.put(batch, previous)
    return tuple(found)
