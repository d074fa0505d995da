"""Schools of practice: named sets of parameters, read from data/schools.toml."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Requirement:
    """One thing a gate asks for.

    clears_dose: `times` doses of the target were clean again within `within_h` hours.
    clean_run:   ammonia and nitrite clean (core/journal/clean.py) on every reading over `days`; `while_feeding`: only
                 readings count before which something went in that has to be cleared, food or what animals give off.
    """

    kind: str
    times: int = 1
    within_h: float = 24.0
    days: float = 0.0
    while_feeding: bool = False


@dataclass(frozen=True)
class Rule:
    """When all answers of `when` are among those named, it adds points, or rules the school out; with the reason."""

    because: str
    when: Mapping[str, tuple[str, ...]]
    points: int = 0
    rules_out: bool = False


@dataclass(frozen=True)
class Cycling:
    key: str
    name: str
    short: str
    suits: str
    asks: str
    risk: str
    feeds_by: str  # dose | food | fish | die_off
    fish_in: bool
    rhythm_days: float
    rhythm_near_end_days: float
    gate: tuple[Requirement, ...]
    dose_low_mg_n_l: float = 0.0
    dose_high_mg_n_l: float = 0.0
    change_share: float = 0.0
    change_every_days: float = 0.0
    change_over_mg_n_l: float = 0.0  # total ammonia above which water is changed for the life on the rock
    base_points: int = 0
    rules: tuple[Rule, ...] = ()


@dataclass(frozen=True)
class Corrective:
    key: str
    name: str
    short: str
    max_fraction: float
    interval_h: float


@dataclass(frozen=True)
class Pace:
    """Days between batches, and what a batch is judged by.

    judged_by 'course': the forecast of the fourteen days after it, whatever the count of cleared doses; the bloom may
    grow while it is watched. 'proof': the same, after the school's own proof. 'full load': the proof, and a bloom that
    surely carries all of them grown up beforehand.
    The limits of the fourteen days are asked by every one of them: that is a rule of safety.
    """

    key: str
    name: str
    short: str
    calendar_days: float
    calendar_days_sensitive: float
    judged_by: str = "proof"

    @property
    def by_course(self) -> bool:
        return self.judged_by == "course"

    @property
    def full_load(self) -> bool:
        return self.judged_by == "full load"


@dataclass(frozen=True)
class Turnover:
    """How many volumes an hour a school wants from the filters. Flow, not bacteria."""

    key: str
    name: str
    short: str
    low: float
    high: float


@dataclass(frozen=True)
class Minimum:
    """Whose minimum tank sizes count: which of the two numbers of a species' row."""

    key: str
    name: str
    short: str


@dataclass(frozen=True)
class Quarantine:
    """Days that new animals are watched in a tank of their own before they go to the others; 0: none."""

    key: str
    name: str
    short: str
    days: float


@dataclass(frozen=True)
class Acclimatising:
    """How bag water becomes tank water. `way`: portions | drip | temperature."""

    key: str
    name: str
    short: str
    suits: str
    way: str
    discards: bool = False  # water is poured off between portions, so that the bag does not overflow


@dataclass(frozen=True)
class BagWater:
    """Whether water of the shop may come into the tank."""

    key: str
    name: str
    short: str


@dataclass(frozen=True)
class MarineNitrite:
    """Limits of nitrite in sea water, as a factor on those of fresh water."""

    key: str
    name: str
    short: str
    factor: float


@dataclass(frozen=True)
class Schools:
    cycling: Mapping[str, Cycling]
    corrective: Mapping[str, Corrective]
    pace: Mapping[str, Pace]
    turnover: Mapping[str, Turnover]
    marine_nitrite: Mapping[str, MarineNitrite]
    minimum: Mapping[str, Minimum]
    quarantine: Mapping[str, Quarantine]
    acclimatising: Mapping[str, Acclimatising]
    bag_water: Mapping[str, BagWater]

    def way(self, way: str) -> Acclimatising:
        """The school that goes this way."""
        return next(a for a in self.acclimatising.values() if a.way == way)

    @property
    def acclimatising_picks(self) -> Mapping[str, Acclimatising]:
        """Those that a keeper may choose for all bags: days in between are asked by a bag."""
        return {key: a for key, a in self.acclimatising.items() if a.way != "days"}
