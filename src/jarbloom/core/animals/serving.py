"""The reverse of the finder: the smallest usual tank, and its equipment, that serve animals for life."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.animals.company import Case, Finding
from jarbloom.core.animals.compatibility import findings
from jarbloom.core.animals.finder import judge
from jarbloom.core.animals.home import FLOWS, home_of
from jarbloom.core.model.reference import Media
from jarbloom.core.model.species import Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.heat import needed_w
from jarbloom.core.vessel.media import AREAL_RATE_G_M2_DAY
from jarbloom.core.vessel.volume import net_l

# Usual glass boxes, inside length x width x height in cm (practice)
SIZES = ((40, 25, 30), (60, 30, 36), (80, 35, 45), (100, 40, 50), (120, 50, 60), (150, 50, 60), (180, 60, 60),
         (200, 70, 65), (250, 80, 70), (300, 100, 80))  # fmt: skip
BED_CM, RIM_CM = 4.0, 4.0
OF_SIZE = frozenset({"litres", "footprint", "turning", "ground"})  # findings that a larger tank mends
NOT_IN_IT = ("not here", "not for life")
OF_TIME = frozenset({"maturity", "lid", "flow"})  # and those that waiting or equipment mends
RESERVE = 2.0  # ceiling of the media over the grown load (docs/science.md, bioload)


@dataclass(frozen=True)
class Serving:
    """`tank` is None when no usual size serves them. `forced_by`: what the next smaller size would lack."""

    tank: Tank | None
    forced_by: tuple[Finding, ...]
    remains: tuple[Finding, ...]  # keeps them apart in every size
    load_mg_n_day: float
    temp_c: tuple[float, float]
    heater_w: float = 0.0
    flow_l_h: tuple[float, float] = (0.0, 0.0)
    foam_l: float = 0.0
    lid: bool = False
    next_size: Tank | None = None
    opens: tuple[Species, ...] = ()

    @property
    def litres(self) -> float:
        return net_l(self.tank) if self.tank else 0.0


def sized(like: Tank, size: tuple[float, float, float]) -> Tank:
    """A bare box of this size with the water and the room of `like`."""
    length, width, height = size
    return replace(
        like, shape="box", length_cm=length, width_cm=width, height_cm=height, waterline_cm=RIM_CM, outside=False,
        substrate_cm=BED_CM, substrate_back_cm=None, decor=(), sump_l=0.0, measured_l=None,
    )  # fmt: skip


def serving(case: Case, like: Tank, species: Mapping[str, Species], media: Mapping[str, Media]) -> Serving:
    """The smallest of the usual sizes in which nothing that size mends is found, by the tank's school of minima."""
    missing: tuple[Finding, ...] = ()
    for k, size in enumerate(SIZES):
        tank = sized(like, size)
        found = findings(_in(case, tank))
        lacks = tuple(f for f in found if f.key in OF_SIZE)
        if not lacks:
            wider = sized(like, SIZES[k + 1]) if k + 1 < len(SIZES) else None
            return _equip(case, tank, found, missing, wider, species, media)
        missing = lacks
    remains = tuple(f for f in findings(case) if f.severity == "apart" and f.key not in OF_TIME | OF_SIZE)
    return Serving(None, missing, remains, _load(case, like, species), _window(case))


def _in(case: Case, tank: Tank) -> Case:
    """The same animals in another tank, its age and flow left out of it."""
    home = home_of(tank)
    return replace(case, home=replace(home, started=case.home.started, turnover=0.0))


def _load(case: Case, tank: Tank, species: Mapping[str, Species]) -> float:
    return load_of([m.animals for m in case.members], species, tank.temp_c, adult=True).total


def _window(case: Case) -> tuple[float, float]:
    """Temperatures that all live in; the lower end above the upper one: there is none."""
    return max(m.kind.temp_low for m in case.members), min(m.kind.temp_high for m in case.members)


def _equip(
    case: Case, tank: Tank, found: tuple[Finding, ...], forced_by: tuple[Finding, ...], wider: Tank | None,
    species: Mapping[str, Species], media: Mapping[str, Media],
) -> Serving:  # fmt: skip
    load, (low, high) = _load(case, tank, species), _window(case)
    litres = net_l(tank)
    warm = replace(tank, temp_c=min(max(tank.temp_c, low), max(low, high)))
    flows = [FLOWS[m.kind.flow] for m in case.members if m.kind.flow in FLOWS]
    foam = RESERVE * load / (1000 * AREAL_RATE_G_M2_DAY * media["foam"].m2_per_l_low)
    return Serving(
        tank, forced_by, tuple(f for f in found if f.severity == "apart" and f.key not in OF_TIME), load, (low, high),
        needed_w(warm), (litres * max(f[0] for f in flows), litres * min(f[1] for f in flows)),
        math.ceil(10 * foam) / 10, any(m.kind.jumps for m in case.members), wider,
        _opened(case, tank, wider, species) if wider else (),
    )  # fmt: skip


def _opened(case: Case, tank: Tank, wider: Tank, species: Mapping[str, Species]) -> tuple[Species, ...]:
    """What suits the next size, with those who are meant, and not this one."""
    here, there = _in(case, tank), _in(case, wider)
    water = {m.kind.water for m in case.members}
    found = []
    for kind in species.values():
        if kind.key == "unknown" or kind.water not in water or case.count(kind.key):
            continue
        if judge(kind, there, 0.0).suits and judge(kind, here, 0.0).stance in NOT_IN_IT:
            found.append(kind)
    return tuple(found)
