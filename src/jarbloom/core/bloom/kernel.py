"""The steps of the bloom model for every member, compiled to machine code: the equations in the small, and the loop.

What is compiled is kept beside this file and made anew when this file changes, and only then. So every equation and
every constant that the loop takes stands here, and nothing of the application is imported (tests/test_floors.py).
Equations: docs/model.md.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cache, wraps
from threading import Lock
from typing import Any, NamedTuple, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Kind = TypeVar("Kind", bound=Callable[..., Any])

LN10 = math.log(10.0)
ALK_HALF = 0.08  # meq/L
PH_SLOPE = 2.5
BOUND_RELEASE = 1.0  # 1/day
PLANT_HALF = 0.05  # mg N/L
ALK_PER_N = 2 / 14.007  # meq spent for each mg N nitrified; half of it comes back for each mg ammonified
PH_FALL, PH_RISE = 10**1.3, 10**-0.8  # how far pH may move with the alkalinity from where it was read, down and up
GAMMA = 2 - 2**0.5  # of TR-BDF2: both stages are as stiff
ACID_EVERY = 2  # steps: pH and alkalinity move slowly, what they do to the rates is worked out so often
LEAST_ALK = 1e-3  # meq/L
LAG_FELT = 3.2  # times the lag: beyond it nothing of it is left
_OVER = GAMMA * (2 - GAMMA)
_STAGE = (1 - GAMMA) / (2 - GAMMA)  # and as much is GAMMA / 2


_EQUATIONS: list[Callable[..., Any]] = []
_LOOPS: list[Callable[..., Any]] = []
_LOADING = Lock()


def also_alone(function: Kind) -> Kind:
    """Compiled where the loop calls it; by itself it takes arrays as any other function."""
    _EQUATIONS.append(function)
    return function


def compiled(function: Kind) -> Kind:
    """To machine code, at the first call: what compiles it takes longer to load than a page that makes no forecast."""
    _LOOPS.append(function)

    @wraps(function)
    def loop(*given: Any) -> Any:
        return _machine()[function.__name__](*given)

    return cast(Kind, loop)


def to_machine_code(function: Kind) -> Kind:
    """Kept for the next start where a folder can be written; other threads go on while it runs."""
    import numba

    try:
        return cast(Kind, numba.njit(cache=True, nogil=True, error_model="numpy")(function))
    except RuntimeError:  # no folder to keep it in: it is compiled anew at every start
        return cast(Kind, numba.njit(nogil=True, error_model="numpy")(function))


def _machine() -> dict[str, Callable[..., Any]]:
    with _LOADING:
        return _loaded()


@cache
def _loaded() -> dict[str, Callable[..., Any]]:
    """The loops by name. They call each other by the names of this module, so these become what is compiled."""
    from numba.extending import register_jitable

    for equation in _EQUATIONS:
        register_jitable(equation)
    made = {loop.__name__: to_machine_code(loop) for loop in _LOOPS}
    globals().update(made)
    return made


class Water(NamedTuple):
    """What moves, each (n_member,): mg N/L, capacities mg N/L/day, alkalinity meq/L; and what a step hands to the next
    one (`moved`, `grown`, `spent`), or works out for some steps (`env`, `share`: of acid; `rots`)."""

    tan: Array
    bound: Array
    no2: Array
    no3: Array
    particulate: Array
    a: Array
    b: Array
    alk: Array
    alk_ref: Array
    hydrogen_ref: Array
    lag_a: Array
    lag_b: Array
    least_alk: Array
    moved_a: Array
    moved_b: Array
    grown_a: Array
    grown_b: Array
    spent: Array
    env: Array
    share: Array
    rots: Array


class Made(NamedTuple):
    """What a step works out on its way, each (n_member,), mg N/L: see `capacities`, `come_in` and `oxidised`."""

    v_a: Array
    v_b: Array
    could_a: Array
    could_b: Array
    gained: Array
    comes: Array
    before: Array
    left: Array
    to_no2: Array
    to_no3: Array


class Rates(NamedTuple):
    """The members' parameters, each (n_member,), noise (n_block, n_member); see parameters.py."""

    mu_a: Array
    mu_b: Array
    noise_a: Array
    noise_b: Array
    k_a: Array
    k_b: Array
    ki_a: Array
    ki_b: Array
    ki_n: Array
    decay: Array
    a_max: Array
    diffuse: Array
    low_ph: Array  # 10^(PH_SLOPE ph_low)
    ph_slope: Array
    alk_use: Array
    k_min: Array
    inputs: Array
    plants: Array


class Course(NamedTuple):
    """What the steps are driven by, each (n_step,): warmth of either guild times its running, warmth alone for what
    rots, excretion and waste mg N/L/day; and the step in days, the length of a block of noise, the day of step 0, and
    whether anything rots or is bound at all."""

    warm_a: Array
    warm_b: Array
    rot: Array
    nh4_per_nh3: Array
    excretion: Array
    waste: Array
    dt: float
    block_days: float
    start_days: float
    rots: bool
    binds: bool


class Kept(NamedTuple):
    """Records, each (n_row, n_member) in single precision: a long run of many members must stay small. `ph` holds
    10^-pH until the run is over."""

    tan: NDArray[np.float32]
    nh3: NDArray[np.float32]
    no2: NDArray[np.float32]
    no3: NDArray[np.float32]
    a: NDArray[np.float32]
    b: NDArray[np.float32]
    ph: NDArray[np.float32]


@also_alone
def implicit_monod(content: Any, vmax_dt: Any, k: Any) -> Any:
    """Substrate after a step of Monod uptake, the positive root of s^2 + s (K + V dt - c) - K c = 0.

    `content` is what was there plus what came in (mg N/L). Stable for any step and never negative.
    """
    half = 0.5 * (vmax_dt - content + k)
    return np.sqrt(half * half + k * content) - half


@also_alone
def monod_with_inflow(before: Any, inflow: Any, vmax_dt: Any, k: Any) -> Any:
    """Substrate after a step of Monod uptake while `inflow` comes in evenly, all mg N/L: TR-BDF2 (Bank et al. 1985),
    whose two implicit stages are quadratics as in `implicit_monod`. Second order, never negative, exact at rest;
    `before` may be below zero by what something else will have taken."""
    start, v = np.maximum(before, 0.0), _STAGE * vmax_dt
    content = np.maximum(before + GAMMA * inflow - v * start / (k + start), 0.0)
    stage = implicit_monod(content, v, k)
    content = np.maximum((stage - (1 - GAMMA) ** 2 * before) / _OVER + _STAGE * inflow, 0.0)
    return np.minimum(implicit_monod(content, v, k), np.maximum(before + inflow, 0.0))


@also_alone
def hydrogen(alk: Any, alk_ref: Any, hydrogen_ref: Any, slope: Any) -> Any:
    """10^-pH: pH follows the keeper's own pH by the logarithm of what is left of the alkalinity, bounded."""
    return hydrogen_ref * np.minimum(np.maximum((alk_ref / alk) ** slope, PH_RISE), PH_FALL)


@also_alone
def slowed_by_acid(alk: Any, h: Any, low_ph: Any) -> Any:
    """Share of both guilds' rates that spent alkalinity and acid leave; `low_ph`: 10^(PH_SLOPE times the pH of half
    rate)."""
    return alk / ((ALK_HALF + alk) * (1 + low_ph * (h * h * np.sqrt(h))))


@also_alone
def taken_by_plants(content: Any, plants_dt: Any) -> Any:
    """mg N/L of `content` that plants take up in a step."""
    return content * (1 - 1 / (1 + plants_dt / (content + PLANT_HALF)))


@also_alone
def hindered(could: Any, env: Any, free: Any, ki: Any) -> Any:
    """Uptake that acid, spent alkalinity (`env`) and free ammonia (mg N/L; `ki` halves it) leave of what could be."""
    return could * env / (1 + free / ki)


@also_alone
def stalled_by_nitrite(uptake: Any, no2: Any, ki_n: Any) -> Any:
    """Uptake of B that its own much nitrite leaves."""
    return uptake / (1 + (no2 / ki_n) ** 2)


@also_alone
def growth(mu: Any, full: Any, works: Any, decay: Any) -> Any:
    """Net growth per day at 25 deg C of a guild that is `full` of its ceiling and works at a share of its capacity; one
    that starves loses four tenths of its decay."""
    return (mu * (1 - full) - 0.6 * decay) * works - 0.4 * decay


@also_alone
def past_the_lag(mu: float, days: float, lag: float) -> float:
    """Growth rate at so many days after the beginning."""
    return mu * (1 - math.exp(-((days / lag) ** 2))) if days < LAG_FELT * lag else mu


@compiled
def record(row: int, nh4_per_nh3: float, w: Water, r: Rates, kept: Kept) -> None:
    """The members as they stand, into one row of the records."""
    for j in range(w.tan.size):
        h = hydrogen(w.alk[j], w.alk_ref[j], w.hydrogen_ref[j], r.ph_slope[j])
        kept.tan[row, j], kept.nh3[row, j] = w.tan[j] + w.bound[j], w.tan[j] / (1 + nh4_per_nh3 * h)
        kept.no2[row, j], kept.no3[row, j] = w.no2[j], w.no3[j]
        kept.a[row, j], kept.b[row, j], kept.ph[row, j] = w.a[j], w.b[j], h


@compiled
def acid_felt(w: Water, r: Rates, nh4_per_nh3: float) -> None:
    """What acid and spent alkalinity leave of the rates (`env`), and TAN for each NH3 (`share`), for some steps."""
    for j in range(w.tan.size):
        alk = max(w.alk[j] + 0.5 * ACID_EVERY * w.spent[j], LEAST_ALK)  # the middle of what it stands for
        h = hydrogen(alk, w.alk_ref[j], w.hydrogen_ref[j], r.ph_slope[j])
        w.env[j], w.share[j] = slowed_by_acid(alk, h, r.low_ph[j]), 1 + nh4_per_nh3 * h


@compiled
def capacities(happened: bool, w: Water, r: Rates, m: Made, warm_a: float, warm_b: float, dt: float) -> None:
    """What the capacities of mid-step take up in a step: saturated (`could`), and as they are hindered (`v`)."""
    for j in range(w.tan.size):
        tan, no2, env, share, per_dt = w.tan[j], w.no2[j], w.env[j], w.share[j], r.diffuse[j] / dt
        could_a = w.a[j] * (1 + 0.5 * w.grown_a[j]) * warm_a * dt
        could_b = w.b[j] * (1 + 0.5 * w.grown_b[j]) * warm_b * dt

        # The water of mid-step moves on as in the step before; after an event half a step is tried first
        if happened:
            v_a = hindered(could_a, env, tan / share, r.ki_a[j])
            v_b = stalled_by_nitrite(hindered(could_b, env, tan / share, r.ki_b[j]), no2, r.ki_n[j])
            tan_then = implicit_monod(tan, 0.5 * v_a, r.k_a[j] + v_a * per_dt)
            no2_then = implicit_monod(no2 + tan - tan_then, 0.5 * v_b, r.k_b[j] + v_b * per_dt)
        else:
            tan_then, no2_then = max(tan + 0.5 * w.moved_a[j], 0.0), max(no2 + 0.5 * w.moved_b[j], 0.0)

        free = tan_then / share
        m.v_a[j] = hindered(could_a, env, free, r.ki_a[j])
        m.v_b[j] = stalled_by_nitrite(hindered(could_b, env, free, r.ki_b[j]), no2_then, r.ki_n[j])
        m.could_a[j], m.could_b[j] = could_a, could_b


@compiled
def come_in(k: int, new_share: bool, w: Water, r: Rates, m: Made, c: Course) -> None:
    """TAN that comes into the water in step k (`gained` of food and waste, `comes` with what was bound), and what there
    was before it, less what plants take (`before`)."""
    dt = c.dt
    for j in range(w.tan.size):
        gained = c.excretion[k] * dt * r.inputs[j]
        if c.rots:
            if new_share:
                w.rots[j] = 1 - math.exp(-r.k_min[j] * c.rot[k] * dt)
            rot = w.particulate[j] * w.rots[j]
            w.particulate[j] += c.waste[k] * dt * r.inputs[j] - rot
            gained += rot
        freed = 0.0
        if c.binds:
            freed = w.bound[j] * (1 - math.exp(-BOUND_RELEASE * dt))
            w.bound[j] -= freed
        comes = gained + freed
        m.before[j] = max(w.tan[j] - taken_by_plants(w.tan[j] + comes, r.plants[j] * dt), -comes)
        m.gained[j], m.comes[j] = gained, comes


@compiled
def taken_up(before: Array, inflow: Array, v: Array, k: Array, diffuse: Array, dt: float, left: Array) -> None:
    """What is `left` of a substrate after a step; a thick film starves inside, so K grows with the capacity."""
    for j in range(before.size):
        left[j] = monod_with_inflow(before[j], inflow[j], v[j], k[j] + v[j] * (diffuse[j] / dt))


@compiled
def oxidised(w: Water, r: Rates, m: Made, dt: float) -> None:
    """Ammonia to nitrite (`to_no2`) to nitrate (`to_no3`)."""
    taken_up(m.before, m.comes, m.v_a, r.k_a, r.diffuse, dt, m.left)
    for j in range(w.tan.size):
        m.to_no2[j] = m.before[j] + m.comes[j] - m.left[j]
        w.moved_a[j], w.tan[j] = m.left[j] - w.tan[j], m.left[j]
    taken_up(w.no2, m.to_no2, m.v_b, r.k_b, r.diffuse, dt, m.left)
    for j in range(w.tan.size):
        m.to_no3[j] = w.no2[j] + m.to_no2[j] - m.left[j]
        w.moved_b[j], w.no2[j] = m.left[j] - w.no2[j], m.left[j]
        w.no3[j] += m.to_no3[j]


@compiled
def grow(block: int, days: float, w: Water, r: Rates, m: Made, warm_a: float, warm_b: float, dt: float) -> None:
    """Both guilds by the share of its capacity that each worked at, `days` in mid-step; alkalinity by what was
    nitrified and what was gained."""
    for j in range(w.tan.size):
        alk = max(w.alk[j] - ALK_PER_N * r.alk_use[j] * (m.to_no2[j] - 0.5 * m.gained[j]), w.least_alk[j])
        w.spent[j], w.alk[j] = alk - w.alk[j], alk
        mu_a = past_the_lag(r.mu_a[j] * r.noise_a[block, j], days, w.lag_a[j])
        mu_b = past_the_lag(r.mu_b[j] * r.noise_b[block, j], days, w.lag_b[j])
        works_a, works_b = m.to_no2[j] / max(m.could_a[j], 1e-30), m.to_no3[j] / max(m.could_b[j], 1e-30)
        w.grown_a[j] = growth(mu_a, w.a[j] / r.a_max[j], works_a, r.decay[j]) * warm_a * dt
        w.grown_b[j] = growth(mu_b, w.b[j] / r.a_max[j], works_b, r.decay[j]) * warm_b * dt
        w.a[j] *= math.exp(w.grown_a[j])
        w.b[j] *= math.exp(w.grown_b[j])


@compiled
def advance(
    first: int, last: int, w: Water, r: Rates, c: Course, kept: Kept, at: NDArray[np.int64], row: int
) -> int:  # fmt: skip
    """Steps `first` to `last` - 1 of all members; something has just happened before the first of them, and nothing
    happens before the others. Records the steps in `at` from `row` on; returns the next row.

    Substrates by Monod uptake in two implicit stages with the capacity of mid-step, growth by an exponential step of
    what was taken up: second order in time. One short loop over the members after the other: the members do not wait
    for each other, so a processor works at several at once, and is half as long at it as in one long loop.
    """
    dt, n = c.dt, w.tan.size
    m = Made(
        np.empty(n), np.empty(n), np.empty(n), np.empty(n), np.empty(n), np.empty(n), np.empty(n), np.empty(n),
        np.empty(n), np.empty(n),
    )  # fmt: skip
    for k in range(first, last):
        days = c.start_days + k * dt
        block = min(int(days / c.block_days), r.noise_a.shape[0] - 1)
        if k == first or k % ACID_EVERY == 0:
            acid_felt(w, r, c.nh4_per_nh3[k])
        capacities(k == first, w, r, m, c.warm_a[k], c.warm_b[k], dt)
        come_in(k, k == first or c.rot[k] != c.rot[k - 1], w, r, m, c)
        oxidised(w, r, m, dt)
        grow(block, days + 0.5 * dt, w, r, m, c.warm_a[k], c.warm_b[k], dt)
        if row < at.size and at[row] == k + 1:
            record(row, c.nh4_per_nh3[min(k + 1, c.nh4_per_nh3.size - 1)], w, r, kept)
            row += 1
    return row


@cache
def make_ready() -> None:
    """Once: compiles what a first forecast would wait for; what is kept is only loaded."""
    none, table = np.empty(0), np.empty((1, 0))
    water = Water(*(none for _ in Water._fields))
    rates = Rates(*(table if name.startswith("noise") else none for name in Rates._fields))
    course = Course(none, none, none, none, none, none, 1.0, 1.0, 0.0, False, False)
    kept = Kept(*np.empty((len(Kept._fields), 1, 0), dtype=np.float32))
    record(0, 1.0, water, rates, kept)
    advance(0, 0, water, rates, course, kept, np.empty(0, dtype=np.int64), 0)
