"""How a group grew: what its row expects, what was measured, and what follows from both."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, timedelta

from jarbloom.core.animals.growth import adult_cm, length_on
from jarbloom.core.history.window import YEAR
from jarbloom.core.journal.book import Group
from jarbloom.core.model.species import Animals, Species
from jarbloom.units import Units
from jarbloom.views.drawn.axes import LinearAxis, Tick, TimeAxis, line

WIDTH, HEIGHT = 590.0, 220.0
LEFT, RIGHT, TOP, BASE = 40.0, 530.0, 18.0, 190.0
AHEAD = timedelta(days=548)
POINTS = 60


@dataclass(frozen=True)
class Growth:
    """`expected`: by the row alone; `curve`: put right by what was measured, from there on dashed; `marks`: x, y and
    words of what was measured. px."""

    width: float
    height: float
    left: float
    right: float
    base: float
    title: str
    expected: str
    past: str
    future: str
    marks: tuple[tuple[float, float, str], ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    today_x: float
    adult_y: float
    adult: str
    unit: str


def growth(group: Group, kind: Species, today: date, units: Units) -> Growth:
    one = group.animals
    first, last = group.since, max(today, group.since) + AHEAD
    x = TimeAxis(first, last, LEFT, RIGHT)
    grown = units.value(adult_cm(one, kind), "length")
    y = LinearAxis(grown * 1.15, BASE, TOP)
    step = max((last - first).days // POINTS, 1)
    days = [first + timedelta(days=k) for k in range(0, (last - first).days + 1, step)]

    def course(of: Animals, upon: list[date]) -> str:
        return line([(x.edge(d), y.y(units.value(length_on(of, kind, d), "length"))) for d in upon])

    marks = tuple(
        (x.edge(day), y.y(units.value(cm, "length")), f"{units.length(cm)}, measured {day:%-d %b %Y}")
        for day, cm in one.measured
    )
    return Growth(
        WIDTH, HEIGHT, LEFT, RIGHT, BASE,
        f"Length of the {kind.name.lower()} that came on {first:%-d %B %Y}, to {last:%B %Y}",
        course(replace(one, measured=()), days) if one.measured else "",
        course(one, [*(d for d in days if d < today), today]), course(one, [today, *(d for d in days if d > today)]),
        marks, _years(x), tuple(y.ticks()), x.edge(today), y.y(grown), units.length(adult_cm(one, kind)),
        units.unit("length"),
    )  # fmt: skip


def _years(x: TimeAxis) -> tuple[Tick, ...]:
    """The first of January, and over less than three years of July."""
    halves = [date(y, m, 1) for y in range(x.first.year, x.last.year + 1) for m in (1, 7)]
    short = (x.last - x.first).days < 3 * YEAR
    inside = [d for d in halves if x.first < d and x.edge(d) < RIGHT - 40 and (short or d.month == 1)]
    return tuple(Tick(x.edge(d), f"{d:%b %Y}") for d in inside)
