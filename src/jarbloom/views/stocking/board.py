"""Page data of the stocking board: how each batch stands on its day, the planner's own days, and other ways."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.animals.names import listed
from jarbloom.core.model.choices import WEEKDAYS
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.reference import Reference
from jarbloom.core.stocking.course import BatchStanding
from jarbloom.core.stocking.dates import BatchDate
from jarbloom.core.stocking.plan import PlanProposal
from jarbloom.core.stocking.reasons import Reason
from jarbloom.core.stocking.search import BINDING, Placed
from jarbloom.core.stocking.terms import Terms
from jarbloom.units import NBSP, figure, percent


@dataclass(frozen=True)
class Stand:
    """A row of the board: a batch on its day."""

    id: int
    name: str
    iso: str
    day: str
    moved: str  # from where, in words; empty when it stands as planned
    locked: bool
    p: str
    nh3: str
    no2: str
    sure: str
    needed: str
    good: bool
    against: tuple[Reason, ...]
    kept: tuple[Reason, ...]


@dataclass(frozen=True)
class SureDay:
    """A batch as planned, and where the planner would have it."""

    name: str
    planned: str
    first: str
    shift: str
    why: str
    p: str


@dataclass(frozen=True)
class Fresh:
    """A batch that the planner made up."""

    day: str
    bought: str
    animals: str
    p: str
    why: str


@dataclass(frozen=True)
class AlternativeRow:
    name: str
    batches: str
    full: str
    p: str
    nh3: str
    no2: str


@dataclass(frozen=True)
class AheadPage:
    days: tuple[SureDay, ...]
    movable: bool
    fresh: tuple[Fresh, ...]
    left: str
    ways: tuple[AlternativeRow, ...]
    terms: tuple[str, ...]
    target: tuple[str, str]  # what is said of the target dose, and the one proposed; empty where it is well


def shift_words(days: timedelta) -> str:
    """How far a day moves: 'three days later'."""
    n = abs(days.days)
    return f"{n}{NBSP}day{'s' if n != 1 else ''} {'later' if days.days > 0 else 'sooner'}"


def _target(target: tuple[float, float] | None) -> tuple[str, str]:
    if target is None:
        return "", ""
    now, sized = target
    text = (
        f"The proof asks the tank to clear {figure(now)}{NBSP}mg/L in a day. Twice what all of these would put out, "
        f"grown up, is at most {figure(sized)}{NBSP}mg/L: a larger dose proves no more for them, and takes longer."
    )
    return text, figure(sized)


def peak_text(mg_n_l: float) -> str:
    """A peak of the forecasts: no finer than a thousandth, which no kit can see."""
    return "under 0.001" if mg_n_l < 0.001 else figure(round(mg_n_l, 3), 2)


def stands(
    judged: Sequence[tuple[BatchStanding, tuple[Reason, ...]]], kept_days: dict[int, date],
    dates: Sequence[BatchDate] = (),
) -> tuple[Stand, ...]:  # fmt: skip
    """`kept_days`: the days that are saved, to tell what is only being tried. `dates`: the one date of each batch; a
    row that would stand well before it says so."""
    by_id = {d.batch_id: d for d in dates}
    return tuple(
        _stand(s, (*found, *_too_early(s.batch, found, by_id.get(s.batch.id))), kept_days) for s, found in judged
    )


def trial_words(rows: Sequence[Stand], tried: int, animals: bool = False) -> str:
    """What a trial does, in one line: for the batch that is tried elsewhere, and for the worst of the others."""
    if not tried or (not animals and not any(r.moved for r in rows if r.id == tried)):
        return ""
    found = []
    for r in sorted(rows, key=lambda r: r.id != tried):
        if r.id == tried or not r.good:
            moved = f", {r.moved}" if r.moved else ""
            against = "stands well" if r.good else r.against[0].sentence if r.against else "does not stand well"
            found.append(f"{r.name} on {r.day}{moved}: {r.p} stay under the limits; {against.rstrip('.')}.")
    return " ".join(found[:2])


def _too_early(batch: Batch, found: Sequence[Reason], one: BatchDate | None) -> list[Reason]:
    if not all(r.kept for r in found) or one is None or one.today or one.day is None or batch.planned >= one.day:
        return []
    return [Reason("date", False, f"It can go in {one.words}: {one.sets}.", "practice")]


def _stand(standing: BatchStanding, found: tuple[Reason, ...], kept_days: dict[int, date]) -> Stand:
    b, seen = standing.batch, standing.watched
    was = kept_days.get(b.id, b.planned)
    return Stand(
        b.id, b.name, b.planned.isoformat(), f"{b.planned:%a %-d %b}",
        f"{shift_words(b.planned - was)} than {was:%-d %b}" if was != b.planned else "", b.locked,
        percent(seen.p_safe), peak_text(seen.nh3_p90), peak_text(seen.no2_p90),
        figure(standing.sure, 2), figure(standing.together, 2),
        all(r.kept for r in found if r.hardness != "taste"),
        tuple(r for r in found if not r.kept), tuple(r for r in found if r.kept),
    )  # fmt: skip


def ahead_page(
    terms: Terms,
    days: Sequence[tuple[Batch, Placed | None]],
    anew: PlanProposal,
    ways: Sequence[tuple[str, Sequence[BatchStanding]]],
    reference: Reference,
    target: tuple[float, float] | None = None,
) -> AheadPage:
    """`target`: the tank's dose and the one that its planned load asks for, mg N/L, where they are far apart."""
    none = "proof not in sight" if terms.proof_asked and terms.ready_from is None else "not in sight"
    rows = tuple(_sure_day(batch, placed, none) for batch, placed in days)
    return AheadPage(
        rows, any(p is not None and p.planned != b.planned for b, p in days),
        tuple(_fresh(p, reference) for p in anew.placed), _left(anew, reference),
        tuple(_way(name, batches) for name, batches in ways), _terms(terms), _target(target),
    )  # fmt: skip


def _sure_day(batch: Batch, placed: Placed | None, none: str) -> SureDay:
    planned = f"{batch.planned:%a %-d %b}"
    if placed is None:
        return SureDay(batch.name, planned, "none in sight", "", BINDING[none], "")
    shift = placed.planned - batch.planned
    return SureDay(
        batch.name, planned, f"{placed.planned:%a %-d %b}", shift_words(shift) if shift else "as planned",
        BINDING[placed.binding], percent(placed.watched.p_safe),
    )  # fmt: skip


def _fresh(placed: Placed, reference: Reference) -> Fresh:
    bought = "" if placed.bought == placed.planned else f"fetched by {placed.bought:%a %-d %b}"
    p = percent(placed.watched.p_safe)
    why = BINDING[placed.binding]
    return Fresh(f"{placed.planned:%a %-d %b}", bought, listed(placed.items, reference.species), p, why)


def _left(anew: PlanProposal, reference: Reference) -> str:
    if not anew.left:
        return ""
    who, why = listed(anew.left, reference.species), BINDING[anew.why_left]
    more = ""
    if anew.why_left == "not in sight":
        p = "" if anew.left_p is None else f", and {percent(anew.left_p)} of the forecasts stay under the limits"
        more = (
            f" Grown up, with the first of them it comes to {figure(anew.left_together, 2)}{NBSP}mg N a day; on the "
            f"last day looked at the bloom would surely carry {figure(anew.left_sure, 2)}{p}. Fewer or smaller "
            "animals, or more room for the bloom, would help."
        )
    return f"Not placed: {who}. {why[:1].upper()}{why[1:]}.{more}"


def _way(name: str, batches: Sequence[BatchStanding]) -> AlternativeRow:
    seen = [s.watched for s in batches]
    return AlternativeRow(
        name, str(len(batches)), f"{max(s.batch.planned for s in batches):%a %-d %b}",
        percent(min(w.p_safe for w in seen)), peak_text(max(w.nh3_p90 for w in seen)),
        peak_text(max(w.no2_p90 for w in seen)),
    )  # fmt: skip


def _terms(terms: Terms) -> tuple[str, ...]:
    found = [f"{terms.gap(False)} days between batches, {terms.gap(True)} before sensitive animals"]
    if terms.quarantine_days:
        found.append(f"{terms.quarantine_days} days of quarantine before the display; one batch at a time")
    days = [WEEKDAYS[d] for d in sorted(terms.weekdays)]
    found.append(f"on {' or '.join(days)}" if days else "on any day of the week")
    found.append(f"{percent(terms.certain)} of the forecasts under the limits for 14 days; no more is called sure")
    return tuple(found)
