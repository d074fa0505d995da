"""When an upset is over: how long batches wait, what the log tells of it, what is known of the same ground before."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta

from jarbloom.core.causes.evidence import Evidence
from jarbloom.core.causes.piece import Piece
from jarbloom.core.causes.ranking import Ranking
from jarbloom.core.findings.facts import Facts
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.conditioner import Conditioner
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.lesson import Lesson
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.causes import CauseRow, Causes
from jarbloom.core.model.entry import Entry
from jarbloom.units import figure

UNKNOWN_DAYS = 21  # docs/upsets.md: batches wait so long where nobody knows what it was
RECALLED_WITHIN = timedelta(days=7)  # the same ground is trodden again


@dataclass(frozen=True)
class Recalled:
    """An earlier upset whose cause has been set off again: `again` in words, `lesson` the entry of then."""

    lesson: Entry[Lesson]
    again: str
    at: datetime


def resume_on(row: CauseRow | None, causes: Causes, ended: date) -> date:
    """The first day on which new animals may come after an upset that ended then, by its cause."""
    days = UNKNOWN_DAYS if row is None else causes.resume_days(row)
    return ended + timedelta(days=days)


def account(facts: Facts, ranking: Ranking) -> str:
    """What the log tells of the upset, for the keeper to correct: seen, read, likely cause, done, cost."""
    evidence = ranking.evidence
    since = facts.episode.since if facts.episode is not None else evidence.began
    since = min(since, evidence.began)
    parts = [f"Seen on {since:%a %-d %b %H:%M}"]
    signs = list(dict.fromkeys(p.words for p in evidence.signs if p.token != "calm"))
    if signs:
        parts[0] += f": {'; '.join(signs[:3])}"
    for quantity in ("ammonia", "nitrite"):
        values = [v for v in facts.values(quantity) if v.at >= since - timedelta(hours=1)]
        if values:
            worst = max(values, key=lambda v: v.seen)
            parts.append(f"{quantity} up to {worst.typed} on {worst.at:%-d %b}")
    if ranking.causes and ranking.enough:
        first = ranking.causes[0]
        why = f" ({first.because[0].words})" if first.because else ""
        parts.append(f"likely: {first.row.title.lower()}{why}")
    parts.append(_done(facts, since))
    parts.append(_cost(facts, since))
    return ". ".join(p[0].upper() + p[1:] for p in parts if p) + "."


def _done(facts: Facts, since: datetime) -> str:
    changes = [e for e in facts.log.kinds(Change) if e.at >= since]
    binders = [e for e in facts.log.kinds(Conditioner) if e.at >= since and e.body.detoxifies]
    done = []
    if changes:
        litres = facts.units.volume(sum(e.body.litres for e in changes))
        done.append(f"{len(changes)} water change{'s' if len(changes) > 1 else ''}, {litres} in all")
    if binders:
        done.append("ammonia bound")
    return f"done: {', '.join(done)}" if done else ""


def _cost(facts: Facts, since: datetime) -> str:
    lost = sum(e.body.count for e in facts.log.kinds(Death) if e.at >= since)
    cost = [f"{lost} animal{'s' if lost > 1 else ''}"] if lost else []
    before, now = _bloom(facts, since), facts.forecast.likely
    if before is not None and now < 0.7 * before:
        share = f"about {100 * (1 - now / before):.0f} % of the bloom"
        cost.append(f"{share}, from {figure(before, 2)} to {figure(now, 2)} mg N a day")
    return f"it cost: {', '.join(cost)}" if cost else ""


def _bloom(facts: Facts, since: datetime) -> float | None:
    """What it likely carried the day before, by the forecast's own past."""
    days = facts.forecast.days
    day = since.date() - timedelta(days=1)
    return facts.forecast.band("capacity", 0.5, days.index(day)) if day in days else None


def lessons(facts: Facts) -> tuple[Entry[Lesson], ...]:
    """Earlier upsets, the last first."""
    return tuple(reversed(facts.log.kinds(Lesson)))


def recalled(facts: Facts, evidence: Evidence) -> tuple[Recalled, ...]:
    """Earlier upsets whose cause was set off again within the last week."""
    found = []
    for lesson in lessons(facts):
        row = facts.reference.causes.rows.get(lesson.body.cause)
        if row is None:
            continue
        again = [p for p in evidence.before(row.after) if _anew(p, lesson) and facts.now - p.at <= RECALLED_WITHIN]
        if again:
            found.append(Recalled(lesson, again[0].words, again[0].at))
    return tuple(found)


EVERYDAY = frozenset({"batch", "new_water"})  # what happens in every tank is no ground to be recalled


def _anew(piece: Piece, lesson: Entry[Lesson]) -> bool:
    return piece.token not in EVERYDAY and (piece.at, piece.entry_id or 0) > (lesson.at, lesson.id)


def over(facts: Facts) -> bool:
    """Whether there was an upset that has ended and nobody has said what it was."""
    episode = facts.episode
    if episode is None or episode.open:
        return False
    tested = facts.log.kinds(Tested)
    return bool(tested) and not any(e.at >= episode.since for e in facts.log.kinds(Lesson))
