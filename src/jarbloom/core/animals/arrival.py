"""An arrival day as a run of steps with timers: which stands, until when it waits, and what follows it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, time, timedelta

from jarbloom.core.animals.acclimatise import WayOver, WayStep

WATCHES = ((15, "After a quarter of an hour"), (60, "After an hour"), (180, "After three hours"))
WATCH_FOR = (
    "gasping",
    "fast_gills",
    "lying",
    "clamped",
    "hiding",
    "flashing",
)  # keys of choices.SIGNS
LIGHTS_ON = time(9)  # the next morning


@dataclass(frozen=True)
class ArrivalStep:
    """A step of the day: when it was done, and from when it can be done."""

    step: WayStep
    kind: str  # lights | float | portion | drip | across | watch | light_on
    done_at: datetime | None
    opens: datetime | None  # from when it can be done; None: those before it are not done
    current: bool

    def waiting(self, now: datetime) -> bool:
        return self.current and self.opens is not None and self.opens > now


def run_steps(course: WayOver) -> tuple[WayStep, ...]:
    """The whole day in order. `minutes` of a step is the wait after it was begun."""
    first, *rest = course.steps
    return (
        WayStep("lights", "Lights off in tank and room"),
        first,
        *rest,
        WayStep("across", "Net or cup them across"),
        *(WayStep(f"watch-{m}", f"{title}: watch them", minutes=0.0) for m, title in WATCHES),
        WayStep("light_on", "Lights on again"),
    )


def standings(course: WayOver, done: Mapping[str, datetime]) -> tuple[ArrivalStep, ...]:
    """Where the run stands. A step that waits was begun when it was ticked; the next opens when its time is over."""
    found: list[ArrivalStep] = []
    opens: datetime | None = None
    current_given = False
    across = done.get("across")
    for k, step in enumerate(run_steps(course)):
        kind = step.key.split("-")[0]
        if kind == "watch":
            opens = across + timedelta(minutes=int(step.key.split("-")[1])) if across else None
        elif kind == "light_on":
            opens = datetime.combine(across.date() + timedelta(days=1), LIGHTS_ON, across.tzinfo) if across else None
        at = done.get(step.key)
        current = at is None and not current_given and (k == 0 or found[-1].done_at is not None)
        current_given |= at is None
        found.append(ArrivalStep(step, kind, at, opens, current))
        opens = at + timedelta(minutes=step.minutes) if at else None
    return tuple(found)


@dataclass(frozen=True)
class Feeding:
    """A line of the feeding plan: which day, counted from the arrival, and what share of the usual ration."""

    day: int
    share: float
    words: str

    def grams(self, ration_g: float) -> float:
        return self.share * ration_g


FEEDING = (
    Feeding(0, 0.0, "nothing today: they are shaken, and what they leave rots"),
    Feeding(1, 0.25, "a quarter of a ration, when they take it; take out what lies after five minutes"),
    Feeding(2, 0.5, "half a ration, by a test"),
    Feeding(4, 1.0, "the usual ration, while ammonia and nitrite read zero"),
)  # practice; small fish and the young must not fast longer
