"""What was done and what befell, as marks on lanes, with words where there is room for them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from jarbloom.core.history.happened import GEAR, LIFE, WATER, Event
from jarbloom.core.history.record import Record
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.medicine import Medicine
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.model.species import Species
from jarbloom.units import Units, figure
from jarbloom.views.drawn.axes import r1
from jarbloom.views.drawn.years.layout import LETTER, ROW_PX, Layout, Stretch

LONGEST = 22  # letters beside a mark
CLOSE = 7.0  # px; what falls nearer is one mark
MOST_TOLD = 3  # of one mark
_LABELS = {WATER: "Water", LIFE: "Life", GEAR: "Gear"}


@dataclass(frozen=True)
class Glyph:
    x: float
    width: float
    kind: str
    words: str
    title: str


@dataclass(frozen=True)
class Lane:
    key: str
    label: str
    y: float
    glyphs: tuple[Glyph, ...]


def lanes(
    r: Record, x: Stretch, top: float, layout: Layout, species: Mapping[str, Species], units: Units
) -> tuple[Lane, ...]:
    found: list[Lane] = []
    for key, label in _LABELS.items():
        events = [e for e in r.events if e.lane == key]
        y = top + ROW_PX * len(found) + 10
        found.append(
            Lane(key, label, r1(y), tuple(_glyphs(events, x, species, units, key != WATER and not layout.narrow)))
        )
    return tuple(found)


def _glyphs(
    events: Sequence[Event], x: Stretch, species: Mapping[str, Species], units: Units, worded: bool
) -> list[Glyph]:
    """One mark for what falls on the same few px; words where there is room for them, the heaviest first."""
    groups: list[list[Event]] = []
    begins: list[float] = []
    for px, e in zip(x.xs([60.0 * e.entry.order[0] for e in events]), events, strict=True):
        if groups and px - begins[-1] < CLOSE:
            groups[-1].append(e)
        else:
            groups.append([e])
            begins.append(px)
    found = []
    for px, group in zip(begins, groups, strict=True):
        chief = max(group, key=lambda e: e.weight)
        told = "; ".join(_told(e, species, units) for e in group[:MOST_TOLD])
        more = f"; and {len(group) - MOST_TOLD} more" if len(group) > MOST_TOLD else ""
        words = _brief(chief, species, units) if worded else ""
        found.append(Glyph(px, 7.0, chief.entry.kind, words, told + more))
    if not worded:
        return found
    heaviest = sorted(range(len(found)), key=lambda k: -max(e.weight for e in groups[k]))
    taken: list[tuple[float, float]] = [(g.x - 5, g.x + 5) for g in found]
    worded_at: set[int] = set()
    for k in heaviest:
        begin, end = found[k].x + 8, found[k].x + 14 + len(found[k].words) * LETTER
        if end <= x.right and all(
            end <= a or begin >= b for a, b in taken if (a, b) != (found[k].x - 5, found[k].x + 5)
        ):
            taken.append((begin, end))
            worded_at.add(k)
    return [g if k in worded_at else replace(g, words="") for k, g in enumerate(found)]


def _told(e: Event, species: Mapping[str, Species], units: Units) -> str:
    return f"{e.entry.at:%-d %b %Y}: {e.entry.body.label.lower()}, {e.entry.body.words(species, units)}"[:160]


def _brief(e: Event, species: Mapping[str, Species], units: Units) -> str:
    """A few words beside a mark."""
    body = e.entry.body
    if isinstance(body, Death):
        return "found dead"
    if isinstance(body, MediaCleaned):
        return {"tank_water": "media rinsed", "tap": "tap rinse", "replaced": "new media", "dried": "media dry"}[
            body.how
        ]
    if isinstance(body, PowerCut):
        return f"off {figure(body.hours)} h"
    text = body.label.lower() if isinstance(body, Observation | Medicine) else body.words(species, units)
    text = text.split(",")[0].split("(")[0].strip().rstrip(".")
    return text if len(text) <= LONGEST else text[: LONGEST - 1].rstrip() + "…"
