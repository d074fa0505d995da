"""The nitrogen cycle of a tank, stepped for a whole ensemble at once.

State per member: TAN, bound TAN, nitrite, nitrate, particulate N (mg N/L), saturated capacity of the two
guilds A and B at 25 deg C (mg N/L/day), alkalinity (meq/L). Equations: docs/model.md.
"""

from __future__ import annotations

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
    removed_a: Array  # mg N/L/day oxidised by A during the step
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


def member_ph(alk: Array, alk_ref: Array, ph_ref: Array) -> Array:
    """pH follows the keeper's own pH by the logarithm of what is left of the alkalinity, bounded."""
    return ph_ref + np.clip(np.log10(np.maximum(alk, 1e-3) / np.maximum(alk_ref, 1e-3)), -1.3, 0.3)


def simulate(par: Parameters, drv: Drivers, start: State) -> Trajectory:
    """Step the ensemble through the drivers: implicit Monod for substrates, exponential step for growth."""
    n, dt, m = drv.n_step, drv.dt, len(par.mu_a)
    s = {
        name: getattr(start, name).copy()
        for name in (
            "tan",
            "bound",
            "no2",
            "no3",
            "particulate",
            "a",
            "b",
            "alk",
            "alk_ref",
            "ph_ref",
            "lag_a",
            "lag_b",
        )
    }
    rec = {name: np.empty((n + 1, m)) for name in ("tan", "no2", "no3", "a", "b", "ph")}
    removed = np.zeros((n + 1, m))
    by_step: dict[int, list[Happening]] = {}
    for h in drv.happenings:
        by_step.setdefault(h.step, []).append(h)
    n_block = par.noise_a.shape[0]
    # Temperature factors and the NH3 constant change only with the step, not with the member.
    factor_a, factor_b = THETA_A ** (drv.temp - 25), THETA_B ** (drv.temp - 25)
    pka = 0.09018 + 2729.92 / (drv.temp + T_ZERO_K)
    for k in range(n):
        ph = member_ph(s["alk"], s["alk_ref"], s["ph_ref"])
        _record(rec, k, s, ph)
        _events(drv, k, s, par, by_step.get(k, ()))
        if not np.isnan(drv.ph_read[k]) or not np.isnan(drv.kh_read[k]):
            ph = member_ph(s["alk"], s["alk_ref"], s["ph_ref"])
        days = start.days + k * dt
        block = min(int(days / BLOCK_DAYS), n_block - 1)
        f_env = s["alk"] / (ALK_HALF + s["alk"]) / (1 + np.exp(LN10 * PH_SLOPE * (par.ph_low - ph)))
        nh3 = s["tan"] / (1 + np.exp(LN10 * (pka[k] - ph)))
        f_a, f_b = f_env / (1 + nh3 / par.ki_a), f_env / (1 + nh3 / par.ki_b)
        th_a, th_b = factor_a[k], factor_b[k]
        # what comes in during the step
        rot = s["particulate"] * (1 - np.exp(-par.k_min * th_b * dt))
        back = s["bound"] * (1 - np.exp(-BOUND_RELEASE * dt))
        s["particulate"] = s["particulate"] - rot + drv.waste[k] * par.inputs * dt
        s["bound"] = s["bound"] - back
        gained = rot + drv.excretion[k] * par.inputs * dt
        content = s["tan"] + back + gained
        plants = par.plants * dt * content / (content + PLANT_HALF)
        content = np.maximum(content - plants, 0.0)
        tan = implicit_monod(content, s["a"] * th_a * f_a * dt, par.k_a)
        oxidised = content - tan
        fed_b = s["no2"] + oxidised
        no2 = implicit_monod(fed_b, s["b"] * th_b * f_b * dt, par.k_b)
        s["no3"] = s["no3"] + fed_b - no2
        s["tan"], s["no2"] = tan, no2
        s["alk"] = np.maximum(s["alk"] - ALK_PER_N * (oxidised - 0.5 * gained), 1e-3)
        # growth
        u_a, u_b = f_a * tan / (par.k_a + tan), f_b * no2 / (par.k_b + no2)
        lag_a = 1 - np.exp(-(((days + dt) / s["lag_a"]) ** 2))
        lag_b = 1 - np.exp(-(((days + dt) / s["lag_b"]) ** 2))
        grow_a = par.mu_a * par.noise_a[block] * lag_a * u_a * (1 - s["a"] / par.a_max)
        grow_b = par.mu_b * par.noise_b[block] * lag_b * u_b * (1 - s["b"] / par.a_max)
        s["a"] = s["a"] * np.exp(dt * th_a * (grow_a - par.decay * (0.4 + 0.6 * u_a)))
        s["b"] = s["b"] * np.exp(dt * th_b * (grow_b - par.decay * (0.4 + 0.6 * u_b)))
        removed[k] = oxidised / dt
    _record(rec, n, s, member_ph(s["alk"], s["alk_ref"], s["ph_ref"]))
    return Trajectory(removed_a=removed, end=State(days=start.days + n * dt, **s), **rec)


def _record(rec: dict[str, Array], k: int, s: dict[str, Array], ph: Array) -> None:
    rec["tan"][k] = s["tan"] + s["bound"]
    rec["no2"][k], rec["no3"][k] = s["no2"], s["no3"]
    rec["a"][k], rec["b"][k], rec["ph"][k] = s["a"], s["b"], ph


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
