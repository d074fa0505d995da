"""Page data of the stock book."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.growth import adult_cm
from jarbloom.core.animals.names import animal_name, plural
from jarbloom.core.journal.book import Demise, Group, Losses, deaths, groups, losses_by, missing, spent
from jarbloom.core.journal.kinds.choices import BRED
from jarbloom.core.journal.kinds.count import HeadCount
from jarbloom.core.journal.kinds.uninvited import UNINVITED
from jarbloom.core.journal.uninvited import Sighted, sighted
from jarbloom.units import NBSP, figure
from jarbloom.views.drawn.standing import drawn_once


@dataclass(frozen=True)
class GroupRow:
    id: int
    entry_id: int
    species: str
    name: str
    scientific: str
    came: str
    now: int
    of: int
    size: str
    source: str
    fate: str
    until: str
    late: bool


@dataclass(frozen=True)
class Heads:
    species: str
    name: str
    there: int
    note: str


@dataclass(frozen=True)
class LossRow:
    name: str
    came: int
    dead: int
    early: str


@dataclass(frozen=True)
class DeathRow:
    entry_id: int
    day: str
    words: str
    circumstances: tuple[str, ...]


@dataclass(frozen=True)
class Guest:
    """Who came uninvited: since when and how many, what it is said to be, what to do; `caution`: key of its caution."""

    name: str
    since: str
    counts: str
    says: str
    act: str
    caution: str


@dataclass(frozen=True)
class BookPage:
    call: str
    words: str
    here: tuple[GroupRow, ...]
    gone: tuple[GroupRow, ...]
    heads: tuple[Heads, ...]
    by_species: tuple[LossRow, ...]
    by_seller: tuple[LossRow, ...]
    deaths: tuple[DeathRow, ...]
    spent: str
    uninvited: tuple[Guest, ...]


@drawn_once
def book_page(s: Situation) -> BookPage:
    found = groups(s.entries, s.now.date())
    here = [g for g in found if g.now]
    heads = sum(g.now for g in here)
    kinds = len({g.species for g in here})
    dead = sum(g.dead for g in found)
    call = (
        f"{heads} animal{'s' if heads != 1 else ''} of {kinds} kind{'s' if kinds != 1 else ''}."
        if here
        else ("Nobody lives here yet.")
    )
    text = (
        f"{dead} found dead in all, {sum(g.dead_early for g in found)} of them within thirty days of coming."
        if (found)
        else "The first arrival opens the book."
    )
    paid = spent(found)
    return BookPage(
        call, text, tuple(_row(g, s) for g in here), tuple(_row(g, s) for g in found if not g.now),
        _heads(here, s), tuple(_loss(x, animal_name(x.name, s.reference.species)) for x in losses_by(found, "species")),
        tuple(_loss(x, x.name) for x in losses_by(found, "seller")),
        tuple(_death(d, s) for d in deaths(s.entries)), figure(paid, 4) if paid else "",
        tuple(_guest(g, s) for g in sighted(s.entries, s.now)),
    )  # fmt: skip


def _guest(seen: Sighted, s: Situation) -> Guest:
    row = s.reference.uninvited[seen.what]
    counts = ", ".join(str(n) for _, n in seen.counts[-6:])
    if seen.doubles_days is not None:
        counts += f": twice as many every {figure(seen.doubles_days, 2)} days"
    return Guest(
        UNINVITED[seen.what][0], f"first seen {seen.first:%-d %b %Y}, last {seen.last:%-d %b}", counts, row.says,
        row.act, row.caution,
    )  # fmt: skip


def _row(g: Group, s: Situation) -> GroupRow:
    kind = s.reference.species.get(g.species, s.reference.species["unknown"])
    came = f"{'born' if g.born else 'came'} {g.since:%-d %b %Y}"
    fates = [(g.dead, "found dead"), (g.given, "given away"), (g.moved, "moved out")]
    bred = dict(BRED).get(g.tank_bred, "")
    bred = "tank-bred" if g.tank_bred == "yes" else bred
    price = f"paid {figure(g.price, 4)}" if g.price else ""
    size = s.units.length(round(g.length_on(kind, s.now.date()), 1))
    return GroupRow(
        g.id, g.entry_id, g.species, plural(kind.name, g.came), kind.scientific, came, g.now, g.came,
        f"about {size} of {s.units.length(adult_cm(g.animals, kind))}",
        ", ".join(x for x in (f"from {g.seller}" if g.seller else "", bred, price) if x),
        ", ".join(f"{n} {what}" for n, what in fates if n),
        f"here for now, until {g.until:%-d %b %Y}" if g.until and g.now else "",
        bool(g.until and g.until <= s.now.date()),
    )  # fmt: skip


def _heads(here: Sequence[Group], s: Situation) -> tuple[Heads, ...]:
    """By species: how many there should be, and what the last count missed."""
    lost = {m.species: m for m in missing(s.entries, s.now.date())}
    found = []
    for key in dict.fromkeys(g.species for g in here):
        there = sum(g.now for g in here if g.species == key)
        m, counts = lost.get(key), [e.at for e in s.entries.kinds(HeadCount) if e.body.species == key]
        note = f"last counted {max(counts):%-d %b}" if counts else "never counted"
        if m is not None:
            note = f"{m.count} not seen since {m.since:%-d %b} (counted {m.counted_on:%-d %b})"
        found.append(Heads(key, plural(animal_name(key, s.reference.species), there), there, note))
    return tuple(found)


def _loss(x: Losses, name: str) -> LossRow:
    low, high = x.early_range
    return LossRow(name, x.came, x.dead, f"{x.early} of {x.came}, {100 * low:.0f} to {100 * high:.0f}{NBSP}%")


def _death(d: Demise, s: Situation) -> DeathRow:
    told = []
    if d.days_here is not None:
        told.append(f"{d.days_here} days after coming")
    if d.readings:
        told.append(f"last read: {', '.join(d.readings)}")
    told += [f"before: {e.body.words(s.reference.species, s.units)}, {e.at:%-d %b}" for e in d.before]
    return DeathRow(
        d.entry.id, f"{d.entry.at:%-d %b %Y}", d.entry.body.words(s.reference.species, s.units), tuple(told)
    )
