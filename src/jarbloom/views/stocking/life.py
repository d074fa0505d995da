"""The story of a kind in a tank: how it came, grew, ate, and what befell it, with its pictures."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.growth import pace
from jarbloom.core.animals.names import names_of, plural
from jarbloom.core.journal.book import Group, groups
from jarbloom.core.journal.eating import refusers
from jarbloom.core.journal.kinds.animals import AboutAnimals
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.feeding_trial import TAKEN, FeedingTrial
from jarbloom.core.journal.kinds.given import Given
from jarbloom.core.journal.kinds.length import LengthMeasured
from jarbloom.core.journal.kinds.moved import Moved
from jarbloom.core.journal.kinds.named import Named
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.photo import Photo
from jarbloom.core.journal.kinds.placed import Placed
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.species import Species
from jarbloom.units import Units, figure
from jarbloom.views.drawn.figures import Figure, figure_of
from jarbloom.views.drawn.growth import Growth, growth
from jarbloom.views.tank.photos import Shot, shot

AHEAD_YEARS = (0.5, 1.0, 2.0)


@dataclass(frozen=True)
class GroupLife:
    came: str
    now: int
    length: str
    ahead: tuple[tuple[str, str], ...]  # day and length to come
    told: str  # what was measured says of its growth
    drawn: Growth | None


@dataclass(frozen=True)
class Happened:
    entry_id: int
    day: str
    label: str
    words: str


@dataclass(frozen=True)
class Life:
    name: str
    scientific: str
    figure: Figure
    call: str
    groups: tuple[GroupLife, ...]
    trials: tuple[tuple[str, str, str], ...]  # day, food, what came of it
    refusal: str
    singles: tuple[tuple[str, str], ...]  # one with a name of its own, and what is known of it
    colonies: tuple[tuple[str, str], ...]  # day and words of what stays where it is put
    story: tuple[Happened, ...]
    shots: tuple[Shot, ...]


def life(s: Situation, kind: Species) -> Life:
    found = [g for g in groups(s.entries, s.now.date()) if g.species == kind.key]
    here = sum(g.now for g in found)
    name = kind.name.lower()
    first = min((g.since for g in found), default=None)
    days = f", the first since {first:%-d %b %Y}" if first else ""
    own = [e for e in s.entries.kinds(Named) if e.body.species == kind.key]
    named = {name, plural(name, 2), *(n.lower() for n in names_of(kind)), *(e.body.called.lower() for e in own)}
    trials = [e for e in s.entries.kinds(FeedingTrial) if e.body.species == kind.key]
    refused = next((r for r in refusers(s.entries, s.reference.species, s.now) if r.species == kind.key), None)
    return Life(
        name=kind.name,
        scientific=kind.scientific,
        figure=figure_of(kind, 150),
        call=f"{here} {plural(name, here)} here{days}" if found else "None has lived here",
        groups=tuple(_group(g, kind, s.now, s.units) for g in found),
        trials=tuple((f"{e.at:%-d %b %Y}", e.body.food or "food", dict(TAKEN)[e.body.taken]) for e in reversed(trials)),
        refusal=f"Refused since {refused.since:%-d %b}, {refused.days} days." if refused else "",
        singles=tuple((e.body.called, _single(s, e)) for e in own),
        colonies=tuple(
            (f"{e.at:%-d %b %Y}", e.body.words(s.reference.species, s.units))
            for e in reversed(s.entries.kinds(Placed))
            if e.body.species == kind.key
        ),
        story=tuple(_story(s, kind, named)),
        shots=tuple(shot(e, s.tank) for e in reversed(s.entries.kinds(Photo)) if _names(e.body.of, named)),
    )


def _group(g: Group, kind: Species, now: datetime, units: Units) -> GroupLife:
    born = "born here" if g.born else (f"from {g.seller}" if g.seller else "came")
    fate = [f"{n} {what}" for n, what in ((g.dead, "found dead"), (g.given, "given away"), (g.moved, "moved out")) if n]
    came = f"{g.came} {born} on {g.since:%-d %b %Y}" + (f"; {', '.join(fate)}" if fate else "")
    today = now.date()
    ahead = tuple(
        (f"{today + timedelta(days=round(365.25 * y)):%b %Y}",
         units.length(round(g.length_on(kind, today + timedelta(days=round(365.25 * y))), 1)))
        for y in AHEAD_YEARS
    ) if g.now else ()  # fmt: skip
    drawn = growth(g, kind, today, units) if g.now and kind.moves else None
    return GroupLife(
        came, g.now, units.length(round(g.length_on(kind, today), 1)), ahead, _told(g, kind, units), drawn
    )  # fmt: skip


SLOW, FAST = 0.7, 1.4  # of the pace of its row: beyond these a word is due (judgement)


def _told(g: Group, kind: Species, units: Units) -> str:
    if not g.measured:
        return ""
    day, cm = g.measured[-1]
    expected = replace(g, measured=()).length_on(kind, day)
    words = f"Measured {units.length(cm)} on {day:%-d %b %Y}, where its row expects {units.length(round(expected, 1))}."
    if cm > kind.adult_cm:
        return f"{words} It has outgrown the usual {units.length(kind.adult_cm)}: its load and room go by what it is."
    grew = pace(g.animals, kind)
    if grew > FAST:
        return f"{words} It grows {figure(grew, 2)} times as fast: the days on which it is too large come sooner."
    if grew < SLOW:
        return (f"{words} It grows slower. It may be a small one; or it is held back by water, food or room: look at "
                "nitrate, ration and tank size. Room and load still go by its full size.")  # fmt: skip
    return f"{words} It grows as expected."


def _single(s: Situation, named: Entry[Named]) -> str:
    """What the entries say that were logged by its name, the last of each kind."""
    mine = {e.body.label: e for e in s.entries.kinds(Death, Given, Moved, LengthMeasured, FeedingTrial)
            if e.order > named.order and _names(e.note, {named.body.called.lower()})}  # fmt: skip
    told = [f"{e.body.label.lower()} {e.at:%-d %b %Y}" + (f", {s.units.length(e.body.length_cm)}" if
            isinstance(e.body, LengthMeasured) else "") for e in mine.values()]  # fmt: skip
    return "; ".join([f"named {named.at:%-d %b %Y}", *told])


def _names(text: str, named: set[str]) -> bool:
    told = text.lower()
    return bool(told) and any(n in told for n in named)


def _story(s: Situation, kind: Species, named: set[str]) -> Iterator[Happened]:
    """What names it, the newest first."""
    for e in reversed(s.entries):
        if _tells(e, kind, named):
            yield Happened(e.id, f"{e.at:%-d %b %Y}", e.body.label, e.body.words(s.reference.species, s.units)[:300])


def _tells(e: Entry, kind: Species, named: set[str]) -> bool:
    body = e.body
    if isinstance(body, AboutAnimals):
        return body.species == kind.key
    if isinstance(body, Note | Observation):
        return _names(body.text, named)
    return isinstance(body, Photo) and _names(body.of, named)
