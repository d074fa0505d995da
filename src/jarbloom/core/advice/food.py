"""What may be fed today: the smallest that any finding allows, and never nothing for those who must not fast."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.growth import length_on
from jarbloom.core.journal.kinds.birth import Birth
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.model.findings import Feeding
from jarbloom.units import food_text

FAST_DAYS = 2  # so long an emergency stops feeding; then a pinch every second day (docs/schools.md, the others)
FRY_DAYS = 42
SMALL_CM, YOUNG_SHARE = 3.0, 0.5
MOST_FEEDINGS = 40  # so far back it is looked for today's


@dataclass(frozen=True)
class Ration:
    """`level` for today, in grams of dry food, and why."""

    level: Feeding
    grams: float
    why: str

    @property
    def words(self) -> str:
        return {
            Feeding.NONE: "Do not feed today.",
            Feeding.PINCH: f"A pinch at most, {food_text(self.grams)}.",
            Feeding.HALF: f"Feed half, {food_text(self.grams)} at most.",
            Feeding.MOST: f"Feed three quarters, {food_text(self.grams)} at most.",
            Feeding.USUAL: f"Feed {food_text(self.grams)} at most.",
        }[self.level]


def must_eat(s: Situation) -> bool:
    """Fry, juveniles, or fish under 3 cm: they must not fast for more than a day."""
    if any(e.at > s.now - timedelta(days=FRY_DAYS) for e in s.entries.kinds(Birth)) or s.findings.young:
        return True
    species = s.reference.species
    for a in s.living:
        kind = species.get(a.species, species["unknown"])
        length = length_on(a, kind, s.now.date())
        if kind.group == "fish" and (length < SMALL_CM or length < YOUNG_SHARE * kind.adult_cm):
            return True
    return False


def ration(s: Situation) -> Ration:
    usual = s.upkeep.feed_g
    level = s.findings.feeding
    because = next((f for f in s.findings if f.feeding == level and level < Feeding.USUAL), None)
    why = because.row.title + "." if because is not None else "A usual ration for what lives here; less is fine."
    if level == Feeding.NONE and must_eat(s):
        level, why = Feeding.PINCH, f"{why} Fry, young and very small fish must not fast: a pinch, and no more."
    elif level == Feeding.NONE and s.episode is not None and s.episode.open and _fasted(s):
        level, why = Feeding.PINCH, f"{why} After two days without food a pinch every second day."
    return Ration(level, usual * level.share, why)


def _fasted(s: Situation) -> bool:
    assert s.episode is not None
    fed = [e.at for e in s.entries.kinds(Feed)[-MOST_FEEDINGS:] if e.body.grams != 0]
    rests = s.now - max([s.episode.since, *fed[-1:]])
    return rests >= timedelta(days=FAST_DAYS)


def fed_today(s: Situation) -> bool:
    today = s.now.date()
    return any(e.day == today for e in s.entries.kinds(Feed)[-MOST_FEEDINGS:])
