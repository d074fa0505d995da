"""What was done and what befell, as marks on lanes, with words where there is room for them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from jarbloom.core.history.happened import GEAR, LIFE, WATER, Event, Marks
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
MOST_TOLD = 3  # of one mark; more are counted
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
    marks: Mapping[str, Marks], x: Stretch, top: float, layout: Layout, species: Mapping[str, Species], units: Units
) -> tuple[Lane, ...]:
    found: list[Lane] = []
    for key, label in _LABELS.items():
        y = top + ROW_PX * len(found) + 10
        glyphs = _glyphs(marks[key], x, species, units, key != WATER and not layout.narrow)
        found.append(Lane(key, label, r1(y), tuple(glyphs)))
    return tuple(found)


def _glyphs(marks: Marks, x: Stretch, species: Mapping[str, Species], units: Units, worded: bool) -> list[Glyph]:
    """One mark for what falls on the same few px; words where there is room for them, the heaviest first."""
    px = np.array(x.xs(marks.times))
    heaviest: list[int] = []
    found: list[Glyph] = []
    first = 0
    while first < len(px):
        last = int(np.searchsorted(px, px[first] + CLOSE - 1e-9))
        chief = marks.events[first + int(np.argmax(marks.weights[first:last]))]
        words = _brief(chief, species, units) if worded else ""
        told = _told(marks.events[first:last], marks.labels[first:last], species, units)
        found.append(Glyph(float(px[first]), 7.0, chief.entry.kind, words, told))
        heaviest.append(chief.weight)
        first = last
    return _with_room(found, heaviest, x) if worded else found


def _with_room(found: list[Glyph], weights: Sequence[int], x: Stretch) -> list[Glyph]:
    """The same marks, words only where they cover no other mark and no words of a heavier one."""
    taken: list[tuple[float, float]] = []
    worded = list(found)
    edges = [*(g.x - 5 for g in found[1:]), x.right]  # of the mark that follows
    for k in sorted(range(len(found)), key=lambda k: -weights[k]):
        begin, end = found[k].x + 8, found[k].x + 14 + len(found[k].words) * LETTER
        if end <= edges[k] and end <= x.right and all(end <= a or begin >= b for a, b in taken):
            taken.append((begin, end))
        else:
            worded[k] = replace(found[k], words="")
    return worded


def _told(events: Sequence[Event], labels: Sequence[str], species: Mapping[str, Species], units: Units) -> str:
    """Few in their words; many of one mark from when to when, and how many of what."""
    if len(events) <= MOST_TOLD:
        return "; ".join(
            f"{e.entry.at:%-d %b %Y}: {label}, {e.entry.body.words(species, units)}"[:160]
            for e, label in zip(events, labels, strict=True)
        )
    a, b = events[0].entry.at, events[-1].entry.at
    days = f"{a:%-d %b %Y}" if a.date() == b.date() else f"{a:%-d %b %Y} to {b:%-d %b %Y}"
    return f"{days}: " + ", ".join(f"{label} ({n})" if n > 1 else label for label, n in Counter(labels).most_common())


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
