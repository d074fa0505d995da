"""A made-up tank with a known truth: one member of the model and a kit that misreads. For demo and calibration."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

import numpy as np

from jarbloom.core.bloom.drivers import drivers
from jarbloom.core.bloom.kinetics import first_state
from jarbloom.core.bloom.parameters import BLOCK_DAYS, PRIORS, n_columns, parameters
from jarbloom.core.bloom.stepper import Trajectory, simulate
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import Scale
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.media import ceiling_mg_n_day
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.units import figure

STEP_DAYS = 1 / 24


def run_truth(
    tank: Tank,
    entries: Sequence[Entry],
    start: datetime,
    until: datetime,
    reference: Reference,
    z: Mapping[str, float],
    events: Sequence[tuple[float, float]] = (),
    step_days: float = STEP_DAYS,
) -> Trajectory:
    """The true course up to `until`, (n_step + 1, 1), by the hour or in other steps. `z` gives priors by name in
    standard deviations, `events` the pair of normals of each cleaning or seeding, in order."""
    drv = drivers(tank, entries, reference.species, start, until + timedelta(days=step_days), step_days)
    n_block = int(drv.n_step * step_days / BLOCK_DAYS) + 1
    row = np.zeros((1, n_columns(n_block, len(drv.happenings))))
    for k, prior in enumerate(PRIORS):
        row[0, k] = z.get(prior.name, 0.0)
    pairs = [*events, *[(0.0, 0.0)] * len(drv.happenings)][: len(drv.happenings)]
    if pairs:
        row[0, -2 * len(pairs) :] = np.ravel(pairs)
    ceiling = ceiling_mg_n_day(tank, reference.media) / net_l(tank)
    par = parameters(row, n_block, len(drv.happenings), tank, ceiling)
    return simulate(par, drv, first_state(par, tank.ph, tank.kh_dkh * MEQ_PER_DKH, tank.source.nitrate_mg_n_l))


def look_at(scale: Scale, concentration_mg_n_l: float, misread: float, rng: np.random.Generator) -> str:
    """What a keeper writes down: the colour step nearest to a slightly wrong colour, now and then a neighbour."""
    x = np.sqrt(max(concentration_mg_n_l, 0.0) * scale.per_n)
    shade = max(0.0, x + (0.03 + 0.04 * x) * rng.standard_normal()) ** 2
    k = int(np.argmin([abs(step - shade) for step in scale.steps]))
    if rng.random() < misread:
        k = min(max(k + int(rng.choice([-1, 1])), 0), len(scale.steps) - 1)
    return figure(scale.steps[k])
