"""Priors of the bloom model: one standard normal per line, turned into physical parameters.

Sources are given per line; 'judgement' marks what no paper gives. See docs/model.md.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.model.tank import Tank

Array = NDArray[np.float64]

BLOCK_DAYS = 7.0  # growth noise is constant over a week
# The model's own error, on ln mu, A and B apart: what makes a week good or bad hangs over into the next ones, so a
# course that is behind stays behind for a while. Judgement, checked by calibration
NOISE_SD, NOISE_LASTS = 0.20, 0.6


@dataclass(frozen=True)
class Prior:
    """ln: exp(ln(centre) + sd z); normal: centre + sd z. `high` cuts the right tail; `low_sd` is the sd below the
    centre where it is another."""

    name: str
    kind: str
    centre: float
    sd: float
    source: str
    high: float = np.inf
    low_sd: float | None = None

    def value(self, z: Array) -> Array:
        spread = (self.sd if self.low_sd is None else np.where(z < 0, self.low_sd, self.sd)) * z
        raw = self.centre * np.exp(spread) if self.kind == "ln" else self.centre + spread
        return np.minimum(raw, self.high)


PRIORS = (
    Prior(
        "mu_a", "ln", 0.66, 0.20, "1/d at 25 C; ASM1/2d 0.8 to 1.0 at 20 C (Henze et al. 2000), lowered for films", 1.1
    ),
    Prior("mu_b", "ln", 0.63, 0.25, "1/d at 25 C; Wiesmann 1994 1.08, Hiatt & Grady 2008 0.78, lowered", 1.1),
    Prior("k_a", "ln", 0.37, 0.42, "mg N/L inside the film; ASM2d 1.0, ammonia oxidisers of clean water far less"),
    Prior("k_b", "ln", 0.37, 0.42, "mg N/L inside the film; Nowka et al. 2015 0.13 to 7"),
    Prior("diffuse", "ln", 0.05, 0.5, "days; adds diffuse x capacity to K: a thick film starves inside; judgement"),
    Prior("a_0", "ln", 4.8e-3, 0.85, "mg N/L/d unseeded; set to the envelope, judgement", low_sd=1.1),
    Prior("b_0", "ln", 3.0e-3, 0.95, "mg N/L/d unseeded; set to the envelope, judgement", low_sd=1.4),
    Prior("lag_a", "ln", 1.5, 0.5, "days; judgement"),
    Prior("lag_b", "ln", 2.0, 0.6, "days; judgement"),
    Prior("ki_b", "ln", 0.25, 0.5, "mg NH3-N/L; Anthonisen et al. 1976 0.1 to 1.0 as NH3, Hiatt & Grady 2008"),
    Prior("ki_a", "ln", 3.0, 0.6, "mg NH3-N/L; Anthonisen et al. 1976"),
    Prior("ki_n", "ln", 15.0, 0.4, "mg NO2-N/L that halves B, squared: nitrite stalls its own removal; judgement"),
    Prior("decay", "ln", 0.07, 0.35, "1/d; ASM 0.05 to 0.15, starved films lose four tenths of it"),
    Prior("ph_low", "normal", 6.4, 0.15, "pH of half rate; steep fall below 6.5"),
    Prior("ph_slope", "normal", 0.9, 0.12, "of pH with the logarithm of alkalinity: 1 where CO2 stays; judgement"),
    Prior(
        "alk_use", "ln", 0.98, 0.22, "of the alkalinity that nitrification takes: stone and bed give back; judgement"
    ),
    Prior("k_min", "ln", 0.25, 0.5, "1/d mineralisation of food and faeces"),
    Prior("areal", "ln", 1.5, 0.6, "scale of the areal rate of 0.2 g N/m2/d: a wide guess, no wall; judgement"),
    Prior("inputs", "ln", 1.0, 0.2, "scale of logged inputs (food, mass, protein); judgement"),
    Prior("plants", "ln", 0.05, 0.7, "mg N/L/d planted, a twentieth of it bare; judgement"),
    Prior("gain_am", "ln", 1.0, 0.10, "ammonia kit, bottle to bottle; judgement"),
    Prior("gain_ni", "ln", 1.0, 0.10, "nitrite kit, bottle to bottle; judgement"),
    Prior("gain_na", "ln", 1.0, 0.25, "nitrate kit, the coarsest, and what plants and soil do unseen; judgement"),
    Prior("die_off", "ln", 3.0, 0.8, "mg N/L that dies on live rock, where that is the school; judgement"),
    Prior("ph_offset", "normal", 0.0, 0.2, "pH kit; judgement"),
    Prior(
        "lifted",
        "ln",
        0.4,
        0.6,
        "of what rots in bed and filter, the part that a change of all water takes; judgement",
        1.0,
    ),
    Prior("transfer", "ln", 0.90, 0.13, "model to a real film at low concentration; judgement"),
)
N_PRIOR = len(PRIORS)
PLANTED_SEED = 5.0
BARE_PLANTS = 0.05


def n_columns(n_block: int, n_event: int) -> int:
    """Columns of z: priors, then noise of A and of B by block, then two for each seeding or cleaning."""
    return N_PRIOR + 2 * n_block + 2 * n_event


@dataclass(frozen=True)
class Parameters:
    """Physical parameters of an ensemble; each array is (n_member,), noise is (n_block, n_member)."""

    values: dict[str, Array]
    noise_a: Array
    noise_b: Array
    event_z: Array  # (n_event, 2, n_member), standard normal
    a_max: Array = field(default_factory=lambda: np.empty(0))

    def __getattr__(self, name: str) -> Array:
        values = self.__dict__.get("values", {})  # copies and pickles ask before there are any
        if name not in values:
            raise AttributeError(name)
        return values[name]


def lasting(fresh: Array) -> Array:
    """Fresh normals by week, (n_block, n_member), as a course with memory: still standard normal in every week."""
    course = fresh.copy()
    for k in range(1, len(course)):
        course[k] = NOISE_LASTS * course[k - 1] + np.sqrt(1 - NOISE_LASTS**2) * fresh[k]
    return course


def parameters(z: Array, n_block: int, n_event: int, tank: Tank, ceiling_mg_n_l_day: float) -> Parameters:
    """Turn z (n_member, n_columns) into parameters for this tank."""
    values = {p.name: p.value(z[:, i]) for i, p in enumerate(PRIORS)}
    if tank.planted:
        values["a_0"] = values["a_0"] * PLANTED_SEED
        values["b_0"] = values["b_0"] * PLANTED_SEED
    else:
        values["plants"] = values["plants"] * BARE_PLANTS
    raw = z[:, N_PRIOR : N_PRIOR + 2 * n_block].T
    noise = np.exp(NOISE_SD * np.vstack([lasting(raw[:n_block]), lasting(raw[n_block:])]))
    events = z[:, N_PRIOR + 2 * n_block :].T.reshape(n_event, 2, z.shape[0])
    # The areal rate is one at low concentration; the state is saturated capacity, so scale it up.
    a_max = max(ceiling_mg_n_l_day, LEAST_CEILING) * values["areal"] * (values["k_a"] + LOW_MG_N_L) / LOW_MG_N_L
    return Parameters(values, noise[:n_block], noise[n_block:], events, a_max)


LEAST_CEILING = 0.05  # mg N/L/day: glass and pipes carry some bloom even where there is no filter; judgement
NITRITE_WAIT_MG_N_L = 5.0  # with more nitrite than this no more ammonia is dosed: it would only slow the second guild
PH_BLOOM_STOPS = 6.5  # read below it, the bloom hardly works (docs/science.md, ceiling of the filter)
LOW_MG_N_L = 0.25  # 'low concentration': what kits call nothing, and what a carried load may stand at
