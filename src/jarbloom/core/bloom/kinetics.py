"""The nitrogen cycle of a tank, stepped for a whole ensemble at once.

State per member: TAN, bound TAN, nitrite, nitrate, particulate N (mg N/L), saturated capacity of the two
guilds A and B at 25 deg C (mg N/L/day), alkalinity (meq/L). Equations: docs/model.md.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit, ndtr

from jarbloom.core.bloom.drivers import LOSS_LOGIT as LOSS
from jarbloom.core.bloom.drivers import SEEDING, Drivers, Happening
from jarbloom.core.bloom.parameters import BLOCK_DAYS, LOW_MG_N_L, Parameters
from jarbloom.core.water.ammonia import T_ZERO_K

Array = NDArray[np.float64]
LN10 = float(np.log(10.0))
THETA_A, THETA_B = 1.09, 1.07  # per deg C; ASM-type models 1.07 to 1.12
ALK_HALF = 0.08  # meq/L
PH_SLOPE = 2.5
BOUND_RELEASE = 1.0  # 1/day
PLANT_HALF = 0.05  # mg N/L
ALK_PER_N = 2 / 14.007  # meq spent for each mg N nitrified; half of it comes back for each mg ammonified
ALK_RESTORED_BELOW = 0.5  # of the reference; a planned future assumes that the keeper mends KH by then
LAG_CULTURE = 0.3  # a live culture shortens the lag to this share; borrowed media has none


@dataclass(frozen=True)
class State:
    """Arrays (n_member,). `days` is the time since the first day of the record (for lag and noise)."""

    tan: Array
    bound: Array
    no2: Array
    no3: Array
    particulate: Array
    a: Array
    b: Array
    alk: Array
    alk_ref: Array
    ph_ref: Array
    lag_a: Array
    lag_b: Array
    days: float = 0.0


@dataclass(frozen=True)
class Trajectory:
    """Records at the start of every step, before its events, and at the end: arrays (n_step + 1, n_member)."""

    tan: Array  # free and bound, as kits read it
    no2: Array
    no3: Array
    a: Array
    b: Array
    ph: Array
    end: State


def first_state(par: Parameters, ph: float, alk_meq_l: float, no3: float = 0.0) -> State:
    """A freshly filled tank."""
    n = len(par.mu_a)
    zero = np.zeros(n)
    return State(
        zero,
        zero,
        zero,
        np.full(n, no3),
        zero,
        par.a_0.copy(),
        par.b_0.copy(),
        np.full(n, alk_meq_l),
        np.full(n, alk_meq_l),
        ph + par.ph_offset,
        par.lag_a.copy(),
        par.lag_b.copy(),
    )


def mature_state(par: Parameters, ph: float, alk_meq_l: float, load_mg_n_l_day: float, no3: float) -> State:
    """A tank that has carried a load for long: growth balances decay at a low uptake (docs/model.md)."""
    fresh = first_state(par, ph, alk_meq_l, no3)
    uptake = 0.4 * par.decay / np.maximum(par.mu_a - 0.6 * par.decay, 0.05)
    carried = max(load_mg_n_l_day, 0.05) / uptake
    a = np.minimum(np.maximum(carried * par.noise_a[0], par.a_0), par.a_max)
    b = np.minimum(np.maximum(carried * par.noise_b[0], par.b_0), par.a_max)
    return replace(fresh, a=a, b=b, lag_a=np.full_like(a, 1e-3), lag_b=np.full_like(a, 1e-3), days=60.0)


def implicit_monod(content: Array, vmax_dt: Array, k: Array) -> Array:
    """Substrate after a step of Monod uptake, the positive root of s^2 + s (K + V dt - c) - K c = 0.

    `content` is what was there plus what came in (mg N/L). Stable for any step and never negative.
    """
    half = 0.5 * (k + vmax_dt - content)
    return np.sqrt(half * half + k * content) - half


def _happen(h: Happening, par: Parameters, s: dict[str, Array]) -> None:
    z = par.event_z[h.z]
    if h.kind == "loss":
        mean, sd = LOSS[h.key]
        keep = 1 - h.share * expit(mean + sd * z[0])
        s["a"], s["b"] = s["a"] * keep, s["b"] * keep
        return
    dead, a_seed, b_seed, sd = SEEDING[h.key]
    alive = ndtr(z[1]) > dead
    amount = np.where(alive, h.share * np.exp(sd * z[0]), 0.0)
    s["a"], s["b"] = s["a"] + a_seed * amount, s["b"] + b_seed * amount
    shorter = 1e-3 if h.key == "borrowed" else LAG_CULTURE
    s["lag_a"] = np.where(alive, s["lag_a"] * shorter, s["lag_a"])
    s["lag_b"] = np.where(alive, s["lag_b"] * shorter, s["lag_b"])


PH_FALL, PH_RISE = 10**1.3, 10**-0.3  # how far pH may move with the alkalinity: 1.3 down, 0.3 up


def hydrogen(alk: Array, alk_ref: Array, hydrogen_ref: Array) -> Array:
    """10^-pH: pH follows the keeper's own pH by the logarithm of what is left of the alkalinity, bounded."""
    return hydrogen_ref * np.minimum(np.maximum(alk_ref / alk, PH_RISE), PH_FALL)


class _Lag:
    """1 - exp(-(t/l)^2) for both guilds; once that is one it is not computed any more."""

    def __init__(self, lag_a: Array, lag_b: Array) -> None:
        self.over = 3.2 * max(float(lag_a.max()), float(lag_b.max()))
        self.lag_a, self.lag_b = lag_a, lag_b

    def at(self, days: float) -> tuple[Array | float, Array | float]:
        if days > self.over:
            return 1.0, 1.0
        return 1 - np.exp(-((days / self.lag_a) ** 2)), 1 - np.exp(-((days / self.lag_b) ** 2))


_NAMES = ("tan", "bound", "no2", "no3", "particulate", "a", "b", "alk", "alk_ref", "ph_ref", "lag_a", "lag_b")


def simulate(par: Parameters, drv: Drivers, start: State) -> Trajectory:
    """Step the ensemble through the drivers: implicit Monod for substrates, exponential step for growth.

    What does not change with the step, or only with temperature or at an event, is worked out outside the loop:
    a step costs about forty operations on arrays (n_member,).
    """
    n, dt, m = drv.n_step, drv.dt, len(par.mu_a)
    s = {name: getattr(start, name).copy() for name in _NAMES}
    s["alk"], s["alk_ref"] = np.maximum(s["alk"], 1e-3), np.maximum(s["alk_ref"], 1e-3)
    rec = {name: np.empty((n + 1, m)) for name in ("tan", "no2", "no3", "a", "b", "hydrogen")}
    by_step: dict[int, list[Happening]] = {}
    for happening in drv.happenings:
        by_step.setdefault(happening.step, []).append(happening)
    busy = _busy(drv, by_step)
    theta_a, theta_b = (THETA_A ** (drv.temp - 25)).tolist(), (THETA_B ** (drv.temp - 25)).tolist()
    nh3_k = (10 ** (0.09018 + 2729.92 / (drv.temp + T_ZERO_K))).tolist()
    excretion, waste = drv.excretion.tolist(), drv.waste.tolist()
    rots = bool(s["particulate"].any() or drv.waste.any() or drv.particulate.any())
    binds = bool(s["bound"].any() or drv.detox.any())
    back_share, rot_share, rot_theta = 1 - np.exp(-BOUND_RELEASE * dt), np.zeros(m), None
    low_ph = 10 ** (PH_SLOPE * par.ph_low)
    decay_least, decay_more = 0.4 * par.decay, 0.6 * par.decay
    n_block, block_now = par.noise_a.shape[0], -1
    mu_a = mu_b = par.mu_a
    hydrogen_ref, lag = 10.0 ** -s["ph_ref"], _Lag(s["lag_a"], s["lag_b"])
    for k in range(n):
        _record(rec, k, s, hydrogen_ref)
        if busy[k]:
            _events(drv, k, s, par, by_step.get(k, ()))
            hydrogen_ref, lag = 10.0 ** -s["ph_ref"], _Lag(s["lag_a"], s["lag_b"])
        days = start.days + k * dt
        block = min(int(days / BLOCK_DAYS), n_block - 1)
        if block != block_now:
            block_now, mu_a, mu_b = block, par.mu_a * par.noise_a[block], par.mu_b * par.noise_b[block]
        th_a, th_b = theta_a[k], theta_b[k]
        a, b, alk = s["a"], s["b"], s["alk"]
        # inhibition by acid, by spent alkalinity and by free ammonia
        h = hydrogen(alk, s["alk_ref"], hydrogen_ref)
        f_env = alk / ((ALK_HALF + alk) * (1 + low_ph * h * h * np.sqrt(h)))
        nh3 = s["tan"] / (1 + nh3_k[k] * h)
        f_a, f_b = f_env / (1 + nh3 / par.ki_a), f_env / (1 + nh3 / par.ki_b)
        # what comes in during the step
        gained: Array | float = excretion[k] * dt * par.inputs if excretion[k] else 0.0
        if rots:
            if rot_theta != th_b:
                rot_theta, rot_share = th_b, 1 - np.exp(-par.k_min * (th_b * dt))
            rot = s["particulate"] * rot_share
            s["particulate"] = s["particulate"] - rot + waste[k] * dt * par.inputs
            gained = gained + rot
        content = s["tan"] + gained
        if binds:
            back = s["bound"] * back_share
            s["bound"] = s["bound"] - back
            content = content + back
        content = np.maximum(content - par.plants * dt * content / (content + PLANT_HALF), 0.0)
        tan = implicit_monod(content, a * f_a * (th_a * dt), par.k_a)
        oxidised = content - tan
        fed_b = s["no2"] + oxidised
        no2 = implicit_monod(fed_b, b * f_b * (th_b * dt), par.k_b)
        s["no3"] = s["no3"] + fed_b - no2
        s["tan"], s["no2"] = tan, no2
        s["alk"] = np.maximum(alk - ALK_PER_N * (oxidised - 0.5 * gained), 1e-3)
        # growth
        u_a, u_b = f_a * tan / (par.k_a + tan), f_b * no2 / (par.k_b + no2)
        lag_a, lag_b = lag.at(days + dt)
        grow_a = mu_a * lag_a * (1 - a / par.a_max) - decay_more
        grow_b = mu_b * lag_b * (1 - b / par.a_max) - decay_more
        s["a"] = a * np.exp((dt * th_a) * (grow_a * u_a - decay_least))
        s["b"] = b * np.exp((dt * th_b) * (grow_b * u_b - decay_least))
    _record(rec, n, s, hydrogen_ref)
    ph = -np.log10(rec.pop("hydrogen"))
    return Trajectory(ph=ph, end=State(days=start.days + n * dt, **s), **rec)


def _busy(drv: Drivers, by_step: Mapping[int, list[Happening]]) -> list[bool]:
    """Steps at whose start something happens."""
    found = (drv.dose + drv.particulate + drv.change + drv.detox + drv.redose) > 0
    found |= ~np.isnan(drv.ph_read) | ~np.isnan(drv.kh_read)
    if drv.keep_alkalinity:
        found[:: max(1, round(1 / drv.dt))] = True  # once a day is enough for the keeper too
    for k in by_step:
        found[k] = True
    return found.tolist()


def _record(rec: dict[str, Array], k: int, s: dict[str, Array], hydrogen_ref: Array) -> None:
    rec["tan"][k] = s["tan"] + s["bound"]
    rec["no2"][k], rec["no3"][k] = s["no2"], s["no3"]
    rec["a"][k], rec["b"][k] = s["a"], s["b"]
    rec["hydrogen"][k] = hydrogen(s["alk"], s["alk_ref"], hydrogen_ref)


def _events(drv: Drivers, k: int, s: dict[str, Array], par: Parameters, happenings: list[Happening] | tuple) -> None:
    """What stands at the start of step k: readings of pH and KH, change, dose, food, detoxifier, cleaning."""
    if not np.isnan(drv.kh_read[k]):
        s["alk"] = np.full_like(s["alk"], drv.kh_read[k])
        s["alk_ref"] = s["alk"].copy()
    if not np.isnan(drv.ph_read[k]):
        s["ph_ref"] = drv.ph_read[k] + 0.5 * par.ph_offset
        s["alk_ref"] = s["alk"].copy()
    if drv.keep_alkalinity:
        s["alk"] = np.where(s["alk"] < ALK_RESTORED_BELOW * s["alk_ref"], s["alk_ref"], s["alk"])
    f = drv.change[k]
    if f:
        tan, no3, alk = drv.source
        s["tan"] = (1 - f) * s["tan"] + f * tan
        s["no3"] = (1 - f) * s["no3"] + f * no3
        s["alk"] = (1 - f) * s["alk"] + f * alk
        for name in ("no2", "bound", "particulate"):
            s[name] = (1 - f) * s[name]
    if drv.dose[k]:
        s["tan"] = s["tan"] + drv.dose[k]
    if drv.redose[k]:
        s["tan"] = s["tan"] + np.where(s["tan"] < LOW_MG_N_L, drv.redose[k], 0.0)
    if drv.particulate[k]:
        s["particulate"] = s["particulate"] + drv.particulate[k] * par.inputs
    if drv.detox[k]:
        bound = drv.detox[k] * s["tan"]
        s["tan"], s["bound"] = s["tan"] - bound, s["bound"] + bound
    for h in happenings:
        _happen(h, par, s)


def total_n(state: State) -> Array:
    """Dissolved and particulate nitrogen, mg N/L: conserved but for plants and water changes."""
    return state.tan + state.bound + state.no2 + state.no3 + state.particulate
