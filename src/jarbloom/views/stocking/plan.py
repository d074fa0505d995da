"""Page data of the stocking page: who lives here, what is planned, and each batch's gate."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.advice.situation import Situation, TankSeen
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.animals.names import listed, plural
from jarbloom.core.model.plan import Batch, count_in
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.setup.equipment import equipment
from jarbloom.core.stocking.budget import Budget, budget
from jarbloom.core.stocking.check import Gate
from jarbloom.core.vessel.shapes import has_shape
from jarbloom.core.water.oxygen import COMFORT_MG_L
from jarbloom.units import NBSP, figure, load_text, mg_text, percent
from jarbloom.views.drawn.crowding import Crowding, crowding
from jarbloom.views.drawn.headroom import Headroom, headroom
from jarbloom.views.stocking.columns import Columns, columns

BOARD_AFTER, BOARD_MOST = timedelta(days=9), timedelta(days=200)
SURFACE_CM2_PER_CM = 60.0  # the old rule of surface for length; area over length, so it converts as a length


@dataclass(frozen=True)
class AnimalRow:
    species: str
    name: str
    count: int
    zone: str
    adult: str
    load_adult: str
    caution: str
    note: str


@dataclass(frozen=True)
class BatchBox:
    id: int
    name: str
    planned: str
    arrived: str
    rows: tuple[AnimalRow, ...]
    gate: Gate | None
    lines: str
    locked: bool
    stamp: str


@dataclass(frozen=True)
class WayShown:
    """One school's figure for how much to stock."""

    name: str
    figure: str
    words: str


@dataclass(frozen=True)
class StockingPage:
    call: str
    words: str
    batches: tuple[BatchBox, ...]
    arrived: tuple[BatchBox, ...]
    full: str
    sure: str
    ways: tuple[WayShown, ...]
    brings: tuple[tuple[str, str, str], ...]
    chart: Headroom
    columns: Columns
    crowd: Crowding | None
    choices: tuple[tuple[str, str], ...]
    acting: bool

    def box(self, batch_id: int) -> BatchBox:
        """What the forms of a batch need."""
        return next(b for b in self.batches if b.id == batch_id)


def stocking_page(seen: TankSeen, sized: str = "adult") -> StockingPage:
    s = seen.situation
    waiting = [b for b in s.batches if b.arrived is None]
    full = s.forecast.load_adult + sum(o.load for o in s.forecast.batches)
    call, words = _verdict(seen, full)
    chart = headroom(s, until=_board_end(s), board=True)
    return StockingPage(
        call, words, tuple(_box(s, b) for b in waiting),
        tuple(_box(s, b) for b in s.batches if b.arrived), load_text(full), load_text(s.forecast.sure),
        _ways(s, full), _brings(s), chart, columns(s, chart), crowding(s, sized),
        tuple(sorted((k.name, f"{k.scientific}, {s.units.length(k.adult_cm)}, {k.zone}")
                     for k in s.reference.offered.values())), s.acting,
    )  # fmt: skip


def _board_end(s: Situation) -> date | None:
    """The last planned batch and a week after it stand on the board."""
    planned = [b.planned for b in s.waiting]
    return min(max(planned) + BOARD_AFTER, s.now.date() + BOARD_MOST) if planned else None


def _verdict(seen: TankSeen, full: float) -> tuple[str, str]:
    """The tank's own verdict where something holds the next batch, with what is missing for it."""
    s = seen.situation
    if not s.waiting:
        return "Nothing is planned.", "Add a batch, then the animals in it; the gate says what is missing."
    passed = [g for g in s.gates if g.passed]
    first = s.next_batch
    assert first is not None
    if passed and passed[0].batch_id == first.id:
        return f"{first.name} can go in.", f"Everything planned comes to {load_text(full)} a day when grown up."
    gate = s.next_gate
    return seen.verdict.call, f"Missing for {first.name.lower()}: {gate.missing_first if gate else ''}."


def _row(s: Situation, a: Animals) -> AnimalRow:
    kind = s.reference.species.get(a.species, s.reference.species["unknown"])
    adult = load_of([a], s.reference.species, s.tank.temp_c, adult=True).total
    notes = []
    if kind.group_min > 1:
        notes.append(f"groups of {kind.group_min} or more")
    if kind.sex_ratio not in ("any", "unknown"):
        notes.append(kind.sex_ratio)
    if kind.order == "last":
        notes.append("last to go in")
    return AnimalRow(
        a.species,
        plural(kind.name, a.count),
        a.count,
        kind.zone,
        s.units.length(kind.adult_cm),
        figure(adult, 2),
        kind.caution,
        ", ".join(notes),
    )


def _box(s: Situation, batch: Batch) -> BatchBox:
    gate = next((g for g in s.gates if g.batch_id == batch.id), None)
    return BatchBox(
        batch.id, batch.name, batch.planned.isoformat(), f"{batch.arrived:%a %-d %b}" if batch.arrived else "",
        tuple(_row(s, a) for a in batch.items), gate, listed(batch.items, s.reference.species), batch.locked,
        batch.stamp,
    )  # fmt: skip


def _brings(s: Situation) -> tuple[tuple[str, str, str], ...]:
    """(what, figure, what it rests on) of those who live here and are planned, grown up."""
    animals = [*s.living, *(a for b in s.waiting for a in b.items)]
    if not animals:
        return ()
    b = budget(s.tank, animals, s.entries, s.reference.species, s.now)
    worst = f"{figure(b.worst_hour, 2)}{NBSP}mg N an hour"
    found = [
        ("load", f"{load_text(b.load_now)} now, {load_text(b.load_adult)} grown up", "a day, by the usual ration"),
        ("in the hours after a meal", worst,
         f"about twice the mean; {figure(b.worst_hour_mg_l, 2)}{NBSP}mg N/L an hour if nothing took it"),
        ("nitrate", f"rises {mg_text(b.nitrate_week)} a week", "as ion, when no plant takes any"),
        ("water changes", *_changes(b)),
    ]  # fmt: skip
    night = equipment(s.tank, animals, s.reference, s.entries).night
    if night is not None:
        rests_on = f"{COMFORT_MG_L:g}{NBSP}mg/L is comfortable; good to one or two, and plants take some by night"
        found.append(("oxygen towards morning", f"about {mg_text(night.predicted)}", rests_on))
    if not has_shape(s.tank):  # else they are drawn
        found += [
            (f"zone: {zone}", f"{s.units.length(round(cm))} of animals", "one behind the other, grown up")
            for zone, cm in b.zones[:3]
        ]
    return tuple(found)


def _changes(b: Budget) -> tuple[str, str]:
    limit = f"{figure(b.nitrate_limit)}{NBSP}mg/L"
    if b.needed_week is None:
        wanted = "more than all of it a week, or other water"
    else:
        wanted = f"{percent(b.needed_week)} a week" if b.needed_week > 0.01 else "hardly any"
    if b.changed_week and b.settles_at is not None:
        yours = f"yours, {percent(b.changed_week)} a week, lets it settle at {mg_text(b.settles_at)}"
    else:
        yours = "too few changes are logged to tell your rhythm"
    return wanted, f"holds nitrate at {limit}; {yours}"


def _ways(s: Situation, full: float) -> tuple[WayShown, ...]:
    """The other schools of 'how much', beside ours, with why they differ."""
    groups = [*s.living, *(a for b in s.waiting for a in b.items)]
    kinds = [(a.count, s.reference.species.get(a.species, s.reference.species["unknown"])) for a in groups]
    fish_cm = sum(n * k.adult_cm for n, k in kinds if k.group == "fish")
    cautious = max((k.min_l_cautious for _, k in kinds), default=0.0)
    t = s.tank
    area = t.length_cm * t.width_cm if t.length_cm and t.width_cm else None
    unit, per_litre = s.units.unit("length"), s.units.value(1.0, "length") / s.units.value(1.0, "volume")
    found = [
        WayShown("bioload against proven capacity (ours)",
            f"{figure(full, 2)} of a sure {figure(s.forecast.sure, 2)} mg N a day",
            "What the animals put out, grown up, against what the bloom carries today. It decides here."),
        WayShown("length for volume", f"{s.units.length(fish_cm)} of fish in {s.units.volume(s.volume_l)}",
            f"At most {figure(per_litre, 2)} {unit} for each {s.units.unit('volume')}, by the old rule. "
            "It takes a thin fish for a deep one."),
    ]  # fmt: skip
    if area:
        least = figure(s.units.value(SURFACE_CM2_PER_CM, "length"), 2)
        found.append(
            WayShown(
                "surface for length",
                f"{figure(s.units.value(area / fish_cm, 'length'), 2)} {unit}² a {unit}" if fish_cm else "all of it",
                f"At least {least} {unit}² of surface for each {unit} of fish, "
                "for the air it brings. It knows no bloom.",
            )
        )
    if cautious:
        found.append(
            WayShown(
                "care minima",
                f"{s.units.volume(cautious)} for the most demanding animal",
                "The smallest tank that care sheets accept, cautious school. It says nothing of the sum.",
            )
        )
    return tuple(found)


def stamp_words(stamp: str, species: Mapping[str, Species]) -> str:
    """A batch's stamp, or a part of one, in words: its day and its animals."""
    day, _, counts = stamp.partition(" ")
    items = [Animals(k, count_in(stamp, k)) for k in (w.partition("=")[0] for w in counts.split())]
    known = listed([a for a in items if a.species in species], species)
    return f"{day}, {known}" if known else day
