"""The courses of the next hours and days that stand for a tank now: by what was found, and by what leads."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.causes.clocks import CLOCKS
from jarbloom.core.causes.ranking import Ranking
from jarbloom.core.findings.facts import Facts
from jarbloom.core.findings.finding import Findings
from jarbloom.core.model.courses import CourseRow
from jarbloom.core.model.findings import Severity

MOST = 3


@dataclass(frozen=True)
class CourseStep:
    """`at`: not before then; `text`: with this tank's figures."""

    at: datetime
    text: str


@dataclass(frozen=True)
class Course:
    """`clock`: the hours that it is about, in a sentence, empty where it has none."""

    row: CourseRow
    clock: str
    steps: tuple[CourseStep, ...]


def courses_of(facts: Facts, findings: Findings, ranking: Ranking, asks_why: bool) -> tuple[Course, ...]:
    """What was found comes first, then what the leading causes ask for; at most MOST, each once."""
    rows = facts.reference.courses
    standing = {f.key for f in findings if f.severity >= Severity.WATCH or f.key == "feeding_ladder"}
    chosen = [key for key, r in rows.items() if standing & set(r.findings)]
    if asks_why and ranking.enough and not ranking.poor:
        leading = [c.key for c in ranking.leading[:2]]
        chosen += [key for cause in leading for key, r in rows.items() if cause in r.causes]
    return tuple(_course(rows[key], facts, findings) for key in list(dict.fromkeys(chosen))[:MOST])


def changes(findings: Findings) -> dict[str, str]:
    """Words for the first water of a course: how much is the assessment's to say, and whether any may go in."""
    if findings.change_most <= 0:
        return {"first_change": "No water in before tank and tap are compared in temperature, pH and salt and the new "
                                "water is surely conditioned.", "second_change": ""}  # fmt: skip
    return {"first_change": "The change that stands among the jobs: matched, conditioned, and other water than the "
                            "suspect one.",
            "second_change": "As much once more, if they are no better."}  # fmt: skip


def _course(row: CourseRow, facts: Facts, findings: Findings) -> Course:
    words = {**changes(findings), **(CLOCKS[row.clock](facts) if row.clock else {})}
    steps = ((hours, text.format(**words).strip()) for hours, text in row.steps)
    return Course(
        row, words.get("clock", ""), tuple(CourseStep(facts.now + timedelta(hours=h), t) for h, t in steps if t)
    )
