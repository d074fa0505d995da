"""Words of the keeper that no other rule heard."""

from __future__ import annotations

from collections.abc import Iterable

from jarbloom.core.findings.facts import Facts
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.unheard import not_understood as unheard_in

FOR_H = 24.0
SHOWN = 60  # characters of a clause in the sentence


@rule("not_understood")
def not_understood(facts: Facts) -> Iterable[Found]:
    """The newest first; 'all is well' after it settles it."""
    names = tuple(k.name for k in facts.kinds)
    for heard in reversed(facts.words):
        if heard.at < facts.since(FOR_H):
            return
        own = isinstance(heard.entry.body, Note | Observation)
        left = unheard_in(heard.text, facts.reference.words, names, beside_deed=not own)
        if not left and heard.keys == {"calm"}:
            return
        if left:
            said = left[0] if len(left[0]) <= SHOWN else f"{left[0][: SHOWN - 1]}…"
            yield Found(f"“{said}” is not understood here, so nothing is called quiet because of it.",
                        heard.at, (heard.entry.id,))  # fmt: skip
