"""The same model integrated by SciPy's LSODA, one member at a time: what the fast stepper is compared with."""

from __future__ import annotations

import numpy as np
from scipy.integrate import solve_ivp

from jarbloom.core.bloom import kernel as k
from jarbloom.core.bloom.drivers import Drivers
from jarbloom.core.bloom.kinetics import THETA_A, THETA_B, State, warmth
from jarbloom.core.bloom.parameters import BLOCK_DAYS, Parameters
from jarbloom.core.water.ammonia import ammonium_per_unionised

NAMES = ("tan", "bound", "no2", "no3", "particulate", "a", "b", "alk")


def integrate(par: Parameters, drv: Drivers, start: State, member: int, rtol: float = 1e-6) -> np.ndarray:
    """TAN, nitrite, A and B of one member at the start of every step and at the end, (n_step + 1, 4).

    Doses, food and changes act at the start of their step, as in the stepper; between them LSODA runs freely.
    """
    v = {name: float(x[member]) for name, x in par.values.items()}
    a_max, alk_ref = float(par.a_max[member]), float(start.alk_ref[member])
    h_ref = 10.0 ** -float(start.ph_ref[member])
    y = np.array([float(getattr(start, name)[member]) for name in NAMES])
    days = np.arange(drv.n_step + 1) * drv.dt
    breaks = np.flatnonzero((drv.dose + drv.particulate + drv.change) > 0)
    inputs_change = np.flatnonzero(np.diff(drv.excretion) != 0) + 1
    noise_change = [round(b * BLOCK_DAYS / drv.dt) for b in range(1, int(days[-1] / BLOCK_DAYS) + 1)]
    inside = [e for e in noise_change if e < drv.n_step]
    edges = sorted({0, drv.n_step, *breaks.tolist(), *inputs_change.tolist(), *inside})
    out = np.empty((drv.n_step + 1, 4))
    for first, last in zip(edges, edges[1:], strict=False):
        out[first] = y[[0, 2, 5, 6]]  # as the stepper records: before what happens in the step
        y = _act(y, drv, first, v)
        t0 = days[first]
        block = min(int((t0 + 1e-9) / BLOCK_DAYS), len(par.noise_a) - 1)
        mu = v["mu_a"] * par.noise_a[block, member], v["mu_b"] * par.noise_b[block, member]
        th = float(warmth(drv.temp[first], THETA_A)), float(warmth(drv.temp[first], THETA_B))
        nh4 = float(ammonium_per_unionised(drv.temp[first], drv.salinity[first]))
        gain, waste = drv.excretion[first] * v["inputs"], drv.waste[first] * v["inputs"]

        def rhs(t, y, mu=mu, th=th, nh4=nh4, gain=gain, waste=waste):
            tan, bound, no2, _no3, p, a, b, alk = y
            alk = max(alk, 1e-3)
            h = h_ref * min(max((alk_ref / alk) ** v["ph_slope"], k.PH_RISE), k.PH_FALL)
            env = alk / (k.ALK_HALF + alk) / (1 + 10 ** (k.PH_SLOPE * v["ph_low"]) * h**2.5)
            nh3 = tan / (1 + nh4 * h)
            fa, fb = env / (1 + nh3 / v["ki_a"]), env / (1 + nh3 / v["ki_b"]) / (1 + (no2 / v["ki_n"]) ** 2)
            half_a, half_b = v["k_a"] + v["diffuse"] * a * th[0] * fa, v["k_b"] + v["diffuse"] * b * th[1] * fb
            ua, ub = fa * tan / (half_a + tan), fb * no2 / (half_b + no2)
            ra, rb = a * th[0] * ua, b * th[1] * ub
            rot, back = v["k_min"] * th[1] * p, k.BOUND_RELEASE * bound
            plants = v["plants"] * tan / (tan + k.PLANT_HALF)
            lag_a, lag_b = 1 - np.exp(-((t / v["lag_a"]) ** 2)), 1 - np.exp(-((t / v["lag_b"]) ** 2))
            da = a * th[0] * ((mu[0] * lag_a * (1 - a / a_max) - 0.6 * v["decay"]) * ua - 0.4 * v["decay"])
            db = b * th[1] * ((mu[1] * lag_b * (1 - b / a_max) - 0.6 * v["decay"]) * ub - 0.4 * v["decay"])
            dalk = -k.ALK_PER_N * v["alk_use"] * (ra - 0.5 * (gain + rot))
            return [gain + rot + back - ra - plants, -back, ra - rb, rb, waste - rot, da, db, dalk]

        found = solve_ivp(rhs, (t0, days[last]), y, "LSODA", rtol=rtol, atol=1e-9, t_eval=days[first : last + 1])
        out[first + 1 : last + 1] = found.y[[0, 2, 5, 6], 1:].T
        y = found.y[:, -1]
    return out


def _act(y: np.ndarray, drv: Drivers, step: int, v: dict[str, float]) -> np.ndarray:
    y = np.maximum(y, 0.0)
    y[7] = max(y[7], 1e-3)  # the stepper's floor of alkalinity
    f = drv.change[step]
    source = np.array([drv.source[0, step], 0, 0, drv.source[1, step], 0, y[5], y[6], drv.source[2, step]])
    y = (1 - f) * y + f * source
    y[0] += drv.dose[step]
    y[7] += drv.dose_alk[step]
    y[4] += drv.particulate[step] * v["inputs"]
    return y
