"""The scores as the calibration section of docs/model.md."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from jarbloom.core.bloom.parameters import PRIORS
from scripts.calibrate.ask import AHEAD, FIXED_DAYS, Answer, TankResult
from scripts.calibrate.score import brier, flat, reliability, score

PRIORS_BEGIN, PRIORS_END = "<!-- priors -->", "<!-- end of priors -->"
BEGIN, END = "<!-- calibration: made by `make calibrate` -->", "<!-- end of calibration -->"
TITLES = {
    "film": "Tanks of films, a deliberately different model",
    "patch": "Tanks of patches that are settled by chance, another",
    "own": "Tanks drawn from the priors",
}
HEAD = (
    "| asked | n | median error | mean | bias | CRPS | 50/80/95 % cover | 80 % width "
    "| 35 days: median, CRPS | pencil: median, CRPS |\n|---|---|---|---|---|---|---|---|---|---|"
)


def summary(results: dict[str, list[TankResult]]) -> str:
    parts = []
    for world, found in results.items():
        parts += [f"### {TITLES[world]}", _about(found), _table(found), _schools(found), _late(found), _safety(found)]
        if world == "own":
            parts.append(_ranks(found))
    return "\n\n".join(parts) + "\n"


def _answers(found: Sequence[TankResult], asked: str) -> list[Answer]:
    return [a for t in found for a in t.answers if a.asked == asked]


def _row(name: str, answers: Sequence[Answer]) -> str:
    if len(answers) < 2:
        return f"| {name} | {len(answers)} | | | | | | | | |"
    s = score(answers)
    cover = " / ".join(f"{100 * c:.0f}" for c in s.cover)
    return (
        f"| {name} | {s.n} | {s.median_error:.1f} | {s.mean_error:.1f} | {s.bias:+.1f} "
        f"| {s.crps:.2f} ({s.crps_span[0]:.1f} to {s.crps_span[1]:.1f}) | {cover} "
        f"| {s.width_80:.1f} | {s.fixed_error:.1f}, {s.fixed_crps:.1f} | {s.drawn_error:.1f}, {s.drawn_crps:.1f} |"
    )


def _about(found: Sequence[TankResult]) -> str:
    days = [t.ready for t in found if t.ready is not None]
    late = sum(t.ready is None or t.ready > 60 for t in found)
    low, middle, high = np.quantile(days, [0.1, 0.5, 0.9])
    return (
        f"{len(found)} tanks; ready after {middle:.0f} days in the middle ({low:.0f} to {high:.0f} for eight of ten); "
        f"{late} not by day 60. Days; error is of the median of the forecast."
    )


def _table(found: Sequence[TankResult]) -> str:
    names = [f"{k} ahead" for k in AHEAD] + [f"day {d}" for d in FIXED_DAYS]
    return "\n".join([HEAD, *(_row(n, _answers(found, n)) for n in names)])


def _schools(found: Sequence[TankResult]) -> str:
    schools = sorted({t.school for t in found})
    asked = _answers(found, "10 ahead")
    rows = [_row(s.replace("_", " "), [a for a in asked if a.school == s]) for s in schools]
    rows.append(_row("both fish in", [a for a in asked if a.school.startswith("fish_in")]))
    return "By school, ten days ahead:\n\n" + "\n".join([HEAD, *rows])


def _late(found: Sequence[TankResult]) -> str:
    """Not ready by day 60, asked on days 14 and 28."""
    lines = []
    for day in FIXED_DAYS:
        asked = _answers(found, f"day {day}")
        if not asked:
            continue
        said = [float(np.mean(a.members > 60 - day)) for a in asked]
        came = [a.truth > 60 - day for a in asked]
        told = [1 - p for p, late in zip(said, came, strict=True) if late]
        base = float(np.mean(came))
        lines.append(
            f"asked on day {day}: Brier score {brier(said, came):.3f} ({base * (1 - base):.3f} for always saying "
            f"the share of {100 * base:.0f} %, {len(asked)} tanks); those {len(told)} were told "
            f"{np.mean(told or [0]):.2f} to be ready by then"
        )
    return "Not ready by day 60, " + "; ".join(lines) + "."


def _safety(found: Sequence[TankResult]) -> str:
    every = [s for t in found for s in t.safeties]
    rows = ["| P(under the limits) said | n | mean said | came |", "|---|---|---|---|"]
    for b in reliability([s.p for s in every], [s.safe for s in every]):
        rows.append(f"| {b.low:.1f} to {b.high:.1f} | {b.n} | {b.said:.2f} | {b.came:.2f} |")
    return "Batches of random size on days 14, 28, 35 and 42:\n\n" + "\n".join(rows)


def _ranks(found: Sequence[TankResult]) -> str:
    lines = []
    for day in FIXED_DAYS:
        ranks_of = [a.ranks for a in _answers(found, f"rank {day}")]
        names = ("ln A", "ln B", "day of readiness")
        every = {name: [r[k] for r in ranks_of if len(r) > k] for k, name in enumerate(names)}
        for name, ranks in every.items():
            counts, p = flat(ranks)
            cover = float(np.mean(np.abs(np.array(ranks) - 0.5) <= 0.4))
            lines.append(f"| {name}, day {day} | {' '.join(map(str, counts))} | {p:.3f} | {100 * cover:.0f} |")
    head = "| quantity | tanks by tenth of rank | chi-square p | 80 % cover |\n|---|---|---|---|"
    return "Rank of the truth among the members (flat when calibrated):\n\n" + "\n".join([head, *lines])


def priors_table() -> str:
    """Every prior with its source, from the one place where they stand."""
    rows = ["| parameter | prior | unit and source |", "| --- | --- | --- |"]
    for p in PRIORS:
        shown = f"LN({p.centre:g}, {p.sd:g})" if p.kind == "ln" else f"N({p.centre:g}, {p.sd:g})"
        cut = f", at most {p.high:g}" if np.isfinite(p.high) else ""
        rows.append(f"| {p.name} | {shown}{cut} | {p.source} |")
    return "\n".join(rows)


def between(whole: str, begin: str, end: str, text: str) -> str:
    before, rest = whole.split(begin)
    return f"{before}{begin}\n\n{text.strip()}\n\n{end}{rest.split(end)[1]}"


def write_into(doc: Path, text: str) -> None:
    """Replace the calibration section of the document, and the table of priors."""
    whole = between(doc.read_text("utf-8"), BEGIN, END, text)
    doc.write_text(between(whole, PRIORS_BEGIN, PRIORS_END, priors_table()), "utf-8")
