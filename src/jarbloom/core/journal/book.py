"""The stock book: groups of animals as they came, what became of them, losses, and heads not seen."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from scipy.stats import beta

from jarbloom.core.animals.growth import length_on
from jarbloom.core.journal.kinds import JOINS, LEAVES
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.species import Animals, Species

EARLY = timedelta(days=30)  # a death so soon after arrival says something of source, way home or start
LOSS_COVER = 0.80


@dataclass(frozen=True)
class Group:
    """Animals of one kind that came together. `id`: the entry of their arrival or birth as first logged; `entry_id`:
    as it stands corrected."""

    id: int
    entry_id: int
    species: str
    since: date
    came: int
    now: int
    length_cm: float | None = None
    born: bool = False
    seller: str = ""
    price: float | None = None
    tank_bred: str = ""
    until: date | None = None  # kept here 'for now', to this day
    batch: int | None = None
    dead: int = 0
    dead_early: int = 0
    given: int = 0
    moved: int = 0

    @property
    def animals(self) -> Animals:
        return Animals(self.species, self.now, self.length_cm, self.since)

    def length_on(self, kind: Species, on: date) -> float:
        return length_on(self.animals, kind, on)


def groups(entries: Iterable[Entry], on: date | None = None) -> tuple[Group, ...]:
    """Every group that came by a date, in order of coming, with those who left taken off: from the group that the entry
    names, else from the oldest of the species."""
    found: list[Group] = []
    for entry in sorted(entries, key=lambda e: (e.at, e.id)):
        if on is not None and entry.at.date() > on:
            continue
        if entry.kind in JOINS:
            found.append(_group(entry))
        elif entry.kind in LEAVES:
            _leave(found, entry)
    return tuple(found)


def _group(entry: Entry) -> Group:
    b, count = entry.body, int(entry.body["count"])
    until = b.get("until")
    return Group(
        b.get("first", entry.id), entry.id, b["species"], entry.at.date(), count, count, b.get("length_cm"),
        entry.kind == "birth",
        str(b.get("seller", "")), b.get("price"), str(b.get("tank_bred", "")),
        date.fromisoformat(until) if until else None, b.get("batch"),
    )  # fmt: skip


def stock(entries: Sequence[Entry], on: date | None = None) -> tuple[Animals, ...]:
    """Who lives in the tank: those who came less those who left, group by group."""
    return tuple(g.animals for g in groups(entries, on) if g.now)


_FATE = {"death": "dead", "given": "given", "moved": "moved"}


def _leave(found: list[Group], entry: Entry) -> None:
    left, named = int(entry.body["count"]), entry.body.get("group")
    order = sorted(range(len(found)), key=lambda k: (found[k].id != named, k))
    for k in order:
        group = found[k]
        gone = min(group.now, left) if group.species == entry.body["species"] else 0
        if gone:
            fate = _FATE[entry.kind]
            early = gone if entry.kind == "death" and entry.at.date() - group.since <= EARLY else 0
            found[k] = replace(group, now=group.now - gone, dead_early=group.dead_early + early,
                               **{fate: getattr(group, fate) + gone})  # fmt: skip
            left -= gone


@dataclass(frozen=True)
class Losses:
    """Of so many that came, how many were found dead; `early` within thirty days. The range is where the rate of
    early losses lies with 80 % probability (Beta posterior, Jeffreys' prior 1/2, 1/2)."""

    name: str
    came: int
    dead: int
    early: int

    @property
    def early_range(self) -> tuple[float, float]:
        """Of the early rate.

        >>> low, high = Losses('x', 10, 1, 1).early_range
        >>> round(low, 3), round(high, 3)
        (0.041, 0.262)
        """
        tail = (1 - LOSS_COVER) / 2
        a, b = self.early + 0.5, self.came - self.early + 0.5
        return float(beta.ppf(tail, a, b)), float(beta.ppf(1 - tail, a, b))


def losses_by(found: Sequence[Group], key: str) -> tuple[Losses, ...]:
    """By species or by seller, those with most early losses first. Births are nobody's."""
    sums: dict[str, list[int]] = {}
    for g in found:
        name = getattr(g, key)
        if g.born or not name:
            continue
        row = sums.setdefault(name, [0, 0, 0])
        row[0], row[1], row[2] = row[0] + g.came, row[1] + g.dead, row[2] + g.dead_early
    rows = [Losses(name, *row) for name, row in sums.items()]
    return tuple(sorted(rows, key=lambda r: (-r.early / r.came, -r.dead, r.name)))


@dataclass(frozen=True)
class Missing:
    """Heads that the last count did not find. `since`: when all were last seen."""

    species: str
    count: int
    counted_on: date
    since: date


def missing(entries: Sequence[Entry], on: date) -> tuple[Missing, ...]:
    """By species: what the latest count fell short of those who should have been there, less those gone since."""
    known = sorted((e for e in entries if e.at.date() <= on), key=lambda e: (e.at, e.id))
    found = []
    for species in sorted({e.body["species"] for e in known if e.kind == "count"}):
        counts = [e for e in known if e.kind == "count" and e.body["species"] == species]
        last = counts[-1]
        short = _there(known, species, last) - int(last.body["count"])
        gone = sum(int(e.body["count"]) for e in known
                   if e.kind == "death" and e.body["species"] == species and e.at > last.at)  # fmt: skip
        if short - gone > 0:
            full = [c.at for c in counts if int(c.body["count"]) >= _there(known, species, c)]
            came = [e.at for e in known if e.kind in JOINS and e.body["species"] == species]
            seen = max([*full, *(at for at in came if at <= last.at)])
            found.append(Missing(species, short - gone, last.at.date(), seen.date()))
    return tuple(found)


def _there(known: Sequence[Entry], species: str, count: Entry) -> int:
    before = [e for e in known if (e.at, e.id) < (count.at, count.id)]
    return sum(g.now for g in groups(before) if g.species == species)


@dataclass(frozen=True)
class Death:
    """One entry of the dead with its circumstances: days in the tank, readings before, what had changed before."""

    entry: Entry
    days_here: int | None
    readings: tuple[str, ...]
    before: tuple[Entry, ...]


CIRCUMSTANCE = timedelta(days=5)
TELLING = ("arrival", "birth", "media", "bed", "power", "change", "conditioner", "dose", "off", "moved")


def deaths(entries: Sequence[Entry]) -> tuple[Death, ...]:
    """Newest first."""
    known = sorted(entries, key=lambda e: (e.at, e.id))
    return tuple(_death(e, known) for e in reversed(known) if e.kind == "death")


def _death(entry: Entry, known: Sequence[Entry]) -> Death:
    before = [e for e in known if (e.at, e.id) < (entry.at, entry.id)]
    here = [g for g in groups(before) if g.species == entry.body["species"] and g.now]
    named = [g for g in here if g.id == entry.body.get("group")] or here
    days = (entry.at.date() - named[0].since).days if named else None
    readings = []
    for quantity in ("ammonia", "nitrite", "temp", "ph"):
        last = next(((e, r) for e in reversed(before) for r in e.readings if r.quantity == quantity), None)
        if last:
            readings.append(f"{quantity} {last[1].typed} on {last[0].at:%-d %b}")
    recent = [e for e in before if e.kind in TELLING and entry.at - e.at <= CIRCUMSTANCE]
    return Death(entry, days, tuple(readings), tuple(recent[-4:]))


def kept_for_now(found: Iterable[Group]) -> tuple[Group, ...]:
    """Groups with somebody left whose day to move is set, the soonest first."""
    waiting = [g for g in found if g.until is not None and g.now]
    return tuple(sorted(waiting, key=lambda g: (g.until or date.max, g.id)))


def spent(found: Iterable[Group]) -> float:
    """What was paid for those whose price is noted; a price is for the whole group."""
    return sum(g.price or 0.0 for g in found)
