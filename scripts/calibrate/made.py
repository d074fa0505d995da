"""What every made-up world shares: the water with what is done to it, and a kit that errs in its own way. How the
colony lives in it is a world's own (films.py, patches.py)."""

from __future__ import annotations

import copy
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jarbloom.core.bloom.drivers import Drivers, Happening
from jarbloom.core.bloom.mending import ALK_KEPT
from jarbloom.core.bloom.parameters import LOW_MG_N_L
from jarbloom.core.journal.readings import read
from jarbloom.core.model.kit import Reading
from jarbloom.core.model.reference import Media
from jarbloom.core.model.tank import Tank
from jarbloom.core.water.ammonia import ammonium_per_unionised
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.units import figure

# Share of the colony on the media that is lost, from and to: what sits on glass and bed stays in any case
LOSES = {
    "tap": (0.3, 0.9),
    "replaced": (0.75, 0.97),
    "dried": (0.7, 0.97),
    "closed": (0.1, 0.7),
    "tank_water": (0.0, 0.15),
}
DEAD_BOTTLES = {"bottle_cool": 0.1, "bottle_warm": 0.6}
USUALLY_DEAD = 0.3


@dataclass
class Peaks:
    """Highest NH3-N and NO2-N of a stretch, mg N/L."""

    nh3: float
    no2: float


class MadeWorld:
    """One tank hour by hour: TAN, bound TAN, nitrite, nitrate, particles (mg N/L), alkalinity (meq/L).

    A world of its own says how the colony works: `_work` for an hour or a part of it, `_flux_low` for the load that
    it carries, `_batch` for the proof by a dose, `_lose`, `_settle`.
    """

    SUBSTEPS = 2

    def __init__(self, tank: Tank, media: Mapping[str, Media], rng: np.random.Generator) -> None:
        self.tank, self.rng = tank, rng
        self.tan = self.no2 = self.bound = self.particulate = 0.0
        self.no3 = tank.source.nitrate_mg_n_l
        self.alk = self.alk_ref = tank.kh_dkh * MEQ_PER_DKH
        self.hours = 0
        self.days_of: tuple[int, ...] | None = None  # of which seed each day's chance is, whatever was done before it

    def ln(self, median: float, sd: float) -> float:
        return float(median * np.exp(sd * self.rng.standard_normal()))

    # What a world says of itself ------------------------------------------------------------------------------------
    rot: float
    inputs: float
    plants: float
    gains: dict[str, float]
    ph_slope: float
    ph_ref: float
    ph_bias: float
    misread: float

    def _work(self, content: float, dt: float, temp: float, ph: float, running: float) -> tuple[float, float]:
        """(TAN oxidised, nitrite oxidised) in `dt` days, mg N/L, from what there is; the colony lives on."""
        raise NotImplementedError

    def _each_day(self) -> None:
        """What changes from day to day."""

    def _lose(self, share: float) -> None:
        raise NotImplementedError

    def _settle(self, key: str, share: float) -> None:
        raise NotImplementedError

    def carried(self) -> float:
        raise NotImplementedError

    def clears(self, target_mg_n_l: float) -> bool:
        raise NotImplementedError

    def _look_at(self, shown: float) -> float:
        """The colour that the eye sees, in kit units."""
        raise NotImplementedError

    # The water ------------------------------------------------------------------------------------------------------
    @property
    def kh_dkh(self) -> float:
        return self.alk / MEQ_PER_DKH

    def ph(self) -> float:
        return self.ph_ref + self.ph_slope * math.log10(max(self.alk, 1e-3) / self.alk_ref)

    def advance(self, drv: Drivers) -> Peaks:
        top_nh3 = top_no2 = 0.0
        by_step: dict[int, list[Happening]] = {}
        for h in drv.happenings:
            by_step.setdefault(h.step, []).append(h)
        dt = drv.dt / self.SUBSTEPS
        # The plan that is asked about says that the keeper does not let KH fall below half: then this world's does not
        least = 1e-3 if drv.kept_from is None else min(self.alk, ALK_KEPT * drv.home[1])
        for k in range(drv.n_step):
            self._events(drv, k, by_step.get(k, ()))
            if self.hours % 24 == 0:
                if self.days_of is not None:
                    self.rng = np.random.default_rng((*self.days_of, self.hours // 24))
                self._each_day()
            temp = float(drv.temp[k]) + 0.4 * math.sin(2 * math.pi * self.hours / 24)
            for _ in range(self.SUBSTEPS):
                self._step(drv, k, dt, temp)
            self.alk = max(self.alk, least)
            nh3 = self.tan / (1 + float(ammonium_per_unionised(temp, 0.0)) * 10 ** -self.ph())
            if k >= 1:  # as the forecast: from two hours after the animals and the change on
                top_nh3, top_no2 = max(top_nh3, nh3), max(top_no2, self.no2)
            self.hours += 1
        return Peaks(top_nh3, top_no2)

    def _step(self, drv: Drivers, k: int, dt: float, temp: float) -> None:
        rot = self.particulate * self.rot * 1.9 ** ((temp - 25) / 10) * dt
        gain = drv.excretion[k] * self.inputs * dt + rot
        self.particulate += drv.waste[k] * self.inputs * dt - rot
        back = self.bound * dt
        self.bound -= back
        content = self.tan + gain + back
        content -= min(content, self.plants * dt * content / (content + 0.08))
        by_a, by_b = self._work(content, dt, temp, self.ph(), float(drv.running[k]))
        self.tan, self.no2, self.no3 = content - by_a, self.no2 + by_a - by_b, self.no3 + by_b
        self.alk = max(self.alk - 2 / 14.007 * (by_a - 0.5 * gain), 1e-3)

    def _events(self, drv: Drivers, k: int, happenings: Sequence[Happening]) -> None:
        if drv.change[k]:
            s, f = drv.source[:, k], float(np.clip(drv.change[k] * (1 + 0.05 * self.rng.standard_normal()), 0, 1))
            self.tan, self.no3 = (1 - f) * self.tan + f * s[0], (1 - f) * self.no3 + f * s[1]
            self.no2 *= 1 - f
            self.bound, self.particulate = (1 - f) * self.bound, (1 - 0.5 * f) * self.particulate
            self.alk = (1 - f) * self.alk + f * s[2]
        if drv.dose[k]:
            self.tan += drv.dose[k] * float(1 + 0.06 * self.rng.standard_normal())
        self.alk += float(drv.dose_alk[k])
        self.particulate += drv.particulate[k] * self.inputs
        for h in happenings:
            if h.kind == "loss":
                least, most = LOSES.get(h.key, (0.0, 0.3))
                self._lose(h.share * float(self.rng.uniform(least, most)))
            elif h.key == "borrowed" or self.rng.random() > DEAD_BOTTLES.get(h.key, USUALLY_DEAD):
                self._settle(h.key, h.share)

    def buffer(self, dkh: float) -> None:
        """Bicarbonate goes in: KH rises by so much, and pH with it."""
        self.alk += dkh * MEQ_PER_DKH

    def planted(self) -> float:
        """mg N/L/day that plants take at 0.25 mg N/L."""
        return self.plants * LOW_MG_N_L / (LOW_MG_N_L + 0.08)

    # The kit --------------------------------------------------------------------------------------------------------
    def look(self, quantity: str) -> Reading:
        """The colour step nearest to the colour that is seen, now and then a neighbour."""
        value = {"ammonia": self.tan + self.bound, "nitrite": self.no2, "nitrate": self.no3}[quantity]
        kit = self.tank.kit
        scale = kit.scale(quantity)
        shown = max(0.0, self._look_at(value * scale.per_n * self.gains[quantity]))
        k = int(np.argmin([abs(s - shown) for s in scale.steps]))
        if self.rng.random() < self.misread:
            k = min(max(k + int(self.rng.choice([-1, 1])), 0), len(scale.steps) - 1)
        return read(quantity, figure(scale.steps[k], 6), kit)

    def look_ph(self) -> Reading:
        return read("ph", f"{round((self.ph() + self.ph_bias) * 5) / 5:.1f}", self.tank.kit)

    def look_kh(self) -> Reading:
        return read("kh", f"{max(round(self.kh_dkh), 0.5):g}", self.tank.kit)

    def branch(self) -> MadeWorld:
        """The same tank from here on, which leaves this one alone; chance is shared."""
        other = copy.copy(self)
        other.__dict__.update({k: copy.copy(v) for k, v in self.__dict__.items() if isinstance(v, list | np.ndarray)})
        return other

    def foreseen(self) -> MadeWorld:
        """The same tank from here on with the chance that it will really meet."""
        other = self.branch()
        other.rng = copy.deepcopy(self.rng)
        return other
