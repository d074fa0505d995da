"""A thin sample of the members as they stand: what plans of water changes are tried on without the whole ensemble."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import FASTING
from jarbloom.core.bloom.capacity import saturated_mg_n_l_day
from jarbloom.core.bloom.drivers import FuturePlan
from jarbloom.core.bloom.ensemble import Ensemble, project
from jarbloom.core.bloom.kernel import implicit_monod
from jarbloom.core.bloom.parameters import LOW_MG_N_L

Array = NDArray[np.float64]
SIZE = 61  # odd: its middle is one member
LOOKS_DAYS = 2  # what comes in and how the guilds grow is taken from the first two days with nobody fed


@dataclass(frozen=True)
class Sample:
    """Members at the forecast's moment, each array (n_member,), nobody fed from there on.

    `tan` (free and bound), `no2`: mg N/L. `gain`: what comes into TAN, mg N/L/day. `v_*`: saturated uptake of either
    guild in this water, mg N/L/day, transfer error included; `half_*`: its half-saturation, mg N/L; `grows_*`: natural
    logarithm of its growth, per day.
    """

    tan: Array
    no2: Array
    gain: Array
    v_a: Array
    v_b: Array
    half_a: Array
    half_b: Array
    grows_a: Array
    grows_b: Array

    @property
    def size(self) -> int:
        return len(self.tan)


def sample_of(ensemble: Ensemble, most_mg_n_l_day: float | None = None) -> Sample:
    """`most_mg_n_l_day`: no member carries more, where the readings speak against a large bloom."""
    until = ensemble.as_of.date() + timedelta(days=LOOKS_DAYS + 1)
    path = project(ensemble, FuturePlan(feed_factor=FASTING, feed_factor_until=until), LOOKS_DAYS).path
    pick = np.unique(np.linspace(0, len(path.tan[0]) - 1, min(SIZE, len(path.tan[0]))).round().astype(int))
    last = int(np.searchsorted(path.at, round(LOOKS_DAYS * 24 / ensemble.settings.publish_h), side="right")) - 1
    v_a, v_b = saturated_mg_n_l_day(ensemble.par, path.a[0], path.b[0], path.ph[0], ensemble.tank.temp_c)
    half_a, half_b = ensemble.par.k_a + ensemble.par.diffuse * v_a, ensemble.par.k_b + ensemble.par.diffuse * v_b
    if most_mg_n_l_day is not None:
        v_a, v_b = (
            v * np.minimum(1.0, max(most_mg_n_l_day, 1e-6) * (half + LOW_MG_N_L) / np.maximum(v * LOW_MG_N_L, 1e-12))
            for v, half in ((v_a, half_a), (v_b, half_b))
        )
    dissolved = [path.tan[k] + path.no2[k] + path.no3[k] for k in (0, last)]
    grows = (np.log(x[last] / np.maximum(x[0], 1e-9)) / LOOKS_DAYS for x in (path.a, path.b))
    columns = (
        path.tan[0], path.no2[0], np.maximum(dissolved[1] - dissolved[0], 0.0) / LOOKS_DAYS, v_a, v_b, half_a, half_b,
        *grows,
    )  # fmt: skip
    return Sample(*(np.asarray(c, dtype=float)[pick] for c in columns))


def still(n: int, gain_mg_n_l_day: float = 0.0, v_a: float = 0.0, v_b: float = 0.0) -> Sample:
    """Members that are all alike, for a tank of which nothing is known but what comes in and what is taken up."""
    nothing, half = np.zeros(n), np.full(n, LOW_MG_N_L)
    return Sample(nothing, nothing, np.full(n, gain_mg_n_l_day), np.full(n, v_a), np.full(n, v_b), half, half,
                  nothing, nothing)  # fmt: skip


def ahead(sample: Sample, tan: Array, no2: Array, start: float, days: float, step_h: float = 2.0) -> tuple[Array, ...]:
    """(TAN, nitrite) at the end of so many days from `start` (days after the sample's moment), and the highest of
    either on the way: four arrays of the shape of `tan`, (..., n_member), mg N/L."""
    n = max(1, round(24 * days / step_h))
    dt = days / n
    tan_most, no2_most = tan, no2
    for k in range(n):
        middle = start + (k + 0.5) * dt
        less = implicit_monod(tan + sample.gain * dt, sample.v_a * np.exp(sample.grows_a * middle) * dt, sample.half_a)
        formed = tan + sample.gain * dt - less
        no2 = implicit_monod(no2 + formed, sample.v_b * np.exp(sample.grows_b * middle) * dt, sample.half_b)
        tan = less
        tan_most, no2_most = np.maximum(tan_most, tan), np.maximum(no2_most, no2)
    return tan, no2, tan_most, no2_most
