"""What can go wrong in a tank, as data: rows of data/causes.toml, and the checks of data/desk_checks.toml."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property


@dataclass(frozen=True)
class CauseGroup:
    """What the causes of one group share. `young`, `old`: of 100 upsets in a tank below and above sixty days
    (judgement); `acts`: keys of data/acts.toml; `again_h`: when to look again; `resume_days`: how long new animals
    wait once it is over."""

    key: str
    title: str
    young: float
    old: float
    acts: tuple[str, ...]
    never: tuple[str, ...]
    course: str
    again_h: float
    resume_days: int = 14
    help: str = ""
    setting: str = ""
    supports: Mapping[str, float] = field(default_factory=dict)
    opposes: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class CauseRow:
    """One cause. `after`: what sets it off; `onset_h`: earliest, usual and latest hours from there to the first sign.
    `supports`, `opposes`: tokens with strength 1 to 3. `water`: any, fresh, salted, low (below 15 g/kg) or high (above
    5 g/kg). `danger` 0 to 4: what is named even where it is less likely. `slow`: weeks, so that a trigger says little.
    `needs`: inverts, corals, or nothing. `only_with`: hardly possible without one of these. `urgent_vet`: the
    same day."""

    key: str
    group: str
    title: str
    says: str
    hits: tuple[str, ...]
    onset_h: tuple[float, ...]
    supports: Mapping[str, float]
    tell: str
    checks: tuple[str, ...]
    prevent: str
    source: str
    opposes: Mapping[str, float] = field(default_factory=dict)
    after: tuple[str, ...] = ()
    acts: tuple[str, ...] = ()
    special: str = ""
    water: str = "any"
    needs: str = ""
    danger: int = 1
    needs_trigger: bool = False
    only_with: tuple[str, ...] = ()
    slow: bool = False
    urgent_vet: bool = False
    resume_days: int | None = None
    caution: str = ""  # key of data/cautions.toml: it can hurt people
    setting: str = ""  # of the tank, that prevents it: a key of views/tank/desk.py, SETTINGS


@dataclass(frozen=True)
class Answer:
    """One answer of a check: a tap. `token` is what causes ask for."""

    label: str
    token: str


@dataclass(frozen=True)
class DeskCheck:
    """A check that tells causes apart. `stress` to the animals: 0 none, 1 slight, 2 netting. `cost`: minutes that its
    price is worth, negative where its minutes are only waited. `reading`: answered by logging that reading."""

    key: str
    title: str
    how: str
    minutes: float
    answers: tuple[Answer, ...]
    stress: int = 0
    cost: float = 0.0
    reading: str = ""
    needs: str = ""
    caution: str = ""

    @property
    def effort(self) -> float:
        """Minutes that it takes from the keeper, its price and the animals' stress among them."""
        return self.minutes + self.cost + 10.0 * self.stress


@dataclass(frozen=True)
class Aid:
    """When an act of first aid helps, and what turns it into harm: (cause, group or token, the reason)."""

    key: str
    act: str
    helps: tuple[str, ...]
    harms: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Causes:
    """All rows, with the group of each."""

    rows: Mapping[str, CauseRow] = field(default_factory=dict)
    groups: Mapping[str, CauseGroup] = field(default_factory=dict)
    checks: Mapping[str, DeskCheck] = field(default_factory=dict)
    aid: Mapping[str, Aid] = field(default_factory=dict)

    def group_of(self, row: CauseRow) -> CauseGroup:
        return self.groups[row.group]

    @cached_property
    def answers(self) -> dict[str, tuple[DeskCheck, Answer]]:
        """By token: which check gives it."""
        return {a.token: (c, a) for c in self.checks.values() for a in c.answers}

    def resume_days(self, row: CauseRow) -> int:
        """How long new animals wait once an upset of this cause is over."""
        return row.resume_days if row.resume_days is not None else self.group_of(row).resume_days

    def setting(self, row: CauseRow) -> str:
        """The setting of the tank that prevents it, empty where there is none."""
        return row.setting or self.group_of(row).setting

    def supports(self, row: CauseRow) -> dict[str, float]:
        return {**self.group_of(row).supports, **row.supports}

    def opposes(self, row: CauseRow) -> dict[str, float]:
        """A token that the row itself counts for it does not count against it by its group."""
        of_group = {k: v for k, v in self.group_of(row).opposes.items() if k not in row.supports}
        return {**of_group, **row.opposes}
