"""What somebody who helps needs to know of a tank: its size and water, who lives there, what was read and done."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.advice.away import heads
from jarbloom.core.advice.situation import Situation
from jarbloom.core.advice.verdict import verdict
from jarbloom.core.journal.book import JOINED
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.measured import Measured
from jarbloom.core.journal.kinds.photo import Photo
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.journal.readings import LABELS
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import NITROGEN, QUANTITIES
from jarbloom.units import NBSP, figure, load_text

WEEKS = 6
MOST_DAYS = 366


@dataclass(frozen=True)
class ReadingRow:
    """A test: when, and what was read by quantity, '' where it was not."""

    when: str
    typed: tuple[str, ...]


@dataclass(frozen=True)
class Report:
    """`facts` by label; `quantities`: heads of the readings; `done` by day, the newest first; `numbers`: sums."""

    name: str
    span: str
    verdict: str
    facts: tuple[tuple[str, str], ...]
    living: tuple[str, ...]
    quantities: tuple[str, ...]
    readings: tuple[ReadingRow, ...]
    done: tuple[tuple[str, tuple[str, ...]], ...]
    numbers: tuple[tuple[str, str], ...]
    photos: tuple[Entry[Photo], ...]


def report(s: Situation, days: int = 7 * WEEKS) -> Report:
    """The last so many days, by what stands in the log."""
    first = s.now.date() - timedelta(days=min(max(days, 1), MOST_DAYS) - 1)
    lately = s.entries.since(first)
    tests = lately.kinds(Tested)
    read = tuple(q for q in QUANTITIES if any(r.quantity == q for e in tests for r in e.readings))
    rows = tuple(
        ReadingRow(f"{e.at:%-d %b %H:%M}", tuple({r.quantity: r.typed for r in e.readings}.get(q, "") for q in read))
        for e in reversed(tests)
    )
    told: dict[str, list[str]] = {}
    for e in reversed(lately):
        if isinstance(e.body, Tested | Photo):
            continue
        words = f"{e.body.label}: {e.body.words(s.reference.species, s.units)}" + (f" ({e.note})" if e.note else "")
        told.setdefault(f"{e.at:%a %-d %b %Y}", []).append(words)
    return Report(
        name=s.tank.name,
        span=f"{first:%-d %b} to {s.now:%-d %b %Y}",
        verdict=verdict(s).sentence,
        facts=tuple(_facts(s)),
        living=tuple(heads(s)),
        quantities=tuple(LABELS[q] for q in read),
        readings=rows,
        done=tuple((day, tuple(lines)) for day, lines in told.items()),
        numbers=tuple(_numbers(s, lately)),
        photos=lately.kinds(Photo)[-4:],
    )


def _facts(s: Situation) -> Iterator[tuple[str, str]]:
    t, u = s.tank, s.units
    size = f"{u.volume(s.volume_l)} of water"
    if t.length_cm and t.width_cm and t.height_cm:
        size += f", {u.length(t.length_cm)} x {u.length(t.width_cm)} x {u.length(t.height_cm)}"
    yield "Size", size
    yield "Water since", f"{t.started:%-d %b %Y}, {(s.now.date() - t.started).days} days"
    water = "sea water" if t.marine else ("brackish" if t.salinity_g_kg else "fresh water")
    hardness = f"KH {figure(s.levels.kh_dkh, 2)}{NBSP}dKH"
    yield "Water", f"{water}, {u.temp(s.levels.temp_c)}, pH {figure(s.levels.ph, 2)}, {hardness}"
    if t.filters:
        yield "Filters", ", ".join(f"{f.name or f.kind} {figure(f.flow_l_h)}{NBSP}L/h" for f in t.filters)
    if t.heaters:
        yield "Heaters", ", ".join(f"{figure(h.watts)}{NBSP}W" for h in t.heaters)
    yield "Tests read as", ", ".join(f"{q} as {t.kit.scale(q).form}" for q in NITROGEN)
    if s.living:
        carried = load_text(s.forecast.sure)
        yield "Load", f"{load_text(s.forecast.load_adult)} a day grown up; the bloom surely carries {carried}"


def _numbers(s: Situation, lately: Log) -> Iterator[tuple[str, str]]:
    """Sums of the stretch."""
    changed = [e.body.litres for e in lately.kinds(Change)]
    if changed:
        many = f"{len(changed)} change{'s' if len(changed) != 1 else ''}"
        yield "Water changed", f"{s.units.volume(sum(changed))} in {many}"
    dead = sum(e.body.count for e in lately.kinds(Death))
    came = sum(e.body.count for e in lately.kinds(*JOINED))
    yield "Came, found dead", f"{came}, {dead}"
    yield "Tests", str(len(lately.kinds(Tested)) + len(lately.kinds(Measured)))
