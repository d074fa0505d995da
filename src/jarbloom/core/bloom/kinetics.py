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

from jarbloom.core.bloom.drivers import Drivers, Happening
from jarbloom.core.bloom.events import LOSS, SEEDING
from jarbloom.core.bloom.parameters import BLOCK_DAYS, LOW_MG_N_L, NITRITE_WAIT_MG_N_L, Parameters
from jarbloom.core.water.ammonia import ammonium_per_unionised

Array = NDArray[np.float64]
LN10 = float(np.log(10.0))
THETA_A, THETA_B = 1.09, 1.07  # per deg C; ASM-type models 1.07 to 1.12
HEAT_HALF_C, HEAT_SLOPE = 38.0, 1.2  # above this nitrifiers fail within hours (judgement on 36 to 42 deg C)
ALK_HALF = 0.08  # meq/L
PH_SLOPE = 2.5
BOUND_RELEASE = 1.0  # 1/day
PLANT_HALF = 0.05  # mg N/L
ALK_PER_N = 2 / 14.007  # meq spent for each mg N nitrified; half of it comes back for each mg ammonified
ALK_RESTORED_BELOW = 0.5  # of the tank's own KH; a planned future assumes that the keeper mends it by then
PH_MENDED_BELOW = 0.6  # below the tank's own pH, likewise
LAG_CULTURE = 0.3  # a live culture shortens the lag to this share; borrowed media has none
ACID_EVERY = 2  # steps: pH and alkalinity move slowly, what they do to the rates is worked out so often
LAG_HOURS = 6.0  # the lag moves over days: worked out this often
PH_FALL, PH_RISE = 10**1.3, 10**-0.3  # how far pH may move with the alkalinity: 1.3 down, 0.3 up


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
    half = vmax_dt - content
    half += k
    half *= 0.5
    root = half * half
    root += k * content
    np.sqrt(root, out=root)
    root -= half
    return root


def warmth(temp_c: NDArray[np.float64] | float, theta: float) -> NDArray[np.float64]:
    """Rate at a temperature over the rate at 25 deg C: theta^(t - 25), failing above 38 deg C. 0 to 45 deg C."""
    t = np.asarray(temp_c, dtype=float)
    return theta ** (t - 25) / (1 + np.exp(HEAT_SLOPE * (t - HEAT_HALF_C)))


def hydrogen(alk: Array, alk_ref: Array, hydrogen_ref: Array) -> Array:
    """10^-pH: pH follows the keeper's own pH by the logarithm of what is left of the alkalinity, bounded."""
    return hydrogen_ref * np.minimum(np.maximum(alk_ref / alk, PH_RISE), PH_FALL)


_NAMES = ("tan", "bound", "no2", "no3", "particulate", "a", "b", "alk", "alk_ref", "ph_ref", "lag_a", "lag_b")
_KEPT = ("tan", "nh3", "no2", "no3", "a", "b", "ph")


def simulate(par: Parameters, drv: Drivers, start: State, at: NDArray[np.int64] | None = None) -> Trajectory:
    """Step the ensemble through the drivers; records at the steps in `at` (sorted), by default at all.

    Substrates by implicit Monod with the capacity of mid-step, growth by an exponential step: second order in
    growth, first in uptake. Both guilds stand in one array (2, n_member), so a step costs about fifty operations.
    """
    n, dt, m = drv.n_step, drv.dt, len(par.mu_a)
    at = np.arange(n + 1) if at is None else at
    s = {name: getattr(start, name).copy() for name in _NAMES}
    s["alk"], s["alk_ref"] = np.maximum(s["alk"], 1e-3), np.maximum(s["alk_ref"], 1e-3)
    rec = {name: np.empty((len(at), m), dtype=np.float32) for name in _KEPT}
    wanted = dict(zip(at.tolist(), range(len(at)), strict=True))
    by_step: dict[int, list[Happening]] = {}
    for happening in drv.happenings:
        by_step.setdefault(happening.step, []).append(happening)
    busy = _busy(drv, by_step)
    theta = (np.stack([warmth(drv.temp, THETA_A), warmth(drv.temp, THETA_B)]) * drv.running * dt).T[:, :, None]
    rot_theta = (warmth(drv.temp, THETA_B) * dt).tolist()
    nh4_per_nh3 = ammonium_per_unionised(drv.temp, drv.salinity).tolist()
    excretion, waste = drv.excretion.tolist(), drv.waste.tolist()
    rots = bool(s["particulate"].any() or drv.waste.any() or drv.particulate.any())
    binds = bool(s["bound"].any() or drv.detox.any())
    back_share, rot_share, rot_now = 1 - np.exp(-BOUND_RELEASE * dt), np.zeros(m), None
    low_ph = 10 ** (PH_SLOPE * par.ph_low)
    half, decay = np.stack([par.k_a, par.k_b]), np.stack([par.decay, par.decay])
    decay_least, decay_more = 0.4 * decay, 0.6 * decay
    diffuse_per_dt = par.diffuse / dt
    minus_inverse_max, inverse_ki = -1 / par.a_max, 1 / np.stack([par.ki_a, par.ki_b])
    inverse_kn, plants_dt = 1 / par.ki_n, par.plants * dt
    hydrogen_ref, cap = 10.0 ** -s["ph_ref"], np.stack([s["a"], s["b"]])
    substrate, mu, grown = np.empty((2, m)), np.empty((2, m)), np.zeros((2, m))
    mu_lagged, lag_every, n_block = mu, max(1, round(LAG_HOURS / 24 / dt)), par.noise_a.shape[0]
    block_now, lag_over = -1, 3.2 * max(float(s["lag_a"].max()), float(s["lag_b"].max()))

    def record(k: int) -> None:
        row = wanted.get(k)
        if row is None:
            return
        h = hydrogen(s["alk"], s["alk_ref"], hydrogen_ref)
        rec["tan"][row] = s["tan"] + s["bound"]
        rec["nh3"][row] = s["tan"] / (1 + nh4_per_nh3[min(k, n - 1)] * h)
        rec["no2"][row], rec["no3"][row] = s["no2"], s["no3"]
        rec["a"][row], rec["b"][row] = cap
        rec["ph"][row] = h

    for k in range(n):
        record(k)
        days = start.days + k * dt
        fresh_lag = k % lag_every == 0
        if busy[k]:
            s["a"], s["b"] = cap
            _events(drv, k, s, par, by_step.get(k, ()))
            cap, hydrogen_ref, fresh_lag = np.stack([s["a"], s["b"]]), 10.0 ** -s["ph_ref"], True
        block = min(int(days / BLOCK_DAYS), n_block - 1)
        if block != block_now:
            block_now, fresh_lag = block, True
            mu[0], mu[1] = par.mu_a * par.noise_a[block], par.mu_b * par.noise_b[block]
        if fresh_lag:
            middle = days + 0.5 * lag_every * dt
            lag = np.stack([s["lag_a"], s["lag_b"]])
            mu_lagged = mu if middle > lag_over else mu * (1 - np.exp(-((middle / lag) ** 2)))
        # inhibition by acid, by spent alkalinity, by free ammonia, and of B by much nitrite
        alk, tan, no2 = s["alk"], s["tan"], s["no2"]
        if busy[k] or k % ACID_EVERY == 0:
            h = hydrogen(alk, s["alk_ref"], hydrogen_ref)
            env = alk / ((ALK_HALF + alk) * (1 + low_ph * (h * h * np.sqrt(h))))
            bound_share = 1 + nh4_per_nh3[k] * h
        f = inverse_ki * (tan / bound_share)
        f += 1
        np.divide(env, f, out=f)
        crowded = no2 * inverse_kn
        crowded *= crowded
        crowded += 1
        f[1] /= crowded
        # what comes in during the step
        gained: Array | float = excretion[k] * dt * par.inputs if excretion[k] else 0.0
        if rots:
            if rot_theta[k] != rot_now:
                rot_now = rot_theta[k]
                rot_share = 1 - np.exp(-par.k_min * rot_now)
            rot = s["particulate"] * rot_share
            s["particulate"] = s["particulate"] - rot + waste[k] * dt * par.inputs
            gained = gained + rot
        content = tan + gained
        if binds:
            back = s["bound"] * back_share
            s["bound"] = s["bound"] - back
            content = content + back
        content = content / (1 + plants_dt / (content + PLANT_HALF))
        warm = theta[k]
        grown *= 0.5
        grown += 1
        v = grown
        v *= cap
        v *= f
        v *= warm
        halved = v * diffuse_per_dt
        halved += half
        tan = implicit_monod(content, v[0], halved[0])
        oxidised = content - tan
        fed_b = no2 + oxidised
        no2 = implicit_monod(fed_b, v[1], halved[1])
        s["no3"] = s["no3"] + (fed_b - no2)
        s["tan"], s["no2"] = tan, no2
        s["alk"] = np.maximum(alk - ALK_PER_N * (oxidised - 0.5 * gained), 1e-3)
        # growth
        substrate[0], substrate[1] = tan, no2
        halved += substrate
        f *= substrate
        f /= halved
        grown = cap * minus_inverse_max
        grown += 1
        grown *= mu_lagged
        grown -= decay_more
        grown *= f
        grown -= decay_least
        grown *= warm
        cap *= np.exp(grown)
    s["a"], s["b"] = cap
    record(n)
    np.log10(rec["ph"], out=rec["ph"])
    np.negative(rec["ph"], out=rec["ph"])
    return Trajectory(at, end=State(days=start.days + n * dt, **s), **rec)


def _busy(drv: Drivers, by_step: Mapping[int, list[Happening]]) -> list[bool]:
    """Steps at whose start something happens."""
    found = (drv.dose + drv.particulate + drv.change + drv.detox + drv.redose + drv.relief) > 0
    found |= ~np.isnan(drv.ph_read) | ~np.isnan(drv.kh_read)
    if drv.keep_alkalinity:
        found[:: max(1, round(1 / drv.dt))] = True  # once a day is enough for the keeper too
    for k in by_step:
        found[k] = True
    return found.tolist()


def _events(drv: Drivers, k: int, s: dict[str, Array], par: Parameters, happenings: list[Happening] | tuple) -> None:
    """What stands at the start of step k: readings of pH and KH, change, dose, food, detoxifier, cleaning."""
    if not np.isnan(drv.kh_read[k]):
        s["alk"] = np.full_like(s["alk"], max(drv.kh_read[k], 1e-3))
    if not np.isnan(drv.ph_read[k]):
        s["ph_ref"] = drv.ph_read[k] + 0.5 * par.ph_offset
        s["alk_ref"] = s["alk"].copy()
    if drv.keep_alkalinity:
        _mend(s, par, *drv.home)
    if drv.change[k]:
        _change(s, drv.change[k], drv.source[:, k])
    if drv.relief[k]:
        _change(s, np.where(_over(drv, k, s), drv.relief[k], 0.0), drv.source[:, k])
    if drv.dose[k]:
        s["tan"] = s["tan"] + drv.dose[k]
    if drv.redose[k]:
        hungry = (s["tan"] < LOW_MG_N_L) & (s["no2"] < NITRITE_WAIT_MG_N_L)
        s["tan"] = s["tan"] + np.where(hungry, drv.redose[k], 0.0)
    if drv.particulate[k]:
        s["particulate"] = s["particulate"] + drv.particulate[k] * par.inputs
    if drv.detox[k]:
        bound = drv.detox[k] * s["tan"]
        s["tan"], s["bound"] = s["tan"] - bound, s["bound"] + bound
    for h in happenings:
        _happen(h, par, s)


def _mend(s: dict[str, Array], par: Parameters, home_ph: float, home_alk: float) -> None:
    """The keeper brings KH and pH back to the tank's own where half of the KH is gone or the pH has fallen far."""
    ph = s["ph_ref"] - np.log10(np.clip(s["alk_ref"] / s["alk"], PH_RISE, PH_FALL))
    low = (s["alk"] < ALK_RESTORED_BELOW * home_alk) | (ph < home_ph + 0.5 * par.ph_offset - PH_MENDED_BELOW)
    s["alk"], s["alk_ref"] = np.where(low, home_alk, s["alk"]), np.where(low, home_alk, s["alk_ref"])
    s["ph_ref"] = np.where(low, home_ph + 0.5 * par.ph_offset, s["ph_ref"])


def _over(drv: Drivers, k: int, s: dict[str, Array]) -> NDArray[np.bool_]:
    """Members whose water is over the trigger of the school's own water change."""
    tan_trigger, no2_trigger = drv.relief_over
    return (s["tan"] + s["bound"] > tan_trigger) | (s["no2"] > no2_trigger)


def _change(s: dict[str, Array], share: Array | float, source: Array) -> None:
    """New water takes the place of a share: c' = (1 - f) c + f s; the colony stays."""
    for name, content in (("tan", source[0]), ("no3", source[1]), ("alk", source[2])):
        s[name] = (1 - share) * s[name] + share * content
    for name in ("no2", "bound", "particulate"):
        s[name] = (1 - share) * s[name]


def _happen(h: Happening, par: Parameters, s: dict[str, Array]) -> None:
    z = par.event_z[h.z]
    if h.kind == "loss":
        loss = LOSS[h.key]
        keep = 1 - h.share * expit(loss.mean + h.shift + loss.sd * z[0])
        s["a"], s["b"] = s["a"] * keep, s["b"] * keep
        return
    seed = SEEDING[h.key]
    alive = ndtr(z[1]) > seed.dead
    amount = np.where(alive, h.share * np.exp(seed.sd * z[0]), 0.0)
    s["a"], s["b"] = s["a"] + seed.a * amount, s["b"] + seed.b * amount
    shorter = 1e-3 if h.key == "borrowed" else LAG_CULTURE
    s["lag_a"] = np.where(alive, s["lag_a"] * shorter, s["lag_a"])
    s["lag_b"] = np.where(alive, s["lag_b"] * shorter, s["lag_b"])


def total_n(state: State) -> Array:
    """Dissolved and particulate nitrogen, mg N/L: conserved but for plants and water changes."""
    return state.tan + state.bound + state.no2 + state.no3 + state.particulate
