"""Planned batches as they hang from their dates: one date each, what sets it, and what is missing for it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.growth import adult_cm, length_on
from jarbloom.core.animals.names import plural
from jarbloom.core.model.plan import Batch
from jarbloom.core.model.species import Animals, Species
from jarbloom.core.stocking.check import Gate, wanted
from jarbloom.core.stocking.dates import BatchDate
from jarbloom.units import load_text
from jarbloom.views.drawn.axes import TimeAxis, r1
from jarbloom.views.drawn.figures import Figure, figure_of
from jarbloom.views.drawn.headroom import Headroom

MOST_OPEN, MOST_WATCH = 5, 2  # of each batch; all stand behind 'all that is asked'
MOST_COLUMNS = 3  # more stand as rows, in the order of their dates
LIVING_SHARE = 0.31  # of the width, for those who live here (as the style sheet has it)
HANG_PX = 40.0
MOST_FIGURES = 14  # of a kind; the count stands beside them
LONGEST_PX, PX_PER_CM = 64.0, 6.0
WELL_BEHIND = timedelta(days=1)
TENS = ("none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "all")
NEARLY_ALL = 0.99


@dataclass(frozen=True)
class Row:
    """So many of a kind, drawn: `more` are not drawn."""

    species: str
    count: int
    name: str
    size: str
    figures: tuple[Figure, ...]
    more: int
    note: str = ""


@dataclass(frozen=True)
class Chance:
    """A probability in tens: cells of a bar, and words."""

    cells: int
    words: str


@dataclass(frozen=True)
class Act:
    """The one thing to do about a batch: 'in', 'test', 'move' (to `day`), or ''."""

    kind: str = ""
    words: str = ""
    day: str = ""


@dataclass(frozen=True)
class Column:
    """One batch. `met`: how many of the gate's checks are; `open`: what is missing, `more` of it not named here;
    `watch`: what to know.
    `act`: the one thing to do, `move`: the day that it could have instead."""

    id: int
    name: str
    load: str
    day: str
    range_words: str
    sets: str
    rows: tuple[Row, ...]
    chance: Chance | None
    met: int
    open: tuple[str, ...]
    more: int
    watch: tuple[str, ...]
    act: Act
    move: Act
    locked: bool


@dataclass(frozen=True)
class Hang:
    """One batch's line from its date on the axis down to its column, and the eight in ten of its date in px."""

    path: str
    x: float
    low: float
    high: float


@dataclass(frozen=True)
class Columns:
    """`as_rows`: too many to stand beside each other."""

    living: tuple[Row, ...]
    batches: tuple[Column, ...]
    hangs: tuple[Hang, ...]
    height: float
    as_rows: bool


def columns(s: Situation, chart: Headroom) -> Columns:
    """Batches in the order of their days; those without animals too, so that some can be added."""
    waiting = sorted((b for b in s.batches if b.arrived is None), key=lambda b: (b.planned, b.id))
    axis = chart.x
    as_rows = len(waiting) > MOST_COLUMNS
    everybody = [*s.living, *(a for b in waiting for a in b.items)]
    scale = _scale(everybody, s.reference.species)
    share = (1 - LIVING_SHARE) / max(len(waiting), 1)
    lefts = [chart.width * (LIVING_SHARE + share * k) for k in range(len(waiting))]
    hangs = () if as_rows else tuple(
        h for b, left in zip(waiting, lefts, strict=True) if (h := _hang(s.date_of(b), b, axis, left, s)) is not None
    )  # fmt: skip
    return Columns(
        tuple(_row(a, s, scale, grown=False) for a in s.living),
        tuple(_column(s, b, n == 0, scale) for n, b in enumerate(waiting)), hangs, HANG_PX, as_rows,
    )  # fmt: skip


def _scale(animals: Sequence[Animals], species: Mapping[str, Species]) -> float:
    """px a cm: all of a page to one scale, the longest within its column."""
    longest = max((_kind(a, species).adult_cm for a in animals), default=5.0)
    return min(PX_PER_CM, LONGEST_PX / longest)


def _kind(a: Animals, species: Mapping[str, Species]) -> Species:
    return species.get(a.species, species["unknown"])


def _row(a: Animals, s: Situation, scale: float, grown: bool = True) -> Row:
    kind = _kind(a, s.reference.species)
    cm = adult_cm(a, kind) if grown else length_on(a, kind, s.now.date())
    shown = min(a.count, MOST_FIGURES)
    size = f"{s.units.length(cm)}{'' if grown else ' now'}"
    return Row(
        a.species, a.count, plural(kind.name, a.count), size,
        tuple(figure_of(kind, max(cm * scale, 7.0)) for _ in range(shown)), a.count - shown,
        f"since {a.since:%-d %b %Y}" if a.since is not None and not grown else "",
    )  # fmt: skip


def one_day(d: BatchDate | None, planned: date, today: date) -> date | None:
    """The one date of a batch: the planned one where it is possible, else the first that is. None: none in sight."""
    if d is None:
        return max(planned, today)
    if d.day is None:
        return None
    return max(d.day, planned, today)


def _hang(d: BatchDate | None, b: Batch, axis: TimeAxis | None, left: float, s: Situation) -> Hang | None:
    day = one_day(d, b.planned, s.now.date())
    if day is None or axis is None or day > axis.last:
        return None
    x = axis.at(s.now) if day == s.now.date() else axis.day(day)
    low, high = x, x
    if d is not None and d.day is not None and d.low is not None and not d.today and b.planned <= d.day:
        low, high = axis.day(max(d.low, s.now.date())), axis.day(d.day)
    turn = HANG_PX - 8
    return Hang(f"M{x} 0V{turn}H{r1(left)}V{HANG_PX}", x, r1(low), r1(max(high, low)))


def _column(s: Situation, b: Batch, first: bool, scale: float) -> Column:
    d, outlook = s.date_of(b), s.outlook(b)
    gate = next((g for g in s.gates if g.batch_id == b.id), None)
    checks = gate.checks if gate is not None else ()
    missing = tuple(wanted(gate.holding, words=True)) if gate is not None else ()
    watch = tuple(c.sentence for c in checks if not c.passed and c.hardness == "taste")
    chance = chance_of(outlook.p_safe) if outlook is not None else None
    return Column(
        b.id, b.name, "" if outlook is None else f"{load_text(outlook.load)} a day",
        day_words(d, b.planned, s.now.date()),
        d.range_words if d is not None and b.planned <= (d.day or b.planned) else "",
        "" if d is None or d.today or (d.day is not None and b.planned > d.day) else d.sets,
        tuple(_row(a, s, scale) for a in b.items), chance,
        sum(c.passed for c in checks), missing[:MOST_OPEN], max(0, len(missing) - MOST_OPEN), watch[:MOST_WATCH],
        _act(gate, first), _move(d, b, s.now.date(), first), b.locked,
    )  # fmt: skip


def day_words(d: BatchDate | None, planned: date, today: date) -> str:
    """'today', 'on Mon 14 Dec' as planned, 'from Sat 5 Dec' where it is not possible earlier."""
    if d is not None and d.today and planned <= today:
        return "today"
    day = one_day(d, planned, today)
    if day is None:
        return "no day in sight"
    word = "on" if d is None or d.today or d.day is None or planned >= d.day else "from"
    year = f" {day:%Y}" if day - today > timedelta(days=300) else ""
    return f"{word} {day:%a %-d %b}{year}"


def chance_of(p: float | None) -> Chance | None:
    """In tens, rounded down: doubt cuts towards safety."""
    if p is None:
        return None
    if p > NEARLY_ALL:
        return Chance(10, "stays clear in more than 99 of 100")
    tens = int(10 * p + 1e-9)
    return Chance(tens, f"stays clear in {TENS[tens]} of ten" if tens else "stays clear in fewer than one of ten")


def _act(gate: Gate | None, first: bool) -> Act:
    if gate is None or not first:
        return Act()
    if gate.passed:
        return Act("in", "They are in")
    asks_test = any(c.key.startswith("fresh") or "test" in c.missing for c in gate.holding)
    return Act("test", "Log a test") if asks_test else Act()


def _move(d: BatchDate | None, b: Batch, today: date, first: bool) -> Act:
    """To the day that is possible, where the planned one is not, or lies well behind it."""
    if d is None or d.day is None or d.today or b.locked:
        return Act()
    day = max(d.day, today)
    if b.planned < day:
        return Act("move", f"Move to {day:%a %-d %b}", day.isoformat())
    if b.planned - day > WELL_BEHIND and not first:
        return Act("move", f"Bring forward to {day:%a %-d %b}", day.isoformat())
    return Act()
