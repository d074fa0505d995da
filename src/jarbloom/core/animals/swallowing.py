"""Who fits into whose mouth, today or from a day on as both grow."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta

from jarbloom.core.animals.company import Case, Finding, Member, many, told_two
from jarbloom.core.animals.names import plural
from jarbloom.core.model.species import Species
from jarbloom.units import NBSP, Units, figure

# Body depth of prey as a share of its length, by form: what has to pass a mouth (judgement)
DEPTH = {"eel": 0.07, "elongated": 0.18, "torpedo": 0.24, "deep": 0.42, "shell": 0.7, "crab": 0.6, "star": 0.5,
         "coral": 9.0}  # fmt: skip
SHORTEST_REACH = 0.2
LOOK_AHEAD_YEARS = 6
STEP_DAYS = 14
SOON = timedelta(days=30)  # no time to do anything about it: it counts as today


def swallows(eater: Species, eater_cm: float, prey: Species, prey_cm: float) -> bool:
    """Whether the prey passes the mouth and is not too long to be taken: both must hold.

    `mouth_ratio` is the gape as a share of the eater's length. Small mouths take prey of about a quarter of their own
    length, ambush hunters more than half of it (practice; the sum is a judgement that gives both).
    """
    passes = eater.mouth_ratio * eater_cm >= DEPTH[prey.body] * prey_cm
    short = prey_cm <= (SHORTEST_REACH + eater.mouth_ratio) * eater_cm
    return eater.moves and prey.moves and prey.body != "shell" and passes and short


def swallowed_from(eater: Member, prey: Member, today: date) -> date | None:
    """The first day, today or within six years, on which the prey fits into the mouth as both grow; None: never."""
    if eater.kind.diet not in ("carnivore", "omnivore") or eater.kind.key == prey.kind.key:
        return None
    if not swallows(eater.kind, max(eater.kind.adult_cm, eater.length(today)), prey.kind, prey.length(today)):
        return None  # the largest mouth and the smallest prey do not meet
    for days in range(0, LOOK_AHEAD_YEARS * 365, STEP_DAYS):
        on = today + timedelta(days=days)
        if swallows(eater.kind, eater.length(on), prey.kind, prey.length(on)):
            return on
    return None


def eats_fish(eater: Member, prey: Member, c: Case) -> Iterator[Finding]:
    on = swallowed_from(eater, prey, c.today)
    if on is None:
        return
    u = c.units
    text = (
        f"{many(prey.kind)} of {_told_cm(u, prey.length(on))} fit into the mouth of {plural(eater.kind.name, 2)} of "
        f"{_told_cm(u, eater.length(on))}"
    )
    when = " today." if on <= c.today else f", from about {on:%B %Y}."
    when += " Their spines may choke the one that tries." if prey.kind.spines else ""
    soon = on <= c.today + SOON
    later, by = (None, "another tank") if soon else (on, "another tank before that day")
    picks = prey.kind.group == "shrimp" and "young" in eater.kind.eats_invertebrates  # grown ones mostly live
    hunts = eater.kind.diet == "carnivore" or eater.kind.temperament in ("semi-peaceful", "territorial", "aggressive")
    severity = "apart" if hunts and not picks else "watch"
    yield told_two("mouth", severity, "safety", eater, prey, text + when, by, later)


def _told_cm(u: Units, cm: float) -> str:
    """A length that is forecast: two figures."""
    return f"{figure(u.value(cm, 'length'), 2)}{NBSP}{u.unit('length')}"
