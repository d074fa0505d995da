"""The next check: the cheapest one that can tell the leading causes apart.

Expected information of its answers under the ranking, against minutes, price and stress to the animals. How likely an
answer is under a cause follows from the strengths of the table: what supports the cause is that much likelier to be
found, what opposes it that much less likely.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.causes.ranking import RATIO, Ranked, Ranking
from jarbloom.core.findings.facts import Facts
from jarbloom.core.journal.kinds.answered import Answered
from jarbloom.core.model.causes import Causes, DeskCheck

OVER = 12  # causes that a check is weighed over
NAMED = 1.6  # a check that a leading cause names itself is worth so much more: its row knows what settles it
LEAST_BITS, LEAST_NAMED = 1e-3, 0.3  # below both a check would change nothing
LEAST_EFFORT = 4.0  # minutes; below it a check is as good as free
STANDS_FOR = timedelta(hours=12)  # an answer is not asked for again before
LOOKED_AT = timedelta(hours=6)  # nor a reading


@dataclass(frozen=True)
class NextCheck:
    """`bits`: expected information; `named`: how far the likely causes name it themselves; `settles`: per answer
    the cause that would lead then, (label, token, key)."""

    check: DeskCheck
    bits: float
    named: float
    worth: float
    settles: tuple[tuple[str, str, str], ...]


def next_checks(ranking: Ranking, facts: Facts, most: int = 3) -> tuple[NextCheck, ...]:
    """The checks worth making, the best first; none that was just made, none that nets animals first."""
    causes = facts.reference.causes
    leading = ranking.causes[:OVER]
    if not leading:
        return ()
    weighed = [
        _weigh(check, leading, causes)
        for check in causes.checks.values()
        if _open(check, facts, ranking)
    ]  # fmt: skip
    weighed = [w for w in weighed if w.bits > LEAST_BITS or w.named > LEAST_NAMED]
    weighed.sort(key=lambda w: -w.worth)
    gentle = [w for w in weighed if w.check.stress < 2]
    harsh = [w for w in weighed if w.check.stress >= 2]
    return tuple((gentle[:1] + sorted(gentle[1:] + harsh, key=lambda w: -w.worth))[:most])


def _open(check: DeskCheck, facts: Facts, ranking: Ranking) -> bool:
    if check.needs == "fresh" and facts.salted:
        return False
    if any(a.token in ranking.evidence and ranking.evidence.pieces[a.token].kind == "answer" for a in check.answers):
        return False
    if any(e.body.check == check.key and facts.now - e.at < STANDS_FOR for e in facts.log.kinds(Answered)):
        return False
    last = facts.last(check.reading, 24) if check.reading else None
    return last is None or last.said or facts.now - last.at > LOOKED_AT


def likelihoods(check: DeskCheck, ranked: Ranked, causes: Causes) -> list[float]:
    """How likely each answer is under a cause; they add up to 1."""
    supports, opposes = causes.supports(ranked.row), causes.opposes(ranked.row)
    raw = []
    for answer in check.answers:
        strength = RATIO[int(supports[answer.token])] if answer.token in supports else 0.0
        strength -= RATIO[int(opposes[answer.token])] if answer.token in opposes else 0.0
        raw.append(math.exp(strength))
    total = sum(raw)
    return [x / total for x in raw]


def _weigh(check: DeskCheck, leading: Sequence[Ranked], causes: Causes) -> NextCheck:
    shares = [c.share for c in leading]
    total = sum(shares)
    prior = [s / total for s in shares]
    tables = [likelihoods(check, c, causes) for c in leading]
    bits, settles = 0.0, []
    for n, answer in enumerate(check.answers):
        joint = [p * t[n] for p, t in zip(prior, tables, strict=True)]
        chance = sum(joint)
        if chance <= 0:
            continue
        after = [j / chance for j in joint]
        bits += chance * (_entropy(prior) - _entropy(after))
        settles.append((answer.label, answer.token, leading[after.index(max(after))].key))
    named = sum(p * (1.0 if check.key in c.row.checks[:2] else 0.6) for p, c in zip(prior, leading, strict=True)
                if check.key in c.row.checks)  # fmt: skip
    worth = (bits + 0.02 * named) * (1 + NAMED * named) / math.sqrt(max(check.effort, LEAST_EFFORT))
    return NextCheck(check, bits, named, worth, tuple(settles))


def _entropy(shares: Sequence[float]) -> float:
    return -sum(p * math.log2(p) for p in shares if p > 0)
