"""Two worlds with a known truth: one drawn from the forecast's own priors, one deliberately built otherwise.

Both live through the same drivers (doses, feed, animals, changes) hour by hour and can be asked what a gate asks.
"""

from __future__ import annotations

import copy
import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from jarbloom.core.bloom.capacity import carried_mg_n_l_day, clears
from jarbloom.core.bloom.conditioning import GAINS, Kits
from jarbloom.core.bloom.drivers import Drivers
from jarbloom.core.bloom.kinetics import PLANT_HALF, first_state
from jarbloom.core.bloom.parameters import BLOCK_DAYS, LOW_MG_N_L, n_columns, parameters
from jarbloom.core.bloom.stepper import simulate
from jarbloom.core.journal.readings import read
from jarbloom.core.model.kit import Reading
from jarbloom.core.model.reference import Media
from jarbloom.core.model.tank import Tank
from jarbloom.core.vessel.media import ceiling_mg_n_day
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import ammonium_per_unionised
from jarbloom.core.water.carbonate import MEQ_PER_DKH
from jarbloom.units import figure

LONGEST_DAYS = 140


@dataclass
class Peaks:
    """Highest NH3-N and NO2-N of a stretch, mg N/L."""

    nh3: float
    no2: float


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


# Share of the films that is lost, from and to: what sits on glass and bed stays in any case
FILM_LOSES = {
    "tap": (0.3, 0.9),
    "replaced": (0.75, 0.97),
    "dried": (0.7, 0.97),
    "closed": (0.1, 0.7),
    "tank_water": (0.0, 0.15),
}


class FilmWorld:
    """Another model on purpose: films that diffusion limits, that wake from dormancy, compete for space and
    detach, in a climate of day-by-day noise; guild parameters of other literature; a kit that errs in another way.
    """

    SUBSTEPS = 2

    def __init__(self, tank: Tank, media: Mapping[str, Media], rng: np.random.Generator) -> None:
        self.tank, self.rng = tank, rng

        def ln(median: float, sd: float) -> float:
            return float(median * np.exp(sd * rng.standard_normal()))

        rich = 4.0 if tank.planted else 1.0
        self.mu = (min(ln(0.62, 0.20), 1.2), min(ln(0.54, 0.25), 1.2))
        self.k = (ln(0.35, 0.4), ln(0.30, 0.5))
        self.q10 = (ln(2.3, 0.08), ln(1.9, 0.08))
        self.kappa = (ln(1.6, 0.25), ln(1.6, 0.25))  # diffusion: flux at most kappa sqrt(X S)
        self.wake, self.death = ln(0.40, 0.4), ln(0.035, 0.3)
        self.space = ceiling_mg_n_day(tank, media) / net_l(tank) * ln(3.0, 0.4)
        self.ki_b = ln(0.30, 0.5)
        self.ph_low = float(6.45 + 0.15 * rng.standard_normal())
        self.rot = ln(0.22, 0.4)
        self.inputs, self.gains = ln(1.0, 0.25), {q: ln(1.0, 0.12) for q in ("ammonia", "nitrite", "nitrate")}
        self.plants = ln(0.05, 0.7) if tank.planted else 0.0
        self.ph_slope, self.ph_ref = float(rng.uniform(0.7, 1.0)), tank.ph + 0.15 * float(rng.standard_normal())
        self.ph_bias = 0.1 * float(rng.standard_normal())
        self.misread = float(rng.uniform(0.10, 0.20)) if tank.kit.kind == "liquid" else 0.30
        self.dormant = [ln(6.0e-3, 1.0) * rich, ln(2.2e-3, 1.0) * rich]
        self.film = [1e-5, 1e-5]
        self.tan = self.no2 = self.bound = self.particulate = 0.0
        self.no3 = tank.source.nitrate_mg_n_l
        self.alk = self.alk_ref = tank.kh_dkh * MEQ_PER_DKH
        self.climate, self.hours = [0.0, 0.0], 0

    @property
    def kh_dkh(self) -> float:
        return self.alk / MEQ_PER_DKH

    def ph(self) -> float:
        return self.ph_ref + self.ph_slope * math.log10(max(self.alk, 1e-3) / self.alk_ref)

    def _slowed(self, ph: float) -> float:
        return 1 / (1 + 10 ** (2 * (self.ph_low - ph)) + 10 ** (ph - 9.3))

    def _flux(self, guild: int, s: float, film: float, f: float, warm: float) -> float:
        """mg N/L/day: reaction and half-order diffusion in series."""
        if s <= 0:
            return 0.0
        reaction = film * warm * f * s / (self.k[guild] + s)
        diffusion = self.kappa[guild] * math.sqrt(film * f * s) + 1e-12
        return reaction * diffusion / math.hypot(reaction, diffusion)

    def advance(self, drv: Drivers) -> Peaks:
        top_nh3 = top_no2 = 0.0
        by_step: dict[int, list] = {}
        for h in drv.happenings:
            by_step.setdefault(h.step, []).append(h)
        dt = drv.dt / self.SUBSTEPS
        for k in range(drv.n_step):
            self._events(drv, k, by_step.get(k, ()))
            if self.hours % 24 == 0:
                if drv.keep_alkalinity:
                    self._mend(*drv.home)
                for g in (0, 1):
                    self.climate[g] = 0.85 * self.climate[g] + 0.16 * float(self.rng.standard_normal())
            temp = drv.temp[k] + 0.4 * math.sin(2 * math.pi * self.hours / 24)
            for _ in range(self.SUBSTEPS):
                self._step(drv, k, dt, temp)
            nh3 = self.tan / (1 + float(ammonium_per_unionised(temp, 0.0)) * 10 ** -self.ph())
            if k >= 1:  # as the forecast: from two hours after the animals and the change on
                top_nh3, top_no2 = max(top_nh3, nh3), max(top_no2, self.no2)
            self.hours += 1
        return Peaks(top_nh3, top_no2)

    def _step(self, drv: Drivers, k: int, dt: float, temp: float) -> None:
        ph = self.ph()
        env = self._slowed(ph) * self.alk / (0.1 + self.alk) * drv.running[k]
        nh3 = self.tan / (1 + 10 ** (0.09018 + 2729.92 / (temp + 273.15) - ph))
        f = (env, env / (1 + (nh3 / self.ki_b) ** 1.5))
        warm = tuple(q ** ((temp - 25) / 10) for q in self.q10)
        rot = self.particulate * self.rot * warm[1] * dt
        gain = drv.excretion[k] * self.inputs * dt + rot
        self.particulate += drv.waste[k] * self.inputs * dt - rot
        back = self.bound * dt
        self.bound -= back
        content = self.tan + gain + back
        content -= min(content, self.plants * dt * content / (content + 0.08))
        flux_a = min(self._flux(0, content, self.film[0], f[0], warm[0]) * dt, content)
        fed = self.no2 + flux_a
        flux_b = min(self._flux(1, fed, self.film[1], f[1], warm[1]) * dt, fed)
        self.tan, self.no2, self.no3 = content - flux_a, fed - flux_b, self.no3 + flux_b
        self.alk = max(self.alk - 2 / 14.007 * (flux_a - 0.5 * gain), 1e-3)
        crowd = (self.film[0] + self.film[1]) / self.space
        for g, flux in ((0, flux_a), (1, flux_b)):
            woken = self.dormant[g] * self.wake * warm[g] * dt
            self.dormant[g] -= woken
            grown = self.mu[g] * math.exp(self.climate[g]) * flux
            lost = (self.death * warm[g] + 0.08 * crowd) * self.film[g] * dt
            self.film[g] = max(self.film[g] + woken + grown - lost, 1e-9)

    def _events(self, drv: Drivers, k: int, happenings: list | tuple) -> None:
        if drv.change[k]:
            s, f = drv.source[:, k], float(np.clip(drv.change[k] * (1 + 0.05 * self.rng.standard_normal()), 0, 1))
            self.tan, self.no3 = (1 - f) * self.tan + f * s[0], (1 - f) * self.no3 + f * s[1]
            self.no2 *= 1 - f
            self.bound, self.particulate = (1 - f) * self.bound, (1 - 0.5 * f) * self.particulate
            self.alk = (1 - f) * self.alk + f * s[2]
        if drv.dose[k]:
            self.tan += drv.dose[k] * float(1 + 0.06 * self.rng.standard_normal())
        self.particulate += drv.particulate[k] * self.inputs
        for h in happenings:
            self._happen(h)

    def _mend(self, home_ph: float, home_alk: float) -> None:
        """The plan that is asked about says that the keeper mends KH by half: then this world's keeper does."""
        if self.alk < 0.5 * home_alk or self.ph() < home_ph - 0.6:
            self.alk = self.alk_ref = home_alk
            self.ph_ref = home_ph

    def _happen(self, h) -> None:
        ln = lambda sd: float(np.exp(sd * self.rng.standard_normal()))  # noqa: E731
        if h.kind == "loss":
            least, most = FILM_LOSES.get(h.key, (0.0, 0.3))
            keep = 1 - h.share * float(self.rng.uniform(least, most))
            self.film = [f * keep for f in self.film]
            return
        if h.kind == "seed" and h.key == "borrowed":
            both = h.share * ln(0.8)
            self.film[0] += 2.0 * both
            self.film[1] += 1.4 * both * ln(0.3)
        elif h.kind == "seed" and self.rng.random() > {"bottle_cool": 0.1, "bottle_warm": 0.6}.get(h.key, 0.3):
            both = ln(1.2)
            self.film[0] += 0.3 * both
            self.film[1] += 0.2 * both * ln(0.5)

    def clears(self, target_mg_n_l: float) -> bool:
        """A 24 h batch in clean water by this world's own fluxes, at its present pH and temperature."""
        tan, no2, temp = target_mg_n_l, 0.0, self.tank.temp_c
        f = self._slowed(self.ph())
        warm = tuple(q ** ((temp - 25) / 10) for q in self.q10)
        for _ in range(48):
            a = min(self._flux(0, tan, self.film[0], f, warm[0]) / 48, tan)
            tan -= a
            b = min(self._flux(1, no2 + a, self.film[1], f, warm[1]) / 48, no2 + a)
            no2 += a - b
        return tan < LOW_MG_N_L and no2 < LOW_MG_N_L

    def carried(self) -> float:
        f = self._slowed(self.ph())
        warm = [q ** ((self.tank.temp_c - 25) / 10) for q in self.q10]
        return min(self._flux(g, LOW_MG_N_L, self.film[g], f, warm[g]) for g in (0, 1))

    def planted(self) -> float:
        """mg N/L/day that plants take at 0.25 mg N/L."""
        return self.plants * LOW_MG_N_L / (LOW_MG_N_L + 0.08)

    def look(self, quantity: str) -> Reading:
        """The colour step nearest to a colour that is off by a share and a shade, now and then a neighbour."""
        value = {"ammonia": self.tan + self.bound, "nitrite": self.no2, "nitrate": self.no3}[quantity]
        kit = self.tank.kit
        scale = kit.scale(quantity)
        shown = value * scale.per_n * self.gains[quantity] * float(np.exp(0.12 * self.rng.standard_normal()))
        shown = max(0.0, shown + 0.03 * float(self.rng.standard_normal()))
        k = int(np.argmin([abs(s - shown) for s in scale.steps]))
        if self.rng.random() < self.misread:
            k = min(max(k + int(self.rng.choice([-1, 1])), 0), len(scale.steps) - 1)
        return read(quantity, figure(scale.steps[k], 6), kit)

    def look_ph(self) -> Reading:
        return read("ph", f"{round((self.ph() + self.ph_bias) * 5) / 5:.1f}", self.tank.kit)

    def look_kh(self) -> Reading:
        return read("kh", f"{max(round(self.kh_dkh), 0.5):g}", self.tank.kit)

    def branch(self) -> FilmWorld:
        other = copy.copy(self)
        other.film, other.dormant, other.climate = list(self.film), list(self.dormant), list(self.climate)
        return other
