"""The batch planner: who goes in with whom and when, as early as is sure (docs/science.md, planner).

Greedy, batch by batch: as much as is sure on the first day that the terms allow. Waiting for the rest is preferred to
another batch when it takes no longer than the gap that a batch costs. What may not share a batch: those who should
come last with those before them, and in the first batch anyone less hardy than its first.

Into an empty tank whose doses can feed a bloom for everybody, the same is composed once more from the day on which the
water surely bears all of them together: few animals starve a bloom, and whoever comes late has to wait for what they
grow (docs/planner.md). Of the two plans the one that is full sooner is proposed.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import carries, holds
from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.bloom.outlook import doses_feed
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.course import Watched, WaterCourse
from jarbloom.core.stocking.lots import Lot, items_of, lots_of, merged
from jarbloom.core.stocking.pace import REST_WAITS
from jarbloom.core.stocking.terms import SEARCH_DAYS, Terms
from jarbloom.core.vessel.media import ceiling_mg_n_day

PROBED = 99  # the id of a batch that is only being tried


@dataclass(frozen=True)
class Placed:
    """A batch as the planner would have it, and what set its day: a key of BINDING."""

    planned: date
    bought: date
    items: tuple[Animals, ...]
    watched: Watched
    sure: float
    together: float
    binding: str


@dataclass(frozen=True)
class PlanProposal:
    """`left`: animals for which no sure day was found, with the reason (a key of BINDING)."""

    placed: tuple[Placed, ...]
    left: tuple[Animals, ...] = ()
    why_left: str = ""
    left_sure: float = 0.0  # what the bloom surely carries on the day last looked at, against all of it: mg N a day
    left_together: float = 0.0
    left_p: float | None = None  # P of staying under the limits, where the bloom would carry them


PUT_RIGHT_DAYS = 2  # what is low today is put right tomorrow, and the bloom is back the day after
BINDING = {
    "today": "nothing asks for waiting",
    "proof": "the proof that the tank is cycled comes first",
    "likely proof": "the tank is likely cycled by then, but not surely: the proof decides",
    "pace": "the days asked between batches",
    "quarantine": "the quarantine before it",
    "your days": "the day of the week you have time",
    "locked": "the days asked before and after a locked batch",
    "together": "until then doses grow a bloom that carries all of them, which few animals would starve",
    "age": "the tank has to run so long for these animals",
    "water": "until then the bloom does not surely carry it",
    "alkalinity": "until then KH may be used up, which stops the bloom: kept up, it can come sooner",
    "rest": "so long at most it waits for a bloom that carries the rest too",
    "order": "the batch before it",
    "no filter": "the tank has no filter, so there is little for a bloom to live on",
    "not in sight": f"no day within {SEARCH_DAYS} days is sure enough",
    "proof not in sight": "no sure end of the cycling is forecast yet",
}


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
    search = _Search(ensemble, terms, locked, course)
    soonest = _composed(search.fresh(), lots)
    together = search.day_for_all(lots, soonest)
    return soonest if together is None else _sooner_full(soonest, _composed(search.fresh(together), lots))


def _composed(search: _Search, lots: Sequence[Lot]) -> PlanProposal:
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
    search, previous, found = _Search(ensemble, terms, locked, course), None, []
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
    search, previous, found = _Search(ensemble, terms, ()), None, []
    for batch in order:
        one = search.earliest_whole(batch, previous)
        found.append((batch, one[0] if one else None, one[1] if one else "not in sight"))
        if one:
            previous = max(one[0], batch.planned)
            search.put(batch, previous)
    return tuple(found)


def _sharing(ready: Sequence[Lot], first: bool) -> list[Lot]:
    """Of the lots that are ready, in order, those that may share the next batch."""
    order = ready[0].order
    if first or order == "last":
        return [lot for lot in ready if lot.order == order]
    return [lot for lot in ready if lot.order != "last"]


class _Search:
    """Batch after batch on one course of the water that goes on with what has been placed."""

    def __init__(
        self, ensemble: Ensemble, terms: Terms, locked: Sequence[Batch], course: WaterCourse | None = None
    ) -> None:
        self.ensemble, self.terms = ensemble, terms
        self.locked = sorted((b for b in locked if b.items), key=lambda b: b.planned)
        self.course = (course or WaterCourse(ensemble, self.locked)).branch()
        self.placed_load = 0.0
        self.ceiling = ceiling_mg_n_day(ensemble.tank, ensemble.reference.media)
        self.alive = bool(ensemble.living)
        self.not_before = terms.today
        self.last_look: tuple[float, float, float | None] = (0.0, 0.0, None)
        self.stuck = ""  # the kind for which no day was found
        self.asked: dict[tuple[date, int], tuple[bool, Watched | None, float]] = {}

    def fresh(self, not_before: date | None = None) -> _Search:
        """A search of its own on the same water, for batches from a day on."""
        other = _Search(self.ensemble, self.terms, self.locked, self.course)
        other.not_before = not_before or self.not_before
        return other

    def day_for_all(self, lots: Sequence[Lot], soonest: PlanProposal) -> date | None:
        """The first day on which the water surely bears all together whom no age of the tank keeps out longer, within
        the weeks that a batch waits for the rest; None where waiting cannot be the better plan."""
        batch = Batch(PROBED, "all", self.terms.today, items_of(lots))
        if self.alive or self.locked or self.terms.proof_asked or len(soonest.placed) + bool(soonest.left) < 2:
            return None
        if not doses_feed(self.ensemble, [batch]):
            return None
        first = soonest.placed[0].planned if soonest.placed else self.terms.today
        until = first + REST_WAITS
        coming = [lot for lot in lots if lot.not_before <= first]
        if self._fits(first, coming):
            return None  # nothing to wait for
        return self._first_day(coming, first, until)

    def place(self, lots: list[Lot], previous: date | None) -> tuple[Placed, list[Lot]] | None:
        """The next batch out of the lots that are left, and the lots that it takes; None where the first of them finds
        no day (`stuck`)."""
        self.asked.clear()
        before_last = [lot for lot in lots if lot.order != "last"] or lots
        earliest = {id(lot): self._earliest(lot, previous) for lot in before_last}
        day, binding = min(earliest.values(), key=lambda e: e[0])
        ready = _sharing([lot for lot in before_last if earliest[id(lot)][0] <= day], not self.alive)
        wait = day + timedelta(days=self.terms.gap(any(lot.sensitive for lot in ready)))
        sharing = _sharing([lot for lot in before_last if earliest[id(lot)][0] <= wait], not self.alive)
        if len(sharing) > len(ready):  # the others are ready before another batch could come
            day, binding = max((earliest[id(lot)] for lot in sharing), key=lambda e: e[0])
            ready, wait = sharing, day + timedelta(days=self.terms.gap(any(lot.sensitive for lot in sharing)))
        if self._fits(day, ready):
            return self._placed(day, ready, binding)
        whole = self._first_day(ready, day, wait)
        if whole is not None:
            return self._placed(whole, ready, "water")
        if self._fits(day, ready[:1]):
            return self._placed(day, ready[: self._most(day, ready)], binding)
        later = self._first_day(ready[:1], day, self.terms.today + timedelta(days=SEARCH_DAYS))
        if later is None:
            self.stuck = ready[0].kind.key
            return None
        return self._placed(later, ready[: self._most(later, ready)], "water")

    def place_whole(self, batch: Batch, previous: date | None) -> Placed | None:
        """The first sure day of a batch as it is, and the batch put there."""
        one = self.earliest_whole(batch, previous)
        return self._placed(one[0], self._lots(batch), one[1])[0] if one else None

    def earliest_whole(self, batch: Batch, previous: date | None) -> tuple[date, str] | None:
        """(the first sure day of a batch as it is, what sets it); None where none is in sight."""
        self.asked.clear()
        lots = self._lots(batch)
        day, binding = max((self._earliest(lot, previous) for lot in lots), key=lambda e: e[0])
        if self._fits(day, lots):
            return day, binding
        later = self._first_day(lots, day, self.terms.today + timedelta(days=SEARCH_DAYS))
        if later is None:
            return None
        soon = max(day, self.terms.today + timedelta(days=PUT_RIGHT_DAYS))
        sooner = soon < later and self._judged(self.course.kept_up(), soon, lots)[0]
        return later, "alkalinity" if sooner else "water"

    def put(self, batch: Batch, day: date) -> None:
        """From now on the batch is in on a day, sure or not."""
        self.placed_load += self._load(batch.items)
        self.course.go_on(replace(batch, planned=day))
        self.alive = True

    def _lots(self, batch: Batch) -> list[Lot]:
        species, started = self.ensemble.reference.species, self.ensemble.tank.started
        return list(lots_of(batch.items, self.ensemble.living, species, started))

    def _earliest(self, lot: Lot, previous: date | None) -> tuple[date, str]:
        """The first day on which the terms allow the lot, and which of them came last."""
        t = self.terms
        floor = [(t.today, "today"), (self.not_before, "together"), (lot.not_before, "age")]
        if self.alive:  # the first into an empty tank are watched there: there is nobody to infect
            floor.append((t.today + timedelta(days=t.quarantine_days), "quarantine"))
        if t.proof_asked and t.ready_from:
            floor.append((t.ready_from, "proof" if t.ready_surely else "likely proof"))
        since = previous if previous is not None else t.last_arrival
        if since is not None:
            floor.append((since + timedelta(days=t.gap(lot.sensitive)), "pace"))
        day, binding = max(floor, key=lambda f: f[0])
        free = next(self._days(day, lot.sensitive))
        if free != day:
            binding = "locked" if t.has_time(day) else "your days"
        return free, binding

    def _days(self, start: date, sensitive: bool) -> Iterator[date]:
        """Days from `start` on that keep their distance from locked batches and on which the keeper has time."""
        gap, day = self.terms.gap(sensitive), start
        while True:
            if self.terms.has_time(day) and all(abs((day - b.planned).days) >= gap for b in self.locked):
                yield day
            day += timedelta(days=1)

    def _first_day(self, lots: list[Lot], after: date, until: date) -> date | None:
        """The first sure day after one and up to another, by doubling steps and then halving. P rises with the days
        while a bloom grows; where it does not, a sure day is still found to be sure, only not always the first."""
        days = []
        for day in self._days(after + timedelta(days=1), any(lot.sensitive for lot in lots)):
            if day > until:
                break
            days.append(day)
        low, step = -1, 1
        while True:
            high = min(low + step, len(days) - 1)
            if high <= low:
                return None
            if self._fits(days[high], lots):
                break
            low, step = high, step * 2
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (low, middle) if self._fits(days[middle], lots) else (middle, high)
        return days[high]

    def _most(self, day: date, lots: list[Lot]) -> int:
        """How many of the lots, from the first on, are sure on a day; the first is known to be."""
        low, high = 1, len(lots) + 1
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (middle, high) if self._fits(day, lots[:middle]) else (low, middle)
        return low

    def _fits(self, day: date, lots: list[Lot]) -> bool:
        return self._ask(day, lots)[0]

    def _ask(self, day: date, lots: list[Lot]) -> tuple[bool, Watched | None, float]:
        key = (day, len(lots))
        if key not in self.asked:
            self.asked[key] = _, seen, sure = self._judged(self.course, day, lots)
            self.last_look = (sure, self._loads(day, items_of(lots))[1], seen.p_safe if seen else None)
        return self.asked[key]

    def _judged(self, course: WaterCourse, day: date, lots: list[Lot]) -> tuple[bool, Watched | None, float]:
        batch, sure = Batch(PROBED, "asked", day, items_of(lots)), course.sure(day)
        seen = None  # the weeks after are run only when the bloom is there
        if self._room(sure, *self._loads(day, batch.items)):
            seen = course.watch(batch)
        return seen is not None and seen.p_safe >= self.terms.certain, seen, sure

    def _room(self, sure: float, on_the_day: float, grown: float) -> bool:
        return carries(sure, on_the_day, grown, self.ceiling) if self.terms.full_load else holds(grown, self.ceiling)

    def _placed(self, day: date, lots: list[Lot], binding: str) -> tuple[Placed, list[Lot]]:
        items = items_of(lots)
        _, seen, sure = self._ask(day, lots)
        assert seen is not None
        on_the_day, _ = self._loads(day, items)
        self.placed_load += self._load(items)
        self.course.go_on(Batch(PROBED, "placed", day, items))
        bought = self.terms.bought(day) if self.alive else day
        self.alive = True
        return Placed(day, bought, items, seen, sure, on_the_day, binding), lots

    def _loads(self, day: date, new: Sequence[Animals]) -> tuple[float, float]:
        """mg N a day: those here at their size of the day with all new ones grown up, and everybody grown up."""
        e = self.ensemble
        coming = self.placed_load + self._locked_by(day) + self._load(new)
        here = load_of(e.living, e.reference.species, e.tank.temp_c, day).total
        return here + coming, self._load(e.living) + coming

    def _locked_by(self, day: date) -> float:
        return sum(self._load(b.items) for b in self.locked if b.planned <= day)

    def _load(self, animals: Sequence[Animals]) -> float:
        e = self.ensemble
        return load_of(animals, e.reference.species, e.tank.temp_c, adult=True).total


def all_at_once(wishes: Sequence[Animals], day: date) -> tuple[Batch, ...]:
    """What is done after one happy test: everything on the first day."""
    return (Batch(1, "all of it", day, tuple(wishes)),)


def in_thirds(lots: Sequence[Lot], day: date, every: int = 14) -> tuple[Batch, ...]:
    """A third of the animals every two weeks, in order: the rule of thumb to compare with."""
    single = [replace(lot.animals, count=1) for lot in lots for _ in range(lot.animals.count)]
    cuts = [round(len(single) * k / 3) for k in range(4)]
    parts = [single[a:b] for a, b in zip(cuts, cuts[1:], strict=False)]
    found = []
    for k, part in enumerate(p for p in parts if p):
        found.append(Batch(k + 1, f"third {k + 1}", day + timedelta(days=every * k), tuple(merged(part))))
    return tuple(found)
