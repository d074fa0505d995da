"""First aid that is right under all of the leading causes; what would help one and harm another is held back.

The amounts are those of the assessment: a change is named here only where the assessment asks for one, or where poison
leads. What a finding forbids is not asked for, whatever its cause.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from jarbloom.core.causes.ranking import Ranked, Ranking
from jarbloom.core.findings.finding import Findings
from jarbloom.core.model.causes import Aid, Causes
from jarbloom.core.model.findings import ActRow, Feeding, Severity
from jarbloom.core.model.reference import Reference

ALWAYS = ("air", "no_food", "count")  # right under every cause that is likely, offered before anything is known
ALARM = frozenset(
    {"air", "no_food", "change", "change_twice", "bind", "conditioner", "carbon", "move_out", "board_off"}
)
USES_WATER = frozenset({"change", "change_twice"})


@dataclass(frozen=True)
class Helping:
    act: ActRow
    under: tuple[str, ...]  # keys of the causes that it helps


@dataclass(frozen=True)
class HeldBack:
    """An act that would help under one cause and harm under another, or by what is known."""

    act: ActRow
    helps: str  # title of the cause
    because: str


@dataclass(frozen=True)
class FirstAid:
    do: tuple[Helping, ...]
    held: tuple[HeldBack, ...]
    never: tuple[str, ...]


def first_aid(ranking: Ranking, findings: Findings, reference: Reference, change_asked: bool) -> FirstAid:
    """`change_asked`: the assessment asks for a water change of a size that it has worked out."""
    causes, acts = reference.causes, reference.acts
    leading = ranking.leading
    calm_now = bool(leading) and leading[0].key in ("nothing", "moult", "eggs_labour") and not findings.pressing
    if calm_now:
        leading = leading[:1]
    wanted: dict[str, list[Ranked]] = {}
    for cause in leading:
        for key in (*cause.row.acts, *causes.group_of(cause.row).acts):
            if key in causes.aid and _helps(causes.aid[key], cause):
                wanted.setdefault(key, []).append(cause)
    do, held = [], []
    for key, under in wanted.items():
        harm = _harm(causes.aid[key], leading, ranking)
        forbidden = key in findings.forbidden
        if key in USES_WATER and not change_asked and not any(c.row.group == "poison" for c in under):
            continue  # its size has to come from readings
        if key in USES_WATER and findings.change_most <= 0:
            forbidden = True
        if key == "no_food" and findings.feeding == Feeding.USUAL and leading[0].row.group in ("life", "measure"):
            continue
        if harm or forbidden:
            held.append(HeldBack(acts[key], under[0].row.title, harm or "what was found speaks against it"))
        else:
            do.append(Helping(acts[key], tuple(c.key for c in under)))
    if not calm_now and not any(h.act.key == "air" for h in do) and not _harm(causes.aid["air"], leading, ranking):
        do.append(Helping(acts["air"], ()))
    if "calm" in ranking.evidence and not any(f.severity >= Severity.ACT for f in findings):
        do = [h for h in do if h.act.key not in ALARM]
    do.sort(key=lambda h: h.act.place)
    never = dict.fromkeys(n for c in leading for n in causes.group_of(c.row).never)
    return FirstAid(tuple(do), tuple(held), tuple(never))


def _helps(aid: Aid, cause: Ranked) -> bool:
    return cause.key in aid.helps or cause.row.group in aid.helps or cause.key in _own(cause, aid)


def _own(cause: Ranked, aid: Aid) -> tuple[str, ...]:
    """What a row itself names helps under it."""
    return (cause.key,) if aid.act in cause.row.acts else ()


def _harm(aid: Aid, leading: Iterable[Ranked], ranking: Ranking) -> str:
    """Why it would harm; '' where it does not."""
    keys = {k for c in leading for k in (c.key, c.row.group)}
    return next((why for what, why in aid.harms if what in keys or what in ranking.evidence), "")


def harmful_for(causes: Causes, act: str) -> tuple[str, ...]:
    """Causes and tokens under which an act does harm."""
    return tuple(what for what, _ in causes.aid[act].harms) if act in causes.aid else ()
