"""What the desk works out for a moment: ranking, checks, first aid, and whether a cause is asked for at all."""

from __future__ import annotations

from dataclasses import dataclass

from jarbloom.core.causes.aftermath import Recalled, recalled
from jarbloom.core.causes.checks import NextCheck, next_checks
from jarbloom.core.causes.courses import Course, courses_of
from jarbloom.core.causes.first_aid import FirstAid, first_aid
from jarbloom.core.causes.ranking import Ranking, rank
from jarbloom.core.findings.facts import Facts
from jarbloom.core.findings.finding import Findings
from jarbloom.core.model.findings import Severity


@dataclass(frozen=True)
class Inquiry:
    """`asks_why`: a sign, an answer or a finding asks for a cause; without, no cause is ranked before the keeper."""

    ranking: Ranking
    checks: tuple[NextCheck, ...]
    aid: FirstAid
    asks_why: bool
    recalled: tuple[Recalled, ...] = ()
    courses: tuple[Course, ...] = ()


def inquire(facts: Facts, findings: Findings, change_asked: bool) -> Inquiry:
    """`change_asked`: the assessment asks for a water change of a size that it has worked out."""
    ranking = rank(facts)
    asks = _asks_why(ranking, findings)
    aid = first_aid(ranking, findings, facts.reference, change_asked)
    checks = next_checks(ranking, facts) if asks else ()
    courses = courses_of(facts, findings, ranking, asks)
    return Inquiry(ranking, checks, aid, asks, recalled(facts, ranking.evidence), courses)


def _asks_why(ranking: Ranking, findings: Findings) -> bool:
    """A tank that cycles without animals reads ammonia and nitrite as it should: that alone asks for nothing."""
    if any(p.kind in ("sign", "answer") for p in ranking.evidence.pieces.values()):
        return True
    return ranking.enough and any(f.severity >= Severity.WATCH for f in findings)
