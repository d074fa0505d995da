"""Page data of the matrix: who goes with whom, as cells and as sentences."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jarbloom.core.animals.compatibility import Case, Finding, between, findings, of_one, worst
from jarbloom.core.log.kinds import plural

SAYS = {"apart": "Keep apart, or out of this tank", "watch": "Watch", "note": "Good to know"}
OF_PAIR = {"apart": "keep apart", "watch": "watch", "note": "good to know"}
OF_ONE = OF_PAIR | {"apart": "not in this tank as it is"}


@dataclass(frozen=True)
class Cell:
    """`anchor` leads to the first sentence of the cell; empty when there is none."""

    level: str
    later: bool
    anchor: str
    words: str


@dataclass(frozen=True)
class Line:
    key: str
    number: int
    name: str
    count: int
    status: str
    cells: tuple[Cell, ...]


@dataclass(frozen=True)
class Sentence:
    anchor: str
    finding: Finding
    names: str
    when: str


@dataclass(frozen=True)
class Part:
    title: str
    level: str
    sentences: tuple[Sentence, ...]


@dataclass(frozen=True)
class TogetherPage:
    call: str
    words: str
    lines: tuple[Line, ...]
    parts: tuple[Part, ...]
    at_ease: int


def together_page(case: Case, living: Sequence[str], planned: Sequence[str]) -> TogetherPage:
    found = findings(case)
    anchors = {id(f): f"f{k}" for k, f in enumerate(found)}
    keys = [m.kind.key for m in case.members]
    names = {m.kind.key: plural(m.kind.name, m.animals.count) for m in case.members}
    lines = []
    for row, m in enumerate(case.members):
        cells = [
            _cell(between(found, m.kind.key, k), anchors, f"{names[m.kind.key]} and {names[k]}") for k in keys[:row]
        ]
        cells.append(_cell(of_one(found, m.kind.key), anchors, f"{names[m.kind.key]} in this tank", False))
        status = "lives here" if m.kind.key in living else ("planned" if m.kind.key in planned else "tried out")
        lines.append(Line(m.kind.key, row + 1, names[m.kind.key], m.animals.count, status, tuple(cells)))
    parts = tuple(
        Part(title, level, tuple(
            Sentence(anchors[id(f)], f, ", ".join(names[k] for k in f.species), f"from {f.on:%B %Y}" if f.on else "now")
            for f in found if f.severity == level))
        for level, title in SAYS.items()
    )  # fmt: skip
    call, words = _call(case, found)
    at_ease = sum(c.level == "at ease" for line in lines for c in line.cells[:-1])
    return TogetherPage(call, words, tuple(lines), tuple(p for p in parts if p.sentences), at_ease)


def _cell(found: Sequence[Finding], anchors: dict[int, str], who: str, pair: bool = True) -> Cell:
    level = worst(found)
    worst_ones = [f for f in found if f.severity == level]
    later = bool(worst_ones) and all(f.on is not None for f in worst_ones)
    says = (OF_PAIR if pair else OF_ONE).get(level, "nothing found")
    words = f"{who}: {says}" + (f", from {min(f.on for f in worst_ones if f.on):%B %Y}" if later else "")
    return Cell(level, later, anchors[id(worst_ones[0])] if worst_ones else "", words)


def _call(case: Case, found: Sequence[Finding]) -> tuple[str, str]:
    if not case.members:
        return "Nobody to compare yet.", "Add animals to the plan, or try some out below."
    today = [f for f in found if f.severity == "apart" and f.on is None]
    later = min((f.on for f in found if f.severity == "apart" and f.on), default=None)
    if today:
        more = f" And {len(today) - 1} more to keep apart." if len(today) > 1 else ""
        return "Not all of these go together.", today[0].sentence + more
    if later:
        return f"Together until {later:%B %Y}.", next(f.sentence for f in found if f.on == later)
    watch = sum(f.severity == "watch" for f in found)
    if watch:
        return "They go together, with care.", f"{watch} {'things want' if watch > 1 else 'thing wants'} watching."
    return "They go together.", "No rule of ours speaks against it; single animals may still differ."
