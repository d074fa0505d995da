"""Words of the keeper that no other rule heard."""

from __future__ import annotations

from collections.abc import Iterable

from jarbloom.core.findings.facts import Facts
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.unheard import not_understood as unheard_in
from jarbloom.core.model.entry import Entry

FOR_H = 24.0
SHOWN = 60  # characters of a clause in the sentence


@rule("not_understood")
def not_understood(facts: Facts) -> Iterable[Found]:
    """The newest first; 'all is well' after it settles it."""
    names = tuple(k.name for k in facts.kinds)
    said = {h.entry.id: h for h in facts.heard(FOR_H)}

    def clauses(entry: Entry) -> tuple[str, ...]:
        own = isinstance(entry.body, Note | Observation)
        return unheard_in(said[entry.id].text, facts.reference.words, names, beside_deed=not own)

    entries = [h.entry for h in said.values()]
    for entry, left in reversed(list(zip(entries, facts.log.each(("unheard", names), entries, clauses), strict=True))):
        if left:
            words = left[0] if len(left[0]) <= SHOWN else f"{left[0][: SHOWN - 1]}…"
            yield Found(f"“{words}” is not understood here and may be anything: this is not called quiet over it.",
                        entry.at, (entry.id,))  # fmt: skip
        elif said[entry.id].keys == {"calm"}:
            return
