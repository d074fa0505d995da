"""What changed, on one time axis: readings with their intervals, food, water, gear, life, and where it began."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.causes.evidence import Evidence
from jarbloom.core.causes.ranking import Ranking
from jarbloom.core.journal.clean import cleanness
from jarbloom.core.journal.kinds.answered import Answered
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.bed import BedStirred
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.count import HeadCount
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.escape import Escape
from jarbloom.core.journal.kinds.exposure import Exposure
from jarbloom.core.journal.kinds.fault import Fault
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.media import MediaCleaned
from jarbloom.core.journal.kinds.medicine import Medicine
from jarbloom.core.journal.kinds.new_thing import NewThing
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.power import PowerCut
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.kinds.topoff import TopOff
from jarbloom.core.model.entry import Body, Entry
from jarbloom.views.drawn.axes import LETTER, RootLogAxis, Tick, TimeAxis, r1
from jarbloom.views.drawn.strip import Mark

LEAST_DAYS, MOST_DAYS, AHEAD_DAYS = 4, 12, 2
LEFT, PLOT_TOP, PLOT_BASE, LANE_H = 58.0, 18.0, 112.0, 23.0
LEAST_LETTERS = 9
LANES: tuple[tuple[str, tuple[type[Body], ...]], ...] = (
    ("Food", (Feed, Dose)),
    ("Water", (Change, TopOff, Conditioner, Bacteria)),
    ("Gear", (MediaCleaned, PowerCut, BedStirred, Fault, NewThing, Exposure, Rock, Medicine)),
    ("Life", (Arrival, Birth, Death, Escape, HeadCount, Observation, Answered, Note)),
)


@dataclass(frozen=True)
class Event:
    """`label`: '' where there is no room for it; `title` holds the whole of it."""

    x: float
    label: str
    title: str
    hollow: bool = False
    sign: bool = False
    left: bool = False  # the label stands before the mark


@dataclass(frozen=True)
class Lane:
    name: str
    y: float
    events: tuple[Event, ...]


@dataclass(frozen=True)
class Suspect:
    """When signs of a leading cause would begin by what set it off: earliest to latest, `usual` in between; px."""

    title: str
    words: str
    y: float
    left: float
    right: float
    usual: float | None
    label_x: float
    before: bool  # the title stands before the band, where there is no room in it


@dataclass(frozen=True)
class UpsetLine:
    """`window`: (left, right) px in which it began, None when nothing tells; the rest in px."""

    width: float
    height: float
    base: float
    marks: tuple[Mark, ...]
    y_ticks: tuple[Tick, ...]
    x_ticks: tuple[Tick, ...]
    lanes: tuple[Lane, ...]
    suspects: tuple[Suspect, ...]
    window: tuple[float, float] | None
    window_words: str
    window_x: float
    window_before: bool  # its words end at the band's right edge, where there is no room behind
    now_x: float
    now_words: str
    limit_y: float | None
    limit_words: str
    words: str


def upset_line(s: Situation, ranking: Ranking, width: float = 752.0) -> UpsetLine:
    evidence = ranking.evidence
    began, clean = evidence.began, _last_clean(s, evidence)
    start = min([began, *([clean] if clean else []), *(p.at for c in ranking.leading for p in c.because)])
    days = min(max((s.now - start).days + 2, LEAST_DAYS), MOST_DAYS)
    first, last = s.now.date() - timedelta(days=days - 1), s.now.date() + timedelta(days=AHEAD_DAYS)
    x = TimeAxis(first, last, LEFT, width)
    entries = list(s.entries.since(first))
    y = RootLogAxis(max([2.0, *(r.seen for e in entries for r in e.readings if r.quantity in ("ammonia", "nitrite"))]),
                    PLOT_BASE, PLOT_TOP)  # fmt: skip
    window = None
    if evidence.signs or s.findings.pressing:
        left = max(x.at(clean), x.left) if clean and clean < began else max(x.at(began - timedelta(days=1)), x.left)
        window = (left, max(x.at(began), left + 3))
    late = window is not None and window[0] > width - WINDOW_W
    suspects = tuple(_suspects(ranking, x, s.now)) if window and ranking.enough else ()
    rows = len(LANES) + len(suspects)
    height = PLOT_BASE + LANE_H * rows + 34
    marks = tuple(_marks(entries, x, y))
    return UpsetLine(
        width, height, PLOT_BASE + LANE_H * rows + 12, marks, tuple(y.ticks()),
        tuple(Tick(x.edge(d), f"{d:%a %-d}", d == s.now.date()) for d in _days(first, last)),
        tuple(_lane(name, kinds, n, entries, s, x) for n, (name, kinds) in enumerate(LANES)),
        suspects, window, "it began in here" if window and window[1] - window[0] > 40 else "it began",
        0.0 if window is None else window[1] if late else window[0] + 4, late, x.at(s.now),
        f"Now {s.now:%H:%M}", y.y(s.levels.limits.no2) if marks else None,
        f"nitrite limit {s.levels.limits.no2:g}", _words(s, entries),
    )  # fmt: skip


def _suspects(ranking: Ranking, x: TimeAxis, now: datetime) -> Iterable[Suspect]:
    """Of the leading causes that something in the log could have set off."""
    found = [(c, max((p for p in c.because if p.token in c.row.after), key=lambda p: p.at, default=None))
             for c in ranking.leading[:SUSPECTS]]  # fmt: skip
    for n, (c, piece) in enumerate((c, p) for c, p in found if p is not None):
        first, usual, last = (piece.at + timedelta(hours=h) for h in c.row.onset_h)
        if first.date() >= x.last or last < datetime.combine(x.first, datetime.min.time(), now.tzinfo):
            continue
        left, right = max(x.at(first), x.left), min(x.at(last), x.right)
        mid = x.at(usual) if left <= x.at(usual) <= right else None
        words = f"{c.row.title}: by {piece.words}, signs from {first:%a %H:%M} to {last:%a %-d %b}"
        y, before = r1(PLOT_BASE + LANE_H * (len(LANES) + n + 1)), left > x.right - TITLE_W
        yield Suspect(c.row.title, words, y, r1(left), r1(right), mid, r1(left - 5 if before else left + 5), before)


SUSPECTS, TITLE_W, WINDOW_W = 3, 190.0, 130.0


def _days(first: date, last: date) -> list[date]:
    return [first + timedelta(days=k) for k in range((last - first).days)]


def _last_clean(s: Situation, evidence: Evidence) -> datetime | None:
    """The last clean test before the first sign."""
    judge = cleanness(s.tank.kit)
    tests = (e for e in reversed(s.entries.kinds(Tested)) if e.at <= evidence.began)
    return next((e.at for e in tests if judge(e.readings)), None)


def _marks(entries: Iterable[Entry], x: TimeAxis, y: RootLogAxis) -> Iterable[Mark]:
    for e in entries:
        for r in e.readings:
            if r.quantity not in ("ammonia", "nitrite") or r.masked:
                continue
            high = r.high if r.high is not None else 1.5 * max(r.seen, r.low)
            title = f"{r.quantity} {r.typed}, {e.at:%a %H:%M}"
            yield Mark(x.at(e.at), y.y(r.seen), y.y(r.low), y.y(high), r.quantity, title)


def _lane(name: str, kinds: Sequence[type[Body]], n: int, entries: Sequence[Entry], s: Situation, x: TimeAxis) -> Lane:
    events: list[Event] = []
    mine = [e for e in entries if isinstance(e.body, tuple(kinds))]
    spots = [x.at(e.at) for e in mine]
    taken = x.left  # px up to which the lane is written on
    for k, e in enumerate(mine):
        words = e.body.words(s.reference.species, s.units)
        after = (spots[k + 1] if k + 1 < len(mine) else x.right) - spots[k] - 16
        label, left = ("", False) if isinstance(e.body, Feed) else _label(words, after, spots[k] - taken - 16)
        title = f"{e.at:%a %-d %b %H:%M}: {e.body.label.lower()}, {words}"
        events.append(Event(spots[k], label, title, sign=isinstance(e.body, Observation | Death), left=left))
        taken = spots[k] + (LETTER * len(label) + 12 if label and not left else 6)
    if name == "Water" and s.response is not None:
        events += [Event(x.at(c.at), "", f"planned: {s.units.volume(c.litres)} at {c.at:%a %H:%M}", hollow=True)
                   for c in s.response.changes if c.at.date() < x.last]  # fmt: skip
    return Lane(name, r1(PLOT_BASE + LANE_H * (n + 1)), tuple(events))


def _label(words: str, after: float, before: float) -> tuple[str, bool]:
    """As much of the words as there is room for, on the wider side; whether it stands before its mark."""
    left = after < LETTER * LEAST_LETTERS and before > after
    letters = int((before if left else after) / LETTER)
    if len(words) <= letters:
        return words, left
    return (f"{words[: letters - 1].rstrip()}…", left) if letters >= LEAST_LETTERS else ("", False)


def _words(s: Situation, entries: Sequence[Entry]) -> str:
    return (
        "What changed, oldest first: "
        + "; ".join(
            f"{e.at:%a %-d %b %H:%M} {e.body.label.lower()}, {e.body.words(s.reference.species, s.units)}"
            for e in entries[-24:]
        )
        if entries
        else "Nothing is logged for these days."
    )
