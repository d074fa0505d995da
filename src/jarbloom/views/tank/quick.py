"""The keys at the tank: what is usually logged there, each as a line of shorthand behind one tap."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.advice.said import Job
from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.names import plural
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.choices import SIGNS
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.units import figure
from jarbloom.views.drawn.figures import Figure, figure_of

SHARES = (0.1, 0.25, 0.5)
FIGURE_PX = 40.0
# What is looked for first at the tank; all other signs stand in the form
SIGNS_FIRST = ("gasping", "fast_gills", "hiding", "not_eating", "clamped", "flashing", "spots", "torn", "chase",
               "milky", "foodleft", "calm")  # fmt: skip
HABIT = timedelta(days=60)  # an amount of longer ago is none
KEY_OF = {"test": "test", "water_change": "change", "feed": "fed"}  # which key a job of today fills


@dataclass(frozen=True)
class Tap:
    words: str
    line: str
    hint: str = ""


@dataclass(frozen=True)
class Resident:
    name: str
    here: str
    line: str
    figure: Figure


@dataclass(frozen=True)
class Quick:
    """`due`: the key that is filled, '' when none is; `why`: the words beside a key."""

    due: str
    why: dict[str, str]
    changes: tuple[Tap, ...]
    feeds: tuple[Tap, ...]
    residents: tuple[Resident, ...]
    signs: tuple[Tap, ...]


def quick(s: Situation, jobs: Sequence[Job]) -> Quick:
    today = [j for j in jobs if j.due.date() <= s.now.date()]
    why: dict[str, str] = {}
    for job in today:
        if job.kind in KEY_OF:
            amount = s.units.volume(job.amount) if job.kind == "water_change" and job.amount else "due"
            why.setdefault(KEY_OF[job.kind], amount)
    return Quick(next(iter(why), ""), why, _changes(s, today), _feeds(s), _residents(s),
                 tuple(Tap(SIGNS[k], f"saw {SIGNS[k]}") for k in SIGNS_FIRST))  # fmt: skip


def _changes(s: Situation, today: Sequence[Job]) -> tuple[Tap, ...]:
    """The change that is due, the usual one, and shares of the tank; the same amount once."""
    found: list[tuple[float, str]] = [(j.amount, "due") for j in today if j.kind == "water_change" and j.amount]
    last = list(s.entries.kinds_since((s.now - HABIT).date(), Change))
    if last:
        found.append((last[-1].body.litres, f"as on {last[-1].at:%-d %b}"))
    found += [(share * s.volume_l, f"{100 * share:.0f} %") for share in SHARES]
    taps: dict[str, Tap] = {}
    for litres, hint in found:
        taps.setdefault(s.units.volume(litres), Tap(s.units.volume(litres), f"wc {figure(litres)} l", hint))
    return tuple(taps.values())[:5]


def _feeds(s: Situation) -> tuple[Tap, ...]:
    grams = [e.body.grams for e in s.entries.kinds_since((s.now - HABIT).date(), Feed) if e.body.grams]
    found = [Tap("as usual", "fed", "by the animals’ size")]
    for g in dict.fromkeys(reversed(grams)):
        found.append(Tap(f"{figure(g, 2)} g", f"fed {figure(g)} g", "as before"))
    return tuple(found[:4])


def _residents(s: Situation) -> tuple[Resident, ...]:
    counts: dict[str, int] = {}
    for a in s.living:
        counts[a.species] = counts.get(a.species, 0) + a.count
    found = []
    for key, count in counts.items():
        kind = s.reference.species.get(key, s.reference.species["unknown"])
        found.append(Resident(plural(kind.name, 1), f"{count} here", f"dead 1 {kind.name}", figure_of(kind, FIGURE_PX)))
    return tuple(found)
