"""Page data of the matrix: who goes with whom, as cells and as sentences."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from jarbloom.core.animals.company import Case, Finding
from jarbloom.core.animals.compatibility import between, findings, of_one, worst
from jarbloom.core.animals.names import plural
from jarbloom.core.animals.serving import Serving
from jarbloom.core.vessel.volume import weight_kg
from jarbloom.units import Units, figure, load_text

SAYS = {"apart": "Keep apart, or out of this tank", "watch": "Watch", "note": "Good to know"}
OPENED_SHOWN = 10
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
class PairLine:
    number: int
    name: str
    count: int
    status: str
    cells: tuple[Cell, ...]


@dataclass(frozen=True)
class Sentence:
    anchor: str
    finding: Finding
    when: str


@dataclass(frozen=True)
class TogetherPart:
    title: str
    level: str
    sentences: tuple[Sentence, ...]


@dataclass(frozen=True)
class TogetherPage:
    call: str
    words: str
    lines: tuple[PairLine, ...]
    parts: tuple[TogetherPart, ...]
    served: Served | None


@dataclass(frozen=True)
class Served:
    """The smallest tank for them, in words."""

    call: str
    facts: tuple[tuple[str, str], ...]
    forced_title: str
    forced_by: tuple[str, ...]
    remains: tuple[str, ...]
    opens: str


def together_page(
    case: Case, living: Collection[str], planned: Collection[str], serving: Serving | None = None
) -> TogetherPage:
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
        lines.append(PairLine(row + 1, names[m.kind.key], m.animals.count, status, tuple(cells)))
    parts = tuple(
        TogetherPart(title, level, tuple(
            Sentence(anchors[id(f)], f, f"from {f.on:%B %Y}" if f.on else "now")
            for f in found if f.severity == level))
        for level, title in SAYS.items()
    )  # fmt: skip
    call, words = _call(case, found)
    served = _served(serving, case.units) if serving else None
    return TogetherPage(call, words, tuple(lines), tuple(p for p in parts if p.sentences), served)


def _served(s: Serving, u: Units) -> Served:
    low, high = s.temp_c
    warm = f"{u.temp(low)} to {u.temp(high)}" if low <= high else "none that all live at"
    load = ("They put out", f"{load_text(s.load_mg_n_day)} a day, grown up")
    forced, remains = tuple(f.sentence for f in s.forced_by), tuple(f.sentence for f in s.remains)
    if s.tank is None:
        return Served("No usual size serves them.", (load, ("Temperature", warm)), "What the largest lacks", forced,
                      remains, "")  # fmt: skip
    slow, fast = s.flow_l_h
    flow = f"about {_round(slow, u)} to {_round(fast, u)} an hour" if slow <= fast else "no flow suits all of them"
    facts = (
        ("Inside", " x ".join(u.length(x) for x in (s.tank.length_cm, s.tank.width_cm, s.tank.height_cm) if x)),
        ("Weight", f"about {u.text(round(weight_kg(s.tank)), 'weight')} filled, on a stand of its own"),
        load,
        ("Filter", f"{flow}, with at least {u.volume(s.foam_l)} of open foam or its like"),
        ("Temperature", warm),
        ("Heater", f"about {figure(s.heater_w, 2)} W in a room of {u.temp(s.tank.room_c)}, and some in reserve"),
        ("Lid", "needed: some of them jump or climb" if s.lid else "none of them is a jumper; one keeps the water in"),
    )  # fmt: skip
    return Served(
        f"{u.volume(s.litres)} of water.", facts, "What the next smaller size lacks", forced, remains, _opens(s, u)
    )


def _round(litres: float, u: Units) -> str:
    """Two figures: nobody sets a flow more finely."""
    return u.volume(float(f"{litres:.2g}"))


def _opens(s: Serving, u: Units) -> str:
    if s.next_size is None or s.next_size.length_cm is None:
        return ""
    if not s.opens:
        return f"One size up ({u.length(s.next_size.length_cm)}) opens nothing that this size does not."
    names = ", ".join(plural(k.name, 2) for k in s.opens[:OPENED_SHOWN])
    more = f" and {len(s.opens) - OPENED_SHOWN} more" if len(s.opens) > OPENED_SHOWN else ""
    return f"One size up ({u.length(s.next_size.length_cm)}) opens: {names}{more}."


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
