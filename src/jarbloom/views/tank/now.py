"""Page data of a tank: Now and the upset desk."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.advice.said import Job, Verdict
from jarbloom.core.advice.situation import Situation, TankSeen
from jarbloom.core.advice.verdict import over_words
from jarbloom.core.bloom.capacity import SURE
from jarbloom.core.journal.clean import CLEAN_DAYS
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.journal.log import latest
from jarbloom.core.model.kit import NITROGEN
from jarbloom.core.model.schools import Corrective
from jarbloom.core.setup.exposure import exposure
from jarbloom.core.upset.promise import last_promise
from jarbloom.core.upset.response import Response, respond, unprocessed
from jarbloom.core.water.mixing import salt_g
from jarbloom.units import NBSP, figure, load_text
from jarbloom.views.drawn.headroom import Headroom, headroom
from jarbloom.views.drawn.section import Section, section
from jarbloom.views.drawn.upset_line import UpsetLine, upset_line
from jarbloom.views.tank.desk import DeskCauses, desk_causes, inquiry_of
from jarbloom.views.tank.exposure import exposure_rows, exposure_words
from jarbloom.views.tank.upset import UpsetChart, upset_chart


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


_MINUTES = {"test": 10, "water_change": 25, "dose": 3, "feed": 2, "test_kh": 4}


def now_page(seen: TankSeen) -> NowPage:
    s = seen.situation
    today = s.now.date()
    names, units = s.reference.species, s.units
    done = tuple(
        Done(e.body.label, e.body.words(names, units), f"{e.at:%H:%M}")
        for e in s.entries.since(today).kinds(Tested, Dose, Change, Feed, TopOff)
    )
    jobs = seen.jobs
    return NowPage(
        seen.verdict, jobs, done[-3:], _openings(s), _last_words(s), sum(_MINUTES.get(j.kind, 0) for j in jobs),
        headroom(s), headroom(s, 358, compact=True),
        section(s.tank, s.living, s.reference, _fit(s), 170.0, 2.0), units.volume(s.volume_l),
        load_text(s.forecast.sure), load_text(s.forecast.likely), units.volume(s.tank.media_l), tabs(s), _overrides(s),
        s.acting,
    )  # fmt: skip


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
    for e in s.entries.since(since.date()).kinds(Arrival):
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
    """The steppers of the dock, in the order in which they are due."""
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


@dataclass(frozen=True)
class ChangeRow:
    when: str
    amount: str
    share: str
    tan: str
    nh3: str
    nh3_range: str
    no2: str
    ph: str
    now: bool


@dataclass(frozen=True)
class Other:
    """What another corrective school would do with the same data."""

    name: str
    words: str


@dataclass(frozen=True)
class UpsetPage:
    verdict: Verdict
    acting: bool
    open: bool
    clean: str
    over: tuple[str, ...]
    jobs: tuple[Job, ...]
    rows: tuple[ChangeRow, ...]
    chart: UpsetChart | None
    small: UpsetChart | None
    recipe: tuple[tuple[str, str], ...]
    reached: str
    school: Corrective | None
    others: tuple[Other, ...]
    seen: tuple[str, ...]
    changed: tuple[str, ...]
    promise: tuple[str, ...]
    living: str
    rhythm: str
    exposure: tuple[tuple[str, ...], ...]
    exposure_words: str
    desk: DeskCauses
    line: UpsetLine
    small_line: UpsetLine


def upset_page(seen: TankSeen) -> UpsetPage:
    s, response = seen.situation, seen.situation.response
    exposed = exposure(s.tank, s.forecast, s.entries, s.levels.limits, s.now) if s.living and s.school.fish_in else None
    upset, inquiry = s.episode, inquiry_of(seen)
    clean = ""
    if upset is not None:
        clean = f"{upset.clean_days} of {CLEAN_DAYS} clean days since {upset.since:%a %-d %b %H:%M}"
    return UpsetPage(
        seen.verdict, s.acting, bool(upset and upset.open), clean, tuple(over_words(s)) if s.acting else (),
        tuple(j for j in seen.jobs if j.kind not in ("feed",)), _rows(response, s) if response else (),
        upset_chart(s, seen.courses),
        upset_chart(s, seen.courses, width=358), _recipe(response, s) if response else (),
        _reached(response, s) if response else "", response.school if response else None,
        _others(s) if response else (), _seen_signs(s), _changed(s), _promise(s),
        f"{sum(g.count for g in s.living)} animals, putting out {load_text(s.forecast.load_now)} a day",
        "Two hours after each change, then every day, until ammonia and nitrite both read at the kit’s lowest step on "
        f"{CLEAN_DAYS} days running.",
        exposure_rows(s, exposed), exposure_words(exposed), desk_causes(seen, inquiry),
        upset_line(s, inquiry.ranking), upset_line(s, inquiry.ranking, width=358),
    )  # fmt: skip


def _when(at: datetime, now: datetime) -> str:
    return "now" if at <= now else (f"today {at:%H:%M}" if at.date() == now.date() else f"{at:%a %H:%M}")


def _rows(response: Response, s: Situation) -> tuple[ChangeRow, ...]:
    def move(a: float, b: float) -> str:
        return f"{figure(a, 2)} to {figure(b, 2)}"

    return tuple(
        ChangeRow(
            _when(c.at, s.now),
            s.units.volume(c.litres),
            f"{100 * c.fraction:.0f} %",
            move(c.tan_before, c.tan_after),
            move(c.nh3_before, c.nh3_after.seen),
            f"{figure(c.nh3_after.low, 2)} to {figure(c.nh3_after.high, 2)}",
            move(c.no2_before, c.no2_after),
            figure(c.ph_after, 2),
            k == 0 and c.at <= s.now,
        )
        for k, c in enumerate(response.changes)
    )


def _recipe(response: Response, s: Situation) -> tuple[tuple[str, str], ...]:
    mix = response.refill
    if mix is None:
        return ()
    lines = [
        ("new water", s.units.volume(mix.litres)),
        ("hot tap", f"{s.units.volume(mix.hot_l)} at {s.units.temp(s.tank.source.hot_c)}"),
        ("cold tap", f"{s.units.volume(mix.cold_l)} at {s.units.temp(s.tank.source.cold_c)}"),
        ("comes to", s.units.temp(mix.temp_c)),
    ]
    if mix.conditioner_ml is None:
        lines.append(("conditioner", f"by its label, for {mix.conditioner_for}"))
    else:
        lines.append(("conditioner", f"{figure(mix.conditioner_ml, 2)} mL, for {mix.conditioner_for}"))
    if s.levels.salinity_g_kg > 0:
        grams = salt_g(mix.litres, s.levels.salinity_g_kg, s.tank.salt_factor, mix.temp_c)
        lines.append((f"salt for {figure(s.levels.salinity_g_kg)}{NBSP}g/kg", f"{grams:.0f}{NBSP}g, dissolved first"))
    if abs(mix.step_c) >= 0.5:
        lines.append(("moves the tank by", s.units.temp_step(mix.step_c)))
    return tuple(lines)


def _reached(response: Response, s: Situation) -> str:
    if response.no_better:
        return (
            "No change with this water: every share of it would leave more free ammonia than none. Bind the "
            "ammonia, find "
            "water of like pH and less ammonia, raise the KH slowly; water changes alone do not get below the limits."
        )
    if not response.changes:
        return "The readings are below the limits."
    if not response.reached or response.within_limits_at is None:
        return (
            "Water changes alone do not get below the limits with this tap water within three days: test it, use "
            "another source, and ask a veterinarian or fish-health professional."
        )
    after = _when(response.within_limits_at, s.now)
    return (
        "Below the limits after the first change."
        if after == "now"
        else f"Below the limits after the change of {after}, if the readings go as expected."
    )


def _others(s: Situation) -> tuple[Other, ...]:
    f, found = s.forecast, []
    production = unprocessed(f.load_now, f.band("capacity_a", SURE), f.band("capacity_b", SURE), s.volume_l)
    for key, school in s.reference.schools.corrective.items():
        if key == s.tank.corrective:
            continue
        other = respond(s.tank, s.levels, production, school, s.now)
        sizes = ", ".join(s.units.volume(c.litres) for c in other.changes[:6])
        found.append(Other(school.name, f"{sizes}. {school.short}"))
    return tuple(found)


HIGHER = (
    "more than new water explains: something gives off ammonia still (a body, food, the bed), or the new water brought "
    "some. Test the tap water, look for the body."
)
LOWER = (
    "less than new water explains: the bloom took its part, or a test was off. Rely on it once a second test says so."
)


def _promise(s: Situation) -> tuple[str, ...]:
    """What the last change was to come to, and what was read since."""
    found = last_promise(s.tank, s.entries, s.levels, s.now) if s.living else None
    if found is None:
        return ()
    told, at = found.told, found.entry.at
    said = [
        f"{s.units.volume(told.litres)} at {at:%a %H:%M}: free ammonia from {figure(told.nh3_before, 2)} to about "
        f"{figure(told.nh3_after.seen, 2)} ({figure(told.nh3_after.low, 2)} to {figure(told.nh3_after.high, 2)}) at pH "
        f"{figure(told.ph_after, 2)}, nitrite from {figure(told.no2_before, 2)} to "
        f"{figure(told.no2_after, 2)}{NBSP}mg/L."
    ]
    for k in found.kept:
        span = f"{figure(k.low, 2)} to {figure(k.high, 2)}{NBSP}mg/L"
        if k.read is None:
            said.append(f"{k.quantity.capitalize()}, expected {span}: not read since.")
            continue
        word = {"kept": "as expected.", "higher": HIGHER, "lower": LOWER}[k.stands]
        read = f"{k.read.reading.typed} read at {k.read.at:%a %H:%M}"
        said.append(f"{k.quantity.capitalize()}, expected {span}; {read}: {word}")
    return tuple(said)


def _seen_signs(s: Situation) -> tuple[str, ...]:
    since = s.now - timedelta(days=3)
    return tuple(
        f"{e.body.words(s.reference.species, s.units)}, {e.at:%a %H:%M}"
        for e in s.entries.since(since.date()).kinds(Observation, Death)
        if e.at > since
    )


def _changed(s: Situation) -> tuple[str, ...]:
    """What changed in the ten days before: the question that experts ask first."""
    start = (s.episode.since if s.episode else s.now) - timedelta(days=10)
    lately = s.entries.since(start.date())
    found = [
        f"{e.at:%a %-d %b}: {e.body.label.lower()}, {e.body.words(s.reference.species, s.units)}"
        + (f" ({e.note})" if e.note else "")
        for e in lately.kinds(MediaCleaned, Arrival, Bacteria, Conditioner, Change, Note)
        if e.at > start
    ]
    fed = [(e.body.grams, e.at) for e in lately.kinds(Feed) if e.at > start and e.body.grams is not None]
    if fed:
        grams, when = max(fed)
        found.append(f"{when:%a %-d %b}: the largest feeding, {figure(grams)} g")
    return tuple(reversed(found[-7:]))
