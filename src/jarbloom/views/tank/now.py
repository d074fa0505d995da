"""Page data of a tank: Now and the upset desk."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.advice.said import Job, Verdict
from jarbloom.core.advice.situation import Situation, TankSeen
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.journal.log import latest
from jarbloom.core.model.kit import NITROGEN
from jarbloom.units import figure, load_text
from jarbloom.views.drawn.headroom import DRAWN, Headroom, headroom
from jarbloom.views.drawn.section import Section, section
from jarbloom.views.drawn.standing import Drawings, drawn_once
from jarbloom.views.tank.binder import BinderLine, binder_line
from jarbloom.views.tank.desk import here_before
from jarbloom.views.tank.quick import Quick, quick


@dataclass(frozen=True)
class Opening:
    """A batch beside the verdict: its one date with its range, the planned day, and what sets the date."""

    name: str
    fits: str
    planned: str
    sets: str
    late: bool  # the planned day comes before it is possible


@dataclass(frozen=True)
class Done:
    """Something of today that stands in the log already."""

    title: str
    words: str
    at: str


@dataclass(frozen=True)
class StepperTab:
    """One quantity of the dock: its steps, the interval of each, and where it starts."""

    quantity: str
    label: str
    short: str
    unit: str
    word: str
    steps: str
    intervals: str
    start: int
    last: str


@dataclass(frozen=True)
class NowPage:
    verdict: Verdict
    jobs: tuple[Job, ...]
    done: tuple[Done, ...]
    openings: tuple[Opening, ...]
    last_words: str
    minutes: int
    chart: Headroom
    small: Headroom
    section: Section
    net: str
    sure: str
    likely: str
    media_l: str
    tabs: tuple[StepperTab, ...]
    overrides: tuple[str, ...]
    acting: bool
    binder: BinderLine | None
    recalled: tuple[str, ...]
    quick: Quick


_MINUTES = {"test": 10, "water_change": 25, "dose": 3, "feed": 2, "test_kh": 4}


@drawn_once
def now_page(seen: TankSeen) -> NowPage:
    s = seen.situation
    today = s.now.date()
    names, units = s.reference.species, s.units
    done = tuple(
        Done(e.body.label, e.body.words(names, units), f"{e.at:%H:%M}")
        for e in s.entries.kinds_since(today, Tested, Dose, Change, Feed, TopOff)
    )
    jobs = seen.jobs
    return NowPage(
        seen.verdict, jobs, done[-3:], _openings(s), _last_words(s), sum(_MINUTES.get(j.kind, 0) for j in jobs),
        *_pictures(s), units.volume(s.volume_l),
        load_text(s.forecast.sure), load_text(s.forecast.likely), units.volume(s.tank.media_l), tabs(s), _overrides(s),
        s.acting, binder_line(s), here_before(s), quick(s, jobs),
    )  # fmt: skip


_drawings = Drawings()


def _pictures(s: Situation) -> tuple[Headroom, Headroom, Section]:
    """The chart, the small one, and the cross-section. They follow from the forecast and from what is drawn of the log
    and the plan: a plain note draws nothing anew. In an upset they are drawn each time: what there is to do changes."""

    def draw() -> tuple[Headroom, Headroom, Section]:
        here = section(s.tank, s.living, s.reference, _fit(s), 170.0, 2.0)
        return headroom(s), headroom(s, 358, compact=True), here

    if s.response is not None:
        return draw()
    drawn = tuple(e.id for e in s.entries.kinds_since(s.forecast.days[0], *DRAWN))
    how = (s.now.replace(second=0, microsecond=0), s.tank, s.living, s.waiting, s.dates, s.acting, s.units, drawn)
    return _drawings.latest(s.forecast, s.tank.id, how, draw)


def _fit(s: Situation) -> float:
    t = s.tank
    length, height = (t.length_cm or 60.0), (t.height_cm or 40.0)
    return min(262 / length, 150 / height)


def _openings(s: Situation) -> tuple[Opening, ...]:
    found = []
    for batch in s.waiting[:3]:
        date = s.date_of(batch)
        if date is None:
            continue
        sets = "; ".join(p for p in (date.range_words, date.sets) if p)
        found.append(
            Opening(batch.name, date.words, f"planned {batch.planned:%a %-d %b}", sets, not date.planned_possible)
        )
    return tuple(found)


def _last_words(s: Situation) -> str:
    last = s.forecast.last_reading
    if last is None:
        return "No reading yet."
    days = (s.now.date() - last.date()).days
    when = {0: "today", 1: "yesterday"}.get(days, f"{days} days ago")
    return (
        f"Last reading {when} at {last:%H:%M}. Bloom likely {load_text(s.forecast.likely)} a day, "
        f"sure of {load_text(s.forecast.sure)}."
    )


def _overrides(s: Situation) -> tuple[str, ...]:
    """Batches that went in against the gate are shown for four weeks."""
    since = s.now - timedelta(days=28)
    found = {}
    for e in s.entries.kinds_since(since.date(), Arrival):
        if e.body.override and e.at > since:
            key = e.body.batch if e.body.batch is not None else e.id
            found[key] = f"On {e.at:%-d %b} animals went in against the gate: “{e.body.override}”"
    return tuple(found.values())


_SHORT = {
    "ammonia": ("am", "am"),
    "nitrite": ("ni", "ni"),
    "nitrate": ("na", "na"),
    "ph": ("pH", "ph"),
    "temp": ("T", "t"),
    "salinity": ("S", "sal"),
}


def tabs(s: Situation) -> tuple[StepperTab, ...]:
    """The steppers of the dock, in the order in which they are due: they follow from tank, units and tests alone."""
    return s.entries.kept(("steppers", s.tank, s.units), (Tested,), lambda: _tabs(s))


def _tabs(s: Situation) -> tuple[StepperTab, ...]:
    found = []
    salted = ("salinity",) if s.tank.salinity_g_kg else ()
    for quantity in ("ammonia", "nitrite", "nitrate", "ph", "temp", *salted):
        short, word = _SHORT[quantity]
        seen = latest(s.entries, quantity)
        if quantity in NITROGEN:
            scale = s.tank.kit.scale(quantity)
            steps = list(scale.steps)
            value = seen.value * scale.per_n if seen else 0.0
            unit, label = "mg/L", quantity
            mids = [(a + b) / 2 for a, b in zip(steps, steps[1:], strict=False)]
            spans = (
                [f"below {figure(mids[0], 2)}"]
                + [f"{figure(a, 2)} to {figure(b, 2)}" for a, b in zip(mids, mids[1:], strict=False)]
                + [f"over {figure(mids[-1], 2)}"]
            )
            texts = [figure(x) for x in steps]
        else:
            usual = {"ph": s.tank.ph, "temp": s.tank.temp_c, "salinity": s.tank.salinity_g_kg}[quantity]
            value = seen.value if seen else usual
            if quantity == "temp":
                value = s.units.value(value, "temp")
            step = 0.2 if quantity == "ph" else 0.5
            base = round(value / step) * step
            steps = [round(base + step * k, 1) for k in range(-10, 11)]
            unit, label = {
                "ph": ("", "pH"), "temp": (s.units.unit("temp"), "temperature"), "salinity": ("g/kg", "salinity"),
            }[quantity]  # fmt: skip
            spans, texts = ["" for _ in steps], [f"{x:g}" for x in steps]
        start = min(range(len(steps)), key=lambda k: abs(steps[k] - value))
        last = "" if seen is None else f"last {seen.reading.typed}"
        found.append(StepperTab(quantity, label, short, unit, word, "|".join(texts), "|".join(spans), start, last))
    return tuple(found)
