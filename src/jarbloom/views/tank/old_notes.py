"""The page of old notes: columns with examples, what the rows become, and what is wrong with which."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from jarbloom.core.journal.old_notes.rows import Plan, Preview, RowRead
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.species import Species
from jarbloom.core.model.tank import Tank
from jarbloom.formats.tables import Table
from jarbloom.units import Units

EXAMPLES = 3
SHOWN = 8  # rows of the preview, and as many of the bad ones


@dataclass(frozen=True)
class Column:
    head: str
    examples: tuple[str, ...]
    meaning: str


@dataclass(frozen=True)
class Row:
    number: int
    cells: str
    becomes: str
    problem: str


@dataclass(frozen=True)
class NotesPage:
    """`too_early`: the notes begin before the tank's first day; `open_order`: of day and month, where it is open."""

    tables: tuple[tuple[str, int], ...]
    chosen: int
    columns: tuple[Column, ...]
    order: str
    open_order: tuple[str, ...]
    rows: tuple[Row, ...]
    bad: tuple[Row, ...]
    n_bad: int
    n_rows: int
    n_new: int
    n_known: int
    span: str
    unknown: tuple[tuple[str, int, str], ...]
    too_early: str
    ready: bool


def notes_page(
    tables: Sequence[Table], chosen: int, plan: Plan, orders: tuple[str, ...], seen: Preview | None, first: date | None,
    tank: Tank, units: Units, species: Mapping[str, Species],
) -> NotesPage:  # fmt: skip
    table = tables[chosen]
    columns = tuple(
        Column(head, tuple(dict.fromkeys(r[k][:40] for r in table.rows[:200] if r[k]))[:EXAMPLES], plan.columns[k])
        for k, head in enumerate(table.head)
    )
    rows: tuple[RowRead, ...] = seen.rows if seen else ()
    good = [r for r in rows if r.entries]
    new = seen.new if seen else []
    early = first is not None and first < tank.started
    return NotesPage(
        tables=tuple((t.name or "the table", len(t.rows)) for t in tables),
        chosen=chosen,
        columns=columns,
        order=plan.order,
        open_order=orders if len(orders) > 1 else (),
        rows=tuple(_row(r, species, units) for r in good[:SHOWN]),
        bad=tuple(_row(r, species, units) for r in rows if r.problem)[:SHOWN],
        n_bad=sum(bool(r.problem) for r in rows),
        n_rows=len(rows),
        n_new=len(new),
        n_known=sum(r.known for r in rows),
        span=f"{min(e.at for e in new):%-d %b %Y} to {max(e.at for e in new):%-d %b %Y}" if new else "",
        unknown=seen.unknown if seen else (),
        too_early=f"{first:%-d %b %Y}" if early and first else "",
        ready=bool(new),
    )


def _row(r: RowRead, species: Mapping[str, Species], units: Units) -> Row:
    becomes = "; ".join(_told(e, species, units) for e in r.entries)
    return Row(r.number, " | ".join(c for c in r.cells if c)[:120], becomes, r.problem)


def _told(e: Entry, species: Mapping[str, Species], units: Units) -> str:
    return f"{e.at:%-d %b %Y}, {e.body.label.lower()}: {e.body.words(species, units)}"[:200]
