"""Page data of styles: what a style proposes for this tank."""

from __future__ import annotations

from dataclasses import dataclass

from jarbloom.core.animals.names import plural
from jarbloom.core.animals.styles import FilledPart, Style, StyleProposal
from jarbloom.units import Units, figure, load_text


@dataclass(frozen=True)
class RoleRow:
    role: str
    who: str
    scientific: str
    look: str  # key of the species, for a link
    why: str
    load: str


@dataclass(frozen=True)
class StylesPage:
    call: str
    words: str
    rows: tuple[RoleRow, ...]
    sum: str
    can_plan: bool


def styles_page(style: Style | None, proposal: StyleProposal | None, water: str, units: Units) -> StylesPage:
    if style is None or proposal is None:
        return StylesPage(
            "Where to begin.", "A style fills its roles with what suits this tank for life.", (), "", False
        )
    if style.water != water:
        text = f"It is kept in {style.water} water; this tank is {water}."
        return StylesPage(f"{style.name[:1].upper()}{style.name[1:]}.", text, (), "", False)
    rows = tuple(_row(f, units, "no room" if proposal.is_full else "nobody suits") for f in proposal.filled)
    kinds = len(proposal.animals)
    text = style.short if kinds else _nobody(proposal)
    total = (
        f"{load_text(proposal.load_mg_n_day)} a day grown up, of {load_text(proposal.limit_mg_n_day)} that such a tank "
        "may come to; what it carries today the gate says."
    )
    return StylesPage(f"{style.name[:1].upper()}{style.name[1:]}.", text, rows, total if kinds else "", bool(kinds))


def _nobody(proposal: StyleProposal) -> str:
    if proposal.is_full:
        return (
            f"Those here and on the plan come to {load_text(proposal.there_mg_n_day)} a day, grown up; such a tank may "
            f"come to {load_text(proposal.limit_mg_n_day)}: no room for more."
        )
    return "Nobody of the catalogue fills it in this tank: too small, or other water."


def _row(f: FilledPart, units: Units, nobody: str) -> RoleRow:
    if f.answer is None:
        return RoleRow(f.role.name, nobody, "", "", "", "")
    kind = f.answer.kind
    parts = [f.answer.stance, f"to {units.length(kind.adult_cm)}", f"{kind.care} to keep"]
    parts += [x.sentence.rstrip(".") for x in f.answer.findings if x.severity != "note"][:2]
    return RoleRow(
        f.role.name, f"{f.count} {plural(kind.name, f.count)}", kind.scientific, kind.key, "; ".join(parts) + ".",
        figure(f.load_mg_n_day, 2),
    )  # fmt: skip
