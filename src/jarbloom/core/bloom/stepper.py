"""The stepper: a whole ensemble through its drivers at once. Equations: kernel.py, kinetics.py and docs/model.md."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.drivers import Drivers, Happening
from jarbloom.core.bloom.kernel import LEAST_ALK, PH_SLOPE, Course, Kept, Rates, Water, advance, record
from jarbloom.core.bloom.kinetics import THETA_A, THETA_B, State, act, kept_alkalinity, warmth
from jarbloom.core.bloom.parameters import BLOCK_DAYS, Parameters
from jarbloom.core.water.ammonia import ammonium_per_unionised

Array = NDArray[np.float64]
Records = NDArray[np.float32]
NAMES = ("tan", "bound", "no2", "no3", "particulate", "a", "b", "alk", "alk_ref", "ph_ref", "lag_a", "lag_b")


@dataclass(frozen=True)
class Trajectory:
    """Records at the start of the steps in `at`, before what happens there (step n is the end): arrays
    (len(at), n_member)."""

    at: NDArray[np.int64]
    tan: Records  # free and bound, as kits read it
    nh3: Records
    no2: Records
    no3: Records
    a: Records
    b: Records
    ph: Records
    end: State

    def row(self, step: int) -> int:
        """Row of the latest record at or before a step."""
        return max(int(np.searchsorted(self.at, step, side="right")) - 1, 0)


def simulate(par: Parameters, drv: Drivers, start: State, at: NDArray[np.int64] | None = None) -> Trajectory:
    """Step the ensemble through the drivers; records at the steps in `at` (sorted, each once), by default at all.

    What happens is done here, moment by moment; the steps between two moments are the compiled loop's.
    """
    at = np.arange(drv.n_step + 1) if at is None else at.astype(np.int64)
    s = {name: np.array(getattr(start, name), dtype=float) for name in NAMES}
    s["alk"], s["alk_ref"] = np.maximum(s["alk"], LEAST_ALK), np.maximum(s["alk_ref"], LEAST_ALK)
    rates, course = _rates(par), _course(drv, start)
    kept = Kept(*np.empty((len(Kept._fields), len(at), len(par.mu_a)), dtype=np.float32))
    water = _water(s)
    water.least_alk[:] = LEAST_ALK if drv.kept_from != 0 else kept_alkalinity(s["alk"], drv.home[1])
    happenings: dict[int, list[Happening]] = {}
    for happening in drv.happenings:
        happenings.setdefault(happening.step, []).append(happening)
    row, busy = 0, _busy(drv, happenings)
    if len(at) and at[0] == 0:
        record(0, course.nh4_per_nh3[0], water, rates, kept)
        row = 1
    for first, last in pairwise([*sorted({0, *busy}), drv.n_step]):
        if first in busy:
            s = _named(water, s["ph_ref"])
            act(drv, first, s, par, happenings.get(first, ()))
            _put_back(s, water)
            if drv.kept_from is not None and first >= drv.kept_from:  # what was put right is kept up from there on
                np.maximum(water.least_alk, kept_alkalinity(s["alk"], drv.home[1]), out=water.least_alk)
        row = advance(first, last, water, rates, course, kept, at, row)
    np.negative(np.log10(kept.ph, out=kept.ph), out=kept.ph)
    return Trajectory(at, *kept, State(days=start.days + drv.n_step * drv.dt, **_named(water, s["ph_ref"])))


def _water(s: Mapping[str, Array]) -> Water:
    known = {name: s[name] for name in NAMES if name != "ph_ref"} | {"hydrogen_ref": 10.0 ** -s["ph_ref"]}
    fresh = (name for name in Water._fields if name not in known)
    return Water(**known, **{name: np.zeros(len(s["tan"])) for name in fresh})


def _named(water: Water, ph_ref: Array) -> dict[str, Array]:
    """What events and a state know of the water, by their names."""
    return {name: ph_ref if name == "ph_ref" else getattr(water, name) for name in NAMES}


def _put_back(s: Mapping[str, Array], water: Water) -> None:
    """What an event has changed, into the arrays that the loop works on."""
    for name in NAMES:
        if name == "ph_ref":
            np.power(10.0, -s["ph_ref"], out=water.hydrogen_ref)
        elif s[name] is not getattr(water, name):
            getattr(water, name)[:] = s[name]


def _rates(par: Parameters) -> Rates:
    own = {"noise_a": par.noise_a, "noise_b": par.noise_b, "a_max": par.a_max, "low_ph": 10 ** (PH_SLOPE * par.ph_low)}
    given = {name: own.get(name, par.values.get(name)) for name in Rates._fields}
    return Rates(**{name: np.ascontiguousarray(values, dtype=float) for name, values in given.items()})


def _course(drv: Drivers, start: State) -> Course:
    warm_a, warm_b = warmth(drv.temp, THETA_A), warmth(drv.temp, THETA_B)
    comes = any(h.kind in ("rock", "unlogged", "hidden") for h in drv.happenings)
    nh4_per_nh3 = ammonium_per_unionised(drv.temp, drv.salinity)
    return Course(
        warm_a=warm_a * drv.running,
        warm_b=warm_b * drv.running,
        rot=warm_b,
        nh4_per_nh3=np.broadcast_to(nh4_per_nh3, (drv.n_step,)).astype(float),
        excretion=drv.excretion.astype(float),
        waste=drv.waste.astype(float),
        dt=float(drv.dt),
        block_days=float(BLOCK_DAYS),
        start_days=float(start.days),
        rots=bool(comes or start.particulate.any() or drv.waste.any() or drv.particulate.any()),
        binds=bool(start.bound.any() or drv.detox.any()),
    )


def _busy(drv: Drivers, by_step: Mapping[int, list[Happening]]) -> set[int]:
    """Steps at whose start something happens."""
    given = drv.dose + drv.dose_alk + drv.particulate + drv.detox + drv.redose
    found = given + drv.change + drv.relief + drv.mend > 0
    found |= ~np.isnan(drv.ph_read) | ~np.isnan(drv.kh_read)
    if drv.kept_from is not None and drv.kept_from < drv.n_step:
        found[drv.kept_from] = True
    return {*np.flatnonzero(found).tolist(), *(k for k in by_step if k < drv.n_step)}
