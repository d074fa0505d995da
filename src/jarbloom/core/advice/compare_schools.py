"""What each cycling school would ask with the same data: its proof so far, its jobs, its likely day and its course."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import timedelta

from jarbloom.core.advice.jobs import all_jobs
from jarbloom.core.advice.said import Job
from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.ensemble import Ensemble
from jarbloom.core.bloom.events import USUAL_ROCK_KG_L
from jarbloom.core.bloom.whatif import Future, WhatIf, future
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.proof import Proof, prove
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.setup.choose import Answers, Choice, choose

ASKED = ("test", "dose", "wait", "feed", "water_change", "test_kh")


@dataclass(frozen=True)
class SchoolView:
    """One school for this tank today. `future` is None where it cannot be begun with the tank as it is."""

    choice: Choice
    current: bool
    proofs: tuple[Proof, ...]
    asks: tuple[Job, ...]
    future: Future | None
    hindered: str = ""


def answers_of(s: Situation, typed: Answers | None = None) -> Answers:
    """What the tank itself answers; the rest as typed, or the beginner's usual."""
    usual = typed or Answers(water="marine" if s.tank.marine else "fresh")
    return replace(usual, fish="yes") if s.living else usual


def compare_schools(s: Situation, ensemble: Ensemble, answers: Answers) -> tuple[SchoolView, ...]:
    """All schools in the order in which they fit, on the same conditioned members."""
    choices = choose(answers, s.reference.schools.cycling)
    return tuple(view_of(s, ensemble, c) for c in choices)


def view_of(s: Situation, ensemble: Ensemble, choice: Choice) -> SchoolView:
    """One school on the conditioned members."""
    key = choice.school.key
    tank = replace(s.tank, school=key)
    there = replace(s, tank=tank)
    asks = tuple(j for j in all_jobs(there) if j.kind in ASKED) if s.tank.filled else ()
    proofs = tuple(prove(tank, s.entries, r, s.now) for r in choice.school.gate)
    hindered = ""
    if choice.school.fish_in and not s.living:
        hindered = "No animals are in, so there is nothing to forecast; a fishless school spares them."
    elif s.living and not choice.school.fish_in and choice.school.feeds_by != "dose":
        hindered = "Animals are in: this school cannot be begun now."
    made = None if hindered else begun_today(s, ensemble, key)
    return SchoolView(choice, key == s.tank.school, proofs, asks, made, hindered)


def begun_today(s: Situation, ensemble: Ensemble, key: str) -> Future:
    """What is to be expected by a school, with what goes in on its first day."""
    there = replace(ensemble, tank=replace(ensemble.tank, school=key))
    soon, zone = ensemble.as_of + timedelta(minutes=1), str(s.now.tzinfo)
    lines = tuple(Entry(body, soon, zone=zone) for body in _begins_with(s, key))
    return future(there, WhatIf(s.reference.schools.cycling[key].name, lines))


CULTURES = {"borrowed_media": "borrowed", "live_culture": "bottle"}  # what a school puts in on its first day


def _begins_with(s: Situation, key: str) -> list[Body]:
    """What goes in on the first day by a school, where it has not gone in yet."""
    if s.reference.schools.cycling[key].feeds_by == "die_off":
        begun = s.school.feeds_by == "die_off" or bool(s.entries.kinds(Rock))
        return [] if begun else [Rock(kg=USUAL_ROCK_KG_L * s.volume_l, condition="shipped")]
    culture = CULTURES.get(key)
    if culture is None or any(e.body.source.startswith(culture) for e in s.entries.kinds(Bacteria)):
        return []
    return [Bacteria.from_raw({"source": culture, "donor": "healthy" if culture == "borrowed" else ""})]


def recommended(views: Sequence[SchoolView]) -> SchoolView:
    return next(v for v in views if not v.choice.out)
