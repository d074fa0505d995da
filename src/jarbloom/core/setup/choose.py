"""Which cycling school fits: five plain questions, and rules that are rows of data/schools.toml."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jarbloom.core.model.schools import Cycling

QUESTIONS: Mapping[str, tuple[str, tuple[tuple[str, str], ...]]] = {
    "fish": ("Are fish in the tank already?", (("no", "no"), ("yes", "yes"))),
    "donor": (
        "Is there a healthy tank that could lend media?",
        (("no", "no"), ("yes", "yes, of the same salinity"), ("other", "yes, but fresh against salt")),
    ),
    "soon": (
        "How soon must the first animals go in?",
        (("patient", "no hurry"), ("weeks", "in three weeks or so"), ("days", "within days")),
    ),
    "water": ("Fresh or salt?", (("fresh", "fresh or brackish"), ("marine", "salt"))),
    "ammonia": ("Comfortable with an ammonia solution?", (("yes", "yes"), ("no", "rather not"))),
}


@dataclass(frozen=True)
class Answers:
    fish: str = "no"
    donor: str = "no"
    soon: str = "patient"
    water: str = "fresh"
    ammonia: str = "yes"


@dataclass(frozen=True)
class Choice:
    """A school with its points and the reasons, for and against; `out` says why it cannot be chosen."""

    school: Cycling
    points: int
    speaks_for: tuple[str, ...]
    speaks_against: tuple[str, ...]
    out: str = ""


def choose(answers: Answers, schools: Mapping[str, Cycling]) -> tuple[Choice, ...]:
    """All schools, the one that fits best first; those ruled out last. Ties keep the order of the data file."""
    found = [_weigh(school, answers) for school in schools.values()]
    return tuple(sorted(found, key=lambda c: (bool(c.out), -c.points)))


def _weigh(school: Cycling, answers: Answers) -> Choice:
    good: list[str] = []
    bad: list[str] = []
    points, out = school.base_points, ""
    for rule in school.rules:
        if any(getattr(answers, name) not in values for name, values in rule.when.items()):
            continue
        if rule.rules_out:
            out = rule.because
        else:
            points += rule.points
            (good if rule.points > 0 else bad).append(rule.because)
    return Choice(school, points, tuple(good), tuple(bad), out)
