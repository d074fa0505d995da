"""What was done and what befell, as marks on lanes, with words where there is room for them."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

from jarbloom.core.history.happened import GEAR, LIFE, WATER, Marks
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.medicine import Medicine
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.species import Species
from jarbloom.kept import Kept
from jarbloom.units import Units, figure
from jarbloom.views.drawn.axes import LETTER, r1
from jarbloom.views.drawn.standing import Drawings
from jarbloom.views.drawn.years.layout import ROW_PX, Layout, Stretch, date_words

LONGEST = 22  # letters beside a mark
CLOSE = 10.0  # px; what falls nearer is one mark, for they are about so wide
LEAST_ROOM = 14 + 3 * LETTER  # px to the next mark; no words are shorter
MOST_TOLD = 3  # of one mark; more are counted
_LABELS = {WATER: "Water", LIFE: "Life", GEAR: "Gear"}


# Which mark stands for a kind of entry; a box for all others
MARKS = {
    "change": "bar", "dose": "drop", "conditioner": "drop", "buffer": "drop", "note": "flag", "death": "dead",
    **dict.fromkeys(("arrival", "birth", "given", "moved", "quarantine"), "fish"),
}  # fmt: skip


@dataclass(frozen=True)
class Glyph:
    x: float
    mark: str
    words: str
    title: str


@dataclass(frozen=True)
class Lane:
    key: str
    label: str
    y: float
    glyphs: tuple[Glyph, ...]


_drawn = Drawings()  # a lane stands as long as nothing is added to it


def lanes(
    marks: Mapping[str, Marks], x: Stretch, top: float, layout: Layout, species: Mapping[str, Species], units: Units
) -> tuple[Lane, ...]:
    found: list[Lane] = []
    for key, label in _LABELS.items():
        y = top + ROW_PX * len(found) + 10
        draw = partial(_lane, key, label, r1(y), marks[key], x, species, units, layout)
        found.append(_drawn.latest(marks[key], layout.name, (x, y, units, id(species)), draw))
    return tuple(found)


def _lane(
    key: str, label: str, y: float, marks: Marks, x: Stretch, species: Mapping[str, Species], units: Units,
    layout: Layout,
) -> Lane:  # fmt: skip
    return Lane(key, label, y, _glyphs(marks, x, species, units, key != WATER and not layout.narrow))


def _glyphs(marks: Marks, x: Stretch, species: Mapping[str, Species], units: Units, worded: bool) -> tuple[Glyph, ...]:
    """One mark for what falls on the same few px; words where there is room for them, the heaviest first."""
    px = x.xs(marks.times)
    heaviest: list[int] = []
    found: list[Glyph] = []
    first = 0
    while first < len(px):
        last = bisect_left(px, px[first] + CLOSE - 1e-9, first)
        weights = marks.weights[first:last]
        heavy = max(weights)
        chief = marks.entries[first + weights.index(heavy)]
        room = (px[last] if last < len(px) else x.right) - px[first]
        words = _brief(chief, species, units) if worded and room > LEAST_ROOM else ""
        told = _told_once(marks.entries[first:last], marks.labels[first:last], species, units)
        found.append(Glyph(px[first], MARKS.get(chief.kind, "box"), words, told))
        heaviest.append(heavy)
        first = last
    return tuple(_with_room(found, heaviest, x) if worded else found)


def _with_room(found: list[Glyph], weights: Sequence[int], x: Stretch) -> list[Glyph]:
    """The same marks, words only where they cover no other mark and no words of a heavier one."""
    taken: list[tuple[float, float]] = []
    worded = list(found)
    edges = [*(g.x - 5 for g in found[1:]), x.right]  # of the mark that follows
    for k in sorted(range(len(found)), key=lambda k: -weights[k]):
        begin, end = found[k].x + 8, found[k].x + 14 + len(found[k].words) * LETTER
        if end <= edges[k] and end <= x.right and all(end <= a or begin >= b for a, b in taken):
            taken.append((begin, end))
        elif found[k].words:
            worded[k] = replace(found[k], words="")
    return worded


_kept_words: Kept[tuple[Sequence[Entry], str]] = Kept(4000)


def _told_once(entries: Sequence[Entry], labels: Sequence[str], species: Mapping[str, Species], units: Units) -> str:
    """As `_told`; the words of the very same entries are kept: of ten years one entry more changes one mark."""
    key = *map(id, entries), id(species), units
    known = _kept_words.get(key)
    if known is None:  # the entries are kept with their words, so that none gives its number to another
        known = entries, _told(entries, labels, species, units)
        _kept_words.put(key, known)
    return known[1]


def _told(entries: Sequence[Entry], labels: Sequence[str], species: Mapping[str, Species], units: Units) -> str:
    """Few in their words; many of one mark from when to when, and how many of what."""
    if len(entries) <= MOST_TOLD:
        return "; ".join(
            f"{date_words(e.at)}: {label}, {e.body.words(species, units)}"[:160]
            for e, label in zip(entries, labels, strict=True)
        )
    a, b = entries[0].at, entries[-1].at
    days = date_words(a) if a.date() == b.date() else f"{date_words(a)} to {date_words(b)}"
    most = Counter(labels).most_common()
    return f"{days}: " + ", ".join(f"{label} ({n})" if n > 1 else label for label, n in most)


def _brief(e: Entry, species: Mapping[str, Species], units: Units) -> str:
    """A few words beside a mark."""
    body = e.body
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
