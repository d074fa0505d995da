"""Page data of the school: the five questions, what fits and why, what the others would ask, exposure so far."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jarbloom.core.advice.compare_schools import SchoolView, recommended
from jarbloom.core.advice.situation import Situation
from jarbloom.core.journal.clean import CLEAN_AT_MOST_MG_N_L
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.proof import Proof
from jarbloom.core.setup.exposure import Exposure
from jarbloom.units import NBSP, figure
from jarbloom.views.drawn.fan import BY_KEY, SMALL, Fan, fan
from jarbloom.views.tank.exposure import exposure_rows, exposure_words
from jarbloom.views.tank.outlook import ready_words


@dataclass(frozen=True)
class SchoolRow:
    key: str
    name: str
    short: str
    current: bool
    out: str
    speaks_for: tuple[str, ...]
    speaks_against: tuple[str, ...]
    suits: str
    needs: str
    risk: str
    gate: str
    so_far: str
    asks: tuple[str, ...]
    rhythm: str
    ready: str
    drawn: bool


@dataclass(frozen=True)
class SchoolPage:
    call: str
    words: str
    rows: tuple[SchoolRow, ...]
    best: str
    charts: tuple[tuple[str, Fan, Fan], ...]  # name, for the desk, for the phone
    chart_words: str
    exposure: tuple[tuple[str, ...], ...]
    exposure_words: str


def school_page(
    s: Situation, views: Sequence[SchoolView], shown: str, exposure: Exposure | None, answered: bool
) -> SchoolPage:
    """`shown` is the school whose expected course is drawn, beside the present one."""
    best = recommended(views)
    current = next(v for v in views if v.current)
    chosen = next((v for v in views if v.choice.school.key == shown), current)
    call, words = _headline(s, best, current, answered)
    return SchoolPage(
        call, words, tuple(_row(s, v) for v in views), best.choice.school.key,
        _charts(s, chosen, current), _chart_words(chosen, current),
        exposure_rows(s, exposure), exposure_words(exposure),
    )  # fmt: skip


def _headline(s: Situation, best: SchoolView, current: SchoolView, answered: bool) -> tuple[str, str]:
    why = best.choice.speaks_for[0] if best.choice.speaks_for else best.choice.school.short
    if s.living and not current.choice.school.fish_in and not any(e.body.already_in for e in s.entries.kinds(Arrival)):
        name = best.choice.school.name
        return (
            f"Cycled by {current.choice.school.name}.",
            f"Animals are in. Should the bloom be lost, {name} is what would fit then.",
        )
    if best.current:
        return f"{_cap(current.choice.school.name)} fits.", why
    begun = any(e.kind in ("dose", "feed", "bacteria", "rock", "arrival") for e in s.entries)
    call = f"{_cap(best.choice.school.name)} would fit best."
    if begun and not answered:
        return call, f"{why} Cycling goes on by {current.choice.school.name}; switching midway loses nothing."
    return call, why


def _cap(text: str) -> str:
    return text[0].upper() + text[1:]


def gate_words(proofs: Sequence[Proof], target_mg_n_l: float) -> str:
    found = []
    for p in proofs:
        r = p.requirement
        if r.kind == "clears_dose":
            times = {1: "once", 2: "twice"}.get(r.times, f"{r.times} times")
            found.append(
                f"{figure(target_mg_n_l)}{NBSP}mg/L gone within {r.within_h:.0f}{NBSP}hours, both forms below "
                f"{figure(CLEAN_AT_MOST_MG_N_L)}, {times}"
            )
        else:
            feeding = " while feeding goes on" if r.while_feeding else ""
            found.append(f"ammonia and nitrite clean over {figure(r.days)} days{feeding}")
    return "; then ".join(found)


def so_far_words(proofs: Sequence[Proof]) -> str:
    found = []
    for p in proofs:
        what = "doses cleared" if p.requirement.kind == "clears_dose" else "days clean"
        found.append(f"{figure(p.done, 2)} of {figure(p.needed)} {what}")
    return ", ".join(found)


def _row(s: Situation, v: SchoolView) -> SchoolRow:
    school = v.choice.school
    if v.hindered:
        ready = v.hindered
    elif v.future is None:
        ready = ""
    else:
        ready = ready_words(v.future.readiness, None, s)
    every = f"a test every {figure(school.rhythm_days)} days" if school.rhythm_days > 1 else "a test every day"
    return SchoolRow(
        school.key, school.name, school.short, v.current, v.choice.out, v.choice.speaks_for, v.choice.speaks_against,
        school.suits, school.asks, school.risk, gate_words(v.proofs, s.tank.target_mg_n_l), so_far_words(v.proofs),
        tuple(j.title for j in v.asks), every, ready, v.future is not None,
    )  # fmt: skip


def _charts(s: Situation, chosen: SchoolView, current: SchoolView) -> tuple[tuple[str, Fan, Fan], ...]:
    if chosen.future is None:
        return ()
    found = []
    for key in ("tan", "no2"):
        other = current.future.bands[key][3] if current.future is not None and not chosen.current else None
        drawn = [fan(s, BY_KEY[key], w, 230, bands_by_key=chosen.future.bands, other=other) for w in (560, SMALL)]
        found.append((BY_KEY[key].name, drawn[0], drawn[1]))
    return tuple(found)


def _chart_words(chosen: SchoolView, current: SchoolView) -> str:
    name = chosen.choice.school.name
    if chosen.current:
        return f"What to expect by {name}: likely, and the bands of five, eight and nine times in ten."
    return f"What to expect by {name} from today on; the thin dotted line is {current.choice.school.name}."
