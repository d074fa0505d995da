"""Where a tank stands, in plain words: what is done, what is under way, what is normal now."""

from __future__ import annotations

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.animals.names import animal_name, plural
from jarbloom.core.bloom.capacity import LIKELY
from jarbloom.core.journal.kinds.bacteria import Bacteria
from jarbloom.core.journal.kinds.dose import Dose
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.rock import Rock
from jarbloom.core.journal.proof import proven
from jarbloom.core.model.species import Animals
from jarbloom.units import NBSP, load_text

KNOWN = {
    "fresh": "neon_tetra",
    "brackish": "bumblebee_goby",
    "marine": "ocellaris_clownfish",
}  # an animal a person knows
HALF = 0.5


def milestone(s: Situation) -> str:
    """One line for every phase."""
    if not s.tank.filled:
        return "Dry: the fill run comes first, then the cycle."
    if s.living:
        return f"{_stocked(s)} {carried_words(s)}"
    return _cycling(s)


def carried_words(s: Situation) -> str:
    """What the bloom surely carries, as animals that a person knows, with mg N behind it."""
    key = KNOWN[s.tank.water_kind]
    one = load_of((Animals(key, 1),), s.reference.species, s.tank.temp_c, adult=True).total
    heads = int(s.forecast.sure / one) if one > 0 else 0
    name = animal_name(key, s.reference.species)
    if heads < 1:
        return f"The bloom is not yet sure of a single {name}."
    return f"The bloom surely carries about {heads} {plural(name, heads)} ({load_text(s.forecast.sure)} a day)."


def _stocked(s: Situation) -> str:
    if s.findings.has("not_cycled") or not proven(s.tank, s.entries, s.reference.schools, s.now):
        return "Animals are in and the proof is still owed: clean tests over a week under light feeding give it."
    if s.episode is not None and s.episode.open:
        return "Cycled, and in an upset: two clean days in a row end it."
    return "Cycled, and settled under its load."


def _cycling(s: Situation) -> str:
    begun = s.entries.kinds(Dose, Feed, Rock, Bacteria)
    if s.forecast.last_reading is None and not begun:
        return "Filled; nothing to feed a bloom has gone in yet."
    target = s.forecast.readiness.stated_load
    a, b = (s.forecast.band(n, LIKELY) for n in ("capacity_a", "capacity_b"))
    if s.forecast.readiness.already >= 0.9 or proven(s.tank, s.entries, s.reference.schools, s.now):
        return f"The cycle is done: both halves are as large as the proof asks. {carried_words(s)}"
    halves = f"{_half('Ammonia', a, target)}, {_half('nitrite', b, target).lower()}"
    return f"{halves}: {_usual(a, b, target)} {carried_words(s)}"


def _half(name: str, has: float, target: float) -> str:
    share = has / target if target > 0 else 0.0
    if share >= 0.9:
        return f"{name} done"
    if share >= HALF:
        return f"{name} more than half done"
    if share >= 0.15:
        return f"{name} under way, about {round(10 * share)}{NBSP}in{NBSP}10"
    return f"{name} just beginning"


def _usual(a: float, b: float, target: float) -> str:
    if b < 0.5 * a:
        return "nitrite runs a week or two behind, the usual course."
    if a < 0.15 * target:
        return "for the first one to two weeks little is to be seen, which is usual."
    return "the usual course."
