"""Who lived in the tank when, as bars with a figure and the count."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.animals.names import plural
from jarbloom.core.history.lived import Row
from jarbloom.core.history.record import Record
from jarbloom.core.model.species import Species
from jarbloom.views.drawn.axes import LETTER, r1
from jarbloom.views.drawn.figures import Figure, figure_of
from jarbloom.views.drawn.standing import Drawings
from jarbloom.views.drawn.years.layout import ROW_PX, Layout, Stretch, date_words, day_start

MOST_ROWS = 7
FIGURE_PX, BAR_PX = 26.0, 15.0


@dataclass(frozen=True)
class Bar:
    """A kind's stay: x, width; words with its count; counts as they changed, and who was found dead."""

    species: str
    y: float
    spans: tuple[tuple[float, float], ...]
    figure: Figure | None
    figure_x: float
    words: str
    words_x: float
    counts: tuple[tuple[float, str], ...]
    struck: tuple[float, ...]
    title: str


def bars(r: Record, x: Stretch, top: float, layout: Layout, species: Mapping[str, Species]) -> tuple[Bar, ...]:
    found = []
    most = MOST_ROWS if not layout.narrow else MOST_ROWS + 3
    for k, row in enumerate(r.rows[:most]):
        found.append(_bar_once(r, row, x, top + ROW_PX * k, species))
    return tuple(found)


_drawn = Drawings()


def _bar_once(r: Record, row: Row, x: Stretch, y: float, species: Mapping[str, Species]) -> Bar:
    """As `_bar`, kept with the row: it stands as long as nobody of any kind comes or goes."""
    how = r.window.first, r.window.last, str(r.start.tzinfo), x, y, id(species)
    return _drawn.latest(row, (x.left, x.right), how, lambda: _bar(r, row, x, y, species))


def _bar(r: Record, row: Row, x: Stretch, y: float, species: Mapping[str, Species]) -> Bar:
    kind = species.get(row.species, species["unknown"])
    spans: list[tuple[float, float]] = []
    counts: list[tuple[float, str]] = []
    struck: list[float] = []
    ends = [*(s.day for s in row.steps[1:]), r.window.last + timedelta(days=1)]
    first = None
    for step, until in zip(row.steps, ends, strict=True):
        left, right = (x.x(day_start(d, r)) for d in (step.day, until))
        if step.count and right > left:
            if spans and abs(spans[-1][0] + spans[-1][1] - left) < 0.2:
                spans[-1] = (spans[-1][0], r1(right - spans[-1][0]))
            else:
                spans.append((left, r1(right - left)))
            first = step if first is None else first
        if r.window.first <= step.day <= r.window.last and step is not first:
            if step.found_dead:
                struck.append(left)
            counts.append((r1(left + (12 if step.found_dead else 6)), str(step.count) if step.count else "none"))
    shown_from = max((s for s in row.steps if s.day <= r.window.first), key=lambda s: s.day, default=row.steps[0])
    n = shown_from.count or (first.count if first else 0)
    words = f"{n} {plural(kind.name.lower(), n)}"
    begin = spans[0][0] if spans else x.left
    fig = figure_of(kind, FIGURE_PX)
    if fig.height > BAR_PX:
        fig = figure_of(kind, FIGURE_PX * BAR_PX / fig.height)
    free_from = begin + 12 + FIGURE_PX + len(words) * LETTER
    told = ", ".join(f"{s.count} from {date_words(s.day)}" for s in row.steps)
    return Bar(
        species=row.species,
        y=y,
        spans=tuple(spans),
        figure=fig,
        figure_x=r1(begin + 6 + FIGURE_PX / 2),
        words=words,
        words_x=r1(begin + 12 + FIGURE_PX),
        counts=tuple(_apart(counts, free_from)),
        struck=tuple(px for px in struck if px > begin + 2),
        title=f"{kind.name}: {told}",
    )


def _apart(marks: Sequence[tuple[float, str]], free_from: float) -> Iterable[tuple[float, str]]:
    for px, words in marks:
        if px >= free_from:
            free_from = px + len(words) * LETTER + 10
            yield px, words
