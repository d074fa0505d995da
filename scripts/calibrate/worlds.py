"""Worlds with a known truth: one drawn from the forecast's own priors, and two deliberately built otherwise (films.py,
patches.py).

All live through the same drivers (doses, feed, animals, changes) hour by hour and can be asked what a gate asks.
"""

from __future__ import annotations

import copy
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from jarbloom.core.bloom.capacity import carried_mg_n_l_day, clears
from jarbloom.core.bloom.conditioning import GAINS, Kits
from jarbloom.core.bloom.drivers import Drivers
from jarbloom.core.bloom.kernel import PLANT_HALF
from jarbloom.core.bloom.kinetics import first_state
from jarbloom.core.bloom.parameters import BLOCK_DAYS, LOW_MG_N_L, n_columns, parameters
from jarbloom.core.bloom.stepper import simulate
from jarbloom.core.journal.readings import read
from jarbloom.core.model.kit import Reading
from jarbloom.core.model.reference import Media
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.media import ceiling_mg_n_day
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.units import figure
from scripts.calibrate.films import FilmWorld
from scripts.calibrate.made import MadeWorld, Peaks
from scripts.calibrate.patches import PatchWorld

LONGEST_DAYS = 140


class OwnWorld:
    """A single member drawn from the priors, with a kit that errs exactly as the likelihood says."""

    def __init__(self, tank: Tank, media: Mapping[str, Media], rng: np.random.Generator) -> None:
        self.tank, self.rng = tank, rng
        self.n_block = int(LONGEST_DAYS / BLOCK_DAYS) + 1
        z = rng.standard_normal((1, n_columns(self.n_block, 0)))
        self.par = parameters(z, self.n_block, 0, tank, ceiling_mg_n_day(tank, media) / net_l(tank))
        self.state = first_state(self.par, tank.ph, tank.kh_dkh * MEQ_PER_DKH, tank.source.nitrate_mg_n_l)
        self.ph_now = float(self.state.ph_ref[0])

    def advance(self, drv: Drivers) -> Peaks:
        par = self.par
        if drv.happenings:
            par = replace(par, event_z=self.rng.standard_normal((len(drv.happenings), 2, 1)))
        path = simulate(par, drv, self.state)
        self.state, self.ph_now = path.end, float(path.ph[-1, 0])
        first = min(2, drv.n_step)  # as the forecast: from two hours after the animals and the change on
        return Peaks(float(path.nh3[first:].max()), float(path.no2[first:].max()))

    @property
    def tan(self) -> float:
        return float(self.state.tan[0] + self.state.bound[0])

    @property
    def no2(self) -> float:
        return float(self.state.no2[0])

    @property
    def no3(self) -> float:
        return float(self.state.no3[0])

    @property
    def kh_dkh(self) -> float:
        return float(self.state.alk[0]) / MEQ_PER_DKH

    def _guilds(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        return self.state.a, self.state.b, np.array([self.ph_now])

    def clears(self, target_mg_n_l: float) -> bool:
        return bool(clears(self.par, *self._guilds(), self.tank.temp_c, target_mg_n_l)[0])

    def carried(self) -> float:
        """mg N/L/day that the weaker guild carries at 0.25 mg N/L."""
        return float(np.minimum(*carried_mg_n_l_day(self.par, *self._guilds(), self.tank.temp_c))[0])

    def planted(self) -> float:
        """mg N/L/day that plants take at 0.25 mg N/L."""
        return float(self.par.plants[0]) * LOW_MG_N_L / (LOW_MG_N_L + PLANT_HALF)

    def look(self, quantity: str) -> Reading:
        value = {"ammonia": self.tan, "nitrite": self.no2, "nitrate": self.no3}[quantity]
        kit = self.tank.kit
        steps = [read(quantity, figure(s, 6), kit) for s in kit.scale(quantity).steps]
        gain = float(getattr(self.par, GAINS[quantity])[0])
        p = Kits(steps).probability(np.full((len(steps), 1), value), gain)[:, 0]
        return steps[int(self.rng.choice(len(steps), p=p / p.sum()))]

    def look_ph(self) -> Reading:
        # The forecast takes a pH reading, less half of the kit's offset, as the tank's pH.
        return read("ph", f"{self.ph_now - 0.5 * float(self.par.ph_offset[0]):.2f}", self.tank.kit)

    def look_kh(self) -> Reading:
        return read("kh", f"{max(self.kh_dkh, 0.1):.2f}", self.tank.kit)

    def branch(self) -> OwnWorld:
        return copy.copy(self)


World = MadeWorld | OwnWorld
WORLDS: Mapping[str, type[MadeWorld] | type[OwnWorld]] = {"film": FilmWorld, "patch": PatchWorld, "own": OwnWorld}
