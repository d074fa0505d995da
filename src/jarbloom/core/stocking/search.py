"""The search for the days of a plan: batch after batch on one course of the water that goes on with what is placed."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import carries, holds
from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals
from jarbloom.core.stocking.course import Watched, WaterCourse
from jarbloom.core.stocking.lots import Lot, items_of, lots_of
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


def _sharing(ready: Sequence[Lot], first: bool) -> list[Lot]:
    """Of the lots that are ready, in order, those that may share the next batch."""
    order = ready[0].order
    if first or order == "last":
        return [lot for lot in ready if lot.order == order]
    return [lot for lot in ready if lot.order != "last"]


class Search:
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

    def fresh(self, not_before: date | None = None) -> Search:
        """A search of its own on the same water, for batches from a day on."""
        other = Search(self.ensemble, self.terms, self.locked, self.course)
        other.not_before = not_before or self.not_before
        return other

    def day_for_all(self, lots: Sequence[Lot], begins: date) -> date | None:
        """The first day on which the water surely bears all together whom no age of the tank keeps out longer, after
        the day on which the first of them could come and within the weeks that a batch waits for the rest."""
        coming = [lot for lot in lots if lot.not_before <= begins]
        return None if self._fits(begins, coming) else self._first_day(coming, begins, begins + REST_WAITS)

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
