"""Words of the keeper that no other rule heard."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta

from jarbloom.core.findings.facts import Facts
from jarbloom.core.findings.finding import Found, rule
from jarbloom.core.journal.clean import is_clean
from jarbloom.core.journal.hearing import OF_SIGN, words_of
from jarbloom.core.journal.kinds.choices import SIGNS
from jarbloom.core.journal.kinds.note import Note
from jarbloom.core.journal.kinds.observation import Observation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.unheard import EASED
from jarbloom.core.journal.unheard import not_understood as unheard_in
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.words import Lexicon

FOR_H = 24.0 * 7
A_DAY = timedelta(days=1)
SHOWS_WITHIN = timedelta(days=2)  # what was done to water or filter shows in a test by then (judgement)
TELL_WHO_OR_WHEN = frozenset({"all_once", "big_first", "new_only", "kind_only", "after_water", "noon"})
SHOWN = 60  # characters of a clause in the sentence


@rule("not_understood")
def not_understood(facts: Facts) -> Iterable[Found]:
    """The newest first; 'all is well' after it settles it, and so does a clean test two days later. Where nobody lives
    a day is enough: the proof is still to come."""
    since = facts.now - A_DAY if not facts.alive else _last_clean(facts) - SHOWS_WITHIN
    names = tuple(k.name for k in facts.kinds)
    said = {h.entry.id: h for h in facts.heard(FOR_H)}

    def clauses(entry: Entry) -> tuple[str, ...]:
        own = isinstance(entry.body, Note | Observation)
        return unheard_in(said[entry.id].text, facts.reference.words, names, beside_deed=not own)

    entries = [h.entry for h in said.values()]
    for entry, left in reversed(list(zip(entries, facts.log.each(("unheard", names), entries, clauses), strict=True))):
        signs = left or _ticked(entry, facts.reference.words)
        if signs and entry.at > since:
            words = signs[0] if len(signs[0]) <= SHOWN else f"{signs[0][: SHOWN - 1]}…"
            yield Found(f"“{words}” {_why(signs[0], bool(left), facts.reference.words)}", entry.at, (entry.id,))
        elif said[entry.id].keys == {"calm"}:
            return
        elif entry.at > since and (only := _who_or_when(entry)):
            yield Found(
                f"“{only}” tells who or when, and not what they do: log what is seen, or that all is well.",
                entry.at, (entry.id,),
            )  # fmt: skip


def _last_clean(facts: Facts) -> datetime:
    """When ammonia and nitrite were last read clean together; a week ago where they were not since."""
    tests = facts.lately(FOR_H, Tested)
    clean = (e.at for e in reversed(tests) if is_clean(e.readings, facts.tank.kit))
    return next(clean, facts.since(FOR_H))


def _ticked(entry: Entry, lexicon: Lexicon) -> tuple[str, ...]:
    """Signs that were ticked in their boxes, in our words, but for those that ease or only tell when and where."""
    ticked = {k for s in getattr(entry.body, "signs", ()) for k in OF_SIGN.get(s, (s,))}
    if not ticked or ticked & EASED:
        return ()
    asking = ticked - lexicon.by_the_way
    return tuple(says for key, says in lexicon.says.items() if key in asking)


def _who_or_when(entry: Entry) -> str:
    """The box that was ticked where nothing but such boxes was, and nothing written."""
    body = entry.body
    if not isinstance(body, Observation) or body.text.strip() or not set(body.signs) <= TELL_WHO_OR_WHEN:
        return ""
    return SIGNS[body.signs[0]] if body.signs else ""


def _why(words: str, typed: bool, lexicon: Lexicon) -> str:
    if not typed or words_of(words, lexicon).keys - lexicon.by_the_way:
        return "is heard, and nothing here says what it comes from: the upset desk goes through the causes."
    return "is not understood here and may be anything: this is not called quiet over it."
