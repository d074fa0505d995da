"""Those that stay where they are put, and those who came unasked."""

from __future__ import annotations

from collections.abc import Iterable

from jarbloom.core.animals.names import animal_name
from jarbloom.core.findings.facts import Facts, ids
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.kinds.placed import Placed
from jarbloom.core.journal.kinds.uninvited import FoundUninvited
from jarbloom.core.journal.uninvited import sighted
from jarbloom.core.model.findings import Severity


@rule("dying_back")
def dying_back(facts: Facts) -> Iterable[Found]:
    placed = facts.lately(72, Placed)
    melted = [e for e in placed if e.body.how == "melted"]
    wandered = [e for e in placed if e.body.how == "wandered"]
    if melted:
        name = animal_name(melted[-1].body.species, facts.reference.species)
        yield Found(f"{name[:1].upper()}{name[1:]} melts or dies back: what dies fouls the water. Siphon it off, and "
                    "test ammonia.", melted[-1].at, ids(melted))  # fmt: skip
    elif wandered:
        name = animal_name(wandered[-1].body.species, facts.reference.species)
        yield Found(f"{name[:1].upper()}{name[1:]} wanders: guard the intakes of pumps, and see whom it touches.",
                    wandered[-1].at, ids(wandered), Severity.WATCH, acts=(), tests=())  # fmt: skip


@rule("uninvited")
def uninvited(facts: Facts) -> Iterable[Found]:
    """Who came unasked and harms those who live here, until a count of none or two weeks without a sight of it."""
    harms = {k for k, row in facts.reference.uninvited.items() if row.harms}
    seen = [s for s in sighted(facts.log, facts.now) if s.what in harms and s.last >= facts.since(24 * 14)]
    if seen and facts.alive:
        row = facts.reference.uninvited[seen[0].what]
        entries = [e for e in facts.log.kinds(FoundUninvited) if e.body.what == row.key]
        yield Found(f"{row.says} {row.act}", seen[0].last, ids(entries[-1:]), short=row.says)
