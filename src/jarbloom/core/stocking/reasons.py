"""Why a batch stands well or badly on its day: one sentence for each rule, with its number and its hardness."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from jarbloom.core.animals.names import plural
from jarbloom.core.bloom.capacity import carries, holds
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.stocking.course import BatchStanding
from jarbloom.core.stocking.lots import Lot, order_of
from jarbloom.core.stocking.terms import Terms
from jarbloom.units import NBSP, load_text, percent


@dataclass(frozen=True)
class Reason:
    key: str
    kept: bool
    sentence: str
    hardness: str  # safety | practice | taste


def reasons(
    standing: BatchStanding,
    plan: Sequence[Batch],
    living: Sequence[Animals],
    species: Mapping[str, Species],
    terms: Terms,
    lots: Sequence[Lot],
    ceiling: float,
) -> tuple[Reason, ...]:
    """Of one batch of a plan. `lots`: its animals, which know from when the tank is old enough."""
    batch = standing.batch
    found = [_certain(standing, terms), _carried(standing, ceiling, terms.full_load)]
    before = [b for b in plan if (b.planned, b.id) < (batch.planned, batch.id)]
    sensitive = any(lot.sensitive for lot in lots)
    since, named = terms.last_arrival, "the last arrivals"
    if before:
        nearest = max(before, key=lambda b: (b.planned, b.id))
        since, named = nearest.planned, nearest.name.lower()
    if since is not None:
        days, asked = (batch.planned - since).days, terms.pace(sensitive)
        text = f"{days}{NBSP}days after {named}; {asked} are asked"
        found.append(
            Reason("pace", days >= asked, f"{text}{', for sensitive animals' if sensitive else ''}.", "practice")
        )
    if terms.proof_asked:
        found.append(_proof(batch, terms))
    if (living or before) and terms.quarantine_days:
        bought = terms.bought(batch.planned)
        kept, watched = bought >= terms.today, f"watched for {terms.quarantine_days}{NBSP}days"
        text = (
            f"Fetched by {bought:%a %-d %b} and {watched} before."
            if kept
            else (f"To be {watched} before, they had to be fetched by {bought:%a %-d %b}.")
        )
        found.append(Reason("quarantine", kept, text, "practice"))
    if terms.weekdays:
        text = f"It is a {batch.planned:%A}"
        free = terms.has_time(batch.planned)
        found.append(Reason("your days", free, f"{text}, {'one' if free else 'not one'} of your days.", "taste"))
    found += [
        Reason("age", False, f"The tank is old enough for {plural(lot.kind.name, 2)} from {lot.not_before:%-d %b %Y}.",
               "practice")
        for lot in {lot.kind.key: lot for lot in lots}.values() if lot.not_before > batch.planned
    ]  # fmt: skip
    found += _order(batch, plan, species)
    return tuple(found)


def _certain(standing: BatchStanding, terms: Terms) -> Reason:
    seen = standing.watched
    text = (
        f"{percent(seen.p_safe)} of the forecasts stay under the limits for 14{NBSP}days; "
        f"{percent(terms.certain)} is asked."
    )
    return Reason("water", seen.p_safe >= terms.certain, text, "safety")


def _carried(standing: BatchStanding, ceiling: float, full_load: bool) -> Reason:
    if not full_load:
        text = f"Everybody grown up comes to {load_text(standing.grown)}, the filter to {load_text(ceiling)} at most"
        return Reason("headroom", holds(standing.grown, ceiling), f"{text}.", "safety")
    kept = carries(standing.sure, standing.together, standing.grown, ceiling)
    text = f"The bloom surely carries {load_text(standing.sure)} that morning; with this batch, grown up, it has to "
    text += f"carry {load_text(standing.together)}"
    if ceiling < standing.grown:
        text += f". Everybody grown up comes to {load_text(standing.grown)}, the filter to {load_text(ceiling)} at most"
    return Reason("headroom", kept, f"{text}.", "safety")


def _proof(batch: Batch, terms: Terms) -> Reason:
    if terms.ready_from is None:
        return Reason("proof", False, "No sure end of the cycling is forecast yet.", "practice")
    how = "surely" if terms.ready_surely else "likely"
    text = f"The tank is {how} cycled from {terms.ready_from:%a %-d %b}."
    return Reason("proof", batch.planned >= terms.ready_from, text, "practice")


def _order(batch: Batch, plan: Sequence[Batch], species: Mapping[str, Species]) -> list[Reason]:
    """Who holds ground comes after those who would be driven off it."""
    mine = [k for k in _kinds(batch, species) if order_of(k) == "last"]
    after = [b for b in plan if (b.planned, b.id) > (batch.planned, batch.id)]
    later = [k for b in after for k in _kinds(b, species) if order_of(k) != "last"]
    if not mine or not later:
        return []
    first, then = mine[0], later[0]
    text = f"{plural(first.name, 2)} should come last, after the {plural(then.name, 2)}."
    return [Reason("order", False, text[:1].upper() + text[1:], "practice")]


def _kinds(batch: Batch, species: Mapping[str, Species]) -> list[Species]:
    return [species.get(a.species, species["unknown"]) for a in batch.items]
