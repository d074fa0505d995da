"""From the state of the guilds to what a keeper asks: what load is carried, what dose is cleared in a day.

Both are given after the transfer error, so a quantile over members is a credible interval.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.kernel import LN10, PH_SLOPE, implicit_monod
from jarbloom.core.bloom.kinetics import THETA_A, THETA_B, warmth
from jarbloom.core.bloom.parameters import LOW_MG_N_L, Parameters

Array = NDArray[np.float64]

# Which quantile of the conditioned ensemble each word stands for (design decision 1). Used everywhere.
SURE, LIKELY, AT_BEST = 0.10, 0.50, 0.90


def share(ok: NDArray[np.bool_]) -> float:
    """Probability by members, (n_member,). Half a member is kept back on either side: so many courses never prove that
    something must or cannot happen."""
    return float((ok.sum() + 0.5) / (len(ok) + 1))


def holds(grown: float, ceiling: float) -> bool:
    """The filter can come to what all of them put out grown up, mg N a day."""
    return ceiling >= grown


def carries(sure: float, on_the_day: float, grown: float, ceiling: float) -> bool:
    """The rule of headroom where it is asked in full, loads in mg N a day: the bloom surely carries those who live
    here at their size of the day and the new ones grown up, and the filter can come to what all put out grown up. A
    bloom is as large as what it is fed: for the growth to come it need not be there yet, only able to follow."""
    return sure >= on_the_day and holds(grown, ceiling)


QUANTILES = (0.05, 0.10, 0.25, 0.50, 0.75, 0.90, 0.95)


def _effective(par: Parameters, state: Array, ph: Array, theta: float, temp_c: float) -> Array:
    """Saturated rate at this temperature and pH, mg N/L/day, with the transfer error."""
    slowed = 1 / (1 + np.exp(LN10 * PH_SLOPE * (par.ph_low - ph)))
    return state * warmth(temp_c, theta) * slowed * par.transfer


def saturated_mg_n_l_day(par: Parameters, a: Array, b: Array, ph: Array, temp_c: float) -> tuple[Array, Array]:
    """The most that each guild takes up in this water, mg N/L/day. Arrays (..., n_member)."""
    return _effective(par, a, ph, THETA_A, temp_c), _effective(par, b, ph, THETA_B, temp_c)


def carried_mg_n_l_day(par: Parameters, a: Array, b: Array, ph: Array, temp_c: float) -> tuple[Array, Array]:
    """Steady load that each guild carries with its substrate held at 0.25 mg N/L, mg N/L/day.

    A Monod colony takes up V s / (K + s); at the level that a kit calls nothing this is far below
    the saturated rate, and it is this that animals live on. Arrays (..., n_member).
    """
    v_a, v_b = saturated_mg_n_l_day(par, a, b, ph, temp_c)
    half_a, half_b = par.k_a + par.diffuse * v_a, par.k_b + par.diffuse * v_b
    return v_a * LOW_MG_N_L / (half_a + LOW_MG_N_L), v_b * LOW_MG_N_L / (half_b + LOW_MG_N_L)


def left_after_day(
    par: Parameters,
    a: Array,
    b: Array,
    ph: Array,
    temp_c: float,
    dose_mg_n_l: float,
    hours: float = 24.0,
    steps: int = 12,
) -> tuple[Array, Array]:
    """TAN and nitrite left (mg N/L) some hours after a dose into clean water: the gate's own test.

    Steps of two hours: 0.03 mg/L above the exact solution at most, on the safe side. The colony does not grow
    meanwhile.
    """
    dt = hours / 24 / steps
    v_a, v_b = saturated_mg_n_l_day(par, a, b, ph, temp_c)
    half_a, half_b = par.k_a + par.diffuse * v_a, par.k_b + par.diffuse * v_b
    v_a, v_b = v_a * dt, v_b * dt
    tan, no2 = np.full(a.shape, dose_mg_n_l), np.zeros(a.shape)
    for _ in range(steps):
        less = implicit_monod(tan, v_a, half_a)
        no2 = implicit_monod(no2 + tan - less, v_b, half_b)
        tan = less
    return tan, no2


def clears(par: Parameters, a: Array, b: Array, ph: Array, temp_c: float, dose_mg_n_l: float) -> NDArray[np.bool_]:
    """True where a dose is gone in 24 h, both forms below 0.25 mg N/L."""
    tan, no2 = left_after_day(par, a, b, ph, temp_c, dose_mg_n_l)
    return (tan < LOW_MG_N_L) & (no2 < LOW_MG_N_L)
