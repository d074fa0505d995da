"""The nitrogen cycle of a tank: its state, its equations, and what events do at a moment.

State per member: TAN, bound TAN, nitrite, nitrate, particulate N (mg N/L), saturated capacity of the two
guilds A and B at 25 deg C (mg N/L/day), alkalinity (meq/L). Equations: docs/model.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.drivers import Drivers, Happening
from jarbloom.core.bloom.events import (
    HIDDEN_MG_N_L,
    HIDDEN_SD,
    HISTORY_MG_N_L_DAY,
    HISTORY_SD,
    LOSS,
    ROCK_DIES,
    ROCK_SEEDS,
    SEEDING,
    UNLOGGED_LOSS,
    UNLOGGED_MG_N_L,
    UNLOGGED_SD,
    Seed,
)
from jarbloom.core.bloom.mending import ALK_KEPT, mend
from jarbloom.core.bloom.parameters import LOW_MG_N_L, NITRITE_WAIT_MG_N_L, Parameters
from jarbloom.special import expit, ndtr

Array = NDArray[np.float64]
THETA_A, THETA_B = 1.09, 1.07  # per deg C; ASM-type models 1.07 to 1.12
HEAT_HALF_C, HEAT_SLOPE = 38.0, 1.2  # above this nitrifiers fail within hours (judgement on 36 to 42 deg C)
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


def warmth(temp_c: NDArray[np.float64] | float, theta: float) -> NDArray[np.float64]:
    """Rate at a temperature over the rate at 25 deg C: theta^(t - 25), failing above 38 deg C. 0 to 45 deg C."""
    t = np.asarray(temp_c, dtype=float)
    return theta ** (t - 25) / (1 + np.exp(HEAT_SLOPE * (t - HEAT_HALF_C)))


def act(drv: Drivers, k: int, s: dict[str, Array], par: Parameters, happenings: Sequence[Happening]) -> None:
    """What stands at the start of step k: readings of pH and KH, change, dose, food, detoxifier, cleaning."""
    if not np.isnan(drv.kh_read[k]):
        s["alk"] = np.full_like(s["alk"], max(drv.kh_read[k], 1e-3))
    if not np.isnan(drv.ph_read[k]):
        s["ph_ref"] = drv.ph_read[k] + 0.5 * par.ph_offset
        s["alk_ref"] = s["alk"].copy()
    if drv.change[k]:
        _change(s, drv.change[k], drv.source[:, k], par.lifted)
    if drv.relief[k]:
        _change(s, np.where(_over(drv, k, s), drv.relief[k], 0.0), drv.source[:, k], par.lifted)
    if drv.dose[k]:
        s["tan"] = s["tan"] + drv.dose[k]
    if drv.dose_alk[k]:
        s["alk"] = s["alk"] + drv.dose_alk[k]
    if drv.mend[k]:
        s["alk"] = mend(s["alk"], drv.home[1], np.asarray(drv.mends), int(drv.mend[k]))
    if drv.redose[k]:
        hungry = (s["tan"] < LOW_MG_N_L) & (s["no2"] < NITRITE_WAIT_MG_N_L)
        given = np.where(hungry, drv.redose[k], 0.0)
        s["tan"], s["alk"] = s["tan"] + given, s["alk"] + drv.redose_alk * given
    if drv.particulate[k]:
        s["particulate"] = s["particulate"] + drv.particulate[k] * par.inputs
    if drv.detox[k]:
        bound = drv.detox[k] * s["tan"]
        s["tan"], s["bound"] = s["tan"] - bound, s["bound"] + bound
    for h in happenings:
        _happen(h, par, s)


def kept_alkalinity(alk: Array, home_alk: float) -> Array:
    """The alkalinity below which a keeper who answers the KH job lets the water not fall, meq/L: half of the tank's
    own, or what there is today where that is less."""
    return np.minimum(alk, ALK_KEPT * home_alk)


def _over(drv: Drivers, k: int, s: dict[str, Array]) -> NDArray[np.bool_]:
    """Members whose water is over the trigger of the school's own water change."""
    tan_trigger, no2_trigger = drv.relief_over
    return (s["tan"] + s["bound"] > tan_trigger) | (s["no2"] > no2_trigger)


def _change(s: dict[str, Array], share: Array | float, source: Array, lifted: Array) -> None:
    """New water takes the place of a share: c' = (1 - f) c + f s; the colony stays, and most of what lies and rots."""
    for name, content in (("tan", source[0]), ("no3", source[1]), ("alk", source[2])):
        s[name] = (1 - share) * s[name] + share * content
    for name in ("no2", "bound"):
        s[name] = (1 - share) * s[name]
    s["particulate"] = (1 - share * lifted) * s["particulate"]


def _happen(h: Happening, par: Parameters, s: dict[str, Array]) -> None:
    z = par.event_z[h.z]
    if h.kind == "loss":
        loss = LOSS[h.key]
        keep = 1 - h.share * expit(loss.mean + h.shift + loss.sd * z[0])
        s["a"], s["b"] = s["a"] * keep, s["b"] * keep
        return
    if h.kind == "history":
        s["a"] = s["a"] + HISTORY_MG_N_L_DAY * np.exp(HISTORY_SD * z[0])
        s["b"] = s["b"] + HISTORY_MG_N_L_DAY * np.exp(HISTORY_SD * (0.8 * z[0] + 0.6 * z[1]))
        return
    if h.kind == "hidden":
        s["particulate"] = s["particulate"] + _hidden(z[0])
        return
    if h.kind == "unlogged":
        s["particulate"] = s["particulate"] + UNLOGGED_MG_N_L * np.exp(UNLOGGED_SD * z[0])
        keep = 1 - expit(UNLOGGED_LOSS.mean + UNLOGGED_LOSS.sd * z[1])
        s["a"], s["b"] = s["a"] * keep, s["b"] * keep
        return
    if h.kind == "rock":
        s["particulate"] = s["particulate"] + par.die_off * ROCK_DIES[h.key] * h.share
        _seed(SEEDING["rock"], h.share * ROCK_SEEDS[h.key], "rock", z, s)
        return
    _seed(SEEDING[h.key], h.share, h.key, z, s)


def _hidden(z: Array) -> Array:
    return np.asarray(HIDDEN_MG_N_L * np.exp(HIDDEN_SD * z))


def hidden_mg_n_l(par: Parameters, drv: Drivers) -> Array:
    """What each member has had in the last days that the log does not tell, particulate N, mg N/L, (n_member,)."""
    return sum((_hidden(par.event_z[h.z][0]) for h in drv.happenings if h.kind == "hidden"), np.zeros(len(par.mu_a)))


def _seed(seed: Seed, share: float, key: str, z: Array, s: dict[str, Array]) -> None:
    """Capacity that a culture, borrowed media or live rock brings, where it lives."""
    alive = ndtr(z[1]) > seed.dead
    amount = np.where(alive, share * np.exp(seed.sd * z[0]), 0.0)
    s["a"], s["b"] = s["a"] + seed.a * amount, s["b"] + seed.b * amount
    shorter = 1e-3 if key in ("borrowed", "rock") else LAG_CULTURE
    s["lag_a"] = np.where(alive, s["lag_a"] * shorter, s["lag_a"])
    s["lag_b"] = np.where(alive, s["lag_b"] * shorter, s["lag_b"])


def total_n(state: State) -> Array:
    """Dissolved and particulate nitrogen, mg N/L: conserved but for plants and water changes."""
    return state.tan + state.bound + state.no2 + state.no3 + state.particulate
