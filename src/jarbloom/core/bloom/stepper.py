"""The stepper: a whole ensemble through its drivers at once. Equations: kinetics.py and docs/model.md."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.drivers import Drivers, Happening
from jarbloom.core.bloom.kinetics import (
    ALK_HALF,
    ALK_PER_N,
    BOUND_RELEASE,
    PH_SLOPE,
    PLANT_HALF,
    THETA_A,
    THETA_B,
    State,
    act,
    hydrogen,
    implicit_monod,
    kept_alkalinity,
    monod_with_inflow,
    warmth,
)  # fmt: skip
from jarbloom.core.bloom.parameters import BLOCK_DAYS, Parameters
from jarbloom.core.water.ammonia import ammonium_per_unionised

Array = NDArray[np.float64]
ACID_EVERY = 2  # steps: pH and alkalinity move slowly, what they do to the rates is worked out so often
_NAMES = ("tan", "bound", "no2", "no3", "particulate", "a", "b", "alk", "alk_ref", "ph_ref", "lag_a", "lag_b")
_KEPT = ("tan", "nh3", "no2", "no3", "a", "b", "ph")


@dataclass(frozen=True)
class Trajectory:
    """Records at the start of the steps in `at`, before what happens there (step n is the end): arrays
    (len(at), n_member) in single precision, since a long run of many members must stay small."""

    at: NDArray[np.int64]
    tan: Array  # free and bound, as kits read it
    nh3: Array
    no2: Array
    no3: Array
    a: Array
    b: Array
    ph: Array
    end: State

    def row(self, step: int) -> int:
        """Row of the latest record at or before a step."""
        return max(int(np.searchsorted(self.at, step, side="right")) - 1, 0)


def simulate(par: Parameters, drv: Drivers, start: State, at: NDArray[np.int64] | None = None) -> Trajectory:
    """Step the ensemble through the drivers; records at the steps in `at` (sorted), by default at all.

    Substrates by Monod uptake in two implicit stages with the capacity of mid-step, growth by an exponential step
    of what was taken up: second order in time. Both guilds stand in one array (2, n_member), so a step costs about
    seventy operations.
    """
    run = _Run(par, drv, start, np.arange(drv.n_step + 1) if at is None else at)
    for k in range(drv.n_step):
        run.record(k)
        run.prepare(k)
        run.step(k)
    run.record(drv.n_step)
    return run.trajectory()


class _Run:
    """One run of the stepper: what does not change with the step is worked out once, here."""

    def __init__(self, par: Parameters, drv: Drivers, start: State, at: NDArray[np.int64]) -> None:
        self.par, self.drv, self.at = par, drv, at
        n, dt, m = drv.n_step, drv.dt, len(par.mu_a)
        self.s = s = {name: getattr(start, name).copy() for name in _NAMES}
        s["alk"], s["alk_ref"] = np.maximum(s["alk"], 1e-3), np.maximum(s["alk_ref"], 1e-3)
        self.least_alk = kept_alkalinity(s["alk"], drv.home[1]) if drv.keep_alkalinity else 1e-3
        self.kept: dict[str, NDArray[Any]] = {name: np.empty((len(at), m), dtype=np.float32) for name in _KEPT}
        self.row_of = dict(zip(at.tolist(), range(len(at)), strict=True))
        self.happenings: dict[int, list[Happening]] = {}
        for happening in drv.happenings:
            self.happenings.setdefault(happening.step, []).append(happening)
        self.busy = _busy(drv, self.happenings)
        warm = np.stack([warmth(drv.temp, THETA_A), warmth(drv.temp, THETA_B)])
        self.warm_dt = (warm * drv.running * dt).T[:, :, None]
        self.rot_dt = (warm[1] * dt).tolist()
        self.nh4_per_nh3 = ammonium_per_unionised(drv.temp, drv.salinity).tolist()
        self.excretion, self.waste = drv.excretion.tolist(), drv.waste.tolist()
        rock = any(h.kind == "rock" for h in drv.happenings)
        self.rots = bool(rock or s["particulate"].any() or drv.waste.any() or drv.particulate.any())
        self.binds = bool(s["bound"].any() or drv.detox.any())
        self.back_share, self.rot_share = 1 - np.exp(-BOUND_RELEASE * dt), np.zeros(m)
        self.rot_now: float | None = None
        self.low_ph = 10 ** (PH_SLOPE * par.ph_low)
        self.half, decay = np.stack([par.k_a, par.k_b]), np.stack([par.decay, par.decay])
        self.decay_least, self.decay_more = 0.4 * decay, 0.6 * decay
        self.diffuse_per_dt, self.minus_inverse_max = par.diffuse / dt, -1 / par.a_max
        self.inverse_ki, self.inverse_kn = 1 / np.stack([par.ki_a, par.ki_b]), 1 / par.ki_n
        self.plants_dt = par.plants * dt
        self.cap, self.grown, self.substrate = np.stack([s["a"], s["b"]]), np.zeros((2, m)), np.empty((2, m))
        self.alk_per_n, self.spent = ALK_PER_N * par.alk_use, np.zeros(m)
        self.moved = np.zeros((2, m))  # TAN and nitrite in the step before
        self.hydrogen_ref = 10.0 ** -s["ph_ref"]
        self.start_days, self.n, self.dt = start.days, n, dt
        self.mu, self.block = np.empty((2, m)), -1
        self.mu_lagged = self.mu
        self.lag_over = 3.2 * max(float(s["lag_a"].max()), float(s["lag_b"].max()))

    def record(self, k: int) -> None:
        row = self.row_of.get(k)
        if row is None:
            return
        s, kept = self.s, self.kept
        h = hydrogen(s["alk"], s["alk_ref"], self.hydrogen_ref, self.par.ph_slope)
        kept["tan"][row] = s["tan"] + s["bound"]
        kept["nh3"][row] = s["tan"] / (1 + self.nh4_per_nh3[min(k, self.n - 1)] * h)
        kept["no2"][row], kept["no3"][row] = s["no2"], s["no3"]
        kept["a"][row], kept["b"][row] = self.cap
        kept["ph"][row] = h

    def prepare(self, k: int) -> None:
        """What stands at the start of a step: events, the growth of this week, the lag, the acid."""
        s, par, busy = self.s, self.par, self.busy[k]
        days = self.start_days + k * self.dt
        if busy:
            s["a"], s["b"] = self.cap
            act(self.drv, k, s, par, self.happenings.get(k, ()))
            self.cap, self.hydrogen_ref = np.stack([s["a"], s["b"]]), 10.0 ** -s["ph_ref"]
            if self.drv.keep_alkalinity:  # what was put right is kept up from there on
                self.least_alk = np.maximum(self.least_alk, kept_alkalinity(s["alk"], self.drv.home[1]))
        block = min(int(days / BLOCK_DAYS), par.noise_a.shape[0] - 1)
        if block != self.block:
            self.block = block
            self.mu[0], self.mu[1] = par.mu_a * par.noise_a[block], par.mu_b * par.noise_b[block]
            self.mu_lagged = self.mu
        middle = days + 0.5 * self.dt
        if middle < self.lag_over:
            lag = np.stack([s["lag_a"], s["lag_b"]])
            self.mu_lagged = self.mu * (1 - np.exp(-((middle / lag) ** 2)))
        if busy or k % ACID_EVERY == 0:
            alk = np.maximum(s["alk"] + 0.5 * ACID_EVERY * self.spent, 1e-3)  # in the middle of the steps it stands for
            h = hydrogen(alk, s["alk_ref"], self.hydrogen_ref, par.ph_slope)
            self.env = alk / ((ALK_HALF + alk) * (1 + self.low_ph * (h * h * np.sqrt(h))))
            self.bound_share = 1 + self.nh4_per_nh3[k] * h

    def step(self, k: int) -> None:
        could = self._could(k)
        f = self._slowed(k, could)
        gained = self._gained(k)
        tan, no2, works, oxidised = self._taken_up(could, f, gained)
        s = self.s
        self.moved[0], self.moved[1] = tan - s["tan"], no2 - s["no2"]
        s["tan"], s["no2"] = tan, no2
        alk = np.maximum(s["alk"] - self.alk_per_n * (oxidised - 0.5 * gained), self.least_alk)
        self.spent, s["alk"] = alk - s["alk"], alk
        self._grow(k, works)

    def _could(self, k: int) -> Array:
        """What the capacities of mid-step take up in a step, saturated and unhindered, mg N/L (2, n_member)."""
        could = self.grown
        could *= 0.5
        could += 1
        could *= self.cap
        could *= self.warm_dt[k]
        return could

    def _slowed(self, k: int, could: Array) -> Array:
        """f of both guilds (2, n_member) in mid-step. The water moves on as in the step before; where something has
        just happened, half a step is tried first."""
        tan, no2 = self.s["tan"], self.s["no2"]
        if not self.busy[k]:
            return self._hindered(
                np.maximum(tan + 0.5 * self.moved[0], 0.0), np.maximum(no2 + 0.5 * self.moved[1], 0.0)
            )
        v = could * self._hindered(tan, no2)
        half = self.half + v * self.diffuse_per_dt
        v *= 0.5
        then = implicit_monod(tan, v[0], half[0])
        return self._hindered(then, implicit_monod(no2 + tan - then, v[1], half[1]))

    def _hindered(self, tan: Array, no2: Array) -> Array:
        """f (2, n_member): acid and spent alkalinity, free ammonia, and of B much nitrite."""
        f = self.inverse_ki * (tan / self.bound_share)
        f += 1
        np.divide(self.env, f, out=f)
        crowded = no2 * self.inverse_kn
        crowded *= crowded
        crowded += 1
        f[1] /= crowded
        return f

    def _gained(self, k: int) -> Array | float:
        """TAN from animals and from what rots during the step, mg N/L."""
        s, inputs = self.s, self.par.inputs
        gained: Array | float = self.excretion[k] * self.dt * inputs if self.excretion[k] else 0.0
        if self.rots:
            if self.rot_dt[k] != self.rot_now:
                self.rot_now = self.rot_dt[k]
                self.rot_share = 1 - np.exp(-self.par.k_min * self.rot_now)
            rot = s["particulate"] * self.rot_share
            s["particulate"] = s["particulate"] - rot + self.waste[k] * self.dt * inputs
            gained = gained + rot
        return gained

    def _taken_up(self, could: Array, f: Array, gained: Array | float) -> tuple[Array, Array, Array, Array]:
        """TAN and nitrite at the end of the step, the share of its capacity that each guild worked at (2, n_member),
        and the TAN oxidised, mg N/L."""
        s = self.s
        if self.binds:
            back = s["bound"] * self.back_share
            s["bound"] = s["bound"] - back
            gained = gained + back
        content = s["tan"] + gained
        start = s["tan"] - content * (1 - 1 / (1 + self.plants_dt / (content + PLANT_HALF)))
        start = np.maximum(start, -gained)
        v = could * f
        halved = v * self.diffuse_per_dt
        halved += self.half
        tan = monod_with_inflow(start, gained, v[0], halved[0])
        oxidised = start + gained - tan
        no2 = monod_with_inflow(s["no2"], oxidised, v[1], halved[1])
        gone = s["no2"] + oxidised - no2
        s["no3"] = s["no3"] + gone
        self.substrate[0], self.substrate[1] = oxidised, gone
        return tan, no2, self.substrate / np.maximum(could, 1e-30), oxidised

    def _grow(self, k: int, works: Array) -> None:
        """By the share of its capacity that each guild worked at in the step."""
        grown = self.cap * self.minus_inverse_max
        grown += 1
        grown *= self.mu_lagged
        grown -= self.decay_more
        grown *= works
        grown -= self.decay_least
        grown *= self.warm_dt[k]
        self.cap *= np.exp(grown)
        self.grown = grown

    def trajectory(self) -> Trajectory:
        self.s["a"], self.s["b"] = self.cap
        ph = self.kept["ph"]
        np.log10(ph, out=ph)
        np.negative(ph, out=ph)
        return Trajectory(self.at, end=State(days=self.start_days + self.n * self.dt, **self.s), **self.kept)


def _busy(drv: Drivers, by_step: Mapping[int, list[Happening]]) -> list[bool]:
    """Steps at whose start something happens."""
    found = (drv.dose + drv.dose_alk + drv.particulate + drv.change + drv.detox + drv.redose + drv.relief) > 0
    found |= ~np.isnan(drv.ph_read) | ~np.isnan(drv.kh_read)
    for k in by_step:
        found[k] = True
    return found.tolist()
